"""Tests of `unladen/check/`."""
