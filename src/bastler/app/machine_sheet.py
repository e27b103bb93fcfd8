"""The part in the machine as it has grown from what the machine reported, with the tool where the axes say that it is."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from bastler.app.drafting import axis_pen, hatch, painting, region_path, zero_mark
from bastler.app.half_section import draw_tool_at
from bastler.app.machine_desk import MachineDesk, by_station
from bastler.app.theme import ROLES, colour, sans, tool_hue
from bastler.language import tr
from bastler.live.grown import GrownPart
from bastler.shapes.kinds import Region
from bastler.tools import Tool

MARGIN, GAP = 34.0, 26.0
FEELER_MM = 3.0
Map = Callable[[float, float], QPointF]


class MachineSheet(QWidget):
    """Milled parts from above and cut along the tool, turned ones in half section."""

    def __init__(self, desk: MachineDesk) -> None:
        super().__init__()
        self.desk = desk
        self.setMinimumHeight(120)
        self.setAccessibleName(tr("The part in the machine"))
        self._images: tuple[GrownPart, dict[int, QImage]] | None = None
        for signal in (desk.moved, desk.grown, desk.changed):
            signal.connect(self.update)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        with painting(self) as painter:
            painter.fillRect(self.rect(), QColor(ROLES.paper))
            if not self.desk.planned or self.desk.status is None:
                return
            (self._turned if self.desk.turns else self._milled)(painter)

    # -- turned -----------------------------------------------------------------------------------------------------

    def _turned(self, painter: QPainter) -> None:
        around, held = self.desk.held.turned, self.desk.held
        z0, _, z1, outer = around.raw.bounds
        left, right = max(z0, around.jaws_at - held.mm(14.0)), z1 + held.mm(26.0)
        room_x, room_y = self.width() - 2 * MARGIN, self.height() - 2 * 12.0
        s = min(room_x / max(right - left, 1e-6), room_y / (2 * outer + held.mm(30.0)))
        x0 = MARGIN + (room_x - (right - left) * s) / 2 - left * s
        y0 = 12.0 + (outer + held.mm(26.0)) * s

        def to(z: float, r: float) -> QPointF:
            return QPointF(x0 + z * s, y0 - r * s)

        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(QColor(ROLES.jaw))
        for _, region in around.keep_out:
            for sign in (1.0, -1.0):
                painter.drawPath(region_path(region, _flipped(to, sign)))
        if self.desk.holds_it:
            self._section(painter, to, around.raw)
        painter.setPen(axis_pen())
        painter.drawLine(to(left, 0.0), to(right, 0.0))
        zero_mark(painter, to(0.0, 0.0))
        self._turning_tool(painter, to)

    def _section(self, painter: QPainter, to: Map, raw: Region) -> None:
        part = self.desk.part
        section = part.section if part is not None and part.section is not None else raw
        body = region_path(section, to)
        painter.fillPath(body, QColor(ROLES.metal))
        hatch(painter, body, ROLES.hatch)
        lower = region_path(section, _flipped(to, -1.0))
        painter.fillPath(lower, QColor(ROLES.metal_deep))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.drawPath(body)
        painter.drawPath(lower)
        skin = section.boundary.intersection(raw.boundary.buffer(self.desk.held.mm(0.002)))
        pen = QPen(QColor(ROLES.blue), 4.0)
        pen.setCapStyle(Qt.PenCapStyle.FlatCap)
        painter.setPen(pen)
        for line in getattr(skin, "geoms", [skin]):
            if line.geom_type != "LineString" or line.is_empty:
                continue
            for (z0, r0), (z1, r1) in itertools.pairwise(line.coords):
                if max(r0, r1) > self.desk.held.mm(0.01):  # not along the axis
                    painter.drawLine(to(z0, r0), to(z1, r1))
                    painter.drawLine(to(z0, -r0), to(z1, -r1))

    def _turning_tool(self, painter: QPainter, to: Map) -> None:
        status = self.desk.status
        tool = by_station(self.desk.used(), status.tool) if status is not None else None
        if tool is None or status is None:
            return
        r, _, z = status.places
        draw_tool_at(painter, tool, (z, r), to)
        self._point(painter, to(z, r))

    def _point(self, painter: QPainter, at: QPointF) -> None:
        painter.setPen(QPen(QColor("white"), 1.2))
        painter.setBrush(QColor(ROLES.focus))
        painter.drawEllipse(at, 5.0, 5.0)

    # -- milled -----------------------------------------------------------------------------------------------------

    def _milled(self, painter: QPainter) -> None:
        flat = self.desk.held.flat
        boxes = [flat.stock, *flat.jaws]
        shifts = [p.shift for p in self.desk.held.parts] or [(0.0, 0.0, 0.0)]
        x0 = min(b.lo[0] + s[0] for b in boxes for s in shifts)
        x1 = max(b.hi[0] + s[0] for b in boxes for s in shifts)
        y0 = min(b.lo[1] + s[1] for b in boxes for s in shifts)
        y1 = max(b.hi[1] + s[1] for b in boxes for s in shifts)
        z0, z1 = flat.stock.lo[2], flat.stock.hi[2] + (flat.stock.hi[2] - flat.stock.lo[2]) * 0.8
        wide, high = self.width() - 2 * MARGIN, self.height() - 2 * 10.0 - GAP
        s = min(wide / (x1 - x0), high / ((y1 - y0) + (z1 - z0)))
        left = (self.width() - (x1 - x0) * s) / 2 - x0 * s
        top = 10.0 + y1 * s
        front = 10.0 + (y1 - y0) * s + GAP + z1 * s

        def plan(x: float, y: float) -> QPointF:
            return QPointF(left + x * s, top - y * s)

        def side(x: float, z: float) -> QPointF:
            return QPointF(left + x * s, front - z * s)

        self._jaws(painter, plan, side, shifts)
        for at, shift in enumerate(shifts if self.desk.holds_it else ()):
            self._block(painter, plan, side, at, shift)
        if len(shifts) > 1:
            self._numbers(painter, plan, shifts)
        zero_mark(painter, plan(0.0, 0.0))
        zero_mark(painter, side(0.0, 0.0), 6.0)
        self._milling_tool(painter, plan, side, s, front - z1 * s)

    def _jaws(self, painter: QPainter, plan: Map, side: Map, shifts: Any) -> None:
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(QColor(ROLES.jaw))
        for dx, dy, _ in shifts:
            for box in self.desk.held.flat.jaws:
                a, b = plan(box.lo[0] + dx, box.hi[1] + dy), plan(box.hi[0] + dx, box.lo[1] + dy)
                painter.drawRect(QRectF(a, b))
        for box in self.desk.held.flat.jaws[:1]:
            low = max(box.lo[2], self.desk.held.flat.stock.lo[2])
            painter.drawRect(QRectF(side(box.lo[0], box.hi[2]), side(box.hi[0], low)))

    def _block(self, painter: QPainter, plan: Map, side: Map, at: int, shift: tuple[float, float, float]) -> None:
        """One part: from above as it has grown; the one that is looked at from the front too."""
        stock, part = self.desk.held.flat.stock, self.desk.part
        dx, dy, _ = shift
        target = QRectF(plan(stock.lo[0] + dx, stock.hi[1] + dy), plan(stock.hi[0] + dx, stock.lo[1] + dy))
        seen = at == self.desk.at
        if part is None or at >= len(part.heights):
            painter.setPen(QPen(QColor(ROLES.ink), 1.0))
            painter.setBrush(QColor(ROLES.blue))
            (painter.drawEllipse if stock.round else painter.drawRect)(target)
            if seen:
                painter.drawRect(QRectF(side(stock.lo[0] + dx, stock.hi[2]), side(stock.hi[0] + dx, stock.lo[2])))
            return
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(target, self._picture(part, at))
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        (painter.drawEllipse if stock.round else painter.drawRect)(target)
        if seen:
            self._front(painter, side, plan, part, at)

    def _numbers(self, painter: QPainter, plan: Map, shifts: Any) -> None:
        """Which part is which on the table; that which is looked at stands out."""
        stock = self.desk.held.flat.stock
        painter.setFont(sans(12, bold=True))
        for at, (dx, dy, _) in enumerate(shifts):
            place = plan(stock.lo[0] + dx, stock.hi[1] + dy)
            box = QRectF(place.x() + 4, place.y() + 4, 22, 20)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(ROLES.focus if at == self.desk.at else ROLES.ink))
            painter.drawRoundedRect(box, 4, 4)
            painter.setPen(QColor("white"))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(at + 1))

    def _picture(self, part: GrownPart, at: int) -> QImage:
        """From above: blue where nobody has cut, metal the darker the deeper, steps as lines."""
        if self._images is None or self._images[0] is not part:
            self._images = (part, {})
        if at in self._images[1]:
            return self._images[1][at]
        heights = np.asarray(part.heights[at], float)
        deep = np.clip((part.top - heights) / max(part.top - part.bottom, 1e-9), 0.0, 1.0)
        light = 226.0 - 96.0 * deep
        rgb = np.repeat(light[..., None], 3, axis=2) * np.array((0.99, 1.0, 1.005))
        blue, paper = QColor(ROLES.blue), QColor(ROLES.paper)
        rgb[heights >= part.top - 1e-6] = blue.getRgb()[:3]
        rgb[heights <= part.bottom + 1e-6] = paper.getRgb()[:3]
        edge = 0.02 * max(part.top - part.bottom, 1e-9)
        steps = np.zeros(heights.shape, bool)
        steps[:, 1:] |= np.abs(np.diff(heights, axis=1)) > edge
        steps[1:, :] |= np.abs(np.diff(heights, axis=0)) > edge
        rgb[steps] *= 0.55
        data = np.ascontiguousarray(np.clip(rgb, 0, 255).astype(np.uint8)[::-1])
        ny, nx, _ = data.shape
        image = QImage(data.tobytes(), nx, ny, 3 * nx, QImage.Format.Format_RGB888).copy()
        self._images[1][at] = image
        return image

    def _front(self, painter: QPainter, side: Map, plan: Map, part: GrownPart, at: int) -> None:
        """Cut open along X where the tool is."""
        dx, dy, _ = self.desk.held.parts[at].shift if self.desk.held.parts else (0.0, 0.0, 0.0)
        x0, y0, x1, y1 = part.box[0] + dx, part.box[1] + dy, part.box[2] + dx, part.box[3] + dy
        ny, nx = part.heights[at].shape
        y = self._tool_place()[1]
        y = min(max(y, y0), y1) if y0 <= y <= y1 else (y0 + y1) / 2
        row = np.asarray(part.heights[at], float)[min(int((y - y0) / (y1 - y0) * ny), ny - 1)]
        xs = x0 + (np.arange(nx) + 0.5) * (x1 - x0) / nx
        points = [side(x0, part.bottom), side(x0, float(row[0]))]
        for k in range(nx):
            if k and row[k] != row[k - 1]:
                edge = float(xs[k] + xs[k - 1]) / 2
                points += [side(edge, float(row[k - 1])), side(edge, float(row[k]))]
        points += [side(x1, float(row[-1])), side(x1, part.bottom)]
        body = QPolygonF(points)
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.setBrush(QColor(ROLES.metal))
        painter.drawPolygon(body)
        painter.setPen(QPen(QColor(ROLES.blue), 4.0))
        step = (x1 - x0) / nx
        raw = row >= part.top - 1e-6
        for k in np.flatnonzero(raw).tolist():
            painter.drawLine(side(float(xs[k]) - step / 2, part.top), side(float(xs[k]) + step / 2, part.top))
        painter.setPen(axis_pen())
        a, b = plan(x0, y), plan(x1, y)
        painter.drawLine(QPointF(a.x() - 12, a.y()), QPointF(b.x() + 12, b.y()))

    def _tool_place(self) -> tuple[float, float, float]:
        """Where the tip is, from the first part's zero."""
        status = self.desk.status
        if status is None:
            return (0.0, 0.0, 0.0)
        return self.desk.tip_place(status)

    def _milling_tool(self, painter: QPainter, plan: Map, side: Map, s: float, top: float) -> None:
        """From above, and from the front below the pixel row `top`, where the view from the front begins."""
        status = self.desk.status
        if status is None:
            return
        x, y, z = self._tool_place()
        tool = by_station(self.desk.used(), status.tool)
        radius = tool.diameter / 2 if isinstance(tool, Tool) else FEELER_MM * self.desk.mm
        tint = tool_hue(status.tool) if status.tool else ROLES.focus
        painter.setPen(QPen(QColor(tint), 2.0))
        painter.setBrush(colour(tint, 70))
        painter.drawEllipse(plan(x, y), radius * s, radius * s)
        self._point(painter, plan(x, y))
        painter.setClipRect(QRectF(0.0, top, self.width(), self.height() - top))
        painter.setPen(QPen(QColor(tint), 2.0))
        painter.setBrush(colour(tint, 70))
        long = tool.flute_length if isinstance(tool, Tool) else 6 * radius
        painter.drawRect(QRectF(side(x - radius, z + long), side(x + radius, z)))
        if isinstance(tool, Tool):
            painter.setBrush(colour(ROLES.soft, 120))
            painter.setPen(QPen(QColor(ROLES.soft), 1.0))
            h = tool.holder.diameter / 2
            painter.drawRect(QRectF(side(x - h, z + tool.stick_out + tool.holder.length), side(x + h, z + tool.stick_out)))
        painter.setClipping(False)


def _flipped(to: Map, sign: float) -> Map:
    return lambda z, r: to(z, sign * r)
