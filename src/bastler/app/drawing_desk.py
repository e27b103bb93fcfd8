"""Drawings in and out of the window: asks which file, shows it to pick from, writes outlines."""

from __future__ import annotations

from pathlib import Path

from bastler.app.asking import file_to_open, file_to_write
from bastler.app.drawing_picker import DrawingPicker
from bastler.app.window import Window
from bastler.disk import reason_of, write_whole
from bastler.exchange import DrawingError, outline_text, read_places
from bastler.job import edits
from bastler.language import sayable, tr
from bastler.live.leaving import safe_name

LISTS = sayable("Lists of positions (*.csv *.txt)")
DRAWINGS = sayable("DXF drawings (*.dxf *.DXF)")


class DrawingDesk:
    """Joins the picker, the session's wishes and the file dialogs."""

    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session
        self.picker = DrawingPicker(window.session)
        window.session.wants_drawing.connect(self.ask)
        window.session.wants_places.connect(self.ask_places)
        window.session.wants_export.connect(self.ask_export)

    def ask(self, address: str = "") -> None:
        """A DXF file to pick from, for one answer or for the job."""
        path = file_to_open(self.window, tr("Open a drawing"), self._folder(), tr(DRAWINGS))
        if path:
            self.open(path, address)

    def open(self, path: Path, address: str = "") -> None:
        """Shows a drawing over the view; a bad one is said and changes nothing."""
        self.picker.offer(path, address, self._offered)

    def _offered(self, trouble: str) -> None:
        if trouble:
            self.session.said.emit("wrong", trouble)
            return
        self.window.show_over(self.picker, tr("pick what you want of the drawing"))
        self.picker.list.setFocus()

    def ask_places(self, address: str) -> None:
        """A CSV list of positions for the pattern of a step."""
        path = file_to_open(self.window, tr("Open a list of positions"), self._folder(), tr(LISTS))
        if path:
            self.read_places(path, address)

    def read_places(self, path: Path, address: str) -> None:
        """The positions of a list become the step's pattern; a bad list is said and changes nothing."""
        step = address.removeprefix("step:").partition(".")[0]
        try:
            places = read_places(path)
        except DrawingError as error:
            self.session.said.emit("wrong", str(error))
            return
        self.session.history.settle()
        self.session.edit(edits.pattern_of_places(self.session.job, step, places, path.stem[:40]), tr("Positions from a list"))
        self.session.said.emit(
            "", tr("{places} positions from {name}, in {unit}.", places=len(places), name=path.name, unit=self.session.job.unit)
        )

    def ask_export(self, ident: str, kind: str) -> None:
        """An outline as DXF or SVG, where the machinist says."""
        outline = self.session.job.outline(ident)
        if outline is None:
            return
        start = Path(self._folder()) / f"{safe_name(outline.name).removesuffix('.nc')}.{kind}"
        title, kinds = tr("Save as {upper}", upper=kind.upper()), tr("{upper} drawings (*.{kind})", upper=kind.upper(), kind=kind)
        path = file_to_write(self.window, title, start, kinds, f".{kind}")
        if path is None:
            return
        try:
            write_whole(path, outline_text(outline, self.session.job.unit, kind).encode())
        except (OSError, DrawingError) as error:
            self.session.said.emit(
                "wrong",
                tr(
                    "{name} was not written: {error}",
                    name=path.name,
                    error=reason_of(error) if isinstance(error, OSError) else error,
                ),
            )
        else:
            self.session.said.emit("", tr("{path} is written.", path=path))

    def export_selected(self, kind: str) -> None:
        """The outline of the selected step as a drawing."""
        outline = self.session.outline_of_step()
        if outline is not None:
            self.ask_export(outline.id, kind)

    def _folder(self) -> str:
        return str(self.session.path.parent if self.session.path else Path.home())
