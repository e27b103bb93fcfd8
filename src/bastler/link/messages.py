"""What is said between a window and a machine: one JSON object a line, in UTF-8, over a stream.

A *request* says what to `do` and has a number, `id`; the *answer* to it has the same number, is `ok` or says `why` not, and may
bring something. Between them come *reports*, which nobody asked for: the status of the control, and the moves it has made. All
lengths are in the unit that `Hello` and every status name, feeds a minute, angles in degrees; places of axes are those of the
machine, X as a radius on a turning one. A link to a real control may speak the same: what it cannot do it refuses.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

import msgspec

from bastler.proof.gauge import GaugeEnd
from bastler.units import Unit

PROTOCOL = 1
LONGEST = 8_000_000
"""Signs of a line: a program of some hundred thousand lines goes in one."""
Axis = Literal["x", "y", "z"]
Length = Annotated[float, msgspec.Meta(ge=-1e5, le=1e5)]
Share = Annotated[float, msgspec.Meta(ge=0.0, le=2.0)]
Number = Annotated[int, msgspec.Meta(ge=0, le=9999)]
Name = Annotated[str, msgspec.Meta(min_length=1, max_length=100)]


class Request(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, tag_field="do"):
    """The base of all requests."""

    id: Annotated[int, msgspec.Meta(ge=0, le=2**53)] = 0


class Hello(Request, frozen=True, tag="hello"):
    """Who are you? Brings the machine's card, the protocol, the unit, and what can be done."""


class Put(Request, frozen=True, tag="put"):
    """Keep a program under a name on the control's own disk. Brings the digest of what is there now."""

    name: Name
    text: str


class Get(Request, frozen=True, tag="get"):
    """The program of a name, as it lies on the control's disk."""

    name: Name


class Files(Request, frozen=True, tag="files"):
    """The names on the control's disk."""


class Select(Request, frozen=True, tag="select"):
    """This program is the one that runs."""

    name: Name


class Clamp(Request, frozen=True, tag="clamp"):
    """By hand: a new piece of stock is clamped as a holding of a job says. A machine that hands cannot reach refuses."""

    job: dict[str, Any]
    holding: str


class Load(Request, frozen=True, tag="load"):
    """By hand: a tool, by its id, is put into a station; a broken one is taken out for it. It is of the job that was clamped, or
    of one that is told."""

    station: Number
    tool: Name
    job: dict[str, Any] | None = None


class SetOffset(Request, frozen=True, tag="set-offset"):
    """A work offset gets values, 1 for G54; what is not given stays. `turn` is how far the part lies turned about its zero."""

    index: Number
    x: Length | None = None
    y: Length | None = None
    z: Length | None = None
    turn: Annotated[float, msgspec.Meta(ge=-360.0, le=360.0)] | None = None


class SetTool(Request, frozen=True, tag="set-tool"):
    """A tool offset gets values: the way from the tip to the machine's reference along its axes, the diameter it is taken for,
    and what is added to each as wear. What is not given stays."""

    number: Number
    x: Length | None = None
    z: Length | None = None
    diameter: Length | None = None
    wear_x: Length | None = None
    wear_z: Length | None = None
    wear_diameter: Length | None = None


class Jog(Request, frozen=True, tag="jog"):
    """An axis goes by a length, and stops where the tool meets something when it is to `feel` its way."""

    axis: Axis
    by: Length
    feel: bool = False
    fast: bool = False


class TakeUp(Request, frozen=True, tag="take-up"):
    """The tool of a station comes; 0 for the feeler: a ball on a shank whose size the control knows."""

    station: Number


class Turn(Request, frozen=True, tag="turn"):
    """The spindle turns so fast, backward below 0, stands at 0."""

    speed: Annotated[float, msgspec.Meta(ge=-1e6, le=1e6)]


class Start(Request, frozen=True, tag="start"):
    """The selected program runs, from a `line` counted from 1, or its begin at 0; there from the `time` th time that it comes to
    the line, from 1; it ends before it comes `to` a line, 0 for the program's own end. `dry` is how far over the part it goes
    without cutting. With `look` nothing moves: what would happen first is told."""

    line: Annotated[int, msgspec.Meta(ge=0, le=10_000_000)] = 0
    time: Annotated[int, msgspec.Meta(ge=1, le=1_000_000)] = 1
    to: Annotated[int, msgspec.Meta(ge=0, le=10_000_000)] = 0
    dry: Annotated[float, msgspec.Meta(ge=0.0, le=1e4)] = 0.0
    look: bool = False


class Hold(Request, frozen=True, tag="hold"):
    """The feed stops; the spindle goes on."""


class Resume(Request, frozen=True, tag="resume"):
    """On from a hold or a stop."""


class Reset(Request, frozen=True, tag="reset"):
    """The program is given up, an alarm is put out; the axes stay where they are."""


class Switches(Request, frozen=True, tag="switches"):
    """Single block, optional stop, block delete, and the shares of feed, rapid and speed. What is not given stays."""

    single: bool | None = None
    optional_stop: bool | None = None
    block_delete: bool | None = None
    feed: Share | None = None
    rapid: Annotated[float, msgspec.Meta(ge=0.0, le=1.0)] | None = None
    spindle: Annotated[float, msgspec.Meta(ge=0.5, le=1.2)] | None = None


class PowerOn(Request, frozen=True, tag="power-on"):
    """The control is switched on again after the power was gone."""


class Home(Request, frozen=True, tag="home"):
    """All axes go to their reference, that along the tool first; where they are is known from then on."""


class Tables(Request, frozen=True, tag="tables"):
    """All offsets."""


class Measure(Request, frozen=True, tag="measure"):
    """By hand: a size of the part between two faces is measured, each looked for `within` so much of where it should be; a
    diameter of turned work has one, a place those that it is the middle of and those that it is counted from. Across something
    `round` it is moved until it is on the middle. It is the part whose work `offset` that is, 0 for the first. Brings how far
    every end stands out, with the scatter of the measurement."""

    ends: Annotated[list[GaugeEnd], msgspec.Meta(min_length=1, max_length=8)]
    within: Annotated[float, msgspec.Meta(gt=0.0, le=100.0)]
    round: bool = False
    offset: Annotated[int, msgspec.Meta(ge=0, le=999)] = 0


class Preset(Request, frozen=True, tag="preset"):
    """By hand: the tool of a station is measured on the setter, with the scatter of a measurement. Brings `x` and `z`, the way
    from its tip to the machine's reference, and the `diameter` of one that turns."""

    station: Number


class Fault(Request, frozen=True, tag="fault"):
    """Of a stand-in: something goes wrong. The drill of a station breaks in its `hole` th hole; its insert is `by` further worn,
    or its tool softer; the power goes once `after` seconds of the program have run."""

    what: Literal["break", "wear", "power"]
    station: Number = 0
    hole: Number = 1
    by: Annotated[float, msgspec.Meta(ge=0.0, le=100.0)] = 0.0
    after: Annotated[float, msgspec.Meta(ge=0.0, le=1e6)] = 0.0


class Pace(Request, frozen=True, tag="pace"):
    """Of a stand-in: its clock goes so many times as fast as that on the wall."""

    times: Annotated[float, msgspec.Meta(gt=0.0, le=1000.0)]


AnyRequest = (
    Hello | Put | Get | Files | Select | Clamp | Load | SetOffset | SetTool | Jog | TakeUp | Turn | Start | Hold | Resume | Reset
    | Switches | PowerOn | Home | Tables | Measure | Preset | Fault | Pace
)  # fmt: skip


class WorkOffset(msgspec.Struct, frozen=True):
    """Where the zero of a work offset is in machine coordinates, and how far it is turned about it."""

    index: int
    x: float = 0.0
    y: float = 0.0
    z: float = 0.0
    turn: float = 0.0


class ToolOffset(msgspec.Struct, frozen=True):
    """What the control believes of a tool by the number of its offset, and what it has done: `minutes` of cutting, `pieces`."""

    number: int
    x: float = 0.0
    z: float = 0.0
    diameter: float = 0.0
    wear_x: float = 0.0
    wear_z: float = 0.0
    wear_diameter: float = 0.0
    minutes: float = 0.0
    pieces: int = 0


class Answer(msgspec.Struct, frozen=True, tag_field="say", tag="answer"):
    """To the request of that number. `why` it was not done; what it `brings`: words by name."""

    id: int
    ok: bool = True
    why: str = ""
    brings: dict[str, Any] = {}


Mode = Literal["ready", "jogging", "running", "held", "stopped", "alarm", "off", "lost"]
"""*stopped* is a stop of the program; *off* without power; *lost* until the axes have been home."""


class Status(msgspec.Struct, frozen=True, tag_field="say", tag="status"):
    """How the control stands: its places, of the machine and as the program counts (X of a turning one a radius), and how far it
    is `to_go`; the `line` in work, counted from 1, 0 for none; what is `said` of a stop or an alarm. Seconds that the program has
    run and has left; `part` counts the pieces that were clamped, `done` those that a program ran to its end on."""

    unit: Unit
    mode: Mode
    said: str = ""
    program: str = ""
    line: int = 0
    machine: tuple[float, float, float] = (0.0, 0.0, 0.0)
    places: tuple[float, float, float] = (0.0, 0.0, 0.0)
    to_go: tuple[float, float, float] = (0.0, 0.0, 0.0)
    behind: float = 0.0
    """How far the axes follow behind what the control asks of them."""
    feed: float = 0.0
    per_turn: bool = False
    speed: float = 0.0
    load: float = 0.0
    """Of the spindle, a share of its power."""
    tool: int = 0
    offset: int = 1
    number: int = 0
    """Of the tool offset in force."""
    touching: bool = False
    coolant: bool = False
    single: bool = False
    optional_stop: bool = False
    block_delete: bool = False
    feed_share: float = 1.0
    rapid_share: float = 1.0
    spindle_share: float = 1.0
    ran: float = 0.0
    left: float = 0.0
    part: int = 0
    done: int = 0


class Moved(msgspec.Struct, frozen=True, array_like=True):
    """A move that the axes have made, or a part of one: the line that asked for it; 0 rapid, 1 straight, 2 and 3 arcs; from where
    to where and about which centre, by which angle in radians in which plane, all of the tool's point as the program counts;
    with the tool of a station under a work offset; at which feed and speed; in turning the lead of a thread. Where the work
    `stands` places are those of the part, and C goes through an `angle`."""

    line: int
    kind: int
    start: tuple[float, float, float]
    end: tuple[float, float, float]
    centre: tuple[float, float, float]
    turn: float
    plane: int
    tool: int
    offset: int
    feed: float
    speed: float
    lead: float
    stands: bool = False
    angle: tuple[float, float] = (0.0, 0.0)


class Went(msgspec.Struct, frozen=True, tag_field="say", tag="went"):
    """Moves on a part, `first` of them counted from that part's first: with the last one that is not over yet, which is told
    again when it is."""

    part: int
    first: int
    moves: list[Moved]


Report = Answer | Status | Went


class BadLine(ValueError):
    """A line that is no request; its words say why. `id` is that of the request, as far as it could be made out."""

    def __init__(self, why: str, ident: int) -> None:
        super().__init__(why)
        self.ident = ident


class _Numbered(msgspec.Struct):
    id: int = 0


_requests: msgspec.json.Decoder[AnyRequest] = msgspec.json.Decoder(AnyRequest)
_reports: msgspec.json.Decoder[Report] = msgspec.json.Decoder(Report)


def request_of(line: bytes) -> AnyRequest:
    """The request in a line. BadLine for everything else."""
    try:
        return _requests.decode(line)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        try:
            ident = msgspec.json.decode(line, type=_Numbered).id
        except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
            ident = 0
        raise BadLine(f"{str(error)[:300]}.", ident) from None


def report_of(line: bytes) -> Report:
    """The report in a line. BadLine for everything else."""
    try:
        return _reports.decode(line)
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BadLine(f"{str(error)[:300]}.", 0) from None


def line_of(message: AnyRequest | Report) -> bytes:
    """A message as it goes over the line."""
    return msgspec.json.encode(message) + b"\n"


def protocol_schema() -> dict[str, Any]:
    """The JSON schema of the protocol: what is asked, and what comes back."""
    (asked, told), parts = msgspec.json.schema_components([AnyRequest, Report])
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": f"Bastler, machine protocol {PROTOCOL}",
        "description": "One JSON object a line, in UTF-8.",
        "properties": {"request": asked, "report": told},
        "$defs": {name.rpartition(".")[2]: value for name, value in parts.items()},
    }
