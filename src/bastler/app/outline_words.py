"""What the outline's editor says: the short words of its answers, a segment in a line, and what was worked out."""

from __future__ import annotations

from typing import Any

from bastler.app.outline_drawing import selected_segment
from bastler.app.theme import ROLES
from bastler.ask import question_of
from bastler.language import as_inside, sayable, tr
from bastler.shapes import AnyOutline, AnySegment
from bastler.shapes.outline import PLAN_FIELDS, TURNED_FIELDS, field_name
from bastler.shapes.solver.report import Worked
from bastler.units import Kind, Unit, number_text

PAIRS: dict[str, tuple[tuple[str, ...], ...]] = {
    "line": (("u", "v"), ("du", "dv"), ("length", "angle"), ("tangent",)),
    "arc": (("u", "v"), ("du", "dv"), ("radius", "sweep"), ("cu", "cv"), ("turn",), ("tangent",)),
    "more line": (("far", "at"), ("qu", "qv"), ("parallel",), ("square",)),
    "more arc": (("far", "at"), ("qu", "qv")),
}
SHORT = sayable({
    "length": "Length", "angle": "Angle", "sweep": "Sweep", "radius": "Radius", "cx": "Centre X", "cy": "Centre Y",
    "cz": "Centre Z", "cd": "Centre Ø", "far": "From pole", "at": "at angle", "qx": "Through X", "qy": "and Y",
    "qz": "Through Z", "qd": "and Ø", "corner_size": "Size", "corner_angle": "at", "corner_depth": "Depth",
    "tangent": "Tangent to the one before", "turn": "Goes round", "parallel": "Parallel to", "square": "Right-angled to",
    "corner": "Corner behind it",
})  # fmt: skip


def sign(name: str) -> str:
    """The short word before a number."""
    signs = {"x": "X", "y": "Y", "z": "Z", "d": "Ø", "dx": tr("by X"), "dy": tr("by Y"), "dz": tr("by Z"), "dd": tr("by Ø")}
    return signs.get(name, tr(SHORT.get(name, name)))


def worked_out(address: str, ident: str, worked: tuple[Worked, ...]) -> float | None:
    """What an answer of the outline `ident` was worked out to be; None where it is open."""
    k, name = selected_segment(address, ident), address.rpartition(".")[2]
    start = worked[0].start if worked else None
    if k < 0 and start is not None and name in ("x", "y", "z", "d"):
        return {"x": start[0], "y": start[1], "z": start[0], "d": 2 * start[1]}[name]
    if not 0 <= k < len(worked):
        return None
    keys = {own: key for table in (PLAN_FIELDS, TURNED_FIELDS) for key, own in table.items()}
    return worked[k].values.get(keys.get(name, name))


def summary(unit: Unit, s: AnySegment, w: Worked, *, bad: bool) -> str:
    """Where a segment ends: given in ink, worked out in grey italics, a question mark for what is open."""
    parts = []
    for key in ("u", "v"):
        name = field_name(s, key)
        value = getattr(s, name)
        letter = {"d": "Ø"}.get(name, name.upper() + " ")
        if value is not None:
            parts.append(f"{letter}{number_text(value, Kind.LENGTH, unit)}")
        elif key in w.values:
            shown = number_text(w.values[key], Kind.LENGTH, unit)
            parts.append(f"<i style='color:{ROLES.soft}'>{letter}{shown}</i>")
        else:
            parts.append(f"<span style='color:{ROLES.focus}'>{letter}?</span>")
    if s.kind == "arc" and (s.radius is not None or "radius" in w.values):
        shown = number_text(s.radius if s.radius is not None else w.values["radius"], Kind.LENGTH, unit)
        parts.append(f"R{shown}" if s.radius is not None else f"<i style='color:{ROLES.soft}'>R{shown}</i>")
    mark = f"<b style='color:{ROLES.stop}'>!</b> " if bad else ""
    return mark + "&nbsp; ".join(parts)


def choice_text(outline: AnyOutline, worked: tuple[Worked, ...], address: str, struct: Any) -> str:
    """What stands on a choice, in the words of its question."""
    name = address.rpartition(".")[2]
    value = getattr(struct, name)
    if name in ("parallel", "square"):
        k = next((k for k, s in enumerate(outline.segments) if s.id and s.id == value), None)
        return tr("none") if k is None else tr("segment {k}", k=k + 1)
    question = question_of(type(struct), name)
    text = dict(question.choices).get(value, str(value))
    if name == "turn" and value == "any":
        k = selected_segment(address, outline.id)
        found = worked[k].values.get("turn") if 0 <= k < len(worked) else None
        return {1.0: tr("(counter-clockwise)"), -1.0: tr("(clockwise)")}.get(found or 0.0, tr("not said"))
    return as_inside(text)
