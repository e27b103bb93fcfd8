"""An outline drawn: worked out by the solver, corners put in, with what is wrong and what is missing said where it is."""

from __future__ import annotations

import math
import threading
from collections import OrderedDict
from collections.abc import Iterator

import msgspec

from bastler.ask import Trouble
from bastler.bounds import SEGMENTS
from bastler.language import sayable, tr, tr_many
from bastler.shapes.corners import Corner, Placed, join, with_corners
from bastler.shapes.outline import AnyOutline, AnySegment, TurnedOutline, field_name, givens
from bastler.shapes.rounded import Line, Segment
from bastler.shapes.solver import Missing, Solution, solve
from bastler.shapes.solver.report import Surplus, label, unfound

NUMBERS = sayable(("no", "one", "two", "three", "four", "five", "six"))
MOST_HELPS = 5


class Drawn(msgspec.Struct, frozen=True):
    """What became of an outline. `chain` is whole only without troubles; `owners` are the segments its pieces come from (-1: the
    corner with the front face), `corners` whether they are that segment's corner."""

    chain: tuple[Segment, ...]
    owners: tuple[int, ...]
    corners: tuple[bool, ...]
    solution: Solution
    troubles: tuple[Trouble, ...] = ()


NOTHING = Drawn((), (), (), Solution(state="open", worked=()))
"""What is drawn where there is no outline."""
_drawn: OrderedDict[bytes, Drawn] = OrderedDict()
"""The outlines drawn or looked at last, by their text: all threads look here first."""
_one_at_a_time = threading.Lock()
MOST_DRAWN = 64


def draw(outline: AnyOutline) -> Drawn:
    """Draws an outline. Troubles name the segment as `segments.K`, counted from 0; equal outlines are drawn once."""
    found = drawn_before(outline)
    if found is None:
        found = _draw(outline)
        with _one_at_a_time:
            _drawn[msgspec.json.encode(outline)] = found
            while len(_drawn) > MOST_DRAWN:
                _drawn.popitem(last=False)
    return found


def drawn_before(outline: AnyOutline) -> Drawn | None:
    """What is known of an outline without working anything out."""
    data = msgspec.json.encode(outline)
    with _one_at_a_time:
        found = _drawn.get(data)
        if found is not None:
            _drawn.move_to_end(data)
    return found


def _draw(outline: AnyOutline) -> Drawn:
    if over := SEGMENTS.over(len(outline.segments)):
        return Drawn((), (), (), unfound(outline), (Trouble("segments", over),))
    solution = solve(outline)
    troubles = list(_troubles(outline, solution))
    if solution.state != "solved":
        placed = _known(solution)
    else:
        chain = [w.segment for w in solution.worked if w.segment is not None]
        placed, wrong = with_corners(chain, _corners(outline), closed=outline.is_closed)
        placed = _begun(outline, placed, troubles)
        troubles += [Trouble(f"segments.{k}.corner_size", text) for k, text in wrong]
        low = min(p[1] for s in chain for p in (s.start, s.end))
        if isinstance(outline, TurnedOutline) and low < -1e-9:
            troubles.append(Trouble("segments", tr("It goes below the centre line.")))
    return Drawn(
        tuple(p.segment for p in placed),
        tuple(p.owner for p in placed),
        tuple(p.corner for p in placed),
        solution,
        tuple(troubles),
    )


def _known(solution: Solution) -> list[Placed]:
    return [Placed(w.segment, k) for k, w in enumerate(solution.worked) if w.segment is not None]


def corner_of(given: AnySegment | TurnedOutline) -> Corner | None:
    """The corner at the end of a segment, or at the start of a turned outline."""
    if given.corner == "sharp":
        return None
    return Corner(given.corner, given.corner_size, given.corner_angle, getattr(given, "corner_depth", 0.0))


def _corners(outline: AnyOutline) -> dict[int, Corner]:
    segments: tuple[AnySegment, ...] = outline.segments
    return {k: c for k, s in enumerate(segments) if (c := corner_of(s)) is not None}


def _begun(outline: AnyOutline, placed: list[Placed], troubles: list[Trouble]) -> list[Placed]:
    """The corner of a turned outline with the front face."""
    corner = corner_of(outline) if isinstance(outline, TurnedOutline) else None
    if corner is None or not placed or not isinstance(outline, TurnedOutline):
        return placed
    first = placed[0].segment
    z, r = first.start
    face = Line((z, r + 1e4), first.start) if outline.inside else Line((z, r - 1e4), first.start)
    joined = join(face, first, corner)
    if isinstance(joined, str):
        troubles.append(Trouble("corner_size", joined))
        return placed
    return [*(Placed(s, -1, corner=True) for s in joined[1]), Placed(joined[2], placed[0].owner), *placed[1:]]


def _troubles(outline: AnyOutline, solution: Solution) -> Iterator[Trouble]:
    if not outline.segments:
        yield Trouble("segments", tr("The outline has no segment yet."), open=True)
    elif solution.state == "open":
        for missing in solution.missing:
            yield Trouble(f"segments.{missing.first}", _short(outline, missing), open=True)
    elif solution.state == "ambiguous":
        k = next((k for k, w in enumerate(solution.worked) if w.segment is None), 0)
        count = len(solution.candidates)
        text = tr("{count} shapes are possible. Pick one in the drawing, or give one more number.", count=count)
        yield Trouble(f"segments.{k}", text, open=True)
    elif solution.state == "unfound":
        text = tr(
            "Not found yet: there is too much to try. One more number would help, such as where a segment ends or its angle."
        )
        yield Trouble("segments", text)
    elif solution.state == "contradiction":
        yield _disagree(outline, solution)


def _short(outline: AnyOutline, missing: Missing) -> str:
    """What a run of segments is short of, in words."""
    count = NUMBERS[missing.count] if missing.count < len(NUMBERS) else str(missing.count)
    more = tr_many(missing.count, "{word} more number", "{word} more numbers", word=tr(count).capitalize())
    if missing.first == missing.last:
        words = [label(outline.segments[k], key) for k, key in missing.helps]
        return f"{more}: {_or(words)}." if words else f"{more}."
    where = tr("segments {first} to {last}", first=missing.first + 1, last=missing.last + 1)
    each = {k: [key for own, key in missing.helps if own == k] for k, _ in missing.helps}
    turns = sorted(((n, k, key) for k, keys in each.items() for n, key in enumerate(keys)))[:MOST_HELPS]
    words = [_of(outline, k, key) for n, k, key in sorted(turns, key=lambda entry: entry[1:2])]
    return (
        tr("{more} for {where}: {the_or}.", more=more, where=where, the_or=_or(words))
        if words
        else tr("{more} for {where}.", more=more, where=where)
    )


def _or(words: list[str]) -> str:
    return words[0] if len(words) == 1 else ", ".join(words[:-1]) + tr(" or ") + words[-1]


def _of(outline: AnyOutline, k: int, key: str) -> str:
    """A number of a segment, in words: `X of 2`."""
    return tr("{number} of {segment}", number=label(outline.segments[k], key), segment=k + 1)


def _disagree(outline: AnyOutline, solution: Solution) -> Trouble:
    """Which numbers do not agree, by how much, and what would."""
    k = max(solution.segment, 0)
    small = _too_small(outline, solution, k)
    if small is not None:
        return Trouble(
            f"segments.{k}.radius", tr("The radius is too small: {small:.6g} is the least.", small=small), _rounded(small)
        )
    if not solution.surplus:
        return Trouble(f"segments.{k}", tr("No shape has these numbers."))
    if len(solution.surplus[0]) > 1:
        pairs = tr(" or ").join(tr(" and ").join(_named(outline, s) for s in pair) for pair in solution.surplus[:2])
        return Trouble(f"segments.{k}", tr("These numbers do not agree. Two would have to go: {pairs}.", pairs=pairs))
    singles = [s[0] for s in solution.surplus if s[0].segment >= 0]
    with_value = [s for s in singles if s.off is not None and s.off > 0]
    best = min(with_value, key=lambda s: s.off or 0.0) if with_value else singles[0]
    names = list(dict.fromkeys(_named(outline, s) for s in singles))
    by = tr(", by {off:.4g}", off=best.off) if best.off else ""
    text = tr("These numbers do not agree{by}. One would have to go: {the_or}.", by=by, the_or=_or(names[:MOST_HELPS]))
    segment = outline.segments[best.segment]
    return Trouble(f"segments.{best.segment}.{field_name(segment, best.key)}", text, _rounded(best.would))


def _too_small(outline: AnyOutline, solution: Solution, k: int) -> float | None:
    """Half the way an arc has to span, when its radius is given and is less."""
    segment = outline.segments[k]
    start = solution.worked[k - 1].end if k else outline.start
    given = givens(segment)
    if not {"u", "v", "radius"} <= given.keys() or start is None or start[0] is None or start[1] is None:
        return None
    half = math.dist((start[0], start[1]), (given["u"], given["v"])) / 2
    return half if half > given["radius"] else None


def _named(outline: AnyOutline, surplus: Surplus) -> str:
    return _of(outline, surplus.segment, surplus.key)


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 6)
