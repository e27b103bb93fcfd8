"""The shop's tools that ship with Bastler, as data, and new ones."""

from __future__ import annotations

import functools
from pathlib import Path
from typing import Any

import msgspec

from bastler.ask import Trouble, problems
from bastler.language import sayable, tr
from bastler.tools.tool import KIND_WORDS, Holder, Tool, ToolKind
from bastler.tools.turning import TurnKind, TurnTool
from bastler.units import Unit

AnyTool = Tool | TurnTool
"""A tool that turns, or one that stands still while the work does."""


@functools.cache
def shop_crib(unit: Unit, *, turning: bool = False) -> tuple[AnyTool, ...]:
    """The tools a new job of that unit begins with, in the order of their stations."""
    name = f"crib-{'lathe-' if turning else ''}{unit}.json"
    return msgspec.json.decode((Path(__file__).parent / name).read_bytes(), type=tuple[AnyTool, ...])


def faults_of(tool: AnyTool) -> list[Trouble]:
    """What is wrong with a tool's numbers, field by field; of the holder as `holder.…`."""
    found = problems(tool)
    if isinstance(tool, Tool):
        found += [Trouble(f"holder.{t.field}", t.text, t.fits) for t in problems(tool.holder)]
    return found or tool.troubles()


def new_tool(kind: ToolKind, unit: Unit, ident: str) -> Tool:
    """A tool of a kind with sizes as they are usual, not in the machine yet."""
    pointed = {"drill": 118.0, "spot-drill": 90.0, "chamfer-mill": 90.0, "engraver": 60.0}
    size = {"face-mill": 50.0, "reamer": 8.0, "tap": 5.0, "boring-head": 30.0, "engraver": 6.0, "thread-mill": 8.0}.get(
        kind, 10.0
    )
    reach = {"face-mill": 10.0, "chamfer-mill": 5.0, "engraver": 4.0, "drill": 5 * size, "thread-mill": 1.0}.get(kind, 2.5 * size)
    more: dict[str, Any] = {}
    if kind in ("tap", "thread-mill"):
        more = {"pitch": 0.8 if kind == "tap" else 1.0, "lead": 3.0 if kind == "tap" else 0.0}
    more |= {"tip_diameter": {"chamfer-mill": 2.0, "engraver": 0.2, "thread-mill": 5.0}.get(kind, 0.0)}
    tool = Tool(
        id=ident,
        station=0,
        kind=kind,
        name=f"{tr(KIND_WORDS[kind]).capitalize()} {size:g}",
        diameter=size,
        flutes={"face-mill": 5, "drill": 2, "spot-drill": 2, "reamer": 6, "boring-head": 1, "engraver": 1}.get(kind, 3),
        flute_length=reach,
        shank_diameter=more["tip_diameter"] if kind == "thread-mill" else min(size, 20.0),
        stick_out=reach + 15.0,
        length=reach + 85.0,
        holder=Holder(40.0, 60.0),
        material="hss" if kind in ("drill", "reamer", "tap") else "carbide",
        corner_radius={"bull-mill": 1.0, "ball-mill": size / 2}.get(kind, 0.0),
        tip_angle=pointed.get(kind, 180.0),
        centre_cutting=kind not in ("face-mill", "chamfer-mill", "reamer", "tap", "boring-head", "thread-mill"),
        **more,
    )
    return tool if unit == "mm" else _inch(tool)


def new_turn_tool(sort: str, unit: Unit, ident: str) -> TurnTool:
    """A turning tool of a sort with sizes as they are usual, not in the machine yet. KeyError for a sort there is not."""
    kind, more = _TURNED[sort]
    name = tr("New {turn_sorts}", turn_sorts=tr(TURN_SORTS[sort]))
    tool = TurnTool(id=ident, station=0, kind=kind, name=name, **more)
    if unit == "mm":
        return tool
    inch = tool.in_unit("inch")
    return msgspec.structs.replace(inch, **{field: round(getattr(inch, field), 3) for field in more if field in _LENGTHS})


TURN_SORTS: dict[str, str] = sayable(
    {
        "turning": "outside turning tool",
        "turning-left": "outside turning tool, left hand",
        "boring": "boring bar",
        "groove": "groove tool, outside",
        "groove-inside": "groove tool, inside",
        "groove-face": "groove tool, face",
        "groove-round": "groove tool, full radius",
        "groove-dovetail": "groove tool, dovetail",
        "parting": "part-off tool",
        "thread": "thread tool, outside",
        "thread-inside": "thread tool, inside",
        "thread-buttress": "thread tool, buttress",
        "thread-face": "thread tool, face",
        "stop": "bar stop",
        "puller": "bar puller",
    }
)
"""The sorts of turning tools that can be added, with their names."""
_BAR: dict[str, Any] = {"side": "inside", "bar": 12.0, "min_bore": 16.0, "stick_out": 45.0}
_BLADE: dict[str, Any] = {"width": 3.0, "corner_radius": 0.2, "reach": 12.0}
_TURNED: dict[str, tuple[TurnKind, dict[str, Any]]] = {
    "turning": ("turning", {"insert": "CNMG120408"}),
    "turning-left": ("turning", {"insert": "CNMG120408", "hand": "left"}),
    "boring": ("boring", {**_BAR, "insert": "CCMT060204"}),
    "groove": ("grooving", _BLADE),
    "groove-inside": ("grooving", {**_BAR, "width": 2.0, "corner_radius": 0.1, "reach": 3.0}),
    "groove-face": ("grooving", {**_BLADE, "side": "face"}),
    "groove-round": ("grooving", {**_BLADE, "corner_radius": 1.5, "neck": 2.2}),
    "groove-dovetail": ("grooving", {**_BLADE, "width": 4.0, "flank": 25.0, "neck": 1.4, "reach": 6.0}),
    "parting": ("parting", {**_BLADE, "reach": 30.0}),
    "thread": ("threading", {"width": 3.0, "corner_radius": 0.1}),
    "thread-inside": ("threading", {**_BAR, "width": 2.0, "corner_radius": 0.05, "reach": 3.0}),
    "thread-buttress": ("threading", {"profile": 33.0, "left_flank": 30.0, "width": 4.0, "corner_radius": 0.373}),
    "thread-face": ("threading", {"side": "face", "width": 4.0, "corner_radius": 0.1}),
    "stop": ("stop", {}),
    "puller": ("puller", {"reach": 25.0}),
}
_LENGTHS = ("width", "corner_radius", "neck", "reach", "bar", "min_bore", "stick_out")


def _inch(tool: Tool) -> Tool:
    """The same in inches, in sixteenths as far as they are sizes."""
    inch = tool.in_unit("inch")
    names = ("diameter", "flute_length", "shank_diameter", "stick_out", "length", "tip_diameter", "corner_radius", "pitch")
    rounded = {
        name: max(round(getattr(inch, name) * 16) / 16, 1 / 16) if getattr(inch, name) > 0.04 else getattr(inch, name)
        for name in names
    }
    rounded["pitch"] = inch.pitch and 1 / round(1 / inch.pitch)
    size = f"{rounded['diameter']:g}"
    return msgspec.structs.replace(
        inch, name=f"{tr(KIND_WORDS[tool.kind]).capitalize()} {size}", holder=Holder(1.5, 2.4), **rounded
    )
