"""Between the features: a stop with a message, a wait, a way to the tool-change place, and lines of the machinist's own."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Literal

import msgspec

from bastler.ask import Answers, Trouble, ask, choose, pick
from bastler.language import decimal, tr
from bastler.shapes import Box, Removal
from bastler.steps.base import ANY, Arrival, Between, Given, Sketch, Step, TurnSketch, step
from bastler.steps.context import Context
from bastler.units import Kind

WHAT = "What"
MOST_LINES = 500
LONGEST = 200
FRAME = re.compile(r"^\s*(%|[/N\d\s]*[O:]\s*\d+|.*\bM(0?2|30|99)\b)", re.IGNORECASE)
"""What begins or ends a program: nothing for lines in its middle."""
WRITABLE = re.compile(r"[ -~]*")


class BetweenStep(Step[Context], frozen=True, kw_only=True):
    """A step that takes nothing away. A subclass says what stands between."""

    groups: ClassVar[tuple[str, ...]] = (WHAT,)

    def removes(self, ctx: Context) -> list[Removal]:
        return []

    def sketch(self, ctx: Any) -> Sketch | TurnSketch:
        """The stock alone, cut through its middle."""
        if not isinstance(ctx.stock, Box):
            return TurnSketch()
        return Sketch(section=ctx.stock.middle)


@step("Stop", "General", "The machine waits for you, with a message", rank=1, planes=ANY)
class Stop(BetweenStep, frozen=True, kw_only=True, tag="stop"):
    """Answers of a stop."""

    always: Annotated[
        Literal["always", "optional"],
        choose(
            "Stops", {"always": "Always", "optional": "If switched on"}, WHAT, helps="M0, or M1 with the machine's own switch."
        ),
    ] = "always"
    message: Annotated[str, pick("Message", "word", WHAT, helps="Stands in the program where it stops.")] = "Clear the chips"

    def troubles(self, ctx: Context) -> list[Trouble]:
        return message_trouble(self.message)

    def plan(self, ctx: Context) -> list[Between]:
        return [Between(name="stop", what="stop" if self.always == "always" else "optional", text=self.message)]

    def summary(self, ctx: Context) -> str:
        return f"{self.message or tr('no message')}{'' if self.always == 'always' else tr(', optional')}"


@step("Wait", "General", "Some seconds, the spindle running", rank=2, planes=ANY)
class Wait(BetweenStep, frozen=True, kw_only=True, tag="wait"):
    """Answers of a dwell."""

    seconds: Annotated[float, ask("How long", Kind.TIME, WHAT, above=0, most=3600)] = 2.0

    def plan(self, ctx: Context) -> list[Between]:
        return [Between(name="wait", what="wait", seconds=self.seconds)]

    def summary(self, ctx: Context) -> str:
        return decimal(f"{self.seconds:g} s")


@step("Out of the way", "General", "Off the work, then to the tool-change place", rank=3, planes=ANY)
class OutOfTheWay(BetweenStep, frozen=True, kw_only=True, tag="out-of-the-way"):
    """On a mill Z first, then X and Y; on a lathe the axes as the holding says."""

    stops: Annotated[
        Literal["yes", "no"], choose("And stop there", {"yes": "Yes", "no": "No"}, WHAT, helps="To measure, or to turn the part.")
    ] = "no"

    def plan(self, ctx: Context) -> list[Between]:
        there = Between(name="out of the way", what="park")
        return [there, Between(name="stop", what="stop")] if self.stops == "yes" else [there]

    def summary(self, ctx: Context) -> str:
        return tr("to the tool-change place") + (tr(", stop") if self.stops == "yes" else "")


BLANK = re.compile(r"\{([A-Za-z][A-Za-z0-9 _-]{0,23})\}")
"""A blank in a line, to be filled in: `Z{depth}`."""
VALUE = re.compile(r"[A-Za-z0-9 .+-]{1,40}")
"""What may be filled in: a number, or words of a program."""
MOST_BLANKS = 40


class Blank(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A blank of lines and what stands in it."""

    name: str
    value: str = ""


def names_in(lines: Sequence[str]) -> list[str]:
    """The blanks of lines, each once, in the order in which they come."""
    return list(dict.fromkeys(name for line in lines for name in BLANK.findall(line)))[:MOST_BLANKS]


def _has_blanks(s: Answers) -> bool:
    return bool(names_in(s.lines))


@step("Lines of your own", "General", "G-code as you write it, read and proved like all of it", rank=4, planes=ANY)
class OwnLines(BetweenStep, frozen=True, kw_only=True, tag="own-lines"):
    """Answers of lines written by hand. They begin with the tool where the step before left it, off the work; behind them the
    machine is put back into the state that the rest of the program counts on."""

    lines: Annotated[
        tuple[str, ...],
        pick(
            "Lines",
            "code",
            WHAT,
            helps="Behind them the tool goes away and the first words come again. {depth} is a blank, to be filled in below.",
        ),
    ] = ()
    blanks: Annotated[
        tuple[Blank, ...],
        pick("Blanks", "blanks", WHAT, when=_has_blanks, helps="A line each: depth = -12.5. What stands in {depth} is that."),
    ] = ()

    @property
    def written(self) -> tuple[str, ...]:
        """The lines with their blanks filled in; a blank without a value stays as it is."""
        values = {blank.name: blank.value for blank in self.blanks}
        return tuple(BLANK.sub(lambda found: values.get(found.group(1), found.group()), line) for line in self.lines)

    @property
    def open_blanks(self) -> list[str]:
        """Blanks that have no value yet."""
        filled = {blank.name for blank in self.blanks if blank.value}
        return [name for name in names_in(self.lines) if name not in filled]

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"lines": ("M9",)}

    def troubles(self, ctx: Context) -> list[Trouble]:
        if not self.lines:
            return [Trouble("lines", tr("Nothing is written yet."), open=True)]
        if len(self.lines) > MOST_LINES:
            return [Trouble("lines", tr("More than {most_lines} lines are a program of their own.", most_lines=MOST_LINES))]
        if self.open_blanks:
            return [
                Trouble(
                    "blanks", tr("{open_blanks} has no value yet.", open_blanks=tr(" and ").join(self.open_blanks[:3])), open=True
                )
            ]
        for blank in self.blanks:
            if not VALUE.fullmatch(blank.value):
                return [
                    Trouble("blanks", tr("{name} is no number and no word: {value}.", name=blank.name, value=blank.value[:20]))
                ]
        for k, line in enumerate(self.written, 1):
            if FRAME.match(line):
                return [Trouble("lines", tr("Line {k} would begin or end the program.", k=k))]
            if len(line) > LONGEST or not WRITABLE.fullmatch(line):
                return [Trouble("lines", tr("Line {k} has signs that no control reads, or too many.", k=k))]
        return []

    def plan(self, ctx: Context) -> list[Between]:
        return [Between(name="by hand", what="code", lines=self.written)]

    def summary(self, ctx: Context) -> str:
        return tr("{lines} lines by hand", lines=len(self.lines)) if len(self.lines) != 1 else self.written[0]


def message_trouble(text: str) -> list[Trouble]:
    """A message that no comment can hold."""
    if len(text) > 60:
        return [Trouble("message", tr("Sixty signs at most: it has to fit on the control's screen."))]
    return []
