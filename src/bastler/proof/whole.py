"""The proof of a whole job: that of each holding."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from bastler.job import Plan
from bastler.proof.remark import ORDER, Remark
from bastler.proof.result import AnyProof

WORST: tuple[Literal["stop", "open", "left", "proved"], ...] = ("stop", "open", "left", "proved")
"""Verdicts, the worst first."""


@dataclass(frozen=True)
class JobProof:
    """The proofs of all holdings, in order."""

    plan: Plan
    holdings: tuple[AnyProof, ...]

    @property
    def first(self) -> AnyProof:
        """That of the first holding."""
        return self.holdings[0]

    def get(self, ident: str) -> AnyProof | None:
        """The proof of the holding of that id."""
        return next((p for h, p in zip(self.plan.holdings, self.holdings, strict=True) if h.holding.id == ident), None)

    @cached_property
    def remarks(self) -> tuple[Remark, ...]:
        """All remarks, stops first; what is said of several holdings alike once."""
        every = dict.fromkeys(r for proof in self.holdings for r in proof.remarks)
        return tuple(sorted(every, key=lambda r: ORDER[r.level]))

    @property
    def proved(self) -> bool:
        """Nothing found in any holding that must not run, and nothing left open."""
        return all(proof.proved for proof in self.holdings)

    @property
    def verdict(self) -> Literal["proved", "left", "open", "stop"]:
        """The worst verdict of all."""
        return next(word for word in WORST if any(proof.verdict == word for proof in self.holdings))

    @property
    def total(self) -> float:
        """Seconds that all programs take."""
        return sum(proof.total for proof in self.holdings)

    @property
    def took(self) -> float:
        return sum(proof.took for proof in self.holdings)
