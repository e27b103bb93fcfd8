"""What older versions of the job file wrote, in the words of this one."""

from __future__ import annotations

import math
from typing import Any

HELD = {
    "milling": ("block", "vise", (
        "material", "pace", "coolant", "form", "diameter", "size_x", "size_y", "size_z", "over_top", "top_comes", "over_bottom",
        "over_sides", "sides_come",
    )),
    "turning": ("bar", "chuck", (
        "material", "pace", "coolant", "form", "diameter", "bore", "across_flats", "forged", "length", "over_front",
        "front_comes", "over_back", "finished",
    )),
}  # fmt: skip
"""Of a setup up to version 3 by what it held: the kinds of stock and holding, and the answers that are the stock's."""


def parted_setup(old: dict[str, Any]) -> dict[str, Any]:
    """A job whose stock and only holding were one *setup*. What is not understood is left for the reader to refuse."""
    setup: Any = old.get("setup")
    known = isinstance(setup, dict) and isinstance(setup.get("typed", {}), dict) and not {"stock", "holdings"} & old.keys()
    if not known or not isinstance(setup.get("holds"), str) or setup["holds"] not in HELD:
        return old
    stock, held, of_stock = HELD[setup["holds"]]
    made: dict[str, dict[str, Any]] = {"stock": {"is": stock}, "holding": {"held": held, "id": "h1"}}
    for name, value in setup.items():
        if name not in ("holds", "typed"):
            made["stock" if name in of_stock else "holding"][name] = value
    for name, value in setup.get("typed", {}).items():
        made["stock" if name in of_stock else "holding"].setdefault("typed", {})[name] = value
    now = {k: v for k, v in old.items() if k != "setup"}
    return now | {"stock": made["stock"], "holdings": [made["holding"]]}


def outline_of_version_2(old: dict[str, Any]) -> dict[str, Any]:
    """A turned outline whose edges and blends stood between its segments. What is not understood is left for the reader to
    refuse."""
    z, d = _number(old, "z"), _number(old, "d")
    segments: list[dict[str, Any]] = []
    now = {k: v for k, v in old.items() if k != "pieces"} | {"in": "turned"}
    for piece in old["pieces"] if isinstance(old["pieces"], list) else []:
        kind = piece.get("kind") if isinstance(piece, dict) else None
        if kind in ("edge", "blend"):
            corner = _corner(piece)
            (segments[-1] if segments else now).update(corner)
            continue
        made = {"in": "turned", "id": f"g{len(segments) + 1}"} | _segment(piece, kind, z, d)
        segments.append(made)
        z, d = _end(piece, kind, z, d)
    return now | {"segments": segments}


def _number(piece: Any, name: str) -> float:
    value = piece.get(name) if isinstance(piece, dict) else None
    return float(value) if isinstance(value, int | float) else 0.0


def _corner(piece: dict[str, Any]) -> dict[str, Any]:
    if piece["kind"] == "blend":
        return {"corner": "radius", "corner_size": piece.get("radius", 1.0)}
    return {"corner": "edge", "corner_size": piece.get("leg", 1.0), "corner_angle": piece.get("angle", 45.0)}


def _segment(piece: Any, kind: Any, z: float, d: float) -> dict[str, Any]:
    given = {k: v for k, v in piece.items() if k != "kind"} if isinstance(piece, dict) else {}
    if kind == "along":
        return given | {"angle": 0.0 if _number(piece, "z") <= z else 180.0}
    if kind == "up":
        return given | {"angle": 90.0 if _number(piece, "d") >= d else -90.0}
    if kind == "slant":
        return given | ({"angle": _slant(piece, z, d)} if given.get("angle") is not None else {})
    if kind == "curve":
        out = given.pop("bulge", "out") == "out"
        return given | {"kind": "arc", "turn": "ccw" if out else "cw"}
    return given


def _slant(piece: Any, z: float, d: float) -> float | None:
    """The direction of a slanted line: toward the chuck unless its end says otherwise; both ends given leave no angle."""
    angle = _number(piece, "angle")
    if piece.get("d") is not None and piece.get("z") is not None:
        return None
    if piece.get("d") is not None:
        return angle if _number(piece, "d") >= d else -angle
    return angle if _number(piece, "z") <= z else 180.0 - angle


def _end(piece: Any, kind: Any, z: float, d: float) -> tuple[float, float]:
    end = (_number(piece, "z") if kind != "up" else z, _number(piece, "d") if kind != "along" else d)
    if kind != "slant" or not isinstance(piece, dict):
        return end
    slope = math.tan(math.radians(_number(piece, "angle") or 45.0))
    if piece.get("z") is None:
        return (z - abs(end[1] - d) / 2 / slope, end[1])
    if piece.get("d") is None:
        return (end[0], d + 2 * abs(end[0] - z) * slope)
    return end
