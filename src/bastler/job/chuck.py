"""The part in a chuck: jaws, tailstock, allowances for finishing, and the ways to and from the work.

A holding *follows* the one before it: the part turned round by hand, or handed over to the second chuck. Both are typed as the
first one: the zero is on the finished face in front, which then is the part's back.
"""

from __future__ import annotations

import math
from typing import TYPE_CHECKING, Annotated, Any, Literal, Union

import msgspec
import shapely

from bastler.ask import Answers, Question, Trouble, ask, choose, is_, isnt
from bastler.job.stock import BarStock, StockLook, next_number
from bastler.language import sayable, tr
from bastler.machines import GuideBush, MachineCard
from bastler.shapes.kinds import Region
from bastler.steps import STEPS, Step
from bastler.units import Kind

if TYPE_CHECKING:
    LatheStep = Step[Any]
else:
    LatheStep = Union[tuple(kind.cls for kind in STEPS.values() if "turned" in kind.planes or kind.driven)]  # noqa: UP007

CHUCK, ALLOWANCES, WAYS, ON_MACHINE = "Chuck", "Left for finishing", "Ways", "On the machine"
Offset = Literal["G54", "G55", "G56", "G57", "G58", "G59"]
_OFFSETS = {g: g for g in ("G54", "G55", "G56", "G57", "G58", "G59")}

FOLLOWS = {"over": "Turned round by hand", "handed": "Handed over to the second chuck"}
Follows = Literal["first", "over", "handed"]

_own_change = is_("change", "own")
_later = isnt("follows", "first")
_by_hand = isnt("follows", "handed")


def _jaw_d(s: Answers, ctx: StockLook) -> float:
    return float(round(2 * ctx.stock.outer() + ctx.mm(50.0), 1 if ctx.unit == "mm" else 2))


def _clear(s: Answers, ctx: StockLook) -> float:
    return 2.0 if ctx.unit == "mm" else 0.08


def _safe_d(s: Answers, ctx: StockLook) -> float:
    return float(round(2 * ctx.stock.outer() + ctx.mm(20.0), 0 if ctx.unit == "mm" else 2))


def _safe_z(s: Answers, ctx: StockLook) -> float:
    return float(round(ctx.stock.front + ctx.mm(5.0), 1 if ctx.unit == "mm" else 2))


def _leave_d(s: Answers, ctx: StockLook) -> float:
    return 0.8 if ctx.unit == "mm" else 0.03


def _leave_z(s: Answers, ctx: StockLook) -> float:
    return 0.1 if ctx.unit == "mm" else 0.004


def _offset_z(s: Answers, ctx: StockLook) -> float:
    two = ctx.card.second
    if s.follows == "handed" and two is not None:
        return float(round(two.jaws + s.stick_out - ctx.stock.front, 3 if ctx.unit == "mm" else 4))
    return float(round(ctx.mm(60.0) + s.stick_out, 3))


def _with_centre(s: Any) -> bool:
    return bool(s.tailstock == "yes" and s.follows != "handed")


def _with_steady(s: Any) -> bool:
    return bool(s.steady == "yes")


def _steady_wide(s: Answers, ctx: StockLook) -> float:
    return 25.0 if ctx.unit == "mm" else 1.0


def other_offset(taken: Offset) -> Offset:
    """The first work offset that is not taken in the other chuck."""
    return "G55" if taken == "G54" else "G54"


def centre_at(face: float, inner: float, body: float, mm: float) -> Region:
    """A tailstock's centre of 60° (ISO 866 holes), seated in a hole that is `inner` in radius at the face of the work: what of it
    stands in front of that, half section; its body has the radius `body`."""
    behind = face + max(body - inner, 0.0) / math.tan(math.radians(30.0))
    long = max(face + CENTRE_MM * mm, behind + mm)
    return shapely.Polygon([(face, 0.0), (face, inner), (behind, max(body, inner)), (long, max(body, inner)), (long, 0.0)])


CENTRE_MM = 200.0
"""How long a centre and what is behind it are taken to be."""
JAWS_MM, CHUCK_MM = 30.0, 40.0
"""How long jaws are along the axis, and the chuck behind them."""


def chuck_at(at: float, inner: float, reach: float, mm: float) -> list[tuple[str, Any]]:
    """A chuck whose jaws have their face at a length, out of it positive, and stand from a radius to another."""
    back = at - JAWS_MM * mm
    return [
        ("jaws", shapely.box(back, inner, at, max(reach, inner + 1e-3))),
        ("chuck", shapely.box(back - CHUCK_MM * mm, 0.0, back, max(reach, inner) * 1.1)),
    ]


HOW_HELD = sayable({"first": "In the chuck", "over": "Turned round", "handed": "In the second chuck"})
THROUGH = sayable("Through the guide bush")
BUSH_WORDS = sayable(
    {
        "stick_out": (
            "Comes out of the bush",
            "At most: the raw front to the face of the bush, the headstock all the way forward.",
        ),
        "jaw_d": ("Bush reaches to Ø", ""),
        "rating": ("Collet is good for", "Its own speed rating."),
    }
)
"""What is asked otherwise of a bar that slides through a guide bush: the words, and what helps."""


def said_of(question: Question, card: MachineCard) -> Question:
    """A question of a holding as a machine's words have it."""
    if card.bush is None or question.name not in BUSH_WORDS:
        return question
    says, helps = BUSH_WORDS[question.name]
    return msgspec.structs.replace(question, says=tr(says), helps=tr(helps))


class ChuckHolding(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="held", tag="chuck"):
    """A turned part in the chuck, with its steps."""

    id: str = "h1"
    name: str = ""
    typed: dict[str, str] = {}
    follows: Annotated[Follows, choose("The part is", FOLLOWS, CHUCK, when=_later)] = "first"
    stick_out: Annotated[
        float,
        ask(
            "Sticks out of the jaws", Kind.LENGTH, CHUCK, above=0, when=_by_hand, helps="The raw front to the face of the jaws."
        ),
    ] = 100.0  # fmt: skip
    jaw_d: Annotated[float | None, ask("Jaws reach to Ø", Kind.LENGTH, CHUCK, above=0, propose=_jaw_d)] = None
    rating: Annotated[
        float, ask("Chuck is good for", Kind.SPINDLE_SPEED, CHUCK, above=0, helps="Its own speed rating, stamped on it.")
    ] = 3000.0
    tailstock: Annotated[Literal["yes", "no"], choose("Tailstock centre", {"yes": "Yes", "no": "No"}, CHUCK, when=_by_hand)] = (
        "no"
    )
    centre_d: Annotated[float, ask("Centre's body Ø", Kind.LENGTH, CHUCK, above=0, when=_with_centre)] = 20.0
    steady: Annotated[Literal["yes", "no"], choose("Steady", {"yes": "Yes", "no": "No"}, CHUCK)] = "no"
    steady_at: Annotated[
        float, ask("Its middle at Z", Kind.LENGTH, CHUCK, when=_with_steady, helps="From the finished front.")
    ] = -50.0
    steady_wide: Annotated[
        float | None, ask("It is wide", Kind.LENGTH, CHUCK, above=0, propose=_steady_wide, when=_with_steady)
    ] = None
    steady_d: Annotated[float | None, ask("It reaches to Ø", Kind.LENGTH, CHUCK, above=0, propose=_jaw_d, when=_with_steady)] = (
        None
    )
    leave_d: Annotated[float | None, ask("On Ø", Kind.LENGTH, ALLOWANCES, least=0, propose=_leave_d)] = None
    leave_z: Annotated[float | None, ask("On Z", Kind.LENGTH, ALLOWANCES, least=0, propose=_leave_z)] = None
    clear: Annotated[float | None, ask("Rapids end off the stock", Kind.LENGTH, WAYS, above=0, propose=_clear)] = None
    safe_d: Annotated[
        float | None, ask("Safe Ø", Kind.LENGTH, WAYS, propose=_safe_d, helps="Stages begin and end there, in front of the work.")
    ] = None
    safe_z: Annotated[float | None, ask("Safe Z", Kind.LENGTH, WAYS, propose=_safe_z)] = None
    change: Annotated[
        Literal["home", "own"], choose("Tools change", {"home": "At home", "own": "At a place of their own"}, WAYS)
    ] = "home"
    change_d: Annotated[float, ask("Change at Ø", Kind.LENGTH, WAYS, when=_own_change)] = 150.0
    change_z: Annotated[float, ask("Change at Z", Kind.LENGTH, WAYS, when=_own_change)] = 100.0
    order: Annotated[
        Literal["x-z", "z-x", "both"],
        choose("Go there", {"x-z": "X, then Z", "z-x": "Z, then X", "both": "Both at once"}, WAYS),
    ] = "x-z"
    work_offset: Annotated[Offset, choose("Work offset", _OFFSETS, ON_MACHINE)] = "G54"
    offset_z: Annotated[
        float | None,
        ask("Zero at machine Z", Kind.LENGTH, ON_MACHINE, propose=_offset_z, helps="From the spindle's face, to check travels."),
    ] = None
    program_number: Annotated[
        int | None,
        ask("Program number", Kind.COUNT, ON_MACHINE, least=1, most=9999, propose=next_number, when=is_("follows", "over")),
    ] = None
    steps: tuple[LatheStep, ...] = ()

    @property
    def title(self) -> str:
        """The holding's own name, or how it is held."""
        return (
            self.name
            or {"first": tr("In the chuck"), "over": tr("Turned round"), "handed": tr("In the second chuck")}[self.follows]
        )

    def titled(self, card: MachineCard) -> str:
        """How it is called on a machine."""
        return self.title if self.name or card.bush is None or self.handed else tr(THROUGH)

    def plainly_titled(self, card: MachineCard) -> str:
        """The same in a program, which is one whoever reads it."""
        return self.name or (HOW_HELD[self.follows] if card.bush is None or self.handed else THROUGH)

    @property
    def handed(self) -> bool:
        """Does the part come from the other chuck, in the same program?"""
        return self.follows == "handed"

    def jaws_at(self, stock: BarStock) -> float:
        """The face of the jaws."""
        return stock.front - self.stick_out

    def keep_out(self, stock: BarStock, raw: Region, mm: float, bush: GuideBush | None = None) -> list[tuple[str, Any]]:
        """Jaws, chuck and tailstock, from filled answers, about the part as it comes, a half section; of a bar that slides the
        guide bush, where it is with the bar farthest out."""
        at, reach = self.jaws_at(stock), (self.jaw_d or 0.0) / 2
        z0, _, _, outer = raw.bounds
        gripped = raw.intersection(shapely.box(z0 - 1.0, 0.0, at, outer + 1.0)) if self.follows != "first" else raw
        inner = outer if gripped.is_empty else float(gripped.bounds[3])
        found = chuck_at(at, inner, max(reach, outer + 1e-3), mm)
        if bush is not None and not self.handed:
            found = [("bush", shapely.box(at - bush.long, inner, at, max(reach, outer + 1e-3)))]
        if self.tailstock == "yes" and not self.handed:
            found.append(("tailstock", centre_at(stock.front, 0.0, self.centre_d / 2, mm)))
        if self.steady == "yes":
            half, reach = (self.steady_wide or 0.0) / 2, (self.steady_d or 0.0) / 2
            found.append(("steady", shapely.box(self.steady_at - half, outer, self.steady_at + half, max(reach, outer + 1e-3))))
        return found

    def troubles(self, stock: BarStock, bush: GuideBush | None = None) -> list[Trouble]:
        """What does not go together, from filled answers."""
        found = []
        if bush is not None and not self.handed:
            if self.follows == "over":
                found.append(Trouble("follows", tr("A part turned round is no bar any more that slides through the guide bush.")))
            if self.stick_out > bush.stroke + 1e-9:
                found.append(Trouble("stick_out", tr("The headstock slides by {stroke:.4g}.", stroke=bush.stroke), bush.stroke))
            if "yes" in (self.steady, self.tailstock):
                name = "steady" if self.steady == "yes" else "tailstock"
                found.append(Trouble(name, tr("The guide bush is what holds the bar there."), "no"))
        if self.stick_out > stock.length + 1e-9:
            found.append(Trouble("stick_out", tr("Sticks out further than it is long.")))
        if self.steady == "yes":
            half, back = (self.steady_wide or 0.0) / 2, self.jaws_at(stock)
            if not back < self.steady_at - half < self.steady_at + half < stock.front:
                found.append(Trouble("steady_at", tr("Not between the jaws and the front."), round((back + stock.front) / 2, 3)))
        if not found and (self.safe_d or 0.0) / 2 <= stock.outer():
            found.append(Trouble("safe_d", tr("Inside the stock."), round(2 * stock.outer() + (self.clear or 0.0) * 2, 3)))
        if not found and (self.safe_z or 0.0) <= stock.front:
            found.append(Trouble("safe_z", tr("Not in front of the stock."), round(stock.front + (self.clear or 0.0), 3)))
        return found
