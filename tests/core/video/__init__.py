"""Tests of `unladen/video/`."""
