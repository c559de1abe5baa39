"""`python -m tests` runs every test, `python -m tests tests.core` some."""

import sys

from tests.running import main

if __name__ == "__main__":
    sys.exit(main())
