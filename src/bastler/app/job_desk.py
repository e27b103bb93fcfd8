"""Jobs and their files: begun, opened, saved, left. What is in no file is kept; what another has saved meanwhile is not lost."""

from __future__ import annotations

import contextlib
import getpass
import socket
import threading
import time
from pathlib import Path

import msgspec
import platformdirs
from PyQt6.QtCore import QObject

from bastler.app.asking import file_to_open, file_to_write, may_replace
from bastler.app.recovery import Recovery, kept_work
from bastler.app.report import report
from bastler.app.settings import Settings, settings_path, with_recent, write_settings
from bastler.app.two_versions import MINE, THEIRS, TwoVersions
from bastler.app.window import Window
from bastler.disk import Held, clear_half_written, hold, holder_of, plain_name, reason_of, write_whole
from bastler.job import Job, JobFileError, write_job
from bastler.job.files import read_job_file
from bastler.job.kept import Kept
from bastler.job.prints import LESSON
from bastler.job.samples import sample
from bastler.language import sayable, tr
from bastler.lessons import lesson_named
from bastler.units import Unit

JOB_FILES = sayable("Bastler jobs (*.bastler)")
PROGRAMS = sayable("Programs (*.nc *.NC *.ngc *.tap *.TAP *.cnc *.CNC *.iso *.txt *.TXT)")
SUFFIX = ".bastler"
MOST_TEMPLATES = 60
"""That are shown at the start."""
FIRST_SIZE = {False: "stock.size_x", True: "stock.diameter"}
"""Where a new job begins, of a milled and of a turned part."""


def open_mark(path: Path) -> Path:
    """The file beside a job's file that says who has it open."""
    return path.parent / f".{path.name}.open"


def templates_path() -> Path:
    """The folder of the shop's templates."""
    return platformdirs.user_data_path("bastler") / "templates"


def templates() -> list[Path]:
    """The templates there are, by name."""
    try:
        return sorted(path for path in templates_path().iterdir() if path.suffix == SUFFIX)[:MOST_TEMPLATES]
    except OSError:
        return []


def _tidied(settings: Settings) -> None:
    """Takes away what is too old, and what killed programs left half-written. Not before the window opens: a folder of these may
    be large, or on a network that sleeps."""
    work = kept_work()
    work.tidy()
    written = [Path(r).parent for r in settings.recent]
    if settings.output_folder:
        written.append(Path(settings.output_folder))
    clear_half_written([work.folder, settings_path().parent, *written])


class JobDesk(QObject):
    """Opens, saves and leaves jobs for the window."""

    def __init__(self, window: Window) -> None:
        super().__init__(window)
        self.window, self.session = window, window.session
        self.recovery = Recovery(self.session)
        self.kept: dict[str, Kept] = {}
        self._held: Held | None = None
        self._machine = ""
        """That of the job as it was last."""
        self.session.job_changed.connect(self._machine_chosen)
        self._warned: Job | None = None
        threading.Thread(target=_tidied, args=(window.settings,), name="tidying", daemon=True).start()

    # -- beginning and opening ------------------------------------------------------------------------------------

    def offer(self) -> None:
        """Shows what there is to open at the start."""
        recent = [Path(p) for p in self.window.settings.recent]
        self.kept = {kept.ident: kept for kept in kept_work().left()}
        own = self.window.settings
        self.window.start.offer(list(self.kept.values()), recent, own.lessons, templates(), own.begun)

    def open_choice(self, choice: str) -> None:
        """What was picked at the start: new:UNIT:MACHINE, sample:NAME, lesson:NAME, template:PATH, kept:ID or file:PATH."""
        what, _, name = choice.partition(":")
        if what == "new":
            unit, _, machine = name.partition(":")
            self.window.settings = msgspec.structs.replace(self.window.settings, begun=choice)
            write_settings(self.window.settings)
            self.opened(self._new("inch" if unit == "inch" else "mm", machine or "mill-600"))
        elif what == "sample":
            self.opened(sample(name))
        elif what == "template":
            self._begin_from(Path(name))
        elif what == "lesson":
            self._lesson(choice)
        elif what == "kept":
            self._take_up(name)
        else:
            self.open_path(Path(name))

    def _new(self, unit: Unit, usual: str) -> Job:
        """A new job for the machine that was chosen last for such parts; for the usual one where there is none, or it is gone."""
        job = self.session.shop.new_job(unit, usual)
        card = job.all_cards().get(self.window.settings.machine.get(job.plane, usual), job.card)
        return job if card.id == job.machine or card.turns != job.card.turns else self.session.shop.new_job(unit, card.id)

    def _machine_chosen(self) -> None:
        """Whoever gives a job another machine has it for the next new one too."""
        job = self.session.job
        if job.machine != self._machine and job.machine in job.all_cards():
            self._machine = job.machine
            chosen = {**self.window.settings.machine, job.plane: job.machine}
            self.window.settings = msgspec.structs.replace(self.window.settings, machine=chosen)
            write_settings(self.window.settings)

    def _begin_from(self, path: Path) -> None:
        """A new job as a template has it."""
        try:
            job = read_job_file(path)[0]
        except JobFileError as error:
            self._say("wrong", f"{path.name}: {error}")
            return
        self.opened(job)

    def keep_template(self) -> None:
        """The job as it is now, for new ones to begin with: its machine, stock, tools, steps and lines. It goes by its name."""
        job = self.session.job
        path = templates_path() / (plain_name(job.name, "part") + SUFFIX)
        if path.exists() and not may_replace(self.window, path):
            return
        try:
            write_job(msgspec.structs.replace(job, print=None, by_hand=(), elsewhere=None), path)
        except OSError as error:
            self._say("wrong", tr("The template could not be written: {error}.", error=reason_of(error)))
            return
        self._say("", tr("“{name}” is a template now: it stands at the start.", name=job.name))

    def _lesson(self, file: str) -> None:
        """A lesson goes on with the job that was made in it and is kept, or begins."""
        kept = next(
            (k for k in self.kept.values() if k.job is not None and k.job.print is not None and k.job.print.file == file), None
        )
        lesson = lesson_named(file.removeprefix(LESSON))
        if kept is not None:
            self._take_up(kept.ident)
        elif lesson is not None:
            from bastler.app.lesson_desk import begun

            self.opened(begun(lesson))
            self.window.view("sheet")  # which its sentences speak of

    def _take_up(self, ident: str) -> None:
        """A kept job goes on, with the file that it belongs to."""
        kept = self.kept.get(ident)
        if kept is None or kept.job is None:
            self._say("wrong", tr("That job is not kept any more."))
            return
        saved, stamp = None, b""
        if kept.file is not None:
            with contextlib.suppress(JobFileError):
                saved, stamp = read_job_file(kept.file)
        self.opened(kept.job, kept.file, saved=saved, stamp=stamp, ident=ident)

    def throw_away(self, ident: str) -> None:
        """A kept job, or a template, that the machinist does not want any more."""
        try:
            if ident.endswith(SUFFIX):
                path = templates_path() / Path(ident).name
                path.unlink(missing_ok=True)
            else:
                kept_work().throw_away(ident)
        except OSError as error:
            self._say("wrong", tr("The kept job could not be thrown away: {error}.", error=reason_of(error)))
        self.offer()

    def opened(
        self, job: Job, path: Path | None = None, *, saved: Job | None = None, stamp: bytes = b"", ident: str = ""
    ) -> None:
        """A job takes the place of the one before, which is kept if it is in no file. `saved` and `stamp` are what its file
        holds, `ident` is that of the kept copy it comes from."""
        if not self.may_leave():
            return
        self.leave()
        self._machine = job.machine
        self.session.open(job, path, saved=saved, stamp=stamp, taken_up=bool(ident))
        self.recovery.begin(ident)
        self.window.solid.other_job()
        self.window.show_view()
        self.window.questions.take_focus("" if job.steps else FIRST_SIZE[job.turns])
        if path is not None:
            self._remember(path)
            self._mark(path)

    def open_path(self, path: Path) -> None:
        """Opens a job file, or a program from elsewhere; a bad one is said and changes nothing."""
        if path.suffix.lower() != SUFFIX and path.suffix:
            self._open_program(path)
            return
        try:
            job, stamp = read_job_file(path)
        except JobFileError as error:
            self._say("wrong", f"{path.name}: {error}")
            return
        self.opened(job, path, saved=job, stamp=stamp)

    def _open_program(self, path: Path) -> None:
        """A job round a program: its machine, stock and tools are guessed, and asked about."""

        def came(job: Job | None, trouble: str) -> None:
            if job is None:
                self._say("wrong", trouble or tr("{name} could not be opened.", name=path.name))
                return
            self.opened(job)
            if self.session.job is job:
                self.window.go_to("program")

        self.session.core.ask("open-program", path, self.session.shop, then=came)

    def new_job(self) -> None:
        job, shop = self.session.job, self.session.shop
        self.opened(shop.new_job(job.unit, job.machine) if self.session.has_job else shop.new_job("mm", "mill-600"))

    def ask_open(self) -> None:
        path = file_to_open(self.window, tr("Open a job or a program"), str(Path.home()), f"{tr(JOB_FILES)};;{tr(PROGRAMS)}")
        if path:
            self.open_path(path)

    # -- saving -----------------------------------------------------------------------------------------------------

    def save_job(self) -> None:
        if self.session.path is None:
            self.save_job_as()
        else:
            self.save_to(self.session.path)

    def save_job_as(self) -> None:
        """Asks for a name."""
        start = self.session.path or Path.home() / (plain_name(self.session.job.name, "part") + SUFFIX)
        path = file_to_write(self.window, tr("Save the job"), start, tr(JOB_FILES), SUFFIX, replacing=False)
        if path:
            self.save_to(path)

    def save_report(self, *, with_job: bool) -> None:
        """A file for whoever looks for a fault: the log, and the job if that is wanted. Nothing is sent."""
        name = f"bastler-report-{time.strftime('%Y-%m-%d')}.zip"
        path = file_to_write(self.window, tr("Save a report"), Path.home() / name, tr("Archives (*.zip)"), ".zip")
        if path is None:
            return
        try:
            write_whole(path, report(self.session.job if with_job else None))
        except OSError as error:
            self._say("wrong", tr("{path} could not be written: {error}.", path=path, error=reason_of(error)))
        else:
            self._say("", tr("Saved as {name}. Send it to whoever is to look at it; nothing has been sent.", name=path.name))

    def save_to(self, path: Path) -> None:
        """Saves under a name. What is there and was not read from it or written to it here is shown before it is replaced."""
        other = self.session.changed_elsewhere() if path == self.session.path else path.exists()
        self._choose(path) if other else self._write(path)

    def _choose(self, path: Path) -> None:
        """The file holds something else: both are shown, and one holds."""
        try:
            theirs, stamp = read_job_file(path)
        except JobFileError:
            theirs, stamp = None, b""
        own = path == self.session.path
        chooser = TwoVersions(self.window, path, self.session.job, theirs, self.window.start.pictures, own=own)
        chooser.exec()
        if chooser.choice == MINE:
            self._write(path)
        elif chooser.choice == THEIRS and theirs is not None:
            self.opened(theirs, path, saved=theirs, stamp=stamp)

    def _write(self, path: Path) -> None:
        other = path != self.session.path
        try:
            self.session.save(path)
        except OSError as error:
            self._say("wrong", tr("{path} could not be written: {error}.", path=path, error=reason_of(error)))
            return
        self.recovery.keep()
        self._remember(path)
        if other:
            self._mark(path)
        self._say("", tr("Saved as {name}.", name=path.name))

    # -- leaving ----------------------------------------------------------------------------------------------------

    def leave(self) -> None:
        """What is in no file stays kept."""
        if self.session.has_job:
            self.recovery.leave()
        self._unmark()

    def close_job(self) -> None:
        """Back to the start. What is in no file is kept and offered there."""
        if not self.may_leave():
            return
        self.leave()
        self.session.leave()
        self.window.show_start()

    def close(self) -> None:
        """The window closes."""
        self.recovery.close()
        self._unmark()

    def may_leave(self) -> bool:
        """Is what is in no file kept? Where the disk refuses to, the job is left when that is asked for a second time."""
        session = self.session
        if not session.has_job or not session.dirty or session.untouched:
            return True
        self.recovery.keep()
        if not self.recovery.trouble or self._warned is session.job:
            return True
        self._warned = session.job
        self.window.show_alarm()
        return False

    @property
    def warning(self) -> str:
        """What comes of leaving once more; empty where nobody has wished to leave what is not kept."""
        asked = bool(self.recovery.trouble) and self._warned is self.session.job
        return tr("Once more leaves this job and loses what is in no file.") if asked else ""

    # -- details ----------------------------------------------------------------------------------------------------

    def _say(self, kind: str, text: str) -> None:
        self.window.start.say(text if kind else "")
        self.window.say(kind, text)

    def _remember(self, path: Path) -> None:
        self.window.settings = with_recent(self.window.settings, path)
        write_settings(self.window.settings)

    def _mark(self, path: Path) -> None:
        """Says beside the file that it is open here, or says here that it is open elsewhere."""
        self._unmark()
        mark = open_mark(path)
        try:
            self._held = hold(
                mark,
                tr(
                    "{getuser} on {gethostname} since {strftime}",
                    getuser=getpass.getuser(),
                    gethostname=socket.gethostname(),
                    strftime=time.strftime("%H:%M"),
                ),
            )
        except (OSError, KeyError):  # a folder that can only be read, a user without a name: nobody is told
            return
        if self._held is None:
            who = holder_of(mark) or tr("another window")
            self._say(
                "wrong", tr("{name} is open elsewhere too: {who}. Who saves last is asked whose holds.", name=path.name, who=who)
            )

    def _unmark(self) -> None:
        if self._held is not None:
            self._held.let_go()
            self._held = None
