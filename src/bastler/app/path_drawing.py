"""How a tool's path is drawn, whatever the plane: from every side that its drawing shows, the feeds and rapids of each stage, and
the move at the cursor lit."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPainterPath, QPen, QTransform

from bastler.app.drafting import zero_mark
from bastler.app.session import Session
from bastler.app.theme import ROLES, sans, tool_hue
from bastler.language import tr
from bastler.live.shown import ShownProof, ShownRun, ShownStage
from bastler.nc import RAPID
from bastler.shapes.kinds import Floats, Ints

MOST_DRAWN = 60_000
"""Segments of one stage that are drawn; of longer ones every n-th."""
REACH = 9.0
"""How near to a path a click has to be, in pixels."""
Direction = tuple[float, float, float]
Side = tuple[Direction, Direction]
"""The directions on the part that go right and up."""
ALONG_X, ALONG_Y, ALONG_Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)


def seen(places: Floats, side: Side) -> Floats:
    """Places (n, 3) as they are seen from a side, (n, 2)."""
    found: Floats = places @ np.array(side).T
    return found


def lines_seen(segments: Floats, side: Side) -> Floats:
    """Segments (n, 6) as they are seen from a side, (n, 4)."""
    return np.column_stack([seen(segments[:, :3], side), seen(segments[:, 3:], side)])


class Pane(Protocol):
    """The path view as its drawings know it: how large it is and what is seen; it learns the scale and the map to pixels."""

    session: Session
    zoom: float
    pan: QPointF
    scale: float
    to_top: QTransform

    def update(self) -> None: ...
    def width(self) -> int: ...
    def height(self) -> int: ...


class PathDrawing:
    """A kind of plane's path. A subclass lays it out, says from which `sides` it is seen, and paints stock and tool."""

    words: str
    faint = 0.28
    """How much of the stages of other steps is seen."""

    def __init__(self, view: Pane) -> None:
        self.view, self.session = view, view.session
        self._known: dict[int, tuple[ShownRun, list[tuple[QPainterPath, QPainterPath]]]] = {}

    def layout(self) -> None:
        """The scale, and the maps to pixels."""
        raise NotImplementedError

    def sides(self) -> Sequence[tuple[Side, QTransform]]:
        """The sides that it is seen from, each with its map to pixels."""
        raise NotImplementedError

    def paint_stock(self, painter: QPainter, proof: ShownProof) -> None:
        """What the path runs through."""
        raise NotImplementedError

    def paint_tool(self, painter: QPainter, stage: ShownStage) -> None:
        """The tool of a stage at the cursor."""
        raise NotImplementedError

    def shows(self, proof: ShownProof, stage: ShownStage) -> bool:
        """Is a stage of this kind of plane? What is of another is not drawn."""
        return True

    def forget(self, proof: ShownProof | None) -> None:
        """Keeps only the paths that another proof shares."""
        alive = {id(s.run) for s in proof.stages} if proof else set()
        self._known = {key: paths for key, paths in self._known.items() if key in alive}

    def paint(self, painter: QPainter, proof: ShownProof) -> None:
        self.paint_stock(painter, proof)
        for stage in proof.stages:
            if stage.run.tool is not None and self.shows(proof, stage):
                self._stage(painter, proof, stage)
        moment = self.session.moment
        pointed = proof.stage_of(self.session.pointed)
        if pointed is not None and self.shows(proof, pointed):
            self._move(painter, pointed, self.session.pointed - pointed.begin)
        if moment.stage >= 0 and moment.time < proof.total and self.shows(proof, proof.stages[moment.stage]):
            stage = proof.stages[moment.stage]
            self._move(painter, stage, moment.move - stage.begin)
            self.paint_tool(painter, stage)
        for _, to in self.sides():
            zero_mark(painter, to.map(QPointF(0, 0)), 7)
        painter.setFont(sans(12, italic=True))
        painter.setPen(QColor(ROLES.soft))
        box = QRectF(8, self.view.height() - 60, self.view.width() - 16, 54)
        painter.drawText(
            box, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom | Qt.TextFlag.TextWordWrap, tr(self.words)
        )

    def _stage(self, painter: QPainter, proof: ShownProof, stage: ShownStage) -> None:
        mine = not self.session.on_step or self.session.selected == stage.step
        painter.setOpacity((1.0 if mine else self.faint) * (0.6 if self.session.stale else 1.0))
        rapids = QPen(QColor(ROLES.soft), 0.9)
        rapids.setDashPattern([5, 4])
        for (feed, rapid), (side, to) in zip(self._paths(proof, stage), self.sides(), strict=True):
            here = _shifted(stage, side, to)
            painter.setPen(rapids)
            painter.drawPath(here.map(rapid))
            painter.setPen(QPen(QColor(tool_hue(max(stage.tool, 1))), 1.3))
            painter.drawPath(here.map(feed))
        painter.setOpacity(1.0)

    def _paths(self, proof: ShownProof, stage: ShownStage) -> list[tuple[QPainterPath, QPainterPath]]:
        """Feeds and rapids of a stage from every side, as the part sees them."""
        key = id(stage.run)
        if key not in self._known:
            kinds = proof.trace.kind[stage.begin : stage.end]
            self._known[key] = (stage.run, [_drawn(stage, kinds, side) for side, _ in self.sides()])
        return self._known[key][1]

    def move_at(self, proof: ShownProof, at: QPointF) -> int:
        """The move of the trace whose path is nearest to a point, of the selected step where it has one there; -1 for none."""
        shown = [s for s in proof.stages if self.shows(proof, s)]
        found = self._nearest([s for s in shown if s.step == self.session.selected], at)
        return found if found >= 0 else self._nearest(shown, at)

    def _nearest(self, stages: Sequence[ShownStage], at: QPointF) -> int:
        best, found = REACH, -1
        for stage in stages:
            if stage.run.tool is None:
                continue
            for side, to in self.sides():
                back, ok = _shifted(stage, side, to).inverted()
                if not ok or not len(stage.run.segments):
                    continue
                p, scale = back.map(at), self.view.scale
                away = _distances(lines_seen(stage.run.segments, side), p.x(), p.y()) * scale
                k = len(away) - 1 - int(away[::-1].argmin())
                if away[k] < best:
                    best, found = float(away[k]), stage.begin + int(stage.run.owner[k])
        return found

    def _move(self, painter: QPainter, stage: ShownStage, move: int) -> None:
        """The move at the cursor."""
        painter.setPen(QPen(QColor(ROLES.focus), 3.2, cap=Qt.PenCapStyle.RoundCap))
        for side, to in self.sides():
            here = _shifted(stage, side, to)
            for a, b, c, d in lines_seen(stage.run.segments[stage.run.owner == move], side).tolist():
                painter.drawLine(here.map(QPointF(a, b)), here.map(QPointF(c, d)))


def _shifted(stage: ShownStage, side: Side, to: QTransform) -> QTransform:
    """The map of a stage, which may be of another part on the table."""
    ((u, v),) = seen(np.array([stage.shift]), side).tolist()
    return QTransform.fromTranslate(u, v) * to


def _distances(lines: Floats, x: float, y: float) -> Floats:
    """How far a place is from each of some lines (n, 4)."""
    a, d = lines[:, :2], lines[:, 2:] - lines[:, :2]
    to = np.array([x, y]) - a
    t = np.clip((to * d).sum(axis=1) / np.maximum((d * d).sum(axis=1), 1e-18), 0.0, 1.0)
    found: Floats = np.hypot(*(to - d * t[:, None]).T)
    return found


def _drawn(stage: ShownStage, kinds: Ints, side: Side) -> tuple[QPainterPath, QPainterPath]:
    feed, rapid = QPainterPath(), QPainterPath()
    segments, owner = stage.run.segments, stage.run.owner
    stride = max(1, len(segments) // MOST_DRAWN)
    for (a, b, c, d), move in zip(lines_seen(segments[::stride], side).tolist(), owner[::stride].tolist(), strict=True):
        path = rapid if kinds[move] == RAPID else feed
        at = path.currentPosition()
        if path.elementCount() == 0 or abs(at.x() - a) > 1e-9 or abs(at.y() - b) > 1e-9:
            path.moveTo(a, b)
        path.lineTo(c, d)
    return feed, rapid
