"""The chuck that holds a bar opens and closes, and the bar comes on: out to a stop, with a puller, or by a feeder's own word.

How far it comes to a stop and by a feeder stands in no program: the control is told (`Control.bar`), and whoever runs the program
has to see that it is so. Behind a puller it comes as far as the program moves that while the chuck is open.
"""

from __future__ import annotations

from dataclasses import replace

from bastler.language import tr
from bastler.machines import Dialect
from bastler.nc.block import Block
from bastler.nc.motion import S_MODE
from bastler.nc.state import Handler, MachineState

ALONG = 1e-9
"""A puller that moves across by less goes along the axis."""


def bar_words(dialect: Dialect) -> tuple[str, ...]:
    """The M words that there are for it."""
    return (*dialect.grip_words, *dialect.bar_words)


def holders(dialect: Dialect) -> tuple[Handler, ...]:
    """Reads them."""
    every = ((grips, dialect.grip_words), (_feeds, dialect.bar_words))
    return tuple(Handler(frozenset(), run, words) for run, words in every if words)


def grips(machine: MachineState, block: Block) -> None:
    """Chucks close and open. Where the main one opens alone with a stop before it the bar comes out to that."""
    for k in block.told(machine.control.dialect.grip_words):
        machine.chucks = replace(machine.chucks, **{"main" if k < 2 else "second": k % 2 == 0})
        machine.event(block.line, "grip", k + 1.0)
        if k == 1 and not machine.chucks.second and machine.side == 0 and machine.tool in machine.control.bar.stops:
            _comes(machine, block)


def _feeds(machine: MachineState, block: Block) -> None:
    """The feeder brings the bar, and opens and closes the chuck for it."""
    if block.told(machine.control.dialect.bar_words):
        machine.event(block.line, "grip", 2.0)
        _comes(machine, block)
        machine.event(block.line, "grip", 1.0)


def _comes(machine: MachineState, block: Block) -> None:
    """The bar comes on by as much as the control is told; the tool stays where it is."""
    by = machine.control.bar.comes
    if by <= 0.0:
        text = tr("The bar comes on, and no step says how far: where the work then is, nobody knows.")
        machine.say(block.line, "bar-unknown", text, block.column("M"))
        return
    machine.pull(by)
    machine.event(block.line, "bar", by)


def _pulls(machine: MachineState, block: Block) -> bool:
    """A puller moves while the chuck is open: the bar goes along with it. True where it does."""
    chucks = machine.chucks
    if chucks.main or chucks.second or machine.side or machine.tool not in machine.control.bar.pulls:
        return False
    if not block.has_any("XZUW"):
        return False
    x, _, z = machine.state[:3].tolist()
    to_x, _, to_z = machine.target(block)
    if block.motion is not None:
        machine.state[S_MODE] = block.motion
    feed, why = machine.straight_feed, ""
    if machine.state[S_MODE] != 1.0 or feed <= 0.0:
        why = tr("A puller that has hold of a bar moves in feed, by G1.")
    elif abs(to_x - x) > ALONG or to_z < z:
        why = tr("A puller that has hold of a bar goes out along Z, and nowhere else.")
    if why:
        machine.say(block.line, "bar-moves", why, block.column("G"))
        return True
    machine.event(block.line, "dwell", (to_z - z) / feed * 60.0)
    machine.carry_on(to_z - z)
    machine.event(block.line, "bar", to_z - z)
    return True


PULLER = Handler(frozenset((0.0, 1.0)), _pulls, ("X", "Z", "U", "W"))
"""A puller that has hold of the bar moves it."""
