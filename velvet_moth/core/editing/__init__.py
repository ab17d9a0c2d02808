"""What one movement of the hand means as operations: joining, copying, extracting a motif, comparing, mending."""
