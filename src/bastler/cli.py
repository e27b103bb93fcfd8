"""The command line: `bastler`, `bastler demo`, `sample`, `post`, `prove`, `sheet`, `solid`, `family`, `handbook`, `standin`,
`schema`, `manual`, `questions`, `shots`.

Exit codes of `prove`, `sheet` and `family`: 0 proved, 1 with a *stop* remark, 2 unreadable input, 130 interrupted.
"""

from __future__ import annotations

import argparse
import io
import json
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from bastler import __version__
from bastler.language import many, sayable, tr, tr_as

if TYPE_CHECKING:
    from bastler.job import Job, Plan

UNREADABLE = 2
INTERRUPTED = 130
DEMO = "winch-base"
"""The sample that `bastler demo` opens."""
LARGEST_PROGRAM = 200_000_000
OF_ARGPARSE = sayable(
    (
        "usage: ",
        "positional arguments",
        "options",
        "show this help message and exit",
        "%(prog)s: error: %(message)s\n",
        "argument %(argument_name)s: %(message)s",
        "the following arguments are required: %s",
        "unrecognized arguments: %s",
        "expected one argument",
        "ignored explicit argument %r",
        "not allowed with argument %s",
        "ambiguous option: %(option)s could match %(matches)s",
        "invalid choice: %(value)r (choose from %(choices)s)",
        "unknown parser %(parser_name)r (choices: %(choices)s)",
    )
)
"""What the library that reads the command line says in sentences of its own."""


class InputError(Exception):
    """Something given on the command line cannot be used; the message is a whole sentence."""


def main(arguments: Sequence[str] | None = None) -> int:
    """Runs one command; gives the exit code."""
    _speak()
    for stream in (sys.stdout, sys.stderr):  # a terminal that knows no Ø is no reason to fail
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")
    options = make_parser().parse_args(arguments)
    try:
        command: Callable[[argparse.Namespace], int] = options.command
        return command(options)
    except InputError as error:
        print(f"bastler: {error}", file=sys.stderr)
        return UNREADABLE
    except KeyboardInterrupt:
        return INTERRUPTED


def _speak() -> None:
    """Says everything in the language that is asked for where this was started, else in that of the window."""
    from bastler.app.settings import language_meant, read_settings
    from bastler.language import VARIABLE, of_the_shell, speak

    speak(of_the_shell() if os.environ.get(VARIABLE) else language_meant(read_settings().language))
    argparse._ = tr  # type: ignore[attr-defined]  # it would look for a catalogue of the system's


def whole(text: str) -> int:
    """A whole number of the command line; ArgumentTypeError for what is none."""
    try:
        return int(text)
    except ValueError:
        raise argparse.ArgumentTypeError(tr("“{text}” is no whole number", text=text)) from None


def make_parser() -> argparse.ArgumentParser:
    """What reads the command line, in the language in force."""
    parser = argparse.ArgumentParser(prog="bastler", description=tr("Feature cycles, a live proof and G-code for machinists."))
    parser.add_argument("--version", action="version", version=f"Bastler {__version__}", help=tr("say which version it is"))
    commands = parser.add_subparsers(title=tr("commands"), metavar=tr("COMMAND"))
    job, file, folder = tr("JOB"), tr("FILE"), tr("FOLDER")
    parser.set_defaults(command=_window, job=None)

    parser.add_argument(
        "--install-desktop",
        dest="command",
        action="store_const",
        const=_install,
        help=tr("put Bastler into the user's menu, with its files"),
    )
    parser.add_argument(
        "--remove-desktop",
        dest="command",
        action="store_const",
        const=_uninstall,
        help=tr("take it out of the user's menu again"),
    )

    add = commands.add_parser("open", help=tr("open the window with a job, or with a program from elsewhere"))
    add.add_argument("job", type=Path, nargs="?", metavar=file)
    add.set_defaults(command=_window)
    add = commands.add_parser("demo", help=tr("open the window with the demo job"))
    add.set_defaults(command=_demo)
    add = commands.add_parser("sample", help=tr("list the samples, or write one"))
    add.add_argument("name", nargs="?", metavar=tr("NAME"))
    add.add_argument("-o", "--output", type=Path, metavar=file)
    add.set_defaults(command=_sample)
    add = commands.add_parser("post", help=tr("write the G-code of a job"))
    add.add_argument("job", type=Path, metavar=job)
    add.add_argument("-o", "--output", type=Path, metavar=file, required=True)
    add.add_argument(
        "--from",
        dest="begin",
        metavar=tr("STEP[:STAGE[:HOLE]]"),
        help=tr("only from there on, as {examples}", examples="8, 8:drill, 8:drill:4"),
    )
    add.set_defaults(command=_post)
    add = commands.add_parser("prove", help=tr("prove a job, or a program against a job's stock and holding"))
    add.add_argument("file", type=Path, metavar=file)
    add.add_argument("--setup", type=Path, metavar=job, help=tr("the job that gives stock, tools and machine for a program"))
    add.add_argument(
        "--holding", type=whole, default=1, metavar=tr("NUMBER"), help=tr("which holding of that job it is the program of")
    )
    add.add_argument("--json", action="store_true", help=tr("the whole result as JSON"))
    add.set_defaults(command=_prove)
    add = commands.add_parser("sheet", help=tr("write the setup sheet of a job as PDF"))
    add.add_argument("job", type=Path, metavar=job)
    add.add_argument("-o", "--output", type=Path, metavar=file, required=True)
    add.add_argument("--paper", choices=("A4", "Letter"), help=tr("else Letter for jobs in inches, and A4"))
    add.set_defaults(command=_sheet)
    add = commands.add_parser("solid", help=tr("write the part as cut as a closed solid, STL or 3MF"))
    add.add_argument("job", type=Path, metavar=job)
    add.add_argument("-o", "--output", type=Path, metavar=file, required=True, help=tr("FILE.stl, in mm, or FILE.3mf"))
    add.set_defaults(command=_solid)
    add = commands.add_parser("family", help=tr("prove the variants of a job and write their programs"))
    add.add_argument("job", type=Path, metavar=job)
    add.add_argument("--variants", type=Path, metavar=tr("TABLE"), help=tr("a table of them, CSV, in the place of the job's own"))
    add.add_argument("-o", "--output", type=Path, metavar=folder, help=tr("the folder for the programs of those that are proved"))
    add.set_defaults(command=_family)
    add = commands.add_parser("standin", help=tr("a simulated machine control to run programs on"))
    add.add_argument("card", metavar=tr("CARD"), help=tr("the id of a machine card, or a job file that has one"))
    add.add_argument(
        "--seed",
        type=whole,
        default=0,
        metavar=tr("NUMBER"),
        help=tr("how its stock and tools really are; 0: as they are said to be"),
    )
    add.add_argument(
        "--port", type=whole, default=0, metavar=tr("NUMBER"), help=tr("on the loopback address; 0: any that is free")
    )
    add.add_argument("--disk", type=Path, metavar=folder, help=tr("the folder that is its disk; else one that goes with it"))
    add.add_argument("--child", action="store_true", help=tr("ends when its standard input does"))
    add.set_defaults(command=_standin)
    add = commands.add_parser("schema", help=tr("the JSON schema of job files, or of what is said to machines"))
    add.add_argument("of", nargs="?", choices=("job", "machine"), default="job")
    add.set_defaults(command=_schema)
    add = commands.add_parser("manual", help=tr("the manual page of the command line, in roff"))
    add.set_defaults(command=_manual)
    add = commands.add_parser("handbook", help=tr("the manual as a book, PDF or HTML"))
    add.add_argument("-o", "--output", type=Path, metavar=file, required=True, help=tr("FILE.pdf or FILE.html"))
    add.add_argument(
        "--pictures", type=Path, metavar=folder, help=tr("a folder that bastler shots has filled; else those that come along")
    )
    add.set_defaults(command=_handbook)
    add = commands.add_parser("questions", help=tr("what every question means, as Markdown"))
    add.set_defaults(command=_questions)
    add = commands.add_parser("shots", help=tr("take the pictures of the documentation into a folder"))
    add.add_argument("folder", type=Path, metavar=folder)
    add.set_defaults(command=_shots)
    return parser


def _window(options: argparse.Namespace) -> int:
    return _run(job_path=options.job)


def _demo(options: argparse.Namespace) -> int:
    return _run(sample_name=DEMO)


def _run(**what: Any) -> int:
    """The window, in the language of its settings. The process that computes is started before anything else is loaded, so that
    both load side by side."""
    from bastler.app.settings import language_meant, read_settings
    from bastler.language import speak
    from bastler.live.child import Child

    speak(language_meant(read_settings().language))
    child = Child()
    from bastler.app.main import run

    return run(child=child, **what)


def _read(path: Path) -> Job:
    from bastler.job import JobFileError, read_job

    try:
        return read_job(path)
    except JobFileError as error:
        raise InputError(str(error)) from error


def _sample(options: argparse.Namespace) -> int:
    from bastler.job import write_job
    from bastler.job.samples import sample, sample_names

    if options.name is None:
        for name in sample_names():
            print(f"{name:16} {tr_as('sample', sample(name).note)}")
        return 0
    try:
        job = sample(options.name)
    except KeyError:
        raise InputError(
            tr("There is no sample “{name}”. There are {names}.", name=options.name, names=", ".join(sample_names()))
        ) from None
    path = options.output or Path(f"{options.name}.bastler")
    _write(lambda: write_job(job, path), path)
    print(path)
    return 0


def _post(options: argparse.Namespace) -> int:
    from bastler.disk import write_whole
    from bastler.job import plan
    from bastler.live.leaving import sent_bytes, stamp
    from bastler.proof import prove_whole

    planned = plan(_read(options.job))
    if options.begin is not None:
        return _post_from(planned, options.begin, options.output)
    with _progress() as told:
        proof = prove_whole(planned, told=told)
    for k, group in enumerate(planned.programs, 1):
        path: Path = options.output
        if len(planned.programs) > 1:
            path = path.with_name(f"{path.stem}-{k}{path.suffix}")
        proofs = [proof.holdings[held.place] for held in group]
        remarks = [remark for one in proofs for remark in one.remarks]
        sent = sent_bytes(proofs[0].program, planned.job.card, planned.job.unit, remarks, stamp())
        _write(partial(write_whole, path, sent), path)
    troubles = [t for step in planned.steps for t in step.troubles] + list(planned.troubles)
    for trouble in troubles:
        print(f"bastler: {trouble.field}: {trouble.text}", file=sys.stderr)
    if not proof.proved:
        print(f"bastler: {tr('It is not proved, and its text says so. See bastler prove.')}", file=sys.stderr)
    return 0 if proof.proved and not troubles else 1


def _post_from(planned: Plan, begin: str, output: Path) -> int:
    """A program of its own from a stage or a hole on, proved on what the stages before it leave."""
    from bastler.disk import write_whole
    from bastler.live.leaving import sent_bytes, stamp
    from bastler.live.restarting import NoRestart, restarted
    from bastler.live.restarts import restarts
    from bastler.proof import prove_whole

    number, stage, hole = (*begin.split(":"), "", "")[:3]
    steps = {str(held.first + k): done.step.id for held in planned.holdings for k, done in enumerate(held.steps)}
    wanted = int(hole) if hole.isdecimal() and int(hole) > 1 else 0  # a stage begins with its first hole
    for proof in prove_whole(planned).holdings:
        own = [place for place in restarts(proof) if place.step == steps.get(number) and stage in ("", place.stage)]
        place = next((place for place in own if place.hole == wanted), None)
        if place is None:
            continue
        try:
            program = restarted(planned, proof, place).program
        except NoRestart as error:
            raise InputError(str(error)) from error
        sent = sent_bytes(program, planned.job.card, planned.job.unit, (), stamp())
        _write(partial(write_whole, output, sent), output)
        return 0
    raise InputError(tr("There is no place {begin} in the programs of this job.", begin=begin))


def _handbook(options: argparse.Namespace) -> int:
    """Writes the manual."""
    from bastler.app.main import make_application, without_display
    from bastler.app.manual import html_of_manual, pdf_of_manual, pictures
    from bastler.disk import write_whole

    without_display()
    application = make_application()  # fonts are its own
    data = (html_of_manual if options.output.suffix.lower() == ".html" else pdf_of_manual)(options.pictures or pictures())
    del application
    _write(partial(write_whole, options.output, data), options.output)
    return 0


def _family(options: argparse.Namespace) -> int:
    """Proves all variants; those that are proved are written."""
    from msgspec.structs import replace

    from bastler.disk import read_bounded, reason_of, write_whole
    from bastler.job.family import LARGEST_TABLE, Family, FamilyError, variants_of_csv
    from bastler.live.proving_variants import proved_variants
    from bastler.live.variants import same_files
    from bastler.units import clock

    job = _read(options.job)
    if options.variants is not None:
        try:
            text = read_bounded(options.variants, LARGEST_TABLE).decode("utf-8")
            own = replace(job.family or Family(), variants=variants_of_csv(job, text))
        except OSError as error:
            raise _unreadable(options.variants, reason_of(error)) from error
        except UnicodeDecodeError as error:
            raise InputError(tr("{path} is no table: its letters are not UTF-8.", path=options.variants)) from error
        except FamilyError as error:
            raise InputError(f"{options.variants}: {error}") from error
        job = replace(job, family=own)
    if job.family is None or not job.family.variants:
        raise InputError(tr("{path} has no variants.", path=options.job))
    found = proved_variants(job)
    for one in found:
        print(f"{one.name}: {one.words}, {clock(one.seconds)}" + (f". {one.why}" if one.why else ""))
    if options.output is not None:
        if twice := same_files(found):
            raise InputError(tr("Two variants would both be saved as {name}: give them other names.", name=twice))
        for name, sent in (program for one in found if one.proved for program in one.programs):
            _write(partial(write_whole, options.output / name, sent), options.output / name)
    return 0 if all(one.proved for one in found) else 1


def _prove(options: argparse.Namespace) -> int:
    from bastler.job import plan
    from bastler.post import Program
    from bastler.proof import prove_whole
    from bastler.proof.remark import SEVERITIES, VERDICTS
    from bastler.proof.report import report_whole
    from bastler.units import clock

    texts: dict[int, Program] = {}
    if options.file.suffix == ".bastler":
        job: Job = _read(options.file)
    elif options.setup is None:
        raise InputError(tr("A program needs --setup JOB for its stock, tools and machine."))
    else:
        job = _read(options.setup)
        if not 1 <= options.holding <= len(job.holdings):
            raise InputError(tr("The job has {holdings}.", holdings=many(len(job.holdings), "holding")))
        texts[options.holding - 1] = Program.foreign(_program_text(options.file))
    with _progress() as told:
        proof = prove_whole(plan(job), texts, told=told)
    if options.json:
        print(json.dumps(report_whole(proof, effort=True), indent=1, ensure_ascii=False))
    else:
        for held, one in enumerate(proof.holdings, 1):
            of = tr("of holding {number}", number=held) if len(proof.holdings) > 1 else ""
            for remark in one.remarks:
                line = tr("line {number}", number=remark.line) if remark.line else ""
                where = " ".join(word for word in (tr(SEVERITIES[remark.level]), line, of) if word)
                print(f"{where}: {remark.text} [{remark.code}]")
        print(f"{tr(VERDICTS[proof.verdict] if proof.proved else 'Not proved')}, {clock(proof.total)}.")
    return 0 if proof.proved else 1


@contextmanager
def _progress() -> Iterator[Callable[[float], None]]:
    """Says on a terminal how far something is, in a line that goes when it is done."""
    shown = sys.stderr.isatty()

    def told(share: float) -> None:
        if shown:
            print(f"\r{tr('Proving, {share}', share=f'{share:4.0%}')} ", end="", file=sys.stderr, flush=True)

    try:
        yield told
    finally:
        if shown:
            print("\r\033[K", end="", file=sys.stderr, flush=True)


def _unreadable(path: Path, why: str) -> InputError:
    return InputError(tr("{path} cannot be read: {why}.", path=path, why=why))


def _program_text(path: Path) -> str:
    from bastler.disk import read_bounded, reason_of

    try:
        return read_bounded(path, LARGEST_PROGRAM).decode("latin-1")
    except OSError as error:
        raise _unreadable(path, reason_of(error)) from error


def _sheet(options: argparse.Namespace) -> int:
    from bastler.app.main import make_application, without_display
    from bastler.app.setup_pages import pdf_of
    from bastler.disk import write_whole
    from bastler.job import plan
    from bastler.live.leaving import stamp
    from bastler.live.setting_up import setup_sheet
    from bastler.proof import prove_whole

    job = _read(options.job)
    with _progress() as told:
        proof = prove_whole(plan(job), told=told)
    without_display()
    application = make_application()  # fonts are its own
    pages = pdf_of(setup_sheet(proof), stamp(), options.paper or "")
    del application
    _write(partial(write_whole, options.output, pages), options.output)
    return 0 if proof.proved else 1


def _solid(options: argparse.Namespace) -> int:
    from bastler.disk import write_whole
    from bastler.exchange.solids import SOLID_FILES
    from bastler.job import plan
    from bastler.proof import prove_whole
    from bastler.proof.closed import closed
    from bastler.proof.stacked import NoSolid

    make = SOLID_FILES.get(options.output.suffix.lower())
    if make is None:
        raise InputError(tr("A solid is written as {endings}.", endings=tr(" or ").join(SOLID_FILES)))
    job = _read(options.job)
    with _progress() as told:
        proof = prove_whole(plan(job), told=lambda share: told(share / 2))
        try:
            solid = closed(proof, lambda share: told(0.5 + share / 2))
        except NoSolid as error:
            raise InputError(str(error)) from error
    _write(partial(write_whole, options.output, make(solid.points, solid.triangles, job.unit)), options.output)
    return 0 if proof.proved else 1


def _schema(options: argparse.Namespace) -> int:
    from bastler.job import schema
    from bastler.link.messages import protocol_schema

    print(json.dumps(protocol_schema() if options.of == "machine" else schema(), indent=1, ensure_ascii=False))
    return 0


def _install(options: argparse.Namespace) -> int:
    from bastler.installing import install, own_command, user_folder

    written: list[Path] = []
    _write(lambda: written.extend(install(user_folder(), own_command(), make_parser)), user_folder())
    print(tr("Bastler is in the menu: {files} in {folder}.", files=many(len(written), "file"), folder=user_folder()))
    return 0


def _uninstall(options: argparse.Namespace) -> int:
    from bastler.installing import remove, user_folder

    gone: list[Path] = []
    _write(lambda: gone.extend(remove(user_folder(), make_parser)), user_folder())
    files = many(len(gone), "file")
    print(tr("Bastler is not in the menu any more: {files} taken out of {folder}.", files=files, folder=user_folder()))
    return 0


def _manual(options: argparse.Namespace) -> int:
    from bastler.installing import manual_page

    print(manual_page(make_parser()), end="")
    return 0


def _questions(options: argparse.Namespace) -> int:
    from bastler.job.asked import page

    print(page(), end="")
    return 0


def _standin(options: argparse.Namespace) -> int:
    import tempfile

    from bastler.disk import reason_of
    from bastler.machines.cards import CARDS
    from bastler.standin.server import run

    path = Path(options.card)
    card = CARDS.get(options.card) or (_read(path).card if path.suffix == ".bastler" else None)
    if card is None:
        cards = ", ".join(sorted(CARDS))
        raise InputError(tr("There is no machine card “{card}”. There are {cards}.", card=options.card, cards=cards))
    if not 0 <= options.port < 65536:
        raise InputError(tr("A port is a number from 0 to 65535."))
    with tempfile.TemporaryDirectory(prefix="bastler-standin-") as own:
        disk: Path = options.disk or Path(own)
        _write(partial(disk.mkdir, parents=True, exist_ok=True), disk)
        try:
            run(card, disk, seed=options.seed, port=options.port, child=options.child)
        except OSError as error:
            raise InputError(
                tr("The stand-in cannot listen on port {port}: {why}.", port=options.port, why=reason_of(error))
            ) from error
    return 0


def _shots(options: argparse.Namespace) -> int:
    from bastler.app.shots import take_shots

    return take_shots(options.folder)


def _write(work: Callable[[], object], path: Path) -> None:
    from bastler.disk import reason_of

    try:
        work()
    except OSError as error:
        raise InputError(tr("{path} cannot be written: {why}.", path=path, why=reason_of(error))) from error
