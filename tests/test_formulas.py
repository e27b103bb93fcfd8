"""Parameters and formulas in programs: against the standard's text, against arithmetic, and against the same in plain numbers."""

from __future__ import annotations

import math
from typing import Any

import msgspec
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bastler.job import new_job, plan
from bastler.nc import Control, Trace, read
from bastler.nc.again import ReadBefore
from bastler.nc.formulas import COUNT, OWN, REASONS, Parameters
from bastler.proof.scenes import scene_of


@pytest.fixture(scope="module")
def control() -> Control:
    return scene_of(plan(new_job("mm", "mill-600"))).control


def words_of(text: str, parameters: Parameters | None = None) -> list[tuple[str, float]]:
    """The words of a line; it must be right."""
    data = np.frombuffer((text + "\n").encode("latin-1"), np.uint8)
    own = parameters or Parameters()
    count, reason, _ = own.evaluate(data, 0, len(text))
    assert not reason, REASONS[reason]
    return [(letter, value) for letter, value, _ in own.words(count)]


def value_of(text: str, **given: float) -> float:
    """What an X word is, with parameters `p1`, `p2` …"""
    parameters = Parameters()
    for name, value in given.items():
        words_of(f"#{name[1:]}={value!r}" if "e" not in repr(value) else f"#{name[1:]}={value:.12f}", parameters)
    return words_of(f"X{text}", parameters)[0][1]


# -- the language ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("[2+3*4]", 14.0),
        ("[2*3+4]", 10.0),
        ("[2.0 / 3 * 1.5 - 5.5 / 11.0]", 0.5),  # the example of NISTIR 6556, 3.3.2.3: ((2/3)*1.5) - (5.5/11)
        ("[2**3*2]", 16.0),
        ("[2*2**3]", 16.0),
        ("[2**3**2]", 64.0),  # each group from left to right
        ("[10-4-3]", 3.0),
        ("[1+2*3**2/9-4]", -1.0),
        ("[7 mod 4]", 3.0),
        ("[-7 MOD 4]", 1.0),  # never negative
        ("[7 mod -4]", 3.0),
        ("[1 and 0]", 0.0),
        ("[5 and -2]", 1.0),
        ("[0 or 3]", 1.0),
        ("[3 xor 3]", 0.0),
        ("[0 XoR 3]", 1.0),
        ("[1 + 1 and 2 - 2]", 0.0),  # one group: ((1 + 1) and 2) - 2 is -1 … from left to right
        ("sin[30]", 0.5),
        ("cos[60]", 0.5),
        ("tan[45]", 1.0),
        ("asin[1]", 90.0),
        ("acos[0]", 90.0),
        ("atan[1]/[1]", 45.0),
        ("atan[1]/[-1]", 135.0),
        ("[atan[-1]/[1] * 2]", -90.0),
        ("abs[-3]", 3.0),
        ("fix[2.8]", 2.0),
        ("fix[-2.8]", -3.0),
        ("fup[2.8]", 3.0),
        ("fup[-2.8]", -2.0),
        ("round[2.5]", 3.0),
        ("round[-2.5]", -3.0),
        ("exp[1]", math.e),
        ("ln[exp[2]]", 2.0),
        ("sqrt[16]", 4.0),
        ("[SQRT[3*3+4*4]]", 5.0),
        ("[ 1 . 5 + 2 ]", 3.5),
        ("[+3--2]", 5.0),
        ("[[[7]]]", 7.0),
        ("[s i n[90]]", 1.0),
    ],
)
def test_what_formulas_are_worth(text: str, value: float) -> None:
    expected = -1.0 if text == "[1 + 1 and 2 - 2]" else value
    assert value_of(text) == pytest.approx(expected, abs=1e-12)


def test_parameters_name_parameters() -> None:
    assert value_of("#1", p1=2.5) == 2.5
    assert value_of("##1", p1=2.0, p2=7.0) == 7.0
    assert value_of("#[#1+1]", p1=2.0, p3=9.0) == 9.0
    assert value_of("[#1*#2]", p1=2.0, p2=3.0) == 6.0
    assert value_of("[-1*#1]", p1=2.0) == -2.0
    assert value_of("#[1.00005]", p1=4.0) == 4.0  # so near to a whole number it is one


def test_a_line_sets_its_parameters_when_it_has_been_read() -> None:
    """NISTIR 6556, 3.3.2.2: with #3 = 6 before, `#3=15 G1 X#3` goes to 6, and #3 is 15 behind it."""
    parameters = Parameters()
    words_of("#3=6", parameters)
    assert words_of("#3=15 G1 X#3", parameters) == [("G", 1.0), ("X", 6.0)]
    assert words_of("X#3 #3=[#3+1] #4=#3", parameters) == [("X", 15.0)]
    assert words_of("X#3 Y#4", parameters) == [("X", 16.0), ("Y", 15.0)]


def test_comments_and_blanks_and_block_delete() -> None:
    assert words_of("/ N1 0 G1 (#9 is not read) X [ 1 + 1 ] ; #8") == [("N", 10.0), ("G", 1.0), ("X", 2.0)]


@pytest.mark.parametrize(
    ("text", "column", "says"),
    [
        ("X#1", 3, "no value"),
        ("X#0", 3, "numbered from 1"),
        ("X#1.5", 3, "numbered from 1"),
        (f"X#{COUNT}", 3, "numbered from 1"),
        (f"X#{OWN}", 3, "control's own"),
        ("#5220=1", 1, "control's own"),
        ("X[1/0]", 6, "no value"),
        ("X[5 mod 0]", 10, "no value"),
        ("Xsqrt[-1]", 9, "no value"),
        ("Xln[0]", 6, "no value"),
        ("Xacos[2]", 8, "no value"),
        ("Xtan[90]", 8, "no value"),
        ("X[[-8]**0.5]", 12, "no value"),
        ("Xlog[2]", 2, "no function"),
        ("X[1 nand 2]", 5, "no function"),
        ("X[1 + 2", 7, "bracket"),
        ("X[1 + 2]]", 9, "nothing"),
        ("X[]", 3, "value is missing"),
        ("X[1+]", 5, "value is missing"),
        ("X-[1+2]", 2, "value is missing"),  # a sign stands before a number alone
        ("X-#1", 2, "value is missing"),
        ("Xsin30", 5, "bracket"),
        ("Xatan[1]", 8, "bracket"),
        ("#1 5", 4, "equals"),
        ("[1+1]", 1, "letter"),
        ("X[10**99]", 1, "this large"),
        ("X[10**999]", 10, "this large"),
        ("X[9999999*9999999]", 1, "this large"),
        ("G[1.04]", 1, "whole number"),
        ("T[1/2]", 1, "whole number"),
        ("X" + "[" * 60 + "1", 48, "nested"),
        ("X[1] (open", 6, "closed"),
    ],
)
def test_what_is_wrong_is_said_with_its_place(text: str, column: int, says: str) -> None:
    data = np.frombuffer((text + "\n").encode("latin-1"), np.uint8)
    parameters = Parameters()
    _, reason, at = parameters.evaluate(data, 0, len(text))
    assert says in REASONS[reason]
    assert at == column
    assert not parameters.known.any()


NUMBERS = st.integers(-999, 999).map(lambda k: k / 8.0)
OPERATORS = {"+": 1, "-": 1, "*": 2, "/": 2, "and": 1, "or": 1, "xor": 1, "mod": 2}


def _apply(op: str, a: float, b: float) -> float:
    if op in ("and", "or", "xor"):
        p, q = a != 0, b != 0
        return float({"and": p and q, "or": p or q, "xor": p != q}[op])
    if op == "mod":
        return a - abs(b) * math.floor(a / abs(b))
    return {"+": a + b, "-": a - b, "*": a * b, "/": a / b if b else 0.0}[op]


@st.composite
def formulas(draw: st.DrawFn, deep: int = 3) -> tuple[str, float]:
    """A formula in brackets, and what it is worth: worked out here, group by group."""

    def operand() -> tuple[str, float]:
        if deep and draw(st.booleans()):
            return draw(formulas(deep - 1))
        value = draw(NUMBERS)
        return f"{value:.3f}", value

    texts, values = zip(*(operand() for _ in range(draw(st.integers(1, 4)))), strict=True)
    ops = [draw(st.sampled_from(sorted(OPERATORS))) for _ in values[1:]]
    ops = ["+" if op in ("/", "mod") and values[k + 1] == 0.0 else op for k, op in enumerate(ops)]
    blank = draw(st.sampled_from(["", " ", "\t"]))
    said = [draw(st.sampled_from([op, op.upper()])) for op in ops]
    text = texts[0] + "".join(f"{blank}{op}{blank}{t}" for op, t in zip(said, texts[1:], strict=True))
    left, waits = list(values), list(ops)
    for group in (2, 1):
        k = 0
        while k < len(waits):
            if OPERATORS[waits[k]] == group:
                left[k : k + 2] = [_apply(waits[k], left[k], left[k + 1])]
                del waits[k]
            else:
                k += 1
    return f"[{text}]", left[0]


@given(formulas())
def test_any_formula_is_worth_what_arithmetic_says(made: tuple[str, float]) -> None:
    text, value = made
    if abs(value) < 1e7:
        assert value_of(text) == pytest.approx(value, rel=1e-9, abs=1e-9)


@given(st.text(alphabet="X#[]=0123456789.+-*/ sincoatqrmdxlegfup;()\t", max_size=40))
def test_rubbish_is_said_and_never_more(text: str) -> None:
    data = np.frombuffer((text + "\n").encode("latin-1"), np.uint8)
    own = Parameters()
    count, reason, column = own.evaluate(data, 0, len(text))
    assert reason == 0 or (reason in REASONS and 1 <= column <= max(len(text), 1))
    assert all(letter.isupper() and math.isfinite(value) for letter, value, _ in own.words(count))


# -- in programs ----------------------------------------------------------------------------------------------------

BEGIN = "G21 G90 G54\nT1 M6\nG43 H1\nS1000 M3\n"


def traced(text: str, control: Control, **how: Any) -> Trace:
    return read(text, control, **how)


def same(a: Trace, b: Trace) -> None:
    assert a.line.tolist() == b.line.tolist()
    for name in ("kind", "start", "end", "centre", "turn", "feed", "speed", "tool", "plane"):
        np.testing.assert_allclose(getattr(a, name), getattr(b, name), atol=1e-9, err_msg=name)
    assert [(f.line, f.code) for f in a.findings] == [(f.line, f.code) for f in b.findings]


def test_a_program_of_formulas_is_that_of_its_numbers(control: Control) -> None:
    by_formula = BEGIN + "\n".join((
        "#1=10 #2=20 (depth and pitch)", "G0 X[#2*2] Y#1 Z5", "G1 Z[0-#1/4] F[100+#2]", "#3=[#1/2]", "G2 X[#2*2+#3*2] I#3 J0",
        "G[0+1] X#1", "G81 X#1 Y[#2/4] Z[-3] R2 F100", "X[#1+#2]", "G80", "M[3+2]", "M30",
    ))  # fmt: skip
    plain = BEGIN + "\n".join((
        "(depth and pitch)", "G0 X40 Y10 Z5", "G1 Z-2.5 F120", "", "G2 X50 I5 J0", "G1 X10", "G81 X10 Y5 Z-3 R2 F100", "X30",
        "G80", "M5", "M30",
    ))  # fmt: skip
    found = traced(by_formula, control)
    assert found.cut == 0
    same(found, traced(plain, control))


def test_a_subprogram_counts(control: Control) -> None:
    """Each call works its lines out anew."""
    text = BEGIN + "#1=0\nG0 X0 Y0\nM98 P7 L4\nM30\nO7\n#1=[#1+10]\nG0 X#1\nM99\n"
    found = traced(text, control)
    assert found.end[-4:, 0].tolist() == [10.0, 20.0, 30.0, 40.0]


def test_behind_a_wrong_formula_nothing_is_run(control: Control) -> None:
    found = traced(BEGIN + "G0 X1\nG0 X[1/0]\nG0 X2\nM30\n", control)
    assert found.cut == 6
    assert [f.code for f in found.findings if f.level == "stop"] == ["formula"]
    assert found.end[-1, 0] == 1.0


def test_what_is_never_come_to_is_said(control: Control) -> None:
    found = traced(BEGIN + "G0 X1\nM30\n#1=5\n", control)
    assert [(f.code, f.line) for f in found.findings] == [("never-run", 7)]


def test_a_skipped_line_sets_nothing(control: Control) -> None:
    text = BEGIN + "#1=5\n/#1=9\nG0 X#1\nM30\n"
    assert traced(text, control).end[-1, 0] == 9.0
    assert traced(text, control, skip_deleted=True).end[-1, 0] == 5.0


def test_a_control_whose_card_has_none_refuses_them(control: Control) -> None:
    old = msgspec.structs.replace(control.dialect, formulas=False)
    found = traced(BEGIN + "#1=5\nG0 X#1\nM30\n", type(control)(**{**vars(control), "dialect": old}))
    assert found.cut == 5
    assert "its card says so" in found.findings[0].text


@pytest.mark.parametrize(
    ("line", "what"),
    [
        ("IF [#1 EQ 2] GOTO 10", "number has to follow"),
        ("WHILE [#1 LT 3] DO1", "number has to follow"),
        ("GOTO 10", "number has to follow"),
        ("O100 while [#1 lt 3]", "number has to follow"),
        ("G65 P7 A1", "not known"),
        ("M98 P7 Q[", "missing"),
    ],
)
def test_words_that_steer_a_program_are_refused_with_their_place(line: str, what: str, control: Control) -> None:
    """They belong to single dialects: nothing behind them is run."""
    found = traced(f"{BEGIN}G0 X1\n{line}\nG0 X2\nM30\n", control)
    assert found.cut == 6
    stop = next(f for f in found.findings if f.level == "stop")
    assert stop.line == 6
    assert what in stop.text or "no function" in stop.text or "no value" in stop.text


@settings(max_examples=40)
@given(st.lists(st.tuples(st.sampled_from(["X", "Y", "Z"]), st.integers(1, 9), NUMBERS), min_size=1, max_size=30))
def test_what_was_read_before_changes_nothing(control: Control, lines: list[tuple[str, int, float]]) -> None:
    """Read anew with what was read before an edit, a program does the same as from nothing."""
    text = [f"#{number}={value:.3f}\nG0 {axis}#{number}\nG1 {axis}[#{number}+1] F100\nX1 Y2\nX3" for axis, number, value in lines]
    before, breaks = ReadBefore(), range(4, 4 + 5 * len(lines), 5)
    traced(BEGIN + "\n".join(text) + "\nM30\n", control, before=before, breaks=breaks)
    text[0] = text[0].replace("=", "=1")
    edited = BEGIN + "\n".join(text) + "\nM30\n"
    same(traced(edited, control, before=before, breaks=breaks), traced(edited, control))


# -- every word of the standard -------------------------------------------------------------------------------------

STANDARD = {
    **{f"G{g}": f"G{g} X1 Y1 Z1 F100" for g in (0, 1)},
    **{f"G{g}": f"G{g} X10 Y0 I5 J0 F100" for g in (2, 3)},
    "G4": "G4 P0.5", "G10": "G10 L2 P1 X1", "G17": "G17", "G18": "G18", "G19": "G19", "G20": "G20", "G21": "G21", "G28": "G28 Z1",
    "G30": "G30 Z1", "G38.2": "G38.2 Z-1 F50", "G40": "G40", "G41": "G41 D1", "G42": "G42 D1", "G43": "G43 H1", "G49": "G49",
    "G53": "G0 G53 Z0", "G61": "G61", "G61.1": "G61.1", "G64": "G64", "G80": "G80",
    **{f"G{g}": f"G{g} X1 Y1 Z-1 R2 F100" for g in (81, 85, 86, 88, 89)},
    "G82": "G82 X1 Y1 Z-1 R2 P0.1 F100", "G83": "G83 X1 Y1 Z-1 R2 Q1 F100", "G84": "G84 X1 Y1 Z-1 R2 F100",
    "G87": "G87 X1 Y1 Z-1 R2 I1 J0 K0 F100", "G90": "G90", "G91": "G91", "G92": "G92 X0", "G92.1": "G92.1", "G92.2": "G92.2",
    "G92.3": "G92.3", "G93": "G93", "G94": "G94", "G98": "G98", "G99": "G99",
    **{f"G{g}": f"G{g}" for g in ("54", "55", "56", "57", "58", "59", "59.1", "59.2", "59.3")},
    **{f"M{m}": f"M{m}" for m in (0, 1, 2, 3, 4, 5, 7, 8, 9, 30, 48, 49, 60)},
    "M6": "T1 M6",
}  # fmt: skip
"""All G and M words of NISTIR 6556, tables 5 and 6, each in a line that is right."""


@pytest.mark.parametrize("word", STANDARD)
def test_every_word_of_the_standard_is_used_or_refused_with_a_reason(word: str, control: Control) -> None:
    found = traced(f"{BEGIN}G0 X0 Y0 Z10\n{STANDARD[word]}\nM30\n", control)
    said = [f for f in found.findings if f.line == 6]
    refused = [f for f in said if f.level == "stop"]
    if word == "M4":
        assert [f.code for f in refused] == ["spindle-back"]
    elif word in ("G30", "G38.2", "G87", "G88", "M60"):
        assert refused
        assert "not known" not in refused[0].text
        assert word in refused[0].text
    elif word in ("G41", "G42", "G55", "G56", "G57", "G58", "G59", "G59.1", "G59.2", "G59.3"):
        assert not any("not known" in f.text or f.code == "word-unused" for f in said)  # no value here, or none that is used
    else:
        assert not refused, refused
