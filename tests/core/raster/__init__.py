"""Tests of `unladen/raster/`."""
