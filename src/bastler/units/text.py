"""How numbers are written for people."""

from __future__ import annotations

from bastler.language import decimal, spoken, tr
from bastler.units.kinds import Kind, Unit, decimals, suffix


def number_text(value: float, kind: Kind, unit: Unit) -> str:
    """A number as shown, with the decimal sign of the language: rounded to what its kind deserves, no trailing zeros, no minus
    zero."""
    return decimal(plain_number(value, kind, unit))


def plain_number(value: float, kind: Kind, unit: Unit) -> str:
    """The same as programs and files have it in every language."""
    text = f"{value:.{decimals(kind, unit)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def printed(value: float, kind: Kind, unit: Unit) -> str:
    """The same with a minus sign as it is printed, not as it is typed."""
    return number_text(value, kind, unit).replace("-", "−")


def whole_number(text: str) -> int | None:
    """The whole number that a word is; None for every other. Superscripts and digits of other scripts are none here, nor is what
    no counter reaches."""
    return int(text) if text.isascii() and text.isdecimal() and len(text) < 10 else None


def with_unit(value: float, kind: Kind, unit: Unit) -> str:
    """A number with its unit: `12.5 mm`, `30°`, `4`."""
    name = suffix(kind, unit)
    return number_text(value, kind, unit) + ("" if name in ("", "°") else " ") + name


def grouped(count: float, blank: str = " ") -> str:
    """A whole number with its thousands apart: `12 500 000`."""
    return f"{count:,.0f}".replace(",", blank)


def figures(value: float, digits: int) -> str:
    """A reckoned number to so many figures, and to the whole where it has more: `0.25`, `2.4`, `153`, `12 500`; never by powers
    of ten."""
    if abs(value) >= 10**digits:
        return grouped(value)
    return decimal(f"{float(f'{value:.{digits}g}'):.6f}".rstrip("0").rstrip("."))


def in_a_sentence(text: str) -> str:
    """A sentence after a colon: small at its start unless that is a sign such as R8 or a word such as HSS. German begins such a
    sentence as any other."""
    if spoken() == "de":
        return text
    return text[0].lower() + text[1:] if text[1:2].islower() or text[1:2] == " " else text


def clock(seconds: float) -> str:
    """A duration as people say it: `48 s`, `14 min 32 s`, `1 h 02 min`."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return tr("{whole} min {whole_2:02d} s", whole=whole // 60, whole_2=whole % 60)
    return tr("{whole} h {whole_2:02d} min", whole=whole // 3600, whole_2=whole % 3600 // 60)
