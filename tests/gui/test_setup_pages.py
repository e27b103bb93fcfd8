"""The setup sheet as pages: everything is on them, nothing is cut off, and the window writes and prints them."""

from __future__ import annotations

from functools import partial
from pathlib import Path

import pytest
import segno
from PyQt6.QtCore import QMarginsF, QSize, Qt, QTimer
from PyQt6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PyQt6.QtPdf import QPdfDocument
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QApplication

from bastler.app.setup_pages import MARGIN, QR, pdf_of, print_pages
from bastler.cli import main
from bastler.job import Job, plan, write_job
from bastler.job.samples import sample, sample_names
from bastler.live.leaving import digest_of
from bastler.live.setting_up import setup_sheet
from bastler.proof import prove_whole
from bastler.steps import Facing, RectangularPocket
from conftest import job_of, sample_proof, some

from .conftest import Hands

WHEN = "2026-11-30 08:00"
TO_DOTS = 96 / 72


def loaded(data: bytes, path: Path) -> QPdfDocument:
    path.write_bytes(data)
    found = QPdfDocument(None)
    assert found.load(str(path)) == QPdfDocument.Error.None_
    return found


def text_of(document: QPdfDocument) -> str:
    """All words, without line ends and double blanks."""
    return " ".join(" ".join(document.getAllText(k).text().split()) for k in range(document.pageCount()))


def page_of(document: QPdfDocument, page: int, per_dot: float = 1.0) -> QImage:
    size = document.pagePointSize(page) * TO_DOTS * per_dot
    image = QImage(size.toSize(), QImage.Format.Format_RGB32)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.drawImage(0, 0, document.render(page, QSize(image.width(), image.height())))
    painter.end()
    return image


@pytest.mark.parametrize("name", some(sample_names(), 3))
def test_all_that_is_said_is_on_the_pages(qapp, name: str, tmp_path: Path) -> None:
    sheet = setup_sheet(sample_proof(name))
    document = loaded(pdf_of(sheet, WHEN), tmp_path / "a.pdf")
    words = text_of(document)
    assert sheet.job.name in words
    for program in sheet.programs:
        assert f"O{program.number:04d}" in words
        assert program.digest[:12] in words
        wanted = [line.tool.name for line in program.tools]
        wanted += [line.title for holding in program.holdings for line in holding.steps]
        wanted += [remark.text.split(".")[0][:20] for remark in program.remarks]
        assert [text for text in wanted if text not in words] == []
    assert [size.says for size in sheet.sizes if size.says not in words] == []
    assert words.count(WHEN) == document.pageCount(), "every page says when"


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_nothing_leaves_the_page(qapp, paper: str, tmp_path: Path) -> None:
    many = job_of(*(RectangularPocket(id=f"p{k}", name=f"Pocket of a long name {k}", x=30, y=20) for k in range(24)))
    document = loaded(pdf_of(setup_sheet(prove_whole(plan(many))), WHEN, paper), tmp_path / "a.pdf")
    assert document.pageCount() >= 3
    for k in range(document.pageCount()):
        size, room = document.pagePointSize(k), document.getAllText(k).boundingRectangle()
        assert size.toSize() == (QSize(595, 842) if paper == "A4" else QSize(612, 792))
        edge = MARGIN / TO_DOTS - 2
        assert edge < room.left() < room.right() < size.width() - edge
        assert edge < room.top() < room.bottom() < size.height() - edge + 12, "the foot stands in the margin"


def test_the_square_is_the_programs_number_and_digest(qapp, tmp_path: Path) -> None:
    program = setup_sheet(sample_proof("winch-base")).programs[0]
    document = loaded(pdf_of(setup_sheet(sample_proof("winch-base")), WHEN), tmp_path / "a.pdf")
    image = page_of(document, 0, 4.0)
    code = segno.make(f"O1010 {program.digest.upper()}", error="m", micro=False).matrix
    wide = document.pagePointSize(0).width() * TO_DOTS
    left, cell = wide - MARGIN - QR, QR / len(code)
    middles = [round(4 * (k + 0.5) * cell) for k in range(len(code))]
    x0, y0 = round(4 * left), round(4 * MARGIN)
    seen = [[image.pixelColor(x0 + x, y0 + y).lightness() < 128 for x in middles] for y in middles]
    assert seen == [[bool(dark) for dark in row] for row in code]


def test_a_program_that_must_not_run_says_so_at_its_head(qapp, tmp_path: Path) -> None:
    job = job_of(Facing(id="a"), RectangularPocket(id="b", x=30, y=20, depth=90.0))
    sheet = setup_sheet(prove_whole(plan(job)))
    assert sheet.programs[0].verdict != "proved"
    words = text_of(loaded(pdf_of(sheet, WHEN), tmp_path / "a.pdf"))
    assert "Not proved" in words
    assert "Proved." not in words


def test_paper_is_that_of_the_unit(qapp, tmp_path: Path) -> None:
    wide = [
        loaded(pdf_of(setup_sheet(sample_proof(name)), WHEN), tmp_path / f"{name}.pdf").pagePointSize(0).width()
        for name in ("winch-base", "bearing-cap")
    ]
    assert wide == pytest.approx([595, 612], abs=1), "A4 in millimetres, Letter in inches"


def test_a_printer_gets_the_same_pages(qapp, tmp_path: Path) -> None:
    sheet = setup_sheet(sample_proof("bearing-cap"))
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    layout = QPageLayout(QPageSize(QPageSize.PageSizeId.Letter), QPageLayout.Orientation.Portrait, QMarginsF())
    printer.setPageLayout(layout)
    printer.setFullPage(True)
    pages = print_pages(printer, sheet, WHEN)
    printed = loaded((tmp_path / "printed.pdf").read_bytes(), tmp_path / "again.pdf")
    written = loaded(pdf_of(sheet, WHEN), tmp_path / "a.pdf")
    assert printed.pageCount() == written.pageCount() == pages
    assert text_of(printed) == text_of(written)


# -- by hand ------------------------------------------------------------------------------------------------------


def in_folder(hands: Hands, folder: Path) -> Hands:
    hands.window.run("program.output")
    hands.window.program.output.folder = folder
    return hands


def said(hands: Hands) -> str:
    return hands.window.program.output.said.text()


def has_said(hands: Hands, text: str) -> bool:
    return said(hands) == text


def test_the_sheet_goes_where_the_program_goes(demo: Hands, tmp_path: Path) -> None:
    panel = in_folder(demo, tmp_path).window.program.papers
    for act, name in ((None, "winch-base.pdf"), (0, "winch-base-tools.csv"), (1, "winch-base-sizes.csv")):
        demo.click(panel.sheet) if act is None else panel.more.menu().actions()[1 + act].trigger()
        demo.until(partial(has_said, demo, f"Saved as {name}."))
        assert (tmp_path / name).stat().st_size > 300
    demo.click(demo.window.program.output.button)
    digest = digest_of((tmp_path / "winch-base.nc").read_bytes())
    assert digest[:12] in text_of(loaded((tmp_path / "winch-base.pdf").read_bytes(), tmp_path / "a.pdf"))
    demo.proved()
    demo.click(panel.sheet)
    demo.until(lambda: said(demo) == "Saved as winch-base.pdf. It is of the next part: the numbers have counted on.")
    assert digest[:12] not in text_of(loaded((tmp_path / "winch-base.pdf").read_bytes(), tmp_path / "b.pdf"))


def test_a_folder_that_takes_nothing_is_said(demo: Hands, tmp_path: Path) -> None:
    demo.window.run("program.output")
    (tmp_path / "gone").write_text("a file where a folder should be")
    demo.window.program.output.folder = tmp_path / "gone"
    demo.window.run("program.sizes")
    demo.until(lambda: "could not be written" in said(demo))


def test_while_the_proof_runs_there_is_no_sheet(demo: Hands, tmp_path: Path) -> None:
    in_folder(demo, tmp_path)
    demo.window.session.answer("step:s2.depth", 11.0)
    demo.window.run("program.sheet")
    assert "still running" in said(demo)
    demo.proved()
    assert list(tmp_path.glob("*.pdf")) == []


def test_printing_can_be_left(demo: Hands, tmp_path: Path) -> None:
    in_folder(demo, tmp_path)
    asked: list[str] = []

    def leave() -> None:
        dialog = QApplication.activeModalWidget()
        if isinstance(dialog, QPrintDialog):
            asked.append(dialog.printer().docName())
            dialog.reject()
        else:
            QTimer.singleShot(50, leave)

    QTimer.singleShot(50, leave)
    demo.press(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
    demo.until(lambda: asked == ["Winch base, setup sheet"])
    assert "printed" not in said(demo)


# -- from the command line ----------------------------------------------------------------------------------------


def written(job: Job, path: Path) -> Path:
    write_job(job, path)
    return path


def test_from_the_command_line(qapp, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job, pdf = written(sample("bearing-cap"), tmp_path / "a.bastler"), tmp_path / "a.pdf"
    assert main(["sheet", str(job), "-o", str(pdf)]) == 0
    assert "Bearing cap" in text_of(loaded(pdf.read_bytes(), tmp_path / "b.pdf"))
    wrong = written(job_of(RectangularPocket(id="b", x=30, y=20, depth=90.0)), tmp_path / "w.bastler")
    assert main(["sheet", str(wrong), "-o", str(pdf), "--paper", "Letter"]) == 1
    assert "Not proved" in text_of(loaded(pdf.read_bytes(), tmp_path / "c.pdf"))
    assert main(["sheet", str(job), "-o", str(pdf / "under-a-file.pdf")]) == 2
    assert "cannot be written" in capsys.readouterr().err
    assert main(["sheet", str(tmp_path / "none.bastler"), "-o", str(pdf)]) == 2


def test_a_program_from_a_hole_on_goes_where_the_program_goes(hands: Hands, tmp_path: Path) -> None:
    """Out of the route, and without spoiling the pattern: the job is as it was."""
    hands.opened("winch-base")
    job = hands.window.session.job
    hands.window.session.select("s4")
    hands.press(Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier)
    panel = hands.window.program.papers
    panel.output.folder = tmp_path
    panel.ask_restart()
    hands.until(lambda: panel.places is not None and panel.places.isVisible())
    assert panel.places is not None
    entries = {action.text(): action for action in panel.places.actions()}
    assert "4 Deck bolts: drill, T7, from its begin on" in entries
    panel.places.hide()
    entries["4 Deck bolts: drill, T7, from hole 4 of 6 on"].trigger()
    hands.until(lambda: "Saved as" in panel.output.said.text())
    text = next(tmp_path.glob("*-from-4-hole-4.nc")).read_text()
    assert "X121 Y50" not in text
    assert "X29 Y50" in text
    assert hands.window.session.job is job
    hands.opened("coupling-nut")
    panel.ask_restart()
    hands.until(lambda: panel.places is not None and "Face the end" in panel.places.actions()[0].text())
    panel.places.hide()
    panel.places.actions()[0].trigger()
    hands.until(lambda: "hands the part over" in panel.output.said.text())


def test_the_part_as_cut_goes_where_the_program_goes(hands: Hands, tmp_path: Path) -> None:
    """As a closed solid, made beside: the window does not wait for it; and what cannot be made is said."""
    hands.opened("drum-spindle")
    panel = hands.window.program
    hands.press(Qt.Key.Key_3, Qt.KeyboardModifier.AltModifier)
    panel.output.folder = tmp_path
    for suffix in (".stl", ".3mf"):
        panel.papers.write_solid(suffix)
        hands.until(lambda: "Saved as" in panel.output.said.text())
        assert any(path.suffix == suffix for path in tmp_path.iterdir())
        panel.output.said.clear()
    hands.opened("winch-base")
    panel.papers.write_solid(".3mf")  # one that takes long says how far it is, and can be stopped
    hands.until(lambda: "%" in panel.output.said.text())
    hands.click(panel.papers.stop)
    assert panel.output.said.text() == "No solid was made."
    assert not panel.papers.stop.isVisible()
    hands.opened("drum-spindle")  # and is not in the way of the next one
    panel.papers.write_solid(".stl")
    hands.until(lambda: "Saved as" in panel.output.said.text())
    assert not list(tmp_path.glob("Winch*"))
