"""What could go in how files are handed out."""
