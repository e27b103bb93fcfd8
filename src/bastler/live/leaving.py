"""What leaves as files: names that no control and no disk stumbles over, the bytes of a program, how one is told from another."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Sequence
from datetime import datetime

import msgspec

from bastler.job.forms import FILE_END
from bastler.live.shown import ShownProof
from bastler.machines import Dialect, MachineCard
from bastler.post import Program
from bastler.post.headed import machine_line
from bastler.post.words import Words
from bastler.proof.remark import HOLDING, Remark
from bastler.units import Unit

PLAIN = Dialect()
_WHEN = re.compile(rb", made \d{4}-\d\d-\d\d \d\d:\d\d(?=\)?\r?$)", re.IGNORECASE | re.MULTILINE)
_HEAD = 4
"""Within so many lines the head says which machine it is for."""
_MUST_NOT = "NOT PROVED"
ENDS = {"lf": "\n", "crlf": "\r\n", "cr": "\r"}


def safe_name(text: str, dialect: Dialect = PLAIN) -> str:
    """A file name no control and no disk stumbles over: letters, digits, dash, underscore, as many as the machine takes; with the
    ending that it wants."""
    suffix = _suffix(dialect)
    stem = text.strip()
    for end in (suffix, PLAIN.suffix):
        stem = re.sub(re.escape(end) + "$", "", stem, flags=re.IGNORECASE)
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", stem).strip("-")[: dialect.name_length].strip("-")
    name = f"{stem or 'program'[: dialect.name_length]}{suffix}"
    return name.upper() if dialect.upper_names else name


def names_of(text: str, numbers: Sequence[int], dialect: Dialect = PLAIN) -> list[str]:
    """The file names of programs: by their numbers where the machine wants that; else of several each has its place behind the
    name, which is as much shorter."""
    if dialect.names_by_number:
        return [safe_name(f"O{number:04d}", dialect) for number in numbers]
    if len(numbers) == 1:
        return [safe_name(text, dialect)]
    ends = [f"-{k}" for k in range(1, len(numbers) + 1)]
    stem = safe_name(text, dialect)
    stem = stem[: len(stem) - len(_suffix(dialect))]
    return [safe_name(stem[: max(dialect.name_length - len(end), 0)] + end, dialect) for end in ends]


def _suffix(dialect: Dialect) -> str:
    """What a machine's files end in; as while it is being typed it may be no ending, then the usual one."""
    return dialect.suffix if FILE_END.fullmatch(dialect.suffix) else PLAIN.suffix


def program_bytes(proofs: Sequence[ShownProof], when: str = "") -> bytes:
    """What goes out of the holdings that share a program. One that must not run says so in its third line."""
    return sent_bytes(proofs[0].program, proofs[0].card, proofs[0].unit, [r for one in proofs for r in one.remarks], when)


def sent_bytes(program: Program, card: MachineCard, unit: Unit, remarks: Sequence[Remark], when: str = "") -> bytes:
    """A program as it goes out, with all that is said of it, and in its head `when` that is."""
    words = Words(card.dialect, unit)
    plain, dated = machine_line(words, card), machine_line(words, card, when)
    lines = [dated if k < _HEAD and line == plain else line for k, line in enumerate(program.lines)]
    stops = sum(r.level in HOLDING for r in remarks)
    if stops:
        lines.insert(min(2, len(lines)), words.comment(f"{_MUST_NOT} - {stops} stop remarks - saved on request"))
    sent = msgspec.structs.replace(program, lines=tuple(lines)).sent
    return sent.replace(b"\n", ENDS[card.dialect.line_ends].encode())


def stamp() -> str:
    """Now, in local time, as it stands on what leaves."""
    return f"{datetime.now():%Y-%m-%d %H:%M}"


def digest_of(sent: bytes) -> str:
    """The SHA-256 of a program as it leaves (FIPS 180-4), in hexadecimal: two files with the same one are the same program. When
    it has left makes it no other one."""
    return hashlib.sha256(_WHEN.sub(b"", sent)).hexdigest()


def lines_that_count(sent: bytes) -> list[str]:
    """The lines of a program that has left, or that came back, without what its leaving has put there, blank ones, and what lines
    end in."""
    lines = [line.rstrip() for line in _WHEN.sub(b"", sent).decode("latin-1").splitlines()]
    return [line for line in lines if line and _MUST_NOT not in line]
