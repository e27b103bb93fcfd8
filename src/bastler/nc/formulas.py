"""Lines with parameters and formulas, compiled: their values as a control works them out when it comes to them.

The language is RS-274/NGC as NIST has published it (T. Kramer, F. Proctor, E. Messina, NISTIR 6556, 2000, chapters 3.3.2 to
3.3.3): numbered parameters `#1`, expressions in square brackets, functions of one value, and `atan[y]/[x]`. Operators bind in
three groups, each from left to right: `**`, then `*`, `/` and `mod`, then `+`, `-`, `and`, `or` and `xor`. Angles are in degrees.
A parameter that a line sets has its new value only behind that line.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.language import sayable
from bastler.nc.motion import move_lines
from bastler.nc.words import LARGEST, MOST_DIGITS
from bastler.shapes.compiling import kernel

COUNT = 5400
"""Parameters go from 1 to one less."""
OWN = 5061
"""From this one on they are the control's own: what it touched, its reference points and offsets."""
MOST_WORDS, DEEPEST = 64, 48
WHOLE = 1e-4
"""So near to a whole number a value is one (3.3.2.1)."""
(
    STRANGE, NO_VALUE, NO_BRACKET, TOO_LARGE, UNSET, NOT_ONE, CONTROLS_OWN, NO_FUNCTION, NOT_DEFINED, TOO_DEEP, NO_EQUALS,
    NOT_WHOLE, TOO_MANY, OPEN_COMMENT, LONE,
) = range(1, 16)  # fmt: skip
REASONS = sayable(
    {
        STRANGE: "This means nothing in a formula.",
        NO_VALUE: "A value is missing here: a number, a parameter, or a formula in square brackets.",
        NO_BRACKET: "A square bracket is missing here.",
        TOO_LARGE: "No machine takes a value this large, or with so many digits.",
        UNSET: "This parameter has no value: nothing before has set it.",
        NOT_ONE: "Parameters are numbered from 1 to {most}.",
        CONTROLS_OWN: "Parameters from {own} on are the control's own: what they are is known at the machine only.",
        NO_FUNCTION: "There is no function or operator of this name.",
        NOT_DEFINED: "This has no value: a division by nothing, or a function where it is not defined.",
        TOO_DEEP: "Brackets are nested too deeply.",
        NO_EQUALS: "A parameter gets its value with an equals sign.",
        NOT_WHOLE: "What is worked out here has to be a whole number.",
        TOO_MANY: "There are too many words in this line.",
        OPEN_COMMENT: "This comment is not closed.",
        LONE: "A letter has to stand before a value.",
    }
)
OPEN, SHARP, ABS, ACOS, ASIN, ATAN, COS, EXP, FIX, FUP, LN, ROUND, SIN, SQRT, TAN, OVER = range(16)
POWER, TIMES, DIVIDED, MODULO, PLUS, MINUS, AND, OR, XOR = range(20, 29)


class Parameters:
    """What the parameters of a control are, as far as a program has set them."""

    def __init__(self) -> None:
        self.values = np.zeros(COUNT)
        self.known = np.zeros(COUNT, np.bool_)
        self._letters = np.zeros(MOST_WORDS, np.uint8)
        self._found = np.zeros(MOST_WORDS)
        self._columns = np.zeros(MOST_WORDS, np.int32)
        self._sets, self._to = np.zeros(MOST_WORDS, np.int32), np.zeros(MOST_WORDS)

    def __copy__(self) -> Parameters:
        made = Parameters()
        made.values, made.known = self.values.copy(), self.known.copy()
        return made

    def __repr__(self) -> str:
        """All that is set: equal ones are said alike."""
        at = np.flatnonzero(self.known)
        return f"Parameters({dict(zip(at.tolist(), self.values[at].tolist(), strict=True))})"

    def evaluate(self, data: Any, begin: int, end: int) -> tuple[int, int, int]:
        """Works out a line, bytes `begin` to before `end` of a text (n,): the number of its words, and what is wrong with it: a
        reason and its column from 1; 0 where nothing is. What it sets is set then."""
        count, reason, column = _evaluate(data, begin, end, *self.arrays)
        return int(count), int(reason), int(column)

    @property
    def arrays(self) -> tuple[Any, ...]:
        """What kernels work on: values and which are known, then room for the words and settings of a line."""
        return (self.values, self.known, self._letters, self._found, self._columns, self._sets, self._to)

    def words(self, count: int) -> list[tuple[str, float, int]]:
        """The words of the line that was worked out last: letter, value, column."""
        letters = self._letters[:count].tobytes().decode("latin-1")
        return list(zip(letters, self._found[:count].tolist(), self._columns[:count].tolist(), strict=True))


GOES_ON, WRONG, BY_WORD = range(3)


@kernel()
def run(
    data: Any, ends: Any, formula: Any, begin: int, end: int, turns: bool, by_word: bool, parameters: Any, state: Any, rows: Any,
    count: int, faults: Any, loose: float,
) -> tuple[int, int, int, int, int, int]:  # fmt: skip
    """Runs lines `begin` to before `end` that are all of formulas (`formula`, (lines,)) as long as they only move or set. Gives
    the line that it came to, the new row count, the number of faults of moves, and why it stopped: GOES_ON at the end or where no
    formula stands, WRONG with a reason and a column, BY_WORD with the number of words of a line that is to be run by them. `ends`
    are where lines end in the text; `by_word`: every line with words is of that kind; `parameters` the arrays of `Parameters`."""
    values, known, letters, found, columns, sets, to = parameters
    first, bad = np.zeros(2, np.int64), 0
    for line in range(begin, end):
        if not formula[line]:
            return line, count, bad, GOES_ON, 0, 0
        at = ends[line - 1] + 1 if line > 0 else 0
        words, reason, column = _evaluate(data, at, ends[line], values, known, letters, found, columns, sets, to)
        if reason:
            return line, count, bad, WRONG, reason, column
        codes, moves = 0, words == 0 or not by_word
        for k in range(words):
            c = letters[k]
            if c == 71:
                codes += 1
                moves = moves and codes == 1 and (found[k] == 0.0 or found[k] == 1.0 or found[k] == 2.0 or found[k] == 3.0)
            elif c not in (78, 88, 89, 90, 73, 74, 75, 82, 70) or (turns and c in (89, 74)):
                moves = False
        if not moves:
            return line, count, bad, BY_WORD, words, 0
        first[1] = words
        before = count
        count, wrong = move_lines(letters, found, first, 0, 1, state, rows, count, faults[bad:], loose)
        if count > before:
            rows[before, 0] = line
        if wrong:
            faults[bad, 0] = line
            bad += 1
            if bad >= len(faults) - 1:
                return line + 1, count, bad, GOES_ON, 0, 0
    return end, count, bad, GOES_ON, 0, 0


@kernel()
def _evaluate(
    data: Any, begin: int, end: int, values: Any, known: Any, letters: Any, found: Any, columns: Any, sets: Any, to: Any
) -> tuple[int, int, int]:
    """Fills words and settings of a line; the number of words, the reason why it is wrong, and the column of that."""
    count, settings, i = 0, 0, begin
    while i < end:
        c = data[i]
        if c in (32, 9, 13, 10, 37):
            i += 1
        elif c == 59:
            break
        elif c == 40:
            at = i
            while i < end and data[i] != 41:
                i += 1
            if i >= end:
                return count, OPEN_COMMENT, at - begin + 1
            i += 1
        elif c == 47 and count == 0 and settings == 0:
            i += 1
        elif c == 35:
            at = i
            number, i, reason, where = _value(data, i + 1, end, values, known)
            if reason:
                return count, reason, where - begin + 1
            index, reason = _index(number)
            if reason:
                return count, reason, at - begin + 1
            i = _skipped(data, i, end)
            if i >= end or data[i] != 61:
                return count, NO_EQUALS, min(i, end - 1) - begin + 1
            value, i, reason, where = _value(data, i + 1, end, values, known)
            if reason:
                return count, reason, where - begin + 1
            if settings >= MOST_WORDS:
                return count, TOO_MANY, at - begin + 1
            sets[settings], to[settings] = index, value
            settings += 1
        elif (c >= 65 and c <= 90) or (c >= 97 and c <= 122):
            at, code = i, c - 32 if c >= 97 else c
            value, i, reason, where = _value(data, i + 1, end, values, known)
            if reason:
                return count, reason, where - begin + 1
            if code in (71, 77, 78, 79, 84, 72, 68, 76):  # G in tenths, M N O T H D L whole
                tenth = 10.0 if code == 71 else 1.0
                if abs(value * tenth - round(value * tenth)) > WHOLE * tenth:
                    return count, NOT_WHOLE, at - begin + 1
                value = round(value * tenth) / tenth
            if abs(value) > LARGEST:
                return count, TOO_LARGE, at - begin + 1
            if count >= MOST_WORDS:
                return count, TOO_MANY, at - begin + 1
            letters[count], found[count], columns[count] = code, value, at - begin + 1
            count += 1
        else:
            lone = (c >= 48 and c <= 57) or c in (43, 45, 46, 91)
            return count, LONE if lone else STRANGE, i - begin + 1
    for k in range(settings):
        values[sets[k]], known[sets[k]] = to[k], True
    return count, 0, 0


@kernel()
def _skipped(data: Any, i: int, end: int) -> int:
    while i < end and data[i] in (32, 9, 13):
        i += 1
    return i


@kernel()
def _index(number: float) -> tuple[int, int]:
    """Which parameter a value names, and what is wrong with that."""
    if not abs(number) < 1e9 or abs(number - round(number)) > WHOLE:
        return 0, NOT_ONE
    index = int(round(number))
    if index < 1 or index >= COUNT:
        return 0, NOT_ONE
    return index, CONTROLS_OWN if index >= OWN else 0


@kernel()
def _binds(op: int) -> int:
    if op == POWER:
        return 3
    return 2 if op <= MODULO else 1


@kernel()
def _value(data: Any, i: int, end: int, values: Any, known: Any) -> tuple[float, int, int, int]:
    """One value from a place in the text on: the value, the place behind it, what is wrong, and where."""
    stack, ops = np.zeros(DEEPEST), np.zeros(DEEPEST, np.int64)
    many, deep = 0, 0  # values and operators that wait
    wants = True  # an operand
    while True:
        i = _skipped(data, i, end)
        if i >= end:
            return 0.0, i, NO_VALUE if wants else NO_BRACKET, max(i - 1, 0)
        if deep >= DEEPEST - 2 or many >= DEEPEST - 2:
            return 0.0, i, TOO_DEEP, i
        c = data[i]
        at = i
        if wants:
            if c == 35:
                ops[deep] = SHARP
                deep += 1
                i += 1
                continue
            if c == 91:
                ops[deep] = OPEN
                deep += 1
                i += 1
                continue
            if (c >= 65 and c <= 90) or (c >= 97 and c <= 122):
                name, i = _name(data, i, end)
                if name < ABS or name > TAN:
                    return 0.0, i, NO_FUNCTION, at
                i = _skipped(data, i, end)
                if i >= end or data[i] != 91:
                    return 0.0, i, NO_BRACKET, min(i, end - 1)
                ops[deep], ops[deep + 1] = name, OPEN
                deep += 2
                i += 1
                continue
            number, i, reason = _number(data, i, end)
            if reason:
                return 0.0, i, reason, at
            stack[many] = number
            many += 1
        elif c == 93:
            while deep > 0 and ops[deep - 1] != OPEN:
                deep -= 1
                many -= 1
                stack[many - 1], reason = _binary(ops[deep], stack[many - 1], stack[many])
                if reason:
                    return 0.0, i, reason, at
            if deep == 0:
                return 0.0, i, STRANGE, at
            deep -= 1
            i += 1
            if deep > 0 and ops[deep - 1] == ATAN:
                i = _skipped(data, i, end)
                if i >= end or data[i] != 47:
                    return 0.0, i, NO_BRACKET, min(i, end - 1)
                i = _skipped(data, i + 1, end)
                if i >= end or data[i] != 91:
                    return 0.0, i, NO_BRACKET, min(i, end - 1)
                ops[deep - 1], ops[deep] = OVER, OPEN
                deep += 1
                i += 1
                wants = True
                continue
            if deep > 0 and ops[deep - 1] == OVER:
                deep -= 1
                many -= 1
                turned = math.degrees(math.atan2(stack[many - 1], stack[many]))
                stack[many - 1] = turned
            elif deep > 0 and ops[deep - 1] >= ABS and ops[deep - 1] <= TAN:
                deep -= 1
                stack[many - 1], reason = _function(ops[deep], stack[many - 1])
                if reason:
                    return 0.0, i, reason, at
        else:
            op, i = _operator(data, i, end)
            if op == 0:
                return 0.0, i, NO_FUNCTION if (c >= 65 and c <= 90) or (c >= 97 and c <= 122) else STRANGE, at
            while deep > 0 and ops[deep - 1] >= POWER and _binds(ops[deep - 1]) >= _binds(op):
                deep -= 1
                many -= 1
                stack[many - 1], reason = _binary(ops[deep], stack[many - 1], stack[many])
                if reason:
                    return 0.0, i, reason, at
            ops[deep] = op
            deep += 1
            wants = True
            continue
        wants = False
        while deep > 0 and ops[deep - 1] == SHARP:
            deep -= 1
            index, reason = _index(stack[many - 1])
            if reason:
                return 0.0, i, reason, at
            if not known[index]:
                return 0.0, i, UNSET, at
            stack[many - 1] = values[index]
        if deep == 0:
            return stack[0], i, 0, 0


@kernel()
def _number(data: Any, i: int, end: int) -> tuple[float, int, int]:
    """A number with its sign; blanks mean nothing, not even within it (3.3.2)."""
    sign, number, share, digits = 1.0, 0.0, 0.0, 0
    if data[i] in (43, 45):
        sign = -1.0 if data[i] == 45 else 1.0
        i += 1
    while i < end and ((data[i] >= 48 and data[i] <= 57) or data[i] in (46, 32, 9)):
        if data[i] == 46:
            if share > 0.0:
                break
            share = 1.0
        elif data[i] not in (32, 9):
            number = number * 10.0 + (data[i] - 48)
            share *= 10.0
            digits += 1
        i += 1
    if digits == 0:
        return 0.0, i, NO_VALUE
    size = number / share if share > 1.0 else number
    if digits > MOST_DIGITS or size > LARGEST:
        return 0.0, i, TOO_LARGE
    return sign * size, i, 0


@kernel()
def _name(data: Any, i: int, end: int) -> tuple[int, int]:
    """The function whose name stands there, 0 for none, and the place behind the name."""
    code, long = 0, 0
    while i < end and long < 6:
        c = data[i]
        if c >= 97 and c <= 122:
            c -= 32
        if c >= 65 and c <= 90:
            code = code * 32 + (c - 64)
            long += 1
        elif c not in (32, 9):
            break
        i += 1
    return _named(code), i


@kernel()
def _named(code: int) -> int:
    """Names are counted as numbers to the base of 32, A being 1."""
    if code == (1 * 32 + 2) * 32 + 19:
        return ABS
    if code == ((1 * 32 + 3) * 32 + 15) * 32 + 19:
        return ACOS
    if code == ((1 * 32 + 19) * 32 + 9) * 32 + 14:
        return ASIN
    if code == ((1 * 32 + 20) * 32 + 1) * 32 + 14:
        return ATAN
    if code == (3 * 32 + 15) * 32 + 19:
        return COS
    if code == (5 * 32 + 24) * 32 + 16:
        return EXP
    if code == (6 * 32 + 9) * 32 + 24:
        return FIX
    if code == (6 * 32 + 21) * 32 + 16:
        return FUP
    if code == 12 * 32 + 14:
        return LN
    if code == (((18 * 32 + 15) * 32 + 21) * 32 + 14) * 32 + 4:
        return ROUND
    if code == (19 * 32 + 9) * 32 + 14:
        return SIN
    if code == ((19 * 32 + 17) * 32 + 18) * 32 + 20:
        return SQRT
    if code == (20 * 32 + 1) * 32 + 14:
        return TAN
    return 0


@kernel()
def _operator(data: Any, i: int, end: int) -> tuple[int, int]:
    """The operator that stands there, 0 for none, and the place behind it."""
    c = data[i]
    if c == 42:
        k = _skipped(data, i + 1, end)
        if k < end and data[k] == 42:
            return POWER, k + 1
        return TIMES, i + 1
    if c == 47:
        return DIVIDED, i + 1
    if c == 43:
        return PLUS, i + 1
    if c == 45:
        return MINUS, i + 1
    if c >= 97 and c <= 122:
        c -= 32
    long = 2 if c == 79 else 3
    code, k = 0, i
    while k < end and long > 0:
        c = data[k]
        if c >= 97 and c <= 122:
            c -= 32
        if c >= 65 and c <= 90:
            code = code * 32 + (c - 64)
            long -= 1
        elif c not in (32, 9):
            break
        k += 1
    if code == (13 * 32 + 15) * 32 + 4:
        return MODULO, k
    if code == (1 * 32 + 14) * 32 + 4:
        return AND, k
    if code == 15 * 32 + 18:
        return OR, k
    if code == (24 * 32 + 15) * 32 + 18:
        return XOR, k
    return 0, i


@kernel()
def _binary(op: int, a: float, b: float) -> tuple[float, int]:
    """What two values make, and what is wrong with that. Modulo is never negative (3.3.2.3)."""
    found = 0.0
    if op == PLUS:
        found = a + b
    elif op == MINUS:
        found = a - b
    elif op == TIMES:
        found = a * b
    elif op == DIVIDED:
        if b == 0.0:
            return 0.0, NOT_DEFINED
        found = a / b
    elif op == MODULO:
        if b == 0.0:
            return 0.0, NOT_DEFINED
        found = a - abs(b) * math.floor(a / abs(b))
    elif op == POWER:
        if (a < 0.0 and b != math.floor(b)) or (a == 0.0 and b < 0.0):
            return 0.0, NOT_DEFINED
        if a != 0.0 and b * math.log(abs(a)) > 300.0:
            return 0.0, TOO_LARGE
        found = a**b
    elif op == AND:
        found = 1.0 if a != 0.0 and b != 0.0 else 0.0
    elif op == OR:
        found = 1.0 if a != 0.0 or b != 0.0 else 0.0
    else:
        found = 1.0 if (a != 0.0) != (b != 0.0) else 0.0
    return found, 0 if abs(found) < 1e300 else TOO_LARGE


@kernel()
def _function(name: int, x: float) -> tuple[float, int]:
    """What a function makes of a value, and what is wrong with that."""
    if (name in (ACOS, ASIN) and abs(x) > 1.0) or (name == SQRT and x < 0.0) or (name == LN and x <= 0.0):
        return 0.0, NOT_DEFINED
    if name == TAN and abs(math.cos(math.radians(x))) < 1e-12:
        return 0.0, NOT_DEFINED
    if name == EXP and x > 300.0:
        return 0.0, TOO_LARGE
    if name == ABS:
        return abs(x), 0
    if name == ACOS:
        return math.degrees(math.acos(x)), 0
    if name == ASIN:
        return math.degrees(math.asin(x)), 0
    if name == COS:
        return math.cos(math.radians(x)), 0
    if name == EXP:
        return math.exp(x), 0
    if name == FIX:
        return math.floor(x), 0
    if name == FUP:
        return math.ceil(x), 0
    if name == LN:
        return math.log(x), 0
    if name == ROUND:
        return math.floor(x + 0.5) if x >= 0.0 else math.ceil(x - 0.5), 0
    if name == SIN:
        return math.sin(math.radians(x)), 0
    if name == SQRT:
        return math.sqrt(x), 0
    return math.tan(math.radians(x)), 0
