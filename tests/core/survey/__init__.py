"""Tests of `unladen/survey/`."""
