"""Tests of `unladen/weigh/`."""
