"""Threads by every name a print uses: what they measure, between which sizes they lie, and that what is cut is the thread that
was named, hand and lead included."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bastler.cutting import ThreadNameError, between_balls, limits_of, over_wires, thread_of, wire_for
from bastler.cutting.thread_tables import NPT, PIPE, UNIFIED, WHITWORTH
from bastler.job import Job, plan
from bastler.job.crib_edits import tool_given
from bastler.live.setting_up import setup_sheet
from bastler.nc import read
from bastler.post import Program
from bastler.proof import TurnProof, prove_job, prove_whole, scene_of
from bastler.steps import Groove, Tapping, Threading, ThreadMilling, TurnFacing, TurnRoughing
from bastler.tools import TURN_SORTS, TurnTool, faults_of, new_turn_tool
from conftest import job_of, turned
from outlines import along, up
from outlines import outline as outline_of

# -- names ------------------------------------------------------------------------------------------------------------

SHOWN = {
    "M24x1.5-6g": "M24 × 1.5-6g",
    "m24 x 1,5": "M24 × 1.5",
    "M24 LH": "M24 LH",
    "M20-LH": "M20 LH",
    "M24x1.5 LH-6g": "M24 × 1.5 LH-6g",
    "M24x3 (P1.5)": "M24 × Ph3 P1.5",
    "M24 x Ph3 P1.5-4g6g": "M24 × Ph3 P1.5-4g6g",
    "M10-6H/6g": "M10-6H/6g",
    "Tr 36 x 12 (P6)": "Tr 36 × 12 (P6)",
    "Tr36x6LH": "Tr 36 × 6 LH",
    "Tr 40×7-7e": "Tr 40 × 7-7e",
    "1.250-12 UN-2A": "1 1/4-12 UNF-2A",
    "1 1/4-12 UNF": "1 1/4-12 UNF",
    ".250-20 UNC-2B": "1/4-20 UNC-2B",
    "1/2 UNC": "1/2-13 UNC",
    "1/2-12": "1/2-12 UN",
    "#10-32 UNF-3B": "#10-32 UNF-3B",
    "1/2-14 NPT": "1/2-14 NPT",
    "NPT 1/2": "1/2-14 NPT",
    "3/4 NPTF": "3/4-14 NPTF",
    "Rc 1/2": "Rc 1/2",
    "rp3/4": "Rp 3/4",
    "R 1 1/4": "R 1 1/4",
    "G 3/4 A": "G 3/4 A",
    "G1/2B": "G 1/2 B",
    "1/2 BSW": "1/2-12 BSW",
    "1/2-16 BSF": "1/2-16 BSF",
    "1-5 ACME-2G": "1-5 ACME-2G",
    "1 1/4-5 Stub Acme LH": "1 1/4-5 STUB ACME LH",
    "Rd 40 x 1/6": "Rd 40 × 1/6",
    "Rd 24": "Rd 24 × 1/8",
    "own 30 x 2, 60°, 1.1": "own 30 × 2, 60°, 1.1",
}


@pytest.mark.parametrize(("written", "shown"), SHOWN.items())
def test_a_name_is_read_as_a_print_has_it_and_read_again_as_it_is_shown(written: str, shown: str) -> None:
    assert thread_of(written).name == shown
    assert thread_of(shown) == thread_of(written)


@pytest.mark.parametrize(
    ("written", "says"),
    [
        ("M23", "no coarse pitch"),
        ("M24x3 (P1.4)", "whole number of pitches"),
        ("1/2-13 UNF", "20 threads an inch"),
        ("1/2-12 NPT", "14 threads an inch"),
        ("1/2-11 BSW", "12 threads an inch"),
        ("5/8", "how many threads"),
        ("#7-32", "Numbered sizes"),
        ("R 5", "not in the table"),
        ("R 1/2 A", "classes of G"),
        ("1/0-3", "divided by zero"),
        ("own 30 x 2, 60, 1.9", "does not fit"),
        ("M500000", "coarse pitch"),
        ("M20x19", "does not exist"),
        ("bolt", "Write it as"),
    ],
)
def test_what_is_no_thread_says_why(written: str, says: str) -> None:
    with pytest.raises(ThreadNameError, match=says):
        thread_of(written)


@given(st.text(alphabet="MTrRGcpdS 0123456789.,x×*-/()#LHABgh°UNCFPTEKowBSW\"'\n\x00ß", max_size=24))
def test_rubbish_is_a_thread_or_a_sentence(text: str) -> None:
    try:
        found = thread_of(text)
    except ThreadNameError as error:
        assert str(error).endswith(".")
    else:
        assert 0 < found.root < found.pitch_diameter < found.nut_major
        assert math.isfinite(found.major)


@pytest.mark.parametrize(
    ("name", "side"),
    [("M10-6g", "outside"), ("M10-6H", "inside"), ("M10-6H/6g", ""), ("1/2-13 UNC-2A", "outside"), ("1/2-13 UNC-3B", "inside"),
     ("G 1/2 A", "outside"), ("Rc 1/2", "inside"), ("Rp 1/2", "inside"), ("R 1/2", ""), ("1-5 ACME-2G", ""), ("M10", ""),
     ("Tr 36 x 6-7H", "inside"), ("M10-4g6g", "outside")],
)  # fmt: skip
def test_a_class_says_which_side_it_is_of(name: str, side: str) -> None:
    assert thread_of(name).only == side


# -- what the standards' tables have ----------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("name", "e1", "tpi"),
    [("1/16", 0.28118, 27), ("1/8", 0.37360, 27), ("1/4", 0.49163, 18), ("3/8", 0.62701, 18), ("1/2", 0.77843, 14),
     ("3/4", 0.98887, 14), ("1", 1.23863, 11.5), ("1 1/4", 1.58338, 11.5), ("1 1/2", 1.82234, 11.5), ("2", 2.29627, 11.5),
     ("2 1/2", 2.76216, 8), ("3", 3.38850, 8)],
)  # fmt: skip
def test_npt_has_the_pitch_diameters_of_its_table(name: str, e1: float, tpi: float) -> None:
    """E1 of ASME B1.20.1, table 2, in inches."""
    found = thread_of(f"{name} NPT")
    assert found.pitch_diameter / 25.4 == pytest.approx(e1, abs=1.5e-5)
    assert found.taper == 1 / 16
    assert 25.4 / found.pitch == pytest.approx(tpi)
    assert set(NPT) >= {name}


@pytest.mark.parametrize(
    ("name", "crest", "root"),
    [
        ("1/8", (0.0017, 0.0035), (0.0035, 0.0052)),
        ("1/4", (0.0026, 0.0043), (0.0043, 0.0061)),
        ("3/4", (0.0026, 0.0043), (0.0043, 0.0061)),
        ("1", (0.0035, 0.0052), (0.0052, 0.0078)),
        ("3", (0.0052, 0.0069), (0.0069, 0.0095)),
    ],
)
def test_dryseal_threads_have_crests_and_roots_of_their_own(
    name: str, crest: tuple[float, float], root: tuple[float, float]
) -> None:
    """ASME B1.20.3, table 1, in inches: the middle of what may be cut off the sharp thread; on pitch diameters as NPT has them.
    They were cut as NPT, whose roots are deeper than its crests reach: a joint that leaks without a seal."""
    plain, found = thread_of(f"{name} NPT"), thread_of(f"{name} NPTF")
    assert (found.pitch_diameter, found.pitch, found.taper, found.gauge) == (
        plain.pitch_diameter, plain.pitch, plain.taper, plain.gauge,
    )  # fmt: skip
    half = found.pitch * math.sqrt(0.75) / 2
    e1 = found.pitch_diameter
    for height, off in (
        (found.major - e1, crest), (e1 - found.bore, crest), (e1 - found.root, root), (found.nut_major - e1, root),
    ):  # fmt: skip
        assert (half - height / 2) / 25.4 == pytest.approx(sum(off) / 2, abs=6e-5)
    assert found.root > found.bore > plain.bore
    assert found.nut_major < found.major < plain.major


@pytest.mark.parametrize("side", ["outside", "inside"])
def test_a_tip_too_sharp_for_a_dryseal_root_widens_it_and_goes_no_deeper(side: str) -> None:
    job = threaded("3/4 NPTF", side=side)
    done = plan(job).step("t")
    step: Any = done.filled
    deep = abs(step.root(done.turned) - step.pitch_radius(done.turned)) * 2
    spec = thread_of("3/4 NPTF")
    assert deep == pytest.approx(spec.pitch_diameter - spec.root, abs=1e-9)
    assert len(step.sides(done.turned, done.turned.turn_tool(step.tool))) > 1
    milled = plan(job_of(ThreadMilling(id="a", thread="3/4 NPTF"))).step("a")
    assert "it is turned" in milled.troubles[0].text


@pytest.mark.parametrize(
    ("name", "pitch", "minor"),
    [("1/4 BSW", 0.2180, 0.1860), ("1/2 BSW", 0.4466, 0.3932), ("1 BSW", 0.9200, 0.8400), ("1/4 BSF", 0.2254, 0.2008),
     ("1/2 BSF", 0.4600, 0.4200), ("1 BSF", 0.9360, 0.8720)],
)  # fmt: skip
def test_whitworth_threads_have_the_sizes_of_their_table(name: str, pitch: float, minor: float) -> None:
    """BS 84, in inches."""
    found = thread_of(name)
    assert found.pitch_diameter / 25.4 == pytest.approx(pitch, abs=1.1e-4)
    assert found.root / 25.4 == pytest.approx(minor, abs=1.1e-4)


@pytest.mark.parametrize(
    ("name", "bolt_minor", "nut_minor", "nut_major"),
    [("1-5 ACME", 0.7800, 0.8000, 1.0200), ("1/2-10 ACME", 0.3800, 0.4000, 0.5200), ("1/4-16 ACME", 0.1775, 0.1875, 0.2600),
     ("1-5 STUB ACME", 0.8600, 0.8800, 1.0200), ("1/2-10 STUB ACME", 0.4200, 0.4400, 0.5200)],
)  # fmt: skip
def test_acme_threads_have_the_sizes_of_their_tables(name: str, bolt_minor: float, nut_minor: float, nut_major: float) -> None:
    """ASME B1.5 and B1.8, in inches."""
    found = thread_of(name)
    sizes = (found.root, found.bore, found.nut_major)
    assert sizes == pytest.approx([25.4 * v for v in (bolt_minor, nut_minor, nut_major)], abs=2e-3)


def test_knuckle_threads_have_the_sizes_of_their_table() -> None:
    """DIN 405-1, Rd 40 × 1/6: P 4.233, d2 37.883, d3 35.767, D1 36.190, D 40.423."""
    found = thread_of("Rd 40")
    assert (found.pitch, found.pitch_diameter, found.root, found.bore, found.nut_major) == pytest.approx(
        (4.233, 37.883, 35.767, 36.190, 40.423), abs=6e-4
    )


def test_every_size_of_a_table_is_read() -> None:
    for size in PIPE:
        assert {thread_of(f"{kind} {size}").pitch for kind in ("G", "R", "Rc", "Rp")}
    for size, (_, coarse, fine) in UNIFIED.items():
        assert thread_of(f"{size}-{coarse:g}").name.endswith("UNC")
        assert not fine or thread_of(f"{size} UNF").name == f"{size}-{fine:g} UNF"
    for size, (coarse, fine) in WHITWORTH.items():
        assert not coarse or thread_of(f"{size} BSW").name == f"{size}-{coarse:g} BSW"
        assert not fine or thread_of(f"{size} BSF").name == f"{size}-{fine:g} BSF"


METRIC = {  # ISO 965-1 / ISO 965-2, in mm: pitch diameter, crest
    ("M3-6g", False): ((2.580, 2.655), (2.874, 2.980)),
    ("M6-6g", False): ((5.212, 5.324), (5.794, 5.974)),
    ("M8", False): ((7.042, 7.160), (7.760, 7.972)),
    ("M10-6g", False): ((8.862, 8.994), (9.732, 9.968)),
    ("M20-6g", False): ((18.164, 18.334), (19.623, 19.958)),
    ("M36-6g", False): ((33.118, 33.342), (35.465, 35.940)),
    ("M48-6g", False): ((44.431, 44.681), (47.399, 47.929)),
    ("M3-6H", True): ((2.675, 2.775), (2.459, 2.599)),
    ("M6", True): ((5.350, 5.500), (4.917, 5.153)),
    ("M8-6H", True): ((7.188, 7.348), (6.647, 6.912)),
    ("M10-6H", True): ((9.026, 9.206), (8.376, 8.676)),
    ("M20-6H", True): ((18.376, 18.600), (17.294, 17.744)),
    ("M36-6H", True): ((33.402, 33.702), (31.670, 32.270)),
}
UNIFIED_LIMITS = {  # ASME B1.1, in inches
    ("1/2-13 UNC-2A", False): ((0.4435, 0.4485), (0.4876, 0.4985)),
    ("1/2-13 UNC-2B", True): ((0.4500, 0.4565), (0.417, 0.434)),
    ("1/4-20 UNC-3A", False): ((0.2147, 0.2175), (0.2419, 0.2500)),
    ("#10-24 UNC-2A", False): ((0.1586, 0.1619), (0.1818, 0.1890)),
    ("#10-24 UNC-2B", True): ((0.1629, 0.1672), (0.145, 0.156)),
    ("1 1/4-12 UNF-2A", False): ((1.1879, 1.1941), (1.2368, 1.2482)),
}


@pytest.mark.parametrize(("key", "wanted"), METRIC.items())
def test_metric_limits_are_those_of_the_table(key: tuple[str, bool], wanted: Any) -> None:
    found = limits_of(thread_of(key[0]), inside=key[1])
    assert found is not None
    assert found.pitch == pytest.approx(wanted[0], abs=6e-4)
    assert found.crest == pytest.approx(wanted[1], abs=6e-4)


@pytest.mark.parametrize(("key", "wanted"), UNIFIED_LIMITS.items())
def test_unified_limits_are_those_of_the_table(key: tuple[str, bool], wanted: Any) -> None:
    found = limits_of(thread_of(key[0]), inside=key[1])
    assert found is not None
    assert [v / 25.4 for v in found.pitch] == pytest.approx(wanted[0], abs=6e-5)
    assert [v / 25.4 for v in found.crest] == pytest.approx(wanted[1], abs=6e-4 if key[1] else 6e-5)


def test_pipe_threads_have_their_classes() -> None:
    """ISO 228-1, G 1/2: 0.142 for nuts and class A, 0.284 for class B."""
    a, b, nut = (limits_of(thread_of(n), inside=i) for n, i in (("G 1/2 A", False), ("G 1/2 B", False), ("G 1/2", True)))
    assert a
    assert b
    assert nut
    assert a.pitch == pytest.approx((19.651, 19.793), abs=6e-4)
    assert b.pitch == pytest.approx((19.509, 19.793), abs=6e-4)
    assert nut.crest == pytest.approx((18.631, 19.172), abs=6e-4)
    assert limits_of(thread_of("1/2 NPT"), inside=False) is None


@pytest.mark.parametrize(("name", "wire"), [("M10", 0.895), ("M6", 0.62), ("M20", 1.65), ("M24", 2.05), ("M16", 1.35)])
def test_wires_are_those_of_the_standard_and_measure_what_exact_arithmetic_says(name: str, wire: float) -> None:
    thread = thread_of(name)
    assert wire_for(thread) == wire
    # three wires of 60°: M = d2 + 3 w - 0.866025 P
    assert over_wires(thread, wire, thread.pitch_diameter) == pytest.approx(
        thread.pitch_diameter + 3 * wire - 0.8660254 * thread.pitch, abs=1e-6
    )
    assert between_balls(thread, wire, thread.pitch_diameter) == pytest.approx(
        thread.pitch_diameter - 3 * wire + 0.8660254 * thread.pitch, abs=1e-6
    )


# -- cut --------------------------------------------------------------------------------------------------------------


def threaded(name: str, unit: str = "mm", **answers: Any) -> Job:
    """A shaft turned to a thread, with a relief wide enough to begin in."""
    thread, k = thread_of(name), 1.0 if unit == "mm" else 1 / 25.4
    major, root = round(thread.major * k, 4), (thread.root - 1.0) * k
    outline = outline_of(id="o", name="o", d=major, z=0.0, pieces=(along(-40 * k), up(62.0 * k)))
    size: dict[str, Any] = (
        {} if unit == "mm" else {"diameter": 60 * k, "length": 120 * k, "over_front": k, "finished": 60 * k, "stick_out": 90 * k}
    )
    steps = (
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o", leave_d=0.0, leave_z=0.0),
        Groove(id="g", z=-20.5 * k, width=14.0 * k, floor_d=round(root, 4), edges="one", finish="no"),
        Threading(id="t", thread=name, length=20.0 * k, **answers),
    )
    return turned(*steps, outlines=(outline,), unit=unit, **size)


def codes_of(proof: TurnProof) -> set[str]:
    return {r.code for r in proof.remarks if r.level == "stop"}


def edited(job: Job, was: str, now: str) -> TurnProof:
    """The job with its program changed by hand from the thread on."""
    proof = prove_job(plan(job))
    begin = next(k for k, line in enumerate(proof.program.lines) if "Thread" in line and "thread" in line.split("-")[-1])
    lines = list(proof.program.lines)
    hit = next(k for k in range(begin, len(lines)) if was in lines[k])
    lines[hit] = lines[hit].replace(was, now)
    changed: TurnProof = prove_job(plan(job), msgspec.structs.replace(proof.program, lines=tuple(lines)))
    return changed


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("name", ["M30x2", "M30x2 LH", "M30x4 (P2) LH", "1 1/4-12 UNF LH-2A"])
@pytest.mark.parametrize("infeed", ["flank", "alternating"])
def test_both_hands_are_proved_in_both_units(name: str, unit: str, infeed: str) -> None:
    proof = prove_job(plan(threaded(name, unit, infeed=infeed)))
    assert codes_of(proof) == set(), proof.remarks
    trace, own = proof.trace, [s for s in proof.stages if s.step == "t"]
    tied = [k for s in own for k in range(s.begin, s.end) if trace.lead[k] > 0]
    way = {bool(trace.end[k, 2] > trace.start[k, 2]) for k in tied}
    assert way == {"LH" in name}
    assert {round(float(trace.lead[k]), 5) for k in tied} == {round(thread_of(name).lead * (1 if unit == "mm" else 1 / 25.4), 5)}


def test_a_tool_that_cuts_with_the_spindle_going_back_makes_a_left_hand_thread_toward_the_chuck() -> None:
    job = threaded("M30x2 LH")
    tool = next(t for t in plan(job).first.ctx.tools if t.id == "thread-60")
    assert isinstance(tool, TurnTool)
    over = tool_given(job, msgspec.structs.replace(tool, turns="back"))
    proof = prove_job(plan(over))
    assert codes_of(proof) == set(), proof.remarks
    assert any(line.endswith("M4") for line in proof.program.lines)
    assert "M3" in proof.program.text.split("(4 Thread")[0]


@pytest.mark.parametrize(
    ("was", "now", "code"),
    [("M3", "M4", "spindle-back"), ("M3", "M4", "thread-hand"), ("F2", "F4", "thread-lead"), ("F2", "F1.9", "thread-lead")],
)
def test_a_thread_of_the_other_hand_or_lead_is_a_stop(was: str, now: str, code: str) -> None:
    assert code in codes_of(edited(threaded("M30x2"), was, now))


def test_a_right_hand_thread_in_the_place_of_a_left_hand_one_is_a_stop() -> None:
    """The program of the one, against the job of the other."""
    right = prove_job(plan(threaded("M30x2")))
    left = prove_job(plan(threaded("M30x2 LH")), Program.foreign(right.program.text))
    assert "thread-hand" in codes_of(left) or "thread-missing" in codes_of(left)


def test_two_starts_cut_as_one_are_a_stop() -> None:
    """In a section both look alike: the same grooves, twice over."""
    job = threaded("M30x4 (P2)")
    proof = prove_job(plan(job))
    text = proof.program.text.replace(" F4", " F2")
    assert "thread-lead" in codes_of(prove_job(plan(job), Program.foreign(text)))


def test_turning_against_the_edge_is_a_stop() -> None:
    job = threaded("M30x2")
    text = prove_job(plan(job)).program.text.replace(" M3\n", " M4\n")
    proof = prove_job(plan(job), Program.foreign(text))
    assert "spindle-back" in codes_of(proof)


@pytest.mark.parametrize(
    ("name", "answers", "field", "cure"),
    [
        ("M30x2-6H", {}, "side", "inside"),
        ("Rc 3/4", {}, "side", "inside"),
        ("M30x4 (P2)", {"starts": 1}, "starts", 2),
        ("Rd 30", {}, "tool", None),
    ],
)
def test_what_does_not_go_together_is_said_with_a_way_out(name: str, answers: Any, field: str, cure: Any) -> None:
    troubles = plan(threaded(name, **answers)).step("t").troubles
    assert [t.field for t in troubles] == [field]
    assert troubles[0].fits == cure


@pytest.mark.parametrize(
    "name",
    [
        "Tr 30x6",
        "Tr 30x6 (P3) LH",
        "1-5 ACME",
        "1-5 STUB ACME",
        "3/4-14 NPT",
        "3/4-14 NPTF",
        "1-10 BSF",
        "R 3/4",
        "own 30 x 2, 60, 1.1",
    ],
)
def test_the_crib_has_a_tool_for_every_family(name: str) -> None:
    proof = prove_job(plan(threaded(name)))
    assert codes_of(proof) == set(), proof.remarks


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("sort", TURN_SORTS)
def test_a_new_tool_of_every_sort_is_sound_and_not_in_the_machine(sort: str, unit: Any) -> None:
    tool = new_turn_tool(sort, unit, "n")
    assert faults_of(tool) == []
    assert tool.station == 0
    assert tool.name == f"New {TURN_SORTS[sort]}"
    assert tool.in_unit("mm").stick_out < 60


def test_the_middle_of_the_class_is_aimed_at_and_said() -> None:
    step = plan(threaded("M30x2-6g")).step("t")
    limits = limits_of(thread_of("M30x2-6g"), inside=False)
    assert limits
    assert 2 * step.filled.pitch_radius(step.ctx) == pytest.approx(limits.middle, abs=1e-4)
    words = " ".join(text for _, text in step.filled.says(step.ctx))
    assert "28.493 to 28.663" in words
    assert "Over wires of Ø1.35" in words
    basic = plan(threaded("M30x2-6g", off=0.0)).step("t")
    assert 2 * basic.filled.pitch_radius(basic.ctx) == pytest.approx(thread_of("M30x2").pitch_diameter)


def test_a_program_that_threads_toward_the_front_shifts_along_its_own_flank() -> None:
    """G76 with Z beyond its start: each pass begins nearer to the front, as one toward the chuck begins nearer to the chuck."""
    scene = scene_of(plan(threaded("M30x2 LH")))
    head = "G21 G18 G40 G80 G90 G95\nT0404\nG97 S300 M3\nG54 G0 X34 Z-24\n"
    trace = read(head + "G76 P010060 Q0.1 R0\nG76 X27.4 Z2 P1.3 Q0.4 F2\nM30\n", scene.control)
    begins = [float(trace.start[k, 2]) for k in range(len(trace)) if trace.lead[k] > 0]
    assert begins == sorted(begins)
    assert begins[0] > -24.0


def test_left_hand_holes_want_a_left_hand_tap_or_the_mill_turned_round() -> None:
    mill = plan(job_of(ThreadMilling(id="a", thread="M10 LH"))).step("a")
    assert ("hand", "left") in [(t.field, t.fits) for t in mill.troubles]
    several = plan(job_of(ThreadMilling(id="a", thread="M10x2 (P1)"))).step("a")
    assert "turned" in several.troubles[0].text
    assert plan(job_of(Tapping(id="a"))).step("a") is not None


@pytest.mark.parametrize("name", ["M30x2", "M30x2 LH"])
def test_a_thread_that_is_there_is_met_by_beginning_farther_off(name: str) -> None:
    """The same passes, so much farther from the thread; no more than a turn leads."""
    plain, later = (prove_job(plan(threaded(name, picked_up=off))) for off in (0.0, 0.75))
    assert codes_of(later) == set(), later.remarks
    begins = [[float(p.trace.start[k, 2]) for k in range(len(p.trace)) if p.trace.lead[k] > 0] for p in (plain, later)]
    by = -0.75 if "LH" in name else 0.75
    assert [b - a for a, b in zip(*begins, strict=True)] == pytest.approx([by] * len(begins[0]), abs=2e-3)
    (trouble,) = plan(threaded(name, picked_up=2.0)).step("t").troubles
    assert trouble.field == "picked_up"


def test_a_thread_is_on_the_paper_with_its_limits_and_its_wires() -> None:
    """It was missing from the sizes to measure: nobody asked for its name as a size."""
    lines = {line.says: line for line in setup_sheet(prove_whole(plan(threaded("M30x2-6g LH")))).sizes if line.number == 4}
    assert lines["Name"].text == "M30x2-6g LH"
    assert lines["Name"].limits == pytest.approx((28.493, 28.663), abs=6e-4)
    wires = lines["Over wires of Ø1.35"]
    assert wires.limits == pytest.approx((30.811, 30.981), abs=1e-3)
    assert wires.limits is not None
    assert wires.limits[0] < float(wires.text) < wires.limits[1]
    taper = {line.says for line in setup_sheet(prove_whole(plan(threaded("3/4 NPT")))).sizes}
    assert not any("wires" in says for says in taper)
