"""A bar that slides through a guide bush: how far it is drawn back. The bush goes along with the tools, seen from the bar; it
guides by what nothing was turned off yet, and once all of that has come out of its back the bar drops in it.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from bastler.language import tr
from bastler.nc import RAPID, Trace
from bastler.proof.remark import Remark
from bastler.proof.result import StageResult
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section import TurnSection
from bastler.shapes.kinds import Floats
from bastler.tools import TurnTool
from bastler.units import Kind, with_unit

SKIN_MM = 0.01
"""A tool that comes in by less, on the radius, turns nothing off that guides."""
SLACK_MM = 0.001


def bush_remarks(scene: TurnScene, trace: Trace, stages: Sequence[StageResult[TurnSection]]) -> Iterator[Remark]:
    """The first move that draws the bar back farther than the bush has hold of it."""
    bush = scene.card.bush
    if bush is None or not len(trace):
        return
    deepest = deepest_before(scene, trace)
    left = np.array([_left_of(scene, int(tool)) for tool in trace.tool])
    over = trace.end[:, 2] + left - deepest - bush.back
    over[trace.pulled != trace.pulled[0]] = 0.0  # the next part, whose moves are those of the first
    over[trace.tool <= 0] = 0.0
    if over.max() <= SLACK_MM * scene.mm:
        return
    move = int(np.argmax(over > SLACK_MM * scene.mm))
    keeps, too_far = (with_unit(v, Kind.LENGTH, scene.unit) for v in (bush.keeps, float(over[move])))
    step = next((s.step for s in stages if s.begin <= move < s.end), "")
    text = tr(
        "The bar is drawn back {too_far} too far: less than {keeps} of what is not turned yet is left in the guide bush.",
        too_far=too_far,
        keeps=keeps,
    )
    yield Remark(level="stop", code="bush-lets-go", text=text, line=int(trace.line[move]) + 1, step=step, move=move,
                 amount=float(over[move]))  # fmt: skip


def deepest_before(scene: TurnScene, trace: Trace) -> Floats:
    """Before each move: down to which length something was turned off the bar's outside, (n,)."""
    outer, front = float(scene.untouched.bounds[3]), float(scene.untouched.bounds[2])
    r = np.minimum(np.abs(trace.start[:, 0]), np.abs(trace.end[:, 0]))
    own = {
        number: tool for number, tool in scene.tools.items() if isinstance(tool, TurnTool) and not tool.inside and not tool.holds
    }
    turns = np.isin(trace.tool, list(own)) & (trace.kind != RAPID) & (r < outer - SKIN_MM * scene.mm)
    z = np.minimum(trace.start[:, 2], trace.end[:, 2]) + np.array([_left_of(scene, int(tool)) for tool in trace.tool])
    reached = np.minimum.accumulate(np.where(turns, z, np.inf))
    before: Floats = np.minimum(np.concatenate([[np.inf], reached[:-1]]), front)
    return before


def _left_of(scene: TurnScene, number: int) -> float:
    """How far a tool's edge reaches toward the bush from its point; the tool stands so that this is before the bush."""
    tool = scene.tools.get(number)
    return min((z for z, _ in tool.cutting), default=0.0) if isinstance(tool, TurnTool) else 0.0
