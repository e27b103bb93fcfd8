"""The scene of any planned holding."""

from __future__ import annotations

from bastler.job import Plan
from bastler.proof.mill.scene import MillScene, mill_scene
from bastler.proof.turn.scene import TurnScene, turn_scene


def scene_of(plan: Plan, place: int = 0) -> MillScene | TurnScene:
    """What the program of a holding is proved against, by the kind of its main plane."""
    return turn_scene(plan, place) if plan.job.plane == "turned" else mill_scene(plan, place)
