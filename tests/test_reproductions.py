"""What was once found to raise, to hang or to eat the memory, each by its name. `make soak` looks for more."""

from __future__ import annotations

import json
import tracemalloc
from collections.abc import Callable
from typing import Any

import msgspec
import pytest
import shapely

from bastler.bounds import SEGMENTS
from bastler.exchange import DrawingError, read_places
from bastler.job import Job, JobFileError, answering, crib_edits, edits, new_job, plan, read_job_text
from bastler.job.files import job_text
from bastler.job.samples import sample
from bastler.post import Program
from bastler.proof import prove_job
from bastler.shapes import PlanOutline
from bastler.shapes.outline import PlanSegment, TurnedSegment
from bastler.steps import (
    CentreHole,
    Drilling,
    Engraving,
    Facing,
    FreePocket,
    OutlineMilling,
    RectangularPocket,
    Threading,
    TurnFinishing,
    TurnRoughing,
)
from bastler.tools.lists import ToolListError, read_list
from bastler.units import ExpressionError, Kind, Unit, evaluate
from conftest import job_of, job_with, turned
from outlines import along, outline

pytestmark = pytest.mark.timeout(120)
"""Each took for ever, or many minutes; what is compiled meanwhile on a clean machine takes a while too."""
MOST = 400e6


def through(job: Job, text: str | None = None) -> Any:
    """Plans, proves and writes a job to its file and back, or another text in place of its own, within its memory."""
    tracemalloc.start()
    try:
        proof = prove_job(plan(job), Program.foreign(text) if text is not None else None, cell_mm=1.0)
        assert tracemalloc.get_traced_memory()[1] < MOST
    finally:
        tracemalloc.stop()
    assert read_job_text(job_text(job)) == job
    return proof


def all_said(proof: Any) -> str:
    assert not proof.proved
    return " ".join(r.text for r in proof.remarks)


# -- edits ------------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("work", ["centre", "drill", "ream", "tap", "bore"])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_hole_on_the_centre_line_changes_its_kind(work: str, unit: str) -> None:
    """The answers of the new kind are not filled in yet."""
    job = turned(CentreHole(id="h", work="drill", diameter=10.0 if unit == "mm" else 0.4, depth=1.0), unit=unit)
    try:
        through(answering.answered(job, "step:h.work", work))
    except answering.UnfitAnswer as error:
        assert str(error)


@pytest.mark.parametrize("kind", ["line", "arc"])
def test_an_outline_of_no_length(kind: Any) -> None:
    nothing = TurnedSegment(id="g1", kind=kind, z=0.0, d=20.0, radius=5.0 if kind == "arc" else None)
    shape = msgspec.structs.replace(outline(d=20.0, pieces=(along(-5.0),)), segments=(nothing,))
    through(turned(TurnRoughing(id="r", outline="o"), TurnFinishing(id="f", outline="o"), outlines=(shape,)))


@pytest.mark.parametrize("size", [1e-6, 1e-4, 0.01])
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_stock_of_a_millionth(size: float, unit: str) -> None:
    for name in ("size_x", "size_y", "size_z"):
        job = job_of(Facing(id="f"), RectangularPocket(id="p", depth=1.0), unit=unit)
        through(job_with(job, **{name: size}))
    for name in ("diameter", "length", "finished"):
        part = turned(Threading(id="t"), unit=unit)
        through(job_with(part, **{name: size}))


def test_no_part_on_the_table_and_a_proof_of_nothing() -> None:
    job = sample("fixture-of-six")
    through(job_with(job, parts="list", places=()))
    bare = job_of()
    assert not through(bare).stages
    assert not through(bare, "").stages
    assert not through(turned(), "%\n").stages


def test_a_way_out_for_a_step_without_a_tool() -> None:
    job = job_of(Facing(id="f"), Drilling(id="d", depth=30.0, diameter=3.0))
    for ident in [t.id for t in job.tools]:
        job = crib_edits.tool_removed(job, ident)
    assert "tool" in all_said(through(job)).lower()


@pytest.mark.parametrize("code", ["\u202eCNMG120408", "CNMG12040\u200f8", "M1e9x1", "²", "CNMG", "RCMT9999M0", "CNMG120499"])
def test_insert_codes_that_are_none(code: str) -> None:
    job = sample("drum-spindle")
    tool = next(t for t in job.tools if getattr(t, "insert", ""))
    try:
        through(answering.answered(job, f"tool:{tool.id}.insert", code))
    except answering.UnfitAnswer as error:
        assert str(error)


@pytest.mark.parametrize("text", ["²", "1²", "٣", "½", "1e400", "9" * 400, "(" * 2000, "1/0", "-" * 900 + "1", "𝟙"])
def test_signs_that_are_digits_to_some(text: str) -> None:
    try:
        value = evaluate(text, Kind.LENGTH, "mm")
    except ExpressionError as error:
        assert str(error)
    else:
        assert text.isascii(), value
        assert abs(value) <= 1e8


@pytest.mark.parametrize("value", [10**400, -(10**400), 1e308, float("nan"), float("inf"), "\ud800", "x" * 100_000])
@pytest.mark.parametrize(
    "address", ["step:f.over", "stock.size_x", "job.name", "job.number", "step:f.tool", "holding:h1.work_offset"]
)
def test_values_that_no_field_holds(address: str, value: Any) -> None:
    job = job_of(Facing(id="f"))
    try:
        changed = answering.answered(job, address, value)
    except (answering.UnfitAnswer, KeyError) as error:
        assert str(error)
    else:
        through(changed)


# -- what grows with an answer ----------------------------------------------------------------------------------------------


def test_a_megabyte_to_engrave() -> None:
    said = all_said(through(job_of(Facing(id="f"), Engraving(id="e", text="HAFEN " * 170_000))))
    assert "signs" in said


@pytest.mark.parametrize("field", ["ae", "ap"])
@pytest.mark.parametrize("value", [1e-9, 1e-6, 1e-4])
def test_a_pocket_in_bites_of_nothing(field: str, value: float) -> None:
    step = msgspec.structs.replace(RectangularPocket(id="p", length=40.0, width=25.0, depth=8.0), **{field: value})
    said = all_said(through(job_of(Facing(id="f"), step)))
    assert "is not cut: that makes" in said, said


def test_a_thread_of_a_million_turns() -> None:
    job = turned(Threading(id="t", length=50.0))
    for field, value in (("thread", "M30x0.00001"), ("starts", 100_000), ("first", 1e-7), ("least", 1e-9), ("length", 1e7)):
        try:
            through(answering.answered(job, f"step:t.{field}", value))
        except (answering.UnfitAnswer, KeyError) as error:
            assert str(error)


def test_an_outline_of_more_segments_than_are_solved() -> None:
    segments = tuple(
        PlanSegment(id=f"g{k}", kind="line", x=float(k % 40), y=float(k // 40)) for k in range(SEGMENTS.most * 2 + 300)
    )
    shape = PlanOutline(id="o", name="o", x=0.0, y=0.0, segments=segments)
    base = job_of(Facing(id="f"), OutlineMilling(id="m", outline="o"), FreePocket(id="p", outline="o"))
    assert "segments" in all_said(through(msgspec.structs.replace(base, outlines=(shape,))))


def test_five_thousand_pockets() -> None:
    steps = [RectangularPocket(id=f"p{k}", x=30.0, y=20.0, depth=1.0) for k in range(5000)]
    assert "steps" in all_said(through(job_of(*steps)))


# -- programs ---------------------------------------------------------------------------------------------------------------

BEGIN, BEGIN_TURN = "G21 G90\nT1 M6\nS500 M3\nG0 X0 Y0 Z50\n", "G21 G90\nT0404\nG97 S500 M3\nG0 X64 Z5\n"
MILL_TEXTS = {
    "subprograms that call each other": BEGIN + "M98 P1\nM30\nO1\nM98 P2\nM99\nO2\nM98 P1\nM99\n",
    "one that calls itself": BEGIN + "M98 P1\nM30\nO1\nM98 P1\nM99\n",
    "compensation without a tool": "G21 G90\nG0 X0 Y0\nG41 D1\nG1 X10 F100\nX20 Y5\nG40 X30\nM30\n",
    "an arc as large as the world": BEGIN + "G1 Z-1 F100\nG2 X10 Y0 R1000000000\nG3 X0 Y0 I99999999 J99999999\nM30\n",
    "a helix of a million turns": BEGIN + "G1 Z-1 F100\n" + "G2 X0 Y0 I5 J0 Z-0.000001\n" * 50 + "M30\n",
    "a number of four hundred digits": BEGIN + f"G1 X{'9' * 400} F100\nX0.{'0' * 400}1\nM30\n",
    "endless brackets": BEGIN + "(" * 50_000 + "\nM30\n",
    "one line of a megabyte": BEGIN + "G1 " + "X1 Y1 " * 160_000 + "\nM30\n",
    "a line number beyond a float": f"N{'9' * 500} G0 X0\nO{'1' * 300}\nM98 P{'7' * 200}\nM30\n",
    "signs that are no letters": BEGIN + "G1 Xٳ Y² F¹\n\u202eG1 X5\nM30\n",
}  # fmt: skip
TURN_TEXTS = {
    "a cycle whose outline contains itself": BEGIN_TURN + "G71 U2 R1\nG71 P10 Q20 U0.5 W0.1 F0.2\nN10 G0 X20\n"
    "G71 P10 Q20 U0.5 W0.1\nN20 G1 X64 Z-20\nG70 P10 Q20\nM30\n",
    "a finish of what ends before it begins": BEGIN_TURN + "G70 P20 Q10 F0.1\nN10 G0 X20\nN20 G1 Z-20\nM30\n",
    "a rough that names itself": BEGIN_TURN + "N10 G71 U2 R1\nN20 G71 P10 Q20 U0.5 W0.1 F0.2\nM30\n",
    "a thread of a million turns": BEGIN_TURN + "G76 P010060 Q10 R0.01\nG76 X20 Z-50 P1000 Q100 F0.00001\nM30\n",
    "a travel as large as the world": BEGIN_TURN + "G2 X10 Z-5 R1000000000 F0.1\nG3 X64 Z5 I99999999 K0\nM30\n",
}  # fmt: skip


@pytest.mark.parametrize("text", MILL_TEXTS.values(), ids=MILL_TEXTS)
def test_programs_for_a_mill(text: str) -> None:
    all_said(through(job_of(Facing(id="f")), text))


@pytest.mark.parametrize("text", TURN_TEXTS.values(), ids=TURN_TEXTS)
def test_programs_for_a_lathe(text: str) -> None:
    all_said(through(turned(Threading(id="t")), text))


# -- files ------------------------------------------------------------------------------------------------------------------


def _job(change: Callable[[dict[str, Any]], None]) -> bytes:
    raw: dict[str, Any] = json.loads(job_text(new_job()))
    change(raw)
    return json.dumps(raw).encode()


@pytest.mark.parametrize(
    "data",
    [
        b'{"a":' * 5000,
        b"[" * 100_000,
        _job(lambda raw: raw.update(name="\ud800")),
        job_text(new_job()).replace(b'"name"', b'"name":"\\udfff","name"', 1),
        _job(lambda raw: raw["stock"].update(size_x=10**400)),
        _job(lambda raw: raw["holdings"][0].update(steps=[{"kind": "facing", "id": "a"}] * 3)),
        b"\xff\xfe" + job_text(new_job()),
        job_text(new_job())[:-40],
    ],
    ids=[
        "deep objects",
        "deep lists",
        "a lone surrogate",
        "an escaped one",
        "a huge number",
        "ids alike",
        "a mark",
        "cut off",
    ],
)
def test_job_files_that_are_none(data: bytes) -> None:
    try:
        job = read_job_text(data)
    except JobFileError as error:
        assert len(str(error)) < 400
    else:
        through(job)


@pytest.mark.parametrize("cell", ["[" * 50_000, "{" * 5000, "9" * 400, "²", "\u202e12", "=cmd()", "1e999", "nan", '"' * 999])
def test_cells_of_lists(cell: str, tmp_path: Any) -> None:
    for text in (f"id,kind,diameter\n1,end,{cell}\n", f"{cell},x\n", f'[{{"id": {json.dumps(cell)}, "kind": "end"}}]', cell):
        try:
            read_list(text, "a list")
        except ToolListError as error:
            assert len(str(error)) < 500
        path = tmp_path / "places.csv"
        path.write_text(text, encoding="utf-8")
        try:
            points = read_places(path)
        except DrawingError as error:
            assert len(str(error)) < 500
        else:
            assert all(abs(v) <= 1e8 for p in points for v in p)


@pytest.mark.parametrize("value", ["\ud800", 10**400, -(10**400), 10**10])
@pytest.mark.parametrize("field", ["id", "name", "DC", "station", "no\ud800where", "holder_length"])
def test_json_lists_of_tools_with_what_is_none(field: str, value: Any) -> None:
    row = {"id": "a", "kind": "end-mill", "name": "End mill 6", "station": 1, "DC": 6.0} | {field: value}
    with pytest.raises(ToolListError) as found:
        read_list(json.dumps([row]), "a list")
    assert len(str(found.value)) < 500


def test_a_million_places(tmp_path: Any) -> None:
    path = tmp_path / "places.csv"
    path.write_text("X,Y\n" + "1.5,2.5\n" * 1_000_000, encoding="utf-8")
    with pytest.raises(DrawingError):
        read_places(path)


def test_a_region_of_nothing_is_no_shape() -> None:
    """Where all steps together take the whole block away."""
    step = RectangularPocket(id="p", x=30.0, y=20.0, length=200.0, width=200.0, depth=100.0)
    proof = through(job_of(step, size_z=5.0))
    assert isinstance(proof.scene.stock.plan, shapely.Geometry)


@pytest.mark.parametrize("side", ["outside", "inside", "face"])
@pytest.mark.parametrize("pitch", [9.0, 90.0, 99999.0])
def test_grooves_so_far_apart_that_one_is_in_the_air(side: str, pitch: float) -> None:
    """The second groove's walls were looked for within a hundred thousand of zero: not planned, and nobody told why."""
    job = answering.answered(sample("drum-spindle"), "step:s5.side", side)
    job = answering.answered(answering.answered(job, "step:s5.count", 2), "step:s5.pitch", pitch)
    made = plan(job)
    assert made.step("s5").troubles or made.step("s5").stages
    assert prove_job(made).proved or all_said(prove_job(made))
    if side == "outside":
        texts = [t.text for t in made.step("s5").troubles]
        assert texts == ([] if pitch < 100.0 else ["Groove 2 of 2 lies where there is no material."])


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("leave", [30.0, 99_999.0])
def test_more_left_on_the_floor_than_there_is(leave: float, unit: Unit) -> None:
    """Roughing went over the stock, and the finish came down a ramp from as high as the allowance: of 100 km a million moves."""
    job, ident = edits.step_added(new_job(unit), "polygon-pocket", "")
    planned = plan(answering.answered(job, f"step:{ident}.leave_floor", leave)).steps[0]
    assert [t.field for t in planned.troubles] == ["leave_floor"]
    assert "nothing would be roughed" in planned.troubles[0].text
    thin = answering.answered(job, f"step:{ident}.depth", 0.01 if unit == "inch" else 0.2)
    assert not plan(thin).steps[0].troubles


@pytest.mark.parametrize("machine", ["mill-old", "turn-mill-250", "lathe-driven"])
def test_a_clearance_of_a_hundred_metres_is_no_million_pecks(machine: str) -> None:
    """Where the control has no cycle for it every peck is written: they were counted from the surface, and begin far over it."""
    job, ident = edits.step_added(new_job("mm", machine), "drilling", "")
    planned = plan(answering.answered(job, f"step:{ident}.clearance", 99_999.0)).steps[0]
    assert "pecks" in planned.troubles[0].text, planned.troubles
    assert not plan(answering.answered(job, f"step:{ident}.clearance", 5.0)).steps[0].troubles
