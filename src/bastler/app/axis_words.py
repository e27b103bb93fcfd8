"""What the axes of a plan are called: X and Y, and on the side of a turned part Z and across."""

from __future__ import annotations

import re

from msgspec.structs import replace

from bastler.ask import Question


def on_side(text: str) -> str:
    """Words that are said of X and Y, of the side of a turned part. What is about Z is a height there."""
    text = re.sub(r"\bZ\b", "height", text)
    text = re.sub(r"\bX\b", "Z", text)
    text = re.sub(r"^Y\b", "Across", text)
    return re.sub(r"\bY\b", "across", text)


def asked_on_side(question: Question) -> Question:
    """A question in these words."""
    return replace(question, says=on_side(question.says), helps=on_side(question.helps))
