"""The data of a machine card and its dialect.

One writer and one reader serve all machines; a dialect says how they differ. Nothing that changes what the machine
does is hidden in code: peck clearances and retract amounts stand on the card.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from bastler.language import tr_as
from bastler.machines.template import filled_in
from bastler.units import Unit, scale


class Dialect(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """How a machine wants its words.

    `cycles` are the canned cycles it knows; others are written long-hand. `helical` arcs move the third axis along, else
    short chords are written; `subprograms` are called with M98 P, else what repeats, and a hand-over, is written out; there are
    `extended_offsets` besides G54 to G59, called with G54.1 P; it knows parameters and
    `formulas` (`#1`, `[…]`). `dwell_unit` and `peck_unit` are what P and Q count in ("increment": 0.001 mm or 0.0001 inch, a
    tenth of that where increments are `fine`).
    `point` writes whole lengths and feeds with their decimal point, as older controls need.

    Every stage begins with all that is in force in it, in a block that is a place to begin at: with a number where
    `stage_numbers`, also where lines have none. `tool_stops` is an optional stop before each tool; `tool_ahead` has the magazine
    look for the next tool as soon as the one before it is in the spindle.

    For turning: `diameter_x` writes X as a diameter; `feed_codes` are feed per minute and per turn, `speed_cap` holds the speed
    under constant surface speed, `second_digits` tells the station from the offset in a tool word; `increments` are the letters
    that move by X and by Z; `thread_code` cuts one pass with the spindle; `turn_cycles` are the cycles it knows and `cycle_lines`
    whether they take one line or two; what is not there is written long-hand. `thread_unit` is what the depths in P and Q of
    a thread cycle count in.

    For driven tools, each empty where the machine has no such word: `c_words` make an axis of the spindle, and a spindle of it
    again; `clamp_words` clamp it for cutting, and free it; `drive_words` turn a driven tool forward, back, and stop it, its speed
    in S; `polar_words` switch polar interpolation on and off (X still as `diameter_x` says, C a length at right angles to it);
    `wrapped_words` do so for the round: the first stands with the radius in C, the second ends it.

    For a second spindle: `choose_words` say which one S, M3 to M5, C and its words mean from then on, the main one or the second;
    with the second the control counts Z out of its chuck, and Y, C and the sense of M3 as they are then seen, so that a program
    for the back reads as one for the front. `together_words` have both turn at one speed, at one speed and angle, and each by
    itself again; `grip_words` close and open the main chuck, then the second one; `push_words` hold the force of the axis W to
    the newtons in their P, and let it go; `skip_word` moves W until it meets something, which has to be within Q of where it was
    sent; `air_words` blow the seat clean, and end that. `catch_words` put the catcher under the part, and take it away.

    For long work and bars: `centre_words` bring the tailstock's centre in, and take it out; `grip_words` are two where there is
    no second spindle; `bar_words` have a feeder bring the bar on for the next part, the chuck opening and closing by itself.

    As a file: its name has `name_length` letters at most before its `suffix`, small ones or none (`upper_names`), or is the
    program's number (`names_by_number`); lines end in `line_ends`.
    """

    name_length: int = 40
    suffix: str = ".nc"
    upper_names: bool = False
    names_by_number: bool = False
    line_ends: Literal["lf", "crlf", "cr"] = "lf"
    decimals_mm: int = 3
    decimals_inch: int = 4
    tape_marks: bool = True
    program_word: str = "O{number:04d}"
    comment: Literal["brackets", "semicolon"] = "brackets"
    upper_case: bool = False
    line_numbers: bool = False
    line_step: int = 10
    point: bool = False
    fine: bool = False
    stage_numbers: bool = True
    tool_stops: bool = False
    tool_ahead: bool = False
    safe_start: str = "G17 G40 G49 G80 G90 G94"
    tool_call: str = "T{tool} M6"
    length_on: str = "G43 H{tool}"
    cycles: tuple[str, ...] = ("G73", "G81", "G82", "G83", "G84", "G85", "G86", "G89")
    helical: bool = True
    subprograms: bool = True
    formulas: bool = True
    extended_offsets: int = 48
    dwell_unit: Literal["s", "ms"] = "s"
    peck_unit: Literal["length", "increment"] = "length"
    end: str = "M30"
    diameter_x: bool = False
    feed_codes: tuple[str, str] = ("G94", "G95")
    speed_cap: str = "G50 S{speed}"
    tool_digits: int = 2
    increments: tuple[str, str] = ("U", "W")
    thread_code: Literal["G32", "G33"] = "G33"
    turn_cycles: tuple[str, ...] = ()
    cycle_lines: Literal[1, 2] = 2
    thread_unit: Literal["length", "increment"] = "length"
    c_words: tuple[str, ...] = ()
    clamp_words: tuple[str, ...] = ()
    drive_words: tuple[str, ...] = ()
    polar_words: tuple[str, ...] = ()
    wrapped_words: tuple[str, ...] = ()
    choose_words: tuple[str, ...] = ()
    together_words: tuple[str, ...] = ()
    grip_words: tuple[str, ...] = ()
    push_words: tuple[str, ...] = ()
    skip_word: str = ""
    air_words: tuple[str, ...] = ()
    catch_words: tuple[str, ...] = ()
    centre_words: tuple[str, ...] = ()
    bar_words: tuple[str, ...] = ()

    def words(self, pattern: str, **given: object) -> str:
        """A pattern such as `tool_call` filled in; as it stands where it cannot be, which is said where it is edited."""
        return filled_in(pattern, given)

    def places(self, unit: Unit) -> int:
        """So many decimals lengths are written with."""
        return self.decimals_mm if unit == "mm" else self.decimals_inch

    def number(self, value: float, places: int) -> str:
        """A number of a program, without needless zeros; whole ones keep the point where the machine wants it."""
        text = f"{value:.{places}f}"
        if "." in text:
            text = text.rstrip("0").rstrip(".")
        text = "0" if text in ("-0", "") else text
        return text + "." if self.point and "." not in text else text

    def least_in(self, unit: Unit) -> float:
        """The least increment in a unit: a thousandth of a millimetre goes with a ten-thousandth of an inch."""
        return (0.001 if unit == "mm" else 0.0001) / (10.0 if self.fine else 1.0)

    def dwell_words(self, seconds: float) -> float:
        """The value of P for a dwell."""
        return seconds * 1000.0 if self.dwell_unit == "ms" else seconds


class Travel(msgspec.Struct, frozen=True):
    """Where an axis can go, in machine coordinates."""

    lo: float
    hi: float


class SpindleAxis(msgspec.Struct, frozen=True):
    """A work spindle that is an axis too: C. It stands true to `resolution` degrees, goes `rapid` degrees a minute at most, and
    its brake holds `holds` Nm against a cut while it is not clamped."""

    resolution: float
    rapid: float
    holds: float


class Drive(msgspec.Struct, frozen=True):
    """What drives the tools of a turret: in which `stations`, how fast (turns a minute), with what `power` in kW; in holders that
    lie along Z (`axial`), along X (`radial`). Those that do not stand as the turret's stations do have an `angular` holder: its
    body goes out from the tool's axis toward the turret by `body`, 0 where that is not known; outward for tools along Z, along Z
    away from the main spindle for those along X."""

    stations: tuple[int, ...]
    speed: tuple[float, float]
    power: float
    axial: bool = True
    radial: bool = True
    angular: Literal["axial", "radial"] = "axial"
    body: float = 0.0


class SerialLine(msgspec.Struct, frozen=True):
    """A line to the control (EIA-232): `baud`, `bits` of a sign, its `parity` and `stop_bits`; who tells the other to wait:
    signs (`software`, XON and XOFF), wires (`hardware`, RTS and CTS) or nobody. So many zeros go before and behind a program as
    its `leader`."""

    baud: int = 9600
    bits: Literal[7, 8] = 8
    parity: Literal["none", "even", "odd"] = "none"
    stop_bits: Literal[1, 2] = 1
    flow: Literal["software", "hardware", "none"] = "software"
    leader: int = 0


class SecondSpindle(msgspec.Struct, frozen=True):
    """A second work spindle that faces the main one and comes to it along `w`, in machine coordinates away from it. With W at 0
    its face is `apart` from the main one's; it works with W at its `home`. Its jaws' face stands `jaws` before its own, and a
    part goes `deep` into them at most; they close on diameters `takes`, from and to. Its `speed` is in turns a minute, its
    `power` in kW; it pushes with `push` newtons, from and to."""

    w: Travel
    home: float
    apart: float
    jaws: float
    deep: float
    takes: tuple[float, float]
    speed: tuple[float, float]
    power: float
    push: tuple[float, float]

    @property
    def faces(self) -> float:
        """From the main spindle's face to its own where it works."""
        return self.apart + self.home

    def jaws_at(self, w: float) -> float:
        """How far the face of its jaws is from the main spindle's with W there."""
        return w + self.apart - self.jaws


class GuideBush(msgspec.Struct, frozen=True):
    """A bush that guides the bar right beside the tools, while the headstock slides and brings the bar through it: what a program
    says of Z the bar does, and the tools stand still along it. It is `long`; the tools stand `before` its face. So much of its
    length has to hold the bar as it was before anything was turned, `keeps`, or the bar drops in it. The headstock slides by
    `stroke`."""

    long: float
    before: float
    keeps: float
    stroke: float

    @property
    def back(self) -> float:
        """How far a tool may be in front of the deepest place that was turned, so that the bush still has hold of the bar."""
        return self.long + self.before - self.keeps


SENSE = "machine"


def said_of_machine(says: str) -> str:
    """What a machine is, as it is said in the language in force; words of the shop's own as they are."""
    return tr_as(SENSE, says)


class MachineCard(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One machine. Lengths in `unit`, feeds and rapids in unit/min, acceleration in unit/s².

    `home` is where the axes stand after referencing, with the spindle nose as the Z reference. `peck_clearance` is how far
    above the last depth a full-retract peck goes back in rapid; `chip_break` how far a chip-breaking peck pulls off. `torque` is
    the most at the spindle in Nm, 0 where it is not known.

    `stations` of the magazine or the turret. For turning: an `encoder` on the spindle gives feed per turn and threads;
    `surface_speed` is constant surface speed; the spindle needs `spindle_up` seconds from rest to its top speed; `pull_off` is
    how far a roughing pass leaves the wall before it goes back; the first and last turns of a thread are not true for
    `thread_delay` seconds, while the Z slide comes up to speed. Where `c` is, the spindle is an axis too; `drive` turns tools. A
    part is handed over to the `second` spindle, where there is one; through a guide `bush` the bar slides. Programs come to it as
    files, and over a serial `line` where it has one.
    """

    id: str
    name: str
    says: str
    kind: Literal["mill-3", "lathe-2"] = "mill-3"
    unit: Unit = "mm"
    x: Travel
    y: Travel = Travel(0.0, 0.0)
    z: Travel
    home: tuple[float, float, float]
    speed: tuple[float, float]
    power: float
    efficiency: float = 0.8
    torque: float = 0.0
    rapid: float
    feed_most: float
    acceleration: float
    tool_change_time: float
    peck_clearance: float
    chip_break: float
    rigid_tapping: bool
    coolant: bool = True
    stations: int = 24
    encoder: bool = True
    surface_speed: bool = False
    spindle_up: float = 0.0
    pull_off: float = 0.0
    thread_delay: float = 0.0
    c: SpindleAxis | None = None
    drive: Drive | None = None
    second: SecondSpindle | None = None
    bush: GuideBush | None = None
    line: SerialLine | None = None
    dialect: Dialect

    @property
    def turns(self) -> bool:
        """Is this a turning machine?"""
        return self.kind == "lathe-2"

    @property
    def drives_axially(self) -> bool:
        """Can it work on the end face of a part in its chuck: does the work stand, and turn tools along the axis?"""
        return self.turns and self.c is not None and self.drive is not None and self.drive.axial

    @property
    def drives_radially(self) -> bool:
        """Can it work on the side of a part in its chuck?"""
        return self.turns and self.c is not None and self.drive is not None and self.drive.radial

    @property
    def drives(self) -> bool:
        """Does it drive tools at all while the work stands?"""
        return self.drives_axially or self.drives_radially

    @property
    def driven(self) -> MachineCard:
        """The card as driven tools see it: their speed and power in the place of the spindle's; as it is where none are."""
        if self.drive is None:
            return self
        return msgspec.structs.replace(self, speed=self.drive.speed, power=self.drive.power, torque=0.0)

    @property
    def hands_over(self) -> bool:
        """Can it hand a part to a second spindle: is there one, and are there words for it?"""
        words = self.dialect
        return self.turns and self.second is not None and bool(words.choose_words and len(words.grip_words) == 4)

    @property
    def from_second(self) -> MachineCard:
        """The card as its second spindle sees it: Z from that one's face, out of its chuck, and no other one opposite; as
        it is where there is none."""
        if self.second is None:
            return self
        far = self.second.faces
        x, y, z = self.home
        there = Travel(far - self.z.hi, far - self.z.lo)
        aside = Travel(-self.y.hi, -self.y.lo)
        return msgspec.structs.replace(
            self,
            z=there,
            y=aside,
            home=(x, -y, far - z),
            speed=self.second.speed,
            power=self.second.power,
            torque=0.0,
            second=None,
            bush=None,
        )

    @property
    def travels(self) -> list[tuple[int, str, Travel]]:
        """The axes that the machine has, each with its number (0 for X), its letter, and where it can go."""
        axes = [(0, "X", self.x), (1, "Y", self.y), (2, "Z", self.z)]
        return [axis for axis in axes if axis[1] != "Y" or self.has_y]

    @property
    def has_y(self) -> bool:
        """Is there a Y axis? A mill has one, and a turning machine that says how far it goes."""
        return not self.turns or self.y.hi > self.y.lo

    def in_unit(self, unit: Unit) -> MachineCard:
        """The same card with its lengths in another unit."""
        k = scale(self.unit, unit)
        if k == 1.0:
            return self
        plain = ("rapid", "feed_most", "acceleration", "peck_clearance", "chip_break", "pull_off")
        changed: dict[str, object] = {name: getattr(self, name) * k for name in plain}
        for axis in ("x", "y", "z"):
            travel = getattr(self, axis)
            changed[axis] = Travel(travel.lo * k, travel.hi * k)
        changed["home"] = tuple(v * k for v in self.home)
        if self.drive is not None:
            changed["drive"] = msgspec.structs.replace(self.drive, body=self.drive.body * k)
        if self.second is not None:
            own, places = self.second, ("home", "apart", "jaws", "deep")
            changed["second"] = msgspec.structs.replace(
                own,
                w=Travel(own.w.lo * k, own.w.hi * k),
                takes=(own.takes[0] * k, own.takes[1] * k),
                **{name: getattr(own, name) * k for name in places},
            )
        if self.bush is not None:
            changed["bush"] = GuideBush(*(length * k for length in msgspec.structs.astuple(self.bush)))
        return msgspec.structs.replace(self, unit=unit, **changed)
