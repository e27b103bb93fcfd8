"""What the window looks at: a job with its history, its plan, its proof, a selection and a cursor in time.

Widgets listen to the signals and send edits through `answer` and the commands; nothing else changes a job.
"""

from __future__ import annotations

import math
import time
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bastler.app.core import Core
from bastler.job import Job, answering, edits, new_job, write_job
from bastler.job.files import stamp_at
from bastler.job.history import History
from bastler.job.shop import Shop
from bastler.language import sayable, tr
from bastler.live.messages import Busy
from bastler.live.shown import Look, ShownHolding, ShownPlan, ShownProof, ShownWhole
from bastler.proof.remark import Cure, Remark
from bastler.proof.scrub import Moment, moment_at
from bastler.shapes import NOTHING, AnyOutline, Drawn
from bastler.steps import kind_of
from bastler.steps.base import PlaneKind
from bastler.steps.place import END, Place

STOCK = "stock"
"""The selection when the card of the stock is."""
TICK_MS = 33
COMPILED_LATELY = 1.0
"""Seconds after a word that kernels are being compiled in which they are taken to be still."""
LONGEST = 10.0
"""Seconds without an answer after which a proof is taken to hang, those apart in which kernels are compiled."""
STARVED = 4.0
"""So many times as long something may take for which the processors hardly work, as they are kept busy by others: it hangs only
when it does not end by then."""
FIRST = 3.0
"""So many times as long the first one of a process may take, which loads its kernels: on a slow machine that is no hanging."""


def is_step(card: str) -> bool:
    """Is a card that of a step, and not of the stock or of a holding?"""
    return card != STOCK and not card.startswith("holding:")


class Session(QObject):
    """One open job. What is worked out of it comes by and by: an edit is there at once (`job_changed`), then its plan with what
    there is to see of the selected card (`plan_changed`), then the proof (`proof_changed`).

    `selected` is a step's id, STOCK, or the card of a holding, as `holding:h1`; `focus` the address of the answer in focus, or
    empty. Views show the holding that is selected or that the selected step is in."""

    job_changed = pyqtSignal()
    plan_changed = pyqtSignal()
    look_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    focus_changed = pyqtSignal()
    proof_changed = pyqtSignal()
    cursor_changed = pyqtSignal()
    pointed_changed = pyqtSignal()
    said = pyqtSignal(str, str)
    wants_export = pyqtSignal(str, str)
    wants_drawing = pyqtSignal(str)
    wants_places = pyqtSignal(str)
    wants_focus = pyqtSignal(str)
    shop_changed = pyqtSignal()
    explanation_wanted = pyqtSignal()
    """Somebody wants to know what the question in focus means."""

    def __init__(self, core: Core) -> None:
        super().__init__()
        self.core = core
        self.history = History(new_job())
        self.path: Path | None = None
        self.saved: Job | None = None
        self.stamp = b""
        self.began: Job | None = None
        self.plan = ShownPlan(self.job, ())
        """The newest there is; without holdings as long as there is none."""
        self.plan_number = 0
        self.look: Look | None = None
        """What there is to see of the selected card; while that of another is still there nothing newer has come."""
        self.whole: ShownWhole | None = None
        """The newest proof of all holdings."""
        self.whole_number = 0
        self.share = 0.0
        """How much of the newest proof is done."""
        self._compiled = -math.inf
        self.halted = ""
        """Why nobody is working at the proof any more, in words; empty while somebody is, or it is there."""
        self.longest = LONGEST
        self.proof_number = 0
        self._opened = 0
        """The number with which the job was opened: what has a lower one is of another job."""
        self.asked_at = 0.0
        self.selected = STOCK
        self.focus = ""
        self.section: float | None = None
        """Where the selected card is cut open, an X or a Y; None for where its step lies."""
        self.cursor = 0.0
        self.pointed = -1
        """The move that made what was touched on the part; -1 for none."""
        self.follow_end = True
        self.speed = 8.0
        self.has_job = False
        self.shop = Shop()
        self._timer = QTimer(self)
        self._timer.setInterval(TICK_MS)
        self._timer.timeout.connect(self._tick)
        self._ticked = 0.0
        self._worked = 0.0
        """What processors had worked when the newest job was asked for, in seconds."""
        self._watch = QTimer(self)
        self._watch.setSingleShot(True)
        self._watch.timeout.connect(self._hangs)
        core.planned.connect(self._planned)
        core.looked.connect(self._looked)
        core.proved.connect(self._proved)
        core.failed.connect(self._failed)
        core.busy.connect(self._busy)
        core.died.connect(self._core_died)

    # -- the job ------------------------------------------------------------------------------------------------

    @property
    def job(self) -> Job:
        return self.history.job

    @property
    def compiling(self) -> bool:
        """Is what computes being made ready for this machine, which happens once?"""
        return time.monotonic() - self._compiled < COMPILED_LATELY

    @property
    def late(self) -> bool:
        """Is the plan that is shown older than the job?"""
        return self.plan_number != self.proof_number

    @property
    def shown(self) -> bool:
        """Is there a plan to show?"""
        return self.has_job and bool(self.plan.holdings)

    @property
    def stale(self) -> bool:
        """Is the proof that is shown older than the job?"""
        return self.whole is None or self.whole_number != self.proof_number

    @property
    def held_id(self) -> str:
        """The id of the holding that is looked at."""
        return self.job.holding_of(edits.held_at(self.selected)).id

    @property
    def held(self) -> ShownHolding:
        """The holding that is looked at, planned."""
        return self.plan.holding(self.held_id)

    @property
    def program(self) -> int:
        """Which of the job's programs the holding is in that is looked at."""
        place = self.held.place
        return next((k for k, group in enumerate(self.job.programs) if place in group), 0)

    @property
    def proof(self) -> ShownProof | None:
        """The proof of the holding that is looked at."""
        return self.whole.get(self.held_id) if self.whole else None

    @property
    def on_step(self) -> bool:
        """Is a step selected, and not the card of the stock or of a holding?"""
        return is_step(self.selected)

    @property
    def plane(self) -> PlaneKind:
        """The kind of plane that the selected card is on."""
        step = self.job.step(self.selected)
        return "flat" if step is not None and kind_of(step).driven else self.job.plane

    @property
    def place(self) -> Place | None:
        """Where on a part in a chuck the selected step works with driven tools; None of all other cards."""
        step = self.job.step(self.selected)
        if step is None or not self.job.turns or not kind_of(step).driven:
            return None
        planned = self.plan.step(self.selected) if self.shown else None
        return planned.place if planned is not None else END

    def cards(self) -> list[str]:
        """All there is to select, in the order of the route."""
        return [STOCK, f"holding:{self.job.holdings[0].id}", *edits.route_of(self.job)]

    @property
    def dirty(self) -> bool:
        """Is there something in the job that is not in its file?"""
        return self.has_job and self.job is not self.saved and self.job != self.saved

    @property
    def untouched(self) -> bool:
        """Is the job as it was begun, with nobody's work in it?"""
        return self.began is not None and (self.job is self.began or self.job == self.began)

    def open(self, job: Job, path: Path | None, *, saved: Job | None = None, stamp: bytes = b"", taken_up: bool = False) -> None:
        """Another job takes the place of this one. `saved` is what is in its file and `stamp` the file's; one that was `taken_up`
        from what is kept has work in it from the start."""
        self.stop()
        self.history = History(job)
        self.path, self.saved, self.stamp = path, saved, stamp
        self.began = None if taken_up else job
        self.longest = LONGEST
        self.has_job = True
        self.selected = job.steps[0].id if job.steps else STOCK
        self.focus, self.section = "", None
        self.cursor, self.follow_end = 0.0, True
        self.whole, self.look, self.plan = None, None, ShownPlan(job, ())
        self._replan()
        self._opened = self.proof_number
        self.job_changed.emit()
        self.selection_changed.emit()
        self.proof_changed.emit()

    def take_history(self, history: History) -> None:
        """What undo goes back to, of the same job."""
        self.history = history

    def save(self, path: Path) -> None:
        """Writes the job. OSError when the disk refuses."""
        self.stamp = write_job(self.job, path)
        self.path, self.saved = path, self.job
        self.job_changed.emit()

    def changed_elsewhere(self) -> bool:
        """Does the job's file hold something else than was read from it or written to it last?"""
        if self.path is None or not self.stamp:
            return False
        try:
            return stamp_at(self.path) not in (b"", self.stamp)
        except OSError:
            return True

    def leave(self) -> None:
        """The job is left."""
        self.stop()
        self._watch.stop()
        self.has_job = False

    def edit(self, job: Job, says: str, merge: str = "", select: str | None = None) -> None:
        """The only way a job changes: a new one, what was done in words, and a key under which keystrokes merge."""
        if job == self.job and select is None:
            return
        before = self.job
        self.history.edit(job, says, merge)
        self._arrived(select, before)

    def keep_shop(self, shop: Shop) -> None:
        """Another state of the shop."""
        if shop != self.shop:
            self.shop = shop
            self.shop_changed.emit()

    def _arrived(self, select: str | None, old: Job) -> None:
        self.keep_shop(self.shop.followed(old, self.job))
        before, held = self.selected, self.held_id
        if select is not None:
            self.selected = select
        if self.selected != before:
            self.section = None
        if self.selected not in self.cards():
            self.selected = self.job.steps[0].id if self.job.steps else STOCK
        if self.focus and not self.there(self.focus):
            self.focus = ""
        self._replan()
        self.job_changed.emit()
        if self.selected != before:
            self.focus = ""
            self.selection_changed.emit()
        if self.held_id != held:
            self._other_holding()

    def _other_holding(self) -> None:
        """Another program, another time."""
        self.stop()
        self.follow_end = True
        self.cursor = self.proof.total if self.proof else 0.0
        self.proof_changed.emit()
        self.cursor_changed.emit()

    def there(self, address: str) -> bool:
        """Is there still an answer at an address? A step, a segment, a tool may have gone with an edit or an undo."""
        try:
            answering.at(self.job, address)
        except KeyError:
            return False
        return True

    def answer(self, address: str, value: Any, typed: str | Mapping[str, str] = "") -> None:
        """One answer is given, or computed again when `value` is None. Of what is not there any more nothing is."""
        if not self.there(address):
            return
        try:
            changed = answering.answered(self.job, address, value, typed)
        except answering.UnfitAnswer as error:
            self.said.emit("wrong", str(error))
            return
        self.edit(changed, tr("Change {last}", last=_last(address)), merge=address)

    def undo(self) -> None:
        before = self.job
        self.history.undo()
        self._arrived(None, before)

    def redo(self) -> None:
        before = self.job
        self.history.redo()
        self._arrived(None, before)

    def _replan(self) -> None:
        """Has the job as it is now planned and proved; what was before stays as long."""
        self.asked_at = time.monotonic()
        self.halted, self.share = "", 0.0
        self._worked = self.core.process.worked
        self._watch.start(int(self.longest * 1000)) if math.isfinite(self.longest) else self._watch.stop()
        self.proof_number = self.core.work(self.job, self.selected, self.section)

    def _planned(self, number: int, found: ShownPlan, look: Look) -> None:
        """A plan is there: of the job as it is, or of an older one that nothing newer is there for yet. Never an older one in the
        place of a newer."""
        if not self.has_job or self.halted or not self.plan_number < number <= self.proof_number or number < self._opened:
            return
        self.plan, self.plan_number = found, number
        if look.card == self.selected:
            self.look = look
        self.plan_changed.emit()

    def _looked(self, number: int, look: Look) -> None:
        """What there is to see of a card of the plan that is shown."""
        if number == self.plan_number and look.card == self.selected:
            self.look = look
            self.look_changed.emit()

    def _busy(self, how: Busy) -> None:
        if how.number == self.proof_number:
            self.share = how.share
        if how.compiling:
            self._compiled = time.monotonic()

    def _proved(self, number: int, proof: ShownWhole) -> None:
        if number != self.proof_number or not self.has_job or self.halted:
            return
        self._watch.stop()
        self.whole, self.whole_number = proof, number
        total = self.proof.total if self.proof else 0.0
        self.cursor = total if self.follow_end else min(self.cursor, total)
        self.proof_changed.emit()
        self.cursor_changed.emit()

    # -- nobody waits for ever ----------------------------------------------------------------------------------

    def halt(self, why: str = "") -> None:
        """What is being planned or proved is not waited for any longer. The job stays as it is, and is not proved."""
        if not self.has_job or not self.stale or self.halted:
            return
        self._watch.stop()
        self.core.drop()
        seconds = time.monotonic() - self.asked_at
        self.halted = why or tr("Stopped by you after {seconds:.1f} s.", seconds=seconds)
        self.proof_changed.emit()

    def prove_on(self) -> None:
        """Once more, and as long as it takes, until another job is opened."""
        if self.has_job and self.halted:
            self.longest = math.inf
            self._replan()
            self.job_changed.emit()

    def _hangs(self) -> None:
        longest = self.longest * (FIRST if self.core.fresh else 1.0)
        if self.core.process.worked - self._worked < longest / 2:
            longest *= STARVED
        if time.monotonic() - max(self._compiled, self.core.ready_at, self.asked_at) < longest:
            self._watch.start(int(self.longest * 1000))
            return
        what = sayable("plan") if self.late else sayable("proof")
        self.halt(tr("No {what} after {monotonic:.1f} s: stopped.", what=tr(what), monotonic=time.monotonic() - self.asked_at))
        self.said.emit("wrong", tr("{halted} Undo, or press Prove.", halted=self.halted))

    def _failed(self, number: int, text: str) -> None:
        """Something that is no fault of the job: it is said, and the header does not go on counting."""
        if number == self.proof_number:
            self.halt(tr("It failed."))
        self.said.emit("wrong", text)

    def _core_died(self, text: str) -> None:
        self.said.emit("wrong", text)

    def as_drawn(self, outline: AnyOutline) -> tuple[AnyOutline, Drawn]:
        """An outline and what became of it: while the plan of a change is late, as they were before it."""
        old, found = self.plan.job.outline(outline.id), self.plan.drawn.get(outline.id)
        if old is None or found is None:
            return outline, NOTHING
        return outline if old == outline else old, found

    def drawn(self, outline: AnyOutline) -> Drawn:
        """What became of an outline, or of the one before it."""
        return self.as_drawn(outline)[1]

    # -- selection and focus ------------------------------------------------------------------------------------

    def select(self, ident: str) -> None:
        """Selects a step or another card."""
        if ident != self.selected and ident in self.cards():
            self.history.settle()
            held, self.selected = self.held_id, ident
            self.focus, self.section = "", None
            self.core.look_at(ident)
            self.selection_changed.emit()
            if self.held_id != held:
                self._other_holding()

    def select_by(self, by: int) -> None:
        """Selects the card so many further on."""
        cards = self.cards()
        at = cards.index(self.selected) if self.selected in cards else 0
        self.select(cards[max(0, min(at + by, len(cards) - 1))])

    def cut_at(self, section: float | None) -> None:
        """Cuts the drawing of a milled part open elsewhere; None for where its step lies."""
        if section != self.section:
            self.section = section
            self.core.look_at(self.selected, section)

    def set_focus(self, address: str) -> None:
        """An answer is in focus, in the questions or on the sheet."""
        if address != self.focus:
            self.focus = address
            self.history.settle()
            self.focus_changed.emit()

    def address_of(self, field: str) -> str:
        """The address of a field of the selected card; `pattern.…` leads to the pattern of the step."""
        if not self.on_step:
            of_stock = field in self.job.stock.__struct_fields__
            return f"stock.{field}" if of_stock else f"holding:{self.held_id}.{field}"
        if field.startswith("pattern."):
            step = self.job.step(self.selected)
            return f"pattern:{getattr(step, 'pattern', '')}.{field.removeprefix('pattern.')}"
        if field.startswith("outline."):
            step = self.job.step(self.selected)
            return f"outline:{getattr(step, 'outline', '')}.{field.removeprefix('outline.')}"
        return f"step:{self.selected}.{field}"

    def outline_of_step(self) -> AnyOutline | None:
        """The outline that the selected step runs along."""
        return self.job.outline(getattr(self.job.step(self.selected), "outline", "")) if self.has_job else None

    def remarks_of(self, step: str) -> list[Remark]:
        """The remarks on a step; of the card of a holding those on no step of it, of that of the stock those on no step at
        all."""
        proof = self.proof if step.startswith("holding:") else self.whole
        own = step if step in {s.id for s in self.job.steps} else ""
        return [r for r in proof.remarks if r.step == own] if proof else []

    def cure(self, cure: Cure) -> None:
        """Takes a way out of a remark."""
        self.history.settle()
        if not cure.address.startswith("add:"):
            self.edit(edits.cured(self.job, cure.address, cure.value), cure.says)
            return
        before = self.job

        def taken(job: Job | None, trouble: str) -> None:
            if trouble:
                self.said.emit("wrong", trouble)
            elif job is not None and self.job is before:
                self.edit(job, cure.says)

        self.core.ask("cured", before, cure.address, cure.value, then=taken)

    # -- time ---------------------------------------------------------------------------------------------------

    @property
    def moment(self) -> Moment:
        if self.proof is None:
            return Moment(0.0, -1, 0.0, (0.0, 0.0, 0.0), -1)
        return moment_at(self.proof, self.cursor)

    def seek(self, seconds: float) -> None:
        """Moves the cursor; at the end it follows the program's end from then on."""
        if self.proof is None:
            return
        self.cursor = min(max(seconds, 0.0), self.proof.total)
        self.follow_end = self.cursor >= self.proof.total
        self.cursor_changed.emit()

    @property
    def playing(self) -> bool:
        return self._timer.isActive()

    def play(self) -> None:
        """Runs from the cursor, from the start when it is at the end."""
        if self.proof is None:
            return
        if self.cursor >= self.proof.total:
            self.seek(0.0)
        self._ticked = time.monotonic()
        self._timer.start()
        self.cursor_changed.emit()

    def stop(self) -> None:
        self._timer.stop()

    def run_or_stop(self) -> None:
        if self.playing:
            self.stop()
            self.cursor_changed.emit()
        else:
            self.play()

    def _tick(self) -> None:
        now = time.monotonic()
        gone, self._ticked = now - self._ticked, now
        self.seek(self.cursor + gone * self.speed)
        if self.proof is None or self.cursor >= self.proof.total:
            self.stop()
            self.cursor_changed.emit()

    def step_moves(self, by: int) -> None:
        """One move on or back: to the end of the next move, or to the end of the one before. A move to where the tool is already
        takes no time: it is stepped over."""
        if self.proof is None or not len(self.proof.trace):
            return
        self.stop()
        ends = self.proof.starts + self.proof.lasts
        if by > 0:
            later = np.flatnonzero(ends > self.cursor + 1e-6)
            self.seek_move(int(later[0]) if len(later) else len(ends) - 1)
        else:
            before = np.flatnonzero(ends < self.cursor - 1e-6)
            self.seek_move(int(before[-1]) if len(before) else -1)

    def seek_move(self, move: int) -> None:
        """To the end of a move; before the first when there is none."""
        if self.proof is None or not len(self.proof.trace):
            return
        if move < 0:
            self.seek(0.0)
            return
        move = min(move, len(self.proof.trace) - 1)
        self.seek(float(self.proof.starts[move] + self.proof.lasts[move]))

    def point_at(self, move: int) -> None:
        """A face of the part was touched that a move made: its step is selected and its line lit; time stays where it is."""
        if move == self.pointed:
            return
        self.pointed = move
        self._select_of(move)
        self.pointed_changed.emit()

    def pick_move(self, move: int) -> None:
        """A move was picked, wherever that was: time goes to its end, and its step is selected."""
        self.stop()
        self._select_of(move)
        self.seek_move(move)

    def _select_of(self, move: int) -> None:
        stage = self.proof.stage_of(move) if self.proof else None
        if stage is not None and stage.step:
            self.select(stage.step)

    def step_stages(self, by: int) -> None:
        """To the start of the next stage, or back to the start of this one or the one before."""
        if self.proof is None:
            return
        self.stop()
        starts = [s.t0 for s in self.proof.stages if s.step] + [self.proof.total]
        starts = [0.0, *starts]
        if by > 0:
            after = [t for t in starts if t > self.cursor + 1e-6]
            self.seek(after[0] if after else self.proof.total)
        else:
            before = [t for t in starts if t < self.cursor - 1e-6]
            self.seek(before[-1] if before else 0.0)

    def seek_line(self, line: int) -> None:
        """To the end of the last move that a line (from 0) made, and to its step."""
        if self.proof is None:
            return
        moves = np.flatnonzero(self.proof.trace.line == line)
        if len(moves):
            self.pick_move(int(moves[-1]))


def _last(address: str) -> str:
    return address.rpartition(".")[2].replace("_", " ")
