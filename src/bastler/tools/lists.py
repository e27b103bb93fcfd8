"""Tool lists in and out: CSV and JSON, with the symbols of ISO 13399 for what has one and plain words for the rest.

A *conflict* is a tool in a list that is not the one the crib has under the same id, or at the same station. Nothing is
overwritten: the list says what it has, the machinist says which one holds.
"""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Mapping, Sequence
from typing import Any

import msgspec

from bastler.language import tr
from bastler.tools.crib import AnyTool, faults_of

NAMES: Mapping[str, str] = {
    "diameter": "DC", "flutes": "NOF", "flute_length": "APMXS", "shank_diameter": "DMM", "stick_out": "LPR", "length": "LF",
    "corner_radius": "RE", "tip_angle": "SIG", "approach": "KAPR", "pitch": "TP", "profile_angle": "PNA", "width": "CW",
    "reach": "CDX", "min_bore": "DMIN", "shank": "B", "coating": "COATING", "unit": "UNIT", "hand": "HAND",
}  # fmt: skip
"""Field to ISO 13399 symbol (preferred symbols of ISO/TS 13399-2 and -3)."""
FIELDS = {symbol: field for field, symbol in NAMES.items()}
FIRST = ("id", "station", "form", "kind", "name", "UNIT")
LARGEST = 5_000_000
MOST_TOOLS = 2000


class ToolListError(Exception):
    """A list that cannot be taken over; the message names line and cause."""


class Conflict(msgspec.Struct, frozen=True):
    """Two tools that want one place: the crib's and the list's; `by` says what they share, "id" or "station"."""

    ours: AnyTool
    theirs: AnyTool
    by: str


class Merged(msgspec.Struct, frozen=True):
    """The crib with what a list adds to it; how many tools are `fresh`, how many are there already, and the conflicts."""

    tools: tuple[AnyTool, ...]
    fresh: int
    same: int
    conflicts: tuple[Conflict, ...]


def merged(crib: Sequence[AnyTool], found: Sequence[AnyTool]) -> Merged:
    """The crib and a list put together; what is in conflict stays as the crib has it."""
    tools, fresh, same, conflicts = list(crib), 0, 0, []
    for tool in found:
        known = next((t for t in tools if t.id == tool.id), None)
        there = next((t for t in tools if tool.station and t.station == tool.station), None)
        if known == tool:
            same += 1
        elif known is not None:
            conflicts.append(Conflict(known, tool, "id"))
        elif there is not None:
            conflicts.append(Conflict(there, tool, "station"))
        else:
            tools.append(tool)
            fresh += 1
    return Merged(tuple(tools), fresh, same, tuple(conflicts))


def json_list(tools: Sequence[AnyTool]) -> str:
    """The tools as JSON."""
    return json.dumps([_named(tool) for tool in tools], indent=1, ensure_ascii=False) + "\n"


def csv_list(tools: Sequence[AnyTool]) -> str:
    """The tools as CSV, a heading and a line each; a cell stays empty where a tool has nothing to say."""
    rows = [_named(tool) for tool in tools]
    names = dict.fromkeys([*FIRST, *(name for row in rows for name in row)])
    out = io.StringIO()
    writer = csv.DictWriter(out, list(names), lineterminator="\n")
    writer.writeheader()
    for row in rows:
        writer.writerow({name: inert(value) if isinstance(value, str) else json.dumps(value) for name, value in row.items()})
    return out.getvalue()


FORMULA = ("=", "+", "-", "@", "\t", "\r")
"""A spreadsheet runs a cell that begins with one of these."""


def inert(text: str) -> str:
    """A word as a cell that no spreadsheet runs: with an apostrophe before it, which is taken off again at reading."""
    return f"'{text}" if text.startswith(("'", *FORMULA)) else text


def _as_meant(text: str) -> str:
    return text[1:] if text.startswith("'") and text[1:].startswith(("'", *FORMULA)) else text


def read_list(text: str, name: str) -> tuple[AnyTool, ...]:
    """The tools of a CSV or JSON list; `name` is what to call it. ToolListError when one of them is none."""
    if len(text) > LARGEST:
        raise ToolListError(tr("{name} is too large for a list of tools.", name=name))
    rows = _json_rows(text, name) if text.lstrip().startswith("[") else _csv_rows(text, name)
    if len(rows) > MOST_TOOLS:
        raise ToolListError(tr("{name} lists {rows} tools; that is more than a crib holds.", name=name, rows=len(rows)))
    tools = [_tool(row, f"{name}, {where}") for where, row in rows]
    seen: set[str] = set()
    for (where, _), tool in zip(rows, tools, strict=True):
        if tool.id in seen:
            raise ToolListError(tr("{name}, {where}: “{id}” is there twice.", name=name, where=where, id=tool.id))
        seen.add(tool.id)
    return tuple(tools)


def _named(tool: AnyTool) -> dict[str, Any]:
    """A tool as name and value: the holder flat, what is as usual left away."""
    plain = msgspec.to_builtins(tool)
    usual = {f.name: f.default for f in msgspec.structs.fields(type(tool)) if f.default is not msgspec.NODEFAULT}
    row: dict[str, Any] = {}
    for field, value in plain.items():
        if field == "holder":
            row |= {f"holder_{part}": number for part, number in value.items()}
        elif field == "unit" or field not in usual or msgspec.to_builtins(usual[field]) != value:
            row[NAMES.get(field, field)] = value
    return row


def _tool(row: Mapping[str, Any], where: str) -> AnyTool:
    plain: dict[str, Any] = {}
    for name, value in row.items():
        field = FIELDS.get(name, name)
        if field.startswith("holder_"):
            plain.setdefault("holder", {})[field.removeprefix("holder_")] = value
        else:
            plain[field] = value
    plain.setdefault("form", "rotating")
    try:
        tool: AnyTool = msgspec.convert(plain, type=AnyTool, strict=False)
    except msgspec.ValidationError as error:
        raise ToolListError(f"{where}: {_plain(str(error))}.") from error
    except UnicodeEncodeError:
        raise ToolListError(tr("{where}: there is a sign in it that is none.", where=where)) from None
    for trouble in faults_of(tool):
        raise ToolListError(f"{where}: {NAMES.get(trouble.field, trouble.field)}: {trouble.text}")
    return tool


def _plain(reason: str) -> str:
    """The reason, with the field under the name it has in the list."""
    text, _, place = reason.partition(" - at `$.")
    field = place.rstrip("`")
    return f"{NAMES.get(field, field)}: {text}" if field else text


def _json_rows(text: str, name: str) -> list[tuple[str, Mapping[str, Any]]]:
    try:
        found = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise ToolListError(tr("{name} is no JSON: {error}.", name=name, error=error)) from error
    if not isinstance(found, list) or not all(isinstance(row, dict) for row in found):
        raise ToolListError(tr("{name} is no list of tools.", name=name))
    return [(tr("tool {k}", k=k), row) for k, row in enumerate(found, 1)]


def _csv_rows(text: str, name: str) -> list[tuple[str, Mapping[str, Any]]]:
    try:
        reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff")), strict=True)
        rows = [(reader.line_num, row) for row in reader]
    except csv.Error as error:
        raise ToolListError(tr("{name} is no CSV: {error}.", name=name, error=error)) from error
    if not reader.fieldnames or "kind" not in reader.fieldnames:
        raise ToolListError(tr("{name} has no heading with the columns id, station, kind, name, DC and so on.", name=name))
    found: list[tuple[str, Mapping[str, Any]]] = []
    for line, row in rows:
        if None in row or None in row.values():
            raise ToolListError(tr("{name}, line {line}: it has not as many cells as the heading.", name=name, line=line))
        found.append((tr("line {line}", line=line), {key: _cell(key, value) for key, value in row.items() if value != ""}))
    return found


WORDS = ("id", "name", "kind", "form", "unit", "material", "coating", "insert", "side", "hand", "turns", "edge")
"""Fields that hold words: `12` is a name there, not a number."""


def _cell(name: str, text: str) -> Any:
    if FIELDS.get(name, name) in WORDS:
        return _as_meant(text)
    try:
        return json.loads(text)
    except RecursionError:
        return text
    except ValueError:
        return _as_meant(text)
