"""What every step is: a frozen struct of answers that can plan itself, say what it removes, and sketch itself."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any, ClassVar, Generic, Literal, TypeAlias, TypeVar

import msgspec

from bastler.ask import Trouble, filled, problems
from bastler.language import sayable, tr
from bastler.machines import MachineCard
from bastler.motion import Go, Move
from bastler.steps.context import Context
from bastler.tools import AnyTool
from bastler.units import Unit

Point = tuple[float, float]
PlaneKind = Literal["flat", "turned", "wrapped"]
"""What a step thinks in: u, v and w out of the material, or z and r of turned work."""
FLAT: tuple[PlaneKind, ...] = ("flat",)
TURNED: tuple[PlaneKind, ...] = ("turned",)
SaidAs = Literal["flat", "turned", "wrapped", "side"]
"""How programs tell planes apart: a flat one may lie on the side of a part in a chuck."""
WRAPPED: tuple[PlaneKind, ...] = ("wrapped",)
ANY: tuple[PlaneKind, ...] = ("flat", "turned", "wrapped")
GROUPS = ("Surface", "Outside", "Pockets", "Ends", "Outlines", "Grooves and threads", "Holes", "General")
"""The groups of steps in the order in which they are offered."""
C = TypeVar("C", bound=Context, contravariant=True)
"""What a step is planned in: where the stock is seen as its kind of plane sees it, or either for steps between the features."""


Given: TypeAlias = dict[str, Any]
"""Answers by their names, as a new step arrives with them."""


class Dim(msgspec.Struct, frozen=True):
    """One dimension on the sheet: the field it is, where it is measured, and how it is drawn.

    `field` names an answer of the step, or `pattern.x` for one of its pattern. In the plan points are (x, y); in the section
    (distance along the section line, z). `how`: "along x", "along y", "aligned", "diameter", "radius", "angle", "depth". In the
    half section of turned work points are (z, r) and `how` is "length", "diameter", "radius" or "name".
    `side` shifts a dimension line away from the part: +1 or -1.
    """

    field: str
    view: Literal["plan", "section", "half"]
    how: str
    a: Point
    b: Point
    side: int = 1


class Sketch(msgspec.Struct, frozen=True, kw_only=True):
    """What the sheet draws besides stock and removals: where the section runs, dimensions, hole centres."""

    section: tuple[Point, Point]
    dims: tuple[Dim, ...] = ()
    spots: tuple[tuple[int, Point, bool], ...] = ()
    centre: Point | None = None


class TurnSketch(msgspec.Struct, frozen=True, kw_only=True):
    """What the half-section sheet draws besides stock and removal: the step's outline and its dimensions, in (z, r)."""

    lines: tuple[tuple[Point, ...], ...] = ()
    dims: tuple[Dim, ...] = ()


class ThreadLines(msgspec.Struct, frozen=True, kw_only=True):
    """A thread as ISO 6410-1 draws it: the radius of its `crest`, a wide line, and of its `root`, a narrow one, along its axis
    from `begin` to where the full thread has its `end`. `inside` is a nut's; `at` is where the axis stands in the plan of a flat
    plane."""

    begin: float
    end: float
    crest: float
    root: float
    inside: bool
    at: Point = (0.0, 0.0)


class Spin(msgspec.Struct, frozen=True):
    """How fast the spindle turns, that of the tool or on a turned plane that of the work: `n` turns a minute, 0 stands, or
    constant surface speed `vc` (unit of the job) up to `cap` turns; forward or `back`."""

    n: float
    vc: float = 0.0
    cap: float = 0.0
    back: bool = False

    @property
    def stands(self) -> bool:
        """Does the work stand?"""
        return self.n <= 0.0 and self.vc <= 0.0

    def turns_at(self, radius: float, unit: Unit) -> float:
        """Turns a minute of the work at a radius (> 0, in `unit`): n = vc / 2πr, vc in m or in feet a minute."""
        if self.vc <= 0.0:
            return self.n
        return min(self.vc * (1000.0 if unit == "mm" else 12.0) / (2 * math.pi * radius), self.cap)


STAGES = sayable(
    ("face", "rough", "finish", "rest", "edge", "engrave", "flats", "groove", "thread", "part off", "rough from behind",
     "finish from behind", "spot", "drill", "ream", "tap", "bore", "counterbore", "countersink", "hand over", "next bar",
     "stop", "wait", "out of the way", "by hand", "moves", "chamfer", "flat", "centre in", "centre out")
)  # fmt: skip
"""What stages, and what stands between them, are called. In a program they are called so in every language."""


class Stage(msgspec.Struct, frozen=True, kw_only=True):
    """What one tool does within a step on one kind of plane: from `start`, a safe place over the part or in front of it, its
    moves, the last one back to such a place.
    One that `parts` takes the part off. On the `side` of a part in a chuck it is done at that angle of C, in degrees; with a
    radius `around` it goes round from there.
    Where parts on the table differ, `each` are the stages of the second one and on. With `copies` it is
    made at these places, shifted from where its moves are, and not there."""

    name: str
    plane: PlaneKind = "flat"
    tool: AnyTool
    spin: Spin
    start: tuple[float, float, float]
    moves: tuple[Move, ...]
    each: tuple[Stage, ...] = ()
    copies: tuple[Point, ...] = ()
    side: float | None = None
    around: float = 0.0
    parts: bool = False

    @property
    def said_as(self) -> SaidAs:
        """What a machine says it as."""
        if self.around > 0.0:
            return "wrapped"
        return self.plane if self.side is None else "side"

    def straight_in(self) -> Stage:
        """The same, come to over the place where its first rapids go down to, and not beside it: from the height where a stage
        begins every place can be come to."""
        rapids = list(itertools.takewhile(lambda move: isinstance(move, Go), self.moves))
        each = tuple(stage.straight_in() for stage in self.each)
        if not rapids:
            return self if each == self.each else msgspec.structs.replace(self, each=each)
        last = rapids[-1]
        assert isinstance(last, Go)
        moves = (last, *self.moves[len(rapids) :]) if last.w != self.start[2] else self.moves[len(rapids) :]
        return msgspec.structs.replace(self, start=(last.u, last.v, self.start[2]), moves=moves, each=each)


class Between(msgspec.Struct, frozen=True, kw_only=True):
    """What stands between stages and cuts nothing: a stop, always or *optional*, with a message; a wait of `seconds`; the way to
    the tool-change place (*park*); `lines` of G-code written by hand; or *words* of the machine card as `lines`."""

    name: str
    what: Literal["stop", "optional", "wait", "park", "code", "grip", "words"]
    text: str = ""
    seconds: float = 0.0
    lines: tuple[str, ...] = ()


class Transfer(Between, frozen=True, kw_only=True):
    """The second chuck comes to the work and takes hold of it. Its jaws' face comes to `grip`, a length on the part, in rapid
    up to `near` before it, then with a `feed` a minute; where there is a `force`, in newtons, it pushes with that until its seat
    meets the work, within a `window` of where it was sent. The work turns `turns` times a minute, 0 stands; both spindles are
    `together` at one speed or angle, or not. Then it may `pull` the bar out by a length, while the main chuck is open."""

    what: Literal["grip"] = "grip"
    grip: float
    near: float
    feed: float
    force: float = 0.0
    window: float = 0.0
    turns: float = 0.0
    together: Literal["", "speed", "angle"] = ""
    pull: float = 0.0


class Step(msgspec.Struct, Generic[C], frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="kind"):
    """The base of all feature cycles.

    `typed` keeps what was typed into number fields where it was more than a plain number. A subclass declares its answers as
    annotated fields and implements `plan`, `removes`, `sketch` and `summary`; it may add `troubles`.
    """

    groups: ClassVar[tuple[str, ...]] = ()
    """The groups of questions of its kind in the order they are shown."""
    first_groups: ClassVar[tuple[str, ...]] = ()
    """Those that it shares with others, before them."""

    id: str
    name: str = ""
    on: bool = True
    typed: dict[str, str] = {}

    @property
    def title(self) -> str:
        """The step's own name, or what its kind is called."""
        return self.name or tr(kind_of(self).title)

    @property
    def plain_title(self) -> str:
        """The same in a program, which is one whoever reads it."""
        return self.name or kind_of(self).title

    def limits(self, ctx: C) -> Mapping[str, tuple[float, float]]:
        """Between which sizes an answer, by its field, has to come out on the part, where the print or a standard says so."""
        return {}

    def also_measured(self, ctx: C) -> Sequence[tuple[str, float, tuple[float, float] | None]]:
        """Sizes that are no answers and are measured all the same: what it is, how large it is to be, and its limits."""
        return ()

    @classmethod
    def all_groups(cls) -> tuple[str, ...]:
        """The groups of questions in the order they are shown."""
        return cls.first_groups + cls.groups

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        """The answers of a new one that fits the stock."""
        return {}

    def plan(self, ctx: C) -> Sequence[Stage | Between]:
        """The stages, from filled answers. Only called when there are no troubles."""
        raise NotImplementedError

    def removes(self, ctx: C) -> list[Any]:
        """What will be gone, exactly and without looking at the path, from filled answers."""
        raise NotImplementedError

    def wants(self, ctx: C) -> list[Any]:
        """What should be gone, whatever the tip of a tool can do about it; `removes` is what will be."""
        return self.removes(ctx)

    def differs(self) -> bool:
        """Is it another shape on each of several parts?"""
        return False

    def removes_on(self, ctx: C, part: int) -> list[Any]:
        """What will be gone of a part, counted from 0, where parts differ."""
        return self.removes(ctx)

    def sketch(self, ctx: C) -> Sketch | TurnSketch:
        """Section line and dimensions, from filled answers."""
        raise NotImplementedError

    def threads(self, ctx: C) -> Sequence[ThreadLines]:
        """The threads that it makes, for drawings, from filled answers."""
        return ()

    def summary(self, ctx: C) -> str:
        """One line for the route card, from filled answers."""
        raise NotImplementedError

    def unfit(self, ctx: C) -> list[Trouble]:
        """A tool that is not for this work at all, from filled answers: said in the place of what follows from it."""
        return []

    def troubles(self, ctx: C) -> list[Trouble]:
        """Contradictions between filled answers that the bounds of single questions cannot see."""
        return []

    def tools_used(self) -> tuple[str | None, ...]:
        """Ids of the tools, in the order of the stages, from filled answers."""
        return ()

    def sources(self, ctx: C) -> dict[str, str]:
        """Where computed answers come from, by answer, from filled answers."""
        return {}

    def says(self, ctx: C) -> list[tuple[str, str]]:
        """What the cutting data means, as (group, line) pairs shown under that group."""
        return []


class Arrival(msgspec.Struct, frozen=True):
    """What a new step may look at to arrive with answers that prove: the stock's centre and size, the unit, and the diameters of
    the end mills there are, smallest first, and of the drills, the canned cycles of the machine, and whether it has Y. Of a bar
    also its finished length, its raw front, the diameters that are `turned`, and whether there is a hole in the middle to go on
    with."""

    centre: tuple[float, float]
    size: tuple[float, float, float]
    unit: Unit
    mills: tuple[float, ...]
    drills: tuple[float, ...]
    cycles: tuple[str, ...] = ()
    has_y: bool = True
    finished: float = 0.0
    front: float = 0.0
    turned: tuple[float, ...] = ()
    spotted: bool = False

    @property
    def surface(self) -> float:
        """Of a bar: the smallest diameter that it is turned to."""
        return min(self.turned, default=0.0)

    @property
    def small(self) -> float:
        """A millimetre, or as much in inches as one would say instead: 0.04."""
        return 1.0 if self.unit == "mm" else 0.04

    def centred(self) -> dict[str, float]:
        """In the middle of the stock."""
        return {"x": round(self.centre[0], 3), "y": round(self.centre[1], 3)}

    def rounded(self, length: float) -> float:
        """A length as a person would choose it."""
        return round(length, 0 if self.unit == "mm" else 2)

    def fine(self, length: float) -> float:
        """A length on a lathe, as a person would choose it."""
        return round(length, 1 if self.unit == "mm" else 3)

    def deep(self, share: float) -> float:
        """A depth as a share of the stock's."""
        return round(self.size[2] * share, 1 if self.unit == "mm" else 3)

    def mill(self, most: float) -> float:
        """The largest end mill that is no wider; else the smallest."""
        return next((d for d in reversed(self.mills) if d <= most), self.mills[0] if self.mills else most)


class StepKind(msgspec.Struct, frozen=True):
    """An entry of the registry: what the board shows, and the kinds of planes that it works on. `needs_cycle` is a canned cycle
    without which it cannot be done; `chucked` says whether a step of a flat plane is done on a part in a chuck too, `on_round`
    whether only on the side of such a part; `needs_y` is that no lathe without a Y axis does it, `needs_second` that none
    without a second spindle, `needs_words` that one of these of the dialect's has to be known."""

    tag: str
    title: str
    group: str
    says: str
    cls: type[AnyStep]
    planes: tuple[PlaneKind, ...] = FLAT
    rank: int = 5
    needs_cycle: str = ""
    chucked: bool = True
    on_round: bool = False
    needs_y: bool = False
    needs_second: bool = False
    needs_words: tuple[str, ...] = ()

    def possible(self, plane: PlaneKind, card: MachineCard) -> bool:
        """Can it be done at all, on a part whose main plane that is and by a machine?"""
        in_chuck = plane == "turned" and self.driven and (card.drives_radially if self.on_round else card.drives)
        here = in_chuck or plane in self.planes
        if (self.needs_y and not card.has_y) or (self.needs_second and not card.hands_over):
            return False
        if self.needs_words and not any(getattr(card.dialect, name) for name in self.needs_words):
            return False
        return here and (not self.needs_cycle or self.needs_cycle in card.dialect.cycles)

    @property
    def driven(self) -> bool:
        """Is it done by a driven tool where the part is in a chuck?"""
        return self.on_round or (self.chucked and "flat" in self.planes and "turned" not in self.planes)


STEPS: dict[str, StepKind] = {}
AnyStep = Step[Any]
"""A step on whatever plane: who plans it gives it the context that it is registered for."""
S = TypeVar("S", bound=AnyStep)


def step(
    title: str,
    group: str,
    says: str,
    *,
    planes: tuple[PlaneKind, ...] = FLAT,
    rank: int = 5,
    needs_cycle: str = "",
    chucked: bool = True,
    on_round: bool = False,
    needs_y: bool = False,
    needs_second: bool = False,
    needs_words: tuple[str, ...] = (),
) -> Callable[[type[S]], type[S]]:
    """Registers a step class under its struct tag; a tag may be used once, a group is one of `GROUPS`: else ValueError.
    Of a group the lowest rank is shown first."""

    def register(cls: type[S]) -> type[S]:
        tag = str(cls.__struct_config__.tag)
        if tag in STEPS or group not in GROUPS:
            raise ValueError(f"A step called {tag} is registered already, or there is no group called {group}.")
        STEPS[tag] = StepKind(
            tag,
            title,
            group,
            says,
            cls,
            () if on_round else planes,
            rank,
            needs_cycle,
            chucked,
            on_round,
            needs_y,
            needs_second,
            needs_words,
        )
        return cls

    return register


def kind_of(struct: AnyStep) -> StepKind:
    """The entry of the registry that a step is of."""
    return STEPS[str(struct.__struct_config__.tag)]


def fill(struct: S, ctx: Context) -> S:
    """The step with its computed answers worked out."""
    return filled(struct, ctx)


def trouble_with(struct: AnyStep, ctx: Context) -> list[Trouble]:
    """Everything that is wrong with a step's answers; empty when it can be planned."""
    return troubles_of(filled(struct, ctx), ctx)


class Unfilled(ValueError):
    """A step asks for an answer that is neither given nor worked out."""

    @property
    def trouble(self) -> Trouble:
        """What is said of it: the step cannot be planned."""
        return Trouble("name", str(self))


def troubles_of(full: AnyStep, ctx: Context) -> list[Trouble]:
    """The same for a step that is filled already."""
    try:
        return full.unfit(ctx) or problems(full) or full.troubles(ctx)
    except Unfilled as error:  # of a choice that this kind of step does not offer, from a file
        return [error.trouble]


T = TypeVar("T", bound=msgspec.Struct)


def replaced(struct: T, **changes: Any) -> T:
    """A copy with some answers changed."""
    return msgspec.structs.replace(struct, **changes)
