"""The tool's path from above and from the front, the current move lit, the tool where it is."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QPolygonF, QTransform, QWheelEvent
from PyQt6.QtWidgets import QWidget

from bastler.app.drafting import painting, zero_mark
from bastler.app.session import Session
from bastler.app.theme import DAY, colour, sans, tool_hue
from bastler.app.turn_path import TurnPaths
from bastler.nc import RAPID
from bastler.proof import StageResult, TurnProof
from bastler.shapes import Box
from bastler.tools import Profile, Tool

MARGIN, GAP = 46.0, 70.0
MOST_DRAWN = 60_000
"""Segments of one stage that are drawn; of longer ones every n-th."""


class StagePaths:
    """The feed and rapid lines of one stage in part coordinates, from above (XY) and from the front (XZ)."""

    def __init__(self, stage: StageResult, rapid_mask) -> None:  # type: ignore[no-untyped-def]
        self.hue = tool_hue(max(stage.tool, 1))
        self.top_feed, self.top_rapid = QPainterPath(), QPainterPath()
        self.front_feed, self.front_rapid = QPainterPath(), QPainterPath()
        segments, owner = stage.proof.segments, stage.proof.owner
        stride = max(1, len(segments) // MOST_DRAWN)
        for k in range(0, len(segments), stride):
            ax, ay, az, bx, by, bz = segments[k].tolist()
            rapid = bool(rapid_mask[owner[k]])
            top, front = (self.top_rapid, self.front_rapid) if rapid else (self.top_feed, self.front_feed)
            _add(top, ax, ay, bx, by)
            _add(front, ax, az, bx, bz)


def _add(path: QPainterPath, ax: float, ay: float, bx: float, by: float) -> None:
    at = path.currentPosition()
    if path.elementCount() == 0 or abs(at.x() - ax) > 1e-9 or abs(at.y() - ay) > 1e-9:
        path.moveTo(ax, ay)
    path.lineTo(bx, by)


class PathView(QWidget):
    """Two drawings over each other; the wheel zooms, dragging moves, a double click shows all."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumSize(360, 300)
        self.setAccessibleName("Path")
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self._grabbed: QPointF | None = None
        self._known: dict[int, StagePaths] = {}
        self.turned = TurnPaths(self)
        session.proof_changed.connect(self._other_proof)
        for signal in (session.cursor_changed, session.selection_changed, session.job_changed):
            signal.connect(self.update)

    def _other_proof(self) -> None:
        proof = self.session.proof
        alive = {id(s.proof) for s in proof.stages} if proof else set()
        self._known = {key: paths for key, paths in self._known.items() if key in alive}
        self.update()

    def _paths(self, stage: StageResult) -> StagePaths:
        key = id(stage.proof)
        if key not in self._known and self.session.proof is not None:
            mask = self.session.proof.trace.kind[stage.begin : stage.end] == RAPID
            self._known[key] = StagePaths(stage, mask)
        return self._known[key]

    def _layout(self) -> None:
        if self.session.job.turns:
            self.turned.layout()
            return
        stock = self.session.held.flat.stock
        safe = max(self.session.held.flat.safe, stock.hi[2])
        left, low, right, high = self._reach(stock)
        sx, sy = right - left, high - low
        sz = safe - stock.lo[2]
        s = min((self.width() - 2 * MARGIN) / (sx * 1.3), (self.height() - GAP - 2 * MARGIN) / (sy * 1.2 + sz)) * self.zoom
        x0 = self.width() / 2 - (left + right) / 2 * s + self.pan.x()
        middle = (self.height() - sz * s - GAP) / 2
        y0 = middle + (low + high) / 2 * s + self.pan.y()
        z0 = middle + (sy * 1.1 * s) / 2 + GAP + safe * s + self.pan.y()
        self.scale = s
        self.to_top = QTransform(s, 0, 0, -s, x0, y0)
        self.to_front = QTransform(s, 0, 0, -s, x0, z0)

    def _reach(self, stock: Box) -> tuple[float, float, float, float]:
        """Left, low, right and high of all parts on the table."""
        xs, ys = ([p.shift[k] for p in self.session.held.parts] or [0.0] for k in (0, 1))
        return stock.lo[0] + min(xs), stock.lo[1] + min(ys), stock.hi[0] + max(xs), stock.hi[1] + max(ys)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(DAY.paper))
            proof = self.session.proof
            if not self.session.has_job or proof is None or isinstance(proof, TurnProof) != self.session.job.turns:
                return
            self._layout()
            if isinstance(proof, TurnProof):
                self.turned.paint(painter, proof)
                return
            self._stock(painter)
            for stage in proof.stages:
                if stage.proof.tool is not None:
                    self._stage(painter, stage)
            self._now(painter)
            zero_mark(painter, self.to_top.map(QPointF(0, 0)), 7)
            zero_mark(painter, self.to_front.map(QPointF(0, 0)), 5)
            self._captions(painter)

    def _stock(self, painter: QPainter) -> None:
        ctx = self.session.held.flat
        painter.setPen(QPen(QColor(DAY.blue), 1.4))
        painter.setBrush(colour(DAY.blue, 22))
        lo, hi = ctx.stock.lo, ctx.stock.hi
        for dx, dy, dz in [p.shift for p in self.session.held.parts]:
            above = self.to_top.mapRect(QRectF(lo[0] + dx, lo[1] + dy, hi[0] - lo[0], hi[1] - lo[1]))
            (painter.drawEllipse if ctx.stock.round else painter.drawRect)(above)
            painter.drawRect(self.to_front.mapRect(QRectF(lo[0] + dx, lo[2] + dz, hi[0] - lo[0], hi[2] - lo[2])))
        painter.setPen(QPen(QColor(DAY.jaw), 1))
        painter.setBrush(colour(DAY.jaw, 46))
        for jaw in ctx.jaws:
            painter.drawRect(self.to_top.mapRect(QRectF(jaw.lo[0], jaw.lo[1], jaw.hi[0] - jaw.lo[0], jaw.hi[1] - jaw.lo[1])))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _stage(self, painter: QPainter, stage: StageResult) -> None:
        mine = not self.session.on_step or self.session.selected == stage.step
        paths = self._paths(stage)
        painter.setOpacity((1.0 if mine else 0.28) * (0.6 if self.session.stale else 1.0))
        dx, dy, dz = stage.shift
        for transform, feed, rapid in (
            (QTransform.fromTranslate(dx, dy) * self.to_top, paths.top_feed, paths.top_rapid),
            (QTransform.fromTranslate(dx, dz) * self.to_front, paths.front_feed, paths.front_rapid),
        ):
            pen = QPen(QColor(DAY.soft), 0.9)
            pen.setDashPattern([5, 4])
            painter.setPen(pen)
            painter.drawPath(transform.map(rapid))
            painter.setPen(QPen(QColor(paths.hue), 1.3))
            painter.drawPath(transform.map(feed))
        painter.setOpacity(1.0)

    def _now(self, painter: QPainter) -> None:
        """The current move and the tool on it."""
        proof, moment = self.session.proof, self.session.moment
        if proof is None or moment.move < 0 or moment.time >= proof.total:
            return
        stage = proof.stages[moment.stage] if moment.stage >= 0 else None
        if stage is None:
            return
        own = stage.proof.segments[stage.proof.owner == moment.move - stage.begin] + np.array([*stage.shift, *stage.shift])
        painter.setPen(QPen(QColor(DAY.focus), 3.2, cap=Qt.PenCapStyle.RoundCap))
        for transform, axis in ((self.to_top, 1), (self.to_front, 2)):
            for seg in own:
                painter.drawLine(transform.map(QPointF(seg[0], seg[axis])), transform.map(QPointF(seg[3], seg[3 + axis])))
        if stage.proof.tool is not None:
            self._tool(painter, stage.proof.tool, moment.tip)

    def _tool(self, painter: QPainter, tool: Tool, tip: tuple[float, float, float]) -> None:
        hue = tool_hue(tool.station)
        painter.setPen(QPen(QColor(hue), 1.6))
        painter.setBrush(colour(hue, 60))
        r = tool.diameter / 2 * self.scale
        painter.drawEllipse(self.to_top.map(QPointF(tip[0], tip[1])), r, r)
        base = QTransform(self.to_front).translate(tip[0], tip[2])
        for points, fill in tool_outline(tool):
            painter.setBrush(colour(hue if fill == "edge" else DAY.jaw, 110))
            painter.drawPolygon(base.map(QPolygonF([QPointF(x, z) for x, z in points])))
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(DAY.soft))
        words = "From above and from the front. Solid lines feed, dashed lines are rapids, orange is the move at the cursor."
        painter.drawText(QRectF(0, self.height() - 26, self.width(), 20), Qt.AlignmentFlag.AlignCenter, words)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event:
            self.setFocus()
            self._grabbed = event.position() - self.pan

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event and self._grabbed is not None:
            self.pan = event.position() - self._grabbed
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._grabbed = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.zoom, self.pan = 1.0, QPointF(0, 0)
        self.update()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        if event is None or self.session.proof is None:
            return
        back, ok = self.to_top.inverted()
        at = back.map(event.position()) if ok else QPointF()
        self.zoom = min(max(self.zoom * 1.2 ** (event.angleDelta().y() / 120), 0.5), 80.0)
        self._layout()
        self.pan += event.position() - self.to_top.map(at)
        self.update()


def tool_outline(tool: Tool) -> list[tuple[list[tuple[float, float]], str]]:
    """The tool from the side about its tip: polygons (x, z) with "edge", "shank" or "holder"."""
    p = tool.profile
    if tool.kind in ("tap", "thread-mill"):  # their teeth, which the proof does not cut with
        r = tool.diameter / 2
        p = Profile(r - min(tool.pitch, r) / 2, 0.0, 2.0, r)
    steps = 8
    right = [(0.0, 0.0)]
    if p.corner > 0:
        right += [(p.flat + p.corner * k / steps, p.height(p.flat + p.corner * k / steps)) for k in range(steps + 1)]
    else:
        right += [(p.flat, 0.0), (p.radius, p.height(p.radius))]
    right.append((p.radius, max(tool.flute_length, p.height(p.radius))))
    edge = right + [(-x, z) for x, z in reversed(right)]
    s, h = tool.shank_diameter / 2, tool.holder.diameter / 2
    f, o, top = tool.flute_length, tool.stick_out, tool.stick_out + tool.holder.length
    return [
        (edge, "edge"),
        ([(-s, f), (s, f), (s, o), (-s, o)], "shank"),
        ([(-h, o), (h, o), (h, top), (-h, top)], "holder"),
    ]
