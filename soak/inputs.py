"""Hostile input for every reader: whatever the bytes, the answer is a value or the reader's own error, within its time.

Each input is made of a good one by a few changes: bytes, numbers, whole lines, brackets without an end, signs of other scripts.
"""

from __future__ import annotations

import contextlib
import logging
import random
import tempfile
from collections.abc import Callable
from dataclasses import fields
from pathlib import Path

import numpy as np

from bastler.exchange import DrawingError, read_dxf, read_places
from bastler.job import JobFileError, new_job, plan, read_job_text
from bastler.job.files import job_text
from bastler.job.samples import sample, sample_drawing, sample_names
from bastler.nc import Control, ReadBefore, Trace, read
from bastler.post import post
from bastler.proof import scene_of
from bastler.tools.lists import ToolListError, csv_list, json_list, read_list
from bastler.units import ExpressionError, Kind, evaluate

PIECES = (
    b"9" * 400, b"-", b"1e999", b"1e-999", b"nan", b"Infinity", b"[" * 3000, b"{" * 3000, b'"', b"\\u0000", b"\xff\xfe", b"\x00",
    b"\\ud800", "²".encode(), "\u202e".encode(), b"<img src='/dev/zero'>", b"{0.__class__}", b"=cmd()", b"null", b"true", b"-1",
    b"0", b"1000000000", b"M98 P1", b"G2 I0 J0", b"L999999", b"G83 Q0.00001", b"(", b")", b"%", b"\n", b"\r", b"X1000000000",
    b"G41", b"O1", b"A", b"#1=2", b"99999", b";",
)  # fmt: skip


def mutated(draw: random.Random, data: bytes) -> bytes:
    """A good input with a few things wrong in it."""
    made = bytearray(data)
    for _ in range(draw.randint(1, 6)):
        at = draw.randrange(len(made) + 1)
        what = draw.randrange(6)
        if what == 0 and made:
            made[at % len(made)] = draw.randrange(256)
        elif what == 1:
            made[at:at] = draw.choice(PIECES)
        elif what == 2:
            del made[at : at + draw.choice((1, 3, 40))]
        elif what == 3:
            lines = bytes(made).split(b"\n")
            lines.insert(draw.randrange(len(lines)), draw.choice(lines))
            made = bytearray(b"\n".join(lines))
        elif what == 4:
            numbers = [k for k, byte in enumerate(made) if 48 <= byte < 58]
            if numbers:
                k = draw.choice(numbers)
                made[k : k + 1] = draw.choice(PIECES)
        else:
            made = made[:at]
    return bytes(made)


def _job(data: bytes) -> None:
    try:
        job = read_job_text(data)
    except JobFileError:
        return
    plan(job)
    if read_job_text(job_text(job)) != job:
        raise AssertionError("What was read and written is read as another job.")


def _program(data: bytes) -> None:
    _read_again(data, scene_of(plan(new_job())).control)


def _turned(data: bytes) -> None:
    _read_again(data, scene_of(plan(new_job("mm", "lathe-200"))).control)


def _read_again(data: bytes, control: Control) -> None:
    """Read in stretches that are known from a program with a line less, it does what it does read from nothing."""
    text, before = data.decode("latin-1"), ReadBefore()
    lines = text.split("\n")
    gone = len(data) % len(lines)
    read("\n".join(lines[:gone] + lines[gone + 1 :]), control, before=before, breaks=range(0, len(lines), 7))
    shifted = [k + (k > gone) for k in range(0, len(lines), 7)]
    again, fresh = read(text, control, before=before, breaks=shifted), read(text, control)
    for field in fields(Trace):
        one, other = getattr(again, field.name), getattr(fresh, field.name)
        if not (np.array_equal(one, other) if isinstance(one, np.ndarray) else one == other):
            raise AssertionError(f"Read again, its {field.name} is another.")


NUMBERS = (0, 1, 2, 3, 5, -3, 0.5, 12.5, 41, 54, 81, 83, 90, 91, 98, 101, 600)


def words(draw: random.Random) -> bytes:
    """A program of any words at all."""
    lines = []
    for _ in range(draw.randint(1, 30)):
        numbers = (draw.choice(NUMBERS) for _ in range(draw.randint(1, 5)))
        lines.append(" ".join(f"{draw.choice('GGGGMXXYYZZIJKRFSTPQDHLUWNO')}{number:g}" for number in numbers))
    return "\n".join(lines).encode()


def _on_disk(data: bytes, suffix: str, reader: Callable[[Path], object], errors: type[Exception]) -> None:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"a{suffix}"
        path.write_bytes(data)
        with contextlib.suppress(errors):
            reader(path)


def _dxf(data: bytes) -> None:
    _on_disk(data, ".dxf", lambda path: read_dxf(path, "mm", 0.01), DrawingError)


def _places(data: bytes) -> None:
    _on_disk(data, ".csv", read_places, DrawingError)


def _tools(data: bytes) -> None:
    with contextlib.suppress(ToolListError):
        read_list(data.decode("utf-8-sig", "replace"), "a list")


def _expression(data: bytes) -> None:
    with contextlib.suppress(ExpressionError):
        evaluate(data.decode("utf-8", "replace"), Kind.LENGTH, "mm")


def _good() -> list[tuple[str, bytes, Callable[[bytes], None]]]:
    found: list[tuple[str, bytes, Callable[[bytes], None]]] = []
    for name in sample_names():
        job = sample(name)
        found.append(("job", job_text(job), _job))
        found.append(("program", post(plan(job).first).sent, _turned if job.turns else _program))
    milled = new_job()
    found += [("dxf", sample_drawing().read_bytes(), _dxf), ("places", b"X,Y\n1,2\n3.5,4\n", _places)]
    found += [("tools", csv_list(milled.tools).encode(), _tools), ("tools", json_list(milled.tools).encode(), _tools)]
    found += [("sum", text, _expression) for text in (b"3.25-2*0.4", b"1 1/8", b"12mm", b"(2+3)*sin(30)", b"1/2in")]
    return found


GOOD = _good()
logging.getLogger("ezdxf").setLevel(logging.CRITICAL)


def run(seed: int) -> None:
    """One input. Raises whatever goes wrong."""
    draw = random.Random(seed)
    kind = draw.choice(sorted({known for known, _, _ in GOOD}))  # each reader as often as the others
    _, data, reader = draw.choice([good for good in GOOD if good[0] == kind])
    data = words(draw) if kind == "program" and draw.random() < 0.5 else data
    reader(mutated(draw, data) if draw.random() < 0.9 else data)
