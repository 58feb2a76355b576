"""`python -m unladen.cli`."""

import sys

from unladen.cli import main

if __name__ == "__main__":
    sys.exit(main())
