"""Runs the planted sets: `python -m bench.planted`."""

import sys

from bench.planted import main

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
