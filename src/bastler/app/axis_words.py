"""What the axes of a plan are called: X and Y; on the side of a turned part Z and across, on its round Z and round."""

from __future__ import annotations

import re

from msgspec.structs import replace

from bastler.ask import Question
from bastler.steps.place import Where

ACROSS: dict[Where, str] = {"side": "across", "round": "round"}
"""What Y is called."""


def on_part(text: str, where: Where) -> str:
    """Words that are said of X and Y, of a place on a turned part. Round it what is about X is along Z, and about Z a height."""
    if where not in ACROSS:
        return text
    text = re.sub(r"\bZ\b", "height", text)
    text = re.sub(r"\bX\b", "Z", text)
    text = re.sub(r"^Y\b", ACROSS[where].capitalize(), text)
    return re.sub(r"\bY\b", ACROSS[where], text)


def asked_on_part(question: Question, where: Where) -> Question:
    """A question in these words."""
    return replace(question, says=on_part(question.says, where), helps=on_part(question.helps, where))
