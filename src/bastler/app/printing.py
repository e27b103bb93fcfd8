"""The setup sheet on paper, by whatever printers the desktop knows."""

from __future__ import annotations

from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QWidget

from bastler.app.setup_pages import page_layout, print_pages, usual_paper
from bastler.language import tr
from bastler.live.setup_sheet import SetupSheet


def print_on_paper(sheet: SetupSheet, when: str, parent: QWidget) -> int:
    """Asks for the printer and prints; gives how many pages, 0 where it was not to be."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setDocName(tr("{name}, setup sheet", name=sheet.job.name))
    printer.setPageLayout(page_layout(usual_paper(sheet)))
    printer.setFullPage(True)
    return print_pages(printer, sheet, when) if QPrintDialog(printer, parent).exec() else 0
