"""Commands without a server, one file each."""
