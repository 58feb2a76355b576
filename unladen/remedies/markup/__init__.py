"""Remedies for the markup of pages."""
