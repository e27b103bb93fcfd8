"""Canned drilling cycles expanded to moves: G73, G81–G86, G89 with G98/G99, Q, P, L.

G84 and the boring cycles are followed by their motion: down in feed, then up in feed (G84, G85, G89) or in rapid.
"""

from __future__ import annotations

from bastler.motion import Cycle, Go, long_hand
from bastler.motion.moves import Cut, Pause
from bastler.nc import codes
from bastler.nc.block import Block
from bastler.nc.motion import S_MODE, S_PER, S_PLANE, S_RELATIVE, S_SCALE
from bastler.nc.state import MachineState

FEED_BACK = (84, 85, 89)
PECKS = (73, 83)
WAITS = (82, 84, 86, 89)
MOST_REPEATS = 1000


def motion_word(run: MachineState, block: Block) -> None:
    """The motion word of a line is in force from now on: a move, or a cycle, which remembers from how high it came."""
    motion = block.motion
    if motion is None:
        return
    if motion in codes.CYCLES and not run.cycle_code:
        run.level, run.cycle = float(run.state[2]), {}
    run.cycle_code = int(motion) if motion in codes.CYCLES else 0
    run.state[S_MODE] = -1.0 if motion == 80.0 or run.cycle_code else motion


def drill(run: MachineState, block: Block) -> None:
    """Runs the cycle in force at the place(s) a block names; takes over new Z R Q P first."""
    block.use("XY")
    if run.state[S_PLANE] != 17.0:
        run.say(block.line, "cycle-plane", "Drilling cycles are read in the XY plane (G17) only.")
        return
    if run.state[S_PER] == 93.0:
        run.say(block.line, "cycle-word", "A cycle has no feed in inverse time (G93).", block.column("G"))
        return
    _take(run, block)
    if not (block.has_any("XYZC") or block.motion is not None):
        return
    cycle = run.cycle
    if "Z" not in cycle or "R" not in cycle:
        run.say(block.line, "cycle-word", f"G{run.cycle_code} needs {'Z' if 'Z' not in cycle else 'R'}.")
        return
    if run.cycle_code in PECKS and cycle.get("Q", 0.0) <= 0.0:
        run.say(block.line, "peck-missing", f"G{run.cycle_code} needs the depth of a peck in Q.", block.column("G"))
        return
    relative = run.state[S_RELATIVE] > 0.0
    repeats = _repeats(run, block)
    for _ in range(repeats):
        _hole(run, block, relative)


def _repeats(run: MachineState, block: Block) -> int:
    """How often the cycle is made, by L or K."""
    letter = "L" if block.peek("L") is not None else "K"
    wanted = block.word(letter)
    if wanted is None:
        return 1
    if wanted != int(wanted) or not 0 <= wanted <= MOST_REPEATS:
        run.say(block.line, "cycle-word", f"{letter} has to be a whole number up to {MOST_REPEATS}.", block.column(letter))
        return 0
    return int(wanted)


def _take(run: MachineState, block: Block) -> None:
    scale = run.state[S_SCALE]
    for letter in "ZR":
        if (value := block.word(letter)) is not None:
            run.cycle[letter] = value * scale
    if run.cycle_code in PECKS and (peck := block.word("Q")) is not None:
        run.cycle["Q"] = run.small(peck, run.control.dialect.peck_unit)
    if run.cycle_code in WAITS and (dwell := block.word("P")) is not None:
        run.cycle["P"] = dwell / 1000.0 if run.control.dialect.dwell_unit == "ms" else dwell


def _hole(run: MachineState, block: Block, relative: bool) -> None:
    state, words = run.state, run.cycle
    x, y = (
        state[axis] if (v := block.word(letter)) is None else v * run.unit_of(axis) + (state[axis] if relative else 0.0)
        for axis, letter in enumerate("XY")
    )
    r = words["R"] + (run.level if relative else 0.0)
    z = words["Z"] + (r if relative else 0.0)
    if z > r:
        run.say(block.line, "cycle-depth", "The bottom of the hole lies above R.", block.column("Z"))
        return
    if run.cycle_code in PECKS and run.too_many(block, (r - z) / words["Q"]):
        return
    before = max(float(state[2]), r)
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
    if state[2] < r:
        run.go(block.line, (float(state[0]), float(state[1]), r))
    for move in long_hand(cycle, before):
        if isinstance(move, Go):
            if (move.u, move.v, move.w) != tuple(state[:3]):
                run.go(block.line, (move.u, move.v, move.w))
        elif isinstance(move, Cut):
            run.go(block.line, (move.u, move.v, move.w), 1.0, move.feed)
        elif isinstance(move, Pause):
            run.event(block.line, "dwell", move.seconds)
