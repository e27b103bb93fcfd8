"""A lesson in the window: what was gone to, what is proved, what is wrong with an answer, and where things are."""

from __future__ import annotations

import msgspec
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QWidget

from bastler.app.lesson_panel import LessonPanel, Pointer, after
from bastler.app.print_pages import DrawnPages
from bastler.app.session import STOCK, is_step
from bastler.app.settings import write_settings
from bastler.app.window import Window
from bastler.job import Job, new_job
from bastler.job.prints import LESSON, Print, marked, with_print
from bastler.language import tr
from bastler.lessons import Item, Lesson, Seen, answer_to, at_item, done, lesson_named, resolved, what_is_wrong

QUIET = 700
"""Milliseconds without a key after which what was typed is taken to be all of it."""
LOOKS = 150
"""Milliseconds between two looks at where the place is that is pointed at."""


def begun(lesson: Lesson) -> Job:
    """The job of a lesson: as new ones are, with its print. The machine's card and the tools are those that ship, so that the
    lesson is the same in every shop."""
    job = new_job(lesson.unit, lesson.machine)
    job = with_print(job, Print(file=lesson.file, unit=lesson.unit, marks=tuple(DrawnPages(lesson.name).found())))
    return msgspec.structs.replace(job, name=tr(lesson.title))


class LessonDesk:
    """Joins a lesson with the window: what was gone to, what is proved, what is wrong, and where things are."""

    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session
        panel = self.panel = LessonPanel()
        window.print_panel.below.addWidget(panel)
        self.pointer = Pointer(window.centralWidget() or window)
        self.lesson: Lesson | None = None
        self.gone: set[str] = set()
        self.saved: Job | None = None
        self._left: str = ""
        self._at = -1
        self._wrong = ""
        self._came: dict[int, object] = {}
        """The answers that were waited for, as they were when that began: what a step came with is no wrong answer."""
        self._quiet = QTimer(panel)
        self._quiet.setSingleShot(True)
        self._quiet.setInterval(QUIET)
        self._quiet.timeout.connect(self._judge)
        self._looks = QTimer(panel)
        self._looks.setInterval(LOOKS)
        self._looks.timeout.connect(self._point)
        panel.shows.connect(self.show_where)
        panel.leaves.connect(self.leave)
        panel.goes_on.connect(self._next)
        for signal in (self.session.job_changed, self.session.proof_changed, self.session.selection_changed):
            signal.connect(self.refresh)
        self.session.cursor_changed.connect(self._scrubbed)

    # -- coming and going -----------------------------------------------------------------------------------------

    def _of_job(self) -> Lesson | None:
        """The lesson that the open job is of, as long as it is not left."""
        of = self.session.job.print if self.session.has_job else None
        if of is None or not of.file.startswith(LESSON) or of.file == self._left:
            return None
        return lesson_named(of.file.removeprefix(LESSON))

    def take_up(self) -> None:
        """The lesson of the open job goes on, also where it was left."""
        self._left = ""
        self.refresh()

    def leave(self) -> None:
        """The job stays, nothing is said any more. It goes on when the job is opened the next time, or from the menu."""
        if self.lesson is not None:
            self._left = self.lesson.file
        self.refresh()

    def _next(self) -> None:
        if self.lesson is not None and (following := after(self.lesson)) is not None:
            self.window.open_choice(following.file)

    def went(self, where: str) -> None:
        """Somebody has gone somewhere."""
        if self.lesson is not None and where not in self.gone:
            at = self.at
            item = self.lesson.items[at] if at < len(self.lesson.items) else None
            if item is not None and item.goes == where:
                self.gone.add(where)
                self.refresh()

    def _scrubbed(self) -> None:
        if not self.session.follow_end:
            self.went("strip")

    def was_saved(self) -> None:
        """The program has gone out."""
        self.saved = self.session.job
        self.refresh()
        lesson, settings = self.lesson, self.window.settings
        if lesson is not None and self._at >= len(lesson.items) and lesson.name not in settings.lessons:
            self.window.settings = msgspec.structs.replace(settings, lessons=(*settings.lessons, lesson.name))
            write_settings(self.window.settings)

    # -- where it is ------------------------------------------------------------------------------------------------

    def _seen(self) -> Seen:
        whole = self.session.whole
        proved = not self.session.stale and whole is not None and all(proof.proved for proof in whole.holdings)
        return Seen(frozenset(self.gone), proved, self.saved is not None)

    @property
    def at(self) -> int:
        """The place of what is waited for; how many there are where all is done."""
        return at_item(self.session.job, self.lesson, self._seen()) if self.lesson is not None else -1

    @property
    def item(self) -> Item | None:
        """What is waited for; None where nothing is."""
        if self.lesson is None or not 0 <= self._at < len(self.lesson.items):
            return None
        return self.lesson.items[self._at]

    def refresh(self) -> None:
        """Looks where the lesson is."""
        lesson = self._of_job()
        if lesson is not self.lesson:
            self.lesson, self._at, self._wrong = lesson, -1, ""
            self.gone, self.saved, self._came = set(), None, {}
        if lesson is None:
            self._looks.stop()
            self.pointer.round(None)
            self.panel.hide()
            return
        at = self.at
        if at != self._at:
            self._at, self._wrong = at, ""
            if at < len(lesson.items):
                self._came.setdefault(at, answer_to(self.session.job, lesson.items[at]))
        self._tick_off(lesson)
        self._quiet.start()
        self._say(lesson)
        self._looks.start()

    def _tick_off(self, lesson: Lesson) -> None:
        """Sizes whose answers are right are ticked off, in one step with the answer; and not any more where they are not."""
        job = self.session.job
        of = job.print
        assert of is not None
        seen = Seen()
        for item in lesson.items:
            at = lesson.size_at(item.size)
            if not item.at or not 0 <= at < len(of.marks):
                continue
            mark, address, right = of.marks[at], resolved(job, item.at), done(job, item, seen)
            if right and mark.state == "open":
                changed = marked(job, at, state="ticked", goes_to=address)
            elif not right and mark.state == "ticked" and mark.goes_to:
                changed = marked(job, at, state="open", goes_to="")
            else:
                continue
            self.session.edit(changed, tr("Tick it off"), merge=address or mark.goes_to)
            return  # the edit comes back here

    def _judge(self) -> None:
        """What stands in the answer is all that was typed: is it right?"""
        lesson, item = self.lesson, self.item
        if lesson is not None and item is not None:
            job = self.session.job
            wrong = what_is_wrong(job, lesson, item) if answer_to(job, item) != self._came.get(self._at) else ""
            if wrong != self._wrong:
                self._wrong = wrong
                self._say(lesson)

    def _say(self, lesson: Lesson) -> None:
        self.panel.say(lesson, self._at, self._wrong)
        self.panel.show()
        item = self.item
        self.window.print_panel.light(lesson.size_at(item.size) if item is not None else -1)
        self._point()

    # -- pointing ---------------------------------------------------------------------------------------------------

    def _card(self, item: Item) -> str:
        """The card that an answer is on; empty where it is not there yet."""
        address = resolved(self.session.job, item.at)
        what, _, rest = address.partition(":")
        if address.startswith(("stock.", "job.")):
            return STOCK
        if what == "holding":
            return address.rpartition(".")[0]
        if what == "step":
            return rest.partition(".")[0]
        owner = resolved(self.session.job, f"{item.at.partition('.')[0]}.id")
        return owner.partition(":")[2].partition(".")[0] if address else ""

    def _target(self) -> QWidget | None:
        """The place that is meant, where it can be seen."""
        window, item = self.window, self.item
        if item is None:
            return None
        if item.adds:
            return None if window.board_is_open else window.target("add")
        if item.goes or item.ends:
            return window.target(item.goes or item.ends)
        address, card = resolved(self.session.job, item.at), self._card(item)
        if card != self.session.selected:
            return window.route.cards.get(card) if window.route.isVisible() else self.panel.show_button
        return window.questions.row_of(address) if address else None

    def _point(self) -> None:
        self.pointer.round(self._target())

    def show_where(self) -> None:
        """Goes to the place that is meant, and does no more."""
        item, window = self.item, self.window
        if item is None:
            return
        if item.adds:
            window.run("step.add")
        elif item.at:
            card = self._card(item)
            window.go_to("bench")
            if card:
                self.session.select(card)
                window.questions.take_focus(resolved(self.session.job, item.at))
                if is_step(card):
                    window.show_view()
        else:
            window.show_target(item.goes or item.ends)
        self._point()
