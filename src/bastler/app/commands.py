"""Named commands and the keys they come with. Menu, key, tooltip and test go through the same name."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from bastler.app import outline_commands as outline
from bastler.app.claims import claim
from bastler.app.drawing_desk import DrawingDesk
from bastler.app.header import Header
from bastler.app.job_desk import JobDesk
from bastler.app.program_place import ProgramPlace
from bastler.app.questions import QuestionColumn
from bastler.app.route_desk import RouteDesk
from bastler.app.session import Session
from bastler.app.settings import LanguageChoice
from bastler.app.sheet import Sheet
from bastler.app.solid import SolidView
from bastler.app.theme import Colours
from bastler.app.zooming import NOTCH
from bastler.job.samples import sample_drawing


class Commanded(Protocol):
    """What commands act on: the window, by what it can do."""

    session: Session
    questions: QuestionColumn
    header: Header
    jobs: JobDesk
    desk: DrawingDesk
    cards: RouteDesk
    solid: SolidView
    sheet: Sheet
    program: ProgramPlace

    def to_output(self) -> None: ...
    def go_to(self, place: str, /) -> None: ...
    def view(self, name: str, /) -> None: ...
    def switch_gloves(self) -> None: ...
    def switch_full(self) -> None: ...
    def switch_beside(self) -> None: ...
    def zoom(self, factor: float | None, /) -> None: ...
    def zoom_to_feature(self) -> None: ...
    def save_picture(self) -> None: ...
    def explain(self) -> None: ...
    def change_keys(self) -> None: ...
    def take_language(self, language: LanguageChoice, /) -> None: ...
    def take_colours(self, colours: Colours, /) -> None: ...
    def find_anything(self) -> None: ...
    def open_manual(self) -> None: ...
    def open_family(self) -> None: ...
    def open_print(self) -> None: ...
    def remove_print(self) -> None: ...
    def switch_print(self) -> None: ...
    def go_on_with_lesson(self) -> None: ...


Act = Callable[[Commanded], None]


@dataclass(frozen=True)
class Command:
    """`keys` work everywhere in the window; `bare` ones only while no text is being typed; `job` needs an open job."""

    name: str
    says: str
    menu: str
    act: Act
    keys: tuple[str, ...] = ()
    bare: tuple[str, ...] = ()
    job: bool = True


COMMANDS: dict[str, Command] = {}


def command(
    name: str, says: str, menu: str = "", keys: tuple[str, ...] = (), bare: tuple[str, ...] = (), job: bool = True
) -> Callable[[Act], Act]:
    """Registers a command; a name may be used once, and so may a key: else ValueError."""

    def register(act: Act) -> Act:
        taken = {key for known in COMMANDS.values() for key in (*known.keys, *known.bare)}
        if name in COMMANDS or taken & {*keys, *bare}:
            raise ValueError(f"The command {name} or one of its keys is taken.")
        COMMANDS[name] = Command(name, says, menu, act, keys, bare, job)
        claim(keys)
        return act

    return register


def _out(act: Act) -> Act:
    """Done in the program place, where it is seen what became of it."""

    def both(window: Commanded) -> None:
        window.go_to("program")
        act(window)

    return both


command("job.new", "New job", "Job", ("Ctrl+N",), job=False)(lambda w: w.jobs.new_job())
command("job.open", "Open a job…", "Job", ("Ctrl+O",), job=False)(lambda w: w.jobs.ask_open())
command("job.save", "Save the job", "Job", ("Ctrl+S",))(lambda w: w.jobs.save_job())
command("job.save-as", "Save the job as…", "Job", ("Ctrl+Shift+S",))(lambda w: w.jobs.save_job_as())
command("job.close", "Back to the start", "Job", ("Ctrl+W",))(lambda w: w.jobs.close_job())
command("program.output", "Output the program", "Job", ("Ctrl+P",))(lambda w: w.to_output())
command("program.edit", "Edit the program by hand, or not", "Job", ("Ctrl+Shift+E",))(
    _out(lambda w: w.program.edit_bar.toggle.toggle())
)
command("program.find", "Find in the program", "Job", ("Ctrl+F",))(_out(lambda w: w.program.edit_bar.to_find()))
command("program.line", "To a line of the program", "Job", ("Ctrl+L",))(_out(lambda w: w.program.edit_bar.to_line()))
command("program.sheet", "Setup sheet as PDF", "Job")(_out(lambda w: w.program.papers.write_sheet()))
command("program.print", "Print the setup sheet…", "Job", ("Ctrl+Shift+P",))(_out(lambda w: w.program.papers.print_sheet()))
command("program.tools", "Tool list as CSV", "Job")(_out(lambda w: w.program.papers.write_tools()))
command("program.sizes", "Size list as CSV", "Job")(_out(lambda w: w.program.papers.write_sizes()))
command("program.send", "Send over the serial line…", "Job")(_out(lambda w: w.program.papers.send()))
command("program.receive", "Receive over the serial line…", "Job")(_out(lambda w: w.program.papers.receive()))
command("job.template", "Keep it as a template for new jobs", "Job")(lambda w: w.jobs.keep_template())
command("family.open", "Named sizes and variants…", "Job", ("Alt+F",))(lambda w: w.open_family())
command("print.open", "Open the print of the part…", "Job")(lambda w: w.open_print())
command("print.remove", "Put the print away", "Job")(lambda w: w.remove_print())
command("edit.undo", "Undo", "Change", ("Ctrl+Z",))(lambda w: w.session.undo())
command("edit.redo", "Redo", "Change", ("Ctrl+Shift+Z",))(lambda w: w.session.redo())
command("step.add", "Add a step", "Step", ("Insert",))(lambda w: w.cards.open_board())
command("step.done", "Done, next step", "Step", ("Ctrl+Return", "Ctrl+Enter"))(lambda w: w.cards.open_board())
command("step.copy", "Copy the step", "Step", ("Ctrl+D",))(lambda w: w.cards.copy_step())
command("step.carry", "Copy it for another job", "Step", ("Ctrl+Shift+C",))(lambda w: w.cards.carry())
command("step.bring", "Paste from another job", "Step", ("Ctrl+Shift+V",))(lambda w: w.cards.bring())
command("step.from-file", "Steps from a job file…", "Step")(lambda w: w.cards.bring_from_file())
command("step.phrase", "Keep its lines as a phrase of the shop", "Step")(lambda w: w.cards.keep_phrase())
command("step.no-phrase", "Forget the shop's phrase of its name", "Step")(lambda w: w.cards.forget_phrase())
command("step.switch", "Switch the step on or off", "Step", ("Ctrl+E",))(lambda w: w.cards.switch_step())
command("step.remove", "Remove the step", "Step", bare=("Delete",))(lambda w: w.cards.remove_step())
command("step.before", "Step before", "Step", ("PgUp",))(lambda w: w.session.select_by(-1))
command("step.after", "Step after", "Step", ("PgDown",))(lambda w: w.session.select_by(1))
command("step.earlier", "Cut it earlier", "Step", ("Ctrl+PgUp",))(lambda w: w.cards.move_step(-1))
command("step.later", "Cut it later", "Step", ("Ctrl+PgDown",))(lambda w: w.cards.move_step(1))
command("step.order", "Fewer tool changes…", "Step", ("Alt+G",))(lambda w: w.cards.offer_order())
command("holding.over", "Turn the part over", "Step", ("Ctrl+T",))(lambda w: w.cards.turn_over())
command("holding.remove", "Remove the holding with its steps", "Step")(lambda w: w.cards.remove_holding())
command("outline.fresh", "Begin a new outline", "Outline", ("Alt+O",))(lambda w: outline.fresh(w.session))
command("outline.other", "The next of the outlines there are", "Outline", ("Alt+J",))(lambda w: outline.other(w.session))
command("outline.line", "Add a line", "Outline", ("Alt+L",))(lambda w: outline.insert(w.session, "line"))
command("outline.arc", "Add an arc", "Outline", ("Alt+A",))(lambda w: outline.insert(w.session, "arc"))
command("outline.remove", "Remove the segment", "Outline", ("Alt+Backspace",))(lambda w: outline.remove(w.session))
command("outline.become", "Line to arc, or back", "Outline", ("Alt+B",))(lambda w: outline.become(w.session))
command("outline.after", "Next segment", "Outline", ("Alt+Down",))(lambda w: outline.go(w.session, 1))
command("outline.before", "Segment before", "Outline", ("Alt+Up",))(lambda w: outline.go(w.session, -1))
command("outline.tangent", "Tangent or not", "Outline", ("Alt+T",))(lambda w: outline.switch(w.session, "tangent"))
command("outline.turn", "Which way the arc goes round", "Outline", ("Alt+R",))(lambda w: outline.switch(w.session, "turn"))
command("outline.corner", "Corner behind it", "Outline", ("Alt+C",))(lambda w: outline.switch(w.session, "corner"))
command("outline.more", "More that a print may give", "Outline", ("Alt+M",))(lambda w: w.questions.show_more())
command("outline.shape", "Take another shape", "Outline", ("Alt+N",))(lambda w: outline.next_shape(w.session))
command("outline.begin", "Begin the outline here", "Outline", ("Alt+H",))(lambda w: outline.whole(w.session, "begin"))
command("outline.reverse", "Run it the other way", "Outline")(lambda w: outline.whole(w.session, "reverse"))
command("outline.mirror-y", "Mirror left and right", "Outline")(lambda w: outline.whole(w.session, "mirror-y"))
command("outline.mirror-x", "Mirror front and back", "Outline")(lambda w: outline.whole(w.session, "mirror-x"))
command("outline.read", "From a DXF drawing…", "Outline", ("Alt+I",))(lambda w: w.desk.ask())
command("outline.sample", "From the sample drawing", "Outline")(lambda w: w.desk.open(sample_drawing()))
command("outline.dxf", "Save as DXF…", "Outline")(lambda w: w.desk.export_selected("dxf"))
command("outline.svg", "Save as SVG…", "Outline")(lambda w: w.desk.export_selected("svg"))
command("place.bench", "Bench", "Go to", ("Alt+1",))(lambda w: w.go_to("bench"))
command("place.crib", "Crib", "Go to", ("Alt+2",))(lambda w: w.go_to("crib"))
command("place.program", "Program", "Go to", ("Alt+3",))(lambda w: w.go_to("program"))
command("place.machine", "Machine side", "Go to", ("Alt+4",))(lambda w: w.go_to("machine"))
command("view.sheet", "Sheet", "Go to", ("Ctrl+1",))(lambda w: w.view("sheet"))
command("view.solid", "Solid", "Go to", ("Ctrl+2",))(lambda w: w.view("solid"))
command("view.path", "Path", "Go to", ("Ctrl+3",))(lambda w: w.view("path"))
command("view.beside", "The solid beside it, or not", "Go to", ("Ctrl+4",))(lambda w: w.switch_beside())
command("view.print", "The print beside it, or not", "Go to", ("Ctrl+5",))(lambda w: w.switch_print())
command("view.nearer", "Nearer", "Go to", ("Ctrl++", "Ctrl+="))(lambda w: w.zoom(NOTCH))
command("view.further", "Further off", "Go to", ("Ctrl+-",))(lambda w: w.zoom(1 / NOTCH))
command("view.all", "All of it", "Go to", ("Ctrl+0",))(lambda w: w.zoom(None))
command("view.feature", "To what the step cuts", "Go to", ("Ctrl+9",))(lambda w: w.zoom_to_feature())
command("sheet.section-on", "The section further back", "Go to", ("Ctrl+Up",))(lambda w: w.sheet.move_section(1))
command("sheet.section-back", "The section further to the front", "Go to", ("Ctrl+Down",))(lambda w: w.sheet.move_section(-1))
command("solid.side", "The solid from the next side", "Go to", ("Alt+V",))(lambda w: w.solid.next_side())
command("solid.look", "The solid in full, see-through, or its edges", "Go to", ("Alt+S",))(lambda w: w.solid.next_look())
command("solid.off", "Left and missing by colours, or not", "Go to", ("Alt+D",))(lambda w: w.solid.off_button.toggle())
command("view.picture", "Save this view as a picture…", "Go to")(lambda w: w.save_picture())
command("questions.focus", "First question", "Go to", ("F2",))(lambda w: w.questions.take_focus())
command("strip.run", "Run or stop", "Strip", bare=("Space",))(lambda w: w.session.run_or_stop())
command("strip.on", "One move on", "Strip", bare=(".",))(lambda w: w.session.step_moves(1))
command("strip.back", "One move back", "Strip", bare=(",",))(lambda w: w.session.step_moves(-1))
command("strip.stage-on", "One stage on", "Strip", bare=(">", ":", "Shift+."))(lambda w: w.session.step_stages(1))
command("strip.stage-back", "One stage back", "Strip", bare=("<", ";", "Shift+,"))(lambda w: w.session.step_stages(-1))
command("proof.stop", "Stop the proof, or prove again", "Strip", keys=("Alt+P",))(lambda w: w.header.stop_or_prove())
command("window.gloves", "Gloves: large targets, number pad", "Window", ("Ctrl+G",), job=False)(lambda w: w.switch_gloves())
command("window.day", "Colours: day", "Window", job=False)(lambda w: w.take_colours("day"))
command("window.night", "Colours: night", "Window", job=False)(lambda w: w.take_colours("night"))
command("window.desktop", "Colours: as the desktop has them", "Window", job=False)(lambda w: w.take_colours("desktop"))
command("window.english", "Language: English", "Window", job=False)(lambda w: w.take_language("en"))
command("window.german", "Language: German (Deutsch)", "Window", job=False)(lambda w: w.take_language("de"))
command("window.language", "Language: as the desktop has it", "Window", job=False)(lambda w: w.take_language("desktop"))
command("window.keys", "Keys…", "Window", job=False)(lambda w: w.change_keys())
command("window.full", "Full screen, or not", "Window", ("F11",), job=False)(lambda w: w.switch_full())
command("find.anything", "Find anything…", "Help", ("Ctrl+K",), job=False)(lambda w: w.find_anything())
command("help.question", "What this question means", "Help", ("F1",))(lambda w: w.explain())
command("help.manual", "The manual", "Help", ("Shift+F1",), job=False)(lambda w: w.open_manual())
command("help.lesson", "Go on with the lesson", "Help")(lambda w: w.go_on_with_lesson())
command("help.report", "Save a report…", "Help", job=False)(lambda w: w.jobs.save_report(with_job=False))
command("help.report-job", "Save a report with this job…", "Help")(lambda w: w.jobs.save_report(with_job=True))
