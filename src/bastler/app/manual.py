"""The manual as a book: chapters, keys as the window has them, and what every question means; to read, as HTML and as PDF."""

from __future__ import annotations

import base64
import re
from pathlib import Path

from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QSizeF, Qt, QUrl
from PyQt6.QtGui import QFont, QImage, QPageLayout, QPageSize, QPdfWriter, QTextCursor, QTextDocument, QTextImageFormat
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from bastler.app.asking import file_to_write
from bastler.app.commands import COMMANDS
from bastler.app.fields import WordField
from bastler.app.keyring import key_text, shown
from bastler.app.labels import Label
from bastler.app.theme import ASSETS, SANS
from bastler.disk import reason_of, write_whole
from bastler.job.asked import page
from bastler.language import sayable, spoken, tr
from bastler.manual import chapters

TITLE = sayable("Bastler: the manual")
_PICTURE = re.compile(r"^!\[[^\]]*\]\(([^)]+)\)$", re.MULTILINE)
MARGIN = 18.0
"""Of a page, in mm."""
FILES = "PDF (*.pdf);;HTML (*.html)"


WIDE = 600.0
"""Pictures beside the list of chapters."""


def pictures() -> Path | None:
    """The folder with the manual's pictures: they come with what is installed, and lie with the documentation where one works on
    Bastler. None where there are none."""
    folders = (ASSETS / "manual", Path(__file__).parents[3] / "docs" / "screenshots")
    return next((folder for folder in folders if folder.is_dir()), None)


def keys_text(own: dict[str, str] | None = None) -> str:
    """All commands with their keys, by menu, as a chapter."""
    lines = [tr("# Keys"), "", tr("Keys of your own (*Keys…* in the menu *Window*) stand here as you have them."), ""]
    menus = dict.fromkeys(entry.menu for entry in COMMANDS.values())
    for menu in menus:
        lines += [f"## {tr(menu)}", "", "| | |", "|---|---|"]
        lines += [
            f"| {tr(entry.says)} | {key_text(shown(entry, own or {}))} |" for entry in COMMANDS.values() if entry.menu == menu
        ]
        lines.append("")
    return "\n".join(lines)


def manual_text(*, pictures: bool, own: dict[str, str] | None = None) -> str:
    """The whole manual in Markdown, with pictures or without."""
    text = "\n\n".join((*chapters(spoken()), keys_text(own), page()))
    return text if pictures else _PICTURE.sub("", text)


def document(folder: Path | None = None, wide: float = 0.0, own: dict[str, str] | None = None) -> QTextDocument:
    """The manual laid out; pictures from a folder, no wider than `wide` units of the document, as far as they are there."""
    made = QTextDocument()
    made.setMetaInformation(QTextDocument.MetaInformation.DocumentTitle, tr(TITLE))
    made.setDefaultFont(QFont(SANS, 10))
    text, images = manual_text(pictures=folder is not None, own=own), dict[str, QImage]()
    for name in dict.fromkeys(_PICTURE.findall(text)) if folder is not None else ():
        image = QImage(str(folder / name))
        if image.isNull():
            text = re.sub(rf"^!\[[^\]]*\]\({re.escape(name)}\)$", "", text, flags=re.MULTILINE)
        else:
            images[name] = image
    made.setMarkdown(text)
    for name, image in images.items():  # what was there before is forgotten with the text
        made.addResource(QTextDocument.ResourceType.ImageResource, QUrl(name), image)
    if wide:
        _narrowed(made, wide)
    return made


def _narrowed(made: QTextDocument, wide: float) -> None:
    """Pictures as wide as the text."""
    block = made.begin()
    while block.isValid():
        pieces = block.begin()
        while not pieces.atEnd():
            piece = pieces.fragment()
            if piece.charFormat().isImageFormat():
                own: QTextImageFormat = piece.charFormat().toImageFormat()
                image = made.resource(QTextDocument.ResourceType.ImageResource, QUrl(own.name()))
                own.setWidth(wide)
                own.setHeight(wide * image.height() / max(image.width(), 1))
                cursor = QTextCursor(made)
                cursor.setPosition(piece.position())
                cursor.setPosition(piece.position() + piece.length(), QTextCursor.MoveMode.KeepAnchor)
                cursor.setCharFormat(own)
            pieces += 1
        block = block.next()


def pdf_of_manual(folder: Path | None = None) -> bytes:
    """The manual on A4, with numbered pages."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setTitle(tr(TITLE))
    layout = QPageLayout(
        QPageSize(QPageSize.PageSizeId.A4),
        QPageLayout.Orientation.Portrait,
        QMarginsF(MARGIN, MARGIN, MARGIN, MARGIN),
        QPageLayout.Unit.Millimeter,
    )
    writer.setPageLayout(layout)
    writer.setResolution(96)
    room = QSizeF(layout.paintRectPixels(96).size())
    document(folder, room.width() * 0.9).print(writer)
    buffer.close()
    return buffer.data().data()


def html_of_manual(folder: Path | None = None) -> bytes:
    """The manual as one page, its pictures in it."""
    text = document(folder, 720.0 if folder is not None else 0.0).toHtml()

    def inside(found: re.Match[str]) -> str:
        data = (folder / found[1]).read_bytes() if folder is not None else b""
        return f'src="data:image/png;base64,{base64.b64encode(data).decode()}"'

    text = re.sub(r'src="([\w-]+\.png)"', inside, text)
    return text.replace("<head>", f'<head><meta charset="utf-8"><title>{tr(TITLE)}</title>', 1).encode()


class ManualWindow(QDialog):
    """The manual to read beside the work: its chapters on the left, and a field that finds words in it."""

    def __init__(self, parent: QWidget, own: dict[str, str]) -> None:
        super().__init__(parent)
        self.setObjectName("paper")
        self.setWindowTitle(tr("The manual"))
        self.setModal(False)
        self.resize(1000, 680)
        self.text = QTextBrowser()
        self.text.setObjectName("manual")
        self.text.setOpenLinks(False)
        self.text.setAccessibleName(tr("The manual"))
        made = document(pictures(), WIDE, own)
        made.setParent(self.text)
        made.setDocumentMargin(18)
        self.text.setDocument(made)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Chapters"))
        self.list.setObjectName("picks")
        self.list.setFixedWidth(280)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._places: list[int] = []
        self._list_chapters()
        self.list.currentRowChanged.connect(self._go)
        self.words = WordField()
        self.words.setPlaceholderText(tr("find in the manual"))
        self.words.setAccessibleName(tr("Find in the manual"))
        self.words.entered.connect(self._find)
        self.said = Label()
        self.said.setObjectName("soft")
        save = QPushButton(tr("Save…"))
        save.setObjectName("plain")
        save.setToolTip(tr("As PDF, to print it, or as HTML"))
        save.clicked.connect(self.save)
        close = QPushButton(tr("Close"))
        close.setObjectName("plain")
        close.clicked.connect(self.close)
        row = QHBoxLayout()
        for widget in (self.words, self.said, save, close):
            row.addWidget(widget, 1 if widget is self.said else 0)
        body = QHBoxLayout()
        body.addWidget(self.list)
        body.addWidget(self.text, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 14)
        column.setSpacing(10)
        column.addLayout(row)
        column.addLayout(body, 1)

    def _list_chapters(self) -> None:
        made = self.text.document()
        block = made.begin() if made is not None else None
        while block is not None and block.isValid():
            if block.blockFormat().headingLevel() == 1:
                self.list.addItem(block.text())
                self._places.append(block.position())
            block = block.next()

    def _go(self, at: int) -> None:
        if 0 <= at < len(self._places):
            cursor = self.text.textCursor()
            cursor.movePosition(QTextCursor.MoveOperation.End)
            self.text.setTextCursor(cursor)  # from below, so that the heading comes to the top
            cursor.setPosition(self._places[at])
            self.text.setTextCursor(cursor)
            self.text.ensureCursorVisible()

    def _find(self, by: int) -> None:
        """The next place of what was typed; behind the last one the first again."""
        words = self.words.text().strip()
        back = QTextDocument.FindFlag.FindBackward if by < 0 else QTextDocument.FindFlag(0)
        found = bool(words) and self.text.find(words, back)
        if words and not found:
            edge = QTextCursor.MoveOperation.End if by < 0 else QTextCursor.MoveOperation.Start
            self.text.moveCursor(edge)
            found = self.text.find(words, back)
        self.said.setText("" if found or not words else tr("“{words}” is not in it.", words=words))

    def save(self) -> None:
        """Asks for a name, and saves it as a file."""
        path = file_to_write(self, tr("Save the manual"), Path.home() / "bastler-manual.pdf", FILES, ".pdf", ".html")
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> None:
        """As PDF or HTML, by its ending."""
        try:
            write_whole(path, (html_of_manual if path.suffix.lower() == ".html" else pdf_of_manual)(pictures()))
        except OSError as error:
            self.said.setText(tr("{name} could not be written: {error}.", name=path.name, error=reason_of(error)))
        else:
            self.said.setText(tr("Saved as {name}.", name=path.name))
