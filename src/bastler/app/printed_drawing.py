"""The drawing of a holding on paper: that of the sheet, with all its dimensions and nothing to touch. Large blue areas are pale,
so that a print takes no toner and a pencil is seen on it."""

from __future__ import annotations

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter

from bastler.app.half_section import HalfSection
from bastler.app.plan_section import PlanSection
from bastler.app.still_paper import StillDesk, StillPaper
from bastler.job import BlockStock, Job
from bastler.live.setup_sheet import HoldingSheet

PALE, PALE_JAW = "#DCE5F1", "#DFE1E2"
"""Marking blue where there is much of it, and the grey of chucks."""


class _PalePlan(PlanSection):
    @property
    def skin(self) -> str:
        return PALE

    def _captions(self, painter: QPainter) -> None:
        """The page has its own."""


class _PaleHalf(HalfSection):
    @property
    def skin(self) -> str:
        return PALE

    @property
    def jaw(self) -> str:
        return PALE_JAW

    def _captions(self, painter: QPainter) -> None:
        """The page has its own."""


class PrintedDrawing(StillPaper):
    """A place on a page that a drawing is painted in, as on the sheet."""

    def __init__(self, job: Job, sheet: HoldingSheet, size: QRectF) -> None:
        desk = StillDesk(job, sheet.shown, f"holding:{sheet.shown.holding.id}")
        super().__init__(desk, sheet.look, size, "white")
        milled = isinstance(sheet.shown.stock, BlockStock)
        self.drawing = _PalePlan(self) if milled else _PaleHalf(self)
