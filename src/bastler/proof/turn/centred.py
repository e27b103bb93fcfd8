"""When a tailstock's centre is at the work. A program tells by the words of the card, or by the stop at which it is moved by
hand; where it then stands is known from the step that has it moved.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from bastler.language import tr
from bastler.nc.trace import Event
from bastler.post.program import Section
from bastler.proof.remark import Remark
from bastler.proof.stock import Ran
from bastler.proof.turn.scene import TurnScene
from bastler.shapes.kinds import Region

Moved = tuple[int, Region | None]
"""From a row on the centre is there, or none is."""


def centred(ran: Ran, scene: TurnScene) -> Sequence[Moved]:
    """All that happens to the centre, in its order. Where a program begins behind a step that moves it, that is done already."""
    if _foreign(ran):
        comes = next((centre for centre in scene.centres.values() if centre is not None), None)
        return [(e.at, comes if e.value > 0 else None) for e in ran.trace.events if e.what == "centre"]
    found: list[Moved] = []
    for step, centre in scene.centres.items():
        if not _sections(ran, step):
            found.append((0, centre))
        elif (event := _moves_it(ran, step, comes=centre is not None)) is not None:
            found.append((event.at, centre))
    return found


def in_at(moved: Sequence[Moved], begin: int, end: int) -> Region | None:
    """The centre that is at the work in any of some moves."""
    before = [centre for at, centre in moved if at <= begin]
    within = [centre for at, centre in moved if begin < at < end and centre is not None]
    return within[0] if within else before[-1] if before else None


def centre_remarks(ran: Ran, scene: TurnScene) -> Iterator[Remark]:
    """A centre that a step means to move and the program does not, and one that is moved by words that no step knows of."""
    for step, centre in scene.centres.items():
        sections = _sections(ran, step)
        if sections and not ran.trace.cut and _moves_it(ran, step, comes=centre is not None) is None:
            text = tr(
                "The program never has the tailstock's centre {centre} here.",
                centre=tr("come in") if centre is not None else tr("go out"),
            )
            yield Remark(level="stop", code="centre-missing", text=text, line=sections[0].first + 1, step=step)
    always = any(name == "tailstock" for name, _ in scene.keep_out)
    for event in ran.trace.events:
        if event.what == "centre" and event.value > 0 and not always and not _known(ran, scene, event):
            text = tr("The tailstock's centre comes in, and no step says so: what it stands in the way of is not seen.")
            yield Remark(level="stop", code="centre-unknown", text=text, line=event.line + 1)


def _sections(ran: Ran, step: str) -> list[Section]:
    """The lines of a step; none where the program begins behind it."""
    return [section for section in ran.program.sections if section.step == step]


def _moves_it(ran: Ran, step: str, *, comes: bool) -> Event | None:
    """What has the centre come or go in the lines of a step."""
    own = _sections(ran, step)
    here = (e for e in ran.trace.events if any(s.first <= e.line < s.last for s in own))
    if ran.held.ctx.card.dialect.centre_words:
        return next((e for e in here if e.what == "centre" and (e.value > 0) == comes), None)
    return next((e for e in here if e.what == "stop" and e.value == 0.0), None)


def _foreign(ran: Ran) -> bool:
    """Is it a program that nobody knows of which steps its lines are?"""
    return not any(section.step for section in ran.program.sections)


def _known(ran: Ran, scene: TurnScene, event: Event) -> bool:
    """Is it in the lines of a step that moves the centre? In another program it is the centre of such a step."""
    if _foreign(ran):
        return bool(scene.centres)
    return any(s.first <= event.line < s.last and s.step in scene.centres for s in ran.program.sections)
