"""The window in other languages: every word is said, nothing is cut off, a job goes on in another one at once."""

from __future__ import annotations

import re
import sys
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QAbstractButton, QDialog, QLabel, QLineEdit, QListWidget, QMenu, QScrollArea, QWidget

import marking
from bastler import language
from bastler.app.core import Core
from bastler.app.finding import KINDS
from bastler.app.labels import Elided
from bastler.app.lines_rows import LinesRow
from bastler.app.main import make_application
from bastler.app.main_window import MainWindow
from bastler.app.rows import NameRow, NumbersRow, PickRow
from bastler.job import answering, edits, write_job
from bastler.job.family import Family, NamedSize, Variant
from bastler.live.child import PROGRAM
from bastler.steps import Contour, FreeMove, FreePocket
from bastler.steps.general.between import Blank
from bastler.steps.turn.groove_shape import distances
from bastler.tools.naming import said_name
from conftest import ALL

from .conftest import Hands, QTest

MARKING = Path(marking.__file__)
NAMES = {
    "Bastler", "Esc", "Alt", "Ctrl", "Tab", "TiN", "TiCN", "TiAlN", "AlCrN", "min", "Nothing", "clamped",
}  # fmt: skip
"""What is called the same in every language; and what the stand-in says, a process that speaks what the shell does."""
DRAWN = {"bearing", "dxf", "oil", "window"}
"""Of the sample drawing: its file and its layers."""


PROGRAMS = {"marked": (sys.executable, str(MARKING))}
"""What computes in a language, where it is not what always does."""


@pytest.fixture(scope="session")
def cores(core: Core) -> Iterator[dict[str, Core]]:
    """The computation of each language, begun when it is first wanted."""
    made = {language.ENGLISH: core}
    yield made
    for name, one in made.items():
        if name != language.ENGLISH:
            one.close()


def opened(language_: str, cores: dict[str, Core], qtbot) -> Iterator[Hands]:
    """A window that speaks a language, with a computation that does."""
    make_application()
    before = language.spoken()
    if language_ == "marked":
        marking.speak_marked()
    else:
        language.speak(language_)
    if language_ not in cores:
        cores[language_] = Core(PROGRAMS.get(language_, PROGRAM))
    window = MainWindow(cores[language_])
    window.resize(1280, 800)
    window.show()
    QTest.qWaitForWindowExposed(window)
    window.activateWindow()
    yield Hands(window, qtbot)
    window.close()
    window.deleteLater()
    language.speak(before)
    QTest.qWait(10)


def added(hands: Hands, kind: str) -> str:
    """A step behind all others, selected; gives its id."""
    session = hands.window.session
    job, ident = edits.step_added(session.job, kind, session.job.steps[-1].id)
    session.edit(job, "Add a step")
    session.select(ident)
    return ident


@pytest.fixture
def marked(cores: dict[str, Core], qtbot) -> Iterator[Hands]:
    yield from opened("marked", cores, qtbot)


@pytest.fixture(params=["en", "de"])
def spoken(request, cores: dict[str, Core], qtbot) -> Iterator[Hands]:
    yield from opened(request.param, cores, qtbot)


CARDS = ("winch-base", "drum-spindle", "pawl-shaft", "pawl-plate")
"""Samples that have all kinds of cards between them."""


def every_place(hands: Hands, samples: Sequence[str] = CARDS) -> Iterator[str]:
    """The window at each place and panel, one after the other; of `samples` every card."""
    window = hands.window
    yield "start"
    for sample in samples:
        hands.opened(sample)
        for ident in window.session.cards():
            window.session.select(ident)
            hands.settle()
            QTest.qWait(60)
            yield f"bench, {sample}, {ident}"
    ways: dict[str, Callable[[], object]] = {
        "board": window.cards.open_board,
        "tools": lambda: window.cards.open_tools("step:s2.tool"),
        "explained": window.explain,
        "solid": lambda: window.view("solid"),
        "path": lambda: window.view("path"),
        "family": window.open_family,
        "finder": window.find_anything,
    }
    hands.opened("winch-base")
    window.session.select("s2")
    for name, go in ways.items():
        window.go_to("bench")
        window.questions.take_focus("step:s2.ap")
        go()
        hands.settle()
        QTest.qWait(120)
        yield name
    window.finder.leave()
    window.view("sheet")
    yield from more_places(hands)
    for place in ("program", "crib", "machine"):
        window.go_to(place)
        hands.settle()
        QTest.qWait(60)
        yield place
    for tab in ("materials", "machines"):
        window.go_to("crib")
        window.crib.show_tab(tab)
        hands.settle()
        yield f"crib, {tab}"
    window.go_to("machine")
    hands.settle()
    yield "no machine"
    hands.click(window.machine.start)
    hands.until(lambda: window.machine.link.there)
    hands.settle()
    for page in ("Set up", "Sizes", "Tools", "Restart"):
        window.machine.page(page)
        QTest.qWait(80)
        yield f"machine, {page}"
    window.open_choice("lesson:plate")
    hands.settle()
    yield "lesson"
    hands.opened("winch-base")
    window.run("window.gloves")
    window.session.select("s2")
    window.questions.take_focus("step:s2.depth")
    window.explain()
    hands.settle()
    QTest.qWait(120)
    yield "gloves"
    window.run("window.gloves")


def more_places(hands: Hands) -> Iterator[str]:
    """What has words of its own once there is something in it."""
    window, session = hands.window, hands.window.session
    sizes = (NamedSize(name="d1", says="30"), NamedSize(name="pitch", says="d1/3"))
    variants = (Variant(name="A"), Variant(name="B", sizes={"d1": "0"}))
    session.edit(answering.family_given(session.job, Family(sizes=sizes, variants=variants)), "Sizes")
    session.answer("step:s2.depth", 30.0, "d1")
    window.open_family()
    window.family.prove()
    hands.until(lambda: bool(window.family.found))
    QTest.qWait(120)
    yield "family with variants"
    window.family.closed.emit()
    window.find_anything()
    hands.type("t")
    QTest.qWait(120)
    yield "found"
    window.finder.leave()
    for name in ("program.edit", "program.find", "program.line"):
        window.run(name)
        hands.settle()
        QTest.qWait(80)
        yield name
    window.program.editor.setFocus()
    hands.type("(")
    QTest.qWait(200)
    yield "typed over"
    window.run("program.edit")
    window.run("window.keys")
    QTest.qWait(120)
    yield "keys"
    next(dialog for dialog in window.findChildren(QDialog) if dialog.isVisible()).close()
    QTest.qWait(20)
    hands.opened("pawl-plate")
    for ident in ("s2", "s4"):
        session.select(ident)
        hands.settle()
        window.run("outline.shape")
        hands.settle()
        yield f"outline, {ident}"
    window.run("outline.sample")
    hands.settle()
    QTest.qWait(200)
    yield "drawing"
    hands.press(Qt.Key.Key_Escape)
    hands.opened("winch-base")


def words_of(window: QWidget) -> Iterator[str]:
    """All words that a window shows, says to a screen reader or has in its menus."""
    for widget in window.findChildren(QWidget):
        if isinstance(widget, QMenu):
            yield from (action.text().partition("\t")[0] for action in widget.actions())
        if not widget.isVisible():
            continue
        if isinstance(widget, QLabel | QAbstractButton):
            yield widget.text()
        if isinstance(widget, QLineEdit):
            yield widget.placeholderText()
        if isinstance(widget, QListWidget):
            yield from (widget.item(k).text() for k in range(widget.count()))
        yield from (widget.toolTip(), widget.accessibleName())


def called(hands: Hands) -> set[str]:
    """Every word in the job and in the crib: what people have named speaks no language of ours."""
    found: set[str] = set()
    for job in (hands.window.session.job,):
        path = Path.home() / "named.bastler"
        nameless = (replace(tool, name="x") if said_name(tool.name) != tool.name else tool for tool in job.tools)
        write_job(replace(job, tools=tuple(nameless)), path)
        found |= set(re.findall(r"[^\W\d_]{2,}", path.read_text(encoding="utf-8")))
        cards = (word for card in job.all_cards().values() for word in (card.name, card.says))
        found |= {word for text in cards for word in re.findall(r"[^\W\d_]{2,}", text)}
        hard = " ".join(work.hardness for work in job.all_materials().values())
        found |= set(re.findall(r"[^\W\d_]{2,}", hard))
    return found


def test_every_word_is_said_in_the_language(marked: Hands, monkeypatch: pytest.MonkeyPatch) -> None:
    painted: set[str] = set()
    draws = QPainter.drawText

    def draw(painter: QPainter, *given: Any) -> Any:
        painted.update(text for text in given if isinstance(text, str))
        return draws(painter, *given)

    monkeypatch.setattr(QPainter, "drawText", draw)
    unsaid: dict[str, str] = {}
    own: set[str] = set(NAMES)
    for place in every_place(marked):
        own |= called(marked) if marked.window.session.has_job else set()
        here = own | (DRAWN if place == "drawing" else set())
        for text in (*words_of(marked.window), *painted):
            rest = re.sub(r"<[^>]*>|&\w+;|/[\w/.-]+|[a-z]*[²³]", " ", marking.unsaid(text))
            words = [word for word in re.findall(r"[^\W\d_]{3,}", rest) if not word.isupper()]
            if words := [word for word in words if not any(name.startswith(word) for name in here)]:
                unsaid.setdefault(f"{text[:90]!r}: {words[:4]}", place)
        painted.clear()
    assert unsaid == {}


def cut_off(window: MainWindow) -> set[str]:
    """What does not fit where it stands, in words."""
    found: set[str] = set()
    for widget in window.findChildren(QWidget):
        if not isinstance(widget, QLabel | QAbstractButton) or isinstance(widget, Elided) or not widget.isVisible():
            continue
        if not widget.text():
            continue
        if isinstance(widget, QLabel) and widget.wordWrap():
            need = widget.heightForWidth(widget.width())
            if widget.height() < need:
                found.add(f"{widget.text()!r}: {widget.height()} high of {need}")
            continue
        need = widget.minimumSizeHint().width()
        if widget.width() < need:
            found.add(f"{type(widget).__name__} {widget.text()!r}: {widget.width()} of {need}")
    for area in window.findChildren(QScrollArea):
        if area.isVisible() and area.horizontalScrollBarPolicy() == Qt.ScrollBarPolicy.ScrollBarAlwaysOff:
            held, room = area.widget(), area.viewport()
            if held is not None and held.width() > room.width():
                found.add(f"{held.objectName() or type(held).__name__}: {room.width()} of {held.width()}")
    need = window.places.currentWidget().minimumSizeHint().width()
    return found | ({f"the whole: {need}"} if need > 1280 else set())


def test_nothing_is_cut_off(spoken: Hands) -> None:
    """In CI every card in one of the languages; the rest of the places in both."""
    cut: dict[str, str] = {}
    samples = CARDS if ALL else CARDS[list(language.LANGUAGES).index(language.spoken()) :: len(language.LANGUAGES)]
    for place in every_place(spoken, samples):
        found = cut_off(spoken.window)
        if found:  # what has just come is not laid out yet
            QTest.qWait(200)
            found &= cut_off(spoken.window)
        cut |= dict.fromkeys(found, place)
    assert cut == {}


def test_a_job_goes_on_in_another_language_at_once(qtbot) -> None:
    """With undo, where one was, and what is in no file."""
    make_application()
    window = MainWindow()
    window.show()
    QTest.qWaitForWindowExposed(window)
    window.activateWindow()
    hands = Hands(window, qtbot).opened("winch-base")
    window.session.select("s2")
    hands.settle()
    window.questions.take_focus("step:s2.depth")
    hands.retype("12.5")
    hands.proved()
    assert hands.focus == "step:s2.depth"
    before, history = window.session.job, window.session.history
    try:
        window.run("window.german")
        new = window.successor
        assert new is not None
        other = Hands(new, qtbot)
        assert language.spoken() == "de"
        assert new.session.job == before
        assert new.session.history is history
        assert (new.session.selected, new.place) == ("s2", "bench")
        other.proved()
        other.until(lambda: new.session.focus == "step:s2.depth")
        assert new.session.proof is not None
        assert [remark.text for remark in new.session.proof.remarks if "Rohteil bleibt" in remark.text]
        assert new.header.button.text() == "Ausgeben"
        new.run("edit.undo")
        assert new.session.job != before
        new.run("window.english")
        last = new.successor
        assert last is not None
        assert language.spoken() == "en"
        assert last.header.button.text() == "Output"
        last.close()
        QTest.qWait(100)
    finally:
        language.speak("en")


def test_numbers_may_have_a_comma_or_a_point(spoken: Hands) -> None:
    window = spoken.window
    spoken.opened("winch-base")
    window.session.select("s2")
    spoken.settle()
    for typed in ("11,75", "11.75", "47/4"):
        window.questions.take_focus("step:s2.depth")
        spoken.retype(typed)
        assert window.session.job.step("s2").depth == 11.75
    window.questions.take_focus("step:s2.width")
    spoken.settle()
    assert not window.session.plan.step("s2").troubles


@pytest.mark.parametrize(
    ("typed", "kept", "shown"),
    [
        ("8; 12,5; 3*4", "8, 12.5, 3*4", {"en": "8, 12.5, 3*4", "de": "8; 12,5; 3*4"}),
        ("8, 12.5", "8, 12.5", {"en": "8, 12.5", "de": "8; 12,5"}),
        ("8,5", {"en": "8,5", "de": "8.5"}, {"en": "8,5", "de": "8,5"}),
    ],
)
def test_distances_mean_the_same_to_whoever_opens_the_job(spoken: Hands, typed: str, kept: Any, shown: dict[str, str]) -> None:
    """A comma that is a decimal sign here is no comma between two of them elsewhere."""
    window, session = spoken.window, spoken.window.session
    spoken.opened("drum-spindle")
    ident = added(spoken, "groove")
    session.answer(f"step:{ident}.count", 3)
    session.answer(f"step:{ident}.apart", "own")
    spoken.settle()
    window.questions.take_focus(f"step:{ident}.pitches")
    spoken.retype(typed)
    own = kept if isinstance(kept, str) else kept[language.spoken()]
    assert session.job.step(ident).pitches == own
    session.select(session.job.steps[0].id)
    spoken.settle()
    session.select(ident)
    spoken.settle()
    row = window.questions.rows[f"step:{ident}.pitches"]
    assert isinstance(row, NumbersRow)
    assert row.field.text() == shown[language.spoken()]
    count = len(distances(own))
    assert ("pitches" in [t.field for t in session.plan.step(ident).troubles]) == (count != 2)


def test_a_tool_that_comes_along_has_its_name_said_until_the_shop_gives_it_another(spoken: Hands) -> None:
    window, session = spoken.window, spoken.window.session
    spoken.opened("winch-base")
    tool = session.job.tools[1]
    window.go_to("crib")
    window.crib.select("tools", tool.id)
    spoken.settle()
    row = window.crib.form.rows[f"tool:{tool.id}.name"]
    assert isinstance(row, NameRow)
    assert row.field.text() == tool.called
    assert (tool.called == tool.name) == (language.spoken() == "en")
    row.take_focus()
    spoken.retype("Old one of the yard")
    assert session.job.tool(tool.id).name == session.job.tool(tool.id).called == "Old one of the yard"
    row.take_focus()
    spoken.press(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    spoken.settle()
    assert session.job.tool(tool.id).name == tool.name


CONTOURS = {
    "circle 1.6, 1.9, 0.7": Contour(form="circle", x=1.6, y=1.9, diameter=0.7),
    "Kreis 1,6; 1,9; 0,7": Contour(form="circle", x=1.6, y=1.9, diameter=0.7),
    "circle 1 1/8, 1/2, 3/4, 1 1/8 below": Contour(form="circle", x=1.125, y=0.5, diameter=0.75, below=1.125),
    "hollow circle 2 3 1": Contour(form="circle", role="hollow", x=2, y=3, diameter=1),
    "Höhlung Kreis 2 3 1": Contour(form="circle", role="hollow", x=2, y=3, diameter=1),
    "rectangle 2, 1, 0.5, 0.2, R0.05, A-5": Contour(
        form="rectangle", x=2, y=1, length=0.5, width=0.2, corner_radius=0.05, angle=-5
    ),
    "hollow outline the rim, left, 0.25 below": Contour(form="outline", role="hollow", outline="o9", below=0.25),
    "Kontur the rim; left": Contour(form="outline", outline="o9"),
}


def test_islands_are_typed_in_english_or_in_the_language_and_read_again_as_they_are_shown(spoken: Hands) -> None:
    window, session = spoken.window, spoken.window.session
    spoken.opened("pawl-plate")
    first = session.job.outlines[0]
    session.edit(replace(session.job, outlines=(*session.job.outlines, replace(first, id="o9", name="the rim, left"))), "Copy")
    session.select(next(s.id for s in session.job.steps if isinstance(s, FreePocket)))
    spoken.settle()
    address = f"step:{session.selected}.islands"
    row = window.questions.rows[address]
    assert isinstance(row, LinesRow)
    german = language.spoken() == "de"
    for typed, wanted in CONTOURS.items():
        if german or not re.search("Kreis|Kontur", typed):
            row.take_focus()
            row.text.selectAll()
            spoken.type(typed)
            assert session.job.step(session.selected).islands == (wanted,), typed
    row.text.selectAll()
    spoken.type("square 1, 2, 3")
    assert row.reason()
    session.answer(address, tuple(CONTOURS.values()))
    window.questions.take_focus(f"step:{session.selected}.depth")
    spoken.settle()
    shown = row.text.toPlainText().splitlines()
    assert shown[0] == ("Kreis 1,6; 1,9; 0,7" if german else "circle 1.6, 1.9, 0.7")
    assert row.meant("\n".join(shown)) == (tuple(CONTOURS.values()), {})


def test_free_moves_are_typed_in_english_or_in_the_language(spoken: Hands) -> None:
    window, session = spoken.window, spoken.window.session
    spoken.opened("drum-spindle")
    ident = added(spoken, "free-moves")
    spoken.settle()
    row = window.questions.rows[f"step:{ident}.moves"]
    assert isinstance(row, LinesRow)
    wanted = (FreeMove("rapid", 90.0, 2.0), FreeMove("feed", 40.5, -12.0, 0.1))
    typed = [("rapid 90, 2", "feed 40.5, -12, 0.1"), ("r 90 2", "F 40.5 -12 0.1")]
    if language.spoken() == "de":
        typed += [("Eilgang 90; 2", "vorschub 40,5; -12; 0,1"), ("e 90 2", "v 40,5 -12 0,1")]
    for lines in typed:
        row.take_focus()
        row.text.selectAll()
        spoken.type(lines[0])
        spoken.press(Qt.Key.Key_Return)
        spoken.type(lines[1])
        assert session.job.step(ident).moves == wanted, lines
    row.text.selectAll()
    spoken.type("x 1, 2")
    assert row.reason()


ODD = (
    ",", ";;", "below", "2 below", ", below", "circle", "hollow", "hollow hollow circle 1, 2, 3", "outline", "circle 1e400, 1, 1",
    "circle nan, 1, 1", "rectangle 1, 2, 3, 4, R", "circle 1, 2, 3, -1 below", "feed", "rapid ,", "feed 1e999 0", "feed 1 2 nan",
    "G54", "G54, 1e999, 0", "1, 2, 3, 4, 5", "1/0, 2", "((((1, 2", "12\u00a0, 3", "\u0661, 2", "x" * 300, "=", "a=",
    "steel-mild, 1e999",
)  # fmt: skip
"""What no list is: at most said, and never more than that."""


@pytest.mark.parametrize(
    ("sample", "kind", "field"),
    [("pawl-plate", "free-pocket", "islands"), ("drum-spindle", "free-moves", "moves"), ("winch-base", "drilling", "points")],
)
def test_odd_lines_in_a_list_are_said_and_change_nothing(spoken: Hands, sample: str, kind: str, field: str) -> None:
    window, session = spoken.window, spoken.window.session
    spoken.opened(sample)
    ident = added(spoken, kind)
    spoken.settle()
    row = next((r for address, r in window.questions.rows.items() if isinstance(r, LinesRow) and address.endswith(field)), None)
    if row is None:  # a pattern of another kind: its points are typed
        pick = window.questions.rows[f"step:{ident}.pattern"]
        assert isinstance(pick, PickRow)
        pick._new_pattern("points")
        spoken.settle()
        row = next(r for address, r in window.questions.rows.items() if isinstance(r, LinesRow) and address.endswith(field))
    before = answering.at(session.job, row.address)[0]
    row.take_focus()
    for line in ODD:
        row.text.selectAll()
        row.text.insertPlainText(line)
        struct, name = answering.at(session.job, row.address)
        assert row.reason() or getattr(struct, name) != getattr(before, name) or not row.text.toPlainText().strip(), line
        for value in str(getattr(struct, name)).replace("(", " ").split():
            assert "inf" not in value.lower(), line
            assert "nan" not in value.lower(), line
    spoken.settle()


def test_what_fills_a_blank_stands_as_it_was_written(spoken: Hands) -> None:
    """A comma between words is no comma of a list: shown, and typed on, it stays."""
    window, session = spoken.window, spoken.window.session
    spoken.opened("winch-base")
    ident = added(spoken, "own-lines")
    session.answer(f"step:{ident}.lines", ("({text})",))
    session.answer(f"step:{ident}.blanks", (Blank("text", "BASE, LEFT"),))
    spoken.settle()
    row = window.questions.rows[f"step:{ident}.blanks"]
    assert isinstance(row, LinesRow)
    assert row.text.toPlainText() == "text = BASE, LEFT"
    row.take_focus()
    spoken.press(Qt.Key.Key_End)
    spoken.type(", 2")
    assert session.job.step(ident).blanks == (Blank("text", "BASE, LEFT, 2"),)


def test_sizes_of_the_family_are_named_on_the_lines_of_a_list_and_among_distances(spoken: Hands) -> None:
    """Typed with names in them, they stay as typed and follow; a name with a decimal behind it is said to be none."""
    window, session = spoken.window, spoken.window.session
    german = language.spoken() == "de"
    spoken.opened("winch-base")
    session.edit(answering.family_given(session.job, Family(sizes=(NamedSize(name="d1", says="30"),))), "Sizes")
    ident = added(spoken, "drilling")
    session.edit(edits.pattern_for(session.job, ident, "points"), "Points")
    spoken.settle()
    address = f"pattern:{getattr(session.job.step(ident), 'pattern', '')}.points"
    row = window.questions.rows[address]
    assert isinstance(row, LinesRow)
    row.take_focus()
    row.text.selectAll()
    spoken.type("d1; 20,5" if german else "d1, 20.5")
    spoken.press(Qt.Key.Key_Return)
    spoken.type("d1 - 40; 2*d1" if german else "d1 - 40, 2*d1")
    assert getattr(*answering.at(session.job, address)) == ((30.0, 20.5), (-10.0, 60.0))
    window.questions.take_focus(f"step:{ident}.depth")
    spoken.settle()
    assert row.text.toPlainText() == ("d1; 20,5\nd1 - 40; 2*d1" if german else "d1, 20.5\nd1 - 40, 2*d1")
    family = session.job.family
    assert family is not None
    session.edit(answering.family_given(session.job, replace(family, sizes=(NamedSize(name="d1", says="50"),))), "Wider")
    spoken.settle()
    assert getattr(*answering.at(session.job, address)) == ((50.0, 20.5), (10.0, 100.0))
    assert row.text.toPlainText().splitlines()[1] == ("d1 - 40; 2*d1" if german else "d1 - 40, 2*d1")
    row.take_focus()
    row.text.selectAll()
    spoken.type("d1,5; 7" if german else "d1.5, 7")
    assert row.reason()
    assert getattr(*answering.at(session.job, address)) == ((50.0, 20.5), (10.0, 100.0))


def test_distances_of_grooves_take_a_size_by_its_name(spoken: Hands) -> None:
    window, session = spoken.window, spoken.window.session
    spoken.opened("drum-spindle")
    session.edit(answering.family_given(session.job, Family(sizes=(NamedSize(name="d1", says="8"),))), "Sizes")
    ident = added(spoken, "groove")
    for field, value in (("count", 4), ("apart", "own")):
        session.answer(f"step:{ident}.{field}", value)
    spoken.settle()
    address = f"step:{ident}.pitches"
    window.questions.take_focus(address)
    spoken.retype("d1; 12,5; d1/2" if language.spoken() == "de" else "d1,12.5,d1/2")
    step = session.job.step(ident)
    assert distances(getattr(step, "pitches", "")) == [8.0, 12.5, 4.0]
    for there in (session.job.steps[0].id, ident):
        session.select(there)
        spoken.settle()
    row = window.questions.rows[address]
    assert isinstance(row, NumbersRow)
    assert row.field.text() == ("d1; 12,5; d1/2" if language.spoken() == "de" else "d1, 12.5, d1/2")
    family = session.job.family
    assert family is not None
    session.edit(answering.family_given(session.job, replace(family, sizes=(NamedSize(name="d1", says="9"),))), "Wider")
    assert distances(getattr(session.job.step(ident), "pitches", "")) == [9.0, 12.5, 4.5]


def test_a_question_of_a_pattern_is_found_in_any_language(spoken: Hands) -> None:
    """In German every search ended in an error where there was a pattern: its kind was looked for by its translation."""
    german = language.spoken() == "de"
    spoken.opened("winch-base")
    finder = spoken.window.finder
    spoken.window.find_anything()
    for words in ("lochkreis", "winkel") if german else ("circle", "angle"):
        finder._look(words)
        assert {entry.kind for entry in finder.seen} <= set(KINDS)
    finder._look("erstes" if german else "first")
    assert "Pattern or outline" in {entry.kind for entry in finder.seen}
    shown = [finder.list.item(k).text() for k in range(finder.list.count())]
    assert any(text.startswith("Lochbild oder Kontur" if german else "Pattern or outline") for text in shown), shown
