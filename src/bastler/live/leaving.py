"""What leaves as files: names that no control and no disk stumbles over, the bytes of a program, how one is told from another."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Sequence

import msgspec

from bastler.live.shown import ShownProof
from bastler.machines import MachineCard
from bastler.post import Program
from bastler.post.words import Words
from bastler.proof.remark import HOLDING, Remark
from bastler.units import Unit


def safe_name(text: str) -> str:
    """A file name no control and no disk stumbles over: letters, digits, dash, underscore; ends in `.nc`."""
    stem = re.sub(r"\.nc$", "", text.strip(), flags=re.IGNORECASE)
    stem = re.sub(r"[^A-Za-z0-9_-]+", "-", stem).strip("-")[:40]
    return f"{stem or 'program'}.nc"


def name_in(text: str, place: int, of: int) -> str:
    """The file name of a program: of several each has its number behind the name."""
    name = safe_name(text)
    return name if of == 1 else f"{name.removesuffix('.nc')}-{place + 1}.nc"


def program_bytes(proofs: Sequence[ShownProof]) -> bytes:
    """What goes out of the holdings that share a program. One that must not run says so in its second line."""
    return sent_bytes(proofs[0].program, proofs[0].card, proofs[0].unit, [r for one in proofs for r in one.remarks])


def sent_bytes(program: Program, card: MachineCard, unit: Unit, remarks: Sequence[Remark]) -> bytes:
    """A program as it goes out, with all that is said of it."""
    lines = list(program.lines)
    stops = sum(r.level in HOLDING for r in remarks)
    if stops:
        words = Words(card.dialect, unit)
        lines.insert(min(2, len(lines)), words.comment(f"NOT PROVED - {stops} stop remarks - saved on request"))
    return msgspec.structs.replace(program, lines=tuple(lines)).sent


def digest_of(sent: bytes) -> str:
    """The SHA-256 of a program as it leaves (FIPS 180-4), in hexadecimal: two files with the same one are the same program."""
    return hashlib.sha256(sent).hexdigest()
