"""Every finding of the proof is provoked, on every machine that has it; its way out, where it has one, is taken and proved.

The codes are read from the sources: one that nobody provokes fails the test below, and so does a case of a code that is gone.
"""

from __future__ import annotations

import ast
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import msgspec
import pytest

import bastler.proof
from bastler.job import Job, answering, edits, plan
from bastler.job.by_hand import Elsewhere, HandEdit
from bastler.job.crib_edits import tool_to_station
from bastler.post import Program, made, post
from bastler.post.by_hand import edits_of
from bastler.proof import Remark, prove_job
from bastler.shapes import PlanOutline, PlanSegment, PointsPattern
from bastler.steps import (
    CentreHole,
    Contour,
    Drilling,
    Facing,
    Flats,
    FreeMove,
    FreeMoves,
    FreePocket,
    Groove,
    HandOver,
    OutlineMilling,
    PartOff,
    RectangularPocket,
    Tapping,
    Threading,
    TurnFacing,
    TurnFinishing,
    TurnRoughing,
)
from conftest import handed, job_of, turned
from outlines import along, slant, up
from outlines import outline as outline_of
from test_bar_work import counting, from_bar
from test_bar_work import typed as typed_bar
from test_bends import slender
from test_tailstock import without_its_words

HOLES = PointsPattern(id="p", name="p", points=((15.0, 20.0), (45.0, 20.0)))
TOP, FACE = Facing(id="f"), TurnFacing(id="f")
FACED, BAR = job_of(TOP), turned(FACE)
FACING_TEXT, FRONT_TEXT = post(plan(FACED).first).text, post(plan(BAR).first).text
BEHIND = {"chuck-hit", "jaws-hit", "tailstock-hit", "second-jaws-hit", "second-chuck-hit", "steady-hit", "bush-hit"}
"""Codes that the name of what is hit is put into."""


@dataclass(frozen=True)
class Case:
    """A job and, where the fault is in the program, its text."""

    job: Job
    text: str | None = None


def codes_in(*folders: Path) -> set[str]:
    """The codes that the modules of some folders give to what they find."""
    found = set()
    for path in (path for folder in folders for path in folder.glob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            if not isinstance(node, ast.Call) or getattr(node.func, "id", "") not in ("Found", "Remark"):
                continue
            given = [*node.args[1:2], *(k.value for k in node.keywords if k.arg == "code")]
            found |= {part.value for value in given for part in ast.walk(value) if isinstance(part, ast.Constant)}
    return {code for code in found if isinstance(code, str) and code and not code.startswith("-")}


def answered(job: Job, **answers: Any) -> Job:
    """A job with answers at addresses, `__` for the point and `_at_` for the colon."""
    for name, value in answers.items():
        job = answering.answered(job, name.replace("_at_", ":").replace("__", "."), value)
    return job


def changed(text: str, old: str, new: str) -> str:
    """A text with the first line that begins with `old` made another, which may be several."""
    lines = text.splitlines()
    at = next(k for k, line in enumerate(lines) if line.startswith(old))
    return "\n".join([*lines[:at], new, *lines[at + 1 :]])


def by_hand(job: Job, old: str, new: str) -> Case:
    """The job with its own program changed in a line."""
    return Case(job, changed(post(plan(job).first).text, old, new))


def handed_by_hand(old: str, new: str) -> Case:
    """A part handed over whole, the program of both spindles changed in a line."""
    job = handed(FACE, HandOver(id="h"))
    return Case(job, changed(post(plan(job).programs[0]).text, old, new))


def pocket(machine: str = "mill-600", size_z: float = 30.0, tools: tuple = (), **answers: Any) -> Job:
    own: dict[str, Any] = {"id": "b", "x": 30.0, "y": 20.0} | answers
    job = job_of(TOP, RectangularPocket(**own), machine=machine, size_z=size_z)
    return msgspec.structs.replace(job, tools=tools) if tools else job


def drilled(**answers: Any) -> Job:
    own: dict[str, Any] = {"id": "d", "pattern": "p", "spot": "no"} | answers
    return job_of(TOP, Drilling(**own), patterns=(HOLES,), size_z=60.0)


def threaded(name: str = "M24 x 1.5", diameter: float = 24.0, **answers: Any) -> Job:
    return turned(FACE, Threading(id="t", thread=name, length=18.0, **answers), diameter=diameter)


def shaped(*pieces: Any, d: float = 40.0, steps: tuple = (TurnRoughing(id="r", outline="o"),), **setup: Any) -> Job:
    return turned(FACE, *steps, outlines=(outline_of(id="o", name="o", d=d, z=0, pieces=pieces),), **setup)


def slid(step: Any, d: float, to: float, **setup: Any) -> Job:
    """A bar of Ø16 through a guide bush, turned to a diameter down to a length."""
    own: Any = {"diameter": 16.0, "length": 500.0, "finished": 60.0, "stick_out": 90.0} | setup
    shape = outline_of(id="o", name="o", d=d, z=0, pieces=(along(to), up(17.0)))
    return turned(FACE, step, outlines=(shape,), machine="lathe-bush-20", **own)


def short_stick_out() -> Job:
    tools = tuple(
        msgspec.structs.replace(t, stick_out=15.0, flute_length=14.0) if t.id == "end-10" else t for t in job_of().tools
    )
    return pocket(depth=17.5, tool="end-10", tools=tools)


def weak_torque() -> Job:
    job = job_of(TOP, RectangularPocket(id="b", x=30, y=20, depth=5))
    job = answered(job, stock__material="steel-alloy")
    job = answering.answered(job, "card:mill-600.torque", 6.0)
    return answered(job, step_at_f__ap=1.0, step_at_f__n=400.0, step_at_f__vf=700.0)


def weak_lathe() -> Job:
    job = shaped(along(-40), up(62), steps=(TurnRoughing(id="r", outline="o", speed="fixed", n=300.0, ap=4.0),))
    return answering.answered(job, f"card:{job.machine}.torque", 20.0)


def tapped(**answers: Any) -> Job:
    steps = (Drilling(id="d", pattern="p", diameter=6.8, depth=20.0), Tapping(id="t", pattern="p", **answers))
    return job_of(TOP, *steps, patterns=(HOLES,), size_z=40.0)


def shallower() -> str:
    """The program of a job whose holes are drilled less deep."""
    return post(plan(tapped(depth=12.0)).first).text.replace("Z-22.043 ", "Z-9 ")


def free_pocket(tool: str = "end-10", round_by: float = 0.0) -> Job:
    """With corners as sharp as a tool leaves them, or with a radius of their own."""
    places = ((8.0, 8.0), (52.0, 8.0), (52.0, 32.0), (8.0, 32.0))
    step = FreePocket(id="b", outline="o", depth=4.0, tool=tool, bite="plain")
    drawn = outlined(places)
    if round_by:
        rounded = tuple(edits.replace(s, corner="radius", corner_size=round_by) for s in drawn.segments)
        drawn = edits.replace(drawn, segments=rounded)
    return edits.replace(job_of(TOP, step), outlines=(drawn,))


def between_islands() -> Job:
    """Two islands with 8 mm between them, and a tool of 10."""
    job = free_pocket()
    islands = (Contour(x=20.0, y=20.0, diameter=8.0), Contour(x=36.0, y=20.0, diameter=8.0))
    return answering.answered(job, "step:b.islands", islands)


def tapping_too_fast() -> Case:
    job = tapped(depth=12.0)
    text = post(plan(job).first).text
    cycle = next(line for line in text.splitlines() if "G84" in line)
    feed = next(word for word in cycle.split() if word.startswith("F"))
    return Case(job, text.replace(cycle, cycle.replace(feed, f"F{2 * float(feed[1:]):g}")))


def outside_stations() -> Job:
    job = pocket(size_z=20.0, depth=5.0)
    for tool in job.tools:
        if getattr(tool, "kind", "") == "end-mill":
            job = tool_to_station(job, tool.id, 0)
    return job


def outlined(places: tuple[tuple[float, float], ...]) -> PlanOutline:
    segments = tuple(PlanSegment(kind="line", x=x, y=y) for x, y in (*places[1:], places[0]))
    return PlanOutline(id="o", name="rim", x=places[0][0], y=places[0][1], segments=segments)


def rim(side: Any) -> Job:
    shape = outlined(((15.0, 10.0), (45.0, 10.0), (45.0, 30.0), (15.0, 30.0)))
    step = OutlineMilling(id="m", outline="o", side=side, depth=6.0, tool="end-6")
    return edits.replace(job_of(TOP, step), outlines=(shape,))


def drilled_deeper_than_its_flutes() -> Job:
    return turned(FACE, CentreHole(id="d", work="drill", diameter=8.5, depth=85.0, tool="drill-8.5"), diameter=60.0)


def bored() -> Job:
    moves = (FreeMove("rapid", 16.5, 5), FreeMove("feed", 16.5, -30), FreeMove("feed", 16.4, 5))
    return turned(FACE, FreeMoves(id="m", tool="bore-c80-04", moves=moves, home="out"), form="tube", bore=16.6)


def coasting() -> Case:
    job = turned(
        FACE, CentreHole(id="d", work="drill", diameter=5.0, depth=25.0), CentreHole(id="t", work="tap", diameter=6.0, depth=12.0)
    )
    lines = list(post(plan(job).first).lines)
    at = next(k for k, line in enumerate(lines) if "G84" in line)
    lines[at : at + 2] = ["G97 S400", "G33 Z-16 F1", "M4", "G33 Z2 F1", "M3"]
    return Case(job, "\n".join(lines))


def typed_over(job: Job, *, fits: bool = False) -> Job:
    """A job whose program ends with another word, by hand; or with a hand edit in the place of a line that is not there."""
    ident, own = job.holdings[0].id, made(plan(job).programs[0])
    if fits:
        end = job.card.dialect.end
        return edits.changed_by_hand(job, ident, edits_of(own, own.text.replace(end, f"M0\n{end}"), ident, ()))
    edit = HandEdit(id="e1", program=ident, step="f", stage="face", was=("G1 X-999",), now=("M0",))
    return edits.changed_by_hand(job, ident, (edit,))


def elsewhere(job: Job, text: str) -> Job:
    """A job with its own program as one that comes from elsewhere."""
    bare = msgspec.structs.replace(job.holdings[0], steps=())
    return msgspec.structs.replace(job, holdings=(bare,), elsewhere=Elsewhere(lines=tuple(text.splitlines())))


MILLED: dict[str, Callable[[], Case]] = {
    "air": lambda: Case(job_of(TOP, Facing(id="g", tool="end-16"))),
    "answer": lambda: Case(pocket(corner_radius=3.5, tool="end-16", size_z=20.0)),
    "deeper-than-flutes": lambda: Case(pocket(depth=28.0, tool="end-6", corner_radius=4.0, size_z=40.0)),
    "full-bite": lambda: Case(pocket(length=55.0, depth=15.0, ap=15.0)),
    "full-width": lambda: Case(free_pocket()),
    "gouge": lambda: by_hand(pocket(depth=5.0, size_z=20.0), "M9", "G0 X4 Y4 Z2\nG1 Z-1 F100\nG0 Z20\nM9"),
    "by-hand": lambda: Case(typed_over(job_of(TOP), fits=True)),
    "hand-edit": lambda: Case(typed_over(job_of(TOP))),
    "guessed-stock": lambda: Case(elsewhere(FACED, FACING_TEXT)),
    "guessed-tool": lambda: Case(elsewhere(FACED, FACING_TEXT)),
    "guessed-unit": lambda: Case(elsewhere(FACED, FACING_TEXT.replace("G21", ""))),
    "no-shape": lambda: Case(elsewhere(FACED, FACING_TEXT)),
    "holder-in-stock": lambda: Case(short_stick_out()),
    "jaw-hit": lambda: Case(job_of(TOP, vise="yes", grip=19.5, jaw_width=50.0)),
    "land": lambda: Case(rim("right")),
    "corners": lambda: Case(free_pocket("end-16", 6.0)),
    "narrow": lambda: Case(between_islands()),
    "left": lambda: Case(pocket(corner_radius=3.0, tool="end-6", finish="no"),
                         post(plan(pocket(corner_radius=8.0, tool="end-16", finish="no")).first).text),
    "no-tool": lambda: Case(FACED, "G21 G90\nS1000 M3\nG0 X5 Y5 Z-25"),
    "not-in-machine": lambda: Case(outside_stations()),
    "nothing": lambda: Case(job_of()),
    "other-offset": lambda: by_hand(FACED, "M9", "G55 G0 Z50\nM9"),
    "other-part": lambda: Case(job_of(TOP, parts="grid", columns=2, rows=1, pitch_x=62.0)),
    "over-feed": lambda: by_hand(FACED, "G1 Z0", "G1 Z0 F20000"),
    "over-power": lambda: Case(answered(pocket("mill-old", length=50.0, width=30.0, corner_radius=8.0, tool="end-16", ap=16.0,
                                               depth=16.0), stock__material="steel-alloy")),
    "over-speed": lambda: by_hand(FACED, "S", "S19000 M3"),
    "over-torque": lambda: Case(weak_torque()),
    "over-travel": lambda: by_hand(FACED, "M9", "G0 X900\nM9"),
    "peck-missing": lambda: Case(drilled(depth=40.0, method="once")),
    "plunge": lambda: by_hand(FACED, "M9", "G0 X30 Y20 Z1\nG1 Z-3 F100\nG0 Z20\nM9"),
    "rapid-in-stock": lambda: Case(drilled(depth=8.0, top=-4.0, back_to="clearance")),
    "raw-left": lambda: Case(job_of(RectangularPocket(id="b", x=30, y=20), over_top=1.2)),
    "raw-stays": lambda: Case(job_of(RectangularPocket(id="b", x=30, y=20), over_top=1.2, top_comes="stays")),
    "shank-in-stock": lambda: Case(pocket(length=30.0, width=24.0, depth=13.0, tool="end-4", corner_radius=8.5, size_z=40.0)),
    "spindle-never": lambda: Case(FACED, FACING_TEXT.replace("M3", "")),
    "spindle-off": lambda: by_hand(FACED, "G1 Z0", "M5\nG1 Z0 F955"),
    "tap-bottoming": lambda: Case(tapped(depth=12.0), shallower()),
    "tap-feed": tapping_too_fast,
    "under-speed": lambda: by_hand(FACED, "S", "S20 M3"),
}  # fmt: skip
TURNED: dict[str, Callable[[], Case]] = {
    "air": lambda: Case(turned(FACE, TurnFacing(id="g"))),
    "allowance-left": lambda: Case(shaped(along(-30), up(62))),
    "answer": lambda: Case(answered(BAR, stock__finished=120.0)),
    "bar-cut": lambda: Case(from_bar("stop", Groove(id="g", z=-80.0, width=4.0, outer_d=60.0, floor_d=50.0))),
    "bar-elsewhere": lambda: Case(typed_bar(from_bar("stop"), ("Z1", "Z4"))),
    "bar-loose": lambda: Case(typed_bar(from_bar("stop"), ("X0", "X200"))),
    "bar-missing": lambda: Case(typed_bar(from_bar("puller"), ("M11", "(it stays closed)"))),
    "bar-work": lambda: Case(from_bar("stop")),
    "chuck-open": lambda: Case(typed_bar(from_bar("stop"), ("M10", "(it stays open)"))),
    "chuck-turns": lambda: Case(typed_bar(from_bar("stop"), ("M5", "M3 S500"))),
    "part-differs": lambda: Case(counting()),
    "remnant-short": lambda: Case(typed_bar(from_bar("stop"), ("M98 P3 L7", "M98 P3 L8"))),
    "bush-hit": lambda: Case(slid(TurnFinishing(id="e", outline="o"), d=12.0, to=-50.0, stick_out=40.0)),
    "bush-lets-go": lambda: Case(slid(TurnRoughing(id="r", outline="o", leave_d=0.0), d=8.0, to=-50.0)),
    "centre-missing": lambda: Case(without_its_words("lathe-200")),
    "centre-unknown": lambda: by_hand(BAR, "M30", "M25\nM30"),
    "chuck-rating": lambda: Case(answered(BAR, step_at_f__cap=3800.0)),
    "deeper-than-flutes": lambda: Case(drilled_deeper_than_its_flutes()),
    "dwell-mark": lambda: Case(shaped(along(-30), up(62), d=58.0, steps=(TurnFinishing(id="e", outline="o", chips="rest"),))),
    "edge-length": lambda: Case(shaped(along(-40), up(62), steps=(TurnRoughing(id="r", outline="o", ap=9.0, tool="v35-04"),))),
    "finish-bite": lambda: Case(shaped(along(-30), up(62), d=49.0, steps=(TurnFinishing(id="e", outline="o"),))),
    "gouge": lambda: by_hand(turned(FACE, Groove(id="g", z=-20, width=3, floor_d=52, edges="one")), "T0303", "T0313"),
    "ridges": lambda: Case(answered(turned(FACE), step_at_f__f=1.3)),
    "holder-in-stock": lambda: Case(bored()),
    "jaws-hit": lambda: Case(shaped(along(-100), up(62), d=50.0)),
    "chuck-hit": lambda: by_hand(BAR, "M9", "G0 X115 Z10\nZ-125\nZ10\nM9"),
    "steady-hit": lambda: Case(turned(FACE, Groove(id="g", z=-40, width=4, floor_d=52), steady="yes", steady_at=-42.0)),
    "tailstock-hit": lambda: Case(turned(FACE, tailstock="yes", centre_d=20.0)),
    "left": lambda: by_hand(turned(FACE, Groove(id="g", z=-20, width=3, floor_d=52, edges="one")), "T0303", "T0313"),
    "long-part": lambda: Case(answered(turned(FACE, PartOff(id="p")), step_at_p__z=-60.4)),
    "no-cap": lambda: by_hand(BAR, "G50", "(no cap)"),
    "no-encoder": lambda: by_hand(turned(FACE, machine="lathe-bench"), "N40 G98", "N40 G99"),
    "no-tool": lambda: Case(BAR, "G21 G90\nG0 X100 Z5\nX10 Z-20"),
    "not-parted": lambda: by_hand(turned(FACE, PartOff(id="p")), "X-", "X6 F0.036"),
    "nothing": lambda: Case(turned()),
    "offset-clash": lambda: Case(answering.answered(
        turned(FACE, Groove(id="g", z=-20.0, width=4.0, floor_d=52.0)), "tool:groove-3.offset", 1)),
    "other-offset": lambda: by_hand(BAR, "M9", "G55 G0 Z50\nM9"),
    "over-feed": lambda: by_hand(threaded(), "G76 X", "G97 S3000\nG33 Z-10 F4"),
    "over-power": lambda: Case(answered(shaped(along(-40), up(62), steps=(TurnRoughing(id="r", outline="o", ap=5.0, f=0.6),)),
                                        stock__material="steel-alloy")),
    "over-speed": lambda: Case(answered(BAR, step_at_f__cap=99_000.0)),
    "over-torque": lambda: Case(weak_lathe()),
    "over-travel": lambda: by_hand(BAR, "M9", "G0 X900\nM9"),
    "part-drops": lambda: Case(turned(FACE, PartOff(id="p"))),
    "rapid-in-stock": lambda: by_hand(BAR, "M9", "G0 X40 Z6\nZ-5\nZ6\nM9"),
    "raw-left": lambda: Case(turned(CentreHole(id="d", work="drill", diameter=8.5, depth=25.0))),
    "raw-stays": lambda: Case(turned(CentreHole(id="d", work="drill", diameter=8.5, depth=25.0), front_comes="stays")),
    "short-part": lambda: Case(turned(FACE, PartOff(id="p", z=-60.0), over_back=0.5)),
    "bends": lambda: Case(slender()),
    "spindle-back": lambda: by_hand(BAR, "G1 X", "M4\nG1 X-1.6 F0.32"),
    "spindle-never": lambda: Case(BAR, FRONT_TEXT.replace("M3", "")),
    "spindle-off": lambda: by_hand(BAR, "G1 X", "M5\nG1 X-1.6 F0.32"),
    "tap-bottoming": lambda: Case(turned(
        FACE, CentreHole(id="d", work="drill", diameter=8.5, depth=25.0),
        CentreHole(id="t", work="tap", diameter=10.0, depth=20.0, tool="tap-m10"))),
    "tap-coasts": coasting,
    "thread-bite": lambda: Case(threaded("Tr 36 x 6", 36.0, first=1.2)),
    "thread-crest": lambda: Case(threaded(diameter=24.6)),
    "thread-hand": lambda: Case(threaded("M24 x 1.5 LH"), post(plan(threaded()).first).text),
    "thread-lead": lambda: Case(threaded(), post(plan(threaded()).first).text.replace(" F1.5", " F1.6")),
    "thread-fast": lambda: Case(threaded("Tr 36 x 6", 36.0, n=1150.0)),
    "thread-missing": lambda: Case(threaded(), post(plan(turned(FACE, diameter=24.0)).first).text),
    "thread-run-out": lambda: Case(shaped(
        along(-30), up(62), d=24.0,
        steps=(TurnRoughing(id="r", outline="o", leave_d=0), Threading(id="t", thread="M24", length=20.0)))),
    "thread-width": lambda: Case(answering.answered(answering.answered(threaded(), "tool:thread-60.corner_radius", 0.0),
                                                "tool:thread-60.tip", 0.3), post(plan(threaded()).first).text),
    "tip-reach": lambda: Case(shaped(
        along(-10), slant(d=32, angle=42), along(-36), up(44), along(-50), up(62),
        steps=(TurnRoughing(id="r", outline="o"), TurnFinishing(id="e", outline="o", tool="d55-04")))),
    "under-speed": lambda: by_hand(threaded(), "G97", "G97 S10 M3"),
}  # fmt: skip
HANDED: dict[str, Callable[[], Case]] = {
    "chucks-meet": lambda: handed_by_hand("G31", "G31 W-625 Q0.3 F500"),
    "by-hand": lambda: Case(typed_over(turned(FACE), fits=True)),
    "hand-edit": lambda: Case(typed_over(turned(FACE))),
    "guessed-stock": lambda: Case(elsewhere(BAR, FRONT_TEXT)),
    "guessed-tool": lambda: Case(elsewhere(BAR, FRONT_TEXT)),
    "guessed-unit": lambda: Case(elsewhere(BAR, FRONT_TEXT.replace("G21", ""))),
    "no-shape": lambda: Case(elsewhere(BAR, FRONT_TEXT)),
    "grip-milled": lambda: Case(handed(FACE, Flats(id="x", across=46.0, length=10.0), HandOver(id="h"))),
    "grip-reach": lambda: Case(answering.answered(handed(FACE, HandOver(id="h")), "card:turn-mill-250.takes_lo", 60.0)),
    "grip-short": lambda: Case(handed(FACE, HandOver(id="h", grip=1.0))),
    "grip-thread": lambda: Case(handed(FACE, Threading(id="t", thread="M50x3", length=12.0), HandOver(id="h", grip=10.0))),
    "grip-wall": lambda: Case(handed(
        FACE, CentreHole(id="d", work="drill", diameter=20.0, depth=30.0, tool="drill-20"), HandOver(id="h", grip=12.0),
        diameter=22.4)),
    "grips-nothing": lambda: handed_by_hand("G31", "G31 W-500 Q0.3 F500"),
    "no-push": lambda: handed_by_hand("M71", "(no force)"),
    "not-handed": lambda: handed_by_hand("M11", "(it stays closed)"),
    "not-in-step": lambda: handed_by_hand("M62", "(not in step)"),
    "off-window": lambda: handed_by_hand("G31", "G31 W-577 Q0.3 F500"),
    "part-dropped": lambda: handed_by_hand("M20", "(it stays open)"),
    "push-force": lambda: handed_by_hand("M71", "M71 P9000"),
    "seat-hit": lambda: handed_by_hand("G31", "G1 W-590 F500"),
    "second-hit": lambda: Case(answering.answered(handed(FACE, HandOver(id="h")), "card:turn-mill-250.takes_hi", 40.0)),
    "second-chuck-hit": lambda: handed_by_hand("M11", "T0101\nG54 G0 X90 Z40\nX520 Z400\nM11"),
    "second-jaws-hit": lambda: handed_by_hand("M11", "T0101\nG54 G0 X90 Z-5\nX520 Z400\nM11"),
    "second-speed": lambda: Case(answering.answered(
        handed(FACE, HandOver(id="h"), PartOff(id="p", speed="fixed", n=1800.0)), "holding:h2.rating", 1500.0)),
    "second-not-home": lambda: handed_by_hand("G0 W0", "G0 W-10"),
    "torn": lambda: handed_by_hand("M11", "(it stays closed)"),
}  # fmt: skip
"""Of a hand-over, without a part-off: the main chuck opens by M11."""
CASES = {f"mill:{code}": made for code, made in MILLED.items()} | {f"lathe:{code}": made for code, made in TURNED.items()}
CASES |= {f"handed:{code}": made for code, made in HANDED.items()}
ONLY_MILLED, ONLY_TURNED = {"corners", "narrow", "land", "not-in-machine", "shank-in-stock"}, {"offset-clash"}


def proved(job: Job, text: str | None = None) -> Any:
    return prove_job(plan(job), Program.foreign(text) if text is not None else None, cell_mm=0.3)


def found(proof: Any, code: str) -> list[Remark]:
    return [r for r in proof.remarks if r.code == code]


def test_every_code_of_the_proof_has_a_case() -> None:
    home = Path(bastler.proof.__file__).parent
    both, milling, turning = codes_in(home), codes_in(home / "mill"), codes_in(home / "turn")
    assert min(len(both), len(milling), len(turning)) > 5
    assert both - ONLY_TURNED | milling <= set(MILLED)
    assert (both - ONLY_MILLED) | turning | BEHIND <= set(TURNED) | set(HANDED)
    assert set(MILLED) <= both | milling
    assert set(TURNED) | set(HANDED) <= both | turning | BEHIND


@pytest.mark.parametrize("name", CASES)
def test_each_is_found_and_its_way_out_heals(name: str) -> None:
    code = name.partition(":")[2]
    case = CASES[name]()
    proof = proved(case.job, case.text)
    hits = found(proof, code)
    assert hits, [(r.code, r.text) for r in proof.remarks]
    assert proof.verdict == "stop" or hits[0].level != "stop"
    assert all(r.text.endswith((".", "?", ")")) for r in hits), [r.text for r in hits]
    for cure in hits[0].cures:
        healed = proved(edits.cured(case.job, cure.address, cure.value))
        again = [r for r in found(healed, code) if (r.step, r.field) == (hits[0].step, hits[0].field)]
        assert not again, (cure.says, again)
        stops = [(r.code, r.text) for r in healed.remarks if r.level == "stop"]
        assert not stops, (cure.says, stops)
