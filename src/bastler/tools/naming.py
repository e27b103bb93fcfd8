"""What the tools that come with Bastler are called, in the language in force.

A name is the shop's own, stands in the job as it was given and in the program, and nobody translates it. Those that come along
are made of a few words of the trade, with sizes and letters of standards between them: such a name is said in the language.
"""

from __future__ import annotations

import functools
import re

from bastler.language import decimal, spoken, tr_as

SENSE = "tool"
WORDS = (
    "Face mill", "End mill", "Bull-nose mill", "Ball-nose mill", "Chamfer mill", "Thread mill", "Engraving tool", "Spot drill",
    "Twist drill", "Drill", "Reamer", "Tap", "Boring head", "Boring bar", "Outside", "Outside round", "Groove outside",
    "Groove inside", "Groove face", "Thread outside", "Thread inside", "Thread face", "Thread outside buttress",
    "Thread inside buttress", "Part-off", "Bar stop", "Bar puller", "inserts", "flutes", "one tooth", "set to", "tip", "floating",
    "pipe", "an inch", "roughing", "finishing", "profiles", "both ways", "full radius", "dovetail", "trapezoidal", "left hand",
    "fine pitches and NPT", "pitch", "to", "for the back", "for the side",
)  # fmt: skip
"""All that is a word in them; the rest are sizes, and letters as in R1, M6, H7 or C 80°."""
_WORD = re.compile(rf"\b(?:{'|'.join(sorted(WORDS, key=len, reverse=True))})\b")
_OWN_WORD = re.compile(r"[A-Za-z]{2,}|[^\W\d_a-zA-Z]")


@functools.lru_cache(maxsize=1024)
def _said(name: str, language: str) -> str:
    if _OWN_WORD.search(_WORD.sub("", name).replace("Acme", "")):
        return name
    return decimal(_WORD.sub(lambda found: tr_as(SENSE, found[0]), name))


def said_name(name: str) -> str:
    """The name of a tool as it is said here; one with any word of the shop's own as it is."""
    return _said(name, spoken())
