"""The programs and proofs of the samples as they were when the layout began to change: moving things about changes none of
them. `python tests/test_base.py` writes them anew, for a change that is meant to be one."""

from __future__ import annotations

import json
from typing import Any

import pytest

from bastler.job import plan
from bastler.job.samples import sample, sample_names
from bastler.post import post
from bastler.proof.report import report_whole
from conftest import BASE, sample_proof

SAME = 1e-6
"""Of a number: other processors add in another order."""


def found(name: str) -> tuple[str, dict[str, Any]]:
    """The program of a sample, and what is said of it."""
    planned = plan(sample(name))
    texts = "".join(post(group).text for group in planned.programs)
    return texts, json.loads(json.dumps(report_whole(sample_proof(name))))


def differs(a: Any, b: Any, place: str = "") -> list[str]:
    """Where two reports say something else."""
    if (isinstance(a, float) and isinstance(b, float | int)) or (isinstance(b, float) and isinstance(a, int)):
        return [] if a == pytest.approx(b, rel=SAME, abs=SAME) else [f"{place}: {b} is now {a}"]
    if isinstance(a, dict) and isinstance(b, dict) and a.keys() == b.keys():
        return [text for key in a for text in differs(a[key], b[key], f"{place}.{key}")]
    if isinstance(a, list) and isinstance(b, list) and len(a) == len(b):
        return [text for k, (x, y) in enumerate(zip(a, b, strict=True)) for text in differs(x, y, f"{place}[{k}]")]
    return [] if a == b else [f"{place}: {b!r} is now {a!r}"]


@pytest.mark.parametrize("name", sample_names())
def test_program_and_proof_of_a_sample_are_what_they_were(name: str) -> None:
    text, said = found(name)
    assert text == (BASE / f"{name}.nc").read_text(encoding="utf-8")
    assert differs(said, json.loads((BASE / f"{name}.json").read_text(encoding="utf-8"))) == []


def test_a_difference_is_told() -> None:
    assert differs({"a": [1.0, 2]}, {"a": [1.0 + 1e-9, 2]}) == []
    assert differs({"a": [1.0, 2]}, {"a": [1.01, 2]}) == [".a[0]: 1.01 is now 1.0"]
    assert differs({"a": "x"}, {"b": "x"}) != []
    assert differs([1], [1, 2]) != []


if __name__ == "__main__":
    for sample_name in sample_names():
        own_text, own_report = found(sample_name)
        (BASE / f"{sample_name}.nc").write_text(own_text, encoding="utf-8")
        (BASE / f"{sample_name}.json").write_text(json.dumps(own_report, indent=1) + "\n", encoding="utf-8")
