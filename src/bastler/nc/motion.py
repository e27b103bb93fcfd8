"""Motion words to moves, compiled: the one place where X Y Z I J K R become a row of the trace.

The modal state is an array so that handlers and this kernel share it; `S_…` name its places.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np

from bastler.language import sayable, tr
from bastler.shapes.compiling import kernel

S_X, S_Y, S_Z = 0, 1, 2
"""Where the program believes the tool is, in the job's unit."""
S_DX, S_DY, S_DZ = 3, 4, 5
"""From there to the part's coordinates of the true tip."""
S_MODE, S_FEED, S_RELATIVE, S_PLANE, S_SCALE, S_CENTRES, S_PER, S_SPEED, S_ACROSS = 6, 7, 8, 9, 10, 11, 12, 13, 14
"""Motion mode (-1 none), F word, G91, plane, unit of the text, absolute arc centres, feed mode 93/94/95, spindle speed, and
what one of an X word is (0.5 where X is a diameter)."""
STATE_SIZE = 15

NO_CENTRE, RADIUS_OFF, SHORT_RADIUS, NO_FEED, NO_MODE, TWICE, BOTH_FORMS, NOT_USED, NO_TIME = 1, 2, 3, 4, 5, 6, 7, 8, 9
MOTION_REASONS = {
    NO_CENTRE: ("arc-centre", sayable("An arc needs its centre (I J K) or its radius (R).")),
    RADIUS_OFF: ("arc-radius", sayable("Start and end of this arc are not equally far from its centre.")),
    SHORT_RADIUS: ("arc-radius", sayable("The radius is too small for the distance, or the arc is a full circle.")),
    NO_FEED: ("feed-missing", sayable("No feed rate is in force.")),
    NO_MODE: ("motion-missing", sayable("Axis words, but no motion word is in force.")),
    TWICE: ("word-twice", sayable("The same word stands twice in this line.")),
    BOTH_FORMS: ("arc-centre", sayable("An arc is given by its centre or by its radius, not both.")),
    NOT_USED: ("word-unused", sayable("I, J, K and R have no meaning in this line, or not all of them.")),
    NO_TIME: ("feed-missing", sayable("In inverse time (G93) every line that feeds needs its own F.")),
}


def motion_reason(what: int) -> tuple[str, str]:
    """The code of a fault that the kernel found, and a sentence about it."""
    code, text = MOTION_REASONS[what]
    return code, tr(text)


LOOSE = 0.005
"""How far, in mm, start and end radius of an arc may differ: what rounding to 0.001 mm can do, with room."""
COLUMNS = 13
"""Of a row: line, kind, start 3, end 3, centre 2 (in the plane), turn, plane, feed."""


@kernel()
def move_lines(
    letter: Any, value: Any, first: Any, begin: int, end: int, state: Any, rows: Any, count: int, faults: Any, loose: float
) -> tuple[int, int]:
    """Runs lines `begin` to before `end`, which hold motion words only. Gives the new row count and the number of faults."""
    bad = 0
    words = np.empty(26, np.float64)
    for line in range(begin, end):
        words[:] = np.nan
        reason = 0
        for k in range(first[line], first[line + 1]):
            c = letter[k] - 65
            if c == 6:
                g = value[k]
                if g == 0.0 or g == 1.0 or g == 2.0 or g == 3.0:
                    state[S_MODE] = g
            elif (c >= 23 and c <= 25) or (c >= 8 and c <= 10) or c == 17 or c == 5:
                if not np.isnan(words[c]):
                    reason = TWICE
                words[c] = value[k]
                if c == 5:
                    state[S_FEED] = value[k] * (1.0 if state[S_PER] == 93.0 else state[S_SCALE])
        if np.isnan(words[23]) and np.isnan(words[24]) and np.isnan(words[25]):
            bare = np.isnan(words[8]) and np.isnan(words[9]) and np.isnan(words[10])
            if state[S_MODE] < 2.0 or bare:
                if reason == 0 and not (bare and np.isnan(words[17])):
                    reason = NOT_USED
                if reason:
                    bad = _fault(faults, bad, line, reason)
                continue
        if state[S_MODE] < 0.0:
            reason = NO_MODE
        if reason == 0:
            count, reason = move_words(words, state, rows, count, line, loose)
        if reason:
            bad = _fault(faults, bad, line, reason)
    return count, bad


@kernel()
def _fault(faults: Any, bad: int, line: int, reason: int) -> int:
    if bad < len(faults):
        faults[bad, 0] = line
        faults[bad, 1] = reason
        return bad + 1
    return bad


@kernel()
def move_words(words: Any, state: Any, rows: Any, count: int, line: int, loose: float) -> tuple[int, int]:
    scale = state[S_SCALE]
    target = np.empty(3)
    for axis in range(3):
        w = words[23 + axis]
        if np.isnan(w):
            target[axis] = state[axis]
        else:
            target[axis] = w * scale * (state[S_ACROSS] if axis == 0 else 1.0) + (state[axis] if state[S_RELATIVE] > 0.0 else 0.0)
    mode = state[S_MODE]
    reason = 0
    row = rows[count]
    row[0], row[1] = line, mode
    row[8] = row[9] = row[10] = 0.0
    row[11] = state[S_PLANE]
    if mode >= 2.0:
        reason = _arc(words, state, target, row, loose)
        if reason in (NO_CENTRE, SHORT_RADIUS, BOTH_FORMS):
            row[1] = 1.0
    for axis in range(3):
        row[2 + axis] = state[axis] + state[S_DX + axis]
        row[5 + axis] = target[axis] + state[S_DX + axis]
    row[12] = 0.0
    if mode > 0.0:
        row[12] = _feed(state, row)
        if state[S_PER] == 93.0 and np.isnan(words[5]):
            reason = NO_TIME if reason == 0 else reason
        elif row[12] <= 0.0 and reason == 0:
            reason = NO_FEED
    if reason == 0 and _idle(words, state):
        reason = NOT_USED
    for axis in range(3):
        state[axis] = target[axis]
    return count + 1, reason


@kernel()
def _idle(words: Any, state: Any) -> bool:
    """Is there a centre or radius word that this move has no use for?"""
    if state[S_MODE] < 2.0:
        return not (np.isnan(words[8]) and np.isnan(words[9]) and np.isnan(words[10]) and np.isnan(words[17]))
    across = 10 if state[S_PLANE] == 17.0 else (9 if state[S_PLANE] == 18.0 else 8)
    return not np.isnan(words[across])


@kernel()
def _feed(state: Any, row: Any) -> float:
    if state[S_PER] == 95.0:
        return float(state[S_FEED] * state[S_SPEED])
    if state[S_PER] == 93.0:
        return float(state[S_FEED] * _length(row))
    return float(state[S_FEED])


@kernel()
def _length(row: Any) -> float:
    """How long the way of a move is, along its arc or helix."""
    if row[10] == 0.0:
        return math.sqrt((row[5] - row[2]) ** 2 + (row[6] - row[3]) ** 2 + (row[7] - row[4]) ** 2)
    u, v, w = (0, 1, 2) if row[11] == 17.0 else ((2, 0, 1) if row[11] == 18.0 else (1, 2, 0))
    radius = math.sqrt((row[2 + u] - row[8]) ** 2 + (row[2 + v] - row[9]) ** 2)
    return math.sqrt((radius * row[10]) ** 2 + (row[5 + w] - row[2 + w]) ** 2)


@kernel()
def _arc(words: Any, state: Any, target: Any, row: Any, loose: float) -> int:
    """Fills centre (columns 8, 9: in the plane's two axes) and signed turn (column 10)."""
    u, v = (0, 1) if state[S_PLANE] == 17.0 else ((2, 0) if state[S_PLANE] == 18.0 else (1, 2))
    scale = state[S_SCALE]
    su, sv, tu, tv = state[u], state[v], target[u], target[v]
    ccw = state[S_MODE] == 3.0
    iu, iv, radius = words[8 + u], words[8 + v], words[17]
    if not np.isnan(radius):
        if not (np.isnan(iu) and np.isnan(iv)):
            return BOTH_FORMS
        radius *= scale
        du, dv = tu - su, tv - sv
        chord = math.sqrt(du * du + dv * dv)
        if chord < 1e-9 or abs(radius) < chord / 2 - loose:
            return SHORT_RADIUS
        half = math.sqrt(max(radius * radius - chord * chord / 4, 0.0))
        side = 1.0 if ccw else -1.0
        if radius < 0.0:
            side = -side
        cu, cv = (su + tu) / 2 - side * half * dv / chord, (sv + tv) / 2 + side * half * du / chord
    else:
        if np.isnan(iu) and np.isnan(iv):
            return NO_CENTRE
        iu = 0.0 if np.isnan(iu) else iu * scale
        iv = 0.0 if np.isnan(iv) else iv * scale
        cu, cv = (iu, iv) if state[S_CENTRES] > 0.0 else (su + iu, sv + iv)
    r0 = math.sqrt((su - cu) ** 2 + (sv - cv) ** 2)
    r1 = math.sqrt((tu - cu) ** 2 + (tv - cv) ** 2)
    a0, a1 = math.atan2(sv - cv, su - cu), math.atan2(tv - cv, tu - cu)
    turn = (a1 - a0) if ccw else (a0 - a1)
    turn = turn % (2 * math.pi)
    if turn < 1e-9 or (abs(tu - su) < 1e-12 and abs(tv - sv) < 1e-12):
        turn = 2 * math.pi
    row[8], row[9] = cu + state[S_DX + u], cv + state[S_DX + v]
    row[10] = turn if ccw else -turn
    return RADIUS_OFF if abs(r0 - r1) > loose + 1e-4 * r0 else 0
