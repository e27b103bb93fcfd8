"""The setup of a turned part: bar, tube, hex bar or forging in a chuck, with one budget for its length.

The zero is on the finished front face. The raw length, what comes off the front and what is left for the back face make the
finished length; nothing of it is typed twice. Numbers are in the job's unit; diameters are diameters.
"""

from __future__ import annotations

import math
from typing import Annotated, Any, Literal

import msgspec
import shapely

from bastler.ask import Trouble, ask, choose, is_, pick
from bastler.shapes import TurnedOutline, draw
from bastler.shapes.chain import points_on
from bastler.units import Kind

STOCK, LENGTH, CHUCK, ALLOWANCES, WAYS = "Stock", "Length", "Chuck", "Left for finishing", "Ways"
ON_MACHINE = "On the machine"
COMES = {"off": "Comes off", "stays": "Stays"}
"""What becomes of an allowance in this holding."""
FORMS = {"bar": "Bar", "tube": "Tube", "hex": "Hex bar", "forging": "Forging"}
_OFFSETS = {g: g for g in ("G54", "G55", "G56", "G57", "G58", "G59")}

_own_change = is_("change", "own")


def _jaw_d(s: Any, ctx: Any) -> float:
    return float(round(2 * s.outer() + ctx.mm(50.0), 1 if ctx.unit == "mm" else 2))


def _clear(s: Any, ctx: Any) -> float:
    return 2.0 if ctx.unit == "mm" else 0.08


def _safe_d(s: Any, ctx: Any) -> float:
    return float(round(2 * s.outer() + ctx.mm(20.0), 0 if ctx.unit == "mm" else 2))


def _safe_z(s: Any, ctx: Any) -> float:
    return float(round(s.front + ctx.mm(5.0), 1 if ctx.unit == "mm" else 2))


def coolant_of(s: Any, ctx: Any) -> str:
    """What the material is cut with, where the machine has it."""
    return str(ctx.material.coolant) if ctx.card.coolant else "dry"


Pace = Annotated[
    float,
    ask(
        "Speeds and feeds",
        Kind.PERCENT,
        STOCK,
        least=0,
        most=100,
        ends=("careful", "brisk"),
        helps="Moves all that is proposed within the material's ranges; what was typed stays.",
    ),
]
"""How brisk proposals are, on both kinds of machine."""
CoolantChoice = Annotated[
    Literal["flood", "mist", "dry"] | None,
    choose("Coolant", {"flood": "Flood", "mist": "Mist", "dry": "Dry"}, STOCK, propose=coolant_of),
]


def _leave_d(s: Any, ctx: Any) -> float:
    return 0.8 if ctx.unit == "mm" else 0.03


def _leave_z(s: Any, ctx: Any) -> float:
    return 0.1 if ctx.unit == "mm" else 0.004


def _offset_z(s: Any, ctx: Any) -> float:
    return float(round(ctx.mm(60.0) + s.stick_out, 3))


class TurnHolding(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="holds", tag="turning"):
    """One holding of a turned part: stock, lengths, chuck and allowances; the document adds its steps."""

    typed: dict[str, str] = {}
    material: Annotated[str, pick("Material", "material", STOCK)] = "steel-alloy"
    pace: Pace = 50.0
    coolant: CoolantChoice = None
    form: Annotated[Literal["bar", "tube", "hex", "forging"], choose("Stock is a", FORMS, STOCK)] = "bar"
    diameter: Annotated[float, ask("Outside Ø", Kind.LENGTH, STOCK, above=0, when=is_("form", "bar", "tube"))] = 60.0
    bore: Annotated[
        float,
        ask("Bore Ø", Kind.LENGTH, STOCK, above=0, when=is_("form", "tube"), helps="The hole that is in the stock already."),
    ] = 20.0
    across_flats: Annotated[float, ask("Across flats", Kind.LENGTH, STOCK, above=0, when=is_("form", "hex"))] = 41.0
    forged: Annotated[str, pick("Outline of the forging", "outline", STOCK, when=is_("form", "forging"))] = ""
    length: Annotated[float, ask("Raw length", Kind.LENGTH, LENGTH, above=0, helps="As sawn.")] = 120.0
    over_front: Annotated[float, ask("Too much at the front", Kind.LENGTH, LENGTH, least=0)] = 1.0
    front_comes: Annotated[
        Literal["off", "stays"],
        choose("The front", COMES, LENGTH, when=lambda s: s.over_front > 0, helps="Off here, or left for the next holding."),
    ] = "off"
    over_back: Annotated[
        float, ask("Left on the back face", Kind.LENGTH, LENGTH, least=0, helps="For facing the other side in the next setup.")
    ] = 0.0
    finished: Annotated[
        float, ask("Finished length", Kind.LENGTH, LENGTH, above=0, helps="From finished face to finished face.")
    ] = 80.0
    stick_out: Annotated[
        float, ask("Sticks out of the jaws", Kind.LENGTH, LENGTH, above=0, helps="The raw front to the face of the jaws.")
    ] = 100.0
    jaw_d: Annotated[float | None, ask("Jaws reach to Ø", Kind.LENGTH, CHUCK, above=0, propose=_jaw_d)] = None
    rating: Annotated[
        float, ask("Chuck is good for", Kind.SPINDLE_SPEED, CHUCK, above=0, helps="Its own speed rating, stamped on it.")
    ] = 3000.0
    tailstock: Annotated[Literal["yes", "no"], choose("Tailstock centre", {"yes": "Yes", "no": "No"}, CHUCK)] = "no"
    centre_d: Annotated[float, ask("Centre's body Ø", Kind.LENGTH, CHUCK, above=0, when=is_("tailstock", "yes"))] = 20.0
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
    work_offset: Annotated[Literal["G54", "G55", "G56", "G57", "G58", "G59"], choose("Work offset", _OFFSETS, ON_MACHINE)] = "G54"
    offset_z: Annotated[
        float | None,
        ask("Zero at machine Z", Kind.LENGTH, ON_MACHINE, propose=_offset_z, helps="From the spindle's face, to check travels."),
    ] = None

    @property
    def front(self) -> float:
        """The raw front face."""
        return self.over_front

    @property
    def jaws_at(self) -> float:
        """The face of the jaws."""
        return self.front - self.stick_out

    def outer(self) -> float:
        """The largest radius of the stock; a hex bar's is at its corners."""
        if self.form == "hex":
            return self.across_flats / 2 / math.cos(math.radians(30.0))
        return self.diameter / 2

    def region(self, outlines: dict[str, TurnedOutline], mm: float) -> Any:
        """The raw stock as a half section (z, r); `mm` is one millimetre in the job's unit."""
        back, front = self.front - self.length, self.front
        if self.form == "forging":
            shape = outlines.get(self.forged)
            chain = draw(shape).chain if shape else ()
            if chain:
                points = points_on(chain, 0.0005 * mm)
                ends = [(points[-1][0], 0.0), (points[0][0], 0.0)]
                return shapely.make_valid(shapely.Polygon([*points, *ends]))
        inner = self.bore / 2 if self.form == "tube" else 0.0
        return shapely.box(back, inner, front, max(self.outer(), inner + 1e-6))

    def keep_out(self, outlines: dict[str, TurnedOutline], mm: float) -> list[tuple[str, Any]]:
        """Jaws, chuck and tailstock, from filled answers."""
        at, reach = self.jaws_at, (self.jaw_d or 0.0) / 2
        outer = float(self.region(outlines, mm).bounds[3])
        depth = 30.0 * mm
        found = [("jaws", shapely.box(at - depth, outer, at, max(reach, outer + 1e-3)))]
        found.append(("chuck", shapely.box(at - depth - 40 * mm, 0.0, at - depth, max(reach, outer) * 1.1)))
        if self.tailstock == "yes":
            r, z = self.centre_d / 2, self.front
            found.append(
                (
                    "tailstock",
                    shapely.Polygon(
                        [(z, 0.0), (z + r / math.tan(math.radians(30.0)), r), (z + 200 * mm, r), (z + 200 * mm, 0.0)]
                    ),
                )
            )
        return found

    def troubles(self, outlines: dict[str, TurnedOutline]) -> list[Trouble]:
        """What does not go together."""
        found = []
        if self.form == "tube" and self.bore >= self.diameter:
            found.append(Trouble("bore", "Larger than the outside."))
        if self.form == "forging" and (self.forged not in outlines or draw(outlines[self.forged]).troubles):
            found.append(Trouble("forged", "Pick or complete the outline of the forging."))
        need = self.over_front + self.finished + self.over_back
        if need > self.length + 1e-9:
            found.append(Trouble("length", f"The raw length has to be {need:g} at least: front, finished length and back.", need))
        if self.stick_out > self.length + 1e-9:
            found.append(Trouble("stick_out", "Sticks out further than it is long."))
        if not found and (self.safe_d or 0.0) / 2 <= self.outer():
            found.append(Trouble("safe_d", "Inside the stock.", round(2 * self.outer() + (self.clear or 0.0) * 2, 3)))
        if not found and (self.safe_z or 0.0) <= self.front:
            found.append(Trouble("safe_z", "Not in front of the stock.", round(self.front + (self.clear or 0.0), 3)))
        return found
