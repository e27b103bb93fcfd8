"""The pages of a print: a PDF, a picture, or a drawing of our own. What is on them is seen and found here, and nothing changed.

A file from outside is data: what is no print, or too large to look at, is said in a sentence (`PrintError`).
"""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import QObject, QRect, QRectF, QSize, QSizeF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QImageReader, QPainter
from PyQt6.QtPdf import QPdfDocument, QPdfDocumentRenderOptions

from bastler.app.drawn_print import DrawnPrint
from bastler.bounds import MARKS
from bastler.job.prints import LESSON, Mark, sizes_in
from bastler.language import tr
from bastler.lessons import lesson_named

LARGEST = 60_000_000
"""Bytes of a print that is opened."""
PAGES = 60
"""Of a PDF that are shown."""
LETTERS = 40_000
"""Of a page that are looked through for sizes."""
PIXELS = 12_000_000
"""Of a picture as it is kept; a larger one is made smaller."""
AT_REST = 120
"""Milliseconds without another move after which a page is painted as it is seen now."""
Seen = tuple[int, QSize, QRect]
PICTURES = "*.png *.jpg *.jpeg *.bmp *.tif *.tiff *.webp *.gif"
KINDS = f"*.pdf {PICTURES} {PICTURES.upper()} *.PDF"


class PrintError(Exception):
    """A file that cannot be shown as a print; the text says why."""


class Pages(Protocol):
    """What there is to see of a print. `changed` says that a page is there that was still being painted."""

    count: int

    def size(self, page: int) -> QSizeF:
        """Of a page, in points: 72 an inch."""
        ...

    def paint(self, painter: QPainter, page: int, box: QRectF) -> None:
        """A page in a box of pixels."""
        ...

    def found(self) -> list[Mark]:
        """The sizes that stand on it as text."""
        ...


class PdfPages(QObject):
    """A PDF. Only what is seen of a page is painted, once the hand is at rest: as long it is the picture from before, larger or
    smaller."""

    changed = pyqtSignal()

    def __init__(self, path: Path) -> None:
        super().__init__()
        self._document = QPdfDocument(self)
        error = self._document.load(str(path))
        wrong = {
            QPdfDocument.Error.IncorrectPassword: tr("is locked with a password"),
            QPdfDocument.Error.UnsupportedSecurityScheme: tr("is locked in a way that is not known here"),
            QPdfDocument.Error.FileNotFound: tr("is not there"),
        }
        if error != QPdfDocument.Error.None_:
            raise PrintError(f"{path.name} {wrong.get(error, tr('is no PDF that can be read'))}.")
        self.count = min(self._document.pageCount(), PAGES)
        if self.count < 1:
            raise PrintError(tr("{name} has no pages.", name=path.name))
        self._image = QImage()
        self._shows: Seen = (-1, QSize(), QRect())
        """Of which page, how large the whole of it is, and which part of that, in pixels, the image is."""
        self._wanted = self._shows
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(AT_REST)
        self._rest.timeout.connect(self._render)

    def size(self, page: int) -> QSizeF:
        return self._document.pagePointSize(page)

    def paint(self, painter: QPainter, page: int, box: QRectF) -> None:
        painter.fillRect(box, Qt.GlobalColor.white)
        seen = box.intersected(QRectF(painter.viewport())).translated(-box.topLeft())
        self._wanted = (page, box.size().toSize(), seen.toAlignedRect())
        of, whole, part = self._shows
        if of == page and not self._image.isNull():
            k = box.width() / max(whole.width(), 1)
            place = QRectF(box.x() + part.x() * k, box.y() + part.y() * k, part.width() * k, part.height() * k)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(place, self._image)
        if self._wanted != self._shows:
            self._rest.start(AT_REST if of == page else 0)

    def _render(self) -> None:
        page, whole, part = self._shows = self._wanted
        if part.isEmpty():
            return
        options = QPdfDocumentRenderOptions()
        options.setScaledSize(whole)
        options.setScaledClipRect(part)
        self._image = self._document.render(page, part.size(), options)
        self.changed.emit()

    def found(self) -> list[Mark]:
        marks: list[Mark] = []
        for page in range(self.count):
            size = self.size(page)
            text = self._document.getAllText(page).text()[:LETTERS]
            for sized in sizes_in(text):
                box = self._document.getSelectionAtIndex(page, sized.start, sized.end - sized.start).boundingRectangle()
                if box.isEmpty() or len(marks) >= MARKS.most:
                    continue
                marks.append(Mark(page=page, box=_share(box, size), words=sized.words[:80]))
        return marks


class PicturePages(QObject):
    """A picture: a photo of a print, or a scan. Nothing on it is read."""

    changed = pyqtSignal()
    count = 1

    def __init__(self, path: Path) -> None:
        super().__init__()
        reader = QImageReader(str(path))
        reader.setAutoTransform(True)
        size = reader.size()
        if size.isValid() and size.width() * size.height() > PIXELS:
            k = (PIXELS / (size.width() * size.height())) ** 0.5
            reader.setScaledSize(QSize(max(int(size.width() * k), 1), max(int(size.height() * k), 1)))
        self._image = reader.read()
        if self._image.isNull():
            raise PrintError(tr("{name} is no picture that can be read.", name=path.name))

    def size(self, page: int) -> QSizeF:
        """As if it were as wide as a sheet of A4 lying."""
        return QSizeF(842.0, 842.0 * self._image.height() / max(self._image.width(), 1))

    def paint(self, painter: QPainter, page: int, box: QRectF) -> None:
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(box, self._image)

    def found(self) -> list[Mark]:
        return []


class DrawnPages(QObject):
    """The print of a lesson."""

    changed = pyqtSignal()
    count = 1

    def __init__(self, name: str) -> None:
        super().__init__()
        lesson = lesson_named(name)
        if lesson is None:
            raise PrintError(tr("There is no lesson of the name {name}.", name=name))
        self.drawn = DrawnPrint(lesson.print)

    def size(self, page: int) -> QSizeF:
        return self.drawn.size

    def paint(self, painter: QPainter, page: int, box: QRectF) -> None:
        self.drawn.paint(painter, box)

    def found(self) -> list[Mark]:
        size = self.drawn.size
        return [Mark(box=_share(box, size), words=words) for words, box in self.drawn.labels()]


AnyPages = PdfPages | PicturePages | DrawnPages


def open_pages(file: str, beside: Path | None = None) -> AnyPages:
    """The pages of a print by the name that a job has for it: a file, looked for beside the job too where it has moved along with
    it. PrintError where there is nothing to see."""
    if file.startswith(LESSON):
        return DrawnPages(file.removeprefix(LESSON))
    path = Path(file)
    if not path.is_file() and beside is not None and (beside.parent / path.name).is_file():
        path = beside.parent / path.name
    try:
        size = path.stat().st_size
    except OSError as error:
        raise PrintError(tr("{name} is not where it was.", name=path.name or file)) from error
    if not path.is_file():  # a pipe would be waited for
        raise PrintError(tr("{name} is no file.", name=path.name))
    if size > LARGEST:
        raise PrintError(
            tr(
                "{name} has {size} MB; {largest} is the most of a print.",
                name=path.name,
                size=size // 1000000,
                largest=LARGEST // 1000000,
            )
        )
    return PdfPages(path) if _is_pdf(path) else PicturePages(path)


def _is_pdf(path: Path) -> bool:
    """By what it begins with: names lie."""
    try:
        with path.open("rb") as file:
            return b"%PDF-" in file.read(1024)
    except OSError as error:
        raise PrintError(tr("{name} cannot be read.", name=path.name)) from error


def _share(box: QRectF, of: QSizeF) -> tuple[float, float, float, float]:
    """A box in points as shares of the page, within it."""
    left, top = (min(max(v, 0.0), 1.0) for v in (box.left() / of.width(), box.top() / of.height()))
    return left, top, min(box.width() / of.width(), 1.0 - left), min(box.height() / of.height(), 1.0 - top)
