"""Values that hold arrays are told apart by what they are, not by what is in them: two arrays are neither equal nor not."""

from __future__ import annotations

import dataclasses
import importlib
import pkgutil
import re

import bastler

ARRAYS = ["Floats", "Ints", "Bools", "Heights", "NDArray", "Indices", "Mask", "Regions"]


def named(names: list[str], types: list[str]) -> bool:
    return any(re.search(rf"\b({'|'.join(names)})\b", one) for one in types)


def dataclasses_of_the_core() -> dict[type, list[str]]:
    """All of them outside of the window, with the types of their fields as they are written."""
    found: dict[type, list[str]] = {}
    for module in pkgutil.walk_packages(bastler.__path__, "bastler."):
        if ".app" in module.name or module.name.endswith("__main__"):
            continue
        for one in vars(importlib.import_module(module.name)).values():
            if isinstance(one, type) and dataclasses.is_dataclass(one) and one.__module__ == module.name:
                found[one] = [str(field.type) for field in dataclasses.fields(one)]
    return found


def test_what_holds_arrays_is_only_equal_to_itself() -> None:
    every = dataclasses_of_the_core()
    held = {one for one, types in every.items() if named(ARRAYS, types)}
    assert len(held) > 12
    while more := {one for one, types in every.items() if one not in held and named([h.__name__ for h in held], types)}:
        held |= more
    odd = [f"{one.__module__}.{one.__name__}" for one in held if one.__eq__ is not object.__eq__]
    assert [name for name in odd if not name.endswith("search.Solved")] == []  # whose states are others of that name
