"""The vtk scene behind the solid view. Importing it needs OpenGL; only `solid` does, when it is first shown."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
import vtkmodules.qt

vtkmodules.qt.PyQtImpl = "PyQt6"

import itertools
from dataclasses import dataclass

import vtkmodules.vtkInteractionStyle
import vtkmodules.vtkRenderingOpenGL2
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QWidget
from vtkmodules.qt.QVTKRenderWindowInteractor import QVTKRenderWindowInteractor
from vtkmodules.util.numpy_support import numpy_to_vtk, numpy_to_vtkIdTypeArray, vtk_to_numpy
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPolyData
from vtkmodules.vtkInteractionStyle import vtkInteractorStyleTrackballCamera
from vtkmodules.vtkRenderingCore import (
    vtkActor,
    vtkCellPicker,
    vtkLight,
    vtkPolyDataMapper,
    vtkRenderer,
    vtkWindowToImageFilter,
)

from bastler.app.theme import ROLES
from bastler.app.tool_outline import tool_outline
from bastler.app.touch_bar import OVER, RIGHT, UNDER
from bastler.proof.faces import CUT, SECTION, Mesh, Others
from bastler.proof.turn.sweep import body_of, edges_of
from bastler.shapes import Box
from bastler.tools import AnyTool, Tool

COLOURS = np.array([[56, 103, 168], [206, 212, 216], [238, 205, 182]], dtype=np.uint8)
BY_CLASS = np.array([QColor(tint).getRgb()[:3] for tint in (*reversed(UNDER), RIGHT, *OVER)], dtype=np.uint8)
"""The colours of how far a face is from the finished part, from the most that is missing to the most that is to go."""
STILL = 4
"""Pixels that a finger may stray between going down and coming up."""
AROUND = 40
DEEPER = 0.32
"""How much darker the deepest cut face is drawn, so that floors part from the top."""


@dataclass(frozen=True)
class Picked:
    """A place on the part: from that part's own zero, with the normal there and how far the zero is from the first part's;
    `inside` on a plane that was cut open."""

    place: tuple[float, float, float]
    normal: tuple[float, float, float]
    shift: tuple[float, float, float]
    inside: bool


class SolidScene:
    """Part, jaws, tool and path as actors; the widget to put into a layout."""

    def __init__(self, parent: QWidget) -> None:
        self.widget = QVTKRenderWindowInteractor(parent)
        self.window = self.widget.GetRenderWindow()
        self.renderer = vtkRenderer()
        self.renderer.GradientBackgroundOn()
        # smoothing as a pass over the picture: many samples a pixel cost three times the frame without a GPU
        self.window.SetMultiSamples(0)
        self.renderer.UseFXAAOn()
        self.window.AddRenderer(self.renderer)
        # two lights that go with the eye: five of them took a third of the frame without a GPU
        self.renderer.AutomaticLightCreationOff()
        for place, strong in (((-0.6, 0.9, 0.8), 0.78), ((0.35, -0.2, 1.0), 0.6)):
            light = vtkLight()
            light.SetLightTypeToCameraLight()
            light.SetPosition(*place)
            light.SetFocalPoint(0.0, 0.0, 0.0)
            light.SetIntensity(strong)
            self.renderer.AddLight(light)
        style = vtkInteractorStyleTrackballCamera()
        style.AddObserver("StartInteractionEvent", lambda *_: self.turning(on=True))  # type: ignore[arg-type]  # names will do
        style.AddObserver("EndInteractionEvent", lambda *_: self.turning(on=False))  # type: ignore[arg-type]
        self.widget.SetInteractorStyle(style)
        # keys are the window's own: this widget would take some of them, and end the program with one
        self.widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.touched: Callable[[Picked], None] = lambda picked: None
        self._down = (0, 0)
        self._mesh: Mesh | None = None
        self._others: Others = Others()
        self._look = (1.0, True)
        self.part, self.jaws, self.opposite = self._actor(), self._actor(), self._actor()
        self.edges, self.hatching = self._actor(), self._actor()
        for actor, tint, width in ((self.edges, ROLES.ink, 1.2), (self.hatching, "#A7795C", 1.0)):
            actor.GetProperty().SetColor(*_rgb(tint))
            actor.GetProperty().SetLineWidth(width)
            actor.GetProperty().LightingOff()
            actor.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
            actor.GetMapper().SetRelativeCoincidentTopologyLineOffsetParameters(0, -12)
        # faces seen at a flat angle fall away within a pixel: they stand back by that, so that lines on them are unbroken
        self.part.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
        self.part.GetMapper().SetRelativeCoincidentTopologyPolygonOffsetParameters(2, 2)
        self.tool_parts = [self._actor() for _ in range(3)]
        self.path, self.now = self._actor(), self._actor()
        self.marks = self._actor()
        self.marks.GetProperty().SetPointSize(11)
        self.marks.GetProperty().LightingOff()
        for actor, width in ((self.path, 2.0), (self.now, 5.0)):
            actor.GetProperty().SetLineWidth(width)
            actor.GetProperty().LightingOff()
        self.take_colours()
        self.bounds = (0.0, 1.0, 0.0, 1.0, 0.0, 1.0)
        self.turned = False
        """Has a hand turned it since it was looked at from a side?"""
        self.others: list[Any] = []

    def turning(self, *, on: bool) -> None:
        """A hand begins to turn it, or ends: while it is turned nobody sees the last smoothing, which takes a third of the frame.
        What goes down and up again at one place has touched it."""
        x, y = self.widget.GetEventPosition()
        strayed = abs(x - self._down[0]) > STILL or abs(y - self._down[1]) > STILL
        self.renderer.SetUseFXAA(not on)
        if on:
            self._down = (x, y)
            owner = self.widget.parentWidget()
            if owner is not None:
                owner.setFocus()
        elif strayed:
            self.turned = True
            self.render()
        else:
            self.touch_at(x, y)

    def start(self) -> None:
        self.widget.Initialize()

    # -- hands --------------------------------------------------------------------------------------------------

    def touch_middle(self) -> None:
        """Touches what is in the middle of the view."""
        wide, high = self.window.GetSize()
        self.touch_at(wide // 2, high // 2)

    def touch_at(self, x: int, y: int) -> None:
        """Touches what is under a place of the view, in its own pixels from below; where nothing is, nothing."""
        picker = vtkCellPicker()
        picker.SetTolerance(0.0)
        picker.PickFromListOn()
        shown = self.others[: len(self._others.meshes)]
        for actor in (self.part, *shown):
            picker.AddPickList(actor)
        if not picker.Pick(x, y, 0, self.renderer):
            return
        actor, cell = picker.GetActor(), picker.GetCellId()
        found = next((k for k, other in enumerate(shown) if other is actor), -1)
        shift, mesh = (self._others.shift, self._mesh) if found < 0 else self._others.meshes[found]
        if mesh is None or cell < 0:
            return
        corners = mesh.triangles[cell]
        normal = mesh.normals[corners].mean(axis=0)
        place = [p - s for p, s in zip(picker.GetPickPosition(), shift, strict=True)]
        inside = bool((mesh.colour[corners] == SECTION).all())
        self.touched(Picked((place[0], place[1], place[2]), tuple(normal.tolist()), shift, inside))

    def turn_by(self, sideways: float, up: float) -> None:
        """Turns the view by so many degrees."""
        camera = self.renderer.GetActiveCamera()
        camera.Azimuth(sideways)
        camera.Elevation(up)
        camera.OrthogonalizeViewUp()
        self._moved()

    def zoom_by(self, factor: float) -> None:
        """Nearer, or further off."""
        self.renderer.GetActiveCamera().Dolly(factor)
        self._moved()

    def _moved(self) -> None:
        self.turned = True
        self.renderer.ResetCameraClippingRange()
        self.render()

    def close(self) -> None:
        self.window.Finalize()
        self.widget.close()

    def render(self) -> None:
        self.window.Render()

    def picture(self) -> QImage:
        """What is seen now."""
        shot = vtkWindowToImageFilter()
        shot.SetInput(self.window)
        shot.ReadFrontBufferOff()
        shot.Update()
        found = shot.GetOutput()
        wide, high, _ = found.GetDimensions()
        dots = np.ascontiguousarray(vtk_to_numpy(found.GetPointData().GetScalars()).reshape(high, wide, -1)[::-1, :, :3])
        return QImage(dots.tobytes(), wide, high, 3 * wide, QImage.Format.Format_RGB888).copy()

    def take_colours(self) -> None:
        """Those that are worn now, of all that does not change with the part: what does takes them when it is shown."""
        self.renderer.SetBackground(*_rgb(ROLES.sky))
        self.renderer.SetBackground2(*_rgb(ROLES.ground))
        self.edges.GetProperty().SetColor(*_rgb(ROLES.ink))
        self.marks.GetProperty().SetColor(*_rgb(ROLES.focus))

    def _actor(self) -> Any:
        actor = vtkActor()
        actor.SetMapper(vtkPolyDataMapper())
        actor.VisibilityOff()
        shine = actor.GetProperty()
        shine.SetAmbient(0.34)
        shine.SetDiffuse(0.66)
        shine.SetSpecular(0.06)
        shine.SetSpecularPower(18)
        self.renderer.AddActor(actor)
        return actor

    def show_part(self, mesh: Mesh) -> None:
        """The part from its faces."""
        data = _faces(mesh)
        self._mesh = mesh
        self.part.GetMapper().SetInputData(data)
        self.show_as(*self._look)
        self.bounds = data.GetBounds()
        for actor, lines in ((self.edges, mesh.edges), (self.hatching, mesh.hatching)):
            actor.SetVisibility(len(lines) > 0)
            if len(lines):
                actor.GetMapper().SetInputData(_polydata(lines, 2, lines=True))

    def show_as(self, solid: float, faces: bool) -> None:
        """So `solid`, from 0 to 1, or with no `faces` at all."""
        self._look = (solid, faces)
        for actor in (self.part, *self.others[: len(self._others.meshes)]):
            actor.SetVisibility(faces)
            actor.GetProperty().SetOpacity(solid)

    def show_marks(self, places: Sequence[tuple[float, float, float]]) -> None:
        """Points on the part that were touched."""
        self.marks.SetVisibility(len(places) > 0)
        if places:
            data, table, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
            for k, place in enumerate(places):
                table.InsertNextPoint(*place)
                cells.InsertNextCell(1, [k])
            data.SetPoints(table)
            data.SetVerts(cells)
            self.marks.GetMapper().SetInputData(data)
            self.marks.GetMapper().SetResolveCoincidentTopologyToPolygonOffset()
            self.marks.GetMapper().SetRelativeCoincidentTopologyPointOffsetParameter(-60)

    def show_others(self, others: Others) -> None:
        """The parts around it, and all of them where they lie."""
        self._others = others
        while len(self.others) < len(others.meshes):
            self.others.append(self._actor())
        made: dict[int, Any] = {}
        for actor in self.others[len(others.meshes) :]:
            actor.VisibilityOff()
        for actor, (shift, mesh) in zip(self.others, others.meshes, strict=False):
            data = made.setdefault(id(mesh), None) or _faces(mesh)
            made[id(mesh)] = data
            actor.GetMapper().SetInputData(data)
            actor.SetPosition(*shift)
        self.show_as(*self._look)
        for actor in (self.part, self.edges, self.hatching, self.jaws, self.path, self.now):
            actor.SetPosition(*others.shift)
        every = [self.part, *self.others[: len(others.meshes)]]
        spans = np.array([actor.GetBounds() for actor in every])
        self.bounds = tuple(f(spans[:, k]) for k in range(6) for f in [np.min if k % 2 == 0 else np.max])

    def show_jaws(self, jaws: Sequence[Box]) -> None:
        """The vise jaws as boxes."""
        self.jaws.SetVisibility(bool(jaws))
        if not jaws:
            return
        points = np.concatenate([_box_faces(jaw) for jaw in jaws]).astype(np.float32)
        self.jaws.GetMapper().SetInputData(_polydata(points, 4))
        self.jaws.GetProperty().SetColor(*_rgb(ROLES.jaw))
        self.jaws.GetProperty().SetOpacity(0.35)

    def show_tool(self, tool: Tool, tip: tuple[float, float, float], hue: str) -> None:
        """Cutting edge, shank and holder as bodies of revolution."""
        for actor, (outline, what) in zip(self.tool_parts, tool_outline(tool), strict=True):
            if what == "edge":
                half = outline[: len(outline) // 2]
            else:
                side = [(x, z) for x, z in outline if x >= 0]
                half = [(0.0, side[0][1]), *side, (0.0, side[-1][1])]
            actor.GetMapper().SetInputData(_polydata(_revolved(half, what == "edge"), 4))
            actor.GetProperty().SetColor(*_rgb(hue if what == "edge" else "#9AA2A7"))
            actor.GetProperty().SetOpacity(0.9 if what != "holder" else 0.45)
            actor.SetPosition(*tip)
            actor.VisibilityOn()

    def show_chuck(self, regions: Sequence[Any]) -> None:
        """Jaws and tailstock from their half sections, cut open as the part is: how wide a jaw is nobody has said."""
        self._revolve(self.jaws, regions)

    def show_opposite(self, regions: Sequence[Any], at: float) -> None:
        """A second chuck, the face of its jaws at a length; none without regions."""
        self._revolve(self.opposite, regions)
        self.opposite.SetPosition(at, 0.0, 0.0)

    def _revolve(self, actor: Any, regions: Sequence[Any]) -> None:
        actor.SetVisibility(bool(regions))
        if regions:
            faces = [_turned(list(region.exterior.coords), np.pi, np.pi * 2.5) for region in regions]
            actor.GetMapper().SetInputData(_polydata(np.concatenate(faces), 4))
            actor.GetProperty().SetColor(*_rgb(ROLES.jaw))
            actor.GetProperty().SetOpacity(0.5)

    def show_turning_tool(self, tool: AnyTool, tip: Sequence[float], turned: float, hue: str) -> None:
        """Insert and holder as plates in the plane of the cut; drills as they are. The part is seen standing: where it is
        `turned` by C, in degrees, the tool goes round it."""
        thick = 2.4 if tool.unit == "mm" else 0.1
        parts = [
            (edges_of(tool), hue, thick),
            (body_of(tool)[:1], "#9AA2A7", 4 * thick),
            (body_of(tool)[1:], "#9AA2A7", 5 * thick),
        ]
        for actor, (shapes, tint, wide) in zip(self.tool_parts, parts, strict=True):
            actor.SetVisibility(bool(shapes))
            if shapes:
                actor.GetMapper().SetInputData(_polydata(np.concatenate([_plate(s, wide) for s in shapes]), 4))
                actor.GetProperty().SetColor(*_rgb(tint))
                actor.GetProperty().SetOpacity(0.95 if tint == hue else 0.5)
                actor.SetPosition(*tip)
                actor.SetOrientation(turned, 0.0, 0.0)

    def hide_tool(self) -> None:
        for actor in self.tool_parts:
            actor.VisibilityOff()

    def show_path(self, segments: Any, hue: str, now: Any) -> None:
        """Path lines, and those of the current move in the colour of focus; none for empty tables."""
        for actor, lines, tint in ((self.path, segments, hue), (self.now, now, ROLES.focus)):
            actor.SetVisibility(len(lines) > 0)
            if len(lines):
                actor.GetMapper().SetInputData(_polydata(lines.reshape(-1, 3).astype(np.float32), 2, lines=True))
                actor.GetProperty().SetColor(*_rgb(tint))

    def look(self, direction: tuple[float, float, float], up: tuple[float, float, float]) -> None:
        """Looks at the part from a direction, so that it fills the view."""
        self.turned, b = False, self.bounds
        centre = ((b[0] + b[1]) / 2, (b[2] + b[3]) / 2, (b[4] + b[5]) / 2)
        camera = self.renderer.GetActiveCamera()
        camera.SetFocalPoint(*centre)
        camera.SetPosition(*(c + d * 100 for c, d in zip(centre, direction, strict=True)))
        camera.SetViewUp(*up)
        camera.SetViewAngle(24)
        self.renderer.ResetCamera(b)
        camera.Zoom(1.12)
        self.renderer.ResetCameraClippingRange()


def _faces(mesh: Mesh) -> Any:
    """A mesh with its colours and normals."""
    data, table, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
    table.SetData(numpy_to_vtk(mesh.points, deep=True))
    offsets = np.arange(0, 3 * len(mesh.triangles) + 1, 3, dtype=np.int64)
    cells.SetData(
        numpy_to_vtkIdTypeArray(offsets, deep=True), numpy_to_vtkIdTypeArray(mesh.triangles.ravel().astype(np.int64), deep=True)
    )
    data.SetPoints(table)
    data.SetPolys(cells)
    if mesh.off is None:
        shade = 1.0 - DEEPER * mesh.depth * (mesh.colour == CUT)
        colours = numpy_to_vtk((COLOURS[mesh.colour] * shade[:, None]).astype(np.uint8), deep=True)
        data.GetPointData().SetScalars(colours)
    else:
        cut = mesh.colour[mesh.triangles[:, 0]] == SECTION
        tints = np.where(cut[:, None], COLOURS[SECTION], BY_CLASS[mesh.off.astype(int) + len(UNDER)])
        colours = numpy_to_vtk(tints.astype(np.uint8), deep=True)
        data.GetCellData().SetScalars(colours)
    colours.SetName("colour")
    data.GetPointData().SetNormals(numpy_to_vtk(mesh.normals, deep=True))
    return data


def _rgb(name: str) -> tuple[float, float, float]:
    found = QColor(name)
    return (found.redF(), found.greenF(), found.blueF())


def _polydata(points: Any, corners: int, *, lines: bool = False) -> Any:
    data, table, cells = vtkPolyData(), vtkPoints(), vtkCellArray()
    table.SetData(numpy_to_vtk(np.ascontiguousarray(points, dtype=np.float32), deep=True))
    count = len(points) // corners
    offsets = np.arange(0, count * corners + 1, corners, dtype=np.int64)
    every = np.arange(count * corners, dtype=np.int64)
    cells.SetData(numpy_to_vtkIdTypeArray(offsets, deep=True), numpy_to_vtkIdTypeArray(every, deep=True))
    data.SetPoints(table)
    if lines:
        data.SetLines(cells)
    else:
        data.SetPolys(cells)
    return data


def _box_faces(box: Box) -> Any:
    (x0, y0, z0), (x1, y1, z1) = box.lo, box.hi
    c = np.array([[x, y, z] for z in (z0, z1) for y in (y0, y1) for x in (x0, x1)])
    return c[[0, 1, 3, 2, 4, 5, 7, 6, 0, 1, 5, 4, 2, 3, 7, 6, 0, 2, 6, 4, 1, 3, 7, 5]]


def _revolved(half: list[tuple[float, float]], cap: bool) -> Any:
    """Faces of a body of revolution from its half outline (radius, height), closed at the top when `cap`."""
    outline = [*half, (0.0, half[-1][1])] if cap else half
    angles = np.linspace(0, 2 * np.pi, AROUND + 1)
    faces = []
    for (r0, z0), (r1, z1) in itertools.pairwise(outline):
        for a, b in itertools.pairwise(angles):
            faces += [
                (r0 * np.cos(a), r0 * np.sin(a), z0),
                (r0 * np.cos(b), r0 * np.sin(b), z0),
                (r1 * np.cos(b), r1 * np.sin(b), z1),
                (r1 * np.cos(a), r1 * np.sin(a), z1),
            ]
    return np.array(faces)


def _turned(ring: Sequence[tuple[float, float]], begin: float, end: float) -> Any:
    """Faces of a ring of (length, radius) turned about X from one angle to another, its two ends left open."""
    angles = np.linspace(begin, end, AROUND // 2)
    faces = []
    for (x0, r0), (x1, r1) in itertools.pairwise(ring):
        for a, b in itertools.pairwise(angles):
            faces += [
                (x0, r0 * np.cos(a), r0 * np.sin(a)),
                (x0, r0 * np.cos(b), r0 * np.sin(b)),
                (x1, r1 * np.cos(b), r1 * np.sin(b)),
                (x1, r1 * np.cos(a), r1 * np.sin(a)),
            ]
    return np.array(faces, dtype=np.float32)


def _plate(shape: Any, thick: float) -> Any:
    """A plate of an outline (length, radius) in the plane of the cut, `thick` toward the back, as quads."""
    front = [(x, 0.0, z) for x, z in shape]
    back = [(x, thick, z) for x, z in shape]
    faces: list[Any] = []
    for k in range(len(front)):
        n = (k + 1) % len(front)
        faces += [front[k], front[n], back[n], back[k]]
    for side in (front, back):
        for k in range(1, len(side) - 1):
            faces += [side[0], side[k], side[k + 1], side[k + 1]]
    return np.array(faces, dtype=np.float32)
