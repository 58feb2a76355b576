"""Tests of `unladen/fonts/`."""
