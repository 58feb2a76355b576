"""The core of Unladen Mule: weigh a website, make it lighter, prove it."""

__version__ = "0.1.0"
