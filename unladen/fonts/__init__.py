"""Fonts as pure functions, bytes in and bytes out."""

import logging

# What it has to say of odd fonts that it reads all the same is for the makers of fonts.
logging.getLogger("fontTools").setLevel(logging.CRITICAL)
