"""Tests of `unladen/build/`."""
