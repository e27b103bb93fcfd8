"""Questions: how an answer is declared once, for form, sheet, check, schema and docs alike.

An *answer* is a field of a frozen struct; its annotation carries the `Question`. `None` in a field with a proposal means
"computed". Everything that shows or checks answers walks `questions_of(struct)`.
"""

from bastler.ask.filling import Trouble, filled, problems
from bastler.ask.question import Answers, Question, ask, choose, is_, isnt, pick, question_of, questions_of
from bastler.ask.sizes import limits_in_words, limits_said, size_typed, toleranced

__all__ = [
    "Answers",
    "Question",
    "Trouble",
    "ask",
    "choose",
    "filled",
    "is_",
    "isnt",
    "limits_in_words",
    "limits_said",
    "pick",
    "problems",
    "question_of",
    "questions_of",
    "size_typed",
    "toleranced",
]
