"""Taking chains and circles of a drawing into a job: chains become outlines, circles of one diameter a hole pattern."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

from bastler.exchange import Drawing, Joined, joined
from bastler.exchange.drawing import hole_groups
from bastler.job import answering
from bastler.job.arrive import fresh_id
from bastler.job.document import Job
from bastler.job.outline_edits import plan_of_chain, turned_of_chain
from bastler.job.planned import box_in
from bastler.job.profile import profile_of
from bastler.language import decimal, many, tr
from bastler.shapes import AnyOutline, Arc, PointsPattern
from bastler.shapes.chain import length_of, mirrored, moved, quadrants, reversed_chain
from bastler.shapes.region import area_of
from bastler.units import scale

Place = Literal["drawn", "corner", "middle", "front", "through"]
"""Where a drawing is put: as it is, its lower left corner at zero, its middle in the stock's; of a turned part its front at zero,
the axis along its lowest edge, or *through* its middle."""
PLACES_OF: dict[bool, tuple[Place, ...]] = {False: ("drawn", "corner", "middle"), True: ("drawn", "front", "through")}
"""Those that there are, by whether the part is turned."""
Point = tuple[float, float]
SAME_MM = 0.002
"""Circles whose diameters differ by no more are of one kind."""
LONGEST_NAME = 40


class Circles(msgspec.Struct, frozen=True):
    """Circles of one diameter."""

    diameter: float
    centres: tuple[Point, ...]

    @property
    def says(self) -> str:
        """What they are, in a few words."""
        return many(len(self.centres), "circle")


Part = Joined | Circles


def parts_of(drawing: Drawing, gap: float, slack: float) -> list[Part]:
    """What can be picked from a drawing: chains, the longest first, then circles by diameter. `gap` closes ends, `slack` is how
    much diameters of one kind may differ; both in the drawing's unit."""
    chains = sorted(joined(drawing.pieces, gap), key=lambda c: -sum(map(length_of, c.segments)))
    return [*chains, *(Circles(d, tuple(centres)) for d, centres in hole_groups(drawing.holes, slack))]


def bounds(parts: Sequence[Part]) -> tuple[float, float, float, float] | None:
    """Of ends, centres and circles: left, low, right, high; None for nothing."""
    us: list[float] = []
    vs: list[float] = []
    for part in parts:
        if isinstance(part, Circles):
            r = part.diameter / 2
            us += [c[0] + k * r for c in part.centres for k in (-1, 1)]
            vs += [c[1] + k * r for c in part.centres for k in (-1, 1)]
            continue
        for s in (piece for whole in part.segments for piece in quadrants(whole)):
            us += [s.start[0], s.end[0]]
            vs += [s.start[1], s.end[1]]
    return (min(us), min(vs), max(us), max(vs)) if us else None


def laid(parts: Sequence[Part], *, front_left: bool) -> list[Part]:
    """Parts of a drawing with the front of a turned part to the right, which may be drawn to the left."""
    if not front_left:
        return [*parts]
    return [
        msgspec.structs.replace(p, segments=tuple(mirrored(p.segments, u=True)))
        if isinstance(p, Joined)
        else msgspec.structs.replace(p, centres=tuple((-x, y) for x, y in p.centres))
        for p in parts
    ]


def shift_for(job: Job, parts: Sequence[Part], place: Place, held: str = "") -> Point:
    """How far a drawing is moved to its place: in the middle of the stock as the holding `held` or that of the step of that id
    sees it."""
    box = bounds(parts)
    if place == "drawn" or box is None:
        return (0.0, 0.0)
    if place in ("front", "through"):
        return (-box[2], -box[1] if place == "front" else -(box[1] + box[3]) / 2)
    if place == "corner" or job.turns:
        return (-box[0], -box[1])
    middle = box_in(job, job.holding_of(held)).centre
    return (middle[0] - (box[0] + box[2]) / 2, middle[1] - (box[1] + box[3]) / 2)


def taken(job: Job, picks: Sequence[Part], shift: Point, address: str = "") -> Job:
    """The job with the picked parts in it. The first one of the right kind becomes the answer at `address`; a whole circle is
    also an outline where one is asked for."""
    for part in picks:
        if isinstance(part, Circles) and not address.endswith(".outline"):
            job, ident = _pattern(job, part, shift)
            field = ".pattern"
        else:
            job, ident = _outline(job, _as_chain(part), shift)
            field = ".outline"
        if address.endswith(field):
            job, address = answering.answered(job, address, ident), ""
    return job


def _as_chain(part: Part) -> Joined:
    if isinstance(part, Joined):
        return part
    (x, y), r = part.centres[0], part.diameter / 2
    return Joined(decimal(f"Ø{part.diameter:.4g}"), (Arc((x + r, y), (x + r, y), (x, y)),), True)


def _pattern(job: Job, part: Circles, shift: Point) -> tuple[Job, str]:
    ident = fresh_id({p.id for p in job.patterns}, "p")
    points = tuple((_round(x + shift[0]), _round(y + shift[1])) for x, y in part.centres)
    name = _free_name(tr("Ø{diameter:.4g} holes", diameter=part.diameter), {p.name for p in job.patterns})
    pattern = PointsPattern(id=ident, name=name, points=points)
    return msgspec.structs.replace(job, patterns=(*job.patterns, pattern)), ident


def _outline(job: Job, part: Joined, shift: Point) -> tuple[Job, str]:
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = _free_name(part.layer if part.layer not in ("", "0") else "drawn", {o.name for o in job.outlines})
    chain = moved(part.segments, *shift)
    outline: AnyOutline
    if job.turns:
        own = profile_of(chain, SAME_MM * scale("mm", job.unit), closed=part.closed)
        outline = turned_of_chain(ident, name, own or chain)
    else:
        if part.closed and area_of(chain) < 0:
            chain = reversed_chain(chain)
        outline = plan_of_chain(ident, name, chain, closed=part.closed)
    return msgspec.structs.replace(job, outlines=(*job.outlines, outline)), ident


def _free_name(stem: str, names: set[str]) -> str:
    stem = stem[:LONGEST_NAME]
    return stem if stem not in names else fresh_id(names, f"{stem} ")


def _round(v: float) -> float:
    return round(v, 9) + 0.0
