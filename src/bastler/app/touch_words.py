"""What is said of a place that was touched on the solid, and of two of them."""

from __future__ import annotations

import math

from bastler.language import sayable, tr
from bastler.live.shown import ShownProof
from bastler.proof.touch import Apart, Face, Touch
from bastler.units import Kind, Unit, number_text, printed

AS_APART = sayable(("point to point", "face to face", "axis to axis", "axis to face"))
"""As what places may be apart, in the words of `proof.touch`."""
FACES = sayable({"plane": "flat face", "slope": "slope", "inside": "inside, where it is cut open"})
WALL = 0.5
"""A flat face whose normal rises by less is called a wall."""


def place_words(proof: ShownProof, touch: Touch) -> str:
    """Where it is: X Y Z, of turned work the diameter and Z."""
    x, y, z = (printed(v, Kind.LENGTH, proof.unit) for v in touch.place)
    if proof.plane == "turned" and not touch.driven:
        return f"Ø{number_text(2 * touch.place[0], Kind.LENGTH, proof.unit)}   Z {z}"
    return f"X {x}   Y {y}   Z {z}"


def face_words(proof: ShownProof, face: Face, *, driven: bool = False) -> str:
    """What face it is."""
    milled = driven or proof.plane == "flat"
    if face.kind == "round":
        across = "Ø" + number_text(2 * face.radius, Kind.LENGTH, proof.unit)
        return tr("hole or hollow {across}", across=across) if face.hollow else tr("round {across}", across=across)
    if not milled and face.kind == "slope":
        angle = math.degrees(math.atan2(abs(face.normal[0]), abs(face.normal[2])))
        return tr("slope at {angle}° to the axis", angle=number_text(90.0 - angle, Kind.ANGLE, proof.unit))
    if face.kind == "plane" and milled:
        return tr("wall") if abs(face.normal[2]) < WALL else tr("floor")
    return tr(FACES[face.kind])


def off_words(off: float | None, unit: Unit) -> str:
    """How far it is from the finished part."""
    if off is None:
        return ""
    if math.isinf(off):
        return tr("all that is here still goes") if off > 0 else tr("nothing was to be taken here")
    amount = number_text(abs(off), Kind.LENGTH, unit)
    if off == 0.0 or float(amount) == 0.0:
        return tr("as it is to be")
    return tr("{amount} to go", amount=amount) if off > 0 else tr("{amount} missing", amount=amount)


def maker_words(proof: ShownProof, touch: Touch, title: str) -> str:
    """Which step and line made it; `title` is how the step is called."""
    if touch.face.kind == "inside":
        return ""
    if touch.move < 0:
        return tr("as it came")
    stage = proof.stage_of(touch.move)
    line = tr("line {int}", int=int(proof.trace.line[touch.move]) + 1)
    return f"{title}, {tr(stage.stage)}, {line}" if stage is not None and title else line


def touch_words(proof: ShownProof, touch: Touch, title: str) -> str:
    """All that is said of a place besides where it is."""
    said = (
        face_words(proof, touch.face, driven=touch.driven),
        off_words(touch.off, proof.unit),
        maker_words(proof, touch, title),
    )
    return "  ·  ".join(part for part in said if part)


def apart_words(proof: ShownProof, found: Apart, *, driven: bool = False) -> tuple[str, str]:
    """How far two places lie apart: the one number, and the way along the axes; one may be on what `driven` tools made."""
    amount = number_text(found.amount, Kind.LENGTH, proof.unit)
    if found.what == "angle":
        amount = f"{number_text(found.amount, Kind.ANGLE, proof.unit)}°"
    x, y, z = (printed(v, Kind.LENGTH, proof.unit) for v in found.by)
    head = (
        tr("on one axis")
        if found.what == "on one axis"
        else f"{amount}  {tr('between the faces' if found.what == 'angle' else found.what)}"
    )
    if proof.plane == "turned" and not driven:
        across = printed(2 * found.by[0], Kind.LENGTH, proof.unit)
        return head, tr("in diameter {across}   along Z {z}", across=across, z=z)
    return head, tr("in X {x}   in Y {y}   in Z {z}", x=x, y=y, z=z)
