"""`python -m bastler`."""

import sys

from bastler.cli import main

sys.exit(main())
