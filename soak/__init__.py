"""Looking for what nobody thought of: seeded, resumable, stopping by itself. `make soak`; figures in docs/reliability.md."""

import sys
from pathlib import Path

sys.path.append(str(Path(__file__).parent.parent / "tests"))  # hands at a stand-in are the tests'
