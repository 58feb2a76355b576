"""Remedies for how files are handed out."""
