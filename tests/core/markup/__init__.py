"""Tests of `unladen/markup/`."""
