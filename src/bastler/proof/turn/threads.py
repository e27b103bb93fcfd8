"""Are the threads there, and are their grooves as wide as the standard says? Measured on the part as cut, at the pitch
diameter."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

import numpy as np
import shapely

from bastler.proof.remark import Remark
from bastler.proof.turn.scene import TurnScene
from bastler.shapes.kinds import Floats, Region
from bastler.steps.turn.cut import ThreadGauge
from bastler.units import Kind, with_unit

LOOSE_SHARE, LOOSE_MM = 0.02, 0.01
"""How far a groove's width may be off: this share of the pitch, and no less than this."""
CREST_SHARE, CREST_MM = 0.03, 0.05
"""How far ridges may stand beyond their crests, on the radius."""


def thread_faults(scene: TurnScene, part: Region) -> Iterator[Remark]:
    """A stop for every thread that is not cut, or whose groove is too narrow or too wide."""
    for wanted in scene.wanted:
        gauge = wanted.gauge
        if gauge is None:
            continue
        found = grooves(gauge, part)
        expected = int((gauge.begin - gauge.end) / gauge.pitch) - 1
        if len(found) < expected:
            text = f"{gauge.name} is not cut over its whole length: {len(found)} of {expected} grooves or more."
            yield Remark(level="stop", code="thread-missing", text=text, step=wanted.step, amount=float(expected - len(found)))
        beyond = over_crest(gauge, part)
        if beyond > max(CREST_SHARE * gauge.pitch, CREST_MM * scene.mm):
            now, right = (with_unit(v, Kind.LENGTH, scene.unit) for v in (2 * beyond, 2 * gauge.crest))
            what = "Bore it" if gauge.inside else "Turn it"
            text = f"The ridges of {gauge.name} stand {now} too far, on the diameter. {what} to Ø{right} first."
            yield Remark(level="stop", code="thread-crest", text=text, step=wanted.step, amount=2 * beyond)
        if not len(found):
            continue
        width = float(found[np.argmax(np.abs(found - gauge.pitch / 2))])
        if abs(width - gauge.pitch / 2) > max(LOOSE_SHARE * gauge.pitch, LOOSE_MM * scene.mm):
            now, right = (with_unit(v, Kind.LENGTH, scene.unit) for v in (width, gauge.pitch / 2))
            text = f"The groove of {gauge.name} is {now} wide at the pitch diameter; it has to be {right}."
            yield Remark(level="stop", code="thread-width", text=text, step=wanted.step, amount=width - gauge.pitch / 2)


def over_crest(gauge: ThreadGauge, part: Region) -> float:
    """How far, on the radius, ridges stand beyond their crests; of a taper thread at its front alone."""
    if gauge.slope:
        return 0.0
    ridges = part.intersection(shapely.box(gauge.end, 0.0, gauge.begin, 2 * gauge.radius))
    if ridges.is_empty:
        return 0.0
    low, high = float(ridges.bounds[1]), float(ridges.bounds[3])
    return gauge.crest - low if gauge.inside else high - gauge.crest


def grooves(gauge: ThreadGauge, part: Region) -> Floats:
    """The widths of all grooves between two ridges along the pitch line, (n,)."""
    line = shapely.LineString([(gauge.begin, gauge.at(gauge.begin)), (gauge.end, gauge.at(gauge.end))])
    ridges = part.intersection(line)
    spans = sorted((g.bounds[0], g.bounds[2]) for g in getattr(ridges, "geoms", [ridges]) if not g.is_empty)
    return np.array([b[0] - a[1] for a, b in itertools.pairwise(spans) if b[0] - a[1] > 1e-3 * gauge.pitch])
