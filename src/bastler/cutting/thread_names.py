"""Threads by their names, as a print writes them, with the diameters the standards give.

Besides the sources that `threads` and `thread_tables` name: ISO 965-1 (how metric threads of several starts and tolerance classes
are written), ASME B1.20.1 (NPT: E0 = D - (0.05 D + 1.1) P, E1 = E0 + L1 / 16, height 0.8 P), ASME B1.20.3 (NPTF: the same
pitch diameters, crests and roots of their own), BS 84 (Whitworth, 55°,
h = 0.640327 P), ASME B1.5 (Acme, 29°, h = P / 2 and its clearance), ASME B1.8 (stub Acme, h = 0.3 P), DIN 405-1 (knuckle, 30°,
d2 = d - 0.5 P, d3 = d - P, D1 = d - 0.9 P, D = d + 0.1 P, roots round with 0.238507 P and 0.221047 P), DIN 513-1 (metric
buttress, 3° and 30°: d2 = d - 0.75 P, D2 = d2 + 3.1758 a, d3 = d - 1.735534 P, D1 = d - 1.5 P, root round with 0.124271 P,
a = 0.1 √P), ASME B1.9 (buttress, 7° and 45°: height 0.6 P, of a round root 0.662709 P with 0.071410 P).
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Literal

from msgspec.structs import replace

from bastler.cutting.thread_tables import (
    ACME_CLEARANCE,
    COARSE,
    CREST_CLEARANCE,
    DRYSEAL,
    NPT,
    NUMBERED,
    PIPE,
    UNIFIED,
    WHITWORTH,
)
from bastler.cutting.threads import Family, Thread
from bastler.language import sayable, tr

INCH = 25.4
TAPER = 1.0 / 16.0
"""Of taper threads, on the diameter (ISO 7-1, ASME B1.20.1)."""
SHARP = math.sqrt(0.75)
"""How high a sharp thread of 60° is, in pitches."""
ROUND_SIZES = ((12.0, 10.0), (38.0, 8.0), (100.0, 6.0), (200.0, 4.0))
"""Knuckle threads: up to this diameter in mm, so many threads an inch (DIN 405-1)."""
SUCH_AS = sayable(
    "Write it as M12, M24 × 1.5 LH-6g, Tr 36 × 12 (P6), S 48 × 8, 1 1/4-12 UNF, G 1/2 A, R 1/2, 1/2 NPT, 1-5 ACME or Rd 40."
)


class ThreadNameError(ValueError):
    """What was typed is no thread; the message says what would be."""


_SIZE = r"((?:[0-9]+\s+)?[0-9]+/[0-9]+|[0-9]*\.[0-9]+|[0-9]+)"
_N = r"([0-9]*\.?[0-9]+)"
_X = r"\s*[x×*]\s*"
_LEFT = re.compile(r"[\s,-]*\bLH\b|(?<=[0-9)])LH\b", re.IGNORECASE)
_CLASS = re.compile(r"\s*-\s*([0-9][a-z](?:[0-9][a-z])?(?:/[0-9][a-z](?:[0-9][a-z])?)?)$", re.IGNORECASE)
_INCH_CLASS = re.compile(r"\s*-?\s*([123][AB]|[2-6][GC])$", re.IGNORECASE)
Maker = Callable[..., Thread]


def thread_of(name: str) -> Thread:
    """The thread of a name: M12, M42 × 1.5, M24x1.5-6g, M24 LH, 1/2-13 UNC-2A, 1.250-12 UN, #10-24, G 3/4 A, R, Rc and Rp 1/2,
    1/2 NPT, 1/2 BSW, Tr 36 × 12 (P6), S 48 × 8, 2.5-8 BUTT, 1-5 ACME, 1-5 STUB ACME, Rd 40 × 1/6; or with a profile of its own:
    own 30 × 2, 60°, 1.1 (diameter, pitch, angle, depth, in mm). ThreadNameError for anything else."""
    plain = re.sub(r"(?<=[0-9]),(?=[0-9])", ".", re.sub(r"[″\"]", "", name)).replace(",", " ")
    plain = " ".join(plain.replace("–", "-").replace("—", "-").split())
    bare = _LEFT.sub("", plain).strip(" -")
    left = bare != plain.strip(" -")
    for pattern, fits, make in _FORMS:
        fit = ""
        rest = bare
        if fits is not None and (found := fits.search(bare)):
            rest, fit = bare[: found.start()].strip(), found[1]
        if match := pattern.fullmatch(rest):
            made = make(*match.groups())
            fit = fit or made.fit
            shown = made.name + (" LH" if left else "") + (f"-{fit}" if fit and not made.fit else "")
            return replace(made, name=shown, left=left, fit=fit, only=made.only or _side_of(fit))
    raise ThreadNameError(tr(SUCH_AS))


def thread_or_none(name: str) -> Thread | None:
    """The thread of a name, None when there is no such."""
    try:
        return thread_of(name)
    except ThreadNameError:
        return None


def _side_of(fit: str) -> Literal["", "outside", "inside"]:
    """The side that a tolerance class is of: small letters and A are bolts', capitals and B nuts'; G and C of Acme both's."""
    if not fit or "/" in fit or (fit[-1].upper() in "GC" and fit[0] in "23456" and len(fit) == 2 and fit[-1].isupper()):
        return ""
    if fit[-1].upper() in "AB":
        return "outside" if fit[-1].upper() == "A" else "inside"
    return "outside" if fit[-1].islower() else "inside"


def _metric(size: str, lead: str | None, several: str | None, pitch: str | None) -> Thread:
    d = _number(size)
    given = pitch or several or lead
    p = COARSE.get(d) if given is None else _number(given)
    if p is None:
        raise ThreadNameError(tr("M{d:g} has no coarse pitch in ISO 261; write the pitch too.", d=d))
    _sound(d, p)
    starts = _starts(p if lead is None else _number(lead), p)
    shown = f"M{d:g}" if COARSE.get(d) == p and starts == 1 else f"M{d:g} × {p:g}"
    if starts > 1:
        shown = f"M{d:g} × Ph{p * starts:g} P{p:g}"
    return _sixty(shown, "metric", d, p, starts)


def _sixty(name: str, family: Family, d: float, p: float, starts: int = 1) -> Thread:
    """A 60° thread after ISO 68-1."""
    bore = d - 1.082532 * p
    return Thread(name, family, d, p, 60.0, d - 1.226869 * p, bore, d, d - 0.649519 * p, starts=starts)


def _starts(lead: float, pitch: float) -> int:
    """How many threads run side by side."""
    starts = round(lead / pitch) if pitch > 0 else 0
    if not 1 <= starts <= 12 or abs(starts * pitch - lead) > 1e-6:
        raise ThreadNameError(tr("A lead of {lead:g} is no whole number of pitches of {pitch:g}.", lead=lead, pitch=pitch))
    return starts


def _unified(size: str, tpi: str | None, kind: str | None) -> Thread:
    inches = _inches(size)
    key = next((known for known, (d, _, _) in UNIFIED.items() if abs(d - inches) < 1e-9), "")
    _, coarse, fine = UNIFIED.get(key, (0.0, 0.0, 0.0))
    wanted = (kind or "").upper()
    n = _number(tpi) if tpi else {"UNC": coarse, "UNF": fine}.get(wanted, 0.0)
    if n <= 0:
        raise ThreadNameError(
            tr("Threads an inch have to be more than 0.") if tpi else tr("Write how many threads an inch: {size}-12.", size=size)
        )
    p = INCH / n
    _sound(inches * INCH, p)
    named = "UNC" if n == coarse else "UNF" if n == fine else wanted if wanted in ("UNEF", "UNS") else "UN"
    if wanted in ("UNC", "UNF") and named != wanted and key:
        raise ThreadNameError(
            tr(
                "{key} {wanted} has {coarse:g} threads an inch.",
                key=key,
                wanted=wanted,
                coarse=coarse if wanted == "UNC" else fine,
            )
        )
    return _sixty(f"{key or f'{inches:g}'}-{n:g} {named}", "unified", inches * INCH, p)


def _numbered(number: str, tpi: str | None, kind: str | None) -> Thread:
    k = int(number)
    if k not in NUMBERED:
        raise ThreadNameError(tr("Numbered sizes are {numbered}.", numbered=", ".join(f"#{k}" for k in NUMBERED)))
    coarse, fine = NUMBERED[k]
    n = int(tpi) if tpi else {"UNC": coarse, "UNF": fine}.get((kind or "").upper(), 0)
    if n <= 0:
        raise ThreadNameError(tr("Write how many threads an inch: #{k}-{coarse}.", k=k, coarse=coarse or fine))
    d, p = (0.060 + 0.013 * k) * INCH, INCH / n
    _sound(d, p)
    return _sixty(f"#{k}-{n} {'UNC' if n == coarse else 'UNF' if n == fine else 'UN'}", "unified", d, p)


def _pipe(letters: str, size: str, grade: str | None) -> Thread:
    kind = {"G": "G", "R": "R", "RC": "Rc", "RP": "Rp"}[letters.upper()]
    if size not in PIPE:
        raise ThreadNameError(
            tr("{kind} {size} is not in the table; there are {pipe}.", kind=kind, size=size, pipe=", ".join(PIPE))
        )
    if grade and kind != "G":
        raise ThreadNameError(tr("A and B are classes of G threads."))
    d, tpi, gauge = PIPE[size]
    h = 0.640327 * INCH / tpi
    tapers = kind in ("R", "Rc")
    fit = (grade or "").upper()
    return Thread(
        f"{kind} {size}{' ' + fit if fit else ''}", "taper-pipe" if tapers else "pipe", d, INCH / tpi, 55.0, d - 2 * h, d - 2 * h,
        d, d - h, TAPER if tapers else 0.0, gauge if tapers else 0.0, fit=fit,
        only="outside" if fit else "inside" if kind in ("Rc", "Rp") else "",
    )  # fmt: skip


def _npt(size: str, tpi: str | None, letters: str) -> Thread:
    if size not in NPT:
        raise ThreadNameError(
            tr("{size} {upper} is not in the table; there are {npt}.", size=size, upper=letters.upper(), npt=", ".join(NPT))
        )
    pipe, n, l1 = NPT[size]
    if tpi and _number(tpi) != n:
        raise ThreadNameError(tr("{size} {upper} has {n:g} threads an inch.", size=size, upper=letters.upper(), n=n))
    p = 1.0 / n
    e1 = pipe - (0.05 * pipe + 1.1) * p + l1 / 16.0
    kind = letters.upper()
    family: Family = "nptf" if kind == "NPTF" else "npt"
    crest, root = (p * SHARP - sum(off) * p for off in DRYSEAL[n]) if family == "nptf" else (0.8 * p, 0.8 * p)
    major, minor, bore, nut_major = (INCH * d for d in (e1 + crest, e1 - root, e1 - crest, e1 + root))
    return Thread(
        f"{size}-{n:g} {kind}", family, major, p * INCH, 60.0, minor, bore, nut_major, e1 * INCH, TAPER, l1 * INCH
    )  # fmt: skip


def _whitworth(size: str, tpi: str | None, letters: str) -> Thread:
    fine = letters.upper() == "BSF"
    n = WHITWORTH.get(size, (0.0, 0.0))[fine]
    if not n:
        sizes = ", ".join(known for known, both in WHITWORTH.items() if both[fine])
        raise ThreadNameError(
            tr("{size} {upper} is not in the table; there are {sizes}.", size=size, upper=letters.upper(), sizes=sizes)
        )
    if tpi and _number(tpi) != n:
        raise ThreadNameError(tr("{size} {upper} has {n:g} threads an inch.", size=size, upper=letters.upper(), n=n))
    d, p = _inches(size) * INCH, INCH / n
    h = 0.640327 * p
    return Thread(f"{size}-{n:g} {letters.upper()}", "whitworth", d, p, 55.0, d - 2 * h, d - 2 * h, d, d - h)


def _acme(size: str, tpi: str, letters: str) -> Thread:
    stub = "STUB" in letters.upper()
    d, n = _inches(size) * INCH, _number(tpi)
    if n <= 0:
        raise ThreadNameError(tr("Threads an inch have to be more than 0."))
    p = INCH / n
    _sound(d, p)
    room = 2 * INCH * next((c for most, c in ACME_CLEARANCE if n <= most), ACME_CLEARANCE[-1][1])
    high = 0.3 * p if stub else 0.5 * p
    family: Family = "stub-acme" if stub else "acme"
    name = f"{size}-{n:g} {'STUB ' if stub else ''}ACME"
    return Thread(name, family, d, p, 29.0, d - 2 * high - room, d - 2 * high, d + room, d - high)


def _trapezoidal(size: str, lead: str, pitch: str | None) -> Thread:
    d, whole = _number(size), _number(lead)
    p = _number(pitch) if pitch else whole
    _sound(d, p)
    starts = _starts(whole, p)
    ac = next((c for most, c in CREST_CLEARANCE if p <= most), 1.0)
    shown = f"Tr {d:g} × {whole:g}" + (f" (P{p:g})" if starts > 1 else "")
    return Thread(
        shown, "trapezoidal", d, p, 30.0, d - p - 2 * ac, d - p, d + 2 * ac, d - 0.5 * p, starts=starts
    )  # fmt: skip


def _knuckle(size: str, tpi: str | None) -> Thread:
    d = _number(size)
    n = _number(tpi) if tpi else next((tpi for most, tpi in ROUND_SIZES if d <= most), ROUND_SIZES[-1][1])
    if n <= 0:
        raise ThreadNameError(tr("Threads an inch have to be more than 0."))
    p = INCH / n
    _sound(d, p)
    return Thread(f"Rd {d:g} × 1/{n:g}", "knuckle", d, p, 30.0, d - p, d - 0.9 * p, d + 0.1 * p, d - 0.5 * p,
                  rounding=(0.238507, 0.221047))  # fmt: skip


def _buttress(size: str, lead: str, pitch: str | None) -> Thread:
    d, whole = _number(size), _number(lead)
    p = _number(pitch) if pitch else whole
    _sound(d, p)
    starts = _starts(whole, p)
    shown = f"S {d:g} × {whole:g}" + (f" (P{p:g})" if starts > 1 else "")
    return Thread(shown, "buttress", d, p, 33.0, d - 1.735534 * p, d - 1.5 * p, d, d - 0.75 * p, starts=starts, steep=3.0,
                  play=3.1758 * 0.1 * math.sqrt(p), rounding=(0.124271, 0.0))  # fmt: skip


def _buttress_inch(size: str, tpi: str) -> Thread:
    d, n = _inches(size) * INCH, _number(tpi)
    if n <= 0:
        raise ThreadNameError(tr("Threads an inch have to be more than 0."))
    p = INCH / n
    _sound(d, p)
    beyond = (0.662709 - 0.6) * p
    root, bore, nut = d - 1.2 * p - 2 * beyond, d - 1.2 * p, d + 2 * beyond
    name = f"{size}-{n:g} BUTT"
    return Thread(name, "buttress", d, p, 52.0, root, bore, nut, d - 0.6 * p, steep=7.0, rounding=(0.07141, 0.07141))


def _own(size: str, pitch: str, angle: str, depth: str) -> Thread:
    d, p, a, h = (_number(text) for text in (size, pitch, angle, depth))
    _sound(d, p)
    if not 1.0 <= a <= 90.0:
        raise ThreadNameError(tr("The angle of a profile lies between 1 and 90°."))
    made = Thread(f"own {d:g} × {p:g}, {a:g}°, {h:g}", "own", d, p, a, d - 2 * h, d - 2 * h, d, d - h)
    if h <= 0 or made.flat < 0 or 2 * h >= d:
        raise ThreadNameError(tr("So deep a thread of {a:g}° does not fit into a pitch of {p:g}.", a=a, p=p))
    return made


_UN = r"(UNC|UNF|UNEF|UNS|UN)"
_FORMS: tuple[tuple[re.Pattern[str], re.Pattern[str] | None, Maker], ...] = tuple(
    (re.compile(pattern, re.IGNORECASE), fits, make)
    for pattern, fits, make in (
        (rf"M\s*{_N}(?:{_X}(?:Ph\s*)?{_N}(?:\s*P\s*{_N}|\s*\(\s*P\s*{_N}\s*\))?)?", _CLASS, _metric),
        (rf"Tr\s*{_N}{_X}{_N}(?:\s*\(?\s*P\s*{_N}\s*\)?)?", _CLASS, _trapezoidal),
        (rf"S\s*{_N}{_X}{_N}(?:\s*\(?\s*P\s*{_N}\s*\)?)?", _CLASS, _buttress),
        (rf"{_SIZE}\s*-\s*{_N}\s*BUTT(?:RESS)?", _INCH_CLASS, _buttress_inch),
        (rf"(G|Rc|Rp|R)\s*{_SIZE}\s*-?\s*([AB])?", None, _pipe),
        (rf"{_SIZE}\s*-?\s*{_N}?\s*(NPTF|NPT)", None, _npt),
        (rf"(NPTF|NPT)\s*{_SIZE}", None, lambda letters, size: _npt(size, None, letters)),
        (rf"{_SIZE}(?:\s*-\s*{_N})?\s*(BSW|BSF)", None, _whitworth),
        (rf"{_SIZE}\s*-\s*{_N}\s*(STUB\s*ACME|ACME\s*STUB|ACME)", _INCH_CLASS, _acme),
        (rf"(?:#|No\.?)\s*([0-9]+)(?:\s*-\s*([0-9]+))?(?:\s*{_UN})?", _INCH_CLASS, _numbered),
        (rf"{_SIZE}(?:\s*-\s*{_N})?(?:\s*{_UN})?", _INCH_CLASS, _unified),
        (rf"Rd\s*{_N}(?:{_X}1\s*/\s*{_N})?", None, _knuckle),
        (rf"own\s*{_N}{_X}{_N}\s*;?\s*{_N}\s*°?\s*;?\s*{_N}", None, _own),
    )
)
"""What a name looks like, how its tolerance class does, and what makes a thread of its parts; the first that fits counts."""


def _sound(d: float, p: float) -> None:
    if not (0.05 <= p <= 50 and 0.5 <= d <= 2000 and d > 1.3 * p):
        raise ThreadNameError(tr("A thread this size does not exist."))


def _number(text: str) -> float:
    return float(text)


def _inches(text: str) -> float:
    whole = 0.0
    for part in text.split():
        top, _, bottom = part.partition("/")
        if bottom and int(bottom) == 0:
            raise ThreadNameError(tr("Nothing can be divided by zero."))
        whole += int(top) / int(bottom) if bottom else float(top)
    return whole
