"""The scene of any planned holding."""

from __future__ import annotations

from bastler.job import Plan
from bastler.proof.mill.scene import mill_scene
from bastler.proof.scene import Scene
from bastler.proof.turn.scene import turn_scene


def scene_of(plan: Plan, place: int = 0) -> Scene:
    """What the program of a holding is proved against, by the kind of its main plane."""
    return turn_scene(plan, place) if plan.job.plane == "turned" else mill_scene(plan, place)
