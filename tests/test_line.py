"""Programs over a serial line, against somebody at the other end of a pseudo-terminal who waits, stops and goes away."""

from __future__ import annotations

import os
import threading
import time
from pathlib import Path

import pytest

from bastler.job import answering
from bastler.job.crib_edits import crib_troubles
from bastler.live import line as lines
from bastler.live.leaving import names_of, safe_name, sent_bytes
from bastler.live.line import LineError, Stopped, is_whole, receive, send
from bastler.machines import CARDS, Dialect, SerialLine
from bastler.post import Program
from bastler.steps import Facing
from conftest import job_of
from other_end import OtherEnd

XON, XOFF = b"\x11", b"\x13"
PROGRAM = b"%\r\nO0010 (PLATE)\r\n" + b"".join(b"G1 X%d.5 Y-%d F200\r\n" % (k, k) for k in range(1500)) + b"M30\r\n%\r\n"


def always(count: int, waits: bool) -> bool:
    return True


# -- there --------------------------------------------------------------------------------------------------------


def test_a_program_goes_over_whole(other: OtherEnd) -> None:
    other.listen()
    told: list[int] = []

    def hears(count: int, waits: bool) -> bool:
        told.append(count)
        return True

    send(other.port, PROGRAM, SerialLine(), hears)
    assert other.waited_for(len(PROGRAM)) == PROGRAM
    assert told[-1] == len(PROGRAM)
    assert told == sorted(told)


def test_zeros_go_before_and_behind(other: OtherEnd) -> None:
    other.listen()
    send(other.port, b"%\nM30\n%\n", SerialLine(leader=40), always)
    assert other.waited_for(88) == b"\x00" * 40 + b"%\nM30\n%\n" + b"\x00" * 40


def test_the_other_end_lets_us_wait_by_its_signs(other: OtherEnd) -> None:
    """XOFF, a second of nothing, XON: nothing is lost, and it is said that we wait."""
    waited: list[bool] = []

    def hears(count: int, waits: bool) -> bool:
        waited.append(waits)
        return True

    thread = threading.Thread(target=send, args=(other.port, PROGRAM, SerialLine(), hears), daemon=True)
    other.listen(at_most=2000)
    thread.start()
    other.waited_for(2000)
    os.write(other.master, XOFF)
    time.sleep(0.8)
    assert thread.is_alive()
    assert any(waited)
    os.write(other.master, XON)
    other.listen()
    thread.join(10)
    assert not thread.is_alive()
    assert other.waited_for(len(PROGRAM)) == PROGRAM


def test_somebody_stops_it_while_the_other_end_takes_nothing(other: OtherEnd) -> None:
    begun = time.monotonic()

    def hears(count: int, waits: bool) -> bool:
        if count <= lines.CHUNK:
            os.write(other.master, XOFF)
        return not waits

    with pytest.raises(Stopped) as stopped:
        send(other.port, PROGRAM * 20, SerialLine(), hears)
    assert stopped.value.count < len(PROGRAM) * 20
    assert time.monotonic() - begun < 5, "it does not wait for what nobody takes"
    other.listen()
    again = time.monotonic()

    def lets_go_on(count: int, waits: bool) -> bool:
        os.write(other.master, XON)  # one that comes while nobody has the line open lets nobody go on
        return time.monotonic() - again < 5

    send(other.port, b"%\nM30\n%\n", SerialLine(), lets_go_on)


def test_the_other_end_goes_away(other: OtherEnd) -> None:
    def leave(count: int, waits: bool) -> bool:
        if count > 1000 and other.master >= 0:
            os.close(other.master)
            other.master = -1
        return not waits

    other.listen(at_most=1500)
    with pytest.raises((LineError, Stopped)):
        send(other.port, PROGRAM * 4, SerialLine(), leave)


@pytest.mark.parametrize("port", ["/dev/no-such-line", "/", "", "/dev/null"])
def test_what_is_no_line_is_said_in_a_sentence(port: str, tmp_path: Path) -> None:
    with pytest.raises(LineError, match=r"cannot be used: .+\.$"):
        send(port, PROGRAM, SerialLine(), always)
    with pytest.raises(LineError, match=r"cannot be used: .+\.$"):
        receive(port, SerialLine(), always)


# -- back ---------------------------------------------------------------------------------------------------------


def test_a_program_comes_back_as_it_went(other: OtherEnd) -> None:
    assert other.said_to(b"\x00" * 30 + PROGRAM + b"\x00" * 30) == PROGRAM
    assert is_whole(PROGRAM)


def test_it_comes_with_pauses(other: OtherEnd) -> None:
    short = PROGRAM[: PROGRAM.index(b"G1 X120")] + b"%\r\n"
    assert other.said_to(short, pause=0.05, chunk=700) == short


def test_without_marks_it_ends_with_silence(other: OtherEnd) -> None:
    found = other.said_to(b"G0 X1\nM30\n")
    assert found == b"G0 X1\nM30\n"
    assert is_whole(found)


@pytest.mark.parametrize("lost", [b"%\r\nO1\r\nG0 X1\r\n", b"G0 X1\r\nM30\r\n%\r\n", b"%\r\n", b"", b"\r\n"])
def test_what_lost_an_end_says_so(lost: bytes) -> None:
    assert not is_whole(lost)


def test_nobody_sends(other: OtherEnd) -> None:
    with pytest.raises(Stopped):
        receive(other.port, SerialLine(), lambda count, waits: not waits)


def test_what_never_ends_is_no_program(other: OtherEnd, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(lines, "LARGEST", 5_000)
    with pytest.raises(LineError, match="no program"):
        other.said_to(b"G0 X1\n" * 2000)


# -- as the card wants it -----------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("dialect", "text", "name"),
    [
        (Dialect(), "Winch base 2", "Winch-base-2.nc"),
        (Dialect(), "a.nc", "a.nc"),
        (Dialect(suffix=".TAP", name_length=8), "Winch base", "Winch-ba.TAP"),
        (Dialect(suffix=".H", upper_names=True, name_length=6), "wölle/../x", "W-LLE-.H".replace("-.H", ".H")),
        (Dialect(suffix="no end"), "plate", "plate.nc"),
        (Dialect(name_length=3), "", "pro.nc"),
        (Dialect(suffix=".tap"), "part.nc", "part.tap"),
    ],
)
def test_names_are_as_the_machine_takes_them(dialect: Dialect, text: str, name: str) -> None:
    assert safe_name(text, dialect) == name


def test_several_programs_have_several_names_however_short() -> None:
    for length in (1, 2, 5, 40):
        found = names_of("bearing cap", [10, 20, 30], Dialect(name_length=length))
        assert len(set(found)) == 3
        assert all(len(name) - 3 <= max(length, 1) for name in found)
    assert names_of("cap", [10, 2030], Dialect(names_by_number=True, suffix="")) == ["O0010.nc", "O2030.nc"]


@pytest.mark.parametrize(("ends", "sent"), [("lf", b"G0\nM30\n"), ("crlf", b"G0\r\nM30\r\n"), ("cr", b"G0\rM30\r")])
def test_lines_end_as_the_machine_wants(ends: str, sent: bytes) -> None:
    job = answering.answered(job_of(Facing(id="f")), "dialect:mill-600.line_ends", ends)
    assert sent_bytes(Program(("G0", "M30"), ()), job.card, "mm", ()) == sent


def test_the_card_is_asked_about_files_and_line() -> None:
    job = job_of(Facing(id="f"))
    assert job.card.line is None
    job = answering.answered(answering.answered(job, "card:mill-600.serial", True), "card:mill-600.baud", 4800)
    assert job.card.line == SerialLine(baud=4800)
    job = answering.answered(job, "dialect:mill-600.suffix", "tap")
    assert [t.field for t in crib_troubles(job, "dialect", "mill-600")] == ["suffix"]
    assert CARDS["mill-600"].line is None
