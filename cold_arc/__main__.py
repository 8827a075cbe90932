"""`python -m cold_arc` is the command `cold-arc`."""

import sys

from cold_arc.cli import main

sys.exit(main())
