"""Tests of `unladen/scripts/`."""
