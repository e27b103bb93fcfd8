"""A program from elsewhere opened in the window, looked at, and sent."""

from __future__ import annotations

from pathlib import Path

from .conftest import Hands

PLATE = "O0042\nG21 G17 G40 G90 G94\nT3 M6\nS4000 M3\nG54 G0 X-10 Y10\nG43 H3 Z5\nG1 Z-4 F200\nX70 F600\nG0 Z50\nM30\n"


def opened(hands: Hands, tmp_path: Path, text: str = PLATE, name: str = "plate.nc") -> Hands:
    path = tmp_path / name
    path.write_text(text)
    hands.window.open_path(path)
    return hands


def test_a_program_is_opened_looked_at_and_sent(hands: Hands, tmp_path: Path) -> None:
    session = opened(hands, tmp_path).window.session
    hands.until(lambda: session.has_job and session.job.elsewhere is not None)
    hands.proved()
    assert hands.window.program.isVisible()
    assert session.proof.program.lines == tuple(PLATE.splitlines())
    assert hands.window.header.button.property("held") == "true"
    while asked := [r for r in session.whole.remarks if r.level == "open"]:
        assert asked[0].cure is not None
        session.cure(asked[0].cure)
        hands.proved()
    assert session.whole.proved
    hands.window.run("program.output")
    hands.window.program.output.folder = tmp_path / "out"
    hands.click(hands.window.program.output.button)
    (sent,) = (tmp_path / "out").glob("*.nc")
    assert sent.read_text() == PLATE


def test_it_has_no_steps_and_that_is_said(hands: Hands, tmp_path: Path) -> None:
    session = opened(hands, tmp_path).window.session
    hands.until(lambda: session.has_job and session.job.elsewhere is not None)
    said: list[str] = []
    session.said.connect(lambda kind, text: said.append(text))
    for command in ("step.add", "holding.over", "step.order"):
        hands.window.run(command)
        assert "comes from elsewhere" in said[-1]
    assert session.job.steps == ()
    assert len(session.job.holdings) == 1


def test_what_is_none_is_said_and_changes_nothing(demo: Hands, tmp_path: Path) -> None:
    before = demo.window.session.job
    said: list[str] = []
    demo.window.session.said.connect(lambda kind, text: said.append(text))
    texts: list[str] = []
    demo.window.jobs._say = lambda kind, text: texts.append(text)  # type: ignore[method-assign]
    opened(demo, tmp_path, "nothing here", "notes.txt")
    demo.until(lambda: bool(texts))
    assert "moves no tool" in texts[0]
    demo.window.open_path(tmp_path / "gone.nc")
    demo.until(lambda: len(texts) > 1)
    assert "it is not there" in texts[1]
    assert demo.window.session.job is before
