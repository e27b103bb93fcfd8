"""The path of a turning program in the half section: rapids, feeds, the move at the cursor, tool and stock where they are."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QTransform

from bastler.app.drafting import axis_pen, hatch, region_path
from bastler.app.half_section import draw_tool_at
from bastler.app.path_drawing import ALONG_X, ALONG_Z, Pane, PathDrawing, Side
from bastler.app.theme import ROLES, colour
from bastler.language import sayable
from bastler.live.shown import ShownProof, ShownStage, Turned
from bastler.proof.scrub import Moment
from bastler.shapes.kinds import Region

MARGIN = 60.0


class TurnPath(PathDrawing):
    """One drawing, right is Z, up is the radius."""

    words = sayable("Half section at the cursor. Solid lines feed, dashed lines are rapids, orange is the move at the cursor.")
    faint = 0.18

    def __init__(self, view: Pane) -> None:
        super().__init__(view)
        self._stock: tuple[ShownProof, Moment, Region] | None = None
        self._asked: tuple[ShownProof, Moment] | None = None

    def _stock_now(self, proof: ShownProof) -> Region | None:
        """What is left at the cursor, as it was asked for last; the newest is asked for."""
        moment = self.session.moment
        if self._asked != (proof, moment) and not self.session.stale:
            self._asked = (proof, moment)

            def came(found: Region | None, trouble: str) -> None:
                if found is not None:
                    self._stock = (proof, moment, found)
                    self.view.update()

            self.session.core.ask("section", self.session.held_id, moment, then=came)
        return self._stock[2] if self._stock is not None else None

    def layout(self) -> None:
        view, held, around = self.view, self.session.held, self.session.held.turned
        left = max(around.raw.bounds[0], around.jaws_at - held.mm(14.0))
        right, high = around.safe[1] + held.mm(6.0), around.safe[0] + held.mm(4.0)
        low = -held.mm(6.0)
        s = min((view.width() - 2 * MARGIN) / (right - left), (view.height() - 2 * MARGIN) / (high - low)) * view.zoom
        x0 = view.width() / 2 - (left + right) / 2 * s + view.pan.x()
        y0 = view.height() / 2 + (low + high) / 2 * s + view.pan.y()
        view.scale = s
        view.to_top = QTransform(s, 0, 0, -s, x0, y0)

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        return (((ALONG_Z, ALONG_X), self.view.to_top),)

    def shows(self, proof: ShownProof, stage: ShownStage) -> bool:
        return not proof.trace.stands[stage.begin]

    def _to(self, z: float, r: float) -> QPointF:
        return self.view.to_top.map(QPointF(z, r))

    def paint_stock(self, painter: QPainter, proof: ShownProof) -> None:
        """The raw stock in blue, what is left of it at the cursor in bright metal over it."""
        around = proof.around
        if not isinstance(around, Turned):
            return
        raw = region_path(around.raw, self._to)
        painter.fillPath(raw, colour(ROLES.blue, 30))
        stock = self._stock_now(proof)
        if stock is not None:
            now = region_path(stock, self._to)
            painter.fillPath(now, QColor(ROLES.metal))
            hatch(painter, now, ROLES.hatch_pale, 10.0)
            painter.setPen(QPen(QColor(ROLES.ink), 1.1))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(now)
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(colour(ROLES.jaw, 190))
        for _, region in around.keep_out:
            painter.drawPath(region_path(region, self._to))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(axis_pen())
        a, b = self._to(around.raw.bounds[0], 0.0), self._to(around.raw.bounds[2], 0.0)
        painter.drawLine(QPointF(a.x() - 20, a.y()), QPointF(b.x() + 40, b.y()))

    def paint_tool(self, painter: QPainter, stage: ShownStage) -> None:
        tip = self.session.moment.tip
        if stage.run.tool is not None:
            draw_tool_at(painter, stage.run.tool, (tip[2], tip[0]), self._to)
