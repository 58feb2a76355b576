"""Remedies for scripts."""
