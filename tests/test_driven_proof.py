"""Programs of turning machines with driven tools, none of them written here, proved: by exact volumes, and one fault each."""

from __future__ import annotations

import itertools
import math
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

import bastler.proof
from bastler.job import Job, answering, plan
from bastler.machines import CARDS
from bastler.post import Program
from bastler.proof import Prover, TurnProof, prove_job
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.run import PolarRun
from bastler.proof.polar.sweeping import MOST, meets, take
from bastler.proof.report import report
from bastler.tools import Tool
from bastler.tools.tool import Holder, Stands, ToolKind
from bastler.units import Unit, scale
from conftest import codes, many, turned
from outlines import along, up
from outlines import outline as outline_of
from test_every_remark import codes_in

HEAD = "G21\nG18 G90\nG40\n"
AXIAL = "T0202\nM34\nG94\nS2000 M53\nG54 G0 X80 Z5 C0\n"
"""An end mill of 8 along Z before the work."""
RADIAL = "T0606\nM34\nG94\nS2000 M53\nG54 G0 X80 Z5 C0\n"
"""One of 8 along X beside it."""
HOLES = "T0404\nM34\nG94\nS2000 M53\nG54 G0 X80 Z5 C0\n"
"""A drill of 6 along Z before the work."""
AWAY = "G0 X120\nZ80\nM55\nM35\nM30\n"


def tool(
    ident: str, station: int, kind: ToolKind, diameter: float, stands: Stands = "axial", unit: Unit = "mm", **more: Any
) -> Tool:
    """A driven tool with room: its shank no stouter than its flutes, which are 5 diameters long."""
    k = scale("mm", unit)
    d = diameter * k
    given: dict[str, Any] = {
        "flutes": 3, "flute_length": 5 * d, "shank_diameter": d, "stick_out": 6 * d, "length": 60 * k, "unit": unit,
        "holder": Holder(30.0 * k, 40.0 * k), "stands": stands,
    }  # fmt: skip
    return Tool(id=ident, name=ident, station=station, kind=kind, diameter=d, **(given | more))


def job(unit: Unit = "mm", machine: str = "turn-mill-250", **setup: Any) -> Job:
    """A bar of Ø60 with its front face finished as it comes, 90 out of the jaws."""
    k = scale("mm", unit)
    sizes = {
        "diameter": 60.0,
        "length": 120.0,
        "over_front": 0.0,
        "finished": 60.0,
        "stick_out": 90.0,
        "jaw_d": 90.0,
        "bore": 0.0,
    }
    given = {name: value * k for name, value in sizes.items()} | {"across_flats": 60.0 * k} | setup
    made = turned(machine=machine, unit=unit, **given)
    tools = (
        tool("mill", 2, "end-mill", 8.0, unit=unit), tool("drill", 4, "drill", 6.0, unit=unit, tip_angle=118.0),
        tool("slot", 6, "end-mill", 8.0, "radial", unit=unit), tool("ball", 8, "ball-mill", 6.0, "radial", unit=unit),
        tool("still", 5, "end-mill", 8.0, unit=unit), *(t for t in made.tools if t.station == 1),
    )  # fmt: skip
    return msgspec.structs.replace(made, tools=tools)


def proved(text: str, given: Job | None = None) -> TurnProof:
    proof = prove_job(plan(given or job()), Program.foreign(HEAD + text))
    assert isinstance(proof, TurnProof)
    return proof


def driven(text: str, given: Job | None = None, *also: str) -> PolarRun:
    """What the first driven run that cuts did, with nothing else to be said but that nobody wanted it."""
    proof = proved(text, given)
    assert codes(proof, "stop") <= {"gouge", *also}, proof.remarks
    found = [s.proof for s in proof.stages if isinstance(s.proof, PolarRun) and s.proof.volume > 0]
    assert found
    return found[0]


# -- volumes ------------------------------------------------------------------------------------------------------------------


def test_a_pocket_on_the_end_face_by_polar_interpolation() -> None:
    """24 × 16 R4, 8 deep."""
    ring = "G1 X-16 C4\nX16\nC-4\nX-16\nC4\nX16 C1\nX-16\n"
    text = AXIAL + "G0 X16 Z1\nG12.1\nG1 X16 C-4 F800\nG1 Z-4 F200\nG1 X-16 F800\n" + ring + "G1 X16 C-4\nZ-8\nX-16\n" + ring
    run = driven(text + "G1 Z2\nX60 C5\nG13.1\n" + AWAY)
    exact = 8 * (24 * 16 - (4 - math.pi) * 16)
    assert run.volume == pytest.approx(exact, rel=1e-6)


def test_holes_on_a_circle_are_as_large_as_they_are() -> None:
    run = driven(HOLES + "G17\nG0 X40\nG98 G83 Z-30 R2 Q6 F200\n" + "".join(f"C{45 * k}\n" for k in range(1, 8)) + "G80\n" + AWAY)
    tip = 3 / math.tan(math.radians(59))
    assert run.volume == pytest.approx(8 * math.pi * 9 * (30 - tip + tip / 3), rel=2e-3)


def slot(half: float, floor: float, length: float, radius: float = 30.0) -> float:
    """What a slot with round ends takes of a round bar, its floor so far from the axis."""
    y = np.linspace(-half, half, 200_001)
    y = (y[1:] + y[:-1]) / 2
    long = length - 2 * half + 2 * np.sqrt(half * half - y * y)
    return float((long * (np.sqrt(radius * radius - y * y) - floor)).sum() * 2 * half / 200_000)


@pytest.mark.parametrize("c", [0.0, 37.0, 90.0, 200.0])
def test_a_keyway_at_any_angle(c: float) -> None:
    """8 × 22, 4 deep: DIN 6885 for a shaft of 30 to 38, here in one of 60."""
    run = driven(RADIAL + f"G0 C{c}\nG0 X64 Z-24\nM36\nG1 X52 F100\nZ-38 F200\nX64\nM37\n" + AWAY)
    assert run.volume == pytest.approx(slot(4.0, 26.0, 22.0), rel=2e-3)


def test_a_cross_hole_goes_through() -> None:
    text = RADIAL + "G0 X64 Z-50\nM36\nG1 X-64 F100\nG0 X64\nM37\n" + AWAY
    long = tool("slot", 6, "end-mill", 8.0, "radial", flute_length=80.0, stick_out=82.0)
    given = job()
    run = driven(text, msgspec.structs.replace(given, tools=(*(t for t in given.tools if t.id != "slot"), long)))
    y = (np.arange(200_000) + 0.5) / 200_000 * 8 - 4
    assert run.volume == pytest.approx(float((4 * np.sqrt(16 - y * y) * np.sqrt(900 - y * y)).mean() * 8), rel=2e-3)


def test_a_groove_round_the_round() -> None:
    """A ring 8 wide and 4 deep by C alone: a quarter of it, and the half of a cutter at both ends."""
    run = driven(RADIAL + "G0 X64 Z-30\nG1 X52 F100\nC90 F500\nX64 F300\n" + AWAY)
    ring = math.pi / 4 * (30**2 - 26**2) * 8
    assert run.volume == pytest.approx(ring + slot(4.0, 26.0, 8.0), rel=5e-3)


def test_a_ball_s_groove_is_as_round_as_the_ball() -> None:
    text = RADIAL.replace("T0606", "T0808") + "G0 X64 Z-20\nM36\nG1 X54 F100\nZ-40 F200\nX64\nM37\n" + AWAY
    run = driven(text)
    y = (np.arange(200_000) + 0.5) / 200_000 * 6 - 3
    floor = 27.0 + 3.0 - np.sqrt(9 - y * y)
    section = float((np.sqrt(900 - y * y) - floor).mean() * 6)
    end = sum(s.volume for s in proved(text.replace("Z-40 F200\n", "")).stages)
    assert run.volume - end == pytest.approx(20 * section, rel=7e-3)


WAYS = {
    "polar": lambda points: "G12.1\n" + "".join(f"G1 X{2 * x:.4f} C{y:.4f} F60\n" for x, y in points) + "G13.1\n",
    "xc": lambda points: "".join(
        f"G1 X{2 * math.hypot(x, y):.4f} C{math.degrees(math.atan2(y, x)):.4f} F60\n" for x, y in fine(points)
    ),
    "xy": lambda points: "".join(f"G1 X{2 * x:.4f} Y{y:.4f} F60\n" for x, y in points),
}


def fine(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """As a control without interpolation is told a straight way: in short steps."""
    found = [points[0]]
    for (x0, y0), (x1, y1) in itertools.pairwise(points):
        found += [(x0 + (x1 - x0) * k / 200, y0 + (y1 - y0) * k / 200) for k in range(1, 201)]
    return found


@settings(max_examples=many(6))
@given(st.lists(st.tuples(st.floats(6.0, 20.0), st.floats(-12.0, 12.0)), min_size=2, max_size=4), st.sampled_from(["mm", "inch"]))
def test_one_way_said_in_three_manners_takes_the_same(points: list[tuple[float, float]], unit: Unit) -> None:
    volumes = []
    for said in WAYS.values():
        text = AXIAL + "G17\nG0 X70\nG1 Z-3 F500\n" + said([(35.0, 0.0), *points]) + "G1 Z3 F500\nG0 Y0\n" + AWAY
        # C is fed by X alone there: where X hardly moves the tool goes round fast
        volumes.append(driven(text, job(unit), "over-power").volume / scale("mm", unit) ** 3)
    assert volumes == pytest.approx([volumes[0]] * 3, rel=2e-3, abs=0.5)


CUBE = 0.4
GRID = np.stack(
    np.meshgrid(np.arange(-29.8, 30, CUBE), np.arange(-29.8, 30, CUBE), np.arange(-44.6, 0, CUBE), indexing="ij"), -1
).astype(np.float32)
GRID += np.random.default_rng(7).uniform(-CUBE / 2, CUBE / 2, GRID.shape).astype(np.float32)
"""Places of a bar of Ø60, 45 long, one anywhere in each cube, so that no wall lies along them: nothing here knows of rays."""
INSIDE = np.hypot(GRID[..., 0], GRID[..., 1]) < 30.0

angles = st.floats(-170.0, 170.0)
features = st.one_of(
    st.tuples(st.just("hole"), angles, st.floats(6.0, 24.0), st.floats(3.0, 14.0)),
    st.tuples(st.just("slot"), angles, st.floats(-30.0, -8.0), st.floats(2.0, 9.0), st.floats(-12.0, 12.0)),
    st.tuples(st.just("mill"), st.floats(-18.0, 18.0), st.floats(-18.0, 18.0), st.floats(-18.0, 18.0), st.floats(1.0, 6.0)),
)


def said(feature: tuple[Any, ...]) -> tuple[str, np.ndarray]:
    """The program of a feature, and which places of the grid it takes."""
    if feature[0] == "hole":
        _, c, radius, deep = feature
        text = HOLES + f"G17\nG0 X{2 * radius:.4f} C{c:.4f}\nG1 Z{-deep:.4f} F100\nG0 Z5\nX120\nZ80\nM55\nM35\n"
        x, y = radius * math.cos(math.radians(c)), radius * math.sin(math.radians(c))
        off = np.hypot(GRID[..., 0] - x, GRID[..., 1] - y)
        return text, (off < 3.0) & (GRID[..., 2] > -deep + off / math.tan(math.radians(59)))
    if feature[0] == "slot":
        _, c, z, deep, long = feature
        way = f"G1 X{60 - 2 * deep:.4f} F100\nZ{z + long:.4f}\nX64\n"
        text = RADIAL + f"G0 C{c:.4f}\nX70 Z{z:.4f}\nM36\n{way}G0 X120\nZ80\nM37\nM55\nM35\n"
        a = math.radians(c)
        out = GRID[..., 0] * math.cos(a) + GRID[..., 1] * math.sin(a)
        across = GRID[..., 1] * math.cos(a) - GRID[..., 0] * math.sin(a)
        beside = GRID[..., 2] - np.clip(GRID[..., 2], min(z, z + long), max(z, z + long))
        return text, (np.hypot(across, beside) < 4.0) & (out > 30 - deep)
    _, x0, y0, x1, deep = feature
    way = f"G0 X{2 * x0:.4f} Y{y0:.4f}\nG1 Z{-deep:.4f} F60\nX{2 * x1:.4f} F60\nG0 Z5\nY0\n"
    text = AXIAL + "G17\n" + way + "X120\nZ80\nM55\nM35\n"
    beside = GRID[..., 0] - np.clip(GRID[..., 0], min(x0, x1), max(x0, x1))
    return text, (np.hypot(beside, GRID[..., 1] - y0) < 4.0) & (GRID[..., 2] > -deep)


@settings(max_examples=many(8))
@given(st.lists(features, min_size=1, max_size=5))
def test_a_second_opinion_in_cubes(found: list[tuple[Any, ...]]) -> None:
    """Whatever is milled over whatever: together it takes what places of a grid say that know nothing of rays."""
    text, gone = "", np.zeros(INSIDE.shape, bool)
    for feature in found:
        own, taken = said(feature)
        text, gone = text + own, gone | taken
    proof = proved(text + "M30\n")
    assert codes(proof, "stop") <= {"gouge"}, proof.remarks
    cubes = float((gone & INSIDE).sum()) * CUBE**3
    assert proof.removed == pytest.approx(cubes, rel=0.01, abs=3.0)


# -- one fault each -----------------------------------------------------------------------------------------------------------


FAULTS = [
    (AXIAL + "G0 X20 Z-4\n", "rapid-in-stock"),
    (AXIAL + "G0 X56\nG1 Z-50 F200\n", "deeper-than-flutes"),
    (RADIAL + "G0 X64 Z-30\nG1 X-36 F50\n", "deeper-than-flutes"),
    (RADIAL + "G0 X64 Z-88\nX60\n", "jaws-hit"),
    (RADIAL + "G0 X70 Z-140\nG1 X60 F100\n", "chuck-hit"),
    (AXIAL.replace("T0202", "T0505") + "G0 X20 Z1\nG1 Z-1 F100\n", "not-driven"),
    (AXIAL.replace("T0202", "T0101") + "G0 X64 Z-10\nX20\n", "stands-still"),
    (AXIAL.replace("S2000 M53\n", "") + "G0 X20 Z1\nG1 Z-1 F100\n", "spindle-off"),
    (AXIAL.replace("S2000", "S7000") + "G0 X20 Z1\nG1 Z-1 F100\n", "over-speed"),
    (AXIAL.replace("S2000", "S10") + "G0 X20 Z1\nG1 Z-1 F100\n", "under-speed"),
    (AXIAL + "G0 X20 Z1\nG1 Z-8 F100\nX56 F5000\n", "over-power"),
    (AXIAL + "G17\nG0 X20 Y42 Z5\n", "over-travel"),
    (AXIAL + "G0 X20 Z1\nG12.1\nG1 X20 C0 F100\nX-20\n", "c-speed"),
    (AXIAL + "G0 X20 Z1\nG12.1\nG1 X20 C.05 F5000\nX-20\n", "c-speed"),
    (RADIAL + "G0 X64 Z-20\nG1 X52 F100\nZ-50 F3000\n", "c-holds"),
    (AXIAL + "G0 X20 Z1\nG1 Z-3 F100\n", "gouge"),
    (AXIAL + "G0 X20 Z3\nG1 Z2 F100\nX30\n", "air"),
    (AXIAL.replace("T0202", "T0909") + "G1 Z-3 F100\n", "no-tool"),
]


@pytest.mark.parametrize(("text", "code"), FAULTS)
def test_every_fault_is_found(text: str, code: str) -> None:
    proof = proved(text + "G1 Z90 F9000\nM55\nM35\nM30\n" if code == "c-speed" else text + AWAY)
    assert code in codes(proof), proof.remarks
    own = next(r for r in proof.remarks if r.code == code)
    begin = len((HEAD + text.split("C0\n", 1)[0] + "C0\n").splitlines())
    assert own.line >= begin - 1, own


def test_the_body_of_an_angular_holder_goes_out_toward_the_turret() -> None:
    """A tool along Z, beside the part on the far side of the axis: its own holder is off it, the angled body behind that is not.
    On the near side both are."""
    beside = "G0 {x} Z5\nZ-62\nZ5\nX80\n"  # 39 from the axis, the holder 15 wide, the part 20
    near, far = (AXIAL + beside.format(x=x) + AWAY for x in ("X78", "X-78"))
    slim = job(diameter=40.0)
    assert not codes(proved(near, slim), "stop")
    hit = proved(far, slim)
    assert "holder-in-stock" in codes(hit, "stop")
    assert any("angular holder" in r.text for r in hit.remarks)
    straight = answering.answered(slim, "card:turn-mill-250.drive_body", 0.0)
    assert not codes(proved(far, straight), "stop"), "where none is known"
    turned_by = AXIAL + "C90\n" + beside.format(x="X-78") + AWAY
    assert "holder-in-stock" in codes(proved(turned_by, slim), "stop"), (
        "it stands where the turret is, however the part is turned"
    )


def test_the_body_of_an_angular_holder_along_x_is_away_from_the_main_spindle() -> None:
    """In a neck 40 wide, with a collar in front of it: the holder goes in, its body does not."""
    necked = outline_of(id="w", name="necked", d=60.0, z=0.0, pieces=(along(-30), up(30), along(-70), up(60), along(-119)))
    short = tool("slot", 6, "end-mill", 8.0, "radial", stick_out=10.0, flute_length=9.0)
    given = job(form="forging", forged="w", outlines=(necked,))
    given = msgspec.structs.replace(given, tools=tuple(short if t.id == "slot" else t for t in given.tools))
    text = RADIAL + "G0 X120 Z-50\nX32\nX120\nZ5\n" + AWAY
    assert not codes(proved(text, given), "stop"), "those along X are straight in this turret"
    angled = answering.answered(given, "card:turn-mill-250.drive_angular", "radial")
    assert "holder-in-stock" in codes(proved(text, angled), "stop")
    there = RADIAL + "G0 X120 Z25\nX32\nX120\nZ5\n" + AWAY
    assert not codes(proved(there, angled), "stop"), "before the front it is off the part"


def test_no_fault_is_without_a_case() -> None:
    """What the checks of driven tools and their stock can find, read from the sources; what is hit is named in the code."""
    own = codes_in(Path(bastler.proof.__file__).parent / "polar")
    provoked = {code for _, code in FAULTS} | {"interrupted-cut"}
    provoked |= {"left", "slant-entry"}  # in the tests of the round and of the side
    provoked |= {"angle-lost", "both-hold", "chucks-move", "part-dropped"}  # and of the hand-over
    assert {code for code in own if code != "hit"} <= provoked, own - provoked


def test_turning_over_what_was_milled_is_an_interrupted_cut() -> None:
    keyway = RADIAL + "G0 X64 Z-24\nM36\nG1 X52 F100\nZ-38 F200\nX64\nM37\nG0 X120\nM55\nM35\n"
    turn = "T0101\nG18\nG95\nG97 S800 M3\nG0 X66 Z3\nX58\nG1 Z-45 F.2\nX64\nG0 X120 Z80\nM30\n"
    proof = proved(keyway + turn)
    assert "interrupted-cut" in codes(proof, "note"), proof.remarks
    whole = prove_job(plan(job()), Program.foreign(HEAD + turn))
    assert "interrupted-cut" not in codes(whole)


def test_what_is_parted_off_is_no_gouge_and_no_interrupted_cut() -> None:
    """A flat of nothing is milled at the front, then the front is parted off: it falls with what was milled in it."""
    given = job()
    part = next(t for t in turned(machine="turn-mill-250").tools if t.id == "part-3")
    given = msgspec.structs.replace(given, tools=(*given.tools, msgspec.structs.replace(part, station=3)))
    text = HOLES + "G17\nG0 X40 Z1\nG1 Z-5 F200\nG0 Z5\nG0 X120\nZ80\nM55\nM35\n"
    off = "T0303\nG18\nG95\nG97 S600 M3\nG0 X66 Z3\nZ-30\nG1 X-1 F.05\nG0 X66\nX120 Z80\nM30\n"
    proof = proved(text + off, given)
    assert any(s.proof.fallen for s in proof.stages)
    assert "interrupted-cut" not in codes(proof)
    gouge = [r for r in proof.remarks if r.code == "gouge" and "on the end face" in r.text]
    assert len(gouge) == 1
    assert gouge[0].amount == pytest.approx(5.0, abs=0.1)
    assert proof.comparison.driven[0].volume("gouge") == pytest.approx(107.0, rel=0.02)


def test_a_tool_along_x_is_so_while_the_work_turns_too() -> None:
    """It passes in front of a turning part: along Z its holder would reach over it, along X it stays off."""
    text = "T0606\nG97 S500 M3\nG95\nG54 G0 X100 Z5\nX20\nX100\nX120 Z80\nM30\n"
    assert not codes(proved(text), "stop")
    deep = text.replace("X20\n", "X100 Z-10\nX70\n").replace("G0 X100 Z5", "G0 X140 Z5")
    assert not codes(proved(deep), "stop")
    hits = deep.replace("X70\n", "X50\n")
    assert "rapid-in-stock" in codes(proved(hits), "stop")


def test_what_nobody_wants_gone_is_told_with_the_line_that_took_it() -> None:
    proof = proved(HOLES + "G17\nG0 X40 Z1\nC120\nG1 Z-20 F200\nG0 Z5\n" + AWAY)
    gouge = next(r for r in proof.remarks if r.code == "gouge")
    told = report(proof)
    assert (told["gouge_volume"], told["max_gouge"]) == (pytest.approx(proof.removed, rel=0.01), gouge.amount)
    assert (HEAD + HOLES).count("\n") + 4 == gouge.line
    x, y, z = gouge.place or (0.0, 0.0, 0.0)
    a = math.radians(120)
    assert math.hypot(x - 20 * math.cos(a), y - 20 * math.sin(a)) < 3.0
    assert -20 < z < 0


def test_the_plain_lathe_has_no_y_to_travel() -> None:
    own = job(machine="lathe-driven")
    text = AXIAL.replace("M34", "M40").replace("M53", "M13").replace("G94", "G98")
    assert "unknown-word" in codes(proved(text + "G0 X20 Y3 Z1\nG0 X120 Z80\nM30\n", own))
    assert "unknown-word" not in codes(proved(text + "G0 X20 Z1\nG0 X120 Z80\nM30\n", own))


# -- the model ----------------------------------------------------------------------------------------------------------------


def test_a_card_without_c_reads_none_of_its_words() -> None:
    """Its dialect may still have them, from when it had one."""
    card = msgspec.structs.replace(CARDS["turn-mill-250"], c=None, drive=None)
    proof = proved(AXIAL + "G1 Z-1 F100\n" + AWAY, msgspec.structs.replace(job(), cards=(card,)))
    assert "unknown-word" in codes(proof, "stop")
    assert not any(isinstance(s.proof, PolarRun) for s in proof.stages)


def test_cards_drive_only_stations_they_have() -> None:
    for card in CARDS.values():
        if card.drive is not None:
            assert card.c is not None
            assert max(card.drive.stations) <= card.stations


def test_dexels_of_a_section_weigh_what_it_weighs() -> None:
    section = shapely.Polygon([(-80, 5), (-80, 30), (-40, 30), (-40, 22), (-10.05, 22), (0, 12), (0, 5)])
    made = Dexels.of(section, (-60.0, -45.0), 1.0)
    steps = math.pi * ((30**2 - 25) * 40 + (22**2 - 25) * 29.95 + 10.05 / 3 * (22**2 + 22 * 12 + 12**2) - 25 * 10.05)
    assert made.volume == pytest.approx(steps, rel=1e-5)
    assert made.turned(shapely.box(-60, 24, -45, 40)) == pytest.approx(math.pi * (30**2 - 24**2) * 15, rel=1e-6)


def test_a_ray_that_is_full_keeps_its_material() -> None:
    """Six stretches are held; a cut that would make a seventh takes nothing, and what it left is met."""
    lo, hi, count = np.zeros((1, 1, MOST), np.float32), np.zeros((1, 1, MOST), np.float32), np.ones((1, 1), np.uint8)
    hi[0, 0, 0] = 100.0
    for k in range(MOST - 1):
        assert take(lo, hi, count, 0, 0, 10.0 * k + 5, 10.0 * k + 8) > 0
    assert count[0, 0] == MOST
    assert take(lo, hi, count, 0, 0, 80.0, 90.0) == 0.0
    assert meets(lo, hi, count, 0, 0, 80.0, 90.0) == 10.0
    assert take(lo, hi, count, 0, 0, 80.0, 120.0) == pytest.approx(0.5 * (100**2 - 80**2))
    assert take(lo, hi, count, 0, 0, -5.0, 90.0) > 0
    assert count[0, 0] == 0


def test_where_nothing_is_left_nothing_is_met() -> None:
    made = Dexels.of(shapely.Polygon(), (), 1.0)
    assert made.volume == 0.0
    assert made.turned(shapely.box(0, 0, 1, 1)) == 0.0
    assert made.like(shapely.box(0, 0, 1, 1)).volume > 0


def test_a_stopped_proof_gives_nothing() -> None:
    stop = np.ones(1, np.uint8)
    assert Prover().prove(plan(job()), {0: Program.foreign(HEAD + AXIAL + "G1 Z-1 F100\n" + AWAY)}, stop) is None
