"""From planned stages to G-code text, by dialect; every line knows the step and the stage it came from."""

from bastler.job import Plan
from bastler.post.milling import MillWriter
from bastler.post.program import Program, Section
from bastler.post.turning import TurnWriter


def post(plan: Plan) -> Program:
    """The program of a whole plan. Steps with troubles and steps switched off are not in it."""
    return TurnWriter(plan).write() if plan.job.turns else MillWriter(plan).write()


__all__ = ["Program", "Section", "post"]
