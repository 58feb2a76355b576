"""Hostile input by mutation: in the tests a bounded number of it, by hand as long as one likes (python -m
tests.fuzz).
"""
