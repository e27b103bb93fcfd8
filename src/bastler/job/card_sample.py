"""A small part on a machine card, to see what code the card makes."""

from __future__ import annotations

import msgspec

from bastler.job import edits
from bastler.job.document import Job, new_job
from bastler.job.stock import BlockStock
from bastler.job.vise import ViseHolding
from bastler.machines import MachineCard
from bastler.units import Unit

MILLED = ("facing", "round-pocket", "drilling")
TURNED = ("turn-facing", "turn-roughing", "turn-finishing")


def card_sample(card: MachineCard, unit: Unit) -> Job:
    """A plate with a pocket and drilled holes, or a turned shoulder, on that card."""
    job = new_job(unit, card.id, {card.id: card})
    job = msgspec.structs.replace(job, name="sample", cards=(card,))
    if isinstance(job.stock, BlockStock):
        size = (60.0, 40.0, 20.0) if unit == "mm" else (2.5, 1.5, 0.75)
        plain = dict(zip(("size_x", "size_y", "size_z"), size, strict=True))
        block = msgspec.structs.replace(job.stock, **plain)
        job = msgspec.structs.replace(job, stock=block, holdings=(ViseHolding(vise="no"),))
    after = ""
    for kind in TURNED if job.turns else MILLED:
        job, after = edits.step_added(job, kind, after)
    return job
