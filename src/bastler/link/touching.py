"""What follows from places at which a tool has touched: where a zero lies, how far a part is turned, how long a tool is.

A *contact* is where the axes stood, in machine coordinates, and which way they were going. A ball, or the side of a tool, touches
a face its radius before its middle is there; on a face that is turned it does so beside the axis, which is taken into account.
Lengths in one unit, angles in degrees.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from bastler.language import tr
from bastler.link.messages import WorkOffset

Place = tuple[float, float, float]
ALONG = {"x": 0, "y": 1, "z": 2}
LEAST_APART = 1e-6


class NoTouch(ValueError):
    """Contacts from which nothing follows; the message is a whole sentence."""


@dataclass(frozen=True)
class Contact:
    """A touch: the `axes` in machine coordinates, the axis that moved and its sense, the `radius` of what touched sideways."""

    axes: Place
    axis: Literal["x", "y", "z"]
    sense: float
    radius: float = 0.0


def turned_by(first: Contact, second: Contact) -> float:
    """How far a face is turned that was touched twice along the same axis: what is added to make it lie along the other one.
    NoTouch where both touches are at one place."""
    if first.axis != second.axis or first.axis == "z":
        raise NoTouch(tr("Both touches have to be along X, or both along Y."))
    dx, dy = second.axes[0] - first.axes[0], second.axes[1] - first.axes[1]
    along, across = (dx, dy) if first.axis == "y" else (dy, -dx)
    if abs(along) < LEAST_APART:
        raise NoTouch(tr("The touches have to be apart along the face."))
    return math.degrees(math.atan(across / along))


def zero_in_plan(touched: Mapping[str, tuple[Sequence[Contact], float]], turn: float, old: WorkOffset) -> tuple[float, float]:
    """Where the zero lies in X and Y. `touched` has, by axis, one contact on a face or two on opposite ones, and where that face,
    or the middle between both, is on the part. An axis that nothing touched keeps its place."""
    angle = math.radians(turn)
    normals = {"x": np.array((math.cos(angle), math.sin(angle))), "y": np.array((-math.sin(angle), math.cos(angle)))}
    rows, values = [], []
    for axis, normal in normals.items():
        contacts, where = touched.get(axis, ((), 0.0))
        rows.append(normal)
        if not contacts:
            values.append(float(normal @ np.array((old.x, old.y))))
            continue
        faces = [float(normal @ np.array(c.axes[:2])) + c.sense * c.radius for c in contacts]
        values.append(sum(faces) / len(faces) - where)
    x, y = np.linalg.solve(np.array(rows), np.array(values)).tolist()
    return x, y


def zero_along(contact: Contact, length: float, where: float) -> float:
    """Where the zero lies in Z: touched with a tool of that `length` along it on a face that is at `where` on the part."""
    return contact.axes[2] - length - where


def tool_length(contact: Contact, zero: float, where: float) -> float:
    """How long a tool is that touches a face at `where` of a part whose zero in Z is known."""
    return contact.axes[2] - zero - where


def tool_across(axes: Place, diameter: float) -> float:
    """How far a turning tool's point is from the machine's reference across: it has turned a diameter with the axes there."""
    return axes[0] - diameter / 2


def width_between(first: Contact, second: Contact) -> float:
    """The width of a slot, or of a web, between two opposite faces. NoTouch where both touches are of one side."""
    if first.axis != second.axis or first.sense == second.sense:
        raise NoTouch(tr("The faces have to be touched from two sides."))
    k = ALONG[first.axis]
    a, b = (c.axes[k] + c.sense * c.radius for c in (first, second))
    return abs(b - a)
