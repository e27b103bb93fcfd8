"""Other languages: nothing is left untranslated, values are all put in, numbers have their signs, and a program is the same."""

from __future__ import annotations

import ast
import functools
import hashlib
import io
import os
import re
import string
import subprocess
import sys
from collections.abc import Iterator, Sequence
from typing import Any

import pytest
from babel.messages.catalog import Message
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po
from msgspec.structs import replace

from bastler import explained, language, manual
from bastler.ask import questions_of
from bastler.cutting.materials import MATERIALS
from bastler.job import new_job, plan
from bastler.job.chuck import ChuckHolding
from bastler.job.samples import sample, sample_names
from bastler.language import as_inside, decimal, known, many, speak, spoken, tr, tr_as, tr_many
from bastler.machines.card import said_of_machine
from bastler.machines.cards import CARDS
from bastler.steps import STEPS
from bastler.steps.base import STAGES
from bastler.steps.place import on_part
from bastler.steps.turn.groove_shape import distances
from bastler.tools.naming import said_name
from bastler.units import ExpressionError, Kind, evaluate, number_text, with_unit
from conftest import BASE
from gathering import HERE, Text, parsed, texts

PERCENT = re.compile(r"%(?:\(\w+\))?[srd]\b")
"""A place of a value in what a library says."""
OTHERS = [name for name in language.LANGUAGES if name != language.ENGLISH]


@pytest.fixture
def german() -> Iterator[None]:
    speak("de")
    yield
    speak("en")


@functools.cache
def translated(name: str) -> dict[tuple[str, str], Message]:
    with (HERE / f"{name}.po").open("rb") as file:
        return {(m.context or "", m.id if isinstance(m.id, str) else m.id[0]): m for m in read_po(file, locale=name) if m.id}


def values_in(text: str) -> set[str]:
    return {name for _, name, _, _ in string.Formatter().parse(text) if name is not None}


def forms(text: str | Sequence[str] | None) -> tuple[str, ...]:
    return (text or "",) if text is None or isinstance(text, str) else tuple(text)


@pytest.mark.parametrize("name", OTHERS)
def test_all_texts_of_the_source_are_in_the_catalogue_and_nothing_else(name: str) -> None:
    """`make words` brings it up to date."""
    found, known_ = texts(), translated(name)
    assert set(found) - set(known_) == set()
    assert set(known_) - set(found) == set()


@pytest.mark.parametrize("name", OTHERS)
def test_nothing_is_left_untranslated_and_every_value_has_its_place(name: str) -> None:
    for key, message in translated(name).items():
        for one, said in zip(forms(message.id), forms(message.string), strict=True):
            assert said.strip(), key
            assert values_in(said) <= values_in(one), f"{key}: {said}"
            assert (one[:1] == " ") == (said[:1] == " "), f"{key}: {said!r} joins on otherwise"
            assert one.endswith(" ") == said.endswith(" "), f"{key}: {said!r} joins on otherwise"
            if one.endswith((".", ":", "…")):
                assert said.endswith((one[-1], "?", "!", ".", "“")), f"{key}: {said}"


@pytest.mark.parametrize("name", OTHERS)
def test_what_is_left_out_of_a_sentence_is_left_out_on_purpose(name: str) -> None:
    """A number that goes missing in another language is a number that nobody is told."""
    for key, message in translated(name).items():
        for one, said in zip(forms(message.id), forms(message.string), strict=True):
            assert values_in(one) == values_in(said), f"{key}: {said}"
            assert sorted(PERCENT.findall(one)) == sorted(PERCENT.findall(said)), f"{key}: {said}"


@pytest.mark.parametrize("name", OTHERS)
def test_what_the_program_reads_is_made_of_the_catalogue(name: str) -> None:
    made = io.BytesIO()
    with (HERE / f"{name}.po").open("rb") as file:
        write_mo(made, read_po(file, locale=name))
    assert made.getvalue() == (HERE / f"{name}.mo").read_bytes()


def test_what_is_gathered() -> None:
    found = texts()
    assert found["", "{count} tool"] == Text("{count} tool", "{count} tools", "", found["", "{count} tool"].where)
    assert ("serial", "Line") in found
    assert ("", "Rectangular pocket") in found, "of a registry"
    assert ("", "How deep") in found, "of a question"
    assert not [text for _, text in found if re.search(r"<\w|\w:\w+:|^#[0-9A-F]{6}", text)], "markup and colours are no texts"


@pytest.mark.parametrize("name", OTHERS)
def test_every_question_is_explained_in_every_language(name: str) -> None:
    assert set(explained.texts(name)) == set(explained.texts("en"))
    for key, text in explained.texts(name).items():
        assert text != explained.texts("en")[key], key
        assert 60 <= len(text) <= 420, f"{key}: {len(text)} letters"


@pytest.mark.parametrize("name", OTHERS)
def test_the_manual_has_the_same_chapters_pictures_and_points(name: str) -> None:
    for one, other in zip(manual.chapters("en"), manual.chapters(name), strict=True):
        for marks in (r"^#+ ", r"^\d+\. ", r"^- ", r"\]\([\w-]+\.png\)"):
            assert len(re.findall(marks, one, re.MULTILINE)) == len(re.findall(marks, other, re.MULTILINE)), other[:40]


# -- how it is said -------------------------------------------------------------------------------------------------


def test_english_is_what_stands_in_the_source() -> None:
    assert spoken() == "en"
    assert (
        tr("The {what} runs into the stock, {amount}.", what="holder", amount="2 mm") == "The holder runs into the stock, 2 mm."
    )
    assert tr("no {such} braces") == "no {such} braces"
    assert (many(1, "tool"), many(3, "tool")) == ("1 tool", "3 tools")
    assert decimal("1.5") == "1.5"
    assert as_inside("New Part") == "new part"


def test_german_has_its_words_its_plurals_and_its_comma(german: None) -> None:
    assert tr("Nothing is clamped.") == "Nichts ist gespannt."
    assert (many(1, "tool"), many(3, "tool"), many(0, "tool")) == ("1 Werkzeug", "3 Werkzeuge", "0 Werkzeuge")
    assert tr_many(2, "{count} hole of {d:g}", "{count} holes of {d:g}", d=1.5) == "2 holes of 1,5", "not translated, yet said"
    assert tr("Has to be more than {above:g}.", above=0.5) == "Muss mehr als 0,5 sein."
    assert tr_as("serial", "Line") != tr("Line")
    assert as_inside("Neue Kontur") == "Neue Kontur", "its nouns are large"
    assert number_text(12.5, Kind.LENGTH, "mm") == "12,5"
    assert with_unit(0.25, Kind.LENGTH, "inch") == "0,25 in"
    assert tr("{name} alone", name="1.25 UNC") == "1.25 UNC alone", "what is a text already stays as it is"


@pytest.mark.parametrize(
    ("wanted", "meant"),
    [
        ("de", "de"),
        ("de_DE.UTF-8", "de"),
        ("de-AT", "de"),
        ("en_GB", "en"),
        ("C", "en"),
        ("", "en"),
        ("tlh_KL", "en"),
        ("DE", "de"),
    ],
)
def test_the_language_that_a_shell_means(wanted: str, meant: str) -> None:
    assert known(wanted) == meant


def test_a_language_that_is_none_of_ours_is_refused() -> None:
    with pytest.raises(KeyError):
        speak("tlh")
    assert spoken() == "en"


def test_questions_and_titles_follow_the_language(german: None) -> None:
    assert next(q for q in questions_of(ChuckHolding) if q.name == "stick_out").says == "Ragt aus den Backen"
    step = STEPS["rectangular-pocket"].cls(id="s1")
    assert (step.title, step.plain_title) == ("Rechtecktasche", "Rectangular pocket")
    speak("en")
    assert next(q for q in questions_of(ChuckHolding) if q.name == "stick_out").says == "Sticks out of the jaws"
    assert step.title == "Rectangular pocket"


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("machine", ["mill-600", "lathe-200"])
def test_new_jobs_plan_in_german_without_english(unit: str, machine: str, german: None) -> None:
    """Summaries, troubles and what is said beside the questions: all said by `tr`, none of it as in the source."""
    job = new_job(unit, machine)  # type: ignore[arg-type]
    english = {text for (_, text), message in translated("de").items() if message.string != text and len(text) > 12}
    for done in plan(job).steps:
        said = [str(done.summary), *(t.text for t in done.troubles)]
        assert not english & set(said)


@pytest.mark.parametrize("name", sample_names())
def test_every_stage_is_called_as_declared(name: str) -> None:
    called = {stage.name for done in plan(sample(name)).steps for stage in done.stages}
    assert called <= set(STAGES)


def test_names_stand_in_the_quotation_marks_of_the_language() -> None:
    """Which `tr` puts round them."""
    found = []
    for name, tree in parsed().items():
        said = {id(part) for node in ast.walk(tree) if isinstance(node, ast.Call) for arg in node.args for part in ast.walk(arg)}
        for node in ast.walk(tree):
            if isinstance(node, ast.JoinedStr) and id(node) not in said:
                found += [f"{name}:{node.lineno}" for part in node.values if "“" in str(getattr(part, "value", ""))]
    assert found == []


@pytest.mark.parametrize("where", ["side", "round"])
def test_a_name_keeps_its_letters_where_axes_are_called_otherwise(where: Any) -> None:
    assert "“rim X”" in on_part("“rim X”, X 12 deep", where)
    assert "„rim X“" in on_part("„rim X“, X 12 tief", where)
    assert "Z 12" in on_part("„rim X“, X 12 tief", where)


@pytest.mark.parametrize("unit", ["mm", "inch"])
@pytest.mark.parametrize("machine", ["mill-600", "lathe-200", "turn-mill-250"])
def test_what_the_tools_that_come_along_are_called(unit: str, machine: str, german: None) -> None:
    """All of them, word for word; the same name for the same tool in a job of last year."""
    for tool in new_job(unit, machine).tools:  # type: ignore[arg-type]
        assert tool.called != tool.name
        assert not re.search(r"[a-z]+ (mill|drill)|hand|side|outside|pitch|tip|Tap|flutes", tool.called), tool.called
        assert re.findall(r"\d", tool.called) == re.findall(r"\d", tool.name), "sizes stay"


@pytest.mark.parametrize("name", ["Tap for the yard", "Übermaß 4", "old drill 5", "Drill, ground by hand", "Ø12", "Tapered 4"])
def test_a_name_that_the_shop_gave_is_nobody_elses(name: str, german: None) -> None:
    assert said_name(name) == name


def test_materials_that_come_along_are_said_and_own_ones_stay(german: None) -> None:
    assert all(m.called != m.name for m in MATERIALS.values())
    own = replace(MATERIALS["steel-mild"], name="Steel of the yard")
    assert own.called == "Steel of the yard"
    assert all(said_of_machine(card.says) != card.says for card in CARDS.values())
    assert said_of_machine("the old one") == "the old one"


@pytest.mark.parametrize("name", sample_names())
def test_every_sample_says_what_it_is(name: str, german: None) -> None:
    assert tr_as("sample", sample(name).note) != sample(name).note


# -- numbers -----------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("speaks", ["en", "de"])
@pytest.mark.parametrize("typed", ["11,75", "11.75", "47/4", "11 3/4", "5,75+6", "11,75mm"])
def test_a_comma_or_a_point_in_any_language(typed: str, speaks: str) -> None:
    speak(speaks)
    try:
        assert evaluate(typed, Kind.LENGTH, "mm") == pytest.approx(11.75)
    finally:
        speak("en")


def test_distances_with_a_comma_in_them_stand_apart_by_semicolons() -> None:
    assert distances("8; 12,5; 3*4") == [8.0, 12.5, 12.0]
    assert distances("8, 12.5") == [8.0, 12.5]
    with pytest.raises(ExpressionError):
        distances("8; 12 5")


# -- a program is one whoever reads it -----------------------------------------------------------------------------------


PROGRAMS = """
from bastler.job.samples import sample, sample_names
from bastler.job import plan
from bastler.post import post
import hashlib
for name in sample_names():
    texts = "".join(post(group).text for group in plan(sample(name)).programs)
    print(name, hashlib.sha256(texts.encode()).hexdigest())
"""


@pytest.mark.parametrize("name", OTHERS)
def test_programs_are_the_same_in_every_language(name: str) -> None:
    """Two shops that speak otherwise send the same bytes, and what was sent is known again. In a process of its own: this one has
    the programs already, in English."""
    env = {**os.environ, language.VARIABLE: name}
    made = subprocess.run([sys.executable, "-c", PROGRAMS], env=env, capture_output=True, text=True, check=True).stdout
    own = {n: hashlib.sha256((BASE / f"{n}.nc").read_bytes()).hexdigest() for n in sample_names()}
    assert made.splitlines() == [f"{n} {digest}" for n, digest in own.items()]


OWN_WORDS = {
    "app/hand_desk.py": "a name of ours",
    "app/print_pages.py": "endings of files",
    "app/outline_row.py": "a name of ours",
    "app/part_pictures.py": "the name of a picture in the cache",
    "app/report.py": "a report goes to those who make the program",
    "app/route.py": "what is carried from one place of the route to another",
    "cutting/thread_names.py": "how a thread of one's own is typed",
    "installing.py": "what a shell is told, and what roff is",
    "link/messages.py": "the published schema",
    "live/leaving.py": "stands in the program",
    "nc/cycles.py": "a name of ours",
    "standin/hidden.py": "names of ours",
    "steps/turn/tailstock.py": "a name of ours",
}
"""Where words between numbers are no sentence for people, and what they are."""
PROGRAM = ("post", "language")


def glued(tree: ast.Module) -> Iterator[tuple[int, str]]:
    """Each text with small English words between its values that is not said, by its line."""
    said: set[ast.AST] = set()
    for node in ast.walk(tree):
        says = isinstance(node, ast.Call) and getattr(node.func, "id", getattr(node.func, "attr", "")) in (
            "tr",
            "dress",
            "setStyleSheet",
            "info",
            "warning",
            "error",
            "exception",
        )
        if says or isinstance(node, ast.Raise):
            said.update(ast.walk(node))
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr) and node not in said:
            words = "\0".join(str(v.value) if isinstance(v, ast.Constant) else "" for v in node.values)
            if re.search(r"(?<![<\w])[a-z]{2,}[,.]? |[ ,][a-z]{2,}(?![\w=:])", words) and "{" not in words and "<" not in words:
                yield node.lineno, words.replace("\0", "…")


def test_no_sentence_is_glued_of_words_in_one_language() -> None:
    found, there = [], set()
    for name, tree in parsed().items():
        if name.split("/")[0] in PROGRAM or name == "app/shots.py":
            continue
        for line, words in glued(tree):
            there.add(name)
            if name not in OWN_WORDS:
                found.append(f"{name}:{line}: {words}")
    assert found == []
    assert set(OWN_WORDS) - there == set()


SHOWN = {
    "QPushButton", "QLabel", "Label", "QCheckBox", "QAction", "setText", "setToolTip", "setPlaceholderText", "setWindowTitle",
    "setAccessibleName", "setAccessibleDescription", "addAction", "setStatusTip",
}  # fmt: skip
"""What puts its first words before somebody."""
THE_SAME = {"Bastler", "30+5*sin(z*9)"}


def bare(source: ast.AST) -> Iterator[tuple[int, str]]:
    """Words that the window shows as they stand in the source: first arguments of what shows some, and of what makes a button of
    a text."""
    made = [one for one in ast.walk(source) if isinstance(one, ast.FunctionDef) and one.name == "_button"]
    shows = SHOWN | {one.name for one in made if next(arg.arg for arg in one.args.args if arg.arg != "self") in ("text", "words")}
    for call in ast.walk(source):
        if not isinstance(call, ast.Call) or not call.args:
            continue
        name = call.func.attr if isinstance(call.func, ast.Attribute) else getattr(call.func, "id", "")
        first = call.args[0]
        parts = first.values if isinstance(first, ast.JoinedStr) else [first] if isinstance(first, ast.Constant) else []
        if name in shows:
            yield call.lineno, "".join(str(part.value) if isinstance(part, ast.Constant) else "·" for part in parts)


def test_no_words_are_shown_as_they_stand_in_the_source() -> None:
    """What is shown only once there is something in it is easily left out of a walk: *remove* beside a named size was."""
    found = [
        (name, line, text)
        for name, source in parsed().items()
        for line, text in bare(source)
        if name.startswith("app/") and re.search(r"[A-Za-z]{3,}", re.sub(r"<[^>]*>|&\w+;", "", text)) and text not in THE_SAME
    ]
    assert found == []
    assert list(
        bare(ast.parse("def _button(text): pass\nself._button('remove', tip)\nLabel(f'{name} is')\nLabel(tr('is'))"))
    ) == [
        (2, "remove"),
        (3, "· is"),
        (4, ""),
    ]
