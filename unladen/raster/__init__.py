"""Pictures as bytes: what a file is, and smaller files that look the same. Pure functions, bytes in, bytes out."""
