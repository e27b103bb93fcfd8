"""Of the packages in the lock file those that Bastler needs to run, as pip reads them: what tests and checks need is left out."""

from __future__ import annotations

import re
import sys
import tomllib
from importlib.metadata import PackageNotFoundError, requires
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
NAME = re.compile(r"[A-Za-z0-9._-]+")


def plain(name: str) -> str:
    """A package's name as it is compared (PEP 503)."""
    return re.sub(r"[-_.]+", "-", name).lower()


def needed() -> set[str]:
    """All that the program needs, and what that needs in turn."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text(encoding="utf-8"))["project"]
    found: set[str] = set()
    waiting = [NAME.match(line).group() for line in project["dependencies"]]  # type: ignore[union-attr]
    while waiting:
        name = plain(waiting.pop())
        if name in found:
            continue
        found.add(name)
        try:
            lines = requires(name) or []
        except PackageNotFoundError:
            continue
        waiting += [m.group() for line in lines if "extra ==" not in line and (m := NAME.match(line))]
    return found


def main() -> int:
    wanted = needed()
    for line in (ROOT / "requirements.lock").read_text(encoding="utf-8").splitlines():
        name = NAME.match(line)
        if name and plain(name.group()) in wanted:
            print(line)
    return 0


if __name__ == "__main__":
    sys.exit(main())
