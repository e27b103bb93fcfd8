"""Proposals for speeds and feeds that can say where they come from.

The ranges are the material's; experience with a tool comes before them. Factors for coatings and for tools that stick out far are
round figures of our own workshop table, on the careful side. Chip thinning is geometry: the feed is raised so that the thickest
chip of a tooth stays what it was.
"""

from __future__ import annotations

import math
from collections.abc import Mapping

import msgspec

from bastler.cutting.materials import Material, ToolMaterial
from bastler.language import decimal, sayable, tr

MADE_OF: Mapping[ToolMaterial, str] = sayable({"hss": "HSS", "carbide": "carbide"})
"""What tools are made of, in words."""
COATED: dict[ToolMaterial, dict[str, float]] = {
    "carbide": {"": 1.0, "TiN": 1.1, "TiCN": 1.15, "TiAlN": 1.25, "AlCrN": 1.25, "Diamond": 1.5},
    "hss": {"": 1.0, "TiN": 1.2, "TiCN": 1.25, "TiAlN": 1.3, "AlCrN": 1.3, "Diamond": 1.0},
}
"""Cutting speed with a coating, as a share of that without."""
STOUT, SLENDER, LEAST = 5.0, 10.0, 0.5
"""Up to STOUT diameters of stick-out nothing is taken off; at SLENDER ones LEAST is left, evenly between."""
MOST_THINNING = 2.0
"""No feed is raised more than that for thin chips."""
CAREFUL, BRISK = 0.7, 1.3
"""What the slider's ends make of feeds, and of speeds known from experience."""


class Advice(msgspec.Struct, frozen=True):
    """A value and where it comes from, in a few words."""

    value: float
    because: str


def slender(length: float, diameter: float) -> float:
    """The share of speed and feed for a tool that sticks out by `length`; 1 for a stout one."""
    ratio = length / diameter
    if ratio <= STOUT:
        return 1.0
    return max(LEAST, 1.0 - (1.0 - LEAST) * (ratio - STOUT) / (SLENDER - STOUT))


def paced(pace: float) -> float:
    """What the slider, 0 careful to 1 brisk, makes of a feed."""
    return CAREFUL + (BRISK - CAREFUL) * pace


def thinning(ae: float, diameter: float, approach: float = 90.0) -> float:
    """How much the feed per tooth may be raised, so that the thickest chip stays as thick as in a full cut: by the width of cut
    (under half the diameter: d / (2 √(ae (d - ae)))), and by the approach angle in degrees (1 / sin κ). At most MOST_THINNING.
    Source: the geometry of the cut, ISO 3002-3: h = fz · sin φ · sin κ.
    """
    share = min(max(ae / diameter, 1e-6), 1.0)
    radial = 1.0 if share >= 0.5 else 1.0 / (2.0 * math.sqrt(share * (1.0 - share)))
    return min(radial / math.sin(math.radians(approach)), MOST_THINNING)


def speed_advice(
    work: Material, tool: ToolMaterial, coating: str, *, pace: float, reach: float, known: tuple[float, str] | None
) -> Advice:
    """Cutting speed in m/min. `reach` is the stick-out in diameters, `known` what experience says and who says so."""
    said = tr("careful") if pace < 0.4 else tr("brisk") if pace > 0.6 else ""
    if known is not None:
        value = known[0] * paced(pace)
        parts = [tr("{known:g} from {known_2}", known=known[0], known_2=known[1] or tr("experience"))] + (
            [decimal(f"× {paced(pace):.2f}") + f" {said}"] if said else []
        )
    else:
        low, high = work.vc[tool]
        value = low + (high - low) * pace
        name = tr(MADE_OF[tool])
        parts = [
            tr(
                "{value:.0f} of {low:g} to {high:g}, {said}, {name} in {name_2} (ISO {group})",
                value=value,
                low=low,
                high=high,
                said=said or tr("middle"),
                name=name,
                name_2=work.name,
                group=work.group,
            )
        ]
        factor = COATED[tool].get(coating, 1.0) if coating != "Diamond" or work.group == "N" else 1.0
        if factor != 1.0:
            value *= factor
            parts.append(tr("× {factor:g} for {coating}", factor=factor, coating=coating))
    share = slender(reach, 1.0)
    if share < 1.0:
        value *= share
        parts.append(tr("× {share:.2f} for {reach:.1f} × D stick-out", share=share, reach=reach))
    return Advice(value, " ".join(parts))


def feed_advice(
    base: float, what: str, *, pace: float, reach: float, thin: float = 1.0, known: tuple[float, str] | None
) -> Advice:
    """Feed per tooth from a `base` that follows from the diameter (`what` says how); `thin` is what thin chips allow."""
    if known is not None:
        base, what = known[0], tr("{known:g} from {known_2}", known=known[0], known_2=known[1] or tr("experience"))
    value, parts = base, [what]
    for factor, why in (
        (paced(pace), tr("careful") if pace < 0.5 else tr("brisk")),
        (slender(reach, 1.0), tr("for {reach:.1f} × D stick-out", reach=reach)),
        (thin, tr("as the chips are thin")),
    ):
        if abs(factor - 1.0) > 1e-9:
            value *= factor
            parts.append(decimal(f"× {factor:.2f}") + f" {why}")
    return Advice(value, " ".join(parts))
