"""From planned stages to G-code text, by dialect; every line knows the step and the stage it came from."""

from bastler.job import PlannedHolding
from bastler.post.milling import MillWriter
from bastler.post.program import Program, Section
from bastler.post.turning import TurnWriter


def post(held: PlannedHolding) -> Program:
    """The program of a whole held. Steps with troubles and steps switched off are not in it."""
    return TurnWriter(held).write() if held.job.turns else MillWriter(held).write()


__all__ = ["Program", "Section", "post"]
