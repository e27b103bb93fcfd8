"""The crib: tools and their stations, lists in and out, materials and cards as forms, the shop behind the jobs."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.ask import problems, questions_of
from bastler.cutting import MATERIALS
from bastler.job import Job, JobFileError, answering, crib_edits, new_job, plan, read_job_text
from bastler.job.card_sample import card_sample
from bastler.job.forms import CardForm, DialectForm, MaterialForm
from bastler.job.shop import Shop, read_shop, shops_merged, write_shop
from bastler.machines import CARDS, Drive, GuideBush, SerialLine, SpindleAxis
from bastler.post import post
from bastler.proof import prove_job
from bastler.steps import Facing, RectangularPocket
from bastler.tools import KIND_WORDS, Experience, Tool, faults_of, new_tool, shop_crib
from bastler.tools.lists import ToolListError, csv_list, json_list, merged, read_list
from conftest import codes, job_of, many, proof_of

RACKS = [(unit, turning) for unit in ("mm", "inch") for turning in (False, True)]


@pytest.mark.parametrize(("unit", "turning"), RACKS)
def test_what_ships_is_sound_and_survives_both_lists(unit: str, turning: bool) -> None:
    crib = shop_crib(unit, turning=turning)
    assert [f for tool in crib for f in faults_of(tool)] == []
    assert read_list(csv_list(crib), "crib.csv") == crib
    assert read_list(json_list(crib), "crib.json") == crib


@pytest.mark.parametrize("kind", list(KIND_WORDS))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_new_tool_of_any_kind_is_sound(kind: str, unit: str) -> None:
    tool = new_tool(kind, unit, "x")  # type: ignore[arg-type]
    assert faults_of(tool) == []
    assert tool.station == 0


def test_lists_speak_the_words_of_iso_13399() -> None:
    heading = csv_list(shop_crib("mm")).splitlines()[0].split(",")
    assert {"DC", "APMXS", "NOF", "LF", "DMM", "LPR", "SIG", "TP"} <= set(heading)
    row = json.loads(json_list(shop_crib("mm")[:1]))[0]
    assert row["DC"] == 50.0


numbers = st.floats(0.01, 900.0).map(lambda v: round(v, 5))


@settings(max_examples=many(60))
@given(
    st.text(st.characters(exclude_categories=["Cs", "Cc"]), min_size=1, max_size=30),
    numbers,
    numbers,
    st.integers(1, 20),
    st.sampled_from(["", "TiAlN"]),
    st.lists(st.builds(Experience, st.sampled_from(["aluminium", "brass"]), numbers, numbers, st.text(max_size=8)), max_size=3),
)
def test_any_tool_comes_back_from_a_list_as_it_was(
    name: str, diameter: float, stick: float, teeth: int, coating: str, known: list[Experience]
) -> None:
    """Names with commas, quotes and signs; names that look like numbers."""
    tool = msgspec.structs.replace(
        new_tool("end-mill", "mm", "x"), name=name, diameter=diameter, flutes=teeth, stick_out=stick + 50.0,
        coating=coating, experience=tuple(known),
    )  # fmt: skip
    if faults_of(tool):
        return
    for text in (csv_list([tool]), json_list([tool])):
        assert read_list(text, "list") == (tool,)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no heading"),
        ("a,b\n1,2", "no heading"),
        ("id,kind\nx", "not as many cells"),
        ("id,station,kind,name,DC\nx,1,end-mill,n,ten", "line 2: DC"),
        ("id,station,kind,name\nx,1,hammer,n", "line 2: kind"),
        ("[1, 2]", "no list of tools"),
        ("[", "no JSON"),
        (json_list(shop_crib("mm")[:1] * 2), "there twice"),
        (json_list(shop_crib("mm")[:1]).replace("50.0", "-3"), "DC: Has to be 0.001 or more"),
    ],
)
def test_a_bad_list_is_said_with_its_place(text: str, says: str) -> None:
    with pytest.raises(ToolListError, match=says):
        read_list(text, "tools.csv")


@given(st.text(max_size=300))
def test_rubbish_gives_tools_or_a_sentence(text: str) -> None:
    for start in ("", "id,kind,station,name\n", "["):
        try:
            read_list(start + text, "rubbish")
        except ToolListError as error:
            assert str(error).startswith("rubbish")


def test_a_conflict_is_shown_and_nothing_is_overwritten() -> None:
    crib = shop_crib("mm")
    other = msgspec.structs.replace(crib[1], diameter=15.7)
    stranger = msgspec.structs.replace(new_tool("drill", "mm", "own"), station=3)
    fresh = new_tool("drill", "mm", "fresh")
    put = merged(crib, [crib[0], other, stranger, fresh])
    assert (put.fresh, put.same) == (1, 1)
    assert [(c.ours.id, c.theirs.id, c.by) for c in put.conflicts] == [("end-16", "end-16", "id"), ("end-10", "own", "station")]
    assert put.tools[: len(crib)] == crib
    taken = crib_edits.tools_taken(msgspec.structs.replace(new_job(), tools=put.tools), [stranger])
    assert taken.tool("own").station == 0


# -- stations ----------------------------------------------------------------------------------------------------------


def test_a_tool_put_at_a_station_changes_places_with_the_one_there() -> None:
    job = crib_edits.tool_to_station(new_job(), "end-16", 5)
    assert (job.tool("end-16").station, job.tool("end-4").station) == (5, 2)
    again = answering.answered(job, "tool:end-16.station", 0)
    assert again.tool("end-16").station == 0
    read_job_text(msgspec.json.encode(again))


def test_a_tool_of_the_crib_is_used_when_the_machine_has_none_and_it_is_said() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="p", x=30.0, y=20.0, length=30.0, width=20.0, depth=5.0))
    machine = plan(job).step("p").stages[0].tool
    assert "not-in-machine" not in codes(proof_of(job, 0.4))
    bigger = msgspec.structs.replace(machine, id="other", station=0, diameter=machine.diameter)
    with_both = msgspec.structs.replace(job, tools=(bigger, *job.tools))
    assert plan(with_both).step("p").stages[0].tool.id == machine.id
    for tool in job.tools:
        if isinstance(tool, Tool) and tool.kind == "end-mill":
            job = crib_edits.tool_to_station(job, tool.id, 0)
    proof = proof_of(job, 0.4)
    found = [r for r in proof.remarks if r.code == "not-in-machine"]
    assert found
    assert proof.proved
    cured = answering.answered(job, found[0].cure.address, found[0].cure.value)
    assert len([r for r in proof_of(cured, 0.4).remarks if r.code == "not-in-machine"]) == len(found) - 1
    assert "from the crib" in plan(job).step("p").filled.sources(plan(job).first.ctx)["tool"]


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"corner_radius": 9.0}, "corner_radius"),
        ({"flute_length": 90.0}, "stick_out"),
        ({"diameter": 0.0}, "diameter"),
        ({"station": 5000}, "station"),
    ],
)
def test_a_tool_that_cannot_be_is_said_at_its_field(change: dict[str, Any], field: str) -> None:
    tool = msgspec.structs.replace(shop_crib("mm")[1], **change)
    assert field in [t.field for t in faults_of(tool)]


# -- materials and machines -----------------------------------------------------------------------------------------------


@pytest.mark.parametrize("ident", list(MATERIALS))
def test_a_material_comes_back_from_its_form(ident: str) -> None:
    form = MaterialForm.of(MATERIALS[ident])
    assert form.material() == MATERIALS[ident]
    assert problems(form) == []


@pytest.mark.parametrize("ident", list(CARDS))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_card_comes_back_from_its_forms(ident: str, unit: str) -> None:
    card = CARDS[ident].in_unit(unit)  # type: ignore[arg-type]
    assert CardForm.of(card).onto(card) == card
    assert DialectForm.of(card).onto(card) == card
    assert problems(CardForm.of(card)) == problems(DialectForm.of(card)) == []


def test_every_constant_of_a_card_and_its_dialect_is_asked_for() -> None:
    """What changes what the machine does and is not on the form would be hidden."""
    asked = {q.name for q in questions_of(CardForm)}
    plain = asked | {"x", "y", "z", "home", "speed", "id", "unit", "kind", "dialect", "c", "drive", "line", "bush"}
    assert set(CARDS["mill-600"].__struct_fields__) <= plain
    assert {f"c_{name}" for name in SpindleAxis.__struct_fields__} <= asked
    assert {f"drive_{name}" for name in Drive.__struct_fields__ if name != "speed"} | {"drive_lo", "drive_hi"} <= asked
    assert set(SerialLine.__struct_fields__) <= asked
    assert {f"bush_{name}" for name in GuideBush.__struct_fields__} <= asked
    words = {q.name for q in questions_of(DialectForm)}
    assert set(CARDS["mill-600"].dialect.__struct_fields__) <= words


@pytest.mark.parametrize("ident", list(CARDS))
@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_every_card_has_a_sample_that_proves(ident: str, unit: str) -> None:
    planned = plan(card_sample(CARDS[ident], unit))  # type: ignore[arg-type]
    proof = prove_job(planned, cell_mm=0.4)
    assert proof.proved, proof.remarks
    assert len(proof.program.lines) > 20


def test_a_changed_dialect_changes_the_program_and_it_still_proves() -> None:
    job = job_of(Facing(id="f"), RectangularPocket(id="p", x=30.0, y=20.0, length=30.0, width=20.0, depth=5.0))
    before = post(plan(job).first).text
    job = answering.answered(job, "dialect:mill-600.line_numbers", True)
    job = answering.answered(job, "dialect:mill-600.decimals_mm", 2)
    job = answering.answered(job, "dialect:mill-600.end", "M2")
    text = post(plan(job).first).text
    assert "M30" in before
    assert "N10 " in text
    assert "M2" in text
    assert proof_of(job, 0.4).proved
    assert CARDS["mill-600"].dialect.end == "M30"
    read_job_text(msgspec.json.encode(job))


def test_words_that_cannot_be_filled_in_are_said() -> None:
    job = answering.answered(new_job(), "dialect:mill-600.tool_call", "T{number} M6")
    assert [t.field for t in crib_edits.crib_troubles(job, "dialect", "mill-600")] == ["tool_call"]
    assert read_job_text(msgspec.json.encode(job)) == job
    assert [t.field for t in plan(job).troubles] == ["job.machine"]


def test_a_material_of_its_own_is_cut_as_it_says() -> None:
    job, ident = crib_edits.material_copied(new_job(), "steel-mild")
    job = answering.answered(job, f"material:{ident}.carbide_low", 90.0)
    job = answering.answered(job, f"material:{ident}.carbide_high", 50.0)
    assert job.all_materials()[ident].vc["carbide"] == (50.0, 90.0)
    job = answering.answered(job, "stock.material", ident)
    assert plan(job).first.ctx.material.id == ident
    assert crib_edits.material_removed(job, ident) is job
    assert MATERIALS["steel-mild"].vc["carbide"][0] == 110


# -- the shop ------------------------------------------------------------------------------------------------------------


def edited(job: Job) -> Job:
    return answering.answered(job, "tool:end-16.diameter", 15.6)


def test_the_shop_follows_an_edit_and_its_undo() -> None:
    shop, job = Shop(), Shop().new_job("mm", "mill-600")
    after = shop.followed(job, edited(job))
    assert next(t for t in after.rack("mm", turning=False) if t.id == "end-16").diameter == 15.6
    assert after.followed(edited(job), job).rack("mm", turning=False) == shop.rack("mm", turning=False)
    assert after.new_job("mm", "mill-600").tool("end-16").diameter == 15.6
    assert after.rack("inch", turning=False) == shop.rack("inch", turning=False)


def test_what_differs_from_the_shop_is_not_followed_but_shown() -> None:
    shop = Shop()
    old = answering.answered(shop.new_job("mm", "mill-600"), "tool:end-16.flutes", 4)
    assert list(shop.differing(old)) == ["end-16"]
    after = shop.followed(old, edited(old))
    assert after.rack("mm", turning=False) == shop.rack("mm", turning=False)
    ours = shop.given(old, old.tool("end-16"))  # type: ignore[arg-type]
    assert ours.differing(old) == {}


def test_added_and_removed_tools_go_with_the_job_that_did_it() -> None:
    shop, job = Shop(), Shop().new_job("mm", "mill-600")
    more, ident = crib_edits.tool_added(job, "drill")
    shop = shop.followed(job, more)
    assert ident in {t.id for t in shop.rack("mm", turning=False)}
    assert [t.id for t in shop.besides(job)] == [ident]
    shop = shop.followed(more, crib_edits.tool_removed(more, ident))
    assert shop.besides(job) == ()


def test_the_shop_comes_back_from_its_file_and_a_bad_one_is_refused(tmp_path: Path) -> None:
    path = tmp_path / "shop.json"
    assert read_shop(path) == Shop()
    job = Shop().new_job("mm", "mill-600")
    own, _ = crib_edits.card_copied(edited(job), "mill-600")
    shop = Shop().followed(job, own)
    write_shop(shop, path)
    assert read_shop(path) == shop
    for bad in (b"{", b'{"racks": {"mm": [1]}}'):
        path.write_bytes(bad)
        with pytest.raises(JobFileError):
            read_shop(path)


def test_what_two_windows_make_of_one_shop_is_merged_tool_by_tool() -> None:
    job = Shop().new_job("mm", "mill-600")
    base = Shop(racks={"mm": job.tools})
    mine = answering.answered(answering.answered(job, "tool:end-16.diameter", 15.6), "tool:end-10.flutes", 4)
    theirs = crib_edits.tool_removed(
        answering.answered(answering.answered(job, "tool:end-16.diameter", 15.4), "tool:end-6.flutes", 2), "end-4"
    )
    theirs, fresh = crib_edits.tool_added(theirs, "drill")
    shop, both = shops_merged(base, Shop(racks={"mm": mine.tools}), Shop(racks={"mm": theirs.tools}))
    rack: dict[str, Any] = {t.id: t for t in shop.rack("mm", turning=False)}
    assert rack["end-16"].diameter == 15.6, "both changed it: ours holds"
    assert both == (mine.tool("end-16").name,)
    assert rack["end-10"].flutes == 4
    assert rack["end-6"].flutes == 2
    assert "end-4" not in rack
    assert fresh in rack
    assert shops_merged(base, base, base) == (base, ())
