"""Materials and machine cards as flat forms: what is edited in the crib, a question for every constant.

A form is made from the thing, changed field by field, and made into the thing again; bounds stand with the questions.
"""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal, NamedTuple

import msgspec

from bastler.ask import Trouble, ask, choose, is_, isnt, pick
from bastler.cutting import Material
from bastler.language import tr
from bastler.machines import Dialect, Drive, GuideBush, MachineCard, SecondSpindle, SerialLine, SpindleAxis, Travel
from bastler.machines.template import template_fault
from bastler.units import Kind, Unit, scale

NAMED, SPEEDS, FEEDS, FORCE = "Named", "Cutting speed", "Feed", "Cutting force"
AXES, SPINDLE, MOVING, CONSTANTS, CAN = "Travels", "Spindle", "Moving", "Constants in the program", "It can"
WORDS, NUMBERS, CYCLES, FRAME, DRIVEN, SECOND, BUSH, FILES, LINE = (
    "Words", "Numbers", "Cycles", "Begin and end", "Driven tools", "Second spindle", "Guide bush", "As a file", "Serial line",
)  # fmt: skip
YES_NO = {True: "Yes", False: "No"}
GROUPS = {
    "P": "P, steel",
    "M": "M, stainless",
    "K": "K, cast iron",
    "N": "N, non-ferrous",
    "S": "S, heat-resistant",
    "H": "H, hardened",
}
AT_MM = 10.0
"""Feeds are asked for a tool of this diameter in mm; they grow with it."""
FILE_END = re.compile(r"\.[A-Za-z0-9]{1,8}")
SEVERAL = (
    "cycles", "turn_cycles", "feed_codes", "increments", "c_words", "clamp_words", "drive_words", "polar_words", "wrapped_words",
    "choose_words", "together_words", "grip_words", "push_words", "air_words", "catch_words", "centre_words", "bar_words",
)  # fmt: skip
"""Constants of several words, edited as one line."""
CODE = re.compile(r"G\d{1,3}")

_PAIRS = ("takes_lo", "takes_hi", "second_lo", "second_hi", "push_lo", "push_hi")
_mill = is_("kind", "mill-3")
_lathe = isnt("kind", "mill-3")
_turns_to = is_("c_axis", True)
"""Can the work be turned to an angle?"""
_two = is_("second", True)
"""Is there a second spindle?"""
_slides = is_("bushed", True)
"""Does the bar slide through a guide bush?"""


def _calls(form: DialectForm) -> bool:
    """Is there anything that could be a subprogram?"""
    return _mill(form) or _two(form)


def _with_y(s: Any) -> bool:
    return bool(s.kind == "mill-3" or s.c_axis)


_serial = is_("serial", True)


def _drives(s: Any) -> bool:
    return bool(s.c_axis and _numbers(s.drive_stations))


def _numbers(text: str) -> tuple[int, ...]:
    """The whole numbers in a text, each once, in order."""
    return tuple(sorted({int(word) for word in re.findall(r"\d{1,3}", text)} - {0}))


class MaterialForm(msgspec.Struct, frozen=True, kw_only=True):
    """A material for editing. Metric, whatever the job is in."""

    id: str
    unit: Unit = "mm"
    name: Annotated[str, pick("Called", "name", NAMED)]
    group: Annotated[Literal["P", "M", "K", "N", "S", "H"], choose("Group of ISO 513", GROUPS, NAMED)]
    hardness: Annotated[str, pick("Hardness", "word", NAMED)]
    coolant: Annotated[
        Literal["flood", "mist", "dry"], choose("Cut with", {"flood": "Flood", "mist": "Mist", "dry": "Dry"}, NAMED)
    ]
    carbide_low: Annotated[float, ask("Carbide, careful", Kind.CUTTING_SPEED, SPEEDS, above=0, most=5000, symbol="vc")]
    carbide_high: Annotated[float, ask("Carbide, brisk", Kind.CUTTING_SPEED, SPEEDS, above=0, most=5000, symbol="vc")]
    hss_cuts: Annotated[bool, choose("HSS cuts it", YES_NO, SPEEDS)]
    hss_low: Annotated[float, ask("HSS, careful", Kind.CUTTING_SPEED, SPEEDS, above=0, most=1000, symbol="vc")]
    hss_high: Annotated[float, ask("HSS, brisk", Kind.CUTTING_SPEED, SPEEDS, above=0, most=1000, symbol="vc")]
    fz_carbide: Annotated[
        float,
        ask(
            "Carbide mill Ø10",
            Kind.FEED_PER_TOOTH,
            FEEDS,
            above=0,
            most=1,
            symbol="fz",
            helps="A tooth; it grows with the diameter.",
        ),
    ]
    fz_hss: Annotated[float, ask("HSS mill Ø10", Kind.FEED_PER_TOOTH, FEEDS, above=0, most=1, symbol="fz")]
    f_carbide: Annotated[float, ask("Carbide drill Ø10", Kind.FEED_PER_TOOTH, FEEDS, above=0, most=2, symbol="f")]
    f_hss: Annotated[float, ask("HSS drill Ø10", Kind.FEED_PER_TOOTH, FEEDS, above=0, most=2, symbol="f")]
    slot: Annotated[
        float, ask("Depth in a full slot", Kind.PERCENT, FEEDS, least=1, most=300, symbol="ap", helps="Of the tool's diameter.")
    ]
    kc11: Annotated[float, ask("Specific force kc1.1", Kind.STRESS, FORCE, least=50, most=10_000, helps="At a chip of 1 × 1 mm.")]
    mc: Annotated[float, ask("Its rise for thin chips", Kind.NUMBER, FORCE, least=0, most=0.6, symbol="mc")]

    @staticmethod
    def of(work: Material) -> MaterialForm:
        """The form of a material."""
        (cl, ch), (hl, hh) = work.vc["carbide"], work.vc["hss"]
        return MaterialForm(
            id=work.id, name=work.name, group=work.group, hardness=work.hardness, coolant=work.coolant, carbide_low=cl,
            carbide_high=ch, hss_low=hl, hss_high=hh, fz_carbide=_at_mm(work.fz["carbide"]), fz_hss=_at_mm(work.fz["hss"]),
            f_carbide=_at_mm(work.drill_f["carbide"]), f_hss=_at_mm(work.drill_f["hss"]), slot=round(100 * work.slot_ap, 6),
            kc11=work.kc11, mc=work.mc, hss_cuts="hss" in work.cut_by,
        )  # fmt: skip

    def material(self) -> Material:
        """The material of the form. A range typed the wrong way round is turned."""
        return Material(
            id=self.id, name=self.name, group=self.group, hardness=self.hardness, coolant=self.coolant,
            kc11=self.kc11, mc=self.mc,
            vc={"carbide": _range(self.carbide_low, self.carbide_high), "hss": _range(self.hss_low, self.hss_high)},
            fz={"carbide": _share(self.fz_carbide), "hss": _share(self.fz_hss)},
            drill_f={"carbide": _share(self.f_carbide), "hss": _share(self.f_hss)}, slot_ap=round(self.slot / 100, 9),
            cut_by=("hss", "carbide") if self.hss_cuts else ("carbide",),
        )  # fmt: skip


def _at_mm(share: float) -> float:
    return round(share * AT_MM, 6)


def _share(at_mm: float) -> float:
    return round(at_mm / AT_MM, 9)


def _range(a: float, b: float) -> tuple[float, float]:
    return (min(a, b), max(a, b))


class CardForm(msgspec.Struct, frozen=True, kw_only=True):
    """What a machine is and can do, for editing; lengths in `unit`."""

    id: str
    unit: Unit
    kind: Literal["mill-3", "lathe-2"]
    name: Annotated[str, pick("Called", "word", NAMED)]
    says: Annotated[str, pick("In a line", "name", NAMED)]
    x_lo: Annotated[float, ask("X from", Kind.LENGTH, AXES)]
    x_hi: Annotated[float, ask("X to", Kind.LENGTH, AXES)]
    y_lo: Annotated[float, ask("Y from", Kind.LENGTH, AXES, when=_with_y)]
    y_hi: Annotated[float, ask("Y to", Kind.LENGTH, AXES, when=_with_y, helps="From and to 0 where there is none.")]
    z_lo: Annotated[float, ask("Z from", Kind.LENGTH, AXES)]
    z_hi: Annotated[float, ask("Z to", Kind.LENGTH, AXES)]
    home_x: Annotated[float, ask("Home X", Kind.LENGTH, AXES)]
    home_y: Annotated[float, ask("Home Y", Kind.LENGTH, AXES, when=_with_y)]
    home_z: Annotated[float, ask("Home Z", Kind.LENGTH, AXES)]
    stations: Annotated[int, ask("Stations", Kind.COUNT, AXES, least=1, most=200, helps="Of the magazine or the turret.")]
    speed_lo: Annotated[float, ask("Slowest", Kind.SPINDLE_SPEED, SPINDLE, least=0)]
    speed_hi: Annotated[float, ask("Fastest", Kind.SPINDLE_SPEED, SPINDLE, above=0)]
    power: Annotated[float, ask("Power", Kind.POWER, SPINDLE, above=0, most=1000)]
    efficiency: Annotated[float, ask("Efficiency", Kind.PERCENT, SPINDLE, least=10, most=100, helps="Of motor and gears.")]
    torque: Annotated[float, ask("Torque", Kind.TORQUE, SPINDLE, least=0, most=100_000, helps="0 where it is not known.")]
    spindle_up: Annotated[float, ask("Rest to full speed", Kind.TIME, SPINDLE, least=0, most=60, when=_lathe)]
    rapid: Annotated[float, ask("Rapid", Kind.FEED_RATE, MOVING, above=0)]
    feed_most: Annotated[float, ask("Fastest feed", Kind.FEED_RATE, MOVING, above=0)]
    acceleration: Annotated[float, ask("Acceleration", Kind.ACCELERATION, MOVING, above=0)]
    tool_change_time: Annotated[float, ask("Tool change takes", Kind.TIME, MOVING, least=0, most=600)]
    peck_clearance: Annotated[
        float,
        ask("Rapid back into a hole ends", Kind.LENGTH, CONSTANTS, above=0, helps="So far above where the last peck ended."),
    ]
    chip_break: Annotated[float, ask("Chip break pulls off", Kind.LENGTH, CONSTANTS, above=0)]
    pull_off: Annotated[float, ask("Bars pull off the wall", Kind.LENGTH, CONSTANTS, least=0, when=_lathe)]
    thread_delay: Annotated[float, ask("Slide is true after", Kind.TIME, CONSTANTS, least=0, most=5, when=_lathe)]
    rigid_tapping: Annotated[bool, choose("Rigid tapping", YES_NO, CAN)]
    coolant: Annotated[bool, choose("Coolant", YES_NO, CAN)]
    encoder: Annotated[bool, choose("Spindle encoder", YES_NO, CAN, when=_lathe)]
    surface_speed: Annotated[bool, choose("Constant surface speed", YES_NO, CAN, when=_lathe)]
    serial: Annotated[bool, choose("Has a serial line", YES_NO, LINE, helps="Programs go over it, besides as files.")]
    baud: Annotated[int, ask("Baud", Kind.COUNT, LINE, least=50, most=4_000_000, when=_serial)]
    bits: Annotated[Literal[7, 8], choose("Bits", {7: "7", 8: "8"}, LINE, when=_serial)]
    parity: Annotated[
        Literal["none", "even", "odd"], choose("Parity", {"none": "None", "even": "Even", "odd": "Odd"}, LINE, when=_serial)
    ]
    stop_bits: Annotated[Literal[1, 2], choose("Stop bits", {1: "1", 2: "2"}, LINE, when=_serial)]
    flow: Annotated[
        Literal["software", "hardware", "none"],
        choose(
            "Waits by", {"software": "Signs", "hardware": "Wires", "none": "Never"}, LINE, when=_serial,
            helps="Signs: XON and XOFF. Wires: RTS and CTS.",
        ),
    ]  # fmt: skip
    leader: Annotated[int, ask("Zeros before and behind", Kind.COUNT, LINE, least=0, most=10_000, when=_serial)]
    c_axis: Annotated[bool, choose("Spindle is an axis (C)", YES_NO, DRIVEN, when=_lathe)]
    c_resolution: Annotated[float, ask("C is true to", Kind.ANGLE, DRIVEN, above=0, most=1, when=_turns_to)]
    c_rapid: Annotated[float, ask("C's rapid, ° a minute", Kind.NUMBER, DRIVEN, above=0, most=1e6, when=_turns_to)]
    c_holds: Annotated[
        float, ask("Holds unclamped", Kind.TORQUE, DRIVEN, least=0, most=100_000, when=_turns_to, helps="What its brake bears.")
    ]
    drive_stations: Annotated[
        str, pick("Driven stations", "word", DRIVEN, when=_turns_to, helps="Their numbers, as 2 4 6. None: no driven tools.")
    ]
    drive_lo: Annotated[float, ask("Driven tools, slowest", Kind.SPINDLE_SPEED, DRIVEN, least=0, when=_drives)]
    drive_hi: Annotated[float, ask("Driven tools, fastest", Kind.SPINDLE_SPEED, DRIVEN, above=0, when=_drives)]
    drive_power: Annotated[float, ask("Their power", Kind.POWER, DRIVEN, above=0, most=1000, when=_drives)]
    drive_axial: Annotated[bool, choose("They stand along Z", YES_NO, DRIVEN, when=_drives)]
    drive_radial: Annotated[bool, choose("They stand along X", YES_NO, DRIVEN, when=_drives)]
    drive_angular: Annotated[
        Literal["axial", "radial"],
        choose(
            "Angular holders", {"axial": "Along Z", "radial": "Along X"}, DRIVEN, when=_drives, helps="Of tools that stand so."
        ),
    ]  # fmt: skip
    drive_body: Annotated[
        float,
        ask(
            "Their body reaches", Kind.LENGTH, DRIVEN, least=0, when=_drives, helps="From the tool to the turret; 0: not known."
        ),
    ]  # fmt: skip
    second: Annotated[bool, choose("There is one", YES_NO, SECOND, when=_lathe)]
    w_lo: Annotated[float, ask("W from", Kind.LENGTH, SECOND, when=_two, helps="Along Z, away from the main spindle.")]
    w_hi: Annotated[float, ask("W to", Kind.LENGTH, SECOND, when=_two)]
    w_home: Annotated[float, ask("It works with W at", Kind.LENGTH, SECOND, when=_two)]
    apart: Annotated[float, ask("Faces apart at W 0", Kind.LENGTH, SECOND, above=0, when=_two, helps="From spindle to spindle.")]
    jaws: Annotated[float, ask("Its jaws' face stands", Kind.LENGTH, SECOND, above=0, when=_two, helps="Before its own face.")]
    deep: Annotated[float, ask("Parts go in", Kind.LENGTH, SECOND, above=0, when=_two, helps="From the jaws' face to the seat.")]
    takes_lo: Annotated[float, ask("Jaws close from Ø", Kind.LENGTH, SECOND, least=0, when=_two)]
    takes_hi: Annotated[float, ask("To Ø", Kind.LENGTH, SECOND, above=0, when=_two)]
    second_lo: Annotated[float, ask("Slowest", Kind.SPINDLE_SPEED, SECOND, least=0, when=_two)]
    second_hi: Annotated[float, ask("Fastest", Kind.SPINDLE_SPEED, SECOND, above=0, when=_two)]
    second_power: Annotated[float, ask("Power", Kind.POWER, SECOND, above=0, most=1000, when=_two)]
    push_lo: Annotated[float, ask("Pushes from", Kind.FORCE, SECOND, least=0, most=1e6, when=_two)]
    push_hi: Annotated[float, ask("Pushes up to", Kind.FORCE, SECOND, least=0, most=1e6, when=_two)]

    bushed: Annotated[
        bool,
        choose(
            "The headstock slides", YES_NO, BUSH, when=_lathe,
            helps="The bar comes through a guide bush, and the tools stand still along Z.",
        ),
    ]  # fmt: skip
    bush_long: Annotated[float, ask("Bush is long", Kind.LENGTH, BUSH, above=0, when=_slides)]
    bush_before: Annotated[float, ask("Tools stand before it", Kind.LENGTH, BUSH, least=0, when=_slides)]
    bush_keeps: Annotated[
        float,
        ask(
            "It keeps of the bar",
            Kind.LENGTH,
            BUSH,
            above=0,
            when=_slides,
            helps="So much that nothing was turned off has to be in it.",
        ),
    ]
    bush_stroke: Annotated[float, ask("Headstock slides by", Kind.LENGTH, BUSH, above=0, when=_slides)]

    @staticmethod
    def of(card: MachineCard) -> CardForm:
        """The form of a card."""
        plain = {name: getattr(card, name) for name in CardForm.__struct_fields__ if hasattr(card, name)}
        plain |= {f"{axis}_{end}": getattr(getattr(card, axis), end) for axis in "xyz" for end in ("lo", "hi")}
        plain |= dict(zip(("home_x", "home_y", "home_z"), card.home, strict=True))
        plain |= {"speed_lo": card.speed[0], "speed_hi": card.speed[1], "efficiency": round(100 * card.efficiency, 6)}
        c, drive = card.c or SpindleAxis(0.01, 10_000.0, 20.0), card.drive or Drive((), (50.0, 4000.0), card.power / 4)
        plain |= {"c_axis": card.c is not None} | {f"c_{name}": getattr(c, name) for name in SpindleAxis.__struct_fields__}
        plain |= {f"drive_{name}": getattr(drive, name) for name in ("power", "axial", "radial", "angular", "body")}
        plain |= {"drive_lo": drive.speed[0], "drive_hi": drive.speed[1]}
        plain["drive_stations"] = " ".join(map(str, drive.stations)) if card.drive is not None else ""
        line = card.line or SerialLine()
        plain |= {"serial": card.line is not None} | {name: getattr(line, name) for name in SerialLine.__struct_fields__}
        two = card.second or _usual_second(card)
        plain |= {"second": card.second is not None} | {name: getattr(two, name) for name in ("apart", "jaws", "deep")}
        plain |= {"w_lo": two.w.lo, "w_hi": two.w.hi, "w_home": two.home, "second_power": two.power}
        bush = card.bush or _usual_bush(card)
        plain |= {"bushed": card.bush is not None} | {f"bush_{name}": getattr(bush, name) for name in GuideBush.__struct_fields__}
        plain |= dict(zip(_PAIRS, (*two.takes, *two.speed, *two.push), strict=True))
        return CardForm(**plain)

    def onto(self, card: MachineCard) -> MachineCard:
        """The card as the form has it; its dialect stays. Ranges typed the wrong way round are turned."""
        names = set(CardForm.__struct_fields__) & set(MachineCard.__struct_fields__) - {"second"}
        plain = {name: getattr(self, name) for name in names}
        travels = {axis: Travel(*_range(getattr(self, f"{axis}_lo"), getattr(self, f"{axis}_hi"))) for axis in "xyz"}
        more = {"home": (self.home_x, self.home_y, self.home_z), "speed": _range(self.speed_lo, self.speed_hi)}
        axis = SpindleAxis(self.c_resolution, self.c_rapid, self.c_holds) if self.c_axis else None
        return msgspec.structs.replace(
            card,
            **(plain | travels | more | {"efficiency": self.efficiency / 100, "c": axis, "drive": self._drive()}),
            second=self._second(),
            bush=GuideBush(self.bush_long, self.bush_before, self.bush_keeps, self.bush_stroke) if self.bushed else None,
            line=SerialLine(self.baud, self.bits, self.parity, self.stop_bits, self.flow, self.leader) if self.serial else None,
        )

    def _second(self) -> SecondSpindle | None:
        if not self.second:
            return None
        return SecondSpindle(
            Travel(*_range(self.w_lo, self.w_hi)), self.w_home, self.apart, self.jaws, self.deep,
            _range(self.takes_lo, self.takes_hi), _range(self.second_lo, self.second_hi), self.second_power,
            _range(self.push_lo, self.push_hi),
        )  # fmt: skip

    def _drive(self) -> Drive | None:
        """What drives tools; none without C, which they work with."""
        stations = _numbers(self.drive_stations)
        if not self.c_axis or not stations:
            return None
        speed = _range(self.drive_lo, self.drive_hi)
        return Drive(
            stations,
            speed,
            self.drive_power,
            axial=self.drive_axial,
            radial=self.drive_radial,
            angular=self.drive_angular,
            body=self.drive_body,
        )


def _usual_second(card: MachineCard) -> SecondSpindle:
    """A second spindle that would fit a machine."""
    long, mm = card.z.hi - card.z.lo, scale("mm", card.unit)
    return SecondSpindle(
        Travel(-long, 0.0), 0.0, long + 250 * mm, 60 * mm, 25 * mm, (8 * mm, 100 * mm), card.speed, card.power, (200.0, 2000.0)
    )


def _usual_bush(card: MachineCard) -> GuideBush:
    """A guide bush that would fit a machine."""
    mm = scale("mm", card.unit)
    return GuideBush(36 * mm, 1.5 * mm, 8 * mm, min(140 * mm, max(card.z.hi - card.z.lo, mm)))


class DialectForm(msgspec.Struct, frozen=True, kw_only=True):
    """How the machine wants its words, for editing. `turning` leaves away what only mills have, and the other way round."""

    id: str
    kind: Literal["mill-3", "lathe-2"]
    c_axis: bool
    second: bool
    decimals_mm: Annotated[int, ask("Decimals in mm", Kind.COUNT, NUMBERS, least=1, most=6)]
    decimals_inch: Annotated[int, ask("Decimals in inch", Kind.COUNT, NUMBERS, least=1, most=6)]
    point: Annotated[bool, choose("Always a decimal point", YES_NO, NUMBERS, helps="Where 5 would be five thousandths.")]
    dwell_unit: Annotated[Literal["s", "ms"], choose("Dwells are in", {"s": "Seconds", "ms": "Milliseconds"}, NUMBERS)]
    fine: Annotated[
        bool,
        choose(
            "Least increment", {False: "0.001 mm", True: "0.0001 mm"}, NUMBERS,
            when=lambda s: "increment" in (s.peck_unit, s.thread_unit),
            helps="What a depth without a point counts in; with inches 0.0001 and 0.00001.",
        ),
    ]  # fmt: skip
    peck_unit: Annotated[
        Literal["length", "increment"],
        choose("Pecks Q are in", {"length": "Lengths", "increment": "Least increments"}, NUMBERS, when=_mill),
    ]
    thread_unit: Annotated[
        Literal["length", "increment"],
        choose("Thread depths are in", {"length": "Lengths", "increment": "Least increments"}, NUMBERS, when=_lathe),
    ]
    comment: Annotated[
        Literal["brackets", "semicolon"], choose("Comments", {"brackets": "(in brackets)", "semicolon": "; behind"}, WORDS)
    ]
    upper_case: Annotated[bool, choose("Comments in capitals", YES_NO, WORDS)]
    line_numbers: Annotated[bool, choose("Number the lines", YES_NO, WORDS)]
    line_step: Annotated[int, ask("By", Kind.COUNT, WORDS, least=1, most=1000, when=lambda s: s.line_numbers)]
    stage_numbers: Annotated[
        bool,
        choose("Number the stages", YES_NO, WORDS, when=lambda s: not s.line_numbers, helps="N where one can begin."),
    ]
    tool_stops: Annotated[bool, choose("Stop before a tool", YES_NO, WORDS, helps="M1, which the switch at the control decides.")]
    tool_ahead: Annotated[
        bool, choose("Next tool called ahead", YES_NO, WORDS, when=_mill, helps="Its T stands behind the change before it.")
    ]
    tool_call: Annotated[str, pick("Tool call", "word", WORDS, helps="{tool} stands for the number, {offset} for the offset.")]
    length_on: Annotated[str, pick("Length offset", "word", WORDS, when=_mill)]
    helical: Annotated[bool, choose("Helical arcs", YES_NO, CYCLES, when=_mill, helps="Else a helix is written as short lines.")]
    cycles: Annotated[str, pick("Canned cycles", "word", CYCLES, helps="As G81 G83. What is not here is written long-hand.")]
    subprograms: Annotated[
        bool, choose("Subprograms", YES_NO, CYCLES, when=_calls, helps="M98 P… for repeats and hand-overs; else all in line.")
    ]
    formulas: Annotated[
        bool, choose("Parameters and formulas", YES_NO, CYCLES, helps="Reads #1 and [2*#1+3]. Nothing written here needs them.")
    ]
    extended_offsets: Annotated[
        int,
        ask("More work offsets", Kind.COUNT, WORDS, least=0, most=999, when=_mill, helps="Besides G54 to G59: G54.1 P1 and on."),
    ]
    diameter_x: Annotated[bool, choose("X is a diameter", YES_NO, NUMBERS, when=_lathe)]
    tool_digits: Annotated[int, ask("Digits of a tool", Kind.COUNT, WORDS, least=1, most=4, when=_lathe)]
    feed_codes: Annotated[str, pick("Feed a minute, a turn", "word", WORDS, when=_lathe, helps="Two words, as G94 G95.")]
    increments: Annotated[str, pick("Letters that move by", "word", WORDS, when=_lathe, helps="Along X and Z, as U W.")]
    speed_cap: Annotated[str, pick("Speed limit", "word", WORDS, when=_lathe, helps="{speed} stands for it.")]
    thread_code: Annotated[Literal["G32", "G33"], choose("One thread pass", {"G32": "G32", "G33": "G33"}, CYCLES, when=_lathe)]
    turn_cycles: Annotated[
        str, pick("Turning cycles", "word", CYCLES, when=_lathe, helps="As G76, G70 G71; G90 G92 G94 where these are boxes.")
    ]
    cycle_lines: Annotated[Literal[1, 2], choose("Lines of a cycle", {1: tr("One"), 2: tr("Two")}, CYCLES, when=_lathe)]
    c_words: Annotated[str, pick("C on, off", "word", DRIVEN, when=_turns_to, helps="Two words, as M34 M35.")]
    clamp_words: Annotated[str, pick("Clamp, free", "word", DRIVEN, when=_turns_to, helps="Two words; none where it has none.")]
    drive_words: Annotated[str, pick("Tool on, back, off", "word", DRIVEN, when=_turns_to, helps="Three words.")]
    polar_words: Annotated[
        str, pick("Polar on, off", "word", DRIVEN, when=_turns_to, helps="As G12.1 G13.1; none where it has none.")
    ]
    wrapped_words: Annotated[
        str,
        pick("On the round on, off", "word", DRIVEN, when=_turns_to, helps="As G7.1 G7.1: with the radius in C, and with C0."),
    ]
    catch_words: Annotated[
        str, pick("Catcher under, away", "word", SECOND, when=_lathe, helps="Two words; none where parts drop.")
    ]
    centre_words: Annotated[
        str, pick("Centre in, out", "word", SECOND, when=_lathe, helps="Of the tailstock; none where it is moved by hand.")
    ]
    bar_words: Annotated[
        str, pick("Feeder brings the bar", "word", SECOND, when=_lathe, helps="One word; none where there is no feeder.")
    ]
    choose_words: Annotated[
        str, pick("S, M3 and C mean", "word", SECOND, when=_two, helps="The main spindle, the second one, as M23 M24.")
    ]
    together_words: Annotated[
        str, pick("In step", "word", SECOND, when=_two, helps="By speed, by speed and angle, each by itself: three words.")
    ]
    grip_words: Annotated[
        str,
        pick("Chucks", "word", SECOND, when=_lathe, helps="The main one closes, opens; with a second one that closes, opens."),
    ]
    push_words: Annotated[str, pick("Push, let go", "word", SECOND, when=_two, helps="The first with newtons in P.")]
    skip_word: Annotated[str, pick("Until it meets", "word", SECOND, when=_two, helps="As G31, the window in Q.")]
    air_words: Annotated[str, pick("Air on, off", "word", SECOND, when=_two, helps="Two words; none where it has none.")]
    suffix: Annotated[str, pick("Files end in", "word", FILES, helps="As .nc.")]
    name_length: Annotated[int, ask("Letters of a name", Kind.COUNT, FILES, least=1, most=80, helps="At most, before its end.")]
    upper_names: Annotated[bool, choose("Names in capitals", YES_NO, FILES)]
    names_by_number: Annotated[bool, choose("Named by number", YES_NO, FILES, helps="As O1010, whatever the part is called.")]
    line_ends: Annotated[Literal["lf", "crlf", "cr"], choose("Lines end in", {"lf": "LF", "crlf": "CR LF", "cr": "CR"}, FILES)]
    tape_marks: Annotated[bool, choose("% at begin and end", YES_NO, FRAME)]
    program_word: Annotated[str, pick("Program number", "word", FRAME, helps="{number:04d} stands for it, with four digits.")]
    safe_start: Annotated[str, pick("First words", "word", FRAME)]
    end: Annotated[str, pick("Last word", "word", FRAME)]

    @staticmethod
    def of(card: MachineCard) -> DialectForm:
        """The form of a card's dialect."""
        own = card.dialect
        names = set(DialectForm.__struct_fields__) & set(Dialect.__struct_fields__)
        plain = {name: getattr(own, name) for name in names} | {name: " ".join(getattr(own, name)) for name in SEVERAL}
        return DialectForm(id=card.id, kind=card.kind, c_axis=card.c is not None, second=card.second is not None, **plain)

    def onto(self, card: MachineCard) -> MachineCard:
        """The card with this dialect."""
        names = set(DialectForm.__struct_fields__) & set(Dialect.__struct_fields__)
        plain = {name: getattr(self, name) for name in names}
        for name in ("cycles", "turn_cycles"):
            plain[name] = tuple(CODE.findall(plain[name].upper()))
        for name, rule in WORDS_OF.items():  # while one is being typed the old ones hold
            words = tuple(plain[name].upper().split())
            plain[name] = words if rule.fits(words) else getattr(card.dialect, name)
        plain["increments"] = plain["increments"] or ("", "")
        plain["skip_word"] = plain["skip_word"].strip().upper()
        return msgspec.structs.replace(card, dialect=msgspec.structs.replace(card.dialect, **plain))


class _Words(NamedTuple):
    """How many words a field holds, what each is, and whether there may be none."""

    many: int
    each: re.Pattern[str]
    such_as: str
    none: bool = True
    or_many: int = 0
    """Another number of them that will do."""

    def fits(self, words: tuple[str, ...]) -> bool:
        return (self.none and not words) or (len(words) in (self.many, self.or_many) and all(map(self.each.fullmatch, words)))

    @property
    def says(self) -> str:
        """What the field has to be."""
        names = (tr("One"), tr("Two"), tr("Three"), tr("Four"))
        counted = (
            names[self.many - 1]
            if not self.or_many
            else tr("{one} or {two}", one=names[self.or_many - 1], two=names[self.many - 1].lower())
        )
        counted += tr(" word") if self.many == 1 else tr(" words")
        return tr(
            "{counted}, such as {such_as}{none}.",
            counted=counted,
            such_as=self.such_as,
            none=tr(", or none") if self.none else "",
        )


M_KNOWN = frozenset((0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 30, 48, 49, 98, 99))
"""M words of RS-274/NGC that mean the same on all machines."""
_G, _M = re.compile(r"G\d{1,3}(\.\d)?"), re.compile(r"M\d{1,3}")
WORDS_OF = {
    "feed_codes": _Words(2, _G, "G94 G95", none=False),
    "increments": _Words(2, re.compile(r"[A-Z]"), "U W"),
    "c_words": _Words(2, _M, "M34 M35"),
    "clamp_words": _Words(2, _M, "M36 M37"),
    "drive_words": _Words(3, _M, "M53 M54 M55"),
    "polar_words": _Words(2, _G, "G12.1 G13.1"),
    "wrapped_words": _Words(2, _G, "G7.1 G7.1"),
    "choose_words": _Words(2, _M, "M23 M24"),
    "together_words": _Words(3, _M, "M61 M62 M60"),
    "grip_words": _Words(4, _M, "M10 M11 M20 M21", or_many=2),
    "push_words": _Words(2, _M, "M71 M72"),
    "air_words": _Words(2, _M, "M27 M28"),
    "catch_words": _Words(2, _M, "M73 M74"),
    "centre_words": _Words(2, _M, "M25 M26"),
    "bar_words": _Words(1, _M, "M66"),
}
"""Fields that hold several words each."""
PLACES = {
    "tool_call": ("tool", "offset"), "length_on": ("tool",), "program_word": ("number",), "speed_cap": ("speed",), "end": (),
    "safe_start": (),
}  # fmt: skip
"""What may stand in braces in which words."""


def word_fault(form: DialectForm) -> tuple[str, str] | None:
    """A pattern of words that cannot be filled in: its field, and why."""
    for field, names in PLACES.items():
        if why := template_fault(getattr(form, field), names):
            return field, why
    for field, rule in WORDS_OF.items():
        if not rule.fits(tuple(getattr(form, field).upper().split())):
            return field, rule.says
    if form.c_axis and not form.c_words:
        return "c_words", WORDS_OF["c_words"]._replace(none=False).says
    if twice := _meant_twice(form):
        return twice
    boxes = {"G90", "G92", "G94"} & set(CODE.findall(form.turn_cycles.upper())) if form.kind != "mill-3" else set()
    for field, text in (("safe_start", form.safe_start), ("feed_codes", form.feed_codes)):
        if both := sorted(boxes & set(text.upper().split())):
            return field, tr("{both} is a turning cycle on this machine.", both=both[0])
    for field in ("choose_words", "grip_words") if form.second else ():
        rule = WORDS_OF[field]._replace(none=False, or_many=0)
        if not rule.fits(tuple(getattr(form, field).upper().split())):
            return field, rule.says
    if form.second and "W" in form.increments.upper().split():
        return "increments", tr("W is the axis of the second spindle: another letter moves by Z.")
    if not FILE_END.fullmatch(form.suffix):
        return "suffix", tr("A point and letters or digits, such as .nc.")
    if form.skip_word and not CODE.fullmatch(form.skip_word.strip().upper()):
        return "skip_word", tr("A word such as G31, or none.")
    return None


def _meant_twice(form: DialectForm) -> tuple[str, str] | None:
    """A word that would mean two things, or one that means something on all machines: the field, and why it cannot be."""
    meant: dict[str, str] = {}
    for field in (name for name, rule in WORDS_OF.items() if rule.each is _M):
        for word in getattr(form, field).upper().split():
            number = word[1:].lstrip("0") or "0"
            if int(number) in M_KNOWN:
                return field, tr("{word} means something else on all machines.", word=word)
            if meant.setdefault(number, field) != field or getattr(form, field).upper().split().count(word) > 1:
                return field, tr("{word} would mean two things.", word=word)
    return None


def card_troubles(card: MachineCard) -> list[Trouble]:
    """A machine card whose words cannot be filled in: no program can be written for it."""
    fault = word_fault(DialectForm.of(card))
    if not fault and card.bush is not None and card.bush.keeps >= card.bush.long:
        fault = "bush_keeps", tr("the bush cannot keep more of the bar than it is long.")
    return [Trouble("machine", tr("The card of {name} cannot be used: {fault}", name=card.name, fault=fault[1]))] if fault else []
