"""The checks of turning alone."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
import shapely

from bastler.cutting import largest_bite
from bastler.language import many, sayable, tr
from bastler.nc import RAPID
from bastler.proof.checks import check as check
from bastler.proof.found import MOST_A_CODE, Found
from bastler.proof.measure import thickness
from bastler.proof.remark import Level
from bastler.proof.turn.scene import TurnScene
from bastler.proof.turn.section import AREA, BODY_IN, FEELS_MM, KEEP_IN, RAPID_IN, THREAD_END, VOLUME, WIDE, TurnSection
from bastler.proof.turn.sweep import body_of, edges_of, placed, way
from bastler.proof.view import Place, RunView
from bastler.shapes.kinds import Bools, Floats, Ints, Region
from bastler.steps.base import TURNED, PlaneKind
from bastler.tools import Tool, TurnTool
from bastler.units import figures

FINISHING = ("finish", "rest")
LAST_CUTS = (*FINISHING, "face")
"""Stages that leave a face of the finished part."""
NEARLY = 1e-3
"""A feed is written in so few digits."""
FINISH_NOSES = 4.0
"""So many nose radii a finishing pass may take; more wants a roughing pass before it."""
BITE_ROOM = 1.5
"""So many times the largest bite that is proposed is too much."""
FAST_SHARE = 0.75
"""Of its greatest feed so much leaves a slide no speed in hand for a thread."""
FLOATS_MM = 5.0
"""How far a floating holder gives way along the axis, on the careful side."""


@dataclass(frozen=True, eq=False)
class TurnView(RunView):
    """A run in a half section; its pieces are whole moves. `before` is the stock before them."""

    scene: TurnScene
    proof: TurnSection
    before: Region
    step: str
    stage: str = ""
    off: bool = False
    """Has something been parted off before?"""

    @property
    def plane(self) -> PlaneKind:
        return "turned"

    @property
    def feels(self) -> float:
        return FEELS_MM * self.scene.mm

    @property
    def feeds(self) -> Bools:
        """The second chuck's own ways are none."""
        moving: Bools = super().feeds & ~self.trace.shoves[self.part]
        return moving

    @property
    def owner(self) -> Ints:
        return np.arange(self.end - self.begin, dtype=np.int32)

    @property
    def bite(self) -> Floats:
        return self.proof.cut[:, RAPID_IN]

    @property
    def volume(self) -> Floats:
        return self.proof.cut[:, VOLUME]

    @property
    def seconds(self) -> Floats:
        return self.proof.move_seconds

    @property
    def bodies(self) -> Sequence[tuple[str, Floats]]:
        what = "flutes" if isinstance(self.tool, Tool) else "boring bar" if self.tool and self.tool.inside else "holder"
        return [(what, self.proof.cut[:, BODY_IN])]

    @property
    def fastest(self) -> Floats:
        """The highest speed within each feed move: at its smallest radius under constant surface speed."""
        part, trace = self.part, self.trace
        r = np.maximum(np.minimum(np.abs(trace.start[part, 0]), np.abs(trace.end[part, 0])), 1e-6)
        crosses = np.sign(trace.start[part, 0]) != np.sign(trace.end[part, 0])
        r = np.where(crosses, 1e-6, r)
        surface = np.minimum(trace.surface[part] / (2 * math.pi * r), trace.cap[part])
        capped = (trace.surface[part] > 0) & np.isfinite(trace.cap[part])
        turns: Floats = np.where(self.feeds, np.where(capped, surface, trace.speed[part]), 0.0)
        return turns

    def into_stock(self) -> tuple[int, str, float] | None:
        z0, _, z1, r1 = self.scene.raw.bounds
        room = shapely.box(z0, -r1 + self.feels, z1 - self.feels, r1 - self.feels)
        for move in range(self.end - self.begin):
            points = way(self.trace, self.begin + move, self.scene.mm)
            if shapely.LineString(points).intersects(room):
                return move, tr("Comes to where the stock is"), 0.0
        return None

    def at(self, piece: int) -> tuple[int, Place]:
        return piece, self.place(piece)

    def place(self, move: int) -> Place:
        """Where a move ends."""
        x, y, z = self.trace.end[self.begin + move]
        return (float(x), float(y), float(z))


def _worst(view: TurnView, column: int) -> Iterator[tuple[int, float]]:
    """The first moves where a column of the proof is over what is felt."""
    amounts = view.proof.cut[:, column]
    for move in np.flatnonzero(amounts > view.feels)[:MOST_A_CODE]:
        yield int(move), float(amounts[move])


@check("kept-out", TURNED)
def kept_out(view: TurnView) -> Iterator[Found]:
    """Jaws, chuck and tailstock."""
    for move, deep in _worst(view, KEEP_IN):
        name = view.proof.touched.get(move, "chuck")
        what = tr("The second chuck runs into the tool") if view.trace.shoves[view.begin + move] else tr("Runs into the")
        words = "" if view.trace.shoves[view.begin + move] else " " + tr(name.replace("-", " "))
        text = tr("{what}{words}, {deep} deep.", what=what, words=words, deep=view.says(deep))
        yield Found("stop", f"{name}-hit", text, move, deep, view.place(move))


@check("chuck-rating", TURNED)
def chuck_rating(view: TurnView) -> Iterator[Found]:
    """Faster than the chuck is good for, and no faster than the spindle, which is said already."""
    fast, rating = view.fastest, view.scene.rating
    if len(fast) and rating * 1.0001 < fast.max() <= view.scene.card.speed[1] * 1.0001:
        move = int(np.argmax(fast > rating * 1.0001))
        text = tr("{max:.0f} turns a minute; the chuck is good for {rating:g}.", max=fast.max(), rating=rating)
        yield Found("stop", "chuck-rating", text, move, float(fast.max() - rating))


@check("no-cap", TURNED)
def no_cap(view: TurnView) -> Iterator[Found]:
    part = view.part
    bare = (view.trace.surface[part] > 0) & ~np.isfinite(view.trace.cap[part])
    if bare.any():
        text = tr("Constant surface speed without a cap: near the centre the chuck goes as fast as the spindle can.")
        yield Found("stop", "no-cap", text, int(np.argmax(bare)))


@check("no-encoder", TURNED)
def no_encoder(view: TurnView) -> Iterator[Found]:
    card, part = view.scene.card, view.part
    if card.encoder:
        return
    for mask, what in (
        (view.trace.lead[part] > 0, tr("Moves tied to the spindle")),
        (view.trace.per_turn[part] & view.feeds, tr("Feed per turn")),
    ):
        if mask.any():
            text = tr("{what} on {name}, which has no encoder: the machine stops here.", what=what, name=card.name)
            yield Found("stop", "no-encoder", text, int(np.argmax(mask)))
            return


@check("edge-length", TURNED)
def edge_length(view: TurnView) -> Iterator[Found]:
    """A cut wider than the edge may take; blades and pointed tools are as wide as they are."""
    tool = view.tool
    if not isinstance(tool, TurnTool) or tool.iso is None:
        return
    wide = np.where(view.feeds, view.proof.cut[:, WIDE], 0.0)
    if wide.max(initial=0.0) > tool.edge_in_cut * 1.001:
        move = int(np.argmax(wide))
        text = tr(
            "Takes {wide} at once; {edge_in_cut} is enough for its edge.",
            wide=view.says(float(wide[move])),
            edge_in_cut=view.says(tool.edge_in_cut),
        )
        yield Found("caution", "edge-length", text, move, float(wide[move] - tool.edge_in_cut), view.place(move))


@check("finish-bite", TURNED)
def finish_bite(view: TurnView) -> Iterator[Found]:
    """A finishing pass that takes a roughing pass's layer: the area that each move takes over its length."""
    tool = view.tool
    if view.stage not in FINISHING or not isinstance(tool, TurnTool) or tool.nose <= 0:
        return
    part = view.part
    long = np.linalg.norm(view.trace.end[part] - view.trace.start[part], axis=1)
    layer = np.divide(view.proof.cut[:, AREA], long, out=np.zeros(len(long)), where=long > tool.nose)
    layer = np.where(view.feeds, layer, 0.0)
    if layer.max(initial=0.0) > FINISH_NOSES * tool.nose:
        move = int(np.argmax(layer))
        text = tr(
            "The finishing pass takes {layer} at once, with a nose of {nose}.",
            layer=view.says(float(f"{layer[move]:.3g}")),
            nose=view.says(tool.nose),
        )
        yield Found("caution", "finish-bite", text, move, float(layer[move]), view.place(move))


@check("dwell-mark", TURNED)
def dwell_mark(view: TurnView) -> Iterator[Found]:
    """A rest of the feed on a face that stays: the tool rubs a ring into it."""
    if not view.stage.startswith(FINISHING) or not isinstance(view.tool, TurnTool):
        return
    rests = [e for e in view.trace.events if e.what == "dwell" and e.value > 0 and view.begin < e.at < view.end]
    marks = [e.at - 1 - view.begin for e in rests if view.feeds[e.at - 1 - view.begin] and view.feeds[e.at - view.begin]]
    if marks:
        text = tr("The feed rests {many} on the finished face: each leaves a ring.", many=many(len(marks), "time"))
        yield Found("caution", "dwell-mark", text, marks[0], float(len(marks)), view.place(marks[0]))


@check("ridges", TURNED)
def ridges(view: TurnView) -> Iterator[Found]:
    """A feed that goes past the nose in one turn: what stays is no face but ridges, which the half section does not show."""
    tool, part = view.tool, view.part
    if not isinstance(tool, TurnTool) or tool.nose <= 0:
        return
    cuts = view.feeds & (view.trace.lead[part] <= 0) & (view.trace.speed[part] > 0) & (view.proof.cut[:, AREA] > 0)
    feed = np.divide(view.trace.feed[part], view.trace.speed[part], out=np.zeros(len(cuts)), where=cuts)
    last = view.stage in LAST_CUTS
    if feed.max(initial=0.0) <= (1.0 if last else 2.0) * tool.nose * (1 + NEARLY):
        return
    move = int(np.argmax(feed))
    high = tool.nose - math.sqrt(max(tool.nose**2 - (feed[move] / 2) ** 2, 0.0))
    what = tr("ridges {high} high stay", high=view.says(high)) if feed[move] < 2 * tool.nose else tr("a thread stays, not a face")
    text = tr(
        "Feeds {feed} a turn with a nose of {nose}: {what}.",
        feed=view.says(float(feed[move])),
        nose=view.says(tool.nose),
        what=what,
    )
    level: Level = "stop" if last and feed[move] >= 2 * tool.nose else "caution"
    yield Found(level, "ridges", text, move, float(feed[move]), view.place(move))


@check("thread-bite", TURNED)
def thread_bite(view: TurnView) -> Iterator[Found]:
    """A pass of a thread that takes more at once than a single point bears, and a slide that has no speed in hand."""
    tool, part = view.tool, view.part
    tied = np.flatnonzero(view.trace.lead[part] > 0)
    if not isinstance(tool, TurnTool) or tool.kind != "threading" or not len(tied):
        return
    lead = float(view.trace.lead[view.begin + int(tied[0])])
    deep = bites_of(view, tool, tied)
    most = BITE_ROOM * view.scene.mm * largest_bite(lead / view.scene.mm)
    if deep.max() > most:
        k = int(np.argmax(deep))
        text = tr(
            "A pass of the thread takes {deep} at once; {most} is much.",
            deep=view.says(float(f"{deep[k]:.3g}")),
            most=view.says(float(f"{most:.2g}")),
        )
        yield Found("caution", "thread-bite", text, int(tied[k]), float(deep[k] - most), view.place(int(tied[k])))
    feed = view.trace.feed[part][tied]
    if feed.max() > FAST_SHARE * view.scene.card.feed_most:
        k = int(np.argmax(feed))
        text = tr(
            "The slide follows the thread at {feed} a minute, near the most that it can.", feed=view.says(float(f"{feed[k]:.3g}"))
        )
        yield Found("caution", "thread-fast", text, int(tied[k]), float(feed[k]))


def bites_of(view: TurnView, tool: TurnTool, tied: Any) -> Floats:
    """How much deeper each pass of a thread goes than the ones before it, (m,); the first from the stock's surface."""
    ends = view.trace.end[view.begin : view.end]
    face, sign = tool.side == "face", -1.0 if tool.inside else 1.0
    tips = ends[tied, 2] if face else sign * ends[tied, 0]
    first = placed(edges_of(tool), ends[tied[0]][None, [2, 0]]).intersection(view.before)
    surface = float(tips[0])
    if not first.is_empty:
        low, high = float(first.bounds[1]), float(first.bounds[3])
        surface = float(first.bounds[2]) if face else high if sign > 0 else -low
    deepest = np.minimum.accumulate(np.concatenate([[surface], tips]))
    return deepest[:-1] - deepest[1:]


@check("thread-run-out", TURNED)
def thread_run_out(view: TurnView) -> Iterator[Found]:
    """A thread that ends where there is no relief: the tip stands in the material when it is pulled out."""
    for move, deep in list(_worst(view, THREAD_END))[-1:]:
        if isinstance(view.tool, TurnTool):
            text = tr(
                "The thread ends in the material, {deep} deep: it needs a relief, or has to be shorter.", deep=view.says(deep)
            )
            yield Found("caution", "thread-run-out", text, move, deep, view.place(move))


@check("tap-bottoming", TURNED)
def tap_bottoming(view: TurnView) -> Iterator[Found]:
    tool = view.tool
    if not isinstance(tool, Tool) or tool.kind != "tap":
        return
    tied = np.flatnonzero((view.trace.kind[view.begin : view.end] != RAPID) & (view.proof.cut[:, BODY_IN] >= 0))
    if not len(tied):
        return
    ends = view.trace.end[view.begin : view.end]
    move = int(tied[np.argmin(ends[tied, 2])])
    deepest = ends[move].copy()
    if tool.floating and view.trace.lead[view.begin + move] == 0:  # it is pulled on while the spindle runs out
        deepest[2] -= coasting_turns(view, view.begin + move) * tool.pitch
    core = placed(body_of(tool)[:1], deepest[None, [2, 0]])
    hit = core.intersection(view.before)
    if not hit.is_empty and thickness(hit) > view.feels:
        deep = float(hit.bounds[2] - hit.bounds[0])
        text = tr("The tap bottoms out: its tip goes {deep} deeper than the hole.", deep=view.says(deep))
        yield Found("stop", "tap-bottoming", text, move, deep, view.place(move))


@check("spindle-back", TURNED)
def spindle_back(view: TurnView) -> Iterator[Found]:
    """The work turns against the edge: the tool rubs with its back, and breaks."""
    tool = view.tool
    if tool is None:
        return
    wanted = -1 if isinstance(tool, TurnTool) and tool.turns == "back" else 1
    wrong = (view.trace.turning[view.part] == -wanted) & view.feeds & (view.proof.cut[:, AREA] > 0)
    if isinstance(tool, Tool) and tool.kind == "tap":  # which has its way out cut before
        wrong &= view.trace.end[view.part, 2] < view.trace.start[view.part, 2]
    for move in np.flatnonzero(wrong)[:1].tolist():
        turns, needs = sayable(("back", "forward")) if wanted == 1 else ("forward", "back")
        text = tr("The work turns {turns}; this tool cuts with it turning {needs}.", turns=tr(turns), needs=tr(needs))
        yield Found("stop", "spindle-back", text, move, 0.0, view.place(move))


@check("tap-coasts", TURNED)
def tap_coasts(view: TurnView) -> Iterator[Found]:
    """A spindle that is turned back in the hole runs out first, while the slide stands: a rigid tap tears its thread."""
    tool = view.tool
    if not isinstance(tool, Tool) or tool.kind != "tap":
        return
    for event in view.trace.events:
        row = event.at - 1
        if event.what != "spindle" or event.value > 0 or not view.begin <= row < view.end - 1:
            continue
        if view.trace.kind[row] == RAPID or view.trace.end[row, 2] >= view.before.bounds[2]:
            continue
        turns = coasting_turns(view, row)
        long = turns * tool.pitch
        if not tool.floating or long > FLOATS_MM * view.scene.mm:
            gives = tr("and the holder gives way by no more") if tool.floating else tr("and the holder is rigid")
            text = tr(
                "The spindle turns {turns} times more while Z stands, {long} of thread, {gives}.",
                turns=figures(turns, 2),
                long=view.says(long),
                gives=gives,
            )
            yield Found("stop", "tap-coasts", text, row - view.begin, long, view.place(row - view.begin))


def coasting_turns(view: TurnView, row: int) -> float:
    """How often the spindle turns until it stands, from its speed in a move: it loses speed evenly, from its top in
    `spindle_up` seconds."""
    card, n = view.scene.card, float(view.trace.speed[row])
    seconds = card.spindle_up * n / card.speed[1]
    return n / 60.0 * seconds / 2.0


@check("part-off", TURNED)
def part_off(view: TurnView) -> Iterator[Found]:
    """Through, and where the length budget says."""
    parts = view.step in view.scene.parts or (not view.step and isinstance(view.tool, TurnTool) and view.tool.kind == "parting")
    if not parts or view.tool is None or view.proof.volume <= 0:
        return
    move = int(np.argmax(view.proof.cut[:, AREA]))
    if not view.proof.fallen:
        left = _core(view)
        yield Found(
            "stop", "not-parted", tr("The part is not off: a core of Ø{left} stays.", left=view.says(2 * left)), move, 2 * left
        )
        return
    piece = max(view.proof.fallen, key=lambda g: g.area)
    if float(piece.bounds[2]) <= -view.scene.length - view.scene.back + view.feels:
        return  # a stub behind the part, and no part
    long = float(piece.bounds[2] - piece.bounds[0])
    wanted = view.scene.length + view.scene.back + max(float(piece.bounds[2]), 0.0)
    if long < wanted - view.feels:
        text = tr(
            "The part is {long} long; the lengths ask for {wanted}: {wanted_2} short.",
            long=view.says(long),
            wanted=view.says(wanted),
            wanted_2=view.says(wanted - long),
        )
        yield Found("stop", "short-part", text, move, wanted - long)
    elif long > wanted + view.feels:
        text = tr("The part is {long} longer than the lengths ask for.", long=view.says(long - wanted))
        yield Found("note", "long-part", text, move, long - wanted)


def _core(view: TurnView) -> float:
    """The radius that still holds the part."""
    ends = view.trace.end[view.begin : view.end]
    return max(float(np.abs(ends[:, 0]).min()), 0.0)
