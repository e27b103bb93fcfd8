"""Lists whose entries are typed one by one, each on a line of its own: positions, islands, free moves, parts on the table.

How a line is read and how an entry is written, in English words or in those of the language in force. Each number may be a sum in
which sizes of the family are named; what was typed for it is the text of an answer of its own, whose address goes on behind that
of the list: `pattern:P.points.2.x`, `step:S.islands.0.diameter`.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import Any, ClassVar, Generic, TypeAlias, TypeVar

import msgspec

from bastler.ask import Question, question_of
from bastler.bounds import as_nothing
from bastler.job.document import Job
from bastler.job.family import filled_in, known, names_in
from bastler.job.parts import Place, offset_index
from bastler.language import apart, decimal, pointed, sayable, tr
from bastler.steps import Contour, FreeMove
from bastler.steps.general.between import Blank
from bastler.steps.general.between import names_in as blanks_in
from bastler.tools import Experience
from bastler.units import ExpressionError, Kind, evaluate, number_text

E = TypeVar("E")
Point: TypeAlias = tuple[float, float]
HOLLOW, BELOW = sayable("hollow"), sayable("below")
FORMS = sayable({"circle": "circle", "rectangle": "rectangle", "outline": "outline"})
SIZES = {"circle": ("x", "y", "diameter"), "rectangle": ("x", "y", "length", "width")}
"""What is typed behind a form, in this order."""
NOTHING = "0"
"""So a number is written that need not be."""
LETTERS = {"R": "corner_radius", "A": "angle", "∠": "angle"}
"""What stands before numbers of a rectangle that need not be there."""
WAYS = sayable({"rapid": "rapid", "feed": "feed"})
Typed: TypeAlias = Callable[[str], str]
"""What was typed for a number, or is written for it, by its field."""
ANY_NUMBER = Question(says="", kind=Kind.LENGTH)
"""What holds for every number of a list."""
_WORDS = re.compile(r"[0-9]+\s+[0-9]+/[0-9]+\S*|\S+")
"""What blanks part; 1 1/8 is one number."""
_EXTENDED = re.compile(r"[Pp][0-9]")
"""Goes on with an offset that has a number behind its code."""
_TWO = re.compile(r"[\w)]\s+[-+](?=\S)")
"""A blank before a sign and none behind it: 40 -12 are two numbers, 40 - 12 is one."""


class ListError(ValueError):
    """A line that says nothing of use; the text says which one, and how one is written."""


@dataclass
class Line:
    """What stands on a line: words, and what was typed for the numbers, by their fields."""

    words: dict[str, str] = field(default_factory=dict)
    numbers: dict[str, str] = field(default_factory=dict)


class Listed(Generic[E]):
    """How the entries of a list are typed: a subclass for each manner, made for the job whose list it is. What reads a line
    raises ExpressionError or ValueError where it says nothing of use."""

    hint: ClassVar[str] = ""
    example: ClassVar[str] = ""
    """A line as it may be."""
    helps: ClassVar[str] = ""
    """What else a line may be, with `{hint}` in it."""
    least: ClassVar[int] = 1
    parts: ClassVar[bool] = True
    """Is a line a list? Its commas stand between what is on it then, else they are what has been written."""
    kinds: ClassVar[Mapping[str, Kind]] = {}
    """Of the numbers that are no lengths."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.sizes = known(job)

    # -- what a subclass says ---------------------------------------------------------------------------------------

    def line(self, parts: list[str]) -> Line:
        """What is what of that which stands on a line."""
        raise NotImplementedError

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> E:
        """The entry that they are."""
        raise NotImplementedError

    def text(self, entry: E, typed: Typed) -> str:
        """An entry as it is written."""
        raise NotImplementedError

    def changed(self, entry: E, name: str, number: float) -> E:
        """An entry with another number. ValueError where it is none with that, KeyError where it has none of that name."""
        if not isinstance(getattr(entry, name, None), float):
            raise KeyError(name)
        return self.checked(msgspec.structs.replace(entry, **{name: number}))  # type: ignore[type-var]

    def checked(self, entry: E) -> E:
        """The entry; ValueError for one that is none with these numbers."""
        return entry

    def number(self, entry: E, name: str) -> str:
        """A number of an entry as it is shown."""
        return number_text(getattr(entry, name), self.kinds.get(name, Kind.LENGTH), self.job.unit)

    def shown(self, owner: msgspec.Struct, entries: Sequence[E]) -> Iterable[tuple[int, E]]:
        """What is shown of a list, with its place there; -1 for what is to be filled in yet."""
        return enumerate(entries)

    # -- reading ----------------------------------------------------------------------------------------------------

    def read(self, text: str) -> tuple[tuple[E, ...], dict[str, str]]:
        """The entries that lines say, and what was typed for those numbers in which sizes are named, by the end of their address
        as `0.x`. ListError."""
        entries: list[E] = []
        typed: dict[str, str] = {}
        for k, line in enumerate(text.splitlines(), 1):
            if not line.strip():
                continue
            try:
                said = self.line(self.split(line))
                numbers = {name: self.value(name, number) for name, number in said.numbers.items()}
                made = self.made(said.words, numbers)
            except ValueError:  # an ExpressionError is one
                raise ListError(tr("Line {k}: {hint}", k=k, hint=tr(self.hint))) from None
            named = {name: number for name, number in said.numbers.items() if self.names(number)}
            typed |= {f"{len(entries)}.{name}": number for name, number in named.items()}
            entries.append(made)
        if len(entries) < self.least:
            raise ListError(tr("One line at least."))
        return tuple(entries), typed

    def split(self, line: str) -> list[str]:
        """What stands on a line, apart: at commas, or where there are none at blanks. ValueError where that is nothing."""
        parts = [p for p in re.split(r"\s*[,;\t]\s*|\s{2,}", pointed(line).strip()) if p]
        if not parts:  # nothing but commas
            raise ValueError(line)
        return _WORDS.findall(parts[0]) if len(parts) == 1 else parts

    def numbers(self, parts: Iterable[str]) -> Iterator[str]:
        """The numbers of a line; a blank stands between two of them, if it is not within one as in 1 1/8."""
        for part in parts:
            yield from [part] if not _TWO.search(part) and self.is_number(part) else _WORDS.findall(part)

    def value(self, name: str, text: str) -> float:
        """What was typed for a number, its named sizes filled in. ExpressionError."""
        found = evaluate(filled_in(text, self.sizes), self.kinds.get(name, Kind.LENGTH), self.job.unit)
        if why := ANY_NUMBER.out_of_bounds(found):
            raise ExpressionError(why, 0)
        return 0.0 if as_nothing(found) else found

    def is_number(self, text: str) -> bool:
        """Is it a length?"""
        try:
            self.value("", text)
        except ExpressionError:
            return False
        return True

    def names(self, text: str) -> bool:
        """Does it name a size of the family?"""
        return any(name in self.sizes for name in names_in(text))

    # -- writing ----------------------------------------------------------------------------------------------------

    def written(self, owner: msgspec.Struct, entries: Sequence[E], named: Typed) -> str:
        """The lines of a list; `named` says what was typed with names in it, by the end of the address, or nothing."""
        lines = [self.text(entry, partial(self._number, k, entry, named)) for k, entry in self.shown(owner, entries)]
        return "\n".join(apart(line) if self.parts else line for line in lines)

    def _number(self, k: int, entry: E, named: Typed, name: str) -> str:
        return decimal(named(f"{k}.{name}")) or self.number(entry, name)


class Points(Listed[Point]):
    """Positions: an X and a Y on each line. KeyError for another number."""

    example = "10, 20"
    hint = sayable("an X and a Y are needed, as 10, 20.")

    def line(self, parts: list[str]) -> Line:
        x, y = self.numbers(parts)
        return Line(numbers={"x": x, "y": y})

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> Point:
        return (numbers["x"], numbers["y"])

    def changed(self, entry: Point, name: str, number: float) -> Point:
        x, y = entry
        return {"x": (number, y), "y": (x, number)}[name]

    def number(self, entry: Point, name: str) -> str:
        return number_text(entry["xy".index(name)], Kind.LENGTH, self.job.unit)

    def text(self, entry: Point, typed: Typed) -> str:
        return f"{typed('x')}, {typed('y')}"


class Moves(Listed[FreeMove]):
    """Free moves: rapid or feed, a diameter, a length, and a feed of its own. ValueError for what is none."""

    example = sayable("rapid 40, 5")
    hint = sayable("rapid or feed, Ø and Z are needed, as feed 40, -12, 0.1.")
    kinds: ClassVar = {"f": Kind.FEED_PER_TOOTH}

    def line(self, parts: list[str]) -> Line:
        begun, parts = first_word(parts)
        way = next((own for own in WAYS for word in (own, tr(own)) if word.casefold().startswith(begun.casefold())), "")
        d, z, *f = self.numbers(parts)
        if not way or len(f) > 1:
            raise ValueError(begun)
        return Line({"way": way}, {"d": d, "z": z} | ({"f": f[0]} if f else {}))

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> FreeMove:
        return self.checked(FreeMove("rapid" if words["way"] == "rapid" else "feed", **numbers))

    def checked(self, entry: FreeMove) -> FreeMove:
        if entry.f is not None and entry.f <= 0:
            raise ValueError(tr("Has to be more than {above:g}.", above=0))
        return entry

    def text(self, entry: FreeMove, typed: Typed) -> str:
        return f"{tr(WAYS[entry.way])} {typed('d')}, {typed('z')}" + (f", {typed('f')}" if entry.f else "")


class Contours(Listed[Contour]):
    """Islands, and hollows in them: a circle, a rectangle or an outline by its name. ValueError for what is none."""

    example = sayable("circle 70, 30, 12")
    helps = sayable("Centre X, Y and Ø; or X, Y, length, width, R corner radius, A angle. Write it {hint}")
    hint = sayable("as “circle 70, 30, 12”, “rectangle 20, 35, 14, 8, R2, A30”, “outline rim”; “hollow …”; “…, 2 below”.")
    least = 0
    kinds: ClassVar = {"angle": Kind.ANGLE}

    def line(self, parts: list[str]) -> Line:
        found = Line()
        number, _, last = parts[-1].rpartition(" ")
        if is_word(last, BELOW):
            parts = [*parts[:-1], number] if number else parts[:-1]
            found.numbers["below"] = parts.pop() if parts else ""
        word, parts = first_word(parts)
        if is_word(word, HOLLOW):
            found.words["role"] = "hollow"
            word, parts = first_word(parts)
        form = next((own for own in FORMS if is_word(word, own)), "")
        if not form:
            raise ValueError(word)
        found.words["form"] = form
        if form == "outline":
            found.words["outline"] = self._outline(" ".join(parts))
        else:
            found.numbers |= self._sizes(form, parts)
        return found

    def _outline(self, called: str) -> str:
        outline = next((o for o in self.job.outlines if called in (plain_name(o.name), o.id)), None)
        if outline is None:
            raise ValueError(called)
        return outline.id

    def _sizes(self, form: str, parts: list[str]) -> dict[str, str]:
        """What was typed behind a form, in the order of its sizes; R and A stand before what they are of, unless a size of the
        family is called so."""
        found, behind = list[str](), dict[str, str]()
        for part in self.numbers(parts):
            name = LETTERS.get(part[:1].upper(), "")
            if name and not any(part.startswith(own) for own in self.sizes):
                behind[name] = part[1:]
            else:
                found.append(part)
        return dict(zip(SIZES[form], found, strict=True)) | behind

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> Contour:
        return self.checked(Contour(**words, **numbers))  # type: ignore[arg-type]

    def checked(self, entry: Contour) -> Contour:
        for name in ("diameter", "length", "width", "corner_radius", "below"):
            if why := question_of(Contour, name).out_of_bounds(getattr(entry, name)):
                raise ValueError(why)
        return entry

    def text(self, entry: Contour, typed: Typed) -> str:
        words = f"{tr(HOLLOW)} " if entry.role == "hollow" else ""
        words += f"{tr(FORMS[entry.form])} "
        if entry.form == "outline":
            outline = self.job.outline(entry.outline)
            words += outline.name if outline else entry.outline
        else:
            words += ", ".join(typed(name) for name in SIZES[entry.form])
        words += "".join(
            f", {letter}{said}"
            for letter, name in (("R", "corner_radius"), ("A", "angle"))
            if entry.form == "rectangle" and (said := typed(name)) != NOTHING
        )
        below = typed("below")
        return words + (f", {below} {tr(BELOW)}" if below != NOTHING else "")


class Tried(Listed[Experience]):
    """What works with a tool: a material, a cutting speed, a feed per tooth, who says so. ValueError for what is none."""

    example = sayable("aluminium, 220, 0.06, shop")
    hint = sayable("a material and vc are needed, as aluminium, 220, 0.06, shop.")
    least = 0
    kinds: ClassVar = {"vc": Kind.NUMBER, "fz": Kind.NUMBER}

    def line(self, parts: list[str]) -> Line:
        material, vc, *rest = parts
        names = {name.casefold(): m.id for m in self.job.all_materials().values() for name in (m.called, m.name, m.id)}
        if material.casefold() not in names:
            raise ValueError(material)
        words = {"material": names[material.casefold()], "source": " ".join(rest[1:])[:60]}
        return Line(words, {"vc": vc} | ({"fz": rest[0]} if rest else {}))

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> Experience:
        return self.checked(Experience(words["material"], source=words["source"], **numbers))

    def checked(self, entry: Experience) -> Experience:
        if not (0 <= entry.vc < 10_000 and 0 <= entry.fz < 10):
            raise ValueError(tr(self.hint))
        return entry

    def number(self, entry: Experience, name: str) -> str:
        return decimal(f"{getattr(entry, name):g}")

    def text(self, entry: Experience, typed: Typed) -> str:
        return f"{entry.material}, {typed('vc')}, {typed('fz')}" + (f", {entry.source}" if entry.source else "")


class Blanks(Listed[Blank]):
    """Blanks of own lines; those that have no value yet are there to be filled in. KeyError for another number of one."""

    example = "depth = -12.5"
    hint = sayable("a name and what stands in it are needed, as depth = -12.5.")
    least = 0
    parts = False

    def shown(self, owner: msgspec.Struct, entries: Sequence[Blank]) -> Iterable[tuple[int, Blank]]:
        given = {blank.name: (k, blank) for k, blank in enumerate(entries)}
        return [given.get(name, (-1, Blank(name))) for name in blanks_in(getattr(owner, "lines", ()))]

    def split(self, line: str) -> list[str]:
        return [part.strip() for part in line.split("=", 1)]

    def line(self, parts: list[str]) -> Line:
        name, value = parts
        sum_of_sizes = self.names(value) and self.is_number(value)
        return Line({"name": name, "value": value}, {"value": value} if sum_of_sizes else {})

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> Blank:
        entry = Blank(words["name"], words["value"])
        return self.changed(entry, "value", numbers["value"]) if numbers else entry

    def changed(self, entry: Blank, name: str, number: float) -> Blank:
        """A number that was worked out is written as the machine wants lengths."""
        if name != "value":
            raise KeyError(name)
        dialect = self.job.card.dialect
        return Blank(entry.name, dialect.number(number, dialect.places(self.job.unit)))

    def number(self, entry: Blank, name: str) -> str:
        return entry.value

    def text(self, entry: Blank, typed: Typed) -> str:
        return f"{entry.name} = {typed('value')}"


class Places(Listed[Place]):
    """Parts on the table: an offset, and how far its zero is from the first part's. ValueError for what is none."""

    example = "G55, 120, 0"
    hint = sayable("an offset, X and Y are needed, as G55, 120, 0.")
    least = 0

    def line(self, parts: list[str]) -> Line:
        first, rest = first_word(parts)
        if rest and _EXTENDED.match(rest[0]):
            number, rest = first_word(rest)
            first = f"{first} {number}"
        offset_index(first)
        x, y, *z = self.numbers(rest)
        if len(z) > 1:
            raise ValueError(first)
        return Line({"offset": first.upper()}, {"x": x, "y": y} | ({"z": z[0]} if z else {}))

    def made(self, words: Mapping[str, str], numbers: Mapping[str, float]) -> Place:
        return Place(words["offset"], **numbers)

    def text(self, entry: Place, typed: Typed) -> str:
        z = typed("z")
        return f"{entry.offset}, {typed('x')}, {typed('y')}" + (f", {z}" if z != NOTHING else "")


LISTS: dict[str, type[Listed[Any]]] = {
    "points": Points,
    "moves": Moves,
    "contours": Contours,
    "experience": Tried,
    "blanks": Blanks,
    "places": Places,
}
"""By what is picked in a question."""


def is_word(typed: str, own: str) -> bool:
    """Is a typed word this one of ours, in English or in the language in force?"""
    return typed.casefold() in (own, tr(own).casefold())


def first_word(parts: list[str]) -> tuple[str, list[str]]:
    """The first word of a line, and what is behind it. ValueError where there is none."""
    if not parts:
        raise ValueError
    word, _, rest = parts[0].partition(" ")
    return word, [*filter(None, [rest.strip()]), *parts[1:]]


def plain_name(name: str) -> str:
    """A name as it is left of a line that is taken apart at commas and blanks."""
    return " ".join(re.split(r"[,;\s]+", name.strip()))
