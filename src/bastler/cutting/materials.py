"""Work materials as ISO 513 groups.

kc1.1 and mc are round figures of the order that textbooks print for the group; speeds and feeds are starting points of our
own workshop table, on the careful side. A shop overrides them where it knows better.
"""

from __future__ import annotations

from pathlib import Path
from typing import Literal

import msgspec

from bastler.language import tr_as

ToolMaterial = Literal["hss", "carbide"]


SENSE = "material"
Coolant = Literal["flood", "mist", "dry"]


class Material(msgspec.Struct, frozen=True, kw_only=True):
    """One work material.

    `group` after ISO 513; `kc11` in N/mm² and `mc` of Kienzle's law; `vc` the range of cutting speed in m/min for each
    tool material; `fz` feed per tooth as a share of the tool diameter for end mills of each tool material; `drill_f` the
    feed per revolution as a share of the drill diameter; `slot_ap` the depth of cut in a full slot as a share of it;
    `coolant` what it is cut with; `cut_by` the tool materials that are hard enough for it.
    """

    id: str
    name: str
    group: Literal["P", "M", "K", "N", "S", "H"]
    hardness: str
    kc11: float
    mc: float
    vc: dict[ToolMaterial, tuple[float, float]]
    fz: dict[ToolMaterial, float]
    drill_f: dict[ToolMaterial, float]
    slot_ap: float
    coolant: Coolant = "flood"
    cut_by: tuple[ToolMaterial, ...] = ("hss", "carbide")

    @property
    def called(self) -> str:
        """Its name; of one that comes with Bastler in the language in force."""
        return said_material(self.name)

    def speed(self, tool_material: ToolMaterial) -> float:
        """The proposed cutting speed in m/min: the middle of the range."""
        low, high = self.vc[tool_material]
        return (low + high) / 2


def said_material(name: str) -> str:
    """The name of a material as it is said in the language in force; one of the shop's own as it is."""
    return tr_as(SENSE, name)


def _load() -> dict[str, Material]:
    text = (Path(__file__).parent / "materials.json").read_bytes()
    return {m.id: m for m in msgspec.json.decode(text, type=list[Material])}


MATERIALS = _load()


def material(ident: str) -> Material:
    """The material of that id. KeyError when there is none."""
    return MATERIALS[ident]
