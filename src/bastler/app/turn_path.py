"""The path of a turning program in the half section: rapids, feeds, the move at the cursor, tool and stock where they are."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QTransform

from bastler.app.drafting import hatch, region_path
from bastler.app.half_section import draw_tool_at
from bastler.app.path_drawing import PathDrawing, Side
from bastler.app.theme import DAY, colour
from bastler.proof import TurnProof
from bastler.proof.result import AnyProof, AnyStage
from bastler.proof.turn.scrub import stock_at

MARGIN = 60.0


class TurnPath(PathDrawing):
    """One drawing, right is Z, up is the radius."""

    words = "Half section at the cursor. Solid lines feed, dashed lines are rapids, orange is the move at the cursor."
    faint = 0.18

    def layout(self) -> None:
        view, ctx = self.view, self.session.held.turned
        left = max(ctx.raw.bounds[0], self.session.held.jaws_at - 14 * ctx.mm(1.0))
        right, high = ctx.safe[1] + ctx.mm(6.0), ctx.safe[0] + ctx.mm(4.0)
        low = -ctx.mm(6.0)
        s = min((view.width() - 2 * MARGIN) / (right - left), (view.height() - 2 * MARGIN) / (high - low)) * view.zoom
        x0 = view.width() / 2 - (left + right) / 2 * s + view.pan.x()
        y0 = view.height() / 2 + (low + high) / 2 * s + view.pan.y()
        view.scale = s
        view.to_top = QTransform(s, 0, 0, -s, x0, y0)

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        return (((2, 0), self.view.to_top),)

    def _to(self, z: float, r: float) -> QPointF:
        return self.view.to_top.map(QPointF(z, r))

    def paint_stock(self, painter: QPainter, proof: AnyProof) -> None:
        """The raw stock in blue, what is left of it at the cursor in bright metal over it."""
        if not isinstance(proof, TurnProof):
            return
        raw = region_path(proof.scene.raw, self._to)
        painter.fillPath(raw, colour(DAY.blue, 30))
        now = region_path(stock_at(proof, self.session.moment), self._to)
        painter.fillPath(now, QColor(DAY.metal))
        hatch(painter, now, "#B4BBBF", 10.0)
        painter.setPen(QPen(QColor(DAY.ink), 1.1))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(now)
        painter.setPen(QPen(QColor(DAY.ink), 1.0))
        painter.setBrush(colour(DAY.jaw, 190))
        for _, region in proof.scene.keep_out:
            painter.drawPath(region_path(region, self._to))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = QPen(QColor(DAY.soft), 1.0)
        pen.setDashPattern([14, 4, 3, 4])
        painter.setPen(pen)
        a, b = self._to(proof.scene.raw.bounds[0], 0.0), self._to(proof.scene.raw.bounds[2], 0.0)
        painter.drawLine(QPointF(a.x() - 20, a.y()), QPointF(b.x() + 40, b.y()))

    def paint_tool(self, painter: QPainter, stage: AnyStage) -> None:
        tip = self.session.moment.tip
        if stage.proof.tool is not None:
            draw_tool_at(painter, stage.proof.tool, (tip[2], tip[0]), self._to)
