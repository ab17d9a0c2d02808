"""What everything else may use: typed errors, plain names, hashes, bounded memories. Imports nothing of the core."""
