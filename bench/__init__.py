"""Benchmarks. Each prints its figure and the one that is wanted; ratios are measured within one run.

.venv/bin/python -m bench           all of them
.venv/bin/python -m bench rebuild   one
"""
