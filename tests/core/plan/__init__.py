"""Tests of `unladen/plan/`."""
