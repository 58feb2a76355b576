"""Tests of `unladen/styles/`."""
