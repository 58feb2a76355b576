"""Tests of `unladen/replay/`."""
