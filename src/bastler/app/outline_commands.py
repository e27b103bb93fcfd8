"""What can be done with the outline of the selected step: the one way for menus, keys and buttons.

The selected segment is the one the focus is in; without one it is the last.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import msgspec

from bastler.app.outline_drawing import selected_segment
from bastler.app.session import Session
from bastler.ask import question_of
from bastler.job import answering, edits, outline_edits
from bastler.job.outline_copies import outline_copied
from bastler.language import tr
from bastler.shapes import AnyOutline, PlanOutline, TurnedOutline
from bastler.shapes.fitted import CurveError


def address_of(outline: AnyOutline, k: int, field: str = "") -> str:
    """The address of a segment, or of one of its answers."""
    return f"outline:{outline.id}.segments.{k}" + (f".{field}" if field else "")


def first_field(outline: AnyOutline) -> str:
    """The first thing that is asked of a segment."""
    return "x" if isinstance(outline, PlanOutline) else "z"


def selected(session: Session, outline: AnyOutline) -> int:
    """The segment the focus is in, else the last; -1 when there is none."""
    k = selected_segment(session.focus, outline.id)
    last = len(outline.segments) - 1
    return k if 0 <= k <= last else last


def changed(session: Session, outline: AnyOutline, says: str, focus: str = "") -> None:
    """The outline as it is now, as one entry of the history."""
    session.history.settle()
    if focus:
        session.focus = focus
    session.edit(answering.outline_given(session.job, outline), says)
    if focus:
        session.wants_focus.emit(focus)


def insert(session: Session, kind: Literal["line", "arc"], at: int | None = None) -> None:
    """A segment more: before number `at`, else behind the selected one."""
    outline = session.outline_of_step()
    if outline is None:
        return
    at = selected(session, outline) + 1 if at is None else at
    changed(
        session, outline_edits.inserted(outline, at, kind), tr("Add a segment"), address_of(outline, at, first_field(outline))
    )


def curve_on(session: Session, formula: str, to_z: float, within: float) -> None:
    """A turned outline goes on by a curve; CurveError and ExpressionError are the caller's to say."""
    outline = session.outline_of_step()
    if isinstance(outline, TurnedOutline):
        if within <= 0.0:
            raise CurveError(tr("How near arcs come to it has to be more than 0."))
        changed(session, outline_edits.curved_on(outline, formula, to_z, within, session.job.unit), tr("Add a curve"))


def remove(session: Session) -> None:
    outline = session.outline_of_step()
    if outline is not None and outline.segments:
        k = selected(session, outline)
        left = len(outline.segments) - 1
        focus = address_of(outline, min(k, left - 1), first_field(outline)) if left else f"outline:{outline.id}"
        changed(session, outline_edits.removed(outline, k), tr("Remove the segment"), focus)


def become(session: Session) -> None:
    """An arc instead of a line, or a line instead of an arc."""
    outline = session.outline_of_step()
    if outline is not None and outline.segments:
        k = selected(session, outline)
        kind: Literal["line", "arc"] = "arc" if outline.segments[k].kind == "line" else "line"
        focus = address_of(outline, k, first_field(outline))
        changed(session, outline_edits.become(outline, k, kind), tr("Change the segment"), focus)


def go(session: Session, by: int) -> None:
    """To the segment so many further on."""
    outline = session.outline_of_step()
    if outline is not None and outline.segments:
        k = selected_segment(session.focus, outline.id)
        at = k + by if k >= 0 else 0
        if 0 <= at < len(outline.segments):
            session.wants_focus.emit(address_of(outline, at, first_field(outline)))


def switch(session: Session, field: Literal["tangent", "turn", "corner"]) -> None:
    """The next of the selected segment's choices."""
    outline = session.outline_of_step()
    if outline is None or not outline.segments:
        return
    k = selected(session, outline)
    if field != "turn" or outline.segments[k].kind == "arc":
        next_choice(session, address_of(outline, k, field))


def next_choice(session: Session, address: str) -> None:
    """The next value of an answer that is a choice, or one of the outline's lines."""
    struct, name = answering.at(session.job, address)
    question = question_of(type(struct), name)
    values = [value for value, _ in question.choices]
    outline = session.outline_of_step()
    if question.picks == "segment" and outline is not None:
        k = selected_segment(address, outline.id)
        values = ["", *(s.id for j, s in enumerate(outline.segments) if j != k and s.kind == "line" and s.id)]
    session.history.settle()
    session.answer(address, after(values, getattr(struct, name)))


def after(values: Sequence[str], now: str) -> str:
    """The one behind a value, going round; the first for one that is not among them."""
    return values[(values.index(now) + 1) % len(values)] if now in values else values[0]


def next_shape(session: Session) -> None:
    """Takes another of the shapes that are possible."""
    outline = session.outline_of_step()
    if outline is None:
        return
    solution = session.drawn(outline).solution
    every = [*solution.candidates, *solution.others]
    if len(every) > 1:
        at = 0 if solution.state == "ambiguous" else 1
        changed(session, outline_edits.picked(outline, every[at]), tr("Take another shape"))


def take_shape(session: Session, number: int) -> None:
    """Takes the shape of that number (counted from 0) of those to choose from."""
    outline = session.outline_of_step()
    if outline is not None:
        candidates = session.drawn(outline).solution.candidates
        if 0 <= number < len(candidates):
            changed(session, outline_edits.picked(outline, candidates[number]), tr("Take this shape"))


def whole(session: Session, what: Literal["reverse", "mirror-x", "mirror-y", "begin"]) -> None:
    """Changes the whole outline; `begin` begins it with the selected segment."""
    outline = session.outline_of_step()
    if not isinstance(outline, PlanOutline):
        return
    if what == "reverse":
        changed(session, outline_edits.run_back(outline), tr("Run it the other way"))
    elif what == "begin":
        changed(
            session, outline_edits.begun_at(outline, selected(session, outline)), tr("Begin elsewhere"), address_of(outline, 0)
        )
    else:
        changed(session, outline_edits.mirrored(outline, "x" if what == "mirror-x" else "y"), tr("Mirror"))


def turn_by(session: Session, degrees: float) -> None:
    """Turns the whole outline about zero, counter-clockwise."""
    outline = session.outline_of_step()
    if isinstance(outline, PlanOutline):
        turned = outline_edits.rotated(outline, degrees)
        if turned == outline and degrees % 360:
            session.said.emit("wrong", tr("Only a whole outline turns by any angle; one that is still open turns by 90°."))
        changed(session, turned, tr("Turn by {degrees:g}°", degrees=degrees))


def copied(session: Session, off: float, *, other_side: bool) -> None:
    """The selected step gets a copy of its outline, so far off it; ValueError is the caller's to say."""
    step = session.job.step(session.selected)
    if step is None or not isinstance(session.outline_of_step(), TurnedOutline):
        return
    session.history.settle()
    session.edit(outline_copied(session.job, step.id, off, other_side=other_side), tr("A copy of the outline"))


def renamed(session: Session, name: str) -> None:
    """Another name for the outline."""
    outline = session.outline_of_step()
    if outline is not None and name.strip():
        named = msgspec.structs.replace(outline, name=name.strip()[:40])
        session.edit(answering.outline_given(session.job, named), tr("Name it"), merge=f"outline:{outline.id}.name")


def fresh(session: Session) -> None:
    """A new outline for the selected step, from its first segment on."""
    step = session.job.step(session.selected)
    if step is None or not hasattr(step, "outline"):
        return
    session.history.settle()
    inside = not session.job.turns
    session.edit(edits.outline_for(session.job, f"step:{step.id}.outline", inside=inside), tr("New outline"))
    made = session.outline_of_step()
    if made is not None:
        session.wants_focus.emit(f"outline:{made.id}.{first_field(made)}")


def other(session: Session) -> None:
    """The next of the job's outlines for the selected step."""
    step = session.job.step(session.selected)
    names = [o.id for o in session.job.outlines]
    now = getattr(step, "outline", None)
    if step is None or now is None or not names:
        return
    session.history.settle()
    session.answer(f"step:{step.id}.outline", after(names, now))
    session.wants_focus.emit(f"step:{step.id}.outline")
