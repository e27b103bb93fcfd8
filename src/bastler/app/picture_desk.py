"""What is seen as a picture: sheet and path as SVG or PNG, the solid as PNG."""

from __future__ import annotations

from pathlib import Path
from typing import Protocol

from PyQt6.QtCore import QIODevice, QRect, QRectF, QSize
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtSvg import QSvgGenerator

from bastler.app.asking import file_to_write
from bastler.app.drafting import bytes_of, painting
from bastler.app.window import Window
from bastler.disk import plain_name, reason_of, write_whole
from bastler.language import sayable, tr

FINE = 2.0
"""Dots of a picture to a dot of the screen."""
DRAWN, SEEN = sayable(("Pictures (*.svg *.png)", "Pictures (*.png)"))


class Painted(Protocol):
    """A view that can be painted anywhere."""

    def size(self) -> QSize: ...
    def rect(self) -> QRect: ...
    def paint_on(self, painter: QPainter) -> None: ...


def svg_of(view: Painted, title: str) -> bytes:
    """A view as a drawing."""

    def write(file: QIODevice) -> None:
        drawing = QSvgGenerator()
        drawing.setOutputDevice(file)
        drawing.setSize(view.size())
        drawing.setViewBox(QRectF(view.rect()))
        drawing.setTitle(title)
        with painting(drawing) as painter:
            view.paint_on(painter)

    return bytes_of(write)


def image_of(view: Painted) -> QImage:
    """A view as a picture, finer than on the screen."""
    image = QImage(view.size() * FINE, QImage.Format.Format_RGB32)
    image.setDevicePixelRatio(FINE)
    with painting(image) as painter:
        view.paint_on(painter)
    return image


def png_of(image: QImage) -> bytes:
    """A picture as a file."""
    return bytes_of(lambda file: image.save(file, "PNG"))


class PictureDesk:
    """Asks where to, and writes."""

    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session

    def save(self, what: str, view: Painted | QImage) -> None:
        """A view under a name that is asked for: a drawing where it ends in .svg, else a picture."""
        start = Path.home() / f"{plain_name(self.session.job.name, 'part')}-{what}.png"
        drawn = not isinstance(view, QImage)
        path = file_to_write(
            self.window, tr("Save as a picture"), start, tr(DRAWN if drawn else SEEN), ".png", *((".svg",) if drawn else ())
        )
        if path is not None:
            self.write(path, view)

    def write(self, path: Path, view: Painted | QImage) -> None:
        """Into a file; what keeps it from that is said."""
        if isinstance(view, QImage):
            data = png_of(view)
        else:
            data = svg_of(view, self.session.job.name) if path.suffix.lower() == ".svg" else png_of(image_of(view))
        try:
            write_whole(path, data)
        except OSError as error:
            self.session.said.emit("wrong", tr("{name} was not written: {error}.", name=path.name, error=reason_of(error)))
        else:
            self.session.said.emit("", tr("{path} is written.", path=path))
