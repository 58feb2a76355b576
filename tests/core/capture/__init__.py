"""Tests of `unladen/capture/`."""
