"""Sending the program out: a safe name, a chosen folder, and an honest word in it when it is not proved."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bastler.app.asking import OWN_DIALOG
from bastler.app.fields import WordField
from bastler.app.labels import Label
from bastler.app.sent_keeper import SentKeeper
from bastler.app.session import Session
from bastler.app.theme import ROLES, dress
from bastler.disk import free_at, read_bounded, reason_of, write_whole
from bastler.job import Job
from bastler.job.prints import not_ticked
from bastler.language import tr
from bastler.live.leaving import lines_that_count, names_of, program_bytes, safe_name, stamp
from bastler.live.shown import ShownProof
from bastler.units import grouped

MOST_LISTED = 12
"""Sizes that are listed by name."""
LARGEST = 200_000_000
"""Bytes of a program that is compared."""


class OutputPanel(QWidget):
    """Name, folder, and the button. Says what it did."""

    saved = pyqtSignal(str)
    wants_print = pyqtSignal()

    def __init__(self, session: Session, keeper: SentKeeper, folder: str) -> None:
        super().__init__()
        self.session, self.keeper = session, keeper
        self.folder = Path(folder) if folder and Path(folder).is_dir() else Path.home()
        self._again = False
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        head = Label(tr("WHERE TO"))
        head.setObjectName("group")
        column.addWidget(head)
        row = QHBoxLayout()
        row.addWidget(Label(tr("File")))
        self.name = WordField()
        self.name.setAccessibleName(tr("File name"))
        self.name.setMaxLength(120)
        self.name.entered.connect(lambda _: self.save())
        row.addWidget(self.name, 1)
        column.addLayout(row)
        row = QHBoxLayout()
        self.where = Label()
        self.where.setObjectName("soft")
        self.where.setWordWrap(True)
        change = QPushButton(tr("change"))
        change.setObjectName("link")
        change.clicked.connect(self._pick_folder)
        row.addWidget(self.where, 1)
        row.addWidget(change)
        column.addLayout(row)
        row = QHBoxLayout()
        self.not_ticked = Label()
        self.not_ticked.setWordWrap(True)
        self.look = QPushButton(tr("look"))
        self.look.setObjectName("link")
        self.look.setToolTip(tr("To the print, with what is not ticked off"))
        self.look.clicked.connect(self.wants_print)
        row.addWidget(self.not_ticked, 1)
        row.addWidget(self.look)
        column.addLayout(row)
        self.said = Label()
        self.said.setWordWrap(True)
        self.said.hide()
        column.addWidget(self.said)
        self.button = QPushButton(tr("Save the program"))
        self.button.setObjectName("main")
        self.button.clicked.connect(self.save)
        column.addWidget(self.button)
        session.proof_changed.connect(self._other)
        session.job_changed.connect(self._other)
        self._named_for = ("", "")
        self._said_for: Job | None = None
        self.counted = False
        """Have the numbers counted on since the program that is shown left?"""

    @property
    def stem(self) -> str:
        """What its files are called, without an ending."""
        return Path(safe_name(self.name.text(), self.session.job.card.dialect)).stem

    def take_focus(self) -> None:
        """The keyboard goes to the file's name; Enter saves."""
        self.name.setFocus()
        self.name.selectAll()

    def _other(self) -> None:
        job = self.session.job
        if job is not self._said_for:
            self._again = self.counted = False
            self.said.clear()
            self.said.hide()
            self.button.setText(tr("Save the program"))
        if self._named_for != (job.name, job.machine):
            self._named_for = (job.name, job.machine)
            self.name.setText(safe_name(job.name.lower(), job.card.dialect))
        self.where.setText(tr("in {folder}{numbers}", folder=self.folder, numbers=self._numbers()))
        self._say_not_ticked()

    def _say_not_ticked(self) -> None:
        """Which sizes of the print nobody has ticked off."""
        left = not_ticked(self.session.job)
        for part in (self.not_ticked, self.look):
            part.setVisible(bool(left))
        more = tr(" and {left} more", left=len(left) - MOST_LISTED) if len(left) > MOST_LISTED else ""
        self.not_ticked.setText(
            tr("Not ticked off on the print: {left}{more}.", left=", ".join(mark.said for mark in left[:MOST_LISTED]), more=more)
        )
        dress(self.not_ticked, f"color: {ROLES.caution_text};")

    def _numbers(self) -> str:
        """How the files of several holdings are told apart."""
        many = len(self.session.job.programs)
        if self.session.job.card.dialect.names_by_number:
            return tr(", named by number")
        return (
            tr(", one file a program: {range} behind the name", range=tr(" and ").join(f"-{k}" for k in range(1, many + 1)))
            if many > 1
            else ""
        )

    def _pick_folder(self) -> None:
        found = QFileDialog.getExistingDirectory(self, tr("Folder for programs"), str(self.folder), OWN_DIALOG)
        if found:
            self.folder = Path(found)
            self.where.setText(tr("in {folder}{numbers}", folder=self.folder, numbers=self._numbers()))

    def ready(self) -> bool:
        """Is there a proof of the job as it is? Where not, it is said why."""
        if self.session.whole is not None and not self.session.stale:
            return True
        running = tr("The proof is still running. Try again in a moment.")
        stopped = tr("The proof was stopped, so nothing goes out. Press Prove, above.")
        self.say(stopped if self.session.halted else running, ROLES.caution_text)
        return False

    def _all_cut(self) -> list[tuple[int, list[ShownProof]]]:
        """The programs that cut something, each with its place and the proofs of its holdings; none where it is said why."""
        whole = self.session.whole
        if not self.ready() or whole is None:
            return []
        every = [(k, [whole.holdings[place] for place in group]) for k, group in enumerate(self.session.job.programs)]
        cut = [(k, proofs) for k, proofs in every if any(proof.stages for proof in proofs)]
        if not cut:
            self.say(tr("There is nothing to cut yet. Add a step."), ROLES.caution_text)
        return cut

    def program_to_send(self) -> tuple[bytes, ShownProof, bool] | None:
        """The program that is looked at as it leaves, with its proof, and whether it may run; None where it is said why not."""
        cut = dict(self._all_cut())
        proofs = cut.get(self.session.program)
        if proofs is None:
            return None
        return program_bytes(proofs, stamp()), proofs[0], all(proof.proved for proof in proofs)

    def has_left(self, where: str, sent: bytes, proof: ShownProof) -> None:
        """The program that is looked at has left by another way."""
        try:
            self.keeper.keep(self.session.program, where, sent, proof)
        except OSError as error:
            self.say(tr("What was sent could not be taken down: {error}.", error=reason_of(error)), ROLES.stop)

    def compared_with_sent(self, path: Path) -> str:
        """How a program that came back is to what was sent last, whatever its lines end in."""
        last = self.keeper.last(self.session.program)
        made = self.keeper.made(self.session.program) if last is not None else None
        if last is None or made is None:
            return tr("Open it to have it proved.")
        try:
            lines = lines_that_count(read_bounded(path, LARGEST))
        except OSError as error:
            return tr("It cannot be read: {error}.", error=reason_of(error))
        same = lines == lines_that_count(made.program.sent)
        return (
            tr("It is what was sent {when}.", when=last.when)
            if same
            else tr("It is not what was sent {when}. Open it to have it proved.", when=last.when)
        )

    def save(self) -> None:
        """Writes the program; one with a stop remark only when pressed a second time."""
        cut, groups = self._all_cut(), self.session.job.programs
        if not cut:
            return
        if not all(proof.proved for _, proofs in cut for proof in proofs) and not self._again:
            self._again = True
            self.button.setText(tr("Save it all the same"))
            self.say(
                tr("This program must not run as it is: see the remarks. Press again to save it; its text will say so."),
                ROLES.stop,
            )
            return
        forgotten = ""
        numbers = [self.session.plan.holdings[group[0]].number for group in groups]
        every_name = names_of(self.name.text(), numbers, self.session.job.card.dialect)
        names = [every_name[k] for k, _ in cut]
        for (k, proofs), name in zip(cut, names, strict=True):
            path, sent = self.folder / name, program_bytes(proofs, stamp())
            if (free := free_at(self.folder)) is not None and free < len(sent):
                self.say(
                    tr(
                        "There is no room for {name} in {folder}: {free} of {sent} bytes.",
                        name=name,
                        folder=self.folder,
                        free=grouped(free),
                        sent=grouped(len(sent)),
                    ),
                    ROLES.stop,
                )
                return
            try:
                write_whole(path, sent)
                again = read_bounded(path, len(sent))
            except OSError as error:
                self.say(tr("{path} could not be written: {error}.", path=path, error=reason_of(error)), ROLES.stop)
                return
            if again != sent:
                self.say(tr("{path} does not hold what was written to it. Do not run it.", path=path), ROLES.stop)
                return
            try:
                self.keeper.keep(k, str(path), sent, proofs[0])
            except OSError as error:
                forgotten = tr(" What was sent could not be taken down: {error}.", error=reason_of(error))
        self._again = False
        self.button.setText(tr("Save the program"))
        left = self.session.job
        self.saved.emit(str(path))
        self._said_for = self.session.job
        self.counted = self._said_for is not left
        if self.counted:
            self.keeper.counted_on()
        counted = tr(" The numbers have counted on.") if self.counted else ""
        lines = sum(len(proofs[0].program.lines) for _, proofs in cut)
        self.say(
            tr(
                "Saved as {names}, {lines} lines, read back and the same.{counted}{forgotten}",
                names=tr(" and ").join(names),
                lines=lines,
                counted=counted,
                forgotten=forgotten,
            ),
            ROLES.good,
        )

    def say(self, text: str, tint: str) -> None:
        """What was done, or why not."""
        self.said.setText(text)
        self.said.show()
        dress(self.said, f"color: {tint};")
