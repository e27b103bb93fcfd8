"""How far slender work gives way under the tool: a beam held by the jaws, free at its other end or on the tailstock's centre, and
where there is a steady resting in that.

The force across is a share of the cutting force that the power tells of. The beam is that of the stock as it is, with its steps
and its bore: what bends at the cut is the compliance summed along it. What gives way by so much comes out twice that too large in
diameter.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from bastler.language import tr
from bastler.proof.found import Found
from bastler.proof.turn.checks import LAST_CUTS, TurnView
from bastler.proof.turn.checks import check as check
from bastler.proof.turn.section import VOLUME
from bastler.shapes.kinds import Floats
from bastler.steps.base import TURNED
from bastler.tools import Tool
from bastler.units import figures

MODULUS: dict[str, float] = {"P": 210e3, "M": 200e3, "K": 110e3, "N": 70e3, "S": 110e3, "H": 210e3}
"""Young's modulus by ISO 513 group in N/mm², round figures of the soft end of each."""
ACROSS = 0.4
"""The force across, as a share of the cutting force, for tools that approach squarely; on the careful side."""
SHARES = 40
"""Places along the beam at which its section is taken."""
MUCH_MM = {True: 0.01, False: 0.1}
"""So much, in mm on the radius, is said: of cuts that leave the finished face, and of all others."""


@check("bends", TURNED)
def bends(view: TurnView) -> Iterator[Found]:
    """The worst move of a run, where the work gives way by more than its size allows."""
    tool, trace, mm = view.tool, view.trace, view.scene.mm
    jaws = dict(view.scene.keep_out).get("jaws")
    if tool is None or isinstance(tool, Tool) or tool.inside or jaws is None or not len(view.proof.power):
        return
    held = float(jaws.bounds[2])
    part = view.part
    power = np.zeros(view.end - view.begin)
    np.maximum.at(power, view.proof.owner, view.proof.power)
    r = np.maximum(np.abs(trace.start[part, 0]), np.abs(trace.end[part, 0])) / mm
    metres = 2 * np.pi * r * trace.speed[part] / 60_000.0
    cuts = view.feeds & (view.proof.cut[:, VOLUME] > 0) & (metres > 1e-6) & (trace.lead[part] <= 0)
    force = np.where(cuts, ACROSS * 1000.0 * view.scene.card.efficiency * power / np.maximum(metres, 1e-6), 0.0)
    z = np.maximum(trace.start[part, 2], trace.end[part, 2])
    out = np.maximum(z - held, 0.0) / mm
    steady = _steady(view)
    rests = (steady - held) / mm if steady is not None else 0.0
    lever = out**3
    if rests > 0:
        lever = np.where(out > rests, (out - rests) ** 2 * out, (out * (rests - out)) ** 2 / rests)
    move = int(np.argmax(force * lever))
    if force[move] <= 0.0 or out[move] <= 0.0:
        return
    front = float(view.before.bounds[2])
    stiff = _stiffness(view, held, min(float(z[move]), front))
    centre = "tailstock" in dict(view.scene.keep_out)
    free = float(force[move]) * compliance(stiff, float(out[move]))
    if rests > 0:
        free = float(force[move]) * rested(float(stiff.mean()), float(out[move]), rests)
    on_centre = float(force[move]) * propped(float(stiff.mean()), float(out[move]), (front - held) / mm)
    given_way = min(free, on_centre) if centre else free  # a steady besides the centre makes it no weaker
    if given_way <= MUCH_MM[view.stage in LAST_CUTS]:
        return
    by = figures(given_way, 2)
    text = tr("The work bends by about {by} mm there, {given_way} mm in diameter.", by=by, given_way=figures(2 * given_way, 2))
    if not centre and not rests and on_centre < free / 2:
        text += tr(" On a tailstock centre it would be {on_centre}.", on_centre=figures(on_centre, 2))
    yield Found("caution", "bends", text, move, given_way, view.place(move))


def compliance(stiff: Floats, long: float) -> float:
    """How far the end of a cantilever `long` mm bends under 1 N there, in mm: the unit-load integral of (long - x)² / EI; `stiff`
    (n,) is EI in N mm² in the middles of equal parts."""
    x = (np.arange(len(stiff)) + 0.5) / len(stiff) * long
    return float(np.sum((long - x) ** 2 / stiff) * long / len(stiff))


def propped(stiff: float, at: float, long: float) -> float:
    """How far a beam held at one end and resting at the other bends under 1 N at a place, in mm, there: a³ b² (3 a + 4 b) /
    (12 EI l³), b = l - a (Roark's Formulas for Stress and Strain, beams; EI in N mm²)."""
    b = max(long - at, 0.0)
    return at**3 * b**2 * (3 * at + 4 * b) / (12.0 * stiff * long**3) if long > 0 else 0.0


def rested(stiff: float, at: float, rest: float) -> float:
    """How far a beam held at one end and resting at `rest` bends under 1 N at a place, in mm, there: before the rest as one held
    at one end and resting at the other; beyond it, overhanging by c, c² (3 rest + 4 c) / (12 EI) (Roark's Formulas for Stress
    and Strain, beams: the rest turns by c rest / (4 EI))."""
    if at <= rest:
        return propped(stiff, at, rest)
    beyond = at - rest
    return beyond**2 * (3 * rest + 4 * beyond) / (12.0 * stiff)


def _steady(view: TurnView) -> float | None:
    """Where the middle of the steady is."""
    region = dict(view.scene.keep_out).get("steady")
    return None if region is None else float(region.bounds[0] + region.bounds[2]) / 2


def _stiffness(view: TurnView, held: float, end: float) -> Floats:
    """EI in N mm² along the work as it is before the run."""
    mm, e = view.scene.mm, MODULUS[view.scene.material.group]
    found = []
    for k in range(SHARES):
        z = held + (end - held) * (k + 0.5) / SHARES
        line = view.before.intersection(shapely.LineString([(z, 0.0), (z, 1e4)]))
        spans = [g.bounds[1::2] for g in getattr(line, "geoms", [line]) if not g.is_empty]
        found.append(sum(np.pi / 4 * ((b / mm) ** 4 - (a / mm) ** 4) for a, b in spans))
    stiff: Floats = e * np.maximum(np.array(found), 1e-3)
    return stiff
