"""Tests of `unladen/remedies/`."""
