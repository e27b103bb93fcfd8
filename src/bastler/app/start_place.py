"""With no job open: recent jobs and samples as pictures, and a new job."""

from __future__ import annotations

import contextlib
import time
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QRectF, QSizeF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QPainter, QPixmap
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bastler.app.drafting import painting
from bastler.app.drawn_print import DrawnPrint
from bastler.app.labels import Label
from bastler.app.part_pictures import PartPictures
from bastler.app.pictures import draw_bar, draw_blank
from bastler.app.qt_words import day_of
from bastler.app.tiles import Tile, TilePicker
from bastler.disk import read_bounded
from bastler.job.files import LARGEST, glance, job_text
from bastler.job.kept import Kept, difference
from bastler.job.samples import sample_names, sample_text
from bastler.language import sayable, tr, tr_as
from bastler.lessons import Lesson, lessons

KEPT = sayable("Kept, not saved yet")
HINT = sayable("Digits or arrows pick, Enter takes. Ctrl+O opens a job file, Ctrl+N begins a new one.")


class StartPlace(QWidget):
    """Emits `chosen` with new:UNIT:MACHINE, sample:NAME, lesson:NAME, kept:ID or file:PATH; `thrown` with a kept job's id."""

    chosen = pyqtSignal(str)
    thrown = pyqtSignal(str)

    def __init__(self, pictures: PartPictures) -> None:
        super().__init__()
        self.pictures = pictures
        self._prints: dict[str, QPixmap] = {}
        """Those of lessons, by name, as they were painted last."""
        self.setObjectName("paper")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.picker = TilePicker(248, 172)
        self.picker.picked.connect(self.chosen)
        self.picker.closed.connect(lambda: None)
        self.picker.aside.connect(lambda key: self.thrown.emit(key.partition(":")[2]))
        pictures.ready.connect(self.picker.grid.update)
        self.words = Label()
        self.words.setObjectName("why")
        column = QVBoxLayout(self)
        column.setContentsMargins(60, 24, 60, 10)
        column.addWidget(self.picker, 1)
        column.addWidget(self.words)

    def offer(
        self,
        kept: Sequence[Kept],
        recent: Sequence[Path],
        made: Sequence[str] = (),
        templates: Sequence[Path] = (),
        begun: str = "",
    ) -> None:
        """Shows what there is to open: what is kept before all. `made` are the lessons that were made to their end, `begun` is as
        what a part was begun last."""
        tiles = [
            Tile(
                "new:mm:mill-600",
                tr("New milled part, mm"),
                tr("A block in the vise; change what is different."),
                tr("Begin"),
                _blank_mm,
            ),
            Tile("new:inch:mill-600", tr("New milled part, inch"), tr("The same in inches."), tr("Begin"), _blank_inch),
            Tile(
                "new:mm:lathe-200",
                tr("New turned part, mm"),
                tr("A bar in the chuck; change what is different."),
                tr("Begin"),
                _bar_mm,
            ),
            Tile("new:inch:lathe-200", tr("New turned part, inch"), tr("The same in inches."), tr("Begin"), _bar_inch),
        ]
        tiles = [*map(self._kept, kept), *tiles]
        for path in templates:
            with contextlib.suppress(OSError):
                own = self._part(f"template:{path}", read_bounded(path, LARGEST), tr("From the shop's template."), tr("Begin"))
                tiles += [replace(tile, aside=tr("Throw away")) for tile in own]
        for path in recent:
            try:
                tiles += self._part(f"file:{path}", read_bounded(path, LARGEST), path.name, tr("Recent"))
            except OSError:
                continue
        left = {k.job.print.file for k in kept if k.job is not None and k.job.print is not None}
        tiles += [self._lesson(lesson, begun=lesson.file in left, made=lesson.name in made) for lesson in lessons()]
        for name in sample_names():
            tiles += self._part(f"sample:{name}", sample_text(name), "", tr("Samples"))
        self.picker.offer(tr("What will it be today?"), tiles, "" if kept else begun)
        self.picker.hint.setText(tr(HINT) + (tr(" Delete throws a kept job or a template away.") if kept or templates else ""))
        for close in self.picker.findChildren(QWidget, "plain"):
            close.hide()

    def _kept(self, kept: Kept) -> Tile:
        """Work that is in no file: when it was done, and what it has that its file has not."""
        when = said_when(kept.changed, time.time())
        if kept.job is None:
            return Tile(
                f"kept:{kept.ident}", tr("Kept work"), f"{when}. {kept.reason}", tr(KEPT), lambda *_: None, "", tr("Throw away")
            )
        (part,) = self._part(f"kept:{kept.ident}", job_text(kept.job), f"{when}: {difference(kept.job, kept.file)}", tr(KEPT))
        return replace(part, aside=tr("Throw away"))

    def _part(self, key: str, text: bytes, says: str, group: str) -> list[Tile]:
        """The tile of a job by its text; none where that is no job's."""
        seen = glance(text)
        if seen is None:
            return []
        says = says or tr_as("sample", seen.note)
        return [Tile(key, seen.name, says, group, lambda painter, box: self.pictures.draw(painter, text, box))]

    def _lesson(self, lesson: Lesson, *, begun: bool, made: bool) -> Tile:
        """A lesson with its print, and whether it was begun or made. The print is painted once, when the window is there."""
        about = f"{tr('Made') if made else tr('{minutes} minutes', minutes=lesson.minutes)}. {tr(lesson.about)}"
        words = tr("Begun: goes on where you left it.") if begun else about

        def draw(painter: QPainter, box: QRectF) -> None:
            picture = self._prints.get(lesson.name)
            if picture is None or picture.deviceIndependentSize() != box.size().toSize().toSizeF():
                QTimer.singleShot(0, lambda: self._paint_print(lesson, box.size()))
            if picture is not None:
                painter.drawPixmap(box.topLeft(), picture)

        return Tile(lesson.file, tr(lesson.title), words, tr("Learn by making"), draw)

    def _paint_print(self, lesson: Lesson, room: QSizeF) -> None:
        """The print of a lesson as large as its tile has room."""
        known, size = self._prints.get(lesson.name), room.toSize()
        if known is not None and known.deviceIndependentSize() == size.toSizeF():
            return
        sharp = self.devicePixelRatioF()
        picture = QPixmap(size * sharp)
        picture.setDevicePixelRatio(sharp)
        picture.fill(Qt.GlobalColor.transparent)
        drawn = DrawnPrint(lesson.print)
        k = min(size.width() / drawn.size.width(), size.height() / drawn.size.height())
        place = QRectF(0, 0, drawn.size.width() * k, drawn.size.height() * k)
        place.moveCenter(QRectF(0, 0, size.width(), size.height()).center())
        with painting(picture) as painter:
            drawn.paint(painter, place)
        self._prints[lesson.name] = picture
        self.picker.grid.update()

    def say(self, text: str) -> None:
        """A reason why something could not be opened."""
        self.words.setText(text)


def _blank_mm(painter: QPainter, box: QRectF) -> None:
    draw_blank(painter, box, "mm")


def _blank_inch(painter: QPainter, box: QRectF) -> None:
    draw_blank(painter, box, "inch")


def _bar_mm(painter: QPainter, box: QRectF) -> None:
    draw_bar(painter, box, "mm")


def _bar_inch(painter: QPainter, box: QRectF) -> None:
    draw_bar(painter, box, "inch")


def said_when(changed: float, now: float) -> str:
    """A moment as one says it on the day it is asked."""
    then, today = time.localtime(changed), time.localtime(now)
    clock = time.strftime("%H:%M", then)
    if then[:3] == today[:3]:
        return tr("Today {clock}", clock=clock)
    days = day_of(changed)
    return f"{days}, {clock}" if then.tm_year == today.tm_year else f"{days} {then.tm_year}"
