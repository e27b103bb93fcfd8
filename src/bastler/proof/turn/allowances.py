"""Is what was left on an outline for a later step still there at the end?"""

from __future__ import annotations

from collections.abc import Iterator

from bastler.proof.remark import Remark
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.turned import TurnProof
from bastler.units import Kind, with_unit

MOST_TAKEN = 0.5
"""An allowance of which less than this share is gone was meant to go, and did not."""


def allowances_kept(scene: TurnScene, proof: TurnProof) -> Iterator[Remark]:
    """A caution for every outline that keeps most of what a step left on it: the part is too large there, in a bore too small.
    Of several steps that leave something there it is said of the last."""
    said: set[str] = set()
    for wanted in reversed(scene.wanted):
        left = wanted.allowance
        if left is None or left.outline in said:
            continue
        there, stands = (float(region.intersection(left.band).area) for region in (scene.raw, proof.part))
        if there <= 0.0 or stands < (1.0 - MOST_TAKEN) * there:
            continue
        said.add(left.outline)
        d, z = (with_unit(value, Kind.LENGTH, scene.unit) for value in (left.d, left.z))
        text = f"“{left.outline}” keeps {d} on Ø and {z} on Z: no step after this one takes that."
        yield Remark(level="caution", code="allowance-left", text=text, step=wanted.step, amount=left.d)
