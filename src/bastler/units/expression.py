"""What may be typed into a number field: arithmetic, fractions and unit suffixes.

Grammar (spaces separate, a comma is a decimal point for those who type one)::

    sum     = product (("+" | "-") product)*
    product = signed (("*" | "/") signed)*
    signed  = ("+" | "-") signed | amount
    amount  = (fraction | number | name "(" sum ")" | "(" sum ")") [suffix]
    fraction = [whole] whole "/" whole      1/2   1 1/8   only where both are whole numbers

A suffix turns the amount before it into the unit of the job: `12mm` in an inch job is 0.4724. A number without a
suffix is already in the job's unit. `1/2in` is half an inch, not the inverse of two.
Trigonometric functions take and give degrees. A length may have a tolerance behind it, see `limits`.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from bastler.language import sayable, tr
from bastler.units.kinds import MM_PER_INCH, Kind, Unit
from bastler.units.limits import LENGTHS, LimitsError, Off, Parted, aimed, parted

_TOKEN = re.compile(r"\s*(?:(?P<number>[0-9]+[.,]?[0-9]*|[.,][0-9]+)|(?P<word>[A-Za-zµ°'\"]+)|(?P<sign>[-+*/()−×·÷]))")
_SIGNS = {"−": "-", "×": "*", "·": "*", "÷": "/"}
_ANGLES = {"deg": 1.0, "°": 1.0, "rad": 180.0 / math.pi}
_TIMES = {"s": 1.0, "ms": 0.001, "min": 60.0}
RESERVED = frozenset({"at", "pi"})
"""Words that mean something in what is typed, besides those below and the units."""
_ROUNDING = 1e-12
"""What is no further below nothing is what sums have lost: the end of an ellipse has a root."""
_FUNCTIONS: dict[str, Callable[[float], float]] = {
    "sqrt": lambda a: math.sqrt(0.0 if -_ROUNDING < a < 0.0 else a),
    "sin": lambda a: math.sin(math.radians(a)),
    "cos": lambda a: math.cos(math.radians(a)),
    "tan": lambda a: math.tan(math.radians(a)),
    "atan": lambda a: math.degrees(math.atan(a)),
}
RESERVED |= {name.lower() for name in (*_FUNCTIONS, *_ANGLES, *_TIMES, *LENGTHS)}
_LONGEST = 200
_PLACES = 9
"""A size between limits is as many digits long, where arithmetic would leave a tail."""
_DEEPEST = 40


class ExpressionError(ValueError):
    """What was typed cannot be read. `place` is the index of the character at fault, `reason` a plain sentence."""

    def __init__(self, reason: str, place: int, *, there: bool = False) -> None:
        super().__init__(reason)
        self.reason = reason
        self.place = place
        self.there = there
        """Is it only there that it has no value?"""


@dataclass(frozen=True)
class _Token:
    text: str
    what: str
    place: int


@dataclass(frozen=True)
class _Amount:
    """A number and what it is of: "" for a bare one, else "length", "angle" or "time"."""

    value: float
    of: str


def evaluate(text: str, kind: Kind, unit: Unit) -> float:
    """The number that `text` means in a field of `kind` of a job in `unit`; of a length with a tolerance the one that is cut, see
    `limits`.

    Raises ExpressionError with the place for anything else than one finite number of that kind.
    """
    if len(text) > _LONGEST:
        raise ExpressionError(tr("That is too long to be one number."), _LONGEST)
    size = parted(text) if kind is Kind.LENGTH else None
    if size is None:
        return _evaluated(text, kind, unit)
    try:
        return round(aimed(_limits(size, unit), _evaluated(size.at, kind, unit) if size.at else None), _PLACES)
    except LimitsError as error:
        raise ExpressionError(str(error), len(size.size)) from None


def limits_typed(text: str, unit: Unit) -> Off | None:
    """The smallest and the largest size that was typed for a length of a job in `unit`; None where no tolerance was."""
    size = parted(text) if len(text) <= _LONGEST else None
    try:
        return _limits(size, unit) if size is not None else None
    except (ExpressionError, LimitsError):
        return None


def function_of(text: str, unit: Unit, name: str) -> Callable[[float], float]:
    """What `text` means as a formula of one length that is called `name` in it: takes and gives lengths in `unit`.

    Raises ExpressionError at once for what cannot be read, and later for what does not exist at a place.
    """
    if len(text) > _LONGEST:
        raise ExpressionError(tr("That is too long to be one formula."), _LONGEST)
    tokens = _tokens(text)

    def value(at: float) -> float:
        found = _Parser(tokens, unit, len(text), {name: at}).whole()
        if found.of not in ("", "length"):
            raise ExpressionError(tr("This is {article}, not a length.", article=_article(found.of)), 0)
        return found.value

    try:
        value(_ANY_PLACE)
    except ExpressionError as error:
        if not error.there:
            raise
    return value


_ANY_PLACE = 1.234567
"""Where a formula is tried: what is wrong with it is wrong there too, but for roots and divisions."""


def _limits(size: Parted, unit: Unit) -> Off:
    return size.limits(_evaluated(size.size, Kind.LENGTH, unit), unit)


def _evaluated(text: str, kind: Kind, unit: Unit) -> float:
    """One number without a tolerance."""
    parser = _Parser(_tokens(text), unit, len(text))
    amount = parser.whole()
    if amount.of and amount.of != _family(kind):
        raise ExpressionError(
            tr(
                "This is {article}, the question asks for {article_2}.",
                article=_article(amount.of),
                article_2=_article(_family(kind)),
            ),
            0,
        )
    if not math.isfinite(amount.value):
        raise ExpressionError(tr("The result is not a number anyone could use."), 0)
    return amount.value


def _family(kind: Kind) -> str:
    if kind in (Kind.LENGTH, Kind.FEED_PER_TOOTH):
        return "length"
    return {Kind.ANGLE: "angle", Kind.TIME: "time"}.get(kind, "number")


_ARTICLES = sayable({"length": "a length", "angle": "an angle", "time": "a time", "number": "a number"})


def _article(word: str) -> str:
    return tr(_ARTICLES[word])


def _tokens(text: str) -> list[_Token]:
    tokens: list[_Token] = []
    at = 0
    end = len(text.rstrip())
    while at < end:
        match = _TOKEN.match(text, at)
        if match is None:
            at += len(text[at:]) - len(text[at:].lstrip())
            raise ExpressionError(tr("“{text}” means nothing here.", text=text[at]), at)
        what = str(match.lastgroup)
        found = match.group(what)
        tokens.append(_Token(_SIGNS.get(found, found), what, match.start(what)))
        at = match.end()
    return tokens


class _Parser:
    """Recursive descent over the tokens; one method a rule of the grammar, each of which raises ExpressionError at the first
    sign that does not fit."""

    def __init__(self, tokens: list[_Token], unit: Unit, end: int, named: Mapping[str, float] | None = None) -> None:
        self.tokens = tokens
        self.known = named or {}
        """Values that have a name."""
        self.unit = unit
        self.end = end
        self.at = 0
        self.depth = 0

    def whole(self) -> _Amount:
        if not self.tokens:
            raise ExpressionError(tr("Type a number."), 0)
        amount = self.sum()
        if self.at < len(self.tokens):
            token = self.tokens[self.at]
            raise ExpressionError(tr("“{text}” was not expected here.", text=token.text), token.place)
        return amount

    def peek(self, ahead: int = 0) -> _Token:
        index = self.at + ahead
        return self.tokens[index] if index < len(self.tokens) else _Token("", "end", self.end)

    def take(self) -> _Token:
        token = self.peek()
        self.at += 1
        return token

    def sum(self) -> _Amount:
        left = self.product()
        while self.peek().text in ("+", "-"):
            sign = self.take()
            right = self.product()
            if left.of and right.of and left.of != right.of:
                raise ExpressionError(
                    tr("{article} and {article_2} cannot be added.", article=_article(left.of), article_2=_article(right.of)),
                    sign.place,
                )
            value = left.value + right.value if sign.text == "+" else left.value - right.value
            left = _Amount(value, left.of or right.of)
        return left

    def product(self) -> _Amount:
        left = self.signed()
        while self.peek().text in ("*", "/"):
            sign = self.take()
            right = self.signed()
            left = _times(left, right, sign) if sign.text == "*" else _over(left, right, sign)
        return left

    def signed(self) -> _Amount:
        self.depth += 1
        if self.depth > _DEEPEST:
            raise ExpressionError(tr("Too many signs or brackets inside each other."), self.peek().place)
        try:
            if self.peek().text in ("+", "-"):
                sign = self.take()
                amount = self.signed()
                return _Amount(-amount.value, amount.of) if sign.text == "-" else amount
            return self.suffixed(self.amount())
        finally:
            self.depth -= 1

    def amount(self) -> _Amount:
        token = self.take()
        if token.what == "number":
            return _Amount(self.number(token), "")
        if token.text == "(":
            return self.bracket(token)
        if token.what == "word":
            return self.named(token)
        where = token.place
        raise ExpressionError(tr("A number is missing here.") if token.what == "end" or token.text else "?", where)

    def number(self, token: _Token) -> float:
        """One number, or a fraction made of whole numbers: `1/8`, `1 1/8`."""
        if _is_whole(token) and _is_whole(self.peek()) and self.peek(1).text == "/" and _is_whole(self.peek(2)):
            top, _, bottom = self.take(), self.take(), self.take()
            return float(token.text) + _fraction(top, bottom)
        if _is_whole(token) and self.peek().text == "/" and _is_whole(self.peek(1)) and self.peek(2).what == "word":
            _, bottom = self.take(), self.take()
            return _fraction(token, bottom)
        return float(token.text.replace(",", "."))

    def bracket(self, opened: _Token) -> _Amount:
        inner = self.sum()
        if self.peek().text != ")":
            raise ExpressionError(tr("This bracket is not closed."), opened.place)
        self.take()
        return inner

    def named(self, word: _Token) -> _Amount:
        name = word.text.lower()
        if name == "pi":
            return _Amount(math.pi, "")
        if name in self.known:
            return _Amount(self.known[name], "")
        function = _FUNCTIONS.get(name)
        if function is None:
            raise ExpressionError(tr("“{text}” is not a number.", text=word.text), word.place)
        opened = self.take()
        if opened.text != "(":
            raise ExpressionError(tr("Write {name}( … ).", name=name), opened.place)
        inner = self.bracket(opened)
        try:
            return _Amount(function(inner.value), inner.of if name == "sqrt" and not inner.of else "")
        except ValueError:
            raise ExpressionError(
                tr("{name} of {value:g} does not exist.", name=name, value=inner.value), word.place, there=True
            ) from None

    def suffixed(self, amount: _Amount) -> _Amount:
        token = self.peek()
        if token.what != "word":
            return amount
        self.take()
        name = token.text.lower()
        if amount.of:
            raise ExpressionError(tr("This already has a unit."), token.place)
        if name in LENGTHS:
            in_mm = amount.value * LENGTHS[name]
            own = LENGTHS[name] == (1.0 if self.unit == "mm" else MM_PER_INCH)
            return _Amount(amount.value if own else in_mm / (1.0 if self.unit == "mm" else MM_PER_INCH), "length")
        if name in _ANGLES:
            return _Amount(amount.value * _ANGLES[name], "angle")
        if name in _TIMES:
            return _Amount(amount.value * _TIMES[name], "time")
        raise ExpressionError(tr("“{text}” is not a unit known here.", text=token.text), token.place)


def _is_whole(token: _Token) -> bool:
    return token.what == "number" and token.text.isdigit()


def _fraction(top: _Token, bottom: _Token) -> float:
    if int(bottom.text) == 0:
        raise ExpressionError(tr("Nothing can be divided by zero."), bottom.place)
    return int(top.text) / int(bottom.text)


def _times(left: _Amount, right: _Amount, sign: _Token) -> _Amount:
    if left.of and right.of:
        raise ExpressionError(
            tr("{article} times {article_2} is not one either.", article=_article(left.of), article_2=_article(right.of)),
            sign.place,
        )
    return _Amount(left.value * right.value, left.of or right.of)


def _over(left: _Amount, right: _Amount, sign: _Token) -> _Amount:
    if right.value == 0:
        raise ExpressionError(tr("Nothing can be divided by zero."), sign.place, there=True)
    if right.of and right.of != left.of:
        raise ExpressionError(tr("This cannot be divided by {article}.", article=_article(right.of)), sign.place)
    return _Amount(left.value / right.value, "" if right.of else left.of)
