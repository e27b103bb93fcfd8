"""What the setup sheet says, against the job, its plan and its proof."""

from __future__ import annotations

import csv
import hashlib
import io
from typing import Any

import msgspec
import pytest

from bastler.job import Job, answering, edits, plan
from bastler.job.samples import sample_names
from bastler.live.leaving import program_bytes
from bastler.live.setting_up import setup_sheet
from bastler.live.setup_sheet import SetupSheet, limits_text, sizes_csv
from bastler.live.showing import Showing
from bastler.proof import prove_whole
from bastler.steps import CentreHole, Facing, FinishedHole, RectangularPocket, Stop
from bastler.tools.lists import csv_list, read_list
from bastler.units import Unit
from conftest import handed, job_of, sample_proof, some, turned


def sheet_of(job: Job) -> SetupSheet:
    return setup_sheet(prove_whole(plan(job)))


def facts(sheet: SetupSheet, holding: int = 0) -> dict[str, str]:
    return {says: text for _, says, text in sheet.programs[0].holdings[holding].facts}


@pytest.mark.parametrize("name", some(sample_names(), 4))
def test_a_sheet_agrees_with_the_programs_it_goes_with(name: str) -> None:
    proof = sample_proof(name)
    sheet, shown = setup_sheet(proof), Showing().whole(proof)
    assert len(sheet.programs) == len(proof.plan.programs)
    for program, group in zip(sheet.programs, proof.plan.programs, strict=True):
        sent = program_bytes([shown.holdings[held.place] for held in group])
        assert program.digest == hashlib.sha256(sent).hexdigest()
        assert program.lines == len(sent.decode().splitlines())
        ran = [stage for held in group for stage in proof.holdings[held.place].stages]
        assert program.seconds == pytest.approx(sum(proof.holdings[held.place].total for held in group))
        assert sum(line.seconds for line in program.tools) == pytest.approx(
            sum(s.t1 - s.t0 for s in ran if s.tool in {line.tool.station for line in program.tools})
        )
        stations = [line.tool.station for line in program.tools]
        assert stations == sorted({stage.tool for stage in ran if stage.volume > 0} | set(stations))
        steps = [line for holding in program.holdings for line in holding.steps]
        assert [line.number for line in steps] == [
            held.first + k for held in group for k, done in enumerate(held.steps) if done.step.on
        ]
        for line in program.tools:
            assert line.steps == tuple(step.number for step in steps if line.tool.station in step.stations)


def test_what_must_not_run_is_told_and_has_the_digest_of_what_would_leave() -> None:
    job = job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20, depth=29.0))
    proof = prove_whole(plan(answering.answered(job, "holding:h1.grip", 20.0)))
    program = setup_sheet(proof).programs[0]
    assert not proof.proved
    assert program.verdict == "stop"
    sent = program_bytes(Showing().whole(proof).holdings)
    assert b"NOT PROVED" in sent
    assert program.digest == hashlib.sha256(sent).hexdigest()
    assert program.remarks == proof.remarks


def test_two_programs_have_two_digests_and_the_same_one_has_the_same() -> None:
    job = job_of(Facing(id="a"))
    one, again = sheet_of(job).programs[0], sheet_of(job).programs[0]
    other = sheet_of(answering.answered(job, "stock.over_top", 1.5)).programs[0]
    assert one.digest == again.digest != other.digest


# -- what was answered --------------------------------------------------------------------------------------------


@pytest.mark.parametrize(("unit", "stock", "grip"), [("mm", "40 × 30 × 20 mm", "5 mm"), ("inch", "4 × 3 × 2 in", "0.5 in")])
def test_answers_are_said_with_their_units(unit: str, stock: str, grip: str) -> None:
    size = {"mm": (40.0, 30.0, 20.0), "inch": (4.0, 3.0, 2.0)}[unit]
    job = job_of(unit=unit, size_x=size[0], size_y=size[1], size_z=size[2])
    job = answering.answered(answering.answered(job, "holding:h1.vise", "yes"), "holding:h1.grip", float(grip.split()[0]))
    sheet = sheet_of(job)
    assert sheet.stock == stock
    said = facts(sheet)
    assert (said["Jaws grip"], said["Work offset"], said["Material"]) == (grip, "G54", job.material.name)
    assert "Diameter" not in said, "what is not asked is not said"
    assert said["Safe height Z"].endswith({"mm": " mm", "inch": " in"}[unit]), "what was proposed is said too"


def test_a_disc_a_hexagon_and_a_tube_are_said_as_one_says_them() -> None:
    assert sheet_of(job_of(form="disc", diameter=80.0, size_z=12.0)).stock == "Ø80 × 12 mm"
    job = handed()
    assert (
        sheet_of(answering.answered(answering.answered(job, "stock.form", "hex"), "stock.across_flats", 41.0)).stock
        == "41 × 100 mm, hexagon"
    )
    tube = answering.answered(answering.answered(job, "stock.form", "tube"), "stock.bore", 20.0)
    assert sheet_of(tube).stock == "Ø50 × 100 mm, bore Ø20"


def test_both_chucks_are_in_one_program() -> None:
    sheet = setup_sheet(sample_proof("coupling-nut"))
    (program,) = sheet.programs
    assert [holding.shown.holding.title for holding in program.holdings] == ["In the chuck", "In the second chuck"]
    assert (facts(sheet)["Work offset"], facts(sheet, 1)["Work offset"]) == ("G54", "G55")
    assert "Material" not in facts(sheet, 1), "the stock is of one program"
    assert [line.number for line in program.holdings[1].steps] == [9, 10, 11, 12, 13]


def test_where_the_machine_stops_is_said_with_the_reason() -> None:
    steps: list[Any] = [Facing(id="a"), Stop(id="s", message="Turn the clamp"), Stop(id="o", always="optional")]
    lines = sheet_of(job_of(*steps)).programs[0].holdings[0].steps
    assert lines[1].stops == "Stops: Turn the clamp"
    assert lines[2].stops == "Stops, where the switch is on: Clear the chips"
    assert lines[0].stops == ""


# -- sizes --------------------------------------------------------------------------------------------------------


def rows(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_fit_has_its_limits(unit: Unit) -> None:
    size = 6.0 if unit == "mm" else 0.25
    if unit == "mm":
        found = [s for s in setup_sheet(sample_proof("winch-base")).sizes if s.limits]
    else:
        job = job_of(FinishedHole(id="a", work="ream", diameter=size, tolerance="H7"), unit=unit)
        found = [s for s in sheet_of(edits.pattern_for(job, "a", "points")).sizes if s.limits]
    (fit,) = found
    assert fit.says == "Diameter"
    assert fit.limits == pytest.approx((size, size + {"mm": 0.012, "inch": 0.015 / 25.4}[unit])), (
        "ISO 286-1: IT7 to 6 and to 10 mm"
    )
    assert limits_text(fit, unit) == {"mm": ("6.000", "6.012"), "inch": ("0.25000", "0.25059")}[unit]


def test_sizes_are_those_of_the_print_and_each_is_there_once() -> None:
    sheet = setup_sheet(sample_proof("winch-base"))
    found = [(size.title, size.says, size.text) for size in sheet.sizes]
    assert ("Gear well", "Length", "80") in found
    assert ("Gear well", "How deep", "12") in found
    assert ("Deck bolts", "Circle diameter", "92") in found
    assert ("Pawl seat", "Turned by", "30") in found
    assert not [entry for entry in found if "past the edge" in entry[1]], "that is none of the part"
    assert len(found) == len(set(found))
    assert found[0] == ("The whole part", "Thickness", "33")


def test_a_step_that_is_off_or_cannot_be_done_has_no_sizes() -> None:
    there = RectangularPocket(id="b", x=30, y=20)
    off = msgspec.structs.replace(there, id="c", on=False)
    wrong = msgspec.structs.replace(there, id="d", width=-4.0)
    assert {size.number for size in sheet_of(job_of(there, off, wrong)).sizes} == {0, 1}


def test_the_list_is_read_by_a_spreadsheet_and_run_by_none() -> None:
    job = job_of(RectangularPocket(id="b", x=30, y=20, name='=HYPERLINK(1), "pocket"'))
    found = rows(sizes_csv(sheet_of(job)))
    assert found[0] == {
        "step": "", "of": "The whole part", "size": "Thickness", "nominal": found[0]["nominal"], "least": "", "most": "",
        "unit": "mm", "measured": "",
    }  # fmt: skip
    assert {row["of"] for row in found[1:]} == {'\'=HYPERLINK(1), "pocket"'}


def test_the_tool_list_is_one_that_the_crib_reads() -> None:
    sheet = setup_sheet(sample_proof("coupling-nut"))
    tools = [line.tool for line in sheet.programs[0].tools]
    assert list(read_list(csv_list(tools), "nut-tools.csv")) == tools
    assert [tool.station for tool in tools] == [1, 2, 3, 4, 5, 6, 7, 8, 9, 11]


def test_a_job_without_a_step_has_a_sheet_too() -> None:
    sheet = sheet_of(job_of())
    assert sheet.programs[0].tools == ()
    assert sheet.programs[0].holdings[0].steps == ()
    assert [size.says for size in sheet.sizes] == ["Thickness"]


def test_a_stop_within_a_step_is_said_too() -> None:
    drilled = CentreHole(id="d", work="drill", diameter=6.8, depth=20.0)
    oiled = CentreHole(id="t", work="tap", diameter=8.0, depth=12.0, oil="yes", message="Oil the tap")
    lines = sheet_of(turned(drilled, oiled)).programs[0].holdings[0].steps
    assert [line.stops for line in lines] == ["", "Stops: Oil the tap"]
