"""What was sent of the job in the window, and whether what is there now is still that."""

from __future__ import annotations

from typing import Literal

import platformdirs
from PyQt6.QtCore import QObject, pyqtSignal

from bastler.app.session import Session
from bastler.job import Job
from bastler.live.leaving import digest_of, program_bytes, stamp
from bastler.live.sent import Made, Output, SentPrograms
from bastler.live.shown import ShownProof, ShownWhole

How = Literal["never", "same", "next", "changed"]
"""How a program is to what was sent of it last; *next* is that of the next part, whose numbers have counted on."""


def sent_programs() -> SentPrograms:
    """Those of this user."""
    return SentPrograms(platformdirs.user_data_path("bastler") / "sent")


class SentKeeper(QObject):
    """`changed` comes whenever the answer may be another one."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._last: dict[int, Output | None] = {}
        self._of = ("", "")
        self._next: Job | None = None
        self._digests: tuple[ShownWhole, dict[int, str]] | None = None
        session.proof_changed.connect(self.changed)
        session.job_changed.connect(self._another)

    def last(self, program: int) -> Output | None:
        """What left last of a program of the job."""
        if program not in self._last:
            self._last[program] = sent_programs().last(*self._key(), program)
        return self._last[program]

    def how(self, program: int) -> How:
        """How a program is to what left last; as it was before, while its proof is not there yet."""
        last, whole = self.last(program), self.session.whole
        if last is None or whole is None:
            return "never"
        if self._digest(whole, program) == last.digest:
            return "same"
        return "next" if self.session.job is self._next else "changed"

    @property
    def differs(self) -> bool:
        """Has any program of the job changed since it was sent?"""
        return any(self.how(program) == "changed" for program in range(len(self.session.job.programs)))

    def made(self, program: int) -> Made | None:
        """What the program was made of that left last."""
        last = self.last(program)
        return sent_programs().made(last) if last is not None else None

    def keep(self, program: int, path: str, sent: bytes, proof: ShownProof) -> None:
        """A program has left. OSError where that cannot be taken down."""
        job = self.session.job
        key, name = self._key()
        output = Output(
            when=stamp(),
            job=key,
            name=name,
            program=program,
            number=self.session.plan.holdings[job.programs[program][0]].number,
            path=path,
            digest=digest_of(sent),
            made_of="",
        )
        made = Made(proof.program.lines, proof.program.sections, {step.id: step.title for step in job.steps})
        self._last[program] = sent_programs().keep(output, made)
        self.changed.emit()

    def counted_on(self) -> None:
        """The numbers have counted on since the program left: what is there now is for the next part."""
        self._next = self.session.job
        self.changed.emit()

    def _key(self) -> tuple[str, str]:
        return str(self.session.path or ""), self.session.job.name

    def _another(self) -> None:
        if self._of != self._key():
            self._of = self._key()
            self._last = {}

    def _digest(self, whole: ShownWhole, program: int) -> str:
        if self._digests is None or self._digests[0] is not whole:
            self._digests = (whole, {})
        known = self._digests[1]
        if program not in known:
            group = self.session.job.programs[program]
            known[program] = digest_of(program_bytes([whole.holdings[place] for place in group if place < len(whole.holdings)]))
        return known[program]
