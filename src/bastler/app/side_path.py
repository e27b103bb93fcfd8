"""The path of driven tools on the side of a turned part: the side from outside, and under it the part as it lies."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF, QTransform

from bastler.app.path_drawing import Pane, Side
from bastler.app.theme import ROLES, colour, tool_hue
from bastler.app.tool_outline import tool_outline
from bastler.app.turn_path import TurnPath
from bastler.language import sayable
from bastler.live.shown import ShownProof, ShownStage
from bastler.proof.polar.planes import CutPlane
from bastler.steps.place import plane_angle
from bastler.tools import Tool

MARGIN, GAP = 40.0, 56.0
CHUCK = 20.0
"""Pixels of the chuck that are seen beside the part."""


class SidePath(TurnPath):
    """Two drawings over each other, both with Z to the right; of a step that is made at several angles the first one."""

    words = sayable(
        "The side, and the part as it lies. Solid lines feed, dashed lines are rapids, orange is the move at the cursor."
    )

    def __init__(self, view: Pane) -> None:
        super().__init__(view)
        self.to_lying = QTransform()
        self.panes = (QRectF(), QRectF())
        self._to_now, self._half = QTransform(), 1.0
        """The drawing, and the side of the axis, in which the half section is being painted."""

    @property
    def plane(self) -> CutPlane:
        place = self.session.place
        return CutPlane(place.angles[0] if place is not None and place.angles else 0.0)

    def layout(self) -> None:
        view, held, around = self.view, self.session.held, self.session.held.turned
        z0, _, z1, outer = around.raw.bounds
        left, right = max(z0, around.jaws_at - held.mm(14.0)), z1 + held.mm(6.0)
        high = max(around.safe[0], outer) - outer
        room = view.height() - GAP - 2 * MARGIN
        s = min((view.width() - 2 * MARGIN) / (right - left), room / (4 * outer + high)) * view.zoom
        x0 = view.width() / 2 - (left + right) / 2 * s + view.pan.x()
        top = (view.height() - GAP - (4 * outer + high) * s) / 2 + view.pan.y()
        view.scale = s
        view.to_top = QTransform(s, 0, 0, -s, x0, top + outer * s)
        self.to_lying = QTransform(s, 0, 0, -s, x0, top + GAP + (3 * outer + high) * s)
        middle = top + 2 * outer * s + GAP / 2
        whole = QRectF(0.0, 0.0, view.width(), view.height())
        self.panes = (whole.intersected(QRectF(0.0, 0.0, view.width(), middle)), whole.adjusted(0.0, middle, 0.0, 0.0))

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        right, up, out = (tuple(axis.tolist()) for axis in self.plane.axes)
        return (((right, up), self.view.to_top), ((right, out), self.to_lying))

    def shows(self, proof: ShownProof, stage: ShownStage) -> bool:
        tool, trace = stage.run.tool, proof.trace
        if not isinstance(tool, Tool) or tool.stands != "radial" or not trace.stands[stage.begin]:
            return False
        place = self.session.place
        if place is not None and place.around:
            return stage.step == self.session.selected
        return plane_angle(float(trace.angle[stage.end - 1, 1])) == self.plane.side

    def _to(self, z: float, r: float) -> QPointF:
        return self._to_now.map(QPointF(z, r * self._half))

    def paint_stock(self, painter: QPainter, proof: ShownProof) -> None:
        raw = self.session.held.turned.raw.bounds[3]
        for pane, to in zip(self.panes, (self.view.to_top, self.to_lying), strict=True):
            self._to_now = to
            low, high = to.map(QPointF(0.0, -raw)).y() + CHUCK, to.map(QPointF(0.0, raw)).y() - CHUCK
            painter.save()
            painter.setClipRect(pane.intersected(QRectF(0.0, high, self.view.width(), low - high)))
            for self._half in (-1.0, 1.0):
                super().paint_stock(painter, proof)
            painter.restore()

    def paint_tool(self, painter: QPainter, stage: ShownStage) -> None:
        tool = stage.run.tool
        if not isinstance(tool, Tool):
            return
        u, v, w = (float(value) for value in self.plane.axes @ np.array(self.session.moment.tip))
        hue, r = tool_hue(tool.station), tool.diameter / 2 * self.view.scale
        painter.setPen(QPen(QColor(hue), 1.6))
        painter.setBrush(colour(hue, 60))
        painter.drawEllipse(self.view.to_top.map(QPointF(u, v)), r, r)
        painter.save()
        painter.setClipRect(self.panes[1])
        base = QTransform(self.to_lying).translate(u, w)
        for points, fill in tool_outline(tool):
            painter.setBrush(colour(hue if fill == "edge" else ROLES.jaw, 110))
            painter.drawPolygon(base.map(QPolygonF([QPointF(x, z) for x, z in points])))
        painter.restore()
        painter.setBrush(Qt.BrushStyle.NoBrush)
