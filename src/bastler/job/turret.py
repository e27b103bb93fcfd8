"""Which tool stands in which station of a turret, and how."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from bastler.language import tr
from bastler.machines import MachineCard
from bastler.tools import AnyTool, Tool, TurnTool
from bastler.tools.tool import Stands


class Turret:
    """A tool keeps its own number where it can; else it gets the lowest that is free: one that is driven a station that drives,
    one that is not rather another. A driven tool stands along Z or along X as the first step that takes it needs it; what stands
    along Z points at the chuck that it was first taken for, and so does a tool that is not driven."""

    def __init__(self, card: MachineCard, tools: Sequence[AnyTool]) -> None:
        self.stations = card.stations
        self.driving = frozenset(card.drive.stations) if card.drive else frozenset[int]()
        self._tools = tuple(tools)
        self._at: dict[str, int] = {}
        self._stand: dict[str, Stands] = {}
        self._points: dict[str, bool] = {}
        """Of the tools in use: at the second chuck?"""
        self.at_second = False
        """Are tools taken for the second chuck?"""

    def take(self, idents: Sequence[str | None], driven: Stands | None = None) -> list[str]:
        """Gives tools a place, to be `driven` along Z or X, or to stand still; the ids of those for which there is none."""
        without = []
        for ident in idents:
            if ident is None:
                continue
            place = self._at.get(ident) or self._place(ident, driven=driven is not None)
            turned_away = self._turned_away(ident, driven)
            if place > self.stations or turned_away:
                without.append(ident)
                continue
            if driven is not None and (place not in self.driving or not self._may(ident, driven)):
                without.append(ident)
                continue
            self._at[ident] = place
            self._points.setdefault(ident, self.at_second)
            if driven is not None:
                self._stand[ident] = driven
        return without

    def knows(self, ident: str) -> bool:
        """Is it one of the tools that can be driven?"""
        return any(t.id == ident and isinstance(t, Tool) for t in self._tools)

    def has(self, ident: str) -> bool:
        """Does it have that tool, or could it?"""
        return any(t.id == ident for t in self._tools)

    def _turned_away(self, ident: str, driven: Stands | None = None) -> bool:
        """Does a tool point at the other chuck? One that stands along X serves both."""
        return driven != "radial" and self._points.get(ident, self.at_second) != self.at_second

    def _may(self, ident: str, stands: Stands) -> bool:
        """Does no other step have it stand otherwise?"""
        return self._stand.get(ident, stands) == stands

    def _place(self, ident: str, *, driven: bool) -> int:
        own = next((t.station for t in self._tools if t.id == ident), 0)
        free = [k for k in range(1, self.stations + 1) if k not in self._at.values()]
        if driven:
            free = [k for k in free if k in self.driving]
        elif self.driving:
            free.sort(key=lambda k: k in self.driving)
        return own if own in free else next(iter(free), self.stations + 1)

    def tools(self) -> tuple[AnyTool, ...]:
        """The tools that do not point at the other chuck, those in use with their stations, the others with the one they would
        get."""
        able = [t for t in self._tools if not self._turned_away(t.id)]
        return tuple(self._standing(t, self._at.get(t.id) or self._place(t.id, driven=False)) for t in able)

    def driven(self, stands: Stands) -> tuple[Tool, ...]:
        """The tools that can be driven along Z, or along X, those first that stand so."""
        able = [t for t in self._tools if isinstance(t, Tool) and self._may(t.id, stands) and not self._turned_away(t.id, stands)]
        able.sort(key=lambda t: (self._stand.get(t.id) != stands, t.stands != stands))
        placed = [(t, self._at.get(t.id) or self._place(t.id, driven=True)) for t in able]
        return tuple(msgspec.structs.replace(t, station=station, stands=stands) for t, station in placed)

    def why_not_driven(self, ident: str, stands: Stands) -> str:
        """Why a tool cannot be driven, for which `take` found no place."""
        if self._turned_away(ident, stands):
            return self.why_not(ident)
        name = self._name(ident)
        if not self._may(ident, stands):
            along = "Z" if self._stand[ident] == "axial" else "X"
            return tr(
                "{name} stands along {along} in station {at}: a second one is needed.", name=name, along=along, at=self._at[ident]
            )
        if ident in self._at:
            return tr(
                "{name} stands still in station {at}, which drives nothing: a second one is needed.",
                name=name,
                at=self._at[ident],
            )
        many = ", ".join(map(str, sorted(self.driving)))
        return tr("Tools are driven in stations {many} of the turret, and all of these are taken.", many=many)

    def why_not(self, ident: str) -> str:
        """Why a tool cannot be taken that stands still, for which `take` found no place."""
        if self._turned_away(ident):
            other = "main" if self.at_second else "second"
            return tr(
                "{ident} points at the {other} chuck in station {at}: another one is needed.",
                ident=self._name(ident),
                other=other,
                at=self._at[ident],
            )
        return tr("The turret has {stations} stations, and all are taken.", stations=self.stations)

    def _name(self, ident: str) -> str:
        return next((t.called for t in self._tools if t.id == ident), ident)

    def _standing(self, tool: AnyTool, station: int) -> AnyTool:
        if isinstance(tool, TurnTool):
            return tool.standing(station, self.stations)
        return msgspec.structs.replace(tool, station=station, stands=self._stand.get(tool.id, tool.stands))
