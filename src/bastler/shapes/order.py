"""The shortest way over a number of places: the nearest next one, then made better by turning round stretches of the way (2-opt)
until nothing gets shorter. Not proved the shortest there is, but without crossings, and the same each time."""

from __future__ import annotations

import functools
import math

import numpy as np

Point = tuple[float, float]
MOST_SWEEPS = 60
MOST_COMPARED = 1200
"""Places that are all compared with each other; more take a plainer way."""
GAIN = 1e-9


@functools.lru_cache(maxsize=128)
def shortest_way(points: tuple[Point, ...]) -> tuple[int, ...]:
    """The order to visit places in, as indices, beginning with the first place and ending anywhere."""
    if len(points) < 3:
        return tuple(range(len(points)))
    at = np.array(points)
    if len(points) > MOST_COMPARED:
        return _in_strips(at)
    far = np.hypot(at[:, None, 0] - at[None, :, 0], at[:, None, 1] - at[None, :, 1])
    order = _nearest(far)
    for _ in range(MOST_SWEEPS):
        if not _improved(order, far):
            break
    return tuple(int(k) for k in order)


def _in_strips(at: np.ndarray) -> tuple[int, ...]:
    """Many places: up one strip and down the next, the strips as wide as makes such a way short (about sqrt(area / n))."""
    low, high = at.min(axis=0), at.max(axis=0)
    wide = max(math.sqrt(max((high - low).prod(), 1e-12) / len(at)) * 1.4, 1e-9)
    strip = np.floor((at[:, 0] - low[0]) / wide)
    order = np.lexsort((np.where(strip % 2 == 0, at[:, 1], -at[:, 1]), strip))
    return tuple(int(k) for k in order)


def way_length(points: tuple[Point, ...]) -> float:
    """How far it is over places in their order."""
    at = np.array(points).reshape(-1, 2)
    return float(np.hypot(*np.diff(at, axis=0).T).sum()) if len(points) > 1 else 0.0


def _nearest(far: np.ndarray) -> np.ndarray:
    order, left = [0], np.ones(len(far), bool)
    left[0] = False
    while left.any():
        following = int(np.argmin(np.where(left, far[order[-1]], np.inf)))
        order.append(following)
        left[following] = False
    return np.array(order)


def _improved(order: np.ndarray, far: np.ndarray) -> bool:
    """Turns stretches round that make the way shorter, in place; was there one?"""
    better = False
    for i in range(1, len(order) - 1):
        before = order[i - 1]
        ends = order[i + 1 :]
        after = np.append(order[i + 2 :], -1)
        now = far[before, order[i]] + np.where(after >= 0, far[ends, after], 0.0)
        then = far[before, ends] + np.where(after >= 0, far[order[i], after], 0.0)
        best = int(np.argmin(then - now))
        if then[best] - now[best] < -GAIN:
            order[i : i + 2 + best] = order[i : i + 2 + best][::-1]
            better = True
    return better
