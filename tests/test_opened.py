"""Programs from elsewhere, opened without a job: what is guessed, and that every guess is asked about."""

from __future__ import annotations

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import Job, JobFileError, edits, plan
from bastler.job.by_hand import Elsewhere
from bastler.job.files import job_text, read_job_text
from bastler.job.samples import sample, sample_names
from bastler.job.shop import Shop
from bastler.live.opened import LARGEST, NoProgram, job_of_program
from bastler.post import made, post
from bastler.post.by_hand import edits_of
from bastler.proof import JobProof, prove_whole
from bastler.steps import Facing
from conftest import job_of, many, some

MILLED = """%
O0042 (BRACKET)
G21 G17 G40 G90 G94
T3 M6
S4000 M3
G54 G0 X-10 Y10
G43 H3 Z5
G1 Z-4 F200
X70 F600
Y30
X-10
G0 Z50
M30
%
"""
TURNED = """O0007
G21 G18 G40 G90
T0101
G50 S2000
G96 S150 M3
G0 X44 Z2
X38
G1 Z-30 F0.2
X44
G0 X100 Z50
M30
"""


def opened(text: str, name: str = "bracket.nc") -> Job:
    return job_of_program(text.encode("latin-1"), name, Shop())


def proved(job: Job) -> JobProof:
    return prove_whole(plan(job))


def asked(job: Job) -> dict[str, str]:
    """What is still to be looked at, by where its answer goes."""
    return {r.cure.address: r.text for r in proved(job).remarks if r.level == "open" and r.cure is not None}


def all_looked_at(job: Job) -> Job:
    for address in asked(job):
        job = edits.cured(job, address, None)
    return job


# -- what is guessed ----------------------------------------------------------------------------------------------


def test_a_milled_program_has_a_block_round_its_moves() -> None:
    job = opened(MILLED)
    assert (job.unit, job.turns, job.program_number, job.name) == ("mm", False, 42, "bracket")
    box = plan(job).first.flat.stock
    tool = next(t for t in job.tools if t.station == 3)
    assert box.lo[0] <= -10 - tool.diameter / 2
    assert box.hi[0] >= 70 + tool.diameter / 2
    assert box.lo[1] <= 10 - tool.diameter / 2 < 30 + tool.diameter / 2 <= box.hi[1]
    assert (box.hi[2], box.lo[2]) == (0.0, -5.0), "the zero is on top, and the bottom a millimetre below the deepest cut"
    assert post(plan(job).first).lines == tuple(MILLED.splitlines())


def test_a_program_that_counts_up_from_the_table_has_its_zero_below() -> None:
    job = opened(MILLED.replace("Z-4", "Z12").replace("Z5\n", "Z25\n"))
    box = plan(job).first.flat.stock
    assert (box.lo[2], box.hi[2]) == (0.0, pytest.approx(25.0, abs=1.0))


def test_a_turned_program_has_a_bar_round_its_moves() -> None:
    job = opened(TURNED, "shaft.tap")
    assert (job.turns, job.unit, job.name) == (True, "mm", "shaft")
    assert job.stock.diameter >= 38.0
    assert job.stock.finished == 30.0
    assert plan(job).first.jaws_at == -40.0


@pytest.mark.parametrize(("words", "unit"), [("G20", "inch"), ("g 020", "inch"), ("G21", "mm"), ("", "mm"), ("(G20) G21", "mm")])
def test_the_unit_is_what_the_program_says_first(words: str, unit: str) -> None:
    job = opened(MILLED.replace("G21", words))
    assert job.unit == unit
    assert ("sure:unit" in asked(job)) == (words == ""), "only what is not said is asked"


def test_a_cycle_of_a_lathe_is_no_unit() -> None:
    """G71 roughs on lathes, whatever some mills mean by it."""
    job = opened(TURNED.replace("G21 G18", "G20 G18").replace("G0 X100", "G71 U2 R1\nG0 X100"))
    assert job.unit == "inch"
    assert "sure:unit" in asked(opened(TURNED.replace("G21 G18", "G18") + "G70\n"))


def test_what_moves_y_is_not_turned() -> None:
    assert not opened(MILLED.replace("(BRACKET)", "(X Y)")).turns
    assert opened(TURNED + "(Y1)\n").turns


def test_what_bastler_wrote_goes_to_the_machine_it_was_written_for() -> None:
    for name in some(sample_names(), 3):
        job = sample(name)
        again = job_of_program(post(plan(job).programs[0]).sent, f"{name}.nc", Shop())
        assert again.unit == job.unit
        assert again.turns == job.turns
        if job.machine == "mill-600" or job.turns:
            assert again.machine == job.machine


# -- every guess is asked about -----------------------------------------------------------------------------------


def test_nothing_is_proved_before_every_guess_was_looked_at() -> None:
    job = opened(MILLED)
    assert set(asked(job)) == {"sure:stock", "sure:T3"}
    assert proved(job).verdict == "open"
    assert not proved(job).proved
    one = edits.cured(job, "sure:stock", None)
    assert set(asked(one)) == {"sure:T3"}
    whole = all_looked_at(job)
    assert whole.elsewhere == Elsewhere(lines=job.elsewhere.lines, sure=("stock", "T3"))
    assert proved(whole).proved
    assert {r.code for r in proved(whole).remarks} >= {"no-shape"}, "it is compared with no shape, and that is said"


def test_a_tool_that_the_program_names_as_the_crib_does_is_sure_and_at_its_station() -> None:
    name = next(t.name for t in opened(MILLED).tools if t.station == 4)
    job = opened(MILLED.replace("T3 M6", f"(T3 {name.upper()})\nT3 M6"))
    assert set(asked(job)) == {"sure:stock"}
    assert [t.name for t in job.tools if t.station == 3] == [name]
    assert len({t.station for t in job.tools if t.station}) == len([t for t in job.tools if t.station]), "one tool a station"


def test_a_tool_that_is_not_there_is_a_stop() -> None:
    job = all_looked_at(opened(MILLED.replace("T3 M6", "T77 M6").replace("H3", "H77")))
    found = proved(job)
    assert found.verdict == "stop"
    assert "no-tool" in {r.code for r in found.remarks} or "tool-unknown" in {r.code for r in found.remarks}


def test_a_crash_is_a_crash_whoever_wrote_it() -> None:
    job = all_looked_at(opened(MILLED.replace("G1 Z-4 F200", "G0 Z-4\nG1 F200")))
    assert "rapid-in-stock" in {r.code for r in proved(job).remarks}


# -- it is a job --------------------------------------------------------------------------------------------------


def test_it_is_kept_in_a_job_file_and_edited_by_hand() -> None:
    job = opened(MILLED)
    assert read_job_text(job_text(job)) == job
    own = made(plan(job).programs[0])
    ident = job.holdings[0].id
    changed = edits.changed_by_hand(job, ident, edits_of(own, MILLED.replace("F600", "F550"), ident, ()))
    assert "X70 F550" in post(plan(changed).first).lines


def test_it_has_no_steps() -> None:
    job = msgspec.structs.replace(job_of(Facing(id="a")), elsewhere=Elsewhere(lines=("G0 X1",)))
    with pytest.raises(JobFileError, match="no steps and one holding"):
        read_job_text(job_text(job))


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "moves no tool"),
        (b"hello\nthere is nothing here", "moves no tool"),
        (b"G0 X1\nG0 X2\n", "moves no tool"),
        (b"\x7fELF\x00\x01", "no program"),
        (b"G1 X1 F1\n" * (LARGEST // 9 + 1), "larger than"),
    ],
    ids=["empty", "words", "rapids", "binary", "large"],
)
def test_what_is_no_program_is_said_in_a_sentence(data: bytes, words: str) -> None:
    with pytest.raises(NoProgram, match=words):
        job_of_program(data, "a.nc", Shop())


WORD = st.sampled_from(
    ["G0", "G1", "G2", "G20", "G91", "X1", "Y-2", "Z3.5", "F100", "S900", "M3", "T1", "M6", "(a", ")", "%", "O5", "\x0c", "é"]
)


@settings(max_examples=many(60), deadline=None)
@given(st.lists(st.lists(WORD, max_size=6).map(" ".join), max_size=12).map("\n".join))
def test_any_text_is_a_job_or_a_sentence(text: str) -> None:
    try:
        job = opened(text)
    except NoProgram as error:
        assert str(error).endswith((".", "JOB."))
        return
    assert not proved(job).proved, "nobody has looked at it"
    assert read_job_text(job_text(job)) == job
