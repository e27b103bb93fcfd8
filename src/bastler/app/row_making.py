"""The row that suits a question."""

from __future__ import annotations

from bastler.app.lines_rows import CodeRow, LinesRow
from bastler.app.outline_row import OutlineRow
from bastler.app.rows import ChoiceRow, NameRow, NumberRow, NumbersRow, PickRow, Row, SliderRow, TextRow, WordRow
from bastler.app.session import Session
from bastler.app.where_row import WhereRow
from bastler.ask import Question
from bastler.job.lists import LISTS

PICKED: dict[str, type[Row]] = {
    "word": WordRow,
    "name": NameRow,
    "numbers": NumbersRow,
    "table": OutlineRow,
    "code": CodeRow,
    "positions": TextRow,
    **dict.fromkeys(LISTS, LinesRow),
}
"""Rows by what is picked; of everything else there is one to pick from."""


def make_row(session: Session, question: Question, address: str) -> Row:
    """A row of its own for a question."""
    if question.name == "where_on":
        return WhereRow(session, question, address)
    if question.choices:
        return ChoiceRow(session, question, address)
    if question.ends is not None:
        return SliderRow(session, question, address)
    if question.kind is not None:
        return NumberRow(session, question, address)
    return PICKED.get(question.picks, PickRow)(session, question, address)
