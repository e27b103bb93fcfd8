"""A second spindle opposite the main one: which of them is meant, its way along W, both chucks, turning in step.

What the words are is the card's. With the second spindle chosen everything is counted from its face, out of its chuck.
"""

from __future__ import annotations

from dataclasses import replace

from bastler.language import tr
from bastler.machines import Dialect
from bastler.nc.block import Block, code_of
from bastler.nc.motion import NO_MODE, S_MODE, S_PER, S_RELATIVE, motion_reason
from bastler.nc.state import Handler, MachineState
from bastler.nc.turn_cycles import CYCLES


def second_words(dialect: Dialect) -> tuple[str, ...]:
    """The M words that there are for it."""
    return (*dialect.choose_words, *dialect.together_words, *dialect.push_words, *dialect.air_words)


def second_spindle(dialect: Dialect) -> Handler:
    """Reads them, and moves by W."""
    skips = frozenset((code_of(dialect.skip_word),)) if dialect.skip_word else frozenset[float]()
    return Handler(skips, _second, (*second_words(dialect), "W"))


def _second(machine: MachineState, block: Block) -> bool:
    """Words of the second spindle; True where the line moves it."""
    dialect = machine.control.dialect
    for k in block.told(dialect.together_words):
        how = (1, 2, 0)[k]
        machine.chucks = replace(machine.chucks, together=how)
        machine.event(block.line, "together", float(how))
    _push(machine, block)
    block.told(dialect.air_words)
    for k in block.told(dialect.choose_words):
        _choose(machine, block, k)
    return _moves(machine, block)


def _push(machine: MachineState, block: Block) -> None:
    words = machine.control.dialect.push_words
    if words and block.has(words[0]):
        force = block.word("P")
        if force is None or force <= 0:
            machine.say(
                block.line, "push", tr("{words} needs the force of the push in P, in newtons.", words=words[0]), block.column("M")
            )
            force = 0.0
        machine.chucks = replace(machine.chucks, push=force)
        machine.event(block.line, "push", force)
    elif words and block.has(words[1]):
        machine.chucks = replace(machine.chucks, push=0.0)
        machine.event(block.line, "push", 0.0)


def _choose(machine: MachineState, block: Block, side: int) -> None:
    """S, M3 and C mean the other spindle from now on."""
    if side == machine.side:
        return
    why = ""
    if len(machine.controls) < 2:
        why = tr("There is no holding in the second chuck: what is cut there is not known.")
    elif machine.turning or machine.work.on:
        why = tr("The work still turns, or its spindle is an axis: that ends before the other spindle is meant.")
    elif machine.bent is not None:
        why = tr("Compensation is still on: it ends before the other spindle is meant.")
    elif any((*machine.shift, *machine.local)):
        why = tr("A shift of the zero is still in force: with the other spindle nobody knows where it leads.")
    elif side == 1 and machine.rows.marked("side") == 2.0:
        why = tr("A part is handed over once in a program.")
    if why:
        machine.say(block.line, "other-spindle", why, block.column("M"))
        return
    machine.choose(side)
    machine.rows.modal_from("side", 1.0 if side else 2.0)
    machine.event(block.line, "side", float(side))


def _moves(machine: MachineState, block: Block) -> bool:
    """W, by G0, G1, or until it meets something; True where the line does."""
    skip = machine.control.dialect.skip_word
    skips = bool(skip) and block.has(skip)
    if (block.peek("W") is None and not skips) or any(code in block.g_words for code in CYCLES):
        return False
    target = block.word("W")
    if target is None:
        machine.say(block.line, "second-moves", tr("{skip} moves W, and there is none.", skip=skip), block.column("G"))
        return True
    if block.has_any("XYZCU"):
        machine.say(
            block.line, "second-moves", tr("W moves the second chuck, and nothing else moves with it."), block.column("W")
        )
        block.use("XYZCU")
        return True
    if machine.side == 1:
        text = tr("W moves the chuck that is worked at: where its zero goes then is not followed.")
        machine.say(block.line, "second-moves", text, block.column("W"))
        return True
    if block.motion is not None:
        machine.state[S_MODE] = block.motion
    mode = 1.0 if skips else float(machine.state[S_MODE])
    if mode < 0.0:
        machine.say(block.line, *motion_reason(NO_MODE))
        return True
    if mode > 1.0 or machine.state[S_PER] == 93.0:
        machine.say(block.line, "second-moves", tr("W goes straight, by G0 or G1, and not in inverse time."), block.column("W"))
        return True
    begin = machine.chucks.w
    end = target * float(machine.unit_of(2)) + (begin if machine.state[S_RELATIVE] > 0 else 0.0)
    if skips:
        window = block.word("Q")
        machine.event(block.line, "skip", 0.0 if window is None else window * float(machine.unit_of(2)))
    x, y, z = machine.state[:3].tolist()
    machine.go(block.line, (x, y, z), mode, machine.straight_feed)
    machine.rows.shoved(begin, end)
    machine.chucks = replace(machine.chucks, w=end)
    if machine.chucks.second and not machine.chucks.main:
        machine.pull(end - begin)
    return True
