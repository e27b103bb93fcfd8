"""Are the threads there, and are their grooves as wide as the standard says? Measured on the part as cut, at the pitch
diameter."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np
import shapely
from msgspec.structs import replace

from bastler.language import decimal, sayable, tr
from bastler.proof.remark import Remark
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.turned import TurnProof
from bastler.shapes.kinds import Floats, Region
from bastler.steps.turn.cut import ThreadGauge
from bastler.units import Kind, with_unit

BESIDE = 1.5
"""A move tied to the spindle that ends no farther from the pitch line than so many pitches is one of the thread."""
LEAD_SHARE = 0.002
"""How far a lead may be off, as a share of it: over ten turns a fiftieth of a pitch."""
LOOSE_SHARE, LOOSE_MM = 0.02, 0.01
"""How far a groove's width may be off: this share of the pitch, and no less than this."""
CREST_SHARE, CREST_MM = 0.03, 0.05
"""How far ridges may stand beyond their crests, on the radius."""


def thread_faults(scene: TurnScene, proof: TurnProof) -> Iterator[Remark]:
    """A stop for every thread that is not cut, whose groove is too narrow or too wide, or that winds the wrong way."""
    part = proof.part
    for wanted in scene.wanted:
        gauge = wanted.gauge
        if gauge is None:
            continue
        yield from _winding(gauge, wanted.step, proof)
        found = grooves(gauge, part)
        expected = int((gauge.begin - gauge.end) / gauge.pitch) - 1
        if len(found) < expected:
            text = tr(
                "{name} is not cut over its whole length: {found} of {expected} grooves or more.",
                name=gauge.name,
                found=len(found),
                expected=expected,
            )
            yield Remark(level="stop", code="thread-missing", text=text, step=wanted.step, amount=float(expected - len(found)))
        beyond = over_crest(gauge, part)
        if beyond > max(CREST_SHARE * gauge.pitch, CREST_MM * scene.mm):
            now, right = (with_unit(v, Kind.LENGTH, scene.unit) for v in (2 * beyond, 2 * gauge.crest))
            what = tr("Bore it") if gauge.inside else tr("Turn it")
            text = tr(
                "The ridges of {name} stand {now} too far, on the diameter. {what} to Ø{right} first.",
                name=gauge.name,
                now=now,
                what=what,
                right=right,
            )
            yield Remark(level="stop", code="thread-crest", text=text, step=wanted.step, amount=2 * beyond)
        if not len(found):
            continue
        width = float(found[np.argmax(np.abs(found - gauge.pitch / 2))])
        if abs(width - gauge.pitch / 2) > max(LOOSE_SHARE * gauge.pitch, LOOSE_MM * scene.mm):
            now, right = (with_unit(v, Kind.LENGTH, scene.unit) for v in (width, gauge.pitch / 2))
            text = tr(
                "The groove of {name} is {now} wide at the pitch diameter; it has to be {right}.",
                name=gauge.name,
                now=now,
                right=right,
            )
            yield Remark(level="stop", code="thread-width", text=text, step=wanted.step, amount=width - gauge.pitch / 2)


def _winding(gauge: ThreadGauge, step: str, proof: TurnProof) -> Iterator[Remark]:
    """Is it of the right hand and lead? A section shows neither: it is told of the moves that cut there, of whatever program.
    With the spindle turning forward a way toward the chuck makes a right-hand thread, with one of both the other way round a
    left-hand one."""
    trace = proof.trace
    along, beside = (0, 2) if gauge.across else (2, 0)
    tied = np.flatnonzero((trace.lead > 0) & (trace.start[:, along] != trace.end[:, along]))
    low, high = (pick(trace.start[tied, along], trace.end[tied, along]) for pick in (np.minimum, np.maximum))
    off = np.abs((trace.end[tied, 2] if gauge.across else np.abs(trace.end[tied, beside])) - gauge.radius)
    tied = tied[(low < gauge.begin - gauge.pitch) & (high > gauge.end + gauge.pitch) & (off < BESIDE * gauge.pitch)]
    way = np.sign(trace.end[tied, along] - trace.start[tied, along]) * trace.turning[tied]
    wrong = tied[way != (1 if gauge.left else -1)]
    if len(wrong):
        hands = sayable(("clockwise", "counter-clockwise")) if gauge.across else sayable(("right-handed", "left-handed"))
        is_, has = hands if gauge.left else hands[::-1]
        text = tr("{name} is cut {is_}; it has to be {has}.", name=gauge.name, is_=tr(is_), has=tr(has))
        yield replace(Remark(level="stop", code="thread-hand", text=text, step=step), **_at(proof, int(wrong[0])))
    off = tied[np.abs(trace.lead[tied] - gauge.lead) > LEAD_SHARE * gauge.lead]
    if len(off):
        now, right = (decimal(f"{v:.4f}".rstrip("0").rstrip(".")) for v in (float(trace.lead[off[0]]), gauge.lead))
        text = tr("{name} is cut with a lead of {now}; it has to be {right}.", name=gauge.name, now=now, right=right)
        yield replace(Remark(level="stop", code="thread-lead", text=text, step=step), **_at(proof, int(off[0])))


def _at(proof: TurnProof, move: int) -> dict[str, int]:
    """Where a remark is of a move."""
    return {"line": int(proof.trace.line[move]) + 1, "move": move}


def over_crest(gauge: ThreadGauge, part: Region) -> float:
    """How far, on the radius, ridges stand beyond their crests; of a taper thread at its front alone."""
    if gauge.slope or gauge.across:
        return 0.0
    ridges = part.intersection(shapely.box(gauge.end, 0.0, gauge.begin, 2 * gauge.radius))
    if ridges.is_empty:
        return 0.0
    low, high = float(ridges.bounds[1]), float(ridges.bounds[3])
    return gauge.crest - low if gauge.inside else high - gauge.crest


def grooves(gauge: ThreadGauge, part: Region) -> Floats:
    """The widths of all grooves between two ridges along the pitch line, (n,)."""
    ends = [(gauge.begin, gauge.at(gauge.begin)), (gauge.end, gauge.at(gauge.end))]
    ridges = part.intersection(shapely.LineString([p[::-1] for p in ends] if gauge.across else ends))
    low, high = (1, 3) if gauge.across else (0, 2)
    spans = sorted((g.bounds[low], g.bounds[high]) for g in getattr(ridges, "geoms", [ridges]) if not g.is_empty)
    return np.array([b[0] - a[1] for a, b in itertools.pairwise(spans) if b[0] - a[1] > 1e-3 * gauge.pitch])
