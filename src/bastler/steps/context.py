"""All that a step may look at when it plans: the holding around it and the stock as it is before it."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from typing import Any

import shapely
from shapely.geometry import Polygon

from bastler.cutting import Material
from bastler.machines import MachineCard
from bastler.shapes import AnyOutline, Box, Flat, Pattern, PlanOutline, Removal, Revolved, TurnedPart
from bastler.shapes.prepared import prepared
from bastler.tools import AnyTool, Tool
from bastler.units import Unit, scale

HOLES = b"holes"
ALL = b"all"


@dataclass(frozen=True)
class Context:
    """What every step may look at, whatever plane it works on, in the job's unit. `clear` is how far off the stock rapids end.

    A step thinks in one kind of plane, and its functions are written for the stock as that plane sees it: these contexts are the
    two below this one, `FlatContext` and `TurnedContext`. What works on any plane asks for no more than this.
    """

    unit: Unit
    material: Material
    card: MachineCard
    tools: Sequence[AnyTool]
    patterns: Mapping[str, Pattern]
    outlines: Mapping[str, AnyOutline]
    clear: float
    pace: float = field(default=0.5, kw_only=True)
    """How brisk proposals are: 0 careful, 1 brisk."""

    def tool(self, ident: str | None) -> AnyTool | None:
        """The job's tool of that id, None when there is none."""
        return next((t for t in self.tools if t.id == ident), None)

    def mm(self, value: float) -> float:
        """A length given in millimetres, in the job's unit."""
        return value * scale("mm", self.unit)

    def to_mm(self, value: float) -> float:
        """A length of the job, in millimetres."""
        return value * scale(self.unit, "mm")


@dataclass(frozen=True)
class FlatContext(Context):
    """A milling setup, seen from part zero.

    `safe` is the height for going across between stages; `before`
    are the removals of the steps before this one; `loaded` the ids of the tools that are in the machine, None for all; `parts`
    how many parts there are on the table. What a step finds out about what is before by `surface` and `holes` is remembered, so
    that it can be told later whether anything that it depends on has changed.
    """

    tools: Sequence[Tool]
    outlines: Mapping[str, PlanOutline]
    stock: Box
    safe: float
    jaws: Sequence[Box] = ()
    loaded: frozenset[str] | None = None
    parts: int = 1
    before: Sequence[Removal] = field(default=())
    under: Sequence[Removal] = field(default=())
    """What holdings before have taken from below, heights counted downward."""
    turned: TurnedPart | None = None
    """On the end face of a part in a chuck, or on its side: what turning has left of it."""
    _asked: dict[bytes, Any] = field(default_factory=dict, compare=False, repr=False)

    def behind(self, before: Sequence[Removal]) -> FlatContext:
        """The context of the step behind those removals."""
        return replace(self, before=before, _asked={})

    def further(self, removals: Sequence[Removal]) -> FlatContext:
        """The context within a step, behind what its own first stages take away. What is asked there counts as asked here: of
        the holes, and where it is a surface, of everything."""
        changed = {"before": (*self.before, *removals), "_asked": {}, "outer": self}
        return _Within(**_fields_of(self) | changed) if removals else self

    def agrees(self, other: FlatContext) -> bool:
        """Is all that a step asked of what is before it answered alike there?"""
        return all(
            other.holes == answer
            if key == HOLES
            else other.before == answer
            if key == ALL
            else other.surface(shapely.from_wkb(key)) == answer
            for key, answer in self._asked.items()
        )

    def tool(self, ident: str | None) -> Tool | None:
        return next((t for t in self.tools if t.id == ident), None)

    def in_machine(self) -> FlatContext:
        """The same with the tools alone that are in the machine."""
        if self.loaded is None:
            return self
        return replace(self, tools=tuple(t for t in self.tools if t.id in self.loaded))

    @property
    def near(self) -> float:
        """How far above a surface just cut rapids end: the holding's clearance, but no more than a millimetre or 0.04 in."""
        return min(self.clear, 1.0 if self.unit == "mm" else 0.04)

    def clear_over(self, surface: float) -> float:
        """How far above a surface rapids end: nearer to one that was cut before, and so is where it is said to be."""
        return self.near if surface < self.stock.hi[2] - self.mm(0.01) else self.clear

    @property
    def go_across(self) -> float:
        """Height for going across within a step: clear of stock and jaws."""
        tops = [self.stock.hi[2], *(jaw.hi[2] for jaw in self.jaws)]
        return min(max(tops) + self.clear, self.safe)

    def surface(self, region: Polygon) -> float:
        """The highest point of what is left inside `region`, from the steps before, exact."""
        key = region.wkb
        if key not in self._asked:
            self._asked[key] = self._surface(region)
        return float(self._asked[key])

    @property
    def holes(self) -> tuple[Revolved, ...]:
        """The holes of the steps before."""
        found = tuple(r for r in self.before if isinstance(r, Revolved))
        self._asked[HOLES] = found
        return found

    def remember_all(self) -> None:
        """Something was found out about what is before that cannot be asked again in a simpler way."""
        self._asked[ALL] = self.before

    def _surface(self, region: Polygon) -> float:
        rest = region.intersection(self.stock.plan)
        tiny = max(region.area, 1e-12) * 1e-6
        if rest.area <= tiny:
            return self.stock.hi[2]
        highest = -math.inf  # of what a deeper floor covers: turning may have left less beside it
        flats = sorted((r for r in self.before if isinstance(r, Flat)), key=lambda r: r.floor)
        for flat in flats:
            own = prepared(flat.region)
            if own.covers(rest):
                return max(highest, min(flat.floor, self.top_of(rest)))
            if own.intersects(rest):
                if self.turned is not None:
                    highest = max(highest, min(flat.floor, self.top_of(rest.intersection(flat.region))))
                rest = rest.difference(flat.region)
            if rest.area <= tiny:
                return min(flat.floor, self.stock.hi[2]) if self.turned is None else highest
        return max(highest, self.top_of(rest))

    def top_of(self, region: Polygon) -> float:
        """The highest point inside a region of the stock as no step on this plane has cut it yet."""
        return self.stock.hi[2] if self.turned is None else min(self.turned.highest(region), self.stock.hi[2])


@dataclass(frozen=True)
class _Within(FlatContext):
    """A context behind some stages of one step; `outer` is the step's own, which remembers what was asked."""

    outer: FlatContext | None = field(default=None, compare=False, repr=False)

    def surface(self, region: Polygon) -> float:
        if self.outer is not None:
            self.outer.remember_all()
        return super().surface(region)

    @property
    def holes(self) -> tuple[Revolved, ...]:
        assert self.outer is not None
        own = self.before[len(self.outer.before) :]
        return (*self.outer.holes, *(r for r in own if isinstance(r, Revolved)))

    def remember_all(self) -> None:
        if self.outer is not None:
            self.outer.remember_all()


def _fields_of(ctx: FlatContext) -> dict[str, Any]:
    return {f.name: getattr(ctx, f.name) for f in fields(ctx)}
