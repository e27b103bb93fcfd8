"""A run of steps again: in a line or a grid, turned about a centre, mirrored.

What is repeated are the ways of the steps before it, as they were planned. Each of their stages is made at all copies before the
next one comes, so that no tool is called twice.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, ClassVar, Generic, Literal, Protocol

from bastler.ask import Answers, Trouble, ask, choose, is_
from bastler.language import many, tr
from bastler.motion.placed import placed_moves
from bastler.shapes import Removal
from bastler.shapes.placing import Placing, mirrored_at, placed_removal, shifted_by, turned_about
from bastler.steps.base import TURNED, AnyStep, Arrival, Between, C, Dim, Given, Sketch, Stage, Step, TurnSketch, replaced, step
from bastler.steps.context import FlatContext
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.cut import TurningStep
from bastler.units import Kind

WHAT, WHERE = "What", "Where"
HOW = {"grid": "Side by side", "turned": "Turned", "mirrored": "Mirrored", "scaled": "Scaled"}
MOST = 400


class Done(Protocol):
    """A planned step of the run, as far as a repetition goes."""

    @property
    def step(self) -> AnyStep: ...
    @property
    def stages(self) -> tuple[Stage | Between, ...]: ...
    @property
    def removals(self) -> tuple[Any, ...]: ...


_grid = is_("how", "grid")
_turned = is_("how", "turned")
_scaled = is_("how", "scaled")
_mirrored = is_("how", "mirrored")


def _centred(s: Answers) -> bool:
    return _turned(s) or _scaled(s)


def _across(s: Answers) -> bool:
    return _mirrored(s) and s.mirror != "y"


def _along(s: Answers) -> bool:
    return _mirrored(s) and s.mirror != "x"


class Again(Step[C], Generic[C], frozen=True, kw_only=True):
    """A run of steps again at other places of their plane."""

    groups: ClassVar[tuple[str, ...]] = (WHAT, WHERE)

    back: Annotated[
        int, ask("Steps before this one", Kind.COUNT, WHAT, least=1, most=50, helps="So many of them are repeated.")
    ] = 1

    def run_troubles(self, run: Sequence[Done]) -> list[Trouble]:
        """What keeps the run of planned steps before it from being repeated."""
        if len(run) < self.back:
            return [Trouble("back", tr("There are only {many} before this one.", many=many(len(run), "step")), len(run) or None)]
        if any(isinstance(done.step, Again) for done in run):
            return [Trouble("back", tr("A repetition is among them: repeat the steps themselves."))]
        if not any(stage for done in run for stage in done.stages if isinstance(stage, Stage)):
            return [Trouble("back", tr("Nothing is cut in the steps before."), open=True)]
        return []

    def plan(self, ctx: C) -> list[Stage]:
        return []

    def removes(self, ctx: C) -> list[Any]:
        return []


@step("Repeat", "General", "The steps before it again: side by side, turned, mirrored", rank=6)
class Repeat(Again[FlatContext], frozen=True, kw_only=True, tag="repeat"):
    """Answers of a repetition on a flat plane."""

    how: Annotated[Literal["grid", "turned", "mirrored", "scaled"], choose("Again", HOW, WHAT)] = "grid"
    columns: Annotated[int, ask("Columns", Kind.COUNT, WHERE, least=1, most=99, when=_grid, helps="With the one there is.")] = 2
    column_pitch: Annotated[float, ask("Column pitch", Kind.LENGTH, WHERE, when=_grid)] = 30.0
    rows: Annotated[int, ask("Rows", Kind.COUNT, WHERE, least=1, most=99, when=_grid)] = 1
    row_pitch: Annotated[float, ask("Row pitch", Kind.LENGTH, WHERE, when=_grid)] = 30.0
    x: Annotated[float, ask("Centre X", Kind.LENGTH, WHERE, when=_centred)] = 0.0
    y: Annotated[float, ask("Centre Y", Kind.LENGTH, WHERE, when=_centred)] = 0.0
    angle: Annotated[float, ask("From one to the next", Kind.ANGLE, WHERE, least=-360, most=360, when=_turned)] = 90.0
    count: Annotated[int, ask("How often in all", Kind.COUNT, WHERE, least=2, most=360, when=_turned)] = 4
    percent: Annotated[
        float,
        ask(
            "Scaled to", Kind.PERCENT, WHERE, least=5, most=1000, when=_scaled,
            helps="Sizes and places seen from above. Depths and holes stay, and the steps are planned anew with their tools.",
        ),
    ] = 150.0  # fmt: skip
    mirror: Annotated[
        Literal["x", "y", "both"],
        choose("Mirrored", {"x": "Left and right", "y": "Front and back", "both": "Both ways"}, WHERE, when=_mirrored),
    ] = "x"
    at_x: Annotated[float, ask("About X", Kind.LENGTH, WHERE, when=_across)] = 0.0
    at_y: Annotated[float, ask("About Y", Kind.LENGTH, WHERE, when=_along)] = 0.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        x, y = (round(c, 3) for c in at.centre)
        return {
            "x": x,
            "y": y,
            "at_x": x,
            "at_y": y,
            "column_pitch": at.rounded(at.size[0] / 3),
            "row_pitch": at.rounded(at.size[1] / 3),
        }

    def placings(self) -> list[Placing]:
        """Where the copies are, without the one there is. A scaled one has no place: it is another step."""
        if _scaled(self):
            return []
        if _grid(self):
            places = [(c * self.column_pitch, r * self.row_pitch) for r in range(self.rows) for c in range(self.columns)]
            return [shifted_by(u, v) for u, v in places[1:]]
        if _turned(self):
            return [turned_about(self.x, self.y, self.angle * k) for k in range(1, self.count)]
        across, along = mirrored_at(x=self.at_x), mirrored_at(y=self.at_y)
        if self.mirror == "both":
            return [across, along, turned_about(self.at_x, self.at_y, 180.0)]
        return [across if self.mirror == "x" else along]

    def run_troubles(self, run: Sequence[Done]) -> list[Trouble]:
        if found := super().run_troubles(run):
            return found
        if len(self.placings()) > MOST:
            return [Trouble("columns", tr("More than {most} copies are a slip.", most=MOST))]
        if not self.placings() and not _scaled(self):
            return [Trouble("columns", tr("This is but the one there is."), 2)]
        return []

    def stages_of(self, run: Sequence[Done]) -> list[Stage]:
        """Every stage of the run at all copies."""
        placings = self.placings()
        stages = (stage for done in run for stage in done.stages if isinstance(stage, Stage))
        return [copy for stage in stages for copy in _copies(stage, placings)]

    def removes_of(self, run: Sequence[Done]) -> list[Removal]:
        """What the run takes away, at all copies."""
        return [placed_removal(gone, to) for to in self.placings() for done in run for gone in done.removals]

    def sketch(self, ctx: FlatContext) -> Sketch:
        lo, hi = ctx.stock.lo, ctx.stock.hi
        middle = (lo[1] + hi[1]) / 2
        dims: list[Dim] = []
        if _centred(self):
            dims = [
                Dim("x", "plan", "along x", (0, 0), (self.x, self.y), -1),
                Dim("y", "plan", "along y", (0, 0), (self.x, self.y), -1),
            ]
        if _across(self):
            dims.append(Dim("at_x", "plan", "along x", (0.0, lo[1]), (self.at_x, lo[1]), -1))
        if _along(self):
            dims.append(Dim("at_y", "plan", "along y", (lo[0], 0.0), (lo[0], self.at_y), -1))
        centre = (self.x, self.y) if _centred(self) else None
        return Sketch(section=((lo[0], middle), (hi[0], middle)), dims=tuple(dims), centre=centre)

    def summary(self, ctx: FlatContext) -> str:
        what = many(self.back, "step")
        return (
            tr("{what}, scaled to {percent:g} %", what=what, percent=self.percent)
            if _scaled(self)
            else tr("{what}, {many} more", what=what, many=many(len(self.placings()), "time"))
        )

    def says(self, ctx: FlatContext) -> list[tuple[str, str]]:
        if _mirrored(self) and self.mirror != "both":
            return [(WHERE, tr("Mirrored, climb cutting becomes conventional, and the other way round."))]
        return []


@step("Repeat along Z", "General", "The steps before it again, farther along the part", planes=TURNED, rank=6)
class RepeatAlong(Again[TurnedContext], frozen=True, kw_only=True, tag="repeat-along"):
    """Answers of a repetition on a turned plane. The steps are planned anew where they come: the stock is another one there."""

    count: Annotated[int, ask("How often in all", Kind.COUNT, WHERE, least=2, most=99)] = 2
    pitch: Annotated[float, ask("From one to the next", Kind.LENGTH, WHERE, above=0, helps="Toward the chuck, along Z.")] = 10.0

    @classmethod
    def arrives(cls, at: Arrival) -> Given:
        return {"pitch": at.fine(max(at.finished / 6, 6 * at.small))}  # a groove is as it arrives four wide

    def places(self) -> list[float]:
        """How far along the copies are, without the one there is."""
        return [self.pitch * k for k in range(1, self.count)]

    def run_troubles(self, run: Sequence[Done]) -> list[Trouble]:
        if found := super().run_troubles(run):
            return found
        cutting = [done.step for done in run if any(isinstance(stage, Stage) for stage in done.stages)]
        fixed = next((s for s in cutting if not isinstance(s, TurningStep) or s.farther(self.pitch) is None), None)
        return (
            [Trouble("back", tr("“{title}” is not at a place along Z that could be another one.", title=fixed.title))]
            if fixed
            else []
        )

    def sketch(self, ctx: TurnedContext) -> TurnSketch:
        return TurnSketch()

    def summary(self, ctx: TurnedContext) -> str:
        return tr("{many}, {many_2} more", many=many(self.back, "step"), many_2=many(self.count - 1, "time"))


def _copies(stage: Stage, placings: Sequence[Placing]) -> list[Stage]:
    """A stage at all copies. Where they are only shifted it is one stage with places, which can be a subprogram."""
    if len(placings) > 1 and all(to.shifts for to in placings):
        return [replaced_stage(stage, copies=tuple((to.u, to.v) for to in placings))]
    found = []
    for to in placings:
        x, y = to.at(*stage.start[:2])
        found.append(replaced_stage(stage, start=(x, y, stage.start[2]), moves=placed_moves(stage.moves, to)))
    return found


def replaced_stage(stage: Stage, **changes: Any) -> Stage:
    """A stage with some parts changed; what it is on other parts of a fixture does not go with it."""
    return replaced(stage, each=(), **changes)
