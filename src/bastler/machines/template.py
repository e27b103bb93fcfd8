"""Words of a machine card with places for numbers: `{tool}`, and `{tool:04d}` for one of so many digits. Nothing else is one.

The language's own formatting would let a card's words reach into objects and ask for widths of gigabytes.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping

from bastler.language import tr

PLACE = re.compile(r"\{([a-z_]+)(?::0([1-9]|1[0-2])d)?\}")


def template_fault(pattern: str, names: Collection[str]) -> str:
    """Why words cannot be filled in with numbers of these names; empty when they can."""
    rest = PLACE.sub(lambda place: "" if place[1] in names else place[0], pattern)
    only = tr(" and ").join("{" + name + "}" for name in names)
    return tr("Only {only} can stand in braces.", only=only) if "{" in rest or "}" in rest else ""


def filled_in(pattern: str, given: Mapping[str, object]) -> str:
    """The words with their numbers; a place of a name that is not given stays as it stands."""

    def put(place: re.Match[str]) -> str:
        if place[1] not in given:
            return place[0]
        value = given[place[1]]
        return f"{int(value):0{place[2]}d}" if place[2] and isinstance(value, int | float) else str(value)

    return PLACE.sub(put, pattern)
