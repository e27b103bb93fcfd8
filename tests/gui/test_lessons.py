"""The lessons, made in the real window as they say, with wrong answers on the way; left, and taken up again."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import TypeVar

import pytest
from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtWidgets import QApplication, QMenu

from bastler.app.fields import NumberField
from bastler.app.lesson_panel import ENDED
from bastler.app.rows import ChoiceRow, PickButton, PickRow
from bastler.job import answering, edits
from bastler.job.prints import not_ticked
from bastler.language import ENGLISH, LANGUAGES, as_inside, decimal, speak, tr
from bastler.lessons import Item, Lesson, lesson_named, lessons, resolved
from bastler.steps import STEPS
from conftest import crossed

from .conftest import ALT, CTRL, Hands, QTest

KEY = Qt.Key


T = TypeVar("T")


def sure(found: T | None) -> T:
    """What is there."""
    assert found is not None
    return found


def begun(hands: Hands, name: str) -> Lesson:
    hands.window.open_choice(f"lesson:{name}")
    hands.settle()
    lesson = lesson_named(name)
    assert lesson is not None
    assert hands.window.lesson.lesson is lesson
    return lesson


def picked_from_menu(words: str) -> None:
    """Takes an entry of the menu that opens next."""

    def take() -> None:
        menu = QApplication.activePopupWidget()
        assert isinstance(menu, QMenu)
        action = next(a for a in menu.actions() if a.text() == words)
        menu.close()
        action.trigger()

    QTimer.singleShot(50, take)


def answered(hands: Hands, item: Item, text: str) -> None:
    """What one does who reads the text: goes where it is shown, and answers."""
    window = hands.window
    address = resolved(window.session.job, item.at)
    if window.session.focus != address or not isinstance(QApplication.focusWidget(), NumberField):
        hands.click(window.lesson.panel.show_button)
    if item.at.endswith(".kind"):
        hands.press(KEY.Key_B, ALT)
        return
    row = window.questions.row_of(address)
    there = QApplication.focusWidget()
    if isinstance(row, ChoiceRow):
        hands.click(row.buttons[item.wants])
    elif isinstance(row, PickRow):
        picked_from_menu(tr("New: {lower}", lower=as_inside(tr(edits.PATTERN_KINDS[str(item.wants)][0]))))
        hands.press(KEY.Key_Space)
    elif isinstance(there, NumberField):
        hands.retype(text)
        if not there.reason:
            hands.press(KEY.Key_Return)
    else:
        assert isinstance(there, PickButton), f"{item.at}: the keyboard is at {there}"
        for _ in range(4):
            struct, field = answering.at(window.session.job, address)
            if getattr(struct, field) == item.wants:
                return
            hands.press(KEY.Key_Space)


def gone(hands: Hands, where: str) -> None:
    window = hands.window
    if where == "explained":
        window.questions.take_focus(f"step:{window.session.selected}.depth")
        hands.press(KEY.Key_F1)
        hands.press(KEY.Key_F1)
    elif where == "strip":
        hands.proved()
        strip = window.strip.timeline
        QTest.mouseClick(strip, Qt.MouseButton.LeftButton, pos=QPoint(strip.width() // 2, 95))
        hands.settle()
    else:
        hands.click(sure(window.target(where)))


def ended(hands: Hands, how: str, name: str) -> None:
    window = hands.window
    if how == "ticked":
        view = window.print_panel.view
        for k, mark in enumerate(view.marks):
            if mark.state == "open":
                hands.click(view, *(getattr(view.box_of(k).center(), axis)() for axis in "xy"))
    elif how == "proved":
        hands.proved()
    else:
        hands.press(KEY.Key_P, CTRL)
        hands.retype(name)
        hands.press(KEY.Key_Return)


def done(hands: Hands, item: Item, name: str) -> None:
    """One item, as it says."""
    if item.adds == "turned-over":
        hands.press(KEY.Key_T, CTRL)
    elif item.adds:
        hands.press(KEY.Key_Insert)
        hands.type(tr(STEPS[item.adds.partition("#")[0]].title).lower())
        hands.press(KEY.Key_Return)
    elif item.at:
        wanted = decimal(f"{item.wants:g}") if isinstance(item.wants, float) else item.wants
        answered(hands, item, "" if item.empty else wanted)
    elif item.goes:
        gone(hands, item.goes)
    else:
        ended(hands, item.ends, name)


def made(hands: Hands, lesson: Lesson, up_to: int | None = None) -> None:
    """The items of a lesson, from where it is."""
    desk = hands.window.lesson
    last = len(lesson.items) if up_to is None else up_to
    while (at := desk.at) < last:
        done(hands, lesson.items[at], lesson.name)
        end = time.monotonic() + 60
        while desk.at == at:
            assert time.monotonic() < end, f"{lesson.name} does not come past {at}: {lesson.items[at].says}"
            QTest.qWait(10)


@pytest.fixture(params=list(LANGUAGES))
def tongue(request) -> Iterator[str]:
    """What the window speaks that is made next."""
    speak(request.param)
    yield request.param
    speak(ENGLISH)


@pytest.mark.parametrize(
    ("name", "tongue"), crossed(6, [lesson.name for lesson in lessons()], list(LANGUAGES)), indirect=["tongue"]
)
def test_a_lesson_is_made_as_it_says(name: str, tongue: str, hands: Hands) -> None:
    """All of it, to the saved program; the print is ticked off, the part proved, and the lesson known as made. In CI each in one
    language."""
    window = hands.window
    lesson = begun(hands, name)
    assert (tr(lesson.items[0].says) == lesson.items[0].says) == (tongue == ENGLISH)
    made(hands, lesson)
    assert window.lesson.panel.text.text() == tr(ENDED)
    assert not not_ticked(window.session.job)
    assert window.session.whole is not None
    assert all(proof.proved for proof in window.session.whole.holdings)
    assert not {r.level for proof in window.session.whole.holdings for r in proof.remarks} & {"stop", "open", "caution"}
    assert window.settings.lessons == (name,)


def says(hands: Hands, words: str) -> None:
    """The lesson says what is wrong, within a moment."""
    wrong = hands.window.lesson.panel.wrong
    hands.until(lambda: words in wrong.text() and wrong.isVisible())


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("9", "a tenth"),
        ("900", "ten times"),
        ("45", "half of it"),
        ("180", "twice as much"),
        ("60", "for another size"),
        ("90/25.4", "other unit"),
        ("91", "It is 90"),
    ],
)
def test_a_wrong_answer_is_noticed_and_said_why(typed: str, words: str, hands: Hands) -> None:
    lesson = begun(hands, "plate")
    answered(hands, lesson.items[0], typed)
    says(hands, words)
    assert hands.window.lesson.item is lesson.items[0], "it waits"
    answered(hands, lesson.items[0], "90")
    assert hands.window.lesson.item is lesson.items[1]
    assert not hands.window.lesson.panel.wrong.isVisible()


def test_a_depth_without_its_minus_and_a_choice(hands: Hands) -> None:
    lesson = begun(hands, "turned")
    at = next(k for k, item in enumerate(lesson.items) if item.wants == -30)
    made(hands, lesson, at)
    answered(hands, lesson.items[at], "30")
    says(hands, "sign is the other way")


def test_what_is_undone_or_spoilt_later_is_asked_for_again(hands: Hands) -> None:
    lesson = begun(hands, "plate")
    made(hands, lesson, 5)
    desk, session = hands.window.lesson, hands.window.session
    assert desk.item is lesson.items[5]
    session.answer("stock.size_y", 61.0)
    hands.settle()
    assert desk.item is lesson.items[1]
    hands.press(KEY.Key_Z, CTRL)
    assert desk.item is lesson.items[5]


def test_right_answers_are_ticked_off_and_undone_as_one(hands: Hands) -> None:
    lesson = begun(hands, "plate")
    session = hands.window.session
    done(hands, lesson.items[0], "plate")
    assert session.job.print.marks[0].state == "ticked"
    hands.press(KEY.Key_Z, CTRL)
    assert session.job.print.marks[0].state == "open"
    assert session.job.stock.size_x == 150.0


def test_it_points_at_the_place_that_is_meant(hands: Hands) -> None:
    window = hands.window
    lesson = begun(hands, "plate")
    desk = window.lesson
    assert desk.pointer.of is window.questions.row_of("stock.size_x")
    assert desk.pointer.isVisible()
    row = sure(window.questions.row_of("stock.size_x"))
    corner = row.mapTo(sure(window.centralWidget()), QPoint(0, 0))
    assert desk.pointer.geometry().contains(corner)
    assert window.print_panel.view.lit == lesson.size_at("length")
    made(hands, lesson, 3)
    hands.until(lambda: desk.pointer.of is window.print_panel.add)
    hands.press(KEY.Key_Insert)
    hands.until(lambda: not desk.pointer.isVisible())
    hands.press(KEY.Key_Escape)
    made(hands, lesson, 5)
    window.session.select("stock")
    hands.until(lambda: desk.pointer.of is desk.panel.show_button)
    hands.click(desk.panel.show_button)
    assert window.session.selected == "s2"
    assert hands.focus == "step:s2.length"


def test_it_can_be_left_and_taken_up_again(hands: Hands) -> None:
    window = hands.window
    lesson = begun(hands, "plate")
    made(hands, lesson, 4)
    hands.click(window.lesson.panel.leave_button)
    assert not window.lesson.panel.isVisible()
    assert not window.lesson.pointer.isVisible()
    window.run("help.lesson")
    assert window.lesson.item is lesson.items[4]
    window.jobs.close_job()
    tile = next(t for t in window.start.picker.grid.tiles if t.key == "lesson:plate")
    assert tile.says.startswith("Begun")
    window.open_choice("lesson:plate")
    hands.settle()
    assert window.lesson.item is lesson.items[4]
    assert window.session.job.stock.size_x == 90.0


def test_other_jobs_know_of_no_lesson(demo: Hands) -> None:
    window = demo.window
    window.run("help.lesson")
    assert "of no lesson" in window.caption.text()
    assert window.route.isVisible()
    begun(demo, "holes")
    assert not window.route.isVisible()
    window.open_choice("sample:winch-base")
    demo.settle()
    assert window.route.isVisible()
    assert not window.print_panel.isVisible()
    assert not window.lesson.pointer.isVisible()


@pytest.mark.parametrize("name", ["two-sided", "turned"])
def test_with_gloves_a_lesson_is_not_cut_off(name: str, hands: Hands) -> None:
    """The longest of its texts, and a reason under it: the print gives way."""
    window = hands.window
    lesson = begun(hands, name)
    window.switch_gloves()
    hands.settle()
    panel = window.lesson.panel
    longest = max(range(len(lesson.items)), key=lambda k: len(lesson.items[k].says))
    panel.say(lesson, longest, "60 stands on the print too, but for another size. The one that is meant is lit there.")
    QTest.qWait(50)
    for label in (panel.text, panel.wrong):
        assert label.height() >= label.heightForWidth(label.width()) > 0
        assert panel.rect().contains(label.geometry())
    assert panel.show_button.height() >= 48
    assert window.print_panel.rect().contains(panel.geometry())
    assert window.print_panel.view.height() >= 160


def test_what_is_right_on_the_way_to_a_wrong_answer_is_not_ticked_off(hands: Hands) -> None:
    begun(hands, "plate")
    hands.click(hands.window.lesson.panel.show_button)
    hands.retype("90")
    assert hands.window.session.job.print.marks[0].state == "ticked"
    hands.type("0")
    assert hands.window.session.job.print.marks[0].state == "open"
