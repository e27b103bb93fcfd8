"""Unit kinds, expressions and the way numbers are written. The lowest layer: it knows nothing of jobs."""

from bastler.units.expression import ExpressionError, evaluate, limits_typed
from bastler.units.kinds import MM_PER_INCH, Kind, Unit, scale
from bastler.units.text import clock, figures, grouped, in_a_sentence, number_text, plain_number, printed, whole_number, with_unit

__all__ = [
    "MM_PER_INCH",
    "ExpressionError",
    "Kind",
    "Unit",
    "clock",
    "evaluate",
    "figures",
    "grouped",
    "in_a_sentence",
    "limits_typed",
    "number_text",
    "plain_number",
    "printed",
    "scale",
    "whole_number",
    "with_unit",
]
