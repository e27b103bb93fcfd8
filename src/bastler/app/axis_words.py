"""Questions of a plan in the words of where it lies on a turned part."""

from __future__ import annotations

from msgspec.structs import replace

from bastler.ask import Question
from bastler.steps.place import Where, on_part


def asked_on_part(question: Question, where: Where) -> Question:
    """A question in these words."""
    return replace(question, says=on_part(question.says, where), helps=on_part(question.helps, where))
