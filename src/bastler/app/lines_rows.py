"""Rows for things that are listed one by one, each on a line of its own: positions, free moves, contours."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent
from PyQt6.QtWidgets import QPlainTextEdit

from bastler.app.fields import CommandKeys
from bastler.app.rows import Row
from bastler.app.session import Session
from bastler.ask import Question
from bastler.job import edits
from bastler.job.parts import Place, offset_index
from bastler.language import apart, decimal, pointed, sayable, tr
from bastler.steps import Contour, FreeMove
from bastler.steps.general.between import Blank, names_in
from bastler.tools import Experience
from bastler.units import ExpressionError, Kind, evaluate, number_text

HOLLOW, BELOW = sayable("hollow"), sayable("below")
FORMS = sayable({"circle": "circle", "rectangle": "rectangle", "outline": "outline"})
SIZES = {"circle": ("x", "y", "diameter"), "rectangle": ("x", "y", "length", "width")}
"""What is typed behind a form, in this order."""


def is_word(typed: str, own: str) -> bool:
    """Is a typed word this one of ours, in English or in the language in force?"""
    return typed.casefold() in (own, tr(own).casefold())


class _PointsEdit(CommandKeys, QPlainTextEdit):
    focused = pyqtSignal()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.focused.emit()


class LinesRow(Row):
    """Something one by one, each on a line of its own; `write` and `read` say how."""

    HINT = ""
    LEAST = 1
    LISTED = True
    """Is a line a list? Its commas stand between what is on it then, else they are what has been written."""

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text = _PointsEdit()
        self.text.setFixedHeight(92)
        self.text.setTabChangesFocus(True)
        self.text.setPlaceholderText("10, 20")
        self.text.setAccessibleName(question.says)
        self.text.textChanged.connect(self._typed)
        self.text.focused.connect(self.focus_in)
        self.column.insertWidget(1, self.text)
        self._reason = ""
        self._showing = False

    def show_answer(self) -> None:
        if self.text.hasFocus():
            return
        self._showing = True
        self.text.setPlainText("\n".join(self.apart(self.write(entry)) for entry in self.entries()))
        self._showing = False

    def entries(self) -> Sequence[Any]:
        """What is shown, one by one."""
        found: Sequence[Any] = self.given()[0]
        return found

    def apart(self, line: str) -> str:
        """A line as it is shown."""
        return apart(line) if self.LISTED else line

    def write(self, entry: Any) -> str:
        raise NotImplementedError

    def read(self, parts: list[str]) -> Any:
        """What a line says. ExpressionError or ValueError when it says nothing of use."""
        raise NotImplementedError

    def parts_of(self, line: str) -> list[str]:
        """What stands on a line, apart."""
        parts = [p for p in re.split(r"\s*[,;\t]\s*|\s{2,}", line.strip()) if p]
        return line.split() if len(parts) == 1 else parts

    def number(self, text: str, kind: Kind = Kind.LENGTH) -> float:
        return evaluate(text, kind, self.session.job.unit)

    def shown(self, value: float, kind: Kind = Kind.LENGTH) -> str:
        return number_text(value, kind, self.session.job.unit)

    def reason(self) -> str:
        return self._reason

    def _typed(self) -> None:
        if self._showing:
            return
        found, self._reason = [], ""
        for k, line in enumerate(self.text.toPlainText().splitlines(), 1):
            if not line.strip():
                continue
            try:
                parts = self.parts_of(pointed(line))
                if not parts:  # nothing but commas
                    raise ValueError(line)
                found.append(self.read(parts))
            except (ExpressionError, ValueError):
                self._reason = tr("Line {k}: {hint}", k=k, hint=tr(self.HINT))
                break
        if len(found) < self.LEAST and not self._reason:
            self._reason = tr("One line at least.")
        self.say(self._reason)
        if not self._reason:
            self.session.answer(self.address, tuple(found))

    def take_focus(self) -> None:
        self.text.setFocus(Qt.FocusReason.TabFocusReason)

    def has_focus(self) -> bool:
        return self.text.hasFocus()


class PointsRow(LinesRow):
    """Positions one by one: an X and a Y on each line."""

    HINT = sayable("an X and a Y are needed, as 10, 20.")

    def write(self, entry: Any) -> str:
        return ", ".join(self.shown(v) for v in entry)

    def read(self, parts: list[str]) -> tuple[float, float]:
        x, y = (self.number(p) for p in parts)
        return (x, y)


class BlanksRow(LinesRow):
    """Blanks of own lines one by one, each with what stands in it; those that have no value yet are there to be filled in."""

    HINT = sayable("a name and what stands in it are needed, as depth = -12.5.")
    LEAST = 0
    LISTED = False

    def entries(self) -> Sequence[Blank]:
        step, _ = edits.at(self.session.job, self.address)
        given = {blank.name: blank.value for blank in self.given()[0]}
        return [Blank(name, given.get(name, "")) for name in names_in(getattr(step, "lines", ()))]

    def parts_of(self, line: str) -> list[str]:
        return line.split("=", 1)

    def write(self, entry: Blank) -> str:
        return f"{entry.name} = {entry.value}"

    def read(self, parts: list[str]) -> Blank:
        name, value = (part.strip() for part in parts)
        return Blank(name, value)


class MovesRow(LinesRow):
    """Free moves one by one: rapid or feed, a diameter, a length, and a feed of its own."""

    HINT = sayable("rapid or feed, Ø and Z are needed, as feed 40, -12, 0.1.")

    def write(self, entry: Any) -> str:
        feed = f", {self.shown(entry.f, Kind.FEED_PER_TOOTH)}" if entry.f else ""
        return f"{tr(entry.way)} {self.shown(entry.d)}, {self.shown(entry.z)}{feed}"

    def read(self, parts: list[str]) -> FreeMove:
        words = [w for part in parts for w in part.split()]
        begun = words[0].casefold()
        way = next((own for own in ("rapid", "feed") for word in (own, tr(own)) if word.casefold().startswith(begun)), None)
        if way is None or len(words) not in (3, 4):
            raise ValueError(words[0])
        d, z = self.number(words[1]), self.number(words[2])
        feed = self.number(words[3], Kind.FEED_PER_TOOTH) if len(words) == 4 else None
        if feed is not None and feed <= 0:
            raise ValueError(words[3])
        return FreeMove("rapid" if way == "rapid" else "feed", d, z, feed)


class ContoursRow(LinesRow):
    """Islands one by one, and hollows in them: a circle, a rectangle or an outline by its name."""

    HINT = sayable("as “circle 70, 30, 12”, “rectangle 20, 35, 14, 8, R2, A30”, “outline rim”; “hollow …”; “…, 2 below”.")
    LEAST = 0

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text.setPlaceholderText(apart(f"{tr(FORMS['circle'])} 70, 30, 12"))
        self.helps.setText(
            tr("Centre X, Y and Ø; or X, Y, length, width, R corner radius, A angle. Write it {hint}", hint=tr(self.HINT))
        )

    def write(self, entry: Any) -> str:
        words = f"{tr(HOLLOW)} " if entry.role == "hollow" else ""
        words += f"{tr(FORMS[entry.form])} "
        if entry.form == "outline":
            outline = self.session.job.outline(entry.outline)
            words += outline.name if outline else entry.outline
        else:
            sizes = (entry.diameter,) if entry.form == "circle" else (entry.length, entry.width)
            words += ", ".join(self.shown(v) for v in (entry.x, entry.y, *sizes))
            if entry.form == "rectangle" and entry.corner_radius:
                words += f", R{self.shown(entry.corner_radius)}"
            if entry.form == "rectangle" and entry.angle:
                words += f", A{self.shown(entry.angle, Kind.ANGLE)}"
        return words + (f", {self.shown(entry.below)} {tr(BELOW)}" if entry.below else "")

    def read(self, parts: list[str]) -> Contour:
        found: dict[str, Any] = {}
        number, _, last = parts[-1].rpartition(" ")
        if is_word(last, BELOW):
            parts = [*parts[:-1], number] if number else parts[:-1]
            found["below"] = self.number(parts.pop() if parts else "")
        word, parts = _first_word(parts)
        if is_word(word, HOLLOW):
            found["role"] = "hollow"
            word, parts = _first_word(parts)
        form = next((own for own in FORMS if is_word(word, own)), "")
        if form == "outline":
            called = " ".join(parts)
            outline = next((o for o in self.session.job.outlines if called in (plain_name(o.name), o.id)), None)
            if outline is None:
                raise ValueError(called)
            return Contour(form="outline", outline=outline.id, **found)
        values = []
        for part in self._apart(parts):
            if part[:1] in "Rr":
                found["corner_radius"] = self.number(part[1:])
            elif part[:1] in "Aa∠":
                found["angle"] = self.number(part[1:], Kind.ANGLE)
            else:
                values.append(self.number(part))
        names = SIZES.get(form, ())
        if not names or len(values) != len(names) or any(v <= 0 for v in values[2:]):
            raise ValueError(word)
        found |= dict(zip(names, values, strict=True))
        return Contour(form="circle" if form == "circle" else "rectangle", **found)

    def _apart(self, parts: list[str]) -> Iterator[str]:
        """The numbers of a line; a blank stands between two of them, if it is not within one as in 1 1/8."""
        for part in parts:
            try:
                self.number(part)
                yield part
            except ExpressionError:
                yield from part.split()


def _first_word(parts: list[str]) -> tuple[str, list[str]]:
    """The first word of a line, and what is behind it."""
    if not parts:
        raise ValueError
    word, _, rest = parts[0].partition(" ")
    return word, [*filter(None, [rest.strip()]), *parts[1:]]


def plain_name(name: str) -> str:
    """A name as it is left of a line that is taken apart at commas and blanks."""
    return " ".join(re.split(r"[,;\s]+", name.strip()))


class ExperienceRow(LinesRow):
    """What works with a tool: a material, a cutting speed, a feed per tooth, who says so."""

    HINT = sayable("a material and vc are needed, as aluminium, 220, 0.06, shop.")
    LEAST = 0

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text.setPlaceholderText(tr("aluminium, 220, 0.06, shop"))

    def write(self, entry: Any) -> str:
        return f"{entry.material}, {decimal(f'{entry.vc:g}')}, {decimal(f'{entry.fz:g}')}" + (
            f", {entry.source}" if entry.source else ""
        )

    def read(self, parts: list[str]) -> Experience:
        material, vc, *rest = parts
        fz, source = (float(rest[0]) if rest else 0.0), " ".join(rest[1:])
        materials = self.session.job.all_materials()
        names = {name.casefold(): m.id for m in materials.values() for name in (m.called, m.name, m.id)}
        known = names.get(material.casefold())
        if known is None or not (0 <= float(vc) < 10_000 and 0 <= fz < 10):
            raise ValueError(material)
        return Experience(known, float(vc), fz, source[:60])


class CodeRow(LinesRow):
    """Lines of G-code as they are written."""

    LISTED = False

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text.setFixedHeight(190)
        self.text.setPlaceholderText("G0 Z5\nM8")

    def write(self, entry: Any) -> str:
        return str(entry)

    def _typed(self) -> None:
        if not self._showing:
            lines = [line.rstrip() for line in self.text.toPlainText().splitlines()]
            self.session.answer(self.address, tuple(line for line in lines if line))


class PlacesRow(LinesRow):
    """Parts on the table: an offset, and how far its zero is from the first part's."""

    HINT = sayable("an offset, X and Y are needed, as G55, 120, 0.")
    LEAST = 0

    def __init__(self, session: Session, question: Question, address: str) -> None:
        super().__init__(session, question, address)
        self.text.setPlaceholderText("G55, 120, 0")

    def write(self, entry: Any) -> str:
        z = f", {self.shown(entry.z)}" if entry.z else ""
        return f"{entry.offset}, {self.shown(entry.x)}, {self.shown(entry.y)}{z}"

    def read(self, parts: list[str]) -> Place:
        offset, x, y, *z = parts
        offset_index(offset)
        return Place(" ".join(offset.upper().split()), self.number(x), self.number(y), self.number(z[0]) if z else 0.0)
