"""How numbers are written for people."""

from __future__ import annotations

from bastler.units.kinds import Kind, Unit, decimals, suffix


def number_text(value: float, kind: Kind, unit: Unit) -> str:
    """A number as shown: rounded to what its kind deserves, no trailing zeros, no minus zero."""
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
    return f"{float(f'{value:.{digits}g}'):.6f}".rstrip("0").rstrip(".")


def in_a_sentence(text: str) -> str:
    """A sentence after a colon: small at its start unless that is a sign such as R8 or a word such as HSS."""
    return text[0].lower() + text[1:] if text[1:2].islower() or text[1:2] == " " else text


def many(count: int, word: str) -> str:
    """A count with its word: `1 tool`, `3 tools`."""
    return f"{count} {word}{'s' if count != 1 else ''}"


def clock(seconds: float) -> str:
    """A duration as people say it: `48 s`, `14 min 32 s`, `1 h 02 min`."""
    whole = round(seconds)
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60:02d} s"
    return f"{whole // 3600} h {whole % 3600 // 60:02d} min"
