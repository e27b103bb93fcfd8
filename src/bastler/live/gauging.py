"""The sizes of a part that can be measured: where these are, and which tool makes each. Worked out of the sheets of its steps and
of its proof: faces are those of the part as it is wanted."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import msgspec

from bastler.ask import Question, limits_said, size_typed
from bastler.cutting.fits import general_edge, general_tolerance
from bastler.job import BlockStock, PlannedHolding, PlannedStep
from bastler.language import tr
from bastler.live import gauged_milled as milled
from bastler.live import gauged_turned as turned
from bastler.live.gauged import Ends
from bastler.live.setting_up import NO_SIZES, dimensioned, not_dimensioned, size_says, sized
from bastler.proof import MillProof, TurnProof
from bastler.proof.gauge import Gauge, GaugeEnd, Maker, MakerBy
from bastler.proof.mill.touch import made_by
from bastler.proof.result import AnyProof
from bastler.proof.scrub import moment_at
from bastler.proof.turn.touch import touched as touched_turned
from bastler.steps import Dim
from bastler.tools import Tool, TurnTool
from bastler.units import Kind, printed, scale

AS_IT_IS = ("drill", "reamer", "tap", "spot-drill")
"""Kinds of tools whose hole is as wide as they are: nothing corrects that but another one."""
COMPENSATED = ("G41", "G42")
READ = ("radius", "edge", "depth")
"""Dimensions that somebody reads from a gauge for them where no caliper has two faces."""


@dataclass(frozen=True)
class _Asked:
    """A dimension of the sheet as a size: of a step by number, id and title what it says, its text and its value, and its limits
    where somebody gave any."""

    number: int
    step: str
    title: str
    says: str
    text: str
    nominal: float
    limits: tuple[float, float] | None = None
    edge: bool = False


def gauges(held: PlannedHolding, proof: AnyProof) -> list[Gauge]:
    """All sizes of a proved holding that can be measured, in the order of its steps, each once."""
    found: list[Gauge] = []
    seen: set[tuple[float, tuple[GaugeEnd, ...]]] = set()
    for gauge in (*_whole(held, proof), *_of_steps(held, proof)):
        key = (round(gauge.nominal, 6), gauge.ends)
        if not gauge.ends or key not in seen:
            seen.add(key)
            found.append(gauge)
    milled.forget()
    return found


def _whole(held: PlannedHolding, proof: AnyProof) -> Iterator[Gauge]:
    """The length of a turned part."""
    if isinstance(held.stock, BlockStock) or not isinstance(proof, TurnProof) or held.place:
        return
    long, unit = held.bar.finished, held.job.unit
    ends = turned.length(proof, (0.0, 0.0), (-long, 0.0))
    if ends is not None:
        text = size_typed(held.bar, "finished", unit) or printed(long, Kind.LENGTH, unit)
        asked = _Asked(0, "", tr("The whole part"), tr("Length"), text, long, limits_said(held.bar, "finished", unit))
        yield _gauge(held, proof, "stock.finished", asked, ends)


def _of_steps(held: PlannedHolding, proof: AnyProof) -> Iterator[Gauge]:
    job, unit = held.job, held.job.unit
    read: set[tuple[int, str]] = set()
    for number, done in enumerate(held.steps, held.first):
        if done.troubles or not done.step.on or done.transfer is not None or done.sketch is None:
            continue
        limits = done.filled.limits(done.ctx)
        for dim in done.sketch.dims:
            known = dimensioned(job, done, dim.field)
            if known is None or known[1].name in NO_SIZES:
                continue
            struct, question = known
            value = getattr(struct, question.name)
            asked = _Asked(
                number, done.step.id, done.step.title, size_says(question, dim.field), sized(struct, question, unit), 0.0
            )
            ident, same = f"{done.step.id}.{dim.field}", (id(struct), question.name)
            if dim.how == "name":
                thread = _thread(proof, done, replace(asked, text=str(value), limits=limits.get(dim.field)))
                if thread is not None:
                    yield msgspec.structs.replace(thread, id=ident)
                continue
            if question.kind is not Kind.LENGTH or not asked.text or not isinstance(value, int | float):
                continue
            own = limits_said(struct, question.name, unit)
            edge = dim.how in ("radius", "edge")
            asked = replace(asked, nominal=abs(float(value)), limits=own or limits.get(dim.field), edge=edge)
            ends = _ends(done, proof, dim, asked.nominal)
            if ends is None and (same in read or not (own or _is_read(done, proof, dim, question))):
                continue
            read.add(same)
            yield _gauge(held, proof, ident, asked, ends)
        for struct, question, field in not_dimensioned(job, done, read):
            text, says = sized(struct, question, unit), size_says(question, field)
            nominal, own = abs(float(getattr(struct, question.name))), limits_said(struct, question.name, unit)
            asked = _Asked(number, done.step.id, done.step.title, says, text, nominal, own)
            yield _gauge(held, proof, f"{done.step.id}.{field}", asked, None)


def _is_read(done: PlannedStep, proof: AnyProof, dim: Dim, question: Question) -> bool:
    """Is a dimension without faces a size all the same, that somebody reads from a gauge for it? Places are not: they are counted
    from what nobody can reach; and on a turned part what was turned has its faces or is gone."""
    if question.name in ("x", "y") or (isinstance(proof, MillProof) and dim.view == "plan" and dim.how not in READ):
        return False
    return dim.how in READ or dim.view != "half"


def _gauge(held: PlannedHolding, proof: AnyProof, ident: str, asked: _Asked, ends: Ends | None) -> Gauge:
    mm, limits = scale("mm", held.job.unit), asked.limits
    general = limits is None
    if limits is None and (by := (general_edge if asked.edge else general_tolerance)(asked.nominal / mm)) is not None:
        limits = (asked.nominal - by * mm, asked.nominal + by * mm)
    ends = ends or Ends((), ())
    makers = (_shifters(proof, ends) if ends.place else None) or tuple(_maker(proof, end) for end in ends.ends)
    return _made(ident, asked, limits, ends, makers, general=general)


def _made(
    ident: str,
    asked: _Asked,
    limits: tuple[float, float] | None,
    ends: Ends,
    makers: tuple[Maker | None, ...],
    *,
    general: bool = False,
) -> Gauge:
    of = (asked.number, asked.step, asked.title, asked.says, asked.text, asked.nominal)
    return Gauge(ident, *of, limits, general, ends.ends, ends.grows, makers, ends.round)


def _thread(proof: AnyProof, done: PlannedStep, asked: _Asked) -> Gauge | None:
    """The pitch diameter of a turned thread: read over wires or from a thread micrometer, moved by the tool that cuts it."""
    if not isinstance(proof, TurnProof):
        return None
    gauge = next((w.gauge for w in proof.scene.wanted if w.step == done.step.id and w.gauge is not None), None)
    stage = next((s for s in proof.stages if s.step == done.step.id and isinstance(s.proof.tool, TurnTool)), None)
    if gauge is None or stage is None or gauge.slope:
        return None
    says = tr("{says}, pitch diameter", says=asked.says)
    maker = _moved_by(proof, stage.begin, "x", 1.0)
    asked = replace(asked, says=says, nominal=2 * gauge.radius)
    return _made("", asked, asked.limits, Ends((), (2.0,), round=True), (maker,))


# -- faces --------------------------------------------------------------------------------------------------------


def _ends(done: PlannedStep, proof: AnyProof, dim: Dim, value: float) -> Ends | None:
    """Where a dimension of a sheet ends on the part; None where that is no size between faces."""
    if isinstance(proof, MillProof):
        return milled.ends_of(done, proof, dim, value)
    if not isinstance(proof, TurnProof) or done.place.angles or dim.view != "half":
        return None
    if dim.how == "diameter":
        return turned.diameter(proof, value / 2, dim)
    return turned.length(proof, dim.a, dim.b) if dim.how == "length" else None


# -- makers -------------------------------------------------------------------------------------------------------


def _cut_by(proof: AnyProof, end: GaugeEnd) -> int | None:
    """The move that leaves a face; None where none does."""
    x, _, z = end.place
    if isinstance(proof, TurnProof):
        move = touched_turned(proof, moment_at(proof, proof.total), z, x).move
    else:
        assert isinstance(proof, MillProof)
        move = made_by(proof, 0, end.place)
    return move if move >= 0 else None


def _moved_by(proof: AnyProof, move: int, by: MakerBy, out: float, number: int | None = None) -> Maker:
    """What moves a face that a move makes."""
    trace = proof.trace
    station = int(trace.tool[move])
    section = proof.program.section_of(int(trace.line[move]))
    number = (int(trace.edge[move]) or station) if number is None else number
    return Maker(number, station, by, out, section.step, section.stage, section.first, section.last)


def _shifters(proof: AnyProof, ends: Ends) -> tuple[Maker | None, ...] | None:
    """The zero moves a place; None where the faces that it is counted from go with it."""
    found = tuple(_shifter(proof, end) for end in ends.ends)
    moved = sum(grows * maker.out for grows, maker in zip(ends.grows, found, strict=True) if maker is not None)
    return found if abs(moved) > 1e-9 else None


def _shifter(proof: AnyProof, end: GaugeEnd) -> Maker | None:
    """The zero under which a wall is made, which takes its place with it; None for one that nobody cuts."""
    move = _cut_by(proof, end)
    axis = 0 if abs(end.out[0]) > abs(end.out[1]) else 1
    by: MakerBy = "zero x" if axis == 0 else "zero y"
    return None if move is None else _moved_by(proof, move, by, end.out[axis], int(proof.trace.offset[move]))


def _maker(proof: AnyProof, end: GaugeEnd) -> Maker | None:
    """The tool that leaves a face, and what moves the face with it."""
    move = _cut_by(proof, end)
    if move is None:
        return None
    tool = proof.scene.tools.get(int(proof.trace.tool[move]))
    if isinstance(proof, TurnProof):
        if not isinstance(tool, TurnTool):
            return None
        across = abs(end.out[0]) > 0.5
        return _moved_by(proof, move, "x" if across else "z", end.out[0 if across else 2])
    if abs(end.out[2]) > 0.5:
        return _moved_by(proof, move, "z", end.out[2])
    if not isinstance(tool, Tool) or tool.kind in AS_IT_IS:
        return None
    section = proof.program.section_of(int(proof.trace.line[move]))
    lines = proof.program.lines[section.first : section.last]
    beside = any(word in line for line in lines for word in COMPENSATED)
    return _moved_by(proof, move, "diameter", 0.5) if beside else _moved_by(proof, move, "tool", -0.5)
