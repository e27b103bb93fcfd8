"""What is done with the cards of the route: steps and holdings come, go and change places; the board of features and the list of
tools are shown over the view."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPoint, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QApplication, QMenu

from bastler.app.asking import file_to_open
from bastler.app.pictures import draw_feature, draw_tool
from bastler.app.session import STOCK
from bastler.app.tiles import Tile, TilePicker
from bastler.app.window import Window
from bastler.bounds import HOLDINGS
from bastler.cutting.advice import MADE_OF
from bastler.job import Job, JobFileError, answering, edits, read_job, read_job_text
from bastler.job.carrying import NotBrought, brought, excerpt, taken_up
from bastler.job.files import LARGEST, glance, job_text
from bastler.language import as_inside, many, tr
from bastler.live.shown import ToolOffers
from bastler.proof.ordering import BetterOrder
from bastler.steps import STEPS, OwnLines, StepKind, kind_of
from bastler.steps.base import GROUPS
from bastler.steps.general.between import names_in
from bastler.tools import KIND_WORDS, AnyTool, TurnTool
from bastler.units import clock, scale

PHRASE = "phrase:"
"""What keys of the shop's phrases on the board begin with."""
FIVE_IN_A_ROW = 108
"""The width of a tool's tile, with the smallest screen."""


class RouteDesk:
    """Joins the route, the board and the list of tools."""

    def __init__(self, window: Window) -> None:
        self.window, self.session = window, window.session
        self.board, self.tool_list = TilePicker(109, 82, words=False), TilePicker(FIVE_IN_A_ROW, 196)
        self.other_steps = TilePicker(109, 82, words=False)
        """The steps of another job's file."""
        self._other: Job | None = None
        self.other_steps.picked.connect(self._other_picked)
        self.other_steps.closed.connect(window.close_overlay)
        self.order_menu: QMenu | None = None
        self._tool_address = ""
        self.board.picked.connect(self.add_step)
        self.board.closed.connect(window.close_overlay)
        self.tool_list.picked.connect(self._tool_picked)
        self.tool_list.closed.connect(window.close_overlay)

    def offer_order(self) -> None:
        """What a better order of the steps would save, and the way to take it; nothing is changed unasked."""
        job, plan = self.session.job, self.session.plan
        if self._from_elsewhere():
            return
        if plan.troubles or any(shown.troubles for shown in plan.steps):
            self.window.say(
                "wrong", tr("What still keeps a step from being cut comes first; then another order can be looked for.")
            )
            return
        self.window.say("", tr("Looking for an order that changes tools less often, and proving it."))
        self.session.core.ask("order", then=lambda better, trouble: self._order_found(job, better, trouble))

    def _order_found(self, job: Job, better: tuple[BetterOrder, ...] | None, trouble: str) -> None:
        """The orders that were worked out for a job, or none."""
        if job is not self.session.job:
            return
        if trouble:
            self.window.say("wrong", trouble)
            return
        if not better:
            self.window.say("", tr("No order was found that changes tools less often."))
            return
        self.window.say("", tr("{many} to change tools less often.", many=many(len(better), "way")))
        menu = QMenu(self.window)
        for one in better:
            menu.addAction(_offer(job, one), lambda one=one: self.session.edit(one.job, tr("Fewer tool changes")))
        menu.addSeparator()
        for step in better[-1].job.steps if better[-1].job.steps != job.steps else ():
            entry = menu.addAction(f"{edits.index_of(self.session.job, step.id) + 1}  {step.title}")
            if entry is not None:
                entry.setEnabled(False)
        self.order_menu = menu
        menu.popup(self.window.route.mapToGlobal(QPoint(24, 60)))

    def _from_elsewhere(self) -> bool:
        """Is there a program in the place of steps? Then it is said that there are none."""
        if self.session.job.elsewhere is None:
            return False
        self.session.said.emit("wrong", tr("This program comes from elsewhere: it has no steps. It can be edited by hand."))
        return True

    def open_board(self) -> None:
        """The board of features over the view."""
        job = self.session.job
        if self._from_elsewhere():
            return

        def order(kind: StepKind) -> tuple[int, int, int]:
            """On a lathe what is turned first, and what fits anywhere last."""
            place = GROUPS.index(kind.group)
            return (0 if not job.turns else 2 if kind.group == GROUPS[-1] else int(kind.driven), place, kind.rank)

        tiles = [
            Tile(kind.tag, tr(kind.title), tr(kind.says), _group(kind, job), partial(_feature, kind.tag))
            for kind in sorted(STEPS.values(), key=order)
            if kind.possible(job.plane, job.card)
        ]
        for phrase in self.session.shop.phrases_for(job):
            tiles.append(
                Tile(
                    f"{PHRASE}{phrase.id}",
                    phrase.name,
                    phrase.lines[0],
                    tr("Phrases of the shop"),
                    partial(_feature, "own-lines"),
                )
            )
        self.window.lay_over(self.board)
        self.board.offer(tr("What comes next?"), tiles)

    def add_step(self, kind: str) -> None:
        """A new step behind the selected one, filled so that it proves at once."""
        session = self.session
        if kind.startswith(PHRASE):
            self._add_phrase(kind.removeprefix(PHRASE))
            return
        job, ident = edits.step_added(session.job, kind, session.selected)
        session.history.settle()
        session.edit(job, tr("Add: {lower}", lower=STEPS[kind].title.lower()), select=ident)
        self.window.show_view()
        self.window.questions.take_focus()

    def _add_phrase(self, ident: str) -> None:
        """Lines of the shop as a step of this job's own: what the shop makes of them later changes no job."""
        session = self.session
        phrase = next((p for p in session.shop.phrases if p.id == ident), None)
        if phrase is None:
            return
        job, made = edits.step_added(session.job, "own-lines", session.selected)
        job = answering.answered(answering.answered(job, f"step:{made}.name", phrase.name), f"step:{made}.lines", phrase.lines)
        session.history.settle()
        session.edit(job, tr("Add: {name}", name=phrase.name), select=made)
        self.window.show_view()
        self.window.questions.take_focus(f"step:{made}.blanks" if names_in(phrase.lines) else "")

    def keep_phrase(self) -> None:
        """The lines of the step that is selected become a phrase of the shop, under the step's name."""
        step = self.session.job.step(self._step())
        if not isinstance(step, OwnLines) or not step.lines:
            self.window.say("wrong", tr("A phrase is made of lines of your own: select such a step."))
            return
        self.session.keep_shop(self.session.shop.with_phrase(self.session.job, step.title, step.lines))
        self.window.say("", tr("“{title}” is a phrase of the shop now: it stands on the board.", title=step.title))

    def forget_phrase(self) -> None:
        """The shop's phrase of the name of the step that is selected."""
        step = self.session.job.step(self._step())
        known = {p.name: p.id for p in self.session.shop.phrases_for(self.session.job)}
        if step is None or step.title not in known:
            self.window.say("wrong", tr("The shop has no phrase of that name."))
            return
        self.session.keep_shop(self.session.shop.without_phrase(known[step.title]))
        self.window.say("", tr("“{title}” is no phrase of the shop any more. Steps made of it stay.", title=step.title))

    def _step(self) -> str:
        return self.session.selected if self.session.on_step else ""

    def copy_step(self) -> None:
        if self._step():
            job, ident = edits.step_copied(self.session.job, self._step())
            self.session.history.settle()
            self.session.edit(job, tr("Copy the step"), select=ident)

    def carry(self) -> None:
        """On the clipboard for another job, or another window: in the crib the tool; of a step the pattern or the outline whose
        question is in focus alone, else the step with all that it uses."""
        clipboard, job, focus = QApplication.clipboard(), self.session.job, self.session.focus
        what, _, rest = focus.partition(":")
        if self.window.place == "crib":
            ident = self.window.crib.selected["tools"] if self.window.crib.tab == "tools" else ""
            carried, said = excerpt(job, (), (ident,)), tr("The tool is")
        elif what in ("pattern", "outline"):
            carried, said = excerpt(job, (), (rest.partition(".")[0],)), tr("The {what} is", what=what)
        else:
            ident = self._step()
            carried, said = excerpt(job, (ident,)), tr("The step, with its pattern, outline and tools, is")
        if clipboard is not None and (carried.steps or carried.patterns or carried.outlines or carried.tools):
            clipboard.setText(job_text(carried).decode())
            self.window.say("", tr("{said} on the clipboard.", said=said))

    def bring(self) -> None:
        """What is on the clipboard into this job, behind the step that is selected."""
        clipboard = QApplication.clipboard()
        data = clipboard.text().encode() if clipboard is not None else b""
        if len(data) > LARGEST or glance(data) is None:
            self.window.say("wrong", tr("There is nothing on the clipboard that goes into a job: copy it in another job first."))
            return
        try:
            self._bring(read_job_text(data))
        except JobFileError as error:
            self.window.say("wrong", tr("What is on the clipboard does not go into a job: {error}", error=error))

    def bring_from_file(self) -> None:
        """Steps out of a job's file, which is not opened for it."""
        path = file_to_open(self.window, tr("Steps from a job file"), "", tr("Jobs (*.bastler)"))
        if path is None:
            return
        try:
            other = read_job(path)
        except JobFileError as error:
            self.window.say("wrong", f"{path.name}: {error}")
            return
        tiles = [Tile(s.id, s.title, tr(kind_of(s).title), "", partial(_feature, kind_of(s).tag)) for s in other.steps]
        self._other = other
        self.window.lay_over(self.other_steps)
        self.other_steps.offer(tr("Which step of {name}?", name=other.name or path.stem), tiles, "")

    def _other_picked(self, ident: str) -> None:
        self.window.close_overlay()
        if self._other is not None and ident:
            self._bring(excerpt(self._other, (ident,)))

    def _bring(self, carried: Job) -> None:
        try:
            found = brought(self.session.job, carried, self.session.selected)
            if not carried.steps and self._step() and self.window.place == "bench":
                found = taken_up(self.session.job, found, carried, self._step())
        except NotBrought as error:
            self.window.say("wrong", str(error))
            return
        if not (carried.steps or carried.patterns or carried.outlines or carried.tools):
            self.window.say("wrong", tr("There is nothing on the clipboard that goes into a job: copy it in another job first."))
            return
        if found.job == self.session.job:
            self.window.say("", tr("All of that is in this job already."))
            return
        self.session.history.settle()
        select = found.steps[-1] if found.steps else self.session.selected
        self.session.edit(found.job, tr("Paste"), select=select)
        self.window.say("", tr("Pasted: {words}.", words=found.words))

    def switch_step(self) -> None:
        if self._step():
            self.session.history.settle()
            self.session.edit(edits.step_switched(self.session.job, self._step()), tr("Switch the step on or off"))

    def remove_step(self) -> None:
        ident = self._step()
        if not ident:
            self.remove_holding()
        else:
            at = edits.index_of(self.session.job, ident)
            job = edits.step_removed(self.session.job, ident)
            self.session.history.settle()
            after = job.steps[min(at, len(job.steps) - 1)].id if job.steps else STOCK
            self.session.edit(job, tr("Remove the step"), select=after)

    def move_step(self, by: int) -> None:
        if self._step():
            route = edits.route_of(self.session.job)
            place = route.index(self._step()) + by
            if 0 <= place < len(route):
                self.session.edit(edits.step_moved(self.session.job, self._step(), place), tr("Move the step"))

    def turn_over(self) -> None:
        """A further holding behind the one that is looked at: the part turned over about X until it is said otherwise, one in a
        chuck turned round by hand."""
        if self._from_elsewhere():
            return
        if over := HOLDINGS.over(len(self.session.job.holdings) + 1):
            self.window.say("wrong", over)
            return
        job, held = self.session.job, f"holding:{self.session.held_id}"
        job, ident = edits.holding_added(job, "over" if job.turns else "over-x", held)
        self.session.history.settle()
        self.session.edit(job, tr("Turn the part over"), select=f"holding:{ident}")
        self.window.show_view()
        self.window.questions.take_focus()

    def remove_holding(self) -> None:
        """The selected holding goes with its steps; the first one stays."""
        job, ident = self.session.job, edits.held_at(self.session.selected)
        if ident in {h.id for h in job.holdings[1:]}:
            before = job.holdings[[h.id for h in job.holdings].index(ident) - 1]
            self.session.history.settle()
            self.session.edit(edits.holding_removed(job, ident), tr("Remove the holding"), select=f"holding:{before.id}")

    def card_menu(self, ident: str, at: QPoint) -> None:
        menu = QMenu(self.window)
        names = (
            ["step.add", "step.bring", "holding.over", "holding.remove"]
            if not self.session.on_step
            else ["step.add", "step.copy", "step.carry", "step.bring", "step.switch", "step.earlier", "step.later", "step.remove"]
        )
        for name in names:
            menu.addAction(self.window.actions_by_name[name])
        menu.exec(at)

    def open_tools(self, address: str) -> None:
        """The job's tools as pictures to scale, those that do not fit with the reason."""
        self._tool_address = address
        field = address.rpartition(".")[2]
        self.session.core.ask("tools", self.session.selected, field, then=partial(self._show_tools, address))

    def _show_tools(self, address: str, offers: ToolOffers | None, trouble: str) -> None:
        """The tools there are for an answer, those that fit first."""
        step, field = self.session.job.step(self.session.selected), address.rpartition(".")[2]
        if trouble:
            self.window.say("wrong", trouble)
        if offers is None or address != self._tool_address or step is None or not address.startswith(f"step:{step.id}."):
            return
        turns, proposed = self.session.job.turns, offers.proposed
        longest = max((o.tool.stick_out for o in offers.tools), default=1.0)
        longest = 46.0 * scale("mm", self.session.job.unit) if turns else longest
        fits = (
            tr("T{station} fits, and stays computed.", station=proposed.station) if proposed else tr("Nothing in the crib fits.")
        )
        tiles = [Tile("", tr("Proposed"), fits, "", _tool_drawing(proposed, longest))]
        for offer in offers.tools:
            tool = offer.tool
            place = f"T{tool.station}  " if offer.used or not turns else ""
            drawing = _tool_drawing(tool, longest)
            tiles.append(Tile(tool.id, f"{place}{tool.size}", _tool_words(tool), "", drawing, offer.why_not))
        self.window.lay_over(self.tool_list)
        self.tool_list.offer(tr("Which tool?"), tiles, str(getattr(step, field)))

    def _tool_picked(self, ident: str) -> None:
        self.session.history.settle()
        self.session.answer(self._tool_address, ident or None)
        self.session.focus = self._tool_address
        self.window.close_overlay()


def _group(kind: StepKind, job: Job) -> str:
    """How the board calls its group."""
    return (
        tr("Driven: {lower}", lower=as_inside(tr(kind.group)))
        if job.turns and kind.driven and kind.group != GROUPS[-1]
        else tr(kind.group)
    )


def _feature(tag: str, painter: QPainter, box: QRectF) -> None:
    draw_feature(painter, tag, box)


def _tool_words(tool: AnyTool) -> str:
    """What a tool is, in a few words."""
    if isinstance(tool, TurnTool):
        code = f", {tool.insert}" if tool.insert else ""
        return f"{tool.called}{code}"
    count = (
        tr("{flutes} inserts", flutes=tool.flutes)
        if tool.kind == "face-mill"
        else tr("{flutes} flutes, {material}", flutes=tool.flutes, material=tr(MADE_OF[tool.material]))
    )
    return f"{tr(KIND_WORDS[tool.kind])}, {count}"


def _tool_drawing(tool: AnyTool | None, longest: float) -> Callable[[QPainter, QRectF], None]:
    """Draws a tool; all to the same scale."""

    def draw(painter: QPainter, box: QRectF) -> None:
        if tool is not None:
            draw_tool(painter, tool, box, box.height() / (longest * 1.15))

    return draw


def _offer(job: Job, better: BetterOrder) -> str:
    """What an order saves, and what it changes."""
    ways = [tr("the steps in another order")] if better.job.steps != job.steps else []
    ways += [tr("a tool at a time through several steps")] if better.mixed else []
    return tr(
        "{many} fewer, saves {seconds}: {ways}",
        many=many(better.changes, "tool change"),
        seconds=clock(better.seconds),
        ways=", ".join(ways),
    )
