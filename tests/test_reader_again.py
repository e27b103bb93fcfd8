"""A program read again after an edit gives the trace that reading it from nothing gives."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import edits, plan
from bastler.job.samples import sample, sample_names
from bastler.nc import Control, ReadBefore, Trace, read
from bastler.nc.state import MachineState
from bastler.post import post
from bastler.proof import scene_of
from conftest import many, some

G = [
    0,
    1,
    2,
    3,
    4,
    17,
    18,
    20,
    21,
    28,
    33,
    40,
    41,
    42,
    43,
    49,
    52,
    53,
    54,
    55,
    71,
    73,
    76,
    80,
    81,
    83,
    90,
    91,
    92,
    94,
    95,
    96,
    97,
    99,
]
M = [0, 3, 4, 5, 6, 8, 9, 30, 98, 99]
VALUES = [0, 1, 2, 3, 5, 10, -3, 0.5, 101, 12.5, 600]


def alike(again: Trace, fresh: Trace) -> None:
    for field in fields(Trace):
        one, other = getattr(again, field.name), getattr(fresh, field.name)
        assert np.array_equal(one, other) if isinstance(one, np.ndarray) else one == other, field.name


def whole(name: str) -> tuple[list[str], list[int], Control]:
    """A sample's program in lines, where its stages begin, and its control."""
    planned = plan(sample(name))
    program = post(planned.first)
    return list(program.lines), [section.first for section in program.sections], scene_of(planned).control


@st.composite
def lines(draw: st.DrawFn) -> str:
    words = [f"G{draw(st.sampled_from(G))}" for _ in range(draw(st.sampled_from([0, 0, 1, 1, 2])))]
    words += [f"M{draw(st.sampled_from(M))}" for _ in range(draw(st.sampled_from([0, 0, 0, 1])))]
    letters = st.sampled_from("XYZXYZXYZFSTIJKRQPDHLUWNO")
    words += [f"{draw(letters)}{draw(st.sampled_from(VALUES))}" for _ in range(draw(st.integers(0, 4)))]
    line = " ".join(draw(st.permutations(words)))
    return draw(st.sampled_from([line, line, line, f"/{line}", f"{line} #1", f"({line})"]))


@settings(max_examples=many(6))
@given(st.data())
@pytest.mark.parametrize("name", some(sample_names(), 3))
def test_again_is_from_nothing(name: str, data: st.DataObject) -> None:
    text, breaks, control = whole(name)
    before = ReadBefore()
    alike(read("\n".join(text), control, before=before, breaks=breaks), read("\n".join(text), control))
    for _ in range(3):
        at = data.draw(st.integers(0, len(text) - 1))
        kind = data.draw(st.sampled_from(["put in", "put in", "instead", "gone", "twice", "stretch"]))
        other = data.draw(lines())
        if kind == "stretch":  # a stage done again elsewhere
            here, there = data.draw(st.integers(0, len(breaks) - 2)), data.draw(st.sampled_from(breaks))
            taken = text[breaks[here] : breaks[here + 1]]
            text = [*text[:there], *taken, *text[there:]]
            breaks = sorted({*(b if b < there else b + len(taken) for b in breaks), there})
            continue
        put = {"put in": [other, text[at]], "instead": [other], "gone": [], "twice": [text[at]] * 2}[kind]
        text = [*text[:at], *put, *text[at + 1 :]]
        breaks = [b if b <= at else b + len(put) - 1 for b in breaks]
        alike(read("\n".join(text), control, before=before, breaks=breaks), read("\n".join(text), control))


@settings(max_examples=many(40))
@given(st.data())
@pytest.mark.parametrize("name", ["winch-base", "drum-spindle"])
def test_programs_of_any_words_too(name: str, data: st.DataObject) -> None:
    control = whole(name)[2]
    text = ["T1 M6" if name == "winch-base" else "T0101", "S900 M3", "G0 X5 Z5 F100", *(data.draw(lines()) for _ in range(12))]
    before = ReadBefore()
    for _ in range(3):
        breaks = data.draw(st.lists(st.integers(0, len(text)), max_size=5))
        alike(read("\n".join(text), control, before=before, breaks=breaks), read("\n".join(text), control))
        text[data.draw(st.integers(0, len(text) - 1))] = data.draw(lines())


def run_lines(monkeypatch: pytest.MonkeyPatch) -> list[int]:
    """The lines run one by one from now on."""
    ran: list[int] = []
    run_line = MachineState.run_line

    def counted(self: MachineState, line: int) -> int:
        ran.append(line)
        return run_line(self, line)

    monkeypatch.setattr(MachineState, "run_line", counted)
    return ran


@pytest.mark.parametrize("name", ["winch-base", "drum-spindle"])
def test_an_edit_reads_what_it_touches(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    job = sample(name)
    text, breaks, control = whole(name)
    before = ReadBefore()
    ran = run_lines(monkeypatch)
    read("\n".join(text), control, before=before, breaks=breaks)
    every = len(ran)
    ran.clear()
    read("\n".join(text), control, before=before, breaks=breaks)
    assert not ran
    other = post(plan(edits.step_switched(job, job.steps[-1].id)).first)
    read(other.text, control, before=before, breaks=[section.first for section in other.sections])
    assert len(ran) < every / 4


@pytest.mark.parametrize(
    "change",
    [
        {"home": (1.0, 2.0, 400.0)},
        {"tool_offsets": {}},
        {"offsets": {1: (9.0, 0.0, 0.0)}},
        {"peck_clearance": 0.75},
    ],
)
def test_another_control_takes_nothing_over(change: dict[str, Any]) -> None:
    from dataclasses import replace

    text, breaks, control = whole("winch-base")
    before = ReadBefore()
    read("\n".join(text), control, before=before, breaks=breaks)
    other = replace(control, **change)
    alike(read("\n".join(text), other, before=before, breaks=breaks), read("\n".join(text), other))


def test_what_hangs_on_a_line_elsewhere_is_read_anew() -> None:
    """A call, and a cycle that names its outline by line numbers: both are the same text, what they name is not."""
    for name, head, tail, one, other in (
        ("winch-base", "T1 M6\nS900 M3\nG0 X0 Y0 Z5\nM98 P7\nG0 X1\n", "M30\nO7\nG1 X{} F99\nM99\n", "20", "30"),
        ("drum-spindle", "T0101\nG97 S900 M3\nG0 X60 Z5\nG70 P8 Q9\nG0 X70\n", "M30\nN8 G0 X{}\nN9 G1 Z-5 F0.1\n", "20", "30"),
    ):
        control = whole(name)[2]
        before = ReadBefore()
        for value in (one, other):
            text = head + tail.format(value)
            again = read(text, control, before=before, breaks=[0, 3, 4, 5])
            alike(again, read(text, control))
            assert float(value) * (1.0 if name == "winch-base" else 0.5) in again.end[:, 0]
