"""The path of a milling program, from above and from the front."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from bastler.app.path_drawing import ALONG_X, ALONG_Y, ALONG_Z, Pane, PathDrawing, Side
from bastler.app.theme import ROLES, colour, tool_hue
from bastler.app.tool_outline import tool_outline
from bastler.language import sayable
from bastler.live.shown import ShownProof, ShownStage
from bastler.shapes import Box
from bastler.tools import Tool

MARGIN, GAP = 46.0, 70.0


class FlatPath(PathDrawing):
    """Two drawings over each other."""

    words = sayable("From above and from the front. Solid lines feed, dashed lines are rapids, orange is the move at the cursor.")

    def __init__(self, view: Pane) -> None:
        super().__init__(view)
        self.to_front = QTransform()

    def layout(self) -> None:
        view, ctx = self.view, self.session.held.flat
        stock = ctx.stock
        safe = max(ctx.safe, stock.hi[2])
        left, low, right, high = self._reach(stock)
        sx, sy = right - left, high - low
        sz = safe - stock.lo[2]
        s = min((view.width() - 2 * MARGIN) / (sx * 1.3), (view.height() - GAP - 2 * MARGIN) / (sy * 1.2 + sz)) * view.zoom
        x0 = view.width() / 2 - (left + right) / 2 * s + view.pan.x()
        middle = (view.height() - sz * s - GAP) / 2
        y0 = middle + (low + high) / 2 * s + view.pan.y()
        z0 = middle + (sy * 1.1 * s) / 2 + GAP + safe * s + view.pan.y()
        view.scale = s
        view.to_top = QTransform(s, 0, 0, -s, x0, y0)
        self.to_front = QTransform(s, 0, 0, -s, x0, z0)

    def _reach(self, stock: Box) -> tuple[float, float, float, float]:
        """Left, low, right and high of all parts on the table."""
        xs, ys = ([p.shift[k] for p in self.session.held.parts] or [0.0] for k in (0, 1))
        return stock.lo[0] + min(xs), stock.lo[1] + min(ys), stock.hi[0] + max(xs), stock.hi[1] + max(ys)

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        return (((ALONG_X, ALONG_Y), self.view.to_top), ((ALONG_X, ALONG_Z), self.to_front))

    def paint_stock(self, painter: QPainter, proof: ShownProof) -> None:
        ctx, to_top = self.session.held.flat, self.view.to_top
        painter.setPen(QPen(QColor(ROLES.blue), 1.4))
        painter.setBrush(colour(ROLES.blue, 22))
        lo, hi = ctx.stock.lo, ctx.stock.hi
        for dx, dy, dz in [p.shift for p in self.session.held.parts]:
            above = to_top.mapRect(QRectF(lo[0] + dx, lo[1] + dy, hi[0] - lo[0], hi[1] - lo[1]))
            (painter.drawEllipse if ctx.stock.round else painter.drawRect)(above)
            painter.drawRect(self.to_front.mapRect(QRectF(lo[0] + dx, lo[2] + dz, hi[0] - lo[0], hi[2] - lo[2])))
        painter.setPen(QPen(QColor(ROLES.jaw), 1))
        painter.setBrush(colour(ROLES.jaw, 46))
        for jaw in ctx.jaws:
            painter.drawRect(to_top.mapRect(QRectF(jaw.lo[0], jaw.lo[1], jaw.hi[0] - jaw.lo[0], jaw.hi[1] - jaw.lo[1])))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def paint_tool(self, painter: QPainter, stage: ShownStage) -> None:
        tool, tip = stage.run.tool, self.session.moment.tip
        if not isinstance(tool, Tool):
            return
        hue = tool_hue(tool.station)
        painter.setPen(QPen(QColor(hue), 1.6))
        painter.setBrush(colour(hue, 60))
        r = tool.diameter / 2 * self.view.scale
        painter.drawEllipse(self.view.to_top.map(QPointF(tip[0], tip[1])), r, r)
        base = QTransform(self.to_front).translate(tip[0], tip[2])
        for points, fill in tool_outline(tool):
            painter.setBrush(colour(hue if fill == "edge" else ROLES.jaw, 110))
            painter.drawPolygon(base.map(QPolygonF([QPointF(x, z) for x, z in points])))
        painter.setBrush(Qt.BrushStyle.NoBrush)
