"""The sheet of a hand-over: the half section between both chucks. At the strip's cursor the second one stands where W is, and
takes the part along; else it stands where it takes hold."""

from __future__ import annotations

import shapely
import shapely.affinity
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen
from PyQt6.QtWidgets import QPushButton, QWidget

from bastler.app.core import Core
from bastler.app.drafting import hatch
from bastler.app.half_section import HalfSection
from bastler.app.paper import Paper
from bastler.app.session import Session
from bastler.app.theme import ROLES, colour, sans
from bastler.language import sayable, tr
from bastler.live.shown import Opposite, ShownProof
from bastler.proof.scrub import Moment
from bastler.shapes.kinds import Region
from bastler.steps import HandOver
from bastler.units import Kind, number_text

MARGIN_MM = 8.0
CHUCKS_MM, WAY_MM = 70.0, 30.0
"""How long jaws and chuck are along the axis, and how much of the second one's way is in the picture, in mm."""


class PlayButton(QPushButton):
    """Plays a hand-over on the sheet from its begin; it stands there while the step is selected and proved."""

    def __init__(self, sheet: QWidget, session: Session) -> None:
        super().__init__(tr("Play it"), sheet)
        self.session = session
        self.setObjectName("view")
        self.setToolTip(tr("The second chuck comes, takes hold, and goes away with the part"))
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.clicked.connect(self._play)
        for signal in (session.selection_changed, session.plan_changed, session.proof_changed):
            signal.connect(self.offer)
        self.offer()

    def _begin(self) -> float | None:
        """When the step begins, in seconds."""
        session = self.session
        if not session.has_job or not isinstance(session.job.step(session.selected), HandOver) or session.proof is None:
            return None
        return next((stage.t0 for stage in session.proof.stages if stage.step == session.selected), None)

    def offer(self) -> None:
        """Is there something to be played?"""
        self.setVisible(self._begin() is not None)
        self.place()

    def place(self) -> None:
        """In the upper right corner of the sheet."""
        sheet = self.parentWidget()
        self.adjustSize()
        if sheet is not None:
            self.move(sheet.width() - self.width() - 14, 12)

    def _play(self) -> None:
        begin = self._begin()
        if begin is not None:
            self.session.seek(begin)
            self.session.play()


class HandOverSheet(HalfSection):
    """Both chucks, and the part between them."""

    of_step = sayable("both chucks")

    def __init__(self, sheet: Paper, core: Core) -> None:
        super().__init__(sheet)
        self._core = core
        self._stock: tuple[ShownProof, Moment, Region] | None = None
        self._asked: tuple[ShownProof, Moment] | None = None

    @property
    def second(self) -> Opposite | None:
        """The chuck on the other side."""
        return self.session.held.turned.second

    def layout(self) -> None:
        two = self.second
        if two is None:
            super().layout()
            return
        sheet, held, around = self.sheet, self.session.held, self.session.held.turned
        outer = max(float(region.bounds[3]) for _, region in (*around.keep_out, *two.regions))
        left = around.jaws_at - held.mm(CHUCKS_MM)
        right = two.gripped + held.mm(CHUCKS_MM + WAY_MM + MARGIN_MM)
        own = self.margins
        room_x = max(sheet.width() - own.left - own.right, 50.0)
        room_y = max(sheet.height() - own.top - own.bottom, 50.0)
        s = min(room_x / (right - left), room_y / (2 * outer)) * sheet.zoom
        x0 = own.left + (room_x - (right - left) * s) / 2 - left * s + sheet.pan.x()
        y0 = own.top + room_y / 2 + sheet.pan.y()
        sheet.scale, sheet.spots = s, {}
        sheet.to_plan = sheet.to_section = lambda x, y: QPointF(x0 + x * s, y0 - y * s)

    # -- where it is in time ------------------------------------------------------------------------------------------

    def _running(self) -> tuple[ShownProof, Moment] | None:
        """The proof and the moment, where the cursor is in this step or behind it."""
        proof, moment, two = self.session.proof, self.session.moment, self.second
        if proof is None or two is None or self.session.stale or moment.move < 0:
            return None
        begins = [stage.t0 for stage in proof.stages if stage.step == two.step]
        return (proof, moment) if begins and begins[0] < moment.time < proof.total else None

    def _w(self, two: Opposite) -> float:
        """Where W is at the cursor, else where it takes hold."""
        now = self._running()
        if now is None:
            return two.w_gripped
        proof, moment = now
        return proof.trace.w_at(moment.move, moment.share)

    def _closed(self) -> bool:
        """Has it hold of the part?"""
        now = self._running()
        if now is None:
            return True
        proof, moment = now
        closed = [event.at for event in proof.trace.events if event.what == "grip" and event.value == 3.0]
        return bool(closed) and moment.move >= closed[0]

    def _stock_now(self) -> Region | None:
        """What there is at the cursor, as it was asked for last; the newest is asked for."""
        now = self._running()
        if now is None:
            return None
        if self._asked != now:
            self._asked = now

            def came(found: Region | None, trouble: str) -> None:
                if found is not None:
                    self._stock = (*now, found)
                    self.sheet.update()

            self._core.ask("section", self.session.held_id, now[1], then=came)
        return self._stock[2] if self._stock is not None and self._stock[0] is now[0] else None

    # -- painting -----------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        two, stock = self.second, self._stock_now()
        if two is None or stock is None:
            super().paint(painter)
            return
        self._kept_out(painter)
        w = self._w(two)
        by = w - two.w_gripped if self._closed() else 0.0
        pieces = sorted((p for p in getattr(stock, "geoms", [stock]) if not p.is_empty), key=lambda p: float(p.bounds[2]))
        for piece in pieces:
            goes = piece is pieces[-1] and (len(pieces) > 1 or by > 0.0)
            self._piece(painter, shapely.affinity.translate(piece, by if goes else 0.0))
        self._chuck(painter, two, w)
        self._axis(painter)
        self._tool(painter)
        self._captions(painter)

    def _kept_out(self, painter: QPainter) -> None:
        super()._kept_out(painter)
        if self.second is not None and self._stock_now() is None:
            self._chuck(painter, self.second, self.second.w_gripped)

    def _piece(self, painter: QPainter, piece: Region) -> None:
        """A piece of the part: cut above the centre line, from outside below."""
        above = self._map(piece)
        below = self._map(shapely.transform(piece, lambda places: places * (1.0, -1.0)))
        painter.fillPath(below, QColor(ROLES.metal_deep))
        painter.fillPath(above, QColor(ROLES.metal))
        hatch(painter, above, ROLES.hatch)
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(above)
        painter.drawPath(below)

    def _chuck(self, painter: QPainter, two: Opposite, w: float) -> None:
        """The second chuck, open by a little until it has closed."""
        at, open_ = two.face(w), 0.0 if self._closed() else self.session.held.mm(2.0)
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(colour(ROLES.jaw, 235))
        for name, region in two.regions:
            lift = open_ if name == "second-jaws" else 0.0
            moved = shapely.affinity.translate(region, at, lift)
            self._both_sides(painter, moved)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        _, _, right, top = two.regions[-1][1].bounds
        place, edge = self.sheet.to_plan(at + right, top), self.sheet.width() - 12.0
        painter.setFont(sans(13, bold=True))
        painter.setPen(QColor(ROLES.ink))
        beyond = self.sheet.to_plan(at, 0.0).x() > edge
        words = tr("second chuck at W {w} →", w=self._shown(w)) if beyond else f"W {self._shown(w)}"
        painter.drawText(QPointF(min(place.x(), edge) - painter.fontMetrics().horizontalAdvance(words), place.y() - 8), words)

    def _shown(self, value: float) -> str:
        return number_text(value, Kind.LENGTH, self.session.job.unit)

    def words(self) -> str:
        """What stands below the drawing."""
        where = tr("where it takes hold") if self._running() is None else tr("where it is at the cursor")
        return tr("Left the main chuck, right the second one, {where}.", where=where)
