"""What an answer does, frame by frame: it is taken through the values around it, and each job is planned.

An answer of a step, of the stock or a holding is shown on the drawing of its card, with the path of the step; one of a tool on
the tool; one of a card in the program that the card makes of a small part, where its words have to do with it, else in the times
and loads of the job.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator, Sequence
from functools import partial
from typing import Any

import msgspec

from bastler.ask import Question, question_of
from bastler.job import Job, Plan, answering, edits, plan
from bastler.job.card_sample import card_sample
from bastler.job.crib_edits import crib_troubles
from bastler.job.planned import PlannedStep
from bastler.job.sweeps import jobs_with, said, up_to, values_around
from bastler.live.frames import Frame, SeenCard, SeenCode, SeenTimes, SeenTool, Spot, Way
from bastler.live.showing import Showing, look, tool_offers
from bastler.machines import MachineCard
from bastler.motion.holes import long_hand
from bastler.motion.moves import Bow, Cut, Cycle, Go, Move, OutlineCycle, Sync, ThreadCycle
from bastler.post import post
from bastler.proof import prove_whole
from bastler.shapes import Arc
from bastler.shapes.chain import points_on
from bastler.steps import Stage
from bastler.units import Unit

MOST_SPOTS = 6_000
"""Points of a path in one frame: what is drawn as small as this shows no more."""
ARC_SAG = 1.0 - math.cos(math.radians(5.0))
"""How far a chord leaves an arc, as a share of its radius: one every ten degrees."""
LINES = 15
"""Lines of a program that are seen at once."""
BEFORE = 4


def swept(job: Job, card: str, address: str, told: Callable[[float], None] = lambda share: None) -> tuple[Frame, ...]:
    """The frames of an answer, `card` being what is selected; at least one. KeyError where the address points nowhere."""
    struct, field = answering.at(job, address)
    question = question_of(type(struct), field)
    what = address.partition(":")[0]
    if what in ("tool", "holder"):
        return _of_tool(job, address, question)
    if what in ("card", "dialect", "material") or address == "job.machine":
        return _of_card(job, address, question, told)
    return _of_drawing(job, card, address, question, told)


# -- a drawing ------------------------------------------------------------------------------------------------------------


def _of_drawing(job: Job, card: str, address: str, question: Question, told: Callable[[float], None]) -> tuple[Frame, ...]:
    short = up_to(job, card)
    base = plan(short)
    values = values_around(question, _now(base, card, address), job.unit, _offered(base, card, address, question))
    showing, frames = Showing(), []
    for k, (value, changed) in enumerate(jobs_with(short, address, values)):
        told(k / len(values))
        words = said(question, value, job.unit, partial(_named, changed))
        frames.append(Frame(value, words, _card_of(showing, plan(changed, base), card, question.name)))
    return tuple(frames) or (Frame(None, "", _card_of(showing, base, card, question.name)),)


def _now(base: Plan, card: str, address: str) -> Any:
    """The answer as it is worked out."""
    struct, field = answering.at(base.job, address)
    given = getattr(struct, field)
    if given is not None:
        return given
    owner: Any = None
    if address.startswith("step:"):
        done = base.step(card)
        owner = done.filled if done is not None else None
    elif address.startswith(("stock.", "holding:")):
        held = base.holding(edits.held_at(card))
        owner = held.stock if address.startswith("stock.") else held.holding
    return getattr(owner, field, None)


def _offered(base: Plan, card: str, address: str, question: Question) -> Sequence[Any]:
    """What there is to pick from."""
    job = base.job
    if question.picks == "tool" and base.step(card) is not None:
        offers = tool_offers(base, card, question.name)
        return [offer.tool.id for offer in offers.tools if not offer.why_not] if offers else []
    if question.picks == "pattern":
        return [pattern.id for pattern in job.patterns]
    if question.picks in ("outline", "edge"):
        struct, field = answering.at(job, address)
        own = job.outline(getattr(struct, field) or "")
        return [outline.id for outline in job.outlines if own is None or type(outline) is type(own)]
    if question.picks == "material":
        return list(job.all_materials())
    return []


def _named(job: Job, ident: Any) -> str:
    """What a thing of the job is called."""
    for tool in job.tools:
        if tool.id == ident:
            return tool.says
    things = (*job.patterns, *job.outlines, *job.all_materials().values(), *job.all_cards().values())
    return next((named.name for named in things if named.id == ident), str(ident))


def _card_of(showing: Showing, done: Plan, card: str, field: str) -> SeenCard:
    shown, planned = showing.plan(done), done.step(card)
    held = shown.holding(edits.held_at(card)) if planned is None else shown.holding(card)
    ways: tuple[Way, ...] = ()
    seconds, troubles = 0.0, held.troubles
    if planned is not None:
        troubles = planned.troubles
        stages = [stage for stage in planned.stages if isinstance(stage, Stage)]
        seconds = sum(_lasts(stage, done.job.unit, done.job.card) for stage in stages)
        ways = _drawn(planned)
    own = sorted((t for t in troubles if not t.open), key=lambda t: t.field.rpartition(".")[2] != field)
    return SeenCard(done.job, held, look(done, card), ways, seconds, own[0].text if own else "")


# -- paths ----------------------------------------------------------------------------------------------------------------


def _drawn(planned: PlannedStep) -> tuple[Way, ...]:
    """The ways of all tools of a step, as many points as are seen."""
    found: list[Way] = []
    spots = 0
    for done in planned.copies or (planned,):
        for stage in done.stages:
            if not isinstance(stage, Stage):
                continue
            for way in _ways(stage):
                spots += len(way.spots)
                if spots > MOST_SPOTS:
                    return tuple(found)
                found.append(way)
    return tuple(found)


def _ways(stage: Stage) -> Iterator[Way]:
    """The path of a stage in stretches, rapids apart from feeds."""
    shifts = stage.copies or ((0.0, 0.0),)
    for du, dv in shifts:
        here, rapid, run = stage.start, True, [stage.start]
        for move, spots in _traced(stage.moves, here):
            goes = isinstance(move, Go)
            if goes != rapid and len(run) > 1:
                yield Way(tuple((u + du, v + dv, w) for u, v, w in run), rapid, stage.tool.station)
                run = run[-1:]
            rapid = goes
            run += spots
        if len(run) > 1:
            yield Way(tuple((u + du, v + dv, w) for u, v, w in run), rapid, stage.tool.station)


def _traced(moves: Iterable[Move], here: Spot) -> Iterator[tuple[Move, list[Spot]]]:
    """Every move that goes somewhere, long-hand, with the points that it comes through."""
    for move in moves:
        match move:
            case Go(u, v, w) | Cut(u, v, w):
                here = (u, v, w)
                yield move, [here]
            case Sync(u, v):
                here = (u, v, 0.0)
                yield move, [here]
            case Bow():
                spots = _bowed(move, here)
                here = spots[-1]
                yield move, spots
            case Cycle():
                for one, spots in _traced(long_hand(move, here[2]), here):
                    here = spots[-1]
                    yield one, spots
            case ThreadCycle():
                for one, spots in _traced(move.passes, here):
                    here = spots[-1]
                    yield one, spots
            case OutlineCycle():
                for one, spots in _traced(move.plain, here):
                    here = spots[-1]
                    yield one, spots
            case _:
                continue


def _bowed(move: Bow, here: Spot) -> list[Spot]:
    """Points along an arc, its end the last, evenly down where it is a helix."""
    arc = Arc(here[:2], (move.u, move.v), (move.cu, move.cv), move.ccw)
    flat = points_on([arc], math.dist(arc.start, arc.centre) * ARC_SAG)[1:]
    return [(u, v, here[2] + (move.w - here[2]) * k / len(flat)) for k, (u, v) in enumerate(flat, 1)]


def _lasts(stage: Stage, unit: Unit, card: MachineCard) -> float:
    """Seconds that a stage moves, ramps and waits left out."""
    seconds, here = 0.0, stage.start
    rapid = max(card.rapid, 1e-9)
    for move, spots in _traced(stage.moves, stage.start):
        long = sum(math.dist(a, b) for a, b in zip([here, *spots], spots, strict=False))
        here = spots[-1]
        feed = rapid
        if isinstance(move, Cut | Bow):
            turns = stage.spin.turns_at(max(abs(here[1]), 1e-3), unit) if stage.plane == "turned" else 1.0
            feed = move.feed * turns
        elif isinstance(move, Sync):
            feed = move.lead * stage.spin.turns_at(max(abs(here[1]), 1e-3), unit)
        seconds += 60.0 * long / max(feed, 1e-9)
    return seconds * max(len(stage.copies), 1)


# -- a tool, a card ---------------------------------------------------------------------------------------------------------


def _of_tool(job: Job, address: str, question: Question) -> tuple[Frame, ...]:
    ident = address.partition(":")[2].rpartition(".")[0]
    struct, field = answering.at(job, address)
    unit = getattr(struct, "unit", job.unit)
    values = values_around(question, getattr(struct, field), unit, [outline.id for outline in job.outlines])
    frames = []
    for value, changed in jobs_with(job, address, values):
        tool = next((t for t in changed.tools if t.id == ident), None)
        why = next((t.text for what in ("tool", "holder") for t in crib_troubles(changed, what, ident)), "")
        frames.append(Frame(value, said(question, value, unit, partial(_named, job)), SeenTool(tool, why)))
    return tuple(frames) or (Frame(None, "", SeenTool(next((t for t in job.tools if t.id == ident), None))),)


def _of_card(job: Job, address: str, question: Question, told: Callable[[float], None]) -> tuple[Frame, ...]:
    """In the program where its words have to do with it, else in times and loads."""
    struct, field = answering.at(job, address)
    offered = list(job.all_cards()) if question.picks == "machine" else []
    values = values_around(question, getattr(struct, field), job.unit, offered)
    made = list(jobs_with(job, address, values)) or [(getattr(struct, field), job)]
    words = [said(question, value, job.unit, partial(_named, job)) for value, _ in made]
    if address.startswith(("card:", "dialect:")):
        ident = address.partition(":")[2].rpartition(".")[0]
        codes = [_code(changed, ident) for _, changed in made]
        if address.startswith("dialect:") or len({text for text, _ in codes}) > 1:
            return tuple(Frame(v, w, seen) for (v, _), w, seen in zip(made, words, _lit(codes), strict=True))
    frames = []
    for k, ((value, changed), word) in enumerate(zip(made, words, strict=True)):
        told(k / len(made))
        frames.append(Frame(value, word, _times(_on_it(changed, address))))
    return tuple(frames)


def _on_it(job: Job, address: str) -> Job:
    """A job that has to do with what is asked about: the job itself where that is its machine or its material, else a small part
    on that machine, or the job in that material."""
    what, _, ident = address.rpartition(".")[0].partition(":")
    if what == "card" and ident != job.machine:
        return card_sample(job.all_cards()[ident], job.unit)
    if what == "material" and ident != job.stock.material:
        return msgspec.structs.replace(job, stock=msgspec.structs.replace(job.stock, material=ident))
    return job


def _code(job: Job, ident: str) -> tuple[str, str]:
    """The program that a card makes of a small part, and what is wrong with the card."""
    troubles = [*crib_troubles(job, "dialect", ident), *crib_troubles(job, "card", ident)]
    if troubles:
        return "", troubles[0].text
    return post(plan(card_sample(job.all_cards()[ident], job.unit)).first).text, ""


def _lit(codes: Sequence[tuple[str, str]]) -> list[SeenCode]:
    """Programs about where they first differ, with the lines that are not those of the one before."""
    texts = [text.splitlines() for text, _ in codes]
    sound = [text for text in texts if text]
    first = next((k for k, rows in enumerate(zip(*sound, strict=False)) if len(set(rows)) > 1), 0) if sound else 0
    begin = max(first - BEFORE, 0)
    found, before = [], sound[0] if sound else []
    for text, (_, why) in zip(texts, codes, strict=True):
        seen = text[begin : begin + LINES]
        changed = tuple(k for k, line in enumerate(seen) if line not in before)
        found.append(SeenCode(tuple(seen), changed, why))
        before = text or before
    return found


def _times(job: Job) -> SeenTimes:
    proof = prove_whole(plan(job))
    stages = tuple(
        (s.tool, s.t1 - s.t0, min(s.peak_power / max(one.scene.card.power, 1e-9), 2.0))
        for one in proof.holdings
        for s in one.stages
    )
    worst = next((r.text for level in ("stop", "open", "caution") for r in proof.remarks if r.level == level), "")
    return SeenTimes(stages, sum(one.total for one in proof.holdings), proof.verdict, worst)
