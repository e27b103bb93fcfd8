"""The path of driven tools on the end face of a turned part: the face from the front, and the part as it lies."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QTransform

from bastler.app.path_drawing import ALONG_X, ALONG_Y, ALONG_Z, Pane, Side
from bastler.app.theme import ROLES, colour, tool_hue
from bastler.app.turn_path import TurnPath
from bastler.language import sayable
from bastler.live.shown import ShownProof, ShownStage, Turned
from bastler.tools import Tool

MARGIN, GAP = 54.0, 46.0
LYING = 0.24
"""The share of the height for the part as it lies."""


class FacePath(TurnPath):
    """Two drawings over each other; what is turned is not drawn."""

    words = sayable(
        "End face, and the part as it lies. Solid lines feed, dashed lines are rapids, orange is the move at the cursor."
    )

    def __init__(self, view: Pane) -> None:
        super().__init__(view)
        self.to_lying, self.lying = QTransform(), QRectF()
        self._side = 1.0
        """On which side of the axis the half section is being painted."""

    def layout(self) -> None:
        view, held, around = self.view, self.session.held, self.session.held.turned
        z0, _, z1, outer = around.raw.bounds
        low = view.height() * LYING
        room = min(view.width() - 2 * MARGIN, view.height() - low - GAP - 2 * MARGIN)
        s = room / (2 * outer) * view.zoom
        view.scale = s
        self.lying = QRectF(0.0, view.height() - MARGIN - low - GAP / 2, view.width(), low + GAP)
        x0, y0 = view.width() / 2 + view.pan.x(), MARGIN + (view.height() - low - GAP - 2 * MARGIN) / 2 + view.pan.y()
        view.to_top = QTransform(s, 0, 0, -s, x0, y0)
        left, right = max(z0, around.jaws_at - held.mm(14.0)), max(z1, around.safe[1]) + held.mm(6.0)
        k = min((view.width() - 2 * MARGIN) / (right - left), low / (2 * outer)) * view.zoom
        begin, axis = view.width() / 2 - (left + right) / 2 * k + view.pan.x(), view.height() - MARGIN - low / 2 + view.pan.y()
        self.to_lying = QTransform(k, 0, 0, -k, begin, axis)

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        return (((ALONG_X, ALONG_Y), self.view.to_top), ((ALONG_Z, ALONG_X), self.to_lying))

    def shows(self, proof: ShownProof, stage: ShownStage) -> bool:
        tool = stage.run.tool
        return bool(proof.trace.stands[stage.begin]) and isinstance(tool, Tool) and tool.stands == "axial"

    def _to(self, z: float, r: float) -> QPointF:
        return self.to_lying.map(QPointF(z, r * self._side))

    def paint_stock(self, painter: QPainter, proof: ShownProof) -> None:
        painter.save()
        painter.setClipRect(self.lying)
        for self._side in (-1.0, 1.0):
            super().paint_stock(painter, proof)
        painter.restore()
        if isinstance(proof.around, Turned):
            r = proof.around.raw.bounds[3] * self.view.scale
            painter.setPen(QPen(QColor(ROLES.blue), 1.4))
            painter.setBrush(colour(ROLES.blue, 22))
            painter.drawEllipse(self.view.to_top.map(QPointF(0.0, 0.0)), r, r)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def paint_tool(self, painter: QPainter, stage: ShownStage) -> None:
        tool, tip = stage.run.tool, self.session.moment.tip
        super().paint_tool(painter, stage)
        if isinstance(tool, Tool):
            hue, r = tool_hue(tool.station), tool.diameter / 2 * self.view.scale
            painter.setPen(QPen(QColor(hue), 1.6))
            painter.setBrush(colour(hue, 60))
            painter.drawEllipse(self.view.to_top.map(QPointF(tip[0], tip[1])), r, r)
            painter.setBrush(Qt.BrushStyle.NoBrush)
