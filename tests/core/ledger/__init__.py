"""Tests of `unladen/ledger/`."""
