"""Families: sizes with names, answers that name them, variants: each a part of its own, proved."""

from __future__ import annotations

from pathlib import Path

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.cli import main
from bastler.job import Job, JobFileError, answering, edits, new_job, outline_edits, plan, read_job_text, write_job
from bastler.job.family import (
    Family,
    FamilyError,
    NamedSize,
    Variant,
    filled_in,
    key_of,
    name_trouble,
    names_in,
    renamed,
    used_by,
    values_of,
    variants_csv,
    variants_of_csv,
)
from bastler.job.files import job_text
from bastler.live.proving_variants import proved_variants
from bastler.live.variants import same_files
from bastler.proof import prove_whole
from bastler.units import Unit
from conftest import many

replace = msgspec.structs.replace


def sizes(**said: str) -> tuple[NamedSize, ...]:
    return tuple(NamedSize(name=name, says=text) for name, text in said.items())


def plate(unit: Unit = "mm", **said: str) -> Job:
    """A faced plate with a pocket, its sizes by name."""
    said = said or {"d1": "30", "deep": "d1/6"}
    job = answering.family_given(new_job(unit), Family(sizes=sizes(**said)))
    job, first = edits.step_added(job, "facing", "")
    return edits.step_added(job, "rectangular-pocket", first)[0]


def typed(job: Job, field: str, text: str) -> Job:
    """An answer of the pocket, typed."""
    address = f"step:s2.{field}"
    struct, name = answering.at(job, address)
    return answering.answered(job, address, answering._meant(job, struct, name, filled_in(text, values_of(job))), text)


def of(job: Job, field: str) -> object:
    return getattr(job.step("s2"), field)


@pytest.mark.parametrize("name", ["d1", "pitch", "A", "wall_2", "x"])
def test_what_a_size_can_be_called(name: str) -> None:
    assert name_trouble(name) == ""


@pytest.mark.parametrize("name", ["", "1d", "mm", "in", "sqrt", "at", "h7", "H7", "js6", "d10", "a b", "ä", "x" * 21, "deg"])
def test_what_would_be_read_as_something_else_is_no_name(name: str) -> None:
    """A unit, a function, a fit: `30 h7` has to stay a fit."""
    assert name_trouble(name)


def test_sizes_are_worked_out_in_order() -> None:
    job = plate(d1="30", pitch="d1/4", two="2*pitch+1in")
    assert values_of(job) == pytest.approx({"d1": 30.0, "pitch": 7.5, "two": 40.4})
    assert values_of(plate("inch", d1="1 1/2", two="d1+25.4mm")) == pytest.approx({"d1": 1.5, "two": 2.5})


@pytest.mark.parametrize(
    ("said", "why"),
    [
        ({"a": "b"}, "not a number"),
        ({"a": "a+1"}, "not a number"),
        ({"a": "b", "b": "3"}, "not a number"),
        ({"a": "30 H7"}, "tolerance"),
        ({"a": "1/0"}, ""),
        ({"a": "3**"}, ""),
    ],
)
def test_a_size_that_is_none_is_said_and_makes_nothing(said: dict[str, str], why: str) -> None:
    with pytest.raises(FamilyError) as wrong:
        plate("mm", **said)
    assert wrong.value.name == "a"
    assert why in wrong.value.reason


def test_answers_follow_the_sizes_that_they_name() -> None:
    job = typed(typed(typed(plate(), "length", "d1"), "width", "2*d1/3 H7"), "depth", "deep")
    assert (of(job, "length"), of(job, "depth")) == (30.0, 5.0)
    assert of(job, "typed") == {"width": "2*30/3 H7"}
    assert answering.named_text(job, "step:s2.width") == "2*d1/3 H7"
    family = job.family
    assert family is not None
    wider = answering.family_given(job, replace(family, sizes=sizes(d1="60", deep="d1/6")))
    assert (of(wider, "length"), of(wider, "depth")) == (60.0, 10.0)
    assert of(wider, "width") == pytest.approx(40.0125)  # 40 H7: 0 to +25 µm
    assert answering.named_text(wider, "step:s2.width") == "2*d1/3 H7"
    assert answering.family_given(wider, replace(family, sizes=job.family.sizes)) == job


def test_an_answer_typed_without_names_is_free_again() -> None:
    job = typed(plate(), "length", "d1")
    free = typed(job, "length", "33")
    assert answering.named_text(free, "step:s2.length") == ""
    assert free.family is not None
    moved = answering.family_given(free, replace(free.family, sizes=sizes(d1="50", deep="d1/6")))
    assert of(moved, "length") == 33.0
    cleared = answering.answered(typed(plate(), "top", "d1"), "step:s2.top", None)
    assert answering.named_text(cleared, "step:s2.top") == ""


def test_what_has_gone_or_become_another_answer_is_left_alone() -> None:
    """A new step that takes the place and the id of an old one does not follow its sizes."""
    job = typed(plate(), "length", "d1+3")
    gone = edits.step_removed(job, "s2")
    again, ident = edits.step_added(gone, "rectangular-pocket", "s1")
    assert ident == "s2"
    before = of(again, "length")
    assert answering.named_text(again, "step:s2.length") == ""
    assert again.family is not None
    assert of(answering.family_given(again, replace(again.family, sizes=sizes(d1="50", deep="5"))), "length") == before
    assert answering.family_given(gone, replace(again.family, sizes=sizes(d1="50", deep="5"))).family.uses == {}


def test_a_copied_step_names_the_same_sizes() -> None:
    job, fresh = edits.step_copied(typed(plate(), "length", "d1"), "s2")
    assert answering.named_text(job, f"step:{fresh}.length") == "d1"
    assert job.family is not None
    wider = answering.family_given(job, replace(job.family, sizes=sizes(d1="44", deep="5")))
    assert [getattr(wider.step(s), "length") for s in ("s2", fresh)] == [44.0, 44.0]  # noqa: B009


def test_a_segment_keeps_its_size_when_another_comes_before_it() -> None:
    job = answering.family_given(new_job(), Family(sizes=sizes(d1="30")))
    job, _ = edits.step_added(job, "free-pocket", "")
    outline = job.outlines[0]
    job = answering.answered(job, f"outline:{outline.id}.segments.1.length", 30.0, "d1")
    assert key_of(job, f"outline:{outline.id}.segments.1.length") == f"outline:{outline.id}#{outline.segments[1].id}.length"
    longer = answering.outline_given(job, outline_edits.inserted(job.outlines[0], 0, "line"))
    assert answering.named_text(longer, f"outline:{outline.id}.segments.2.length") == "d1"
    assert answering.named_text(longer, f"outline:{outline.id}.segments.1.length") == ""
    assert longer.family is not None
    moved = answering.family_given(longer, replace(longer.family, sizes=sizes(d1="36")))
    assert [s.length for s in moved.outlines[0].segments][2] == 36.0


def test_tools_and_counts() -> None:
    """A tool keeps its own unit; a count has to stay a whole number, else nothing changes."""
    job = answering.family_given(new_job("inch"), Family(sizes=sizes(n="4", d="1in")))
    job, _ = edits.step_added(job, "drilling", "")
    pattern = next(p for p in job.patterns if hasattr(p, "count"))
    job = answering.answered(job, f"pattern:{pattern.id}.count", 4, "n")
    assert job.family is not None
    five = answering.family_given(job, replace(job.family, sizes=sizes(n="5", d="1in")))
    assert [getattr(p, "count", None) for p in five.patterns if p.id == pattern.id] == [5]
    with pytest.raises(FamilyError, match="whole number"):
        answering.family_given(job, replace(job.family, sizes=sizes(n="4.5", d="1in")))


def test_a_size_under_another_name() -> None:
    job = typed(plate(), "length", "d1+deep")
    assert job.family is not None
    family = renamed(replace(job.family, variants=(Variant(name="A", sizes={"d1": "12"}),)), "d1", "bore")
    assert [s.name for s in family.sizes] == ["bore", "deep"]
    assert family.sizes[1].says == "bore/6"
    assert family.uses == {"step:s2.length": "bore+deep"}
    assert family.variants[0].sizes == {"bore": "12"}
    assert answering.named_text(replace(job, family=family), "step:s2.length") == "bore+deep"
    assert used_by(job, "deep") == ["step:s2.length"]
    assert used_by(job, "d1") == ["deep", "step:s2.length"]
    with pytest.raises(FamilyError, match="already"):
        renamed(family, "bore", "deep")


@given(st.text(alphabet="d1eph27 +-*/().,mHh", max_size=30))
@settings(max_examples=many(300))
def test_only_names_are_filled_in(text: str) -> None:
    assert filled_in(text, {}) == text
    filled = filled_in(text, {"d1": 30.0})
    assert "d1" not in names_in(filled)
    if "d1" not in names_in(text):
        assert filled == text


def test_numbers_that_are_filled_in_can_be_read() -> None:
    assert filled_in("10-a", {"a": -3.0}) == "10-(-3)"
    assert filled_in("a", {"a": 1e-7}) == "0.0000001"
    assert filled_in("a/3", {"a": 100.0}) == "100/3"
    assert filled_in("12mm", {"mm": 5.0, "m": 2.0}) == "12mm", "a unit behind a number is one"


def family_of_plates() -> Job:
    job = typed(typed(plate(), "length", "d1"), "depth", "deep")
    assert job.family is not None
    variants = (
        Variant(name="small"),
        Variant(name="large", sizes={"d1": "60"}),
        Variant(name="too deep", sizes={"deep": "45"}),
    )
    return replace(job, name="Pawl cover", family=replace(job.family, variants=variants))


def test_each_variant_is_a_job_of_its_own() -> None:
    job = family_of_plates()
    assert job.family is not None
    large = answering.variant_of(job, job.family.variants[1])
    assert (large.name, large.family, of(large, "length"), of(large, "depth")) == ("Pawl cover large", None, 60.0, 10.0)
    by_hand = answering.answered(answering.answered(replace(job, family=None), "step:s2.length", 60.0), "step:s2.depth", 10.0)
    texts = [[h.program.text for h in prove_whole(plan(one)).holdings] for one in (replace(large, name=job.name), by_hand)]
    assert texts[0] == texts[1]
    with pytest.raises(FamilyError, match="no size called"):
        answering.variant_of(job, Variant(name="x", sizes={"wide": "3"}))


def test_all_variants_are_proved_each_with_its_program() -> None:
    shares: list[float] = []
    job = family_of_plates()
    found = proved_variants(job, shares.append)
    assert [(one.name, one.proved) for one in found] == [("small", True), ("large", True), ("too deep", False)]
    assert "deeper than the stock" in found[2].why
    assert shares == pytest.approx([0.0, 1 / 3, 2 / 3])
    assert [[name for name, _ in one.programs] for one in found] == [
        ["pawl-cover-small.nc"],
        ["pawl-cover-large.nc"],
        ["pawl-cover-too-deep.nc"],
    ]
    assert [one.programs[0][1].split(b"\n")[1][:5] for one in found[:2]] == [b"O0001", b"O0002"]
    assert b"NOT PROVED" in found[2].programs[0][1]
    assert same_files(found) == ""
    assert same_files((found[0], replace_name(found[0]))) == "pawl-cover-small.nc"
    broken = replace(job, family=Family(sizes=sizes(d1="1", deep="2"), variants=(Variant(name="x", sizes={"d1": "1/0"}),)))
    (wrong,) = proved_variants(broken)
    assert not wrong.proved
    assert wrong.why.startswith("d1: ")


def replace_name(one):
    return type(one)(name="other", words=one.words, proved=True, programs=one.programs)


def test_a_table_comes_and_goes() -> None:
    job = family_of_plates()
    assert job.family is not None
    text = variants_csv(job)
    assert text.splitlines()[0] == "variant,d1,deep"
    assert variants_of_csv(job, text) == job.family.variants
    semicolons = "\ufeffvariant;deep;d1\nA;2,5;\n\nB;;d1"
    with pytest.raises(FamilyError, match="Line 4, d1"):
        variants_of_csv(job, semicolons)
    assert variants_of_csv(job, semicolons.rpartition("\n")[0]) == (Variant(name="A", sizes={"deep": "2,5"}),)


@pytest.mark.parametrize(
    ("table", "why"),
    [
        ("", "nothing in it"),
        ("variant,wide\nA,3", "no size called “wide”"),
        ("variant,d1,d1\nA,3,4", "two columns"),
        ("variant,d1\n,3", "Line 2: the variant has no name"),
        ("variant,d1\nA,3,4", "more cells"),
        ("variant,d1\nA,3\nA,4", "Line 3: there is a variant A already"),
        ("variant,d1\nA,three", "Line 2, d1"),
        ("variant,d1\n" + "A" * 61 + ",3", "too long a name"),
        ("variant,d1\n" + "\n".join(f"v{k},3" for k in range(501)), "500 is the most"),
    ],
)
def test_a_bad_table_says_where(table: str, why: str) -> None:
    with pytest.raises(FamilyError, match=why):
        variants_of_csv(family_of_plates(), table)


@given(st.text(max_size=120))
@settings(max_examples=many(200))
def test_rubbish_is_no_table_and_ends_nothing(text: str) -> None:
    try:
        variants_of_csv(FAMILY, text)
    except FamilyError as error:
        assert str(error)


FAMILY = family_of_plates()


def test_a_family_is_kept_in_the_file_of_its_job() -> None:
    job = family_of_plates()
    assert read_job_text(job_text(job)) == job
    broken = replace(job, family=Family(sizes=sizes(d1="d2")))
    with pytest.raises(JobFileError, match="d1"):
        read_job_text(job_text(broken))


@pytest.mark.parametrize(
    "key", ["job.name", "job.version", "stock.typed", "x", "outline:o1#g.x", "step:s9.x", "tool:end-16.kind"]
)
def test_what_a_file_puts_beside_the_answers_is_none_of_them(key: str) -> None:
    """Keys out of a file that no answer has: nothing follows, and nothing ends."""
    job = replace(new_job(), family=Family(sizes=sizes(d1="3"), uses={key: "d1"}))
    read = read_job_text(job_text(job))
    assert answering.family_given(read, Family(sizes=sizes(d1="4"), uses={key: "d1"})).family.uses == {}
    if key != "x" and "#" not in key:
        assert answering.named_text(read, key) == ""


def test_the_command_line_proves_and_writes_all_of_them(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path, out = tmp_path / "cover.bastler", tmp_path / "programs"
    out.mkdir()
    write_job(family_of_plates(), path)
    assert main(["family", str(path), "-o", str(out)]) == 1
    lines = capsys.readouterr().out.splitlines()
    assert lines[0].startswith("small: Proved")
    assert "deeper" in lines[2]
    assert sorted(p.name for p in out.iterdir()) == ["pawl-cover-large.nc", "pawl-cover-small.nc"]
    table = tmp_path / "t.csv"
    table.write_text("variant;d1\nA;40\nB;50\n")
    assert main(["family", str(path), "--variants", str(table)]) == 0
    assert [line.partition(":")[0] for line in capsys.readouterr().out.splitlines()] == ["A", "B"]
    table.write_text("variant;d9\nA;40\n")
    assert main(["family", str(path), "--variants", str(table)]) == 2
    assert "d9" in capsys.readouterr().err
    write_job(new_job(), path)
    assert main(["family", str(path)]) == 2
