"""Lists that are typed line by line: read as they are written, in either language, with sizes of the family named in them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import msgspec
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler import language
from bastler.job import Job, answering, edits, new_job, plan, read_job_text
from bastler.job.family import Family, FamilyError, NamedSize, Variant, filled_in, names_in, renamed, used_by
from bastler.job.files import job_text
from bastler.job.lists import LISTS, Listed, ListError
from bastler.job.parts import Place
from bastler.job.samples import sample
from bastler.proof import prove_whole
from bastler.steps import Contour, FreeMove, OwnLines
from bastler.steps.general.between import Blank
from bastler.tools import Experience
from bastler.units import Unit
from conftest import many

replace = msgspec.structs.replace


@pytest.fixture(params=["en", "de"])
def spoken(request: pytest.FixtureRequest) -> Iterator[str]:
    language.speak(request.param)
    yield request.param
    language.speak("en")


def with_sizes(job: Job, **said: str) -> Job:
    return answering.family_given(
        job, replace(job.family or Family(), sizes=tuple(NamedSize(name=n, says=t) for n, t in said.items()))
    )


def points_of(job: Job) -> tuple[Job, str]:
    """The job with a pattern of points, and the address of those."""
    job, ident = edits.pattern_added(job, "points")
    return job, f"pattern:{ident}.points"


def given_lines(job: Job, address: str, text: str) -> Job:
    """The list as if it were typed."""
    listed = answering.listed(job, address)
    assert listed is not None
    return answering.answered(job, address, *listed.read(text))


def entries(job: Job, address: str) -> Any:
    return getattr(*answering.at(job, address))


CASES: dict[str, tuple[str, str, Any, str]] = {
    # the manner of list: what is typed in English and in German, what it is with d1 = 30, what it is with d1 = 40
    "points": ("d1/2, -d1\n10, 20", "d1/2; -d1\n10; 20", ((15.0, -30.0), (10.0, 20.0)), "0.y"),
    "moves": (
        "rapid d1+10, 5\nfeed d1, -2.5, d1/300",
        "Eilgang d1+10; 5\nVorschub d1; -2,5; d1/300",
        (FreeMove("rapid", 40.0, 5.0), FreeMove("feed", 30.0, -2.5, 0.1)),
        "1.f",
    ),
    "contours": (
        "circle d1, 20, d1/3\nhollow rectangle 1, 2, d1, 8, Rd1/10, Ad1, d1/15 below",
        "Kreis d1; 20; d1/3\nHöhlung Rechteck 1; 2; d1; 8; Rd1/10; Ad1; d1/15 tiefer",
        (
            Contour(form="circle", x=30.0, y=20.0, diameter=10.0),
            Contour(
                role="hollow", form="rectangle", x=1.0, y=2.0, length=30.0, width=8.0, corner_radius=3.0, angle=30.0, below=2.0
            ),
        ),
        "1.angle",
    ),
    "places": (
        "G55, 4*d1, 0\nG54.1 P3, 0, 4*d1, d1/10",
        "G55; 4*d1; 0\nG54.1 P3; 0; 4*d1; d1/10",
        (Place("G55", 120.0, 0.0), Place("G54.1 P3", 0.0, 120.0, 3.0)),
        "1.z",
    ),
    "experience": ("alu-6061, d1*7, 0.05, the shop", "alu-6061; d1*7; 0,05; the shop", None, "0.vc"),
    "blanks": (
        "depth = -d1/2\nword = BASE, LEFT",
        "depth = -d1/2\nword = BASE, LEFT",
        (Blank("depth", "-15"), Blank("word", "BASE, LEFT")),
        "0.value",
    ),
}


def list_of(kind: str, unit: Unit = "mm") -> tuple[Job, str]:
    """A job with d1 = 30 in which there is a list of that kind, and its address."""
    job = new_job(unit)
    if kind == "moves":
        job = sample("drum-spindle")
        job, ident = edits.step_added(job, "free-moves", "")
        address = f"step:{ident}.moves"
    elif kind == "points":
        job, address = points_of(job)
    elif kind == "places":
        address = f"holding:{job.holdings[0].id}.places"
    elif kind == "experience":
        address = f"tool:{job.tools[0].id}.experience"
    elif kind == "blanks":
        job, ident = edits.step_added(job, "own-lines", "")
        job = answering.answered(job, f"step:{ident}.lines", ("G1 Z{depth}", "({word})"))
        address = f"step:{ident}.blanks"
    else:
        job, ident = edits.step_added(job, "free-pocket", "")
        address = f"step:{ident}.islands"
    return with_sizes(job, d1="30"), address


@pytest.mark.parametrize("kind", LISTS)
def test_numbers_of_a_list_follow_the_sizes_that_they_name(spoken: str, kind: str) -> None:
    english, german, wanted, end = CASES[kind]
    job, address = list_of(kind)
    if kind == "experience":
        material = next(iter(job.all_materials()))
        english, german = (text.replace("alu-6061", material) for text in (english, german))
        wanted = (Experience(material, 210.0, 0.05, "the shop"),)
    typed = german if spoken == "de" else english
    job = given_lines(job, address, typed)
    assert entries(job, address) == wanted
    assert answering.lines_of(job, address) == typed
    text = answering.named_text(job, f"{address}.{end}")
    assert "d1" in text
    assert f"{address}.{end}" in used_by(job, "d1")
    wider = with_sizes(job, d1="40")
    assert entries(wider, address) != entries(job, address)
    assert answering.lines_of(wider, address) == typed
    again = given_lines(with_sizes(new_typed(wider, address), d1="40"), address, typed)
    assert entries(again, address) == entries(wider, address)
    assert with_sizes(wider, d1="30") == job
    assert read_job_text(job_text(job)) == job
    named = with_sizes(replace(job, family=renamed(job.family or Family(), "d1", "bore")), bore="40")
    assert entries(named, address) == entries(wider, address)
    variant = answering.variant_of(job, Variant(name="wide", sizes={"d1": "40"}))
    assert entries(variant, address) == entries(wider, address)


def new_typed(job: Job, address: str) -> Job:
    """The list as numbers alone: nothing in it follows any more."""
    found = answering.answered(job, address, entries(job, address), {})
    assert not any(key.startswith(address) for key in (found.family or Family()).uses)
    return found


@pytest.mark.parametrize("kind", [kind for kind in LISTS if kind != "experience"])
def test_a_list_typed_in_one_language_is_read_and_follows_in_the_other(kind: str) -> None:
    english, german, wanted, _ = CASES[kind]
    job, address = list_of(kind)
    try:
        language.speak("de")
        job = read_job_text(job_text(given_lines(job, address, german)))
        language.speak("en")
        assert answering.lines_of(job, address) == english
        assert entries(with_sizes(with_sizes(job, d1="40"), d1="30"), address) == wanted
        language.speak("de")
        assert answering.lines_of(job, address) == german
    finally:
        language.speak("en")


def test_distances_of_grooves_follow_too(spoken: str) -> None:
    job, ident = edits.step_added(sample("drum-spindle"), "groove", "")
    job, address = with_sizes(job, d1="8"), f"step:{ident}.pitches"
    job = answering.answered(job, address, filled_in("d1, 12.5, d1/2", {"d1": 8.0}), "d1, 12.5, d1/2")
    assert entries(job, address) == "8, 12.5, 8/2"
    assert "pitches" not in getattr(job.step(ident), "typed", {})
    assert answering.named_text(job, address) == "d1, 12.5, d1/2"
    wider = with_sizes(job, d1="9")
    assert entries(wider, address) == "9, 12.5, 9/2"
    assert answering.named_text(answering.answered(wider, address, "9, 12.5"), address) == ""


def test_a_list_that_would_become_none_changes_nothing_and_says_where() -> None:
    for kind, typed, size, why in (
        ("contours", "circle 1, 2, 3\ncircle 1, 2, d1", "0", "Islands 2, d1: Has to be more than 0"),
        ("contours", "circle 1, 2, d1", "-3", "Islands 1"),
        ("moves", "feed 10, 5, d1/300", "0", "Moves 1"),
        ("experience", "ALU, d1", "-1", "What works 1"),
        ("points", "1e3*d1, 5", "1000", "Positions 1"),
    ):
        job, address = list_of(kind)
        typed = typed.replace("ALU", next(iter(job.all_materials()))).replace("1e3", "1000")
        job = given_lines(job, address, typed)
        with pytest.raises(FamilyError, match=why):
            with_sizes(job, d1=size)


def test_a_number_that_has_become_another_one_follows_no_more() -> None:
    job, address = list_of("points")
    job = given_lines(job, address, "d1, 5\n7, d1")
    moved = answering.answered(job, address, ((31.0, 5.0), (7.0, 30.0)))
    assert answering.lines_of(moved, address) == "31, 5\n7, d1"
    assert entries(with_sizes(moved, d1="40"), address) == ((31.0, 5.0), (7.0, 40.0))
    fewer = answering.answered(job, address, ((30.0, 5.0),))
    assert entries(with_sizes(fewer, d1="40"), address) == ((40.0, 5.0),)
    assert list((with_sizes(fewer, d1="40").family or Family()).uses) == [f"{address}.0.x"]


def test_a_copy_of_a_step_or_of_a_pattern_names_the_same_sizes() -> None:
    job, address = list_of("contours")
    job = given_lines(job, address, "circle d1, 20, 5")
    copied, ident = edits.step_copied(job, address.partition(":")[2].partition(".")[0])
    assert entries(with_sizes(copied, d1="40"), f"step:{ident}.islands")[0].x == 40.0
    job, ident = edits.step_added(with_sizes(new_job(), d1="30"), "drilling", "")
    job = edits.pattern_for(job, ident, "points")
    address = f"pattern:{getattr(job.step(ident), 'pattern', '')}.points"
    job = edits.pattern_copied(given_lines(job, address, "d1, 20"), ident)
    own = f"pattern:{getattr(job.step(ident), 'pattern', '')}.points"
    assert own != address
    assert entries(with_sizes(job, d1="40"), own) == ((40.0, 20.0),)


def test_a_drilled_variant_is_the_same_program_as_one_typed_by_hand() -> None:
    job, ident = edits.step_added(with_sizes(new_job(), pitch="40"), "drilling", "")
    job = edits.pattern_for(job, ident, "points")
    address = f"pattern:{getattr(job.step(ident), 'pattern', '')}.points"
    job = given_lines(job, address, "pitch, 20\n2*pitch, 20")
    wide = answering.variant_of(job, Variant(name="wide", sizes={"pitch": "45"}))
    by_hand = given_lines(replace(job, family=None), address, "45, 20\n90, 20")
    first, second = ([h.program.text for h in prove_whole(plan(one)).holdings] for one in (replace(wide, name=job.name), by_hand))
    assert first == second
    assert "X45" in first[0]


@pytest.mark.parametrize(
    ("typed", "wanted"),
    [
        ("10 -20", (10.0, -20.0)),
        ("10, -20", (10.0, -20.0)),
        ("10 - 2, 5", (8.0, 5.0)),
        ("1 1/8, 1/2", (1.125, 0.5)),
        ("1 1/8 2", (1.125, 2.0)),
        ("1/8 2", (0.125, 2.0)),
        ("d1 d1", (30.0, 30.0)),
        ("d1 + 2, 5", (32.0, 5.0)),
        ("10 mm, 1in", (10.0, 25.4)),
    ],
)
def test_blanks_part_two_numbers_but_not_what_is_one(typed: str, wanted: tuple[float, float]) -> None:
    job, address = list_of("points")
    assert entries(given_lines(job, address, typed), address) == (wanted,)


@pytest.mark.parametrize(
    ("kind", "typed"),
    [
        ("points", "1 1/8"), ("points", "10 -20, 5"), ("points", "d1.5, 2, 3"), ("points", "1 d1/2, 3"), ("points", "d1 1/2, 3"),
        ("points", "dd, 3"), ("points", "1e99, 2"), ("points", "999999, 2"), ("points", ""), ("points", ",;"),
        ("moves", "feed 40 -12 3 4"), ("moves", "feed 40, 5, 0"), ("moves", "feed 40, 5, -d1"), ("moves", "d1, 5"),
        ("contours", "circle 1, 2, -d1"), ("contours", "rectangle 1, 2, 3, 4, R-1"),
        ("contours", "circle 1, 2, 3, -1 below"), ("contours", "rectangle 1, 2, 3, R4"), ("contours", "outline d1"),
        ("places", "G53, 1, 2"), ("places", "G54.1, 1, 2"), ("places", "d1, 1, 2"), ("places", "G55 P1, 1, 2"), ("places", "G55"),
        ("experience", "wood, 3"), ("blanks", "depth"),
    ],
)  # fmt: skip
def test_what_can_be_read_in_two_ways_or_in_none_is_refused(kind: str, typed: str) -> None:
    job, address = list_of(kind)
    with pytest.raises(ListError):
        given_lines(job, address, typed)


@pytest.mark.parametrize("language_of", ["en", "de"])
def test_a_name_with_a_decimal_behind_it_is_no_number(language_of: str) -> None:
    """In German d1,5 was a half more than thirty: 30,5."""
    assert filled_in("d1,5", {"d1": 30.0}) == "d1,5"
    assert filled_in("d1.5", {"d1": 30.0}) == "d1.5"
    assert names_in("d1,5") == []
    assert filled_in("1 d1/2", {"d1": 30.0}) == "1 (30)/2"
    assert filled_in("d1 1/2", {"d1": 30.0}) == "(30) 1/2"
    language.speak(language_of)
    try:
        job, address = list_of("contours")
        with pytest.raises(ListError):
            given_lines(job, address, "circle 70; d1,5; 12")
    finally:
        language.speak("en")


def test_r_and_a_before_a_number_are_no_names() -> None:
    job, address = list_of("contours")
    job = with_sizes(job, d1="3", R2="5", A1="7")
    plain = given_lines(job, address, "rectangle 1, 2, 30, 20, Rd1, A45")
    assert [entries(plain, address)[0].corner_radius, entries(plain, address)[0].angle] == [3.0, 45.0]
    with pytest.raises(ListError):  # is it a radius of 2, or the size that is called R2?
        given_lines(job, address, "rectangle 1, 2, 30, 20, R2")
    named = given_lines(job, address, "rectangle A1, 2, 30, 20, RR2")
    assert (entries(named, address)[0].x, entries(named, address)[0].corner_radius) == (7.0, 5.0)
    assert entries(given_lines(named, address, answering.lines_of(named, address)), address) == entries(named, address)


def test_a_tool_in_its_own_unit_follows_a_size_of_the_job() -> None:
    """30 mm are 1.1811 in, not 30 in."""
    job = with_sizes(new_job(), d1="12.7")
    tool = next(t for t in job.tools if hasattr(t, "diameter"))
    job = replace(job, tools=(replace(tool, unit="inch", diameter=0.25), *(t for t in job.tools if t is not tool)))
    address = f"tool:{tool.id}.diameter"
    struct, field = answering.at(job, address)
    job = answering.answered(job, address, answering._meant(job, struct, field, "d1/2"), "d1/2")
    assert entries(job, address) == pytest.approx(0.25)
    assert answering.named_text(job, address) == "d1/2"
    assert entries(with_sizes(job, d1="25.4"), address) == pytest.approx(0.5)


def test_a_number_of_a_blank_is_written_as_the_machine_wants_lengths() -> None:
    job, address = list_of("blanks")
    job = given_lines(with_sizes(job, d1="10"), address, "depth = -d1/3\nword = d1 BORE")
    step = job.step(address.partition(":")[2].partition(".")[0])
    assert isinstance(step, OwnLines)
    assert step.written == ("G1 Z-3.333", "(d1 BORE)")
    card = replace(job.card, dialect=replace(job.card.dialect, point=True))
    pointed = with_sizes(replace(job, cards=(card,)), d1="30")
    assert entries(pointed, address)[0] == Blank("depth", "-10.")


@pytest.mark.parametrize(
    "key", ["step:s9.islands.0.x", "step:s1.islands.99.x", "step:s1.islands.0.nothing", "step:s1.islands.0.form",
            "step:s1.islands.0.typed", "step:s1.depth.0.x", "pattern:p1.points.0.z", "job.name.0.x", "stock.size_x.0.x",
            "step:s1.islands.999999999999.x", "." * 500, "a.b" * 200],
)  # fmt: skip
def test_a_file_may_name_what_is_not_there(key: str) -> None:
    job, ident = edits.step_added(new_job(), "free-pocket", "")
    job, _ = points_of(answering.answered(job, f"step:{ident}.islands", (Contour(),)))
    job = replace(job, family=Family(sizes=(NamedSize(name="d1", says="3"),), uses={key: "d1"}))
    assert answering.named_text(job, key) == ""
    assert (with_sizes(job, d1="4").family or Family()).uses == {}


NUMBERS = st.floats(-900.0, 900.0).map(lambda v: round(v, 3) + 0.0)
ABOVE = st.floats(0.01, 900.0).map(lambda v: round(v, 3))
CONTOURS = st.builds(
    Contour,
    role=st.sampled_from(["island", "hollow"]),
    form=st.sampled_from(["circle", "rectangle"]),
    x=NUMBERS, y=NUMBERS, diameter=ABOVE, length=ABOVE, width=ABOVE,
    corner_radius=ABOVE | st.just(0.0), angle=st.integers(-180, 180).map(float), below=ABOVE | st.just(0.0),
)  # fmt: skip
MOVES = st.builds(FreeMove, st.sampled_from(["rapid", "feed"]), NUMBERS, NUMBERS, st.none() | ABOVE)
PLACES = st.builds(Place, st.sampled_from(["G55", "G59", "G54.1 P12"]), NUMBERS, NUMBERS, NUMBERS)


def same(one: Any, other: Any) -> bool:
    """Alike in all that is written."""
    if isinstance(one, Contour):
        own = {"circle": ("length", "width", "corner_radius", "angle"), "rectangle": ("diameter",)}[one.form]
        one, other = (replace(c, **dict.fromkeys(own, 1.0)) for c in (one, other))
    return bool(one == other)


@given(st.sampled_from(["points", "contours", "moves", "places"]), st.data(), st.sampled_from(["en", "de"]))
@settings(max_examples=many(300), deadline=None)
def test_what_is_written_is_read_again(kind: str, data: st.DataObject, spoken: str) -> None:
    strategy: Any = {"points": st.tuples(NUMBERS, NUMBERS), "contours": CONTOURS, "moves": MOVES, "places": PLACES}[kind]
    entries = tuple(data.draw(st.lists(strategy, min_size=1, max_size=5)))
    listed: Listed[Any] = LISTS[kind](JOB)
    language.speak(spoken)
    try:
        again, typed = listed.read(listed.written(JOB, entries, lambda end: ""))
    finally:
        language.speak("en")
    assert typed == {}
    assert len(again) == len(entries)
    for one, other in zip(entries, again, strict=True):
        assert same(one, other), (one, other)


@given(st.sampled_from(list(LISTS)), st.text(alphabet="d1R2A ,;.=-+*/()0123456789\ncirclehotwfxGP\t∠", max_size=60))
@settings(max_examples=many(400), deadline=None)
def test_rubbish_is_read_or_said(kind: str, text: str) -> None:
    try:
        LISTS[kind](JOB).read(text)
    except ListError as error:
        assert str(error)


JOB = with_sizes(new_job(), d1="30")
