"""Copies of a turned outline for one step: as it is, off it by an allowance, or the other side of a wall."""

from __future__ import annotations

import msgspec

from bastler.job import answering
from bastler.job.arrive import fresh_id
from bastler.job.document import Job
from bastler.job.outline_edits import moved_off
from bastler.language import tr
from bastler.shapes import TurnedOutline


def outline_copied(job: Job, step_id: str, off: float, *, other_side: bool) -> Job:
    """The step gets a copy of its turned outline, moved `off` the material or with a number below 0 into it; with `other_side`
    the material of the copy lies on the other side of it, as a wall's. KeyError for a step that goes along none, ValueError where
    nothing of the outline is left."""
    step = job.step(step_id)
    outline = job.outline(getattr(step, "outline", ""))
    if not isinstance(outline, TurnedOutline):
        raise KeyError(step_id)
    ident = fresh_id({o.id for o in job.outlines}, "o")
    name = fresh_id({o.name for o in job.outlines}, tr("{name}, copy ", name=outline.name[:30]))
    copy = moved_off(msgspec.structs.replace(outline, id=ident, name=name), off)
    copy = msgspec.structs.replace(copy, inside=outline.inside != other_side)
    return answering.answered(msgspec.structs.replace(job, outlines=(*job.outlines, copy)), f"step:{step_id}.outline", ident)
