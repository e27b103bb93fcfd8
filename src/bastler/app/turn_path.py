"""The path of a turning program in the half section: rapids, feeds, the move at the cursor, tool and stock where they are."""

from __future__ import annotations

from typing import Any, Protocol

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from bastler.app.drafting import hatch, region_path, zero_mark
from bastler.app.half_section import draw_tool_at
from bastler.app.session import Session
from bastler.app.theme import DAY, colour, sans, tool_hue
from bastler.nc import RAPID
from bastler.proof import StageResult, TurnProof
from bastler.proof.turn.scrub import stock_at

MARGIN = 60.0


class Pane(Protocol):
    """The path view, as far as a turned path goes: how large it is and what is seen; it learns the scale and the maps to
    pixels."""

    session: Session
    zoom: float
    pan: QPointF
    scale: float
    to_top: QTransform
    to_front: QTransform

    def width(self) -> int: ...
    def height(self) -> int: ...


class TurnPaths:
    """Paints a turning program's path on the path view."""

    def __init__(self, view: Pane) -> None:
        self.view = view
        self.session = view.session
        self._known: dict[int, tuple[QPainterPath, QPainterPath]] = {}

    def layout(self) -> None:
        """The map from (z, r) to pixels."""
        view, ctx = self.view, self.session.held.turned
        left = max(ctx.raw.bounds[0], self.session.held.jaws_at - 14 * ctx.mm(1.0))
        right, high = ctx.safe[1] + ctx.mm(6.0), ctx.safe[0] + ctx.mm(4.0)
        low = -ctx.mm(6.0)
        s = min((view.width() - 2 * MARGIN) / (right - left), (view.height() - 2 * MARGIN) / (high - low)) * view.zoom
        x0 = view.width() / 2 - (left + right) / 2 * s + view.pan.x()
        y0 = view.height() / 2 + (low + high) / 2 * s + view.pan.y()
        view.scale = s
        view.to_top = view.to_front = QTransform(s, 0, 0, -s, x0, y0)

    def paint(self, painter: QPainter, proof: TurnProof) -> None:
        moment = self.session.moment
        self._stock(painter, proof)
        for stage in proof.stages:
            if stage.proof.tool is not None:
                self._stage(painter, proof, stage)
        self._now(painter, proof)
        tool = proof.stages[moment.stage].proof.tool if moment.stage >= 0 and moment.time < proof.total else None
        if tool is not None:
            draw_tool_at(painter, tool, (moment.tip[2], moment.tip[0]), self._to)
        zero_mark(painter, self._to(0.0, 0.0), 7)
        self._captions(painter)

    def _to(self, z: float, r: float) -> QPointF:
        return self.view.to_top.map(QPointF(z, r))

    def _stock(self, painter: QPainter, proof: TurnProof) -> None:
        """The raw stock in blue, what is left of it at the cursor in bright metal over it."""
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

    def _paths(self, proof: TurnProof, stage: StageResult) -> tuple[QPainterPath, QPainterPath]:
        key = id(stage.proof)
        if key not in self._known:
            if len(self._known) > 200:
                self._known.clear()
            feed, rapid = QPainterPath(), QPainterPath()
            kinds = proof.trace.kind[stage.begin : stage.end]
            for segment, owner in zip(stage.proof.segments.tolist(), stage.proof.owner.tolist(), strict=True):
                path = rapid if kinds[owner] == RAPID else feed
                path.moveTo(segment[2], segment[0])
                path.lineTo(segment[5], segment[3])
            self._known[key] = (feed, rapid)
        return self._known[key]

    def _stage(self, painter: QPainter, proof: TurnProof, stage: StageResult) -> None:
        mine = not self.session.on_step or self.session.selected == stage.step
        feed, rapid = self._paths(proof, stage)
        painter.setOpacity((1.0 if mine else 0.18) * (0.6 if self.session.stale else 1.0))
        pen = QPen(QColor(DAY.soft), 0.9)
        pen.setDashPattern([5, 4])
        painter.setPen(pen)
        painter.drawPath(self.view.to_top.map(rapid))
        painter.setPen(QPen(QColor(tool_hue(max(stage.tool, 1))), 1.4))
        painter.drawPath(self.view.to_top.map(feed))
        painter.setOpacity(1.0)

    def _now(self, painter: QPainter, proof: TurnProof) -> None:
        moment = self.session.moment
        if moment.stage < 0 or moment.time >= proof.total:
            return
        stage: Any = proof.stages[moment.stage]
        painter.setPen(QPen(QColor(DAY.focus), 3.2, cap=Qt.PenCapStyle.RoundCap))
        for s in stage.proof.segments[stage.proof.owner == moment.move - stage.begin]:
            painter.drawLine(self._to(s[2], s[0]), self._to(s[5], s[3]))

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(DAY.soft))
        words = "Half section at the cursor. Solid lines feed, dashed lines are rapids, orange is the move at the cursor."
        painter.drawText(QRectF(0, self.view.height() - 26, self.view.width(), 20), Qt.AlignmentFlag.AlignCenter, words)
