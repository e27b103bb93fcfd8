"""Lists of places as CSV: X and Y in two columns, with or without a heading; a comma, a semicolon or a tab between them, and with
the last two also a decimal comma."""

from __future__ import annotations

import csv
import math
import re
from pathlib import Path

from bastler.disk import read_bounded, reason_of
from bastler.exchange.drawing import DrawingError
from bastler.language import tr

Point = tuple[float, float]
MOST_PLACES = 5000
LARGEST = 100_000.0
LARGEST_FILE = 2_000_000


class PlacesError(DrawingError):
    """A list of places that cannot be read; the message names file, line and cause."""


def read_places(path: Path) -> tuple[Point, ...]:
    """The places of a CSV file, in the file's own numbers. PlacesError when it is none."""
    try:
        text = read_bounded(path, LARGEST_FILE).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise PlacesError(tr("{name} is not a text file.", name=path.name)) from None
    except OSError as error:
        raise PlacesError(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error))) from None
    return places_of(text, path.name)


def places_of(text: str, name: str) -> tuple[Point, ...]:
    """The places that a text lists, or PlacesError; `name` is what to call it in a message."""
    lines = [(k, line) for k, line in enumerate(text.splitlines(), 1) if line.strip() and not line.lstrip().startswith("#")]
    if not lines:
        raise PlacesError(tr("{name} lists no positions.", name=name))
    between = next((mark for mark in (";", "\t") if mark in lines[0][1]), ",")
    rows = [(k, next(csv.reader([line], delimiter=between), [])) for k, line in lines]
    columns = (0, 1)
    if heading := _heading(rows[0][1]):
        columns, rows = heading, rows[1:]
    if not rows:
        raise PlacesError(tr("{name} lists no positions.", name=name))
    if len(rows) > MOST_PLACES:
        raise PlacesError(
            tr(
                "{name} lists {rows} positions; more than {most_places} are no hole pattern.",
                name=name,
                rows=len(rows),
                most_places=MOST_PLACES,
            )
        )
    return tuple(_place(cells, columns, between, tr("{name}, line {k}", name=name, k=k)) for k, cells in rows)


def _heading(cells: list[str]) -> tuple[int, int] | None:
    """The columns of X and Y, where the first line names them."""
    words = [cell.strip().strip('"').casefold().partition(" ")[0] for cell in cells]
    return (words.index("x"), words.index("y")) if "x" in words and "y" in words else None


def _place(cells: list[str], columns: tuple[int, int], between: str, where: str) -> Point:
    found = []
    for column, letter in zip(columns, "XY", strict=True):
        if column >= len(cells):
            raise PlacesError(tr("{where}: there is no {letter}.", where=where, letter=letter))
        word = cells[column].strip()
        plain = word.replace(",", ".") if between != "," else word
        if not re.fullmatch(r"[-+]?([0-9]+\.?[0-9]*|\.[0-9]+)([eE][-+]?[0-9]{1,3})?", plain):
            raise PlacesError(tr("{where}: “{word}” is not a number.", where=where, word=word[:20]))
        value = float(plain)
        if not math.isfinite(value) or abs(value) > LARGEST:
            raise PlacesError(tr("{where}: {letter} is larger than anything here.", where=where, letter=letter))
        found.append(value)
    return found[0], found[1]
