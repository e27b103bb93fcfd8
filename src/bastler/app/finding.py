"""Finding anything by a few words: commands, steps, questions, tools, remarks, lines of the program. No Qt here: what is found is
a list of entries, each with what to do with it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass

from bastler.language import sayable

MOST = 60
"""So many are listed: who sees as many types another letter."""
MOST_OF_A_KIND = 12
KINDS = sayable(
    ("Command", "Step", "Question", "Pattern or outline", "Tool", "Material", "Machine", "Remark", "Program line", "Sample")
)
"""In the order in which equals are listed."""


@dataclass(frozen=True)
class Entry:
    """Something that can be found: what it is, its words, what stands small behind them, words that it is found by besides, and
    what is done when it is taken."""

    kind: str
    says: str
    take: Callable[[], None]
    beside: str = ""
    also: str = ""


def found(entries: Iterable[Entry], typed: str) -> list[Entry]:
    """The entries that have every word that was typed, the best first: those that begin with it, those with a word that begins
    so, those that have it in their own words, then those that have it only beside or besides. Nothing typed finds nothing."""
    words = typed.casefold().split()
    if not words:
        return []
    ranked = [(rank, KINDS.index(e.kind), k, e) for k, e in enumerate(entries) if (rank := _rank(e, words)) is not None]
    ranked.sort(key=lambda entry: entry[:3])
    return list(_bounded(entry for *_, entry in ranked))[:MOST]


def _rank(entry: Entry, words: list[str]) -> int | None:
    """How well an entry fits all words, 0 best; None where it does not."""
    says, beside, also = entry.says.casefold(), entry.beside.casefold(), entry.also.casefold()
    worst = 0
    for word in words:
        if says.startswith(word):
            own = 0
        elif f" {word}" in says:
            own = 1
        elif word in says:
            own = 2
        elif word in beside:
            own = 3
        elif word in also:
            own = 4
        else:
            return None
        worst = max(worst, own)
    return worst


def _bounded(entries: Iterable[Entry]) -> Iterator[Entry]:
    """No kind crowds out the others."""
    count: dict[str, int] = {}
    for entry in entries:
        count[entry.kind] = count.get(entry.kind, 0) + 1
        if count[entry.kind] <= MOST_OF_A_KIND:
            yield entry
