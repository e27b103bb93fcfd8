"""The sheet of turned work: the classic half section, above the centre line the cut, below it the outside.

Blue is untouched stock, hatching is material in section, orange is what the step takes. At the strip's cursor the tool stands
in its true shape. Zoomed in, lines and text keep their size.
"""

from __future__ import annotations

import itertools
from typing import Any

import shapely
import shapely.affinity
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF

from bastler.app.dimensions import Drafter
from bastler.app.drafting import FOOT, axis_pen, between, hatch, region_path, zero_mark
from bastler.app.paper import Margins, Paper
from bastler.app.route import draw_level
from bastler.app.theme import ROLES, colour, sans, tool_hue
from bastler.job.half_cut import HalfCut
from bastler.language import sayable, tr
from bastler.live.shown import Look, Turned
from bastler.proof.turn.sweep import body_of, edges_of
from bastler.steps import Dim, TurnSketch
from bastler.tools import AnyTool

LANE = 26.0


class HalfSection:
    """Lays out and paints a turned part on the sheet."""

    of_stock = sayable("above the centre line section, below outside")
    of_step = sayable("half section")
    diameter_sign = ""
    """The drafter puts it before all of them."""
    margins = Margins(46.0, 60.0, 128.0, 74.0)
    follows_cursor = True
    """The tool stands at the strip's cursor."""

    def __init__(self, sheet: Paper) -> None:
        self.sheet = sheet
        self.session = sheet.session

    @property
    def skin(self) -> str:
        """The colour of what nobody has touched, seen from outside."""
        return ROLES.blue

    @property
    def jaw(self) -> str:
        """The colour of what is kept out."""
        return ROLES.jaw

    # -- layout -------------------------------------------------------------------------------------------------

    def layout(self) -> None:
        """The scale, and the map from (z, r) to pixels."""
        sheet, held, around = self.sheet, self.session.held, self.session.held.turned
        z0, _, z1, outer = around.raw.bounds
        left = max(z0, around.jaws_at - held.mm(14.0))
        right = z1 + held.mm(4.0)
        span, high = max(right - left, 1e-6), 2 * max(outer, 1e-6)
        own = self.margins
        room_x = max(sheet.width() - own.left - own.right, 50.0)
        room_y = max(sheet.height() - own.top - own.bottom, 50.0)
        s = min(room_x / span, room_y / high) * sheet.zoom
        x0 = own.left + (room_x - span * s) / 2 - left * s + sheet.pan.x()
        y0 = own.top + room_y / 2 + sheet.pan.y()
        sheet.scale, sheet.spots = s, {}
        sheet.to_plan = sheet.to_section = lambda x, y: QPointF(x0 + x * s, y0 - y * s)

    def sketch(self) -> TurnSketch:
        """Of the selected card; a step that cannot be sketched yet shows the stock alone."""
        found = self.sheet.look.sketch
        if not isinstance(found, TurnSketch):
            return TurnSketch()
        return found if self.session.on_step else TurnSketch(dims=self.sheet.own_dims(found.dims))

    # -- painting -----------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        self._kept_out(painter)
        cut = self.sheet.look.half_cut
        if cut is not None:
            self._lower(painter, cut)
            self._upper(painter, cut)
            self._threads(painter, self.sheet.look)
        self._axis(painter)
        sketch = self.sketch()
        self._lines(painter, sketch)
        self._faults(painter)
        self._tool(painter)
        self._dims(painter, sketch)
        self._captions(painter)

    def _map(self, region: Any) -> QPainterPath:
        return region_path(region, self.sheet.to_plan)

    def _kept_out(self, painter: QPainter) -> None:
        around = self.session.held.turned
        painter.setPen(QPen(QColor(ROLES.ink), 1.0))
        painter.setBrush(QColor(self.jaw))
        goes_along = bool(self.session.on_step and self.sheet.look.beside)  # a guide bush is drawn where the step has it
        for name, region in (*around.keep_out, *self._opposite(around)):
            if name != "bush" or not goes_along:
                self._both_sides(painter, region)
        for region in self.sheet.look.beside if self.session.on_step else ():
            self._both_sides(painter, region)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def _both_sides(self, painter: QPainter, region: Any) -> None:
        """A half section above the centre line and below it."""
        for sign in (1.0, -1.0):
            painter.drawPath(self._map(shapely.transform(region, lambda p, s=sign: p * (1.0, s))))

    def _opposite(self, around: Turned) -> list[tuple[str, Any]]:
        """The second chuck, where it has hold of the work behind the step that hands it over."""
        two, job = around.second, self.session.job
        order = [step.id for step in job.holding_of(self.session.held_id).steps]
        if two is None or self.session.selected not in order or order.index(self.session.selected) <= order.index(two.step):
            return []
        return [(name, shapely.affinity.translate(region, two.gripped)) for name, region in two.regions]

    def _upper(self, painter: QPainter, cut: HalfCut) -> None:
        """The section: hatched, blue along untouched skin, orange where the step cuts."""
        body = self._map(cut.stock)
        painter.fillPath(body, QColor(ROLES.metal))
        hatch(painter, body, ROLES.hatch)
        if cut.taken is not None:
            painter.fillPath(self._map(cut.taken), QColor(ROLES.removal))
        self._strokes(painter, cut.skin, QPen(QColor(ROLES.blue), 4.0, cap=Qt.PenCapStyle.FlatCap))
        painter.setPen(QPen(QColor(ROLES.ink), 1.3))
        painter.drawPath(body)
        if cut.fresh is not None:
            self._strokes(painter, cut.fresh, QPen(QColor(ROLES.focus), 2.2))

    def _strokes(self, painter: QPainter, lines: Any, pen: QPen) -> None:
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for line in getattr(lines, "geoms", [lines]):
            if line.geom_type in ("LineString", "LinearRing") and not line.is_empty:
                painter.drawPolyline(QPolygonF([self.sheet.to_plan(z, r) for z, r in line.coords]))

    def _lower(self, painter: QPainter, cut: HalfCut) -> None:
        """The outside: between every two lengths the outermost radius, blue where it is the stock's own skin."""
        outline = cut.outside
        points = [self.sheet.to_plan(z, -r) for z, r in outline]
        path = QPainterPath()
        path.addPolygon(QPolygonF([*points, self.sheet.to_plan(outline[-1][0], 0.0), self.sheet.to_plan(outline[0][0], 0.0)]))
        path.closeSubpath()
        painter.fillPath(path, QColor(ROLES.metal_deep))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for z0, z1, r in cut.rough:
            painter.fillRect(QRectF(self.sheet.to_plan(z0, 0.0), self.sheet.to_plan(z1, -r)), QColor(self.skin))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(ROLES.ink), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(path)
        painter.setPen(QPen(QColor(ROLES.soft), 0.8))
        for (z0, r0), (z1, r1) in itertools.pairwise(outline):
            if abs(r0 - r1) > self.session.held.mm(0.1):
                for z, r in ((z0, r0), (z1, r1)):
                    painter.drawLine(self.sheet.to_plan(z, -r), self.sheet.to_plan(z, 0.0))

    def _threads(self, painter: QPainter, look: Look) -> None:
        """Threads by ISO 6410-1: the roots as a narrow line, a wide one where the full thread ends; of a bolt's in the section
        and at the outside, of a nut's in the section alone."""
        to = self.sheet.to_plan
        for line in look.threads:
            for sign in (1.0,) if line.inside else (1.0, -1.0):
                painter.setPen(QPen(QColor(ROLES.ink), 0.9))
                painter.drawLine(to(line.begin, sign * line.root), to(line.end, sign * line.root))
                painter.setPen(QPen(QColor(ROLES.ink), 1.5))
                inner = line.root if sign > 0 else 0.0
                painter.drawLine(to(line.end, sign * line.crest), to(line.end, sign * inner))

    # -- hands --------------------------------------------------------------------------------------------------

    def grip(self, at: QPointF) -> bool:
        """Nothing on a half section can be dragged: it lies on the axis."""
        return False

    def drag(self, to: QPointF) -> None:
        """Nothing is."""

    def feature(self) -> QRectF | None:
        """Where the selected step cuts."""
        cut = self.sheet.look.half_cut
        boxes = [cut.taken.bounds] if cut is not None and cut.taken is not None and not cut.taken.is_empty else []
        boxes += [(t.end, min(t.root, t.crest), t.begin, max(t.root, t.crest)) for t in self.sheet.look.makes]
        found = QRectF()
        for z0, r0, z1, r1 in boxes:
            found = found.united(QRectF(self.sheet.to_plan(z0, r1), self.sheet.to_plan(z1, r0)))
        return None if found.isEmpty() else found

    def _axis(self, painter: QPainter) -> None:
        ctx = self.session.held.turned
        painter.setPen(axis_pen())
        a, b = self.sheet.to_plan(ctx.raw.bounds[0], 0.0), self.sheet.to_plan(ctx.raw.bounds[2], 0.0)
        painter.drawLine(QPointF(max(a.x() - 24, 4), a.y()), QPointF(b.x() + 40, b.y()))
        zero_mark(painter, self.sheet.to_plan(0.0, 0.0))

    def _lines(self, painter: QPainter, sketch: TurnSketch) -> None:
        self.sheet.paint_outline(painter)
        if self.sheet.outline is not None:
            return
        painter.setPen(QPen(QColor(ROLES.focus), 2.2))
        for line in sketch.lines:
            painter.drawPolyline(QPolygonF([self.sheet.to_plan(z, r) for z, r in line]))

    def _faults(self, painter: QPainter) -> None:
        """Red is what the proof found left or gouged."""
        proof = self.session.proof
        selected = self.session.selected
        if self.session.stale or proof is None or not self.session.on_step:
            return
        for fault in proof.faults:
            if fault.kind == "left" and fault.step != selected:
                continue
            path = self._map(fault.region)
            painter.setPen(QPen(QColor(ROLES.stop), 1.6))
            painter.setBrush(colour(ROLES.stop, 90))
            painter.drawPath(path)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for remark in proof.remarks:
            if remark.place and remark.level != "note" and remark.step in ("", selected):
                at = self.sheet.to_plan(remark.place[2], remark.place[0])
                draw_level(painter, remark.level, at.x(), at.y() - 16, 13)

    def _tool(self, painter: QPainter) -> None:
        """The tool at the strip's cursor."""
        proof, moment = self.session.proof, self.session.moment
        if proof is None or proof.plane != "turned" or moment.stage < 0 or moment.time >= proof.total:
            return
        tool = proof.stages[moment.stage].run.tool
        if tool is not None:
            draw_tool_at(painter, tool, (moment.tip[2], moment.tip[0]), self.sheet.to_plan)

    # -- dimensions -----------------------------------------------------------------------------------------------

    def _dims(self, painter: QPainter, sketch: TurnSketch) -> None:
        sheet, lit = self.sheet, self.session.focus
        bounds = QRectF(sheet.rect()).adjusted(6, 6, -6, -30)
        ctx = self.session.held.turned
        top = sheet.to_plan(0.0, float(ctx.raw.bounds[3])).y()
        frame = QRectF(sheet.to_plan(ctx.raw.bounds[0], ctx.raw.bounds[3]), sheet.to_plan(ctx.raw.bounds[2], -ctx.raw.bounds[3]))
        drafter = Drafter(painter, sheet.to_plan, sheet.to_plan, frame, frame, bounds)
        lanes = 0
        shown: set[str] = set()
        for dim in sorted(sketch.dims, key=lambda d: (abs(d.b[0] - d.a[0]), d.field)):
            text = sheet.dim_text(dim.field)
            if not text or dim.field in shown:
                continue
            shown.add(dim.field)
            is_lit = self.session.address_of(dim.field) == lit
            drafter.lit = dim.field if is_lit else drafter.lit
            painter.setPen(QPen(QColor(ROLES.focus if is_lit else ROLES.ink), 1.6 if is_lit else 1.0))
            if dim.how == "length":
                y = max(top - 22.0 - LANE * lanes, 16.0)
                lanes += 1
                drafter.length(dim, y, text)
            else:
                self._note(drafter, dim, text)
        drafter.finish()
        sheet.labels = drafter.labels

    def _hollow(self, z: float, r: float) -> bool:
        """Is there material round a place, and none within: does a diameter belong to a bore?"""
        cut, mm = self.sheet.look.half_cut, self.session.held.mm(1.0)
        if cut is None:
            return False
        left = cut.stock if cut.taken is None else cut.stock.difference(cut.taken)
        for beside in (-0.3 * mm, 0.3 * mm):
            round_it, within = (shapely.Point(z + beside, q) for q in (r + 0.3 * mm, max(r - 1.5 * mm, 0.4 * r)))
            if left.intersects(round_it) and not left.intersects(within):
                return True
        return False

    def _note(self, drafter: Drafter, dim: Dim, text: str) -> None:
        """A diameter where it is seen: outside on the lower half, of a bore in the section; a radius or edge beside its place, a
        thread by its name."""
        z, r = (dim.a[0] + dim.b[0]) / 2, (dim.a[1] + dim.b[1]) / 2
        if dim.how in ("diameter", "name") and self._hollow(z, dim.b[1]):
            drafter.half_diameter(dim, z, dim.b[1], f"Ø{text}" if dim.how == "diameter" else text)
        elif dim.how == "diameter":
            end = dim.b[1]
            at = self.sheet.to_plan(z, -end)
            drafter.leader(dim, at, QPointF(at.x(), at.y() + 24), f"Ø{text}")
        elif dim.how == "name":
            at = self.sheet.to_plan(z, -r)
            drafter.leader(dim, at, QPointF(at.x(), at.y() + 48), text)
        else:
            at = self.sheet.to_plan(z, r)
            drafter.leader(dim, at, QPointF(at.x() + 26, at.y() - 20), f"R{text}" if dim.how == "radius" else text)

    def words(self) -> str:
        """What stands below the drawing."""
        if not self.session.on_step:
            holds = tr("the guide bush") if self.session.job.card.bush is not None else tr("the chuck")
            return tr("Above the centre line the section, below it the outside. Grey is {holds}.", holds=holds)
        return tr("Blue is untouched stock. Bright is cut. Orange is this step. Red is what the proof found.")

    def _captions(self, painter: QPainter) -> None:
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(ROLES.soft))
        words = self.words()
        room = QRectF(8, self.sheet.height() - 46, self.sheet.width() - 16, 40)
        box = painter.boundingRect(room, FOOT, words)
        painter.fillRect(box.adjusted(-12, -1, 12, 1), colour(ROLES.paper, 235))
        painter.drawText(room, FOOT, words)


def draw_tool_at(painter: QPainter, tool: AnyTool, point: tuple[float, float], to: Any) -> None:
    """Insert and holder in true shape with the point at (z, r)."""
    painter.setPen(QPen(QColor(ROLES.ink), 1.1))
    painter.setBrush(colour(ROLES.body, 215))
    for part in body_of(tool):
        painter.drawPolygon(QPolygonF([to(z + point[0], r + point[1]) for z, r in part]))
    painter.setBrush(between(tool_hue(tool.station), ROLES.edge, 0.55))
    for part in edges_of(tool):
        painter.drawPolygon(QPolygonF([to(z + point[0], r + point[1]) for z, r in part]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    at = to(*point)
    painter.setPen(QPen(QColor(ROLES.focus), 1.6))
    painter.drawLine(QPointF(at.x() - 5, at.y()), QPointF(at.x() + 5, at.y()))
    painter.drawLine(QPointF(at.x(), at.y() - 5), QPointF(at.x(), at.y() + 5))
