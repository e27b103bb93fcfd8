"""Canned drilling cycles expanded to moves: G73, G81–G86, G89 with G98/G99, Q, P, L.

G84 and the boring cycles are followed by their motion: down in feed, then up in feed (G84, G85, G89) or in rapid.
"""

from __future__ import annotations

from collections.abc import Callable

from bastler.language import tr
from bastler.motion import Cycle, Go, long_hand
from bastler.motion.moves import Cut, Pause
from bastler.nc import codes
from bastler.nc.block import Block
from bastler.nc.motion import S_MODE, S_PER, S_PLANE, S_RELATIVE
from bastler.nc.state import MachineState

FEED_BACK = (84, 85, 89)
PECKS = (73, 83)
WAITS = (82, 84, 86, 89)
MOST_REPEATS = 1000


ACROSS = {17.0: (0, 1, 2), 19.0: (1, 2, 0)}
"""By the plane in force: the axes in which holes have their places, and the one along which they go."""


def motion_word(run: MachineState, block: Block) -> None:
    """The motion word of a line is in force from now on: a move, or a cycle, which remembers from how high it came."""
    motion = block.motion
    if motion is None:
        return
    if motion in codes.CYCLES and not run.cycle_code:
        run.level, run.cycle = float(run.state[_axes(run)[2]]), {}
    run.cycle_code = int(motion) if motion in codes.CYCLES else 0
    run.state[S_MODE] = -1.0 if motion == 80.0 or run.cycle_code else motion


def _axes(run: MachineState) -> tuple[int, int, int]:
    return ACROSS.get(float(run.state[S_PLANE]), ACROSS[17.0])


def drill(run: MachineState, block: Block, *, sideways: bool = False, turn: Callable[[], None] = lambda: None) -> None:
    """Runs the cycle in force at the place(s) a block names; takes over new Z R Q P first. In G19, where it may go `sideways`, it
    goes along X, and R is counted as X is. `turn` has the work turn to its place, each time it is repeated."""
    block.use("XYZ")
    if run.state[S_PLANE] not in ((17.0, 19.0) if sideways else (17.0,)):
        planes = tr("along Z (G17) or along X (G19)") if sideways else tr("in the XY plane (G17) only")
        run.say(block.line, "cycle-plane", tr("Drilling cycles are read {planes}.", planes=planes))
        return
    along = "XYZ"[_axes(run)[2]]
    if run.state[S_PER] == 93.0:
        run.say(block.line, "cycle-word", tr("A cycle has no feed in inverse time (G93)."), block.column("G"))
        return
    _take(run, block, along)
    if not (block.has_any("XYZC") or block.motion is not None):
        return
    cycle = run.cycle
    if "Z" not in cycle or "R" not in cycle:
        run.say(
            block.line,
            "cycle-word",
            tr("G{cycle_code} needs {along}.", cycle_code=run.cycle_code, along=along if "Z" not in cycle else "R"),
        )
        return
    if run.cycle_code in PECKS and cycle.get("Q", 0.0) <= 0.0:
        run.say(
            block.line,
            "peck-missing",
            tr("G{cycle_code} needs the depth of a peck in Q.", cycle_code=run.cycle_code),
            block.column("G"),
        )
        return
    relative = run.state[S_RELATIVE] > 0.0
    if {cycle["Z told"], cycle["R told"]} != {float(relative)}:
        text = tr("Z and R were told under the other of G90 and G91, and controls differ in what they mean now: tell them again.")
        run.say(block.line, "cycle-word", text, block.column("G"))
        return
    repeats = _repeats(run, block)
    for _ in range(repeats):
        turn()
        _hole(run, block, along, relative)


def _repeats(run: MachineState, block: Block) -> int:
    """How often the cycle is made, by L or K."""
    letter = "L" if block.peek("L") is not None else "K"
    wanted = block.word(letter)
    if wanted is None:
        return 1
    if wanted != int(wanted) or not 0 <= wanted <= MOST_REPEATS:
        run.say(
            block.line,
            "cycle-word",
            tr("{letter} has to be a whole number up to {most_repeats}.", letter=letter, most_repeats=MOST_REPEATS),
            block.column(letter),
        )
        return 0
    return int(wanted)


def _take(run: MachineState, block: Block, along: str) -> None:
    """What a cycle is told: how deep, which it keeps as Z whatever axis that is `along`, and the rest."""
    for letter in (along, "R"):
        if (value := block.word(letter)) is not None:
            name = "R" if letter == "R" else "Z"
            run.cycle[name] = value * run.unit_of("XYZ".index(along))
            run.cycle[f"{name} told"] = float(run.state[S_RELATIVE] > 0.0)
    if run.cycle_code in PECKS and (peck := block.word("Q")) is not None:
        run.cycle["Q"] = run.small(peck, run.control.dialect.peck_unit)
    if run.cycle_code in WAITS and (dwell := block.word("P")) is not None:
        run.cycle["P"] = dwell / 1000.0 if run.control.dialect.dwell_unit == "ms" else dwell


def _hole(run: MachineState, block: Block, along: str, relative: bool) -> None:
    state, words, (first, second, deep) = run.state, run.cycle, _axes(run)
    x, y = (
        state[axis] if (v := block.word("XYZ"[axis])) is None else v * run.unit_of(axis) + (state[axis] if relative else 0.0)
        for axis in (first, second)
    )
    r = words["R"] + (run.level if relative else 0.0)
    z = words["Z"] + (r if relative else 0.0)
    if z > r:
        run.say(block.line, "cycle-depth", tr("The bottom of the hole lies above R."), block.column(along))
        return
    if run.cycle_code in PECKS and run.too_many(block, (r - z) / words["Q"]):
        return
    before = max(float(state[deep]), r)
    back = max(run.level, r) if run.initial_level else r
    code = run.cycle_code
    cycle = Cycle(
        points=((x, y),),
        z=z,
        r=r,
        back=back,
        feed=run.straight_feed,
        peck=words.get("Q", 0.0) if code in PECKS else 0.0,
        full=code == 83,
        clearance=run.control.peck_clearance,
        pull=run.control.chip_break,
        dwell=words.get("P", 0.0) if code in WAITS else 0.0,
        slow=code in FEED_BACK,
    )
    if state[deep] < r:
        run.go(block.line, _placed(run, float(state[first]), float(state[second]), r))
    for move in long_hand(cycle, before):
        if isinstance(move, Go):
            there = _placed(run, move.u, move.v, move.w)
            if there != tuple(state[:3]):
                run.go(block.line, there)
        elif isinstance(move, Cut):
            run.go(block.line, _placed(run, move.u, move.v, move.w), 1.0, move.feed)
        elif isinstance(move, Pause):
            run.event(block.line, "dwell", move.seconds)


def _placed(run: MachineState, u: float, v: float, w: float) -> tuple[float, float, float]:
    """A place in the plane of a cycle as X Y Z."""
    found = [0.0, 0.0, 0.0]
    for axis, value in zip(_axes(run), (u, v, w), strict=True):
        found[axis] = value
    return found[0], found[1], found[2]
