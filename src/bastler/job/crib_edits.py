"""Changing what stands in the crib of a job: its tools and their stations, materials, machine cards."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any, TypeVar, cast

import msgspec

from bastler.ask import Trouble, problems
from bastler.cutting import Material
from bastler.job.arrive import fresh_id
from bastler.job.document import Job
from bastler.job.forms import CardForm, DialectForm, MaterialForm, word_fault
from bastler.language import tr
from bastler.machines import MachineCard
from bastler.motion.turning import View
from bastler.shapes import TurnedOutline, draw
from bastler.tools import TURN_SORTS, AnyTool, Holder, Tool, ToolKind, TurnTool, faults_of, new_tool, new_turn_tool
from bastler.tools.drawn_edge import edge_of, scaled
from bastler.units import scale

replace = msgspec.structs.replace
T = TypeVar("T", Material, MachineCard)
Owner = AnyTool | Holder | MaterialForm | CardForm | DialectForm


def crib_owner(job: Job, what: str, ident: str) -> Owner | None:
    """What an address such as `tool:T.diameter`, `holder:T.length`, `material:M.kc11`, `card:C.power` or `dialect:C.end` points
    into."""
    if what in ("tool", "holder"):
        tool = job.tool(ident)
        return tool if what == "tool" else tool.holder if isinstance(tool, Tool) else None
    if what == "material":
        work = job.all_materials().get(ident)
        return MaterialForm.of(work) if work else None
    card = job.all_cards().get(ident) if what in ("card", "dialect") else None
    if card is None:
        return None
    return CardForm.of(card) if what == "card" else DialectForm.of(card)


def crib_given(job: Job, what: str, ident: str, changed: Owner) -> Job:
    """The job with a changed thing in the crib."""
    if isinstance(changed, Holder):
        tool = job.tool(ident)
        assert isinstance(tool, Tool)
        return tool_given(job, replace(tool, holder=changed))
    if isinstance(changed, MaterialForm):
        return material_given(job, changed.material())
    if isinstance(changed, CardForm | DialectForm):
        return card_given(job, changed.onto(job.all_cards()[ident]))
    old = job.tool(ident)
    assert old is not None
    if changed.station != old.station:
        return tool_to_station(tool_given(job, replace(changed, station=old.station)), ident, changed.station)
    return tool_given(job, changed)


def crib_troubles(job: Job, what: str, ident: str) -> list[Trouble]:
    """What is wrong with a thing in the crib; fields as in its address."""
    owner = crib_owner(job, what, ident)
    if isinstance(owner, Holder | None):
        return []
    if isinstance(owner, DialectForm) and (fault := word_fault(owner)):
        return [Trouble(*fault)]
    if isinstance(owner, MaterialForm | CardForm | DialectForm):
        return problems(owner)
    return faults_of(owner)


# -- tools ---------------------------------------------------------------------------------------------------------------


def tool_given(job: Job, tool: AnyTool) -> Job:
    """The job with a tool in the place of the one of the same id."""
    return replace(job, tools=tuple(tool if t.id == tool.id else t for t in job.tools))


def tool_added(job: Job, kind: str) -> tuple[Job, str]:
    """A new tool of a kind, or of a sort of turning tools, in the crib and not in the machine; and its id."""
    ident = fresh_id({t.id for t in job.tools}, f"{kind}-")
    made: AnyTool
    if kind in TURN_SORTS:
        made = new_turn_tool(kind, job.unit, ident)
    else:
        made = new_tool(cast(ToolKind, kind), job.unit, ident)
    return replace(job, tools=(*job.tools, made)), ident


def edge_taken(job: Job, ident: str, outline: str) -> Job:
    """The groove tool with an outline of the job as its edge, as wide as that is; with none named, straight again. KeyError for a
    tool or an outline that is not there, ValueError for a shape that no insert has."""
    tool, shape = job.tool(ident), job.outline(outline)
    if not isinstance(tool, TurnTool) or tool.kind != "grooving" or not (outline == "" or isinstance(shape, TurnedOutline)):
        raise KeyError(ident)
    if shape is None:
        return tool_given(job, replace(tool, drawn=()))
    drawn = draw(shape)
    if drawn.troubles:
        raise ValueError(tr("The outline is not complete yet."))
    k = scale(job.unit, tool.unit)
    edge = scaled(edge_of(View(inside=tool.inside, across=tool.side == "face").chain(drawn.chain)), k)
    return tool_given(job, replace(tool, drawn=edge, width=edge[-1].x, corner_radius=0.0, flank=0.0, neck=0.0))


def tool_copied(job: Job, ident: str) -> tuple[Job, str]:
    """A second tool like this one, in the crib; and its id. KeyError where there is none."""
    tool = job.tool(ident)
    if tool is None:
        raise KeyError(ident)
    fresh = fresh_id({t.id for t in job.tools}, f"{ident}-")
    place = job.tools.index(tool) + 1
    copy = replace(tool, id=fresh, station=0)
    return replace(job, tools=(*job.tools[:place], copy, *job.tools[place:])), fresh


def tool_removed(job: Job, ident: str) -> Job:
    """The job without the tool; steps that were given it have to say another."""
    return replace(job, tools=tuple(t for t in job.tools if t.id != ident))


def tool_to_station(job: Job, ident: str, station: int) -> Job:
    """The tool at a station; the one that stood there goes where this one was. 0 takes it out of the machine. KeyError for
    a tool that is not in the job."""
    tool = job.tool(ident)
    if tool is None:
        raise KeyError(ident)
    there = next((t for t in job.tools if station and t.station == station), None)
    moved = {ident: station} | ({there.id: tool.station} if there else {})
    return replace(job, tools=tuple(replace(t, station=moved.get(t.id, t.station)) for t in job.tools))


def tools_taken(job: Job, tools: Sequence[AnyTool]) -> Job:
    """The job with these tools besides or instead of its own of the same ids. One whose station is taken comes into the crib."""
    by_id = {t.id: t for t in tools}
    kept = tuple(by_id.pop(t.id, t) for t in job.tools)
    taken: set[int] = set()
    placed: list[AnyTool] = []
    for tool in (*kept, *by_id.values()):
        placed.append(replace(tool, station=0) if tool.station in taken else tool)
        taken |= {tool.station} - {0}
    return replace(job, tools=tuple(placed))


def tools_used(job: Job, filled: Sequence[Any]) -> set[str]:
    """The ids of the tools that steps use, from their filled answers."""
    known = {t.id for t in job.tools}
    return {ident for step in filled for ident in step.tools_used() if ident in known}


# -- materials and cards ---------------------------------------------------------------------------------------------------


def material_given(job: Job, work: Material) -> Job:
    """The job with a material of its own, in the place of one of the same id."""
    return replace(job, materials=_instead(job.materials, work))


def material_copied(job: Job, ident: str) -> tuple[Job, str]:
    """A material of the shop's own, like this one; and its id."""
    copy = _like(job.all_materials(), ident)
    return material_given(job, copy), copy.id


def material_removed(job: Job, ident: str) -> Job:
    """The job without its own material, or with the shipped one as it was; what is in use stays."""
    rest = replace(job, materials=tuple(m for m in job.materials if m.id != ident))
    return rest if job.stock.material in rest.all_materials() else job


def card_given(job: Job, card: MachineCard) -> Job:
    """The job with a machine card of its own, in the place of one of the same id."""
    return replace(job, cards=_instead(job.cards, card))


def card_copied(job: Job, ident: str) -> tuple[Job, str]:
    """A machine card of the shop's own, like this one; and its id."""
    copy = _like(job.all_cards(), ident)
    return card_given(job, copy), copy.id


def card_removed(job: Job, ident: str) -> Job:
    """The job without its own card, or with the shipped one as it was; the one in use stays."""
    rest = replace(job, cards=tuple(c for c in job.cards if c.id != ident))
    return rest if job.machine in rest.all_cards() else job


def _instead(things: tuple[T, ...], new: T) -> tuple[T, ...]:
    """The things with a new one in the place of that of the same id."""
    kept: tuple[T, ...] = tuple(t for t in things if t.id != new.id)
    return kept + (new,)  # noqa: RUF005 (the checker of types does not follow a star here)


def _like(things: Mapping[str, T], ident: str) -> T:
    """A copy with an id and a name of its own."""
    one = things[ident]
    name = fresh_id({t.name for t in things.values()}, f"{one.name} ")
    return replace(one, id=fresh_id(set(things), f"{ident}-"), name=name)
