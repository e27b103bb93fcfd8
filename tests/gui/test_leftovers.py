"""What is left that nobody takes, as the machinist sees it: in the header, with both ways out beside it."""

from __future__ import annotations

from PyQt6.QtWidgets import QPushButton

from bastler.app.session import STOCK
from bastler.job import answering, edits
from bastler.job.samples import sample
from bastler.live.shown import ShownProof
from gui.conftest import Hands


def button(hands: Hands, says: str) -> QPushButton:
    """The button of a remark that says that."""
    return next(b for b in hands.window.findChildren(QPushButton) if b.text() == says and b.isVisible())


def proof(hands: Hands) -> ShownProof:
    found = hands.window.session.proof
    assert found is not None
    return found


def unfaced(hands: Hands) -> None:
    job = sample("winch-base")
    hands.window.jobs.opened(edits.step_removed(job, job.steps[0].id))
    hands.window.session.select(STOCK)
    hands.proved()


def test_raw_stock_that_no_step_takes_is_faced_with_one_press(hands: Hands) -> None:
    unfaced(hands)
    assert "Proved, something is left" in hands.window.header.verdict.text()
    hands.click(button(hands, "Face the top"))
    hands.proved()
    assert hands.window.session.job.steps[0].title == "Face the top"
    assert proof(hands).verdict == "proved"
    assert "something is left" not in hands.window.header.verdict.text()


def test_or_it_stays_on_purpose_and_undo_takes_that_back(hands: Hands) -> None:
    unfaced(hands)
    hands.click(button(hands, "It stays on purpose"))
    hands.proved()
    assert proof(hands).verdict == "proved"
    assert {r.code for r in proof(hands).remarks} >= {"raw-stays"}
    hands.window.session.undo()
    hands.proved()
    assert proof(hands).verdict == "left"


def test_the_land_beside_an_outline_is_asked_about(hands: Hands) -> None:
    hands.window.jobs.opened(answering.answered(sample("pawl-plate"), "step:s4.land", None))
    hands.window.session.select("s4")
    hands.proved()
    hands.click(button(hands, "A groove along it"))
    hands.proved()
    assert proof(hands).verdict == "proved"
    assert getattr(hands.window.session.job.step("s4"), "land", "") == "groove"
