"""Remedies for fonts."""
