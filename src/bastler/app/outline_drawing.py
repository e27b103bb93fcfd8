"""An outline on the sheet as it grows: what is known drawn, what is half known dashed, what may be as ghosts to be clicked."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen, QPolygonF

from bastler.app.theme import ROLES, colour, sans
from bastler.shapes import AnyOutline, AnySegment, Drawn, PlanOutline, Segment
from bastler.shapes.chain import length_of, middle_of, points_on
from bastler.shapes.outline import SAME_FIELDS, fields_of
from bastler.shapes.solver.report import Worked
from bastler.units import Kind, Unit, number_text

Map = Callable[[float, float], QPointF]
REACH = 9.0
"""How near, in pixels, a click has to be to a segment."""
RAY = 4000.0
TAGS = {"length": "L ", "angle": "∠ ", "radius": "R", "sweep": "↷ "}


class OutlineDrawing:
    """Paints one outline and knows what lies under a point."""

    def __init__(self, outline: AnyOutline, drawn: Drawn, to_pixels: Map, unit: Unit) -> None:
        self.outline, self.drawn, self.to, self.unit = outline, drawn, to_pixels, unit
        a, b = to_pixels(0.0, 0.0), to_pixels(1.0, 0.0)
        self.scale = max(math.hypot(b.x() - a.x(), b.y() - a.y()), 1e-6)
        self.ghosts: list[tuple[int, QPolygonF]] = []

    def line(self, segments: Sequence[Segment]) -> QPolygonF:
        return QPolygonF([self.to(u, v) for u, v in points_on(segments, 0.3 / self.scale)])

    # -- painting ---------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter, selected: int) -> None:
        """The whole outline; the selected segment stands out, with what is given of it."""
        solution = self.drawn.solution
        painter.save()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        self._ghosts(painter)
        for k, worked in enumerate(solution.worked):
            if worked.segment is None and solution.state != "ambiguous":
                self._half_known(painter, worked, lit=k == selected)
        for segment, owner, corner in zip(self.drawn.chain, self.drawn.owners, self.drawn.corners, strict=True):
            lit = owner == selected and selected >= 0
            painter.setPen(QPen(QColor(ROLES.focus), 3.6 if lit and not corner else 2.0))
            painter.drawPolyline(self.line([segment]))
        self._points(painter)
        if 0 <= selected < len(solution.worked) and isinstance(self.outline, PlanOutline):
            self._tag(painter, selected)
        painter.restore()

    def _points(self, painter: QPainter) -> None:
        """Start and ends that are known; the start is larger and shows the way round."""
        worked = self.drawn.solution.worked
        painter.setPen(QPen(QColor(ROLES.focus), 1.2))
        painter.setBrush(QColor(ROLES.field))
        for w in worked:
            if w.end is not None:
                painter.drawEllipse(self.to(*w.end), 2.6, 2.6)
        start = worked[0].start if worked else None
        if start is None and None not in self.outline.start:
            start = self.outline.start  # type: ignore[assignment]
        if start is not None:
            painter.setBrush(QColor(ROLES.focus))
            painter.drawEllipse(self.to(*start), 4.6, 4.6)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _half_known(self, painter: QPainter, w: Worked, *, lit: bool) -> None:
        """A segment that is not whole: its line or circle as far as it is known, a question mark where it is open."""
        pen = QPen(QColor(ROLES.focus), 2.4 if lit else 1.6)
        pen.setDashPattern([5, 4])
        painter.setPen(pen)
        at: QPointF | None = None
        if w.line is not None:
            (u, v), (du, dv) = w.line
            far = 60.0 / self.scale
            back = w.start is None and w.end is not None
            a, b = self.to(u, v), self.to(u + (-du if back else du) * far, v + (-dv if back else dv) * far)
            painter.drawLine(a, b)
            at = b
        elif w.circle is not None:
            centre, r = w.circle
            painter.drawEllipse(self.to(*centre), r * self.scale, r * self.scale)
            at = self.to(centre[0], centre[1] + r)
        elif w.start is not None and w.end is not None:
            painter.drawLine(self.to(*w.start), self.to(*w.end))
            at = (self.to(*w.start) + self.to(*w.end)) / 2
        elif w.start is not None or w.end is not None:
            at = self.to(*(w.start or w.end or (0.0, 0.0)))
            at = QPointF(at.x() + 16, at.y() - 16)
        if at is not None:
            painter.setFont(sans(15, bold=True))
            painter.setPen(QColor(ROLES.focus))
            painter.drawText(QRectF(at.x() - 2, at.y() - 20, 20, 20), Qt.AlignmentFlag.AlignCenter, "?")

    def _ghosts(self, painter: QPainter) -> None:
        """The shapes to choose from, each with a number to click."""
        self.ghosts = []
        solution = self.drawn.solution
        if solution.state != "ambiguous":
            return
        for number, shape in enumerate(solution.candidates, 1):
            chain = [
                w.segment for w, common in zip(shape.worked, solution.worked, strict=True) if w.segment and not common.segment
            ]
            if not chain:
                continue
            pen = QPen(QColor(ROLES.blue), 2.0)
            pen.setDashPattern([2, 2.5])
            painter.setPen(pen)
            polygon = QPolygonF()
            for segment in chain:
                part = self.line([segment])
                painter.drawPolyline(part)
                polygon += part
            self.ghosts.append((number - 1, polygon))
            middle = self.to(*middle_of(max(chain, key=length_of)))
            painter.setPen(QPen(QColor(ROLES.blue), 1.4))
            painter.setBrush(QColor(ROLES.field))
            painter.drawEllipse(middle, 11.0, 11.0)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setFont(sans(13, bold=True))
            painter.drawText(QRectF(middle.x() - 11, middle.y() - 11, 22, 22), Qt.AlignmentFlag.AlignCenter, str(number))

    def _tag(self, painter: QPainter, k: int) -> None:
        """What is given of the selected segment, beside it."""
        w, given = self.drawn.solution.worked[k], self.outline.segments[k]
        if w.segment is None:
            return
        text = f"{k + 1}  " + "  ".join(self._given(given))
        at = self.to(*middle_of(w.segment))
        painter.setFont(sans(14))
        wide = painter.fontMetrics().horizontalAdvance(text.strip()) + 14
        box = QRectF(at.x() + 12, at.y() - 32, wide, 22)
        painter.setPen(QPen(QColor(ROLES.focus), 1.2))
        painter.setBrush(colour(ROLES.field, 235))
        painter.drawRoundedRect(box, 3, 3)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text.strip())
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _given(self, s: AnySegment) -> list[str]:
        names = fields_of(s)
        shown = []
        for key in (*names, *SAME_FIELDS):
            value = getattr(s, names.get(key, key))
            if value is None or key in ("qu", "qv", "far", "at"):
                continue
            kind = Kind.ANGLE if key in ("angle", "sweep") else Kind.LENGTH
            sign = TAGS.get(key) or {"d": "Ø", "cd": "cØ", "dd": "ΔØ"}.get(
                names.get(key, key), names.get(key, key).replace("d", "Δ") + " "
            )
            shown.append(f"{sign.upper() if len(sign) == 2 and sign[0] in 'xyz' else sign}{number_text(value, kind, self.unit)}")
        return shown

    # -- what lies under a point ------------------------------------------------------------------------------------

    def ghost_at(self, p: QPointF) -> int | None:
        """The number of the shape under a point."""
        near = [(pixels_between(polygon, p), k) for k, polygon in self.ghosts]
        best = min(near, default=(math.inf, -1))
        return best[1] if best[0] <= REACH else None

    def segment_at(self, p: QPointF) -> int | None:
        """The segment under a point."""
        near = [
            (pixels_between(self.line([s]), p), owner)
            for s, owner in zip(self.drawn.chain, self.drawn.owners, strict=True)
            if owner >= 0
        ]
        best = min(near, default=(math.inf, -1))
        return best[1] if best[0] <= REACH else None


def pixels_between(line: QPolygonF, p: QPointF) -> float:
    """From a point to a line of pixels."""
    points = [line.at(k) for k in range(line.size())]
    best = math.inf
    for a, b in itertools.pairwise(points):
        du, dv = b.x() - a.x(), b.y() - a.y()
        long = du * du + dv * dv
        t = 0.0 if long == 0 else min(max(((p.x() - a.x()) * du + (p.y() - a.y()) * dv) / long, 0.0), 1.0)
        best = min(best, math.hypot(p.x() - a.x() - t * du, p.y() - a.y() - t * dv))
    return best


def selected_segment(focus: str, ident: str) -> int:
    """The segment that an address points at, -1 for none."""
    parts = focus.partition(":")[2].split(".")
    right = focus.startswith("outline:") and len(parts) >= 3 and parts[0] == ident and parts[1] == "segments"
    return int(parts[2]) if right and parts[2].isdigit() else -1
