"""Remedies for style sheets."""
