"""What may be asked of the process that computes, besides plans and proofs. To add a task is to add a function here."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import structs

from bastler.disk import read_bounded, reason_of
from bastler.exchange import Drawing, DrawingError, read_dxf
from bastler.exchange.solids import SOLID_FILES
from bastler.job import Job, JobFileError, Plan, crib_edits, edits, plan, read_job_text
from bastler.job.by_hand import HandEdit
from bastler.job.card_sample import card_sample
from bastler.job.from_drawing import SAME_MM, Part, parts_of
from bastler.job.shop import Shop
from bastler.language import tr
from bastler.link.messages import Moved
from bastler.live.frames import Frame
from bastler.live.gauging import gauges
from bastler.live.grown import Grower, GrownPart
from bastler.live.leaving import sent_bytes, stamp
from bastler.live.opened import LARGEST as MOST_OPENED
from bastler.live.opened import NoProgram, job_of_program
from bastler.live.proving_variants import proved_variants
from bastler.live.restarting import NoRestart, restarted
from bastler.live.restarts import Restart, restarts
from bastler.live.setting_up import setup_sheet
from bastler.live.setup_sheet import SetupSheet
from bastler.live.showing import part_look, tool_offers
from bastler.live.shown import PartLook, ToolOffers
from bastler.live.swept import swept
from bastler.live.variants import ProvedVariant
from bastler.machines import MachineCard
from bastler.post import Program, post
from bastler.post.by_hand import TooMuch, edits_of, unlaid
from bastler.post.compared import Change, compared
from bastler.proof import JobProof, MillProof, TurnProof
from bastler.proof.closed import closed
from bastler.proof.faces import Mesh, Others
from bastler.proof.gauge import Gauge
from bastler.proof.mill.mesh import MOST_CELLS, mesh
from bastler.proof.mill.offs import face_classes, floor_classes, wanted_of
from bastler.proof.mill.scrub import Scrubber
from bastler.proof.mill.touch import touched as touched_milled
from bastler.proof.mill.wanted import Pair
from bastler.proof.ordering import BetterOrder, better_orders
from bastler.proof.polar.mesh import polar_mesh
from bastler.proof.polar.offs import driven_classes
from bastler.proof.polar.scrub import rays_at
from bastler.proof.polar.touch import touched_driven
from bastler.proof.polar.upright import upright
from bastler.proof.result import AnyProof
from bastler.proof.scrub import Moment
from bastler.proof.stacked import NoSolid
from bastler.proof.touch import Face, Touch, Vector
from bastler.proof.turn.mesh import turn_mesh
from bastler.proof.turn.offs import classes_of as turn_classes
from bastler.proof.turn.scrub import stock_at
from bastler.proof.turn.touch import touched as touched_turned
from bastler.shapes.kinds import Region
from bastler.units import Unit, scale

ROUGH_CELLS = 210_000
"""Cells of a part that moves on."""
OTHER_CELLS = 60_000
"""Cells of the parts that are not worked on: they stand around, nobody measures them."""


@dataclass(eq=False)
class State:
    """What tasks may look at: the newest plan and the newest proof."""

    plan: Plan | None = None
    proof: JobProof | None = None
    scrubber: Scrubber = field(default_factory=Scrubber)
    grower: Grower = field(default_factory=Grower)
    told: Callable[[float], None] = lambda share: None
    """Hears how much of a task beside the others is done. Unwanted is raised where it is not wanted any more."""
    _wanted: tuple[MillProof, int, Pair] | None = None

    def wanted(self, proof: MillProof, part: int) -> Pair:
        """The fields of the finished part, kept as long as the proof is the same."""
        if self._wanted is None or self._wanted[0] is not proof or self._wanted[1] != part:
            self._wanted = (proof, part, wanted_of(proof, part))
        return self._wanted[2]


WALLS = 2.0
"""So many rays beside a wall it may seem to be."""


class Unwanted(Exception):
    """A task that nobody waits for any more."""


EXPECTED = (DrawingError, JobFileError, TooMuch, NoProgram, NoSolid, NoRestart)
"""What may go wrong with a task; its text is a sentence for the machinist."""


TASKS: dict[str, Callable[..., Any]] = {}
BESIDE: set[str] = set()
"""Tasks that take long and that no edit waits for: they have a lane of their own."""


def task(name: str, *, beside: bool = False) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Registers a task, one that may take long `beside` the others. ValueError for a name that is taken."""

    def register(work: Callable[..., Any]) -> Callable[..., Any]:
        if name in TASKS:
            raise ValueError(f"There is a task {name} already.")
        TASKS[name] = work
        if beside:
            BESIDE.add(name)
        return work

    return register


@task("solid")
def solid(
    state: State, holding: str, moment: Moment, section_y: float | None, rough: bool, compared: bool = False
) -> tuple[Mesh, Others] | None:
    """The part's faces at a moment, cut open or not; turned parts by a quarter. While it moves on they may be `rough`. `compared`
    they have classes by how far they are from the finished part. None where it is not proved."""
    proof = state.proof.get(holding) if state.proof else None
    if isinstance(proof, TurnProof):
        off = turn_classes(proof, finished=_finished(proof, moment)) if compared else None
        stock, scene = stock_at(proof, moment), proof.scene
        rays = rays_at(proof, moment, stock)
        if rays is not None:
            made = polar_mesh(rays, stock, scene.raw, scene.mm, whole=section_y is None, untouched=scene.untouched)
            if off is not None:
                ended = _finished(proof, moment)
                made = replace(made, off=driven_classes(proof, made, stock, off, rays.cell * WALLS, finished=ended))
            return made, Others()
        return turn_mesh(stock, scene.untouched, scene.mm, whole=section_y is None, off=off), Others()
    if isinstance(proof, MillProof):
        return _milled(state, proof, moment, section_y, rough=rough, compared=compared), _others(proof, moment, section_y)
    return None


def _milled(state: State, proof: MillProof, moment: Moment, section_y: float | None, *, rough: bool, compared: bool) -> Mesh:
    heights = state.scrubber.stock(proof, moment)
    part = _part_at(proof, moment)
    cells = ROUGH_CELLS if rough else MOST_CELLS
    classes = floor_classes(proof, heights, state.wanted(proof, part)) if compared else None
    made = mesh(proof.grid, heights, proof.under, edge=state.scrubber.edges, cells=cells, section_y=section_y, parted=classes)
    if classes is None:
        return made
    return replace(made, off=face_classes(proof, made, classes, part, finished=_finished(proof, moment)))


def _finished(proof: AnyProof, moment: Moment) -> bool:
    """Has the program run to its end?"""
    return len(proof.trace) > 0 and moment.move >= len(proof.trace) - 1 and moment.share >= 1.0


def _part_at(proof: MillProof, moment: Moment) -> int:
    """The part that is worked on at a moment."""
    return proof.stages[moment.stage].part if moment.stage >= 0 else 0


@task("touch")
def touch(state: State, holding: str, moment: Moment, part: int, place: Vector, normal: Vector, inside: bool) -> Touch | None:
    """What there is at a place of the solid as it is shown, on a part from its own zero; `inside` where it is cut open. None
    where it is not proved."""
    proof = state.proof.get(holding) if state.proof else None
    if isinstance(proof, TurnProof):
        if proof.driven:
            (x, y, z), (u, v, w) = upright(np.array([place, normal])).tolist()
            return touched_driven(proof, moment, (x, y, z), (u, v, w), inside=inside)
        return touched_turned(proof, moment, place[0], math.hypot(place[1], place[2]), inside=inside)
    if isinstance(proof, MillProof) and not inside:
        return touched_milled(proof, moment, part, place, normal)
    return Touch(place, Face("inside", place, (0.0, -1.0, 0.0)), None, -1) if proof is not None else None


def _others(proof: MillProof, moment: Moment, section_y: float | None) -> Others:
    """The other parts at the moment: those that are alike share their faces."""
    parts, at = proof.scene.parts, moment.stage
    if len(parts) < 2:
        return Others()
    here = _part_at(proof, moment)
    last = at if at >= 0 else (len(proof.stages) - 1 if moment.move > 0 else -1)
    known: dict[bytes, Mesh] = {}
    found = []
    for part, place in enumerate(parts):
        if part != here:
            key = proof.done_by(last, part)
            if key not in known:
                known[key] = mesh(proof.grid, proof.after(last, part), proof.under, cells=OTHER_CELLS, section_y=section_y)
            found.append((place.shift, known[key]))
    return Others(tuple(found), parts[here].shift)


@task("section")
def section(state: State, holding: str, moment: Moment) -> Region | None:
    """The half section of a turned part at a moment; None where there is none."""
    proof = state.proof.get(holding) if state.proof else None
    return stock_at(proof, moment) if isinstance(proof, TurnProof) else None


@task("tools")
def tools(state: State, step: str, field: str) -> ToolOffers | None:
    """The tools that could be taken for an answer of a step."""
    return tool_offers(state.plan, step, field) if state.plan else None


@task("setup-sheet")
def sheet(state: State) -> SetupSheet | None:
    """What the setup sheet of the job says; None where it is not proved."""
    return setup_sheet(state.proof) if state.proof else None


@task("solid-file", beside=True)
def solid_file(state: State, suffix: str) -> bytes | None:
    """The part as cut as a file of a closed solid; NoSolid where there is none, None where it is not proved."""
    if state.proof is None:
        return None
    solid = closed(state.proof, state.told)
    return SOLID_FILES[suffix](solid.points, solid.triangles, state.proof.plan.job.unit)


@task("gauges", beside=True)
def gauged(state: State, holding: str) -> list[Gauge]:
    """The sizes of a holding's part that can be measured, with what makes them; none where it is not proved."""
    proof = state.proof.get(holding) if state.proof else None
    return gauges(proof.held, proof) if proof is not None and proof.held is not None else []


@task("restarts", beside=True)
def restart_places(state: State, holding: str) -> list[Restart]:
    """Where the program of a holding can be taken up again; nowhere where it is not proved."""
    proof = state.proof.get(holding) if state.proof else None
    return restarts(proof) if proof is not None else []


@task("grown", beside=True)
def grown(state: State, holding: str, moves: list[Moved]) -> GrownPart | None:
    """The part of a holding as the moves leave it that a machine has reported."""
    return state.grower.grown(state.plan, holding, moves) if state.plan else None


@task("grown-solid", beside=True)
def grown_solid(state: State, holding: str, moves: list[Moved], part: int) -> Mesh | None:
    """The faces of one of the parts on the table."""
    return state.grower.solid(state.plan, holding, moves, part) if state.plan else None


@task("restart-program", beside=True)
def restart_program(state: State, holding: str, place: Restart) -> bytes | None:
    """A program of its own from a place on, as it leaves; NoRestart where there is none, None where nothing is proved."""
    proof = state.proof.get(holding) if state.proof else None
    if proof is None or state.proof is None:
        return None
    return sent_bytes(restarted(state.proof.plan, proof, place).program, proof.scene.card, proof.scene.unit, (), stamp())


@task("by-hand")
def by_hand(state: State, shown: Program, edits: tuple[HandEdit, ...], holding: str, text: str) -> tuple[HandEdit, ...]:
    """The hand edits that make a text of a program, by its first holding, that was shown with some in it; TooMuch where that is
    more than is kept."""
    return edits_of(unlaid(shown, edits), text, holding, edits)


@task("open-program")
def open_program(state: State, path: Path, shop: Shop) -> Job:
    """A job round a program from a file; NoProgram where it is none."""
    try:
        data = read_bounded(path, MOST_OPENED)
    except OSError as error:
        raise NoProgram(tr("{name} cannot be read: {error}.", name=path.name, error=reason_of(error))) from error
    return job_of_program(data, path.name, shop)


@task("compared")
def compare(state: State, holding: str, then: Program) -> tuple[Change, ...] | None:
    """What has changed in the program of a holding since an older one; None where it is not proved."""
    proof = state.proof.get(holding) if state.proof else None
    return compared(then, proof.program) if proof is not None else None


@task("order", beside=True)
def order(state: State) -> tuple[BetterOrder, ...]:
    """Better orders of steps and stages."""
    return better_orders(state.plan, state.proof) if state.plan else ()


@task("code")
def code(state: State, job: Job, card: MachineCard, unit: Unit) -> str | None:
    """What a machine card makes of a small part; None while its words cannot be filled in."""
    if crib_edits.crib_troubles(job, "dialect", card.id):
        return None
    return post(plan(card_sample(card, unit)).first).text


@task("part")
def part(state: State, text: bytes) -> PartLook:
    """A whole part for a small picture, by the text of its job."""
    return part_look(plan(read_job_text(text)))


@task("swept", beside=True)
def swept_answer(state: State, job: Job, card: str, address: str) -> tuple[Frame, ...]:
    """What an answer does: the frames that it is taken through; none where it is not there any more."""
    try:
        return swept(job, card, address, state.told)
    except KeyError:
        return ()


@task("variants", beside=True)
def variants(state: State, job: Job) -> tuple[ProvedVariant, ...]:
    """All variants of a job, each proved, with its programs as they leave."""
    return proved_variants(job, state.told)


@task("cured")
def cured(state: State, job: Job, address: str, value: Any) -> Job:
    """A job with a remark's way out taken, see `edits.cured`: what is to be added may have to be planned for."""
    return edits.cured(job, address, value)


@task("drawing")
def drawing(
    state: State, path: Path, unit: Unit, tolerance: float, assume: Unit | None, gap: float
) -> tuple[Drawing, list[Part]]:
    """A drawing from a file, its free curves fitted to `tolerance`, and what can be picked of it where gaps up to `gap` close."""
    found = read_dxf(path, unit, tolerance, assume=assume)
    return structs.replace(found, pieces=()), parts_of(found, gap, SAME_MM * scale("mm", unit))
