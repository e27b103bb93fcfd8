"""The cards that ship with Bastler."""

from __future__ import annotations

from pathlib import Path

import msgspec

from bastler.machines.card import MachineCard


def _load() -> dict[str, MachineCard]:
    folder = Path(__file__).parent / "cards"
    cards = [msgspec.json.decode(path.read_bytes(), type=MachineCard) for path in sorted(folder.glob("*.json"))]
    return {c.id: c for c in cards}


CARDS = _load()


def card(ident: str) -> MachineCard:
    """The card of that id. KeyError when there is none."""
    return CARDS[ident]
