"""What tests share: databases, a live server, a browser."""
