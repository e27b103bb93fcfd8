"""The feature cycles. To add one, write its module and import it in the registry lines below."""

from bastler.steps.base import (
    STEPS,
    AnyStep,
    Arrival,
    Between,
    Dim,
    Sketch,
    Spin,
    Stage,
    Step,
    StepKind,
    ThreadLines,
    Transfer,
    TurnSketch,
    fill,
    kind_of,
    replaced,
    step,
    trouble_with,
    troubles_of,
)
from bastler.steps.context import Context, FlatContext
from bastler.steps.driven.flats import Flats
from bastler.steps.driven.helix import HelicalGroove
from bastler.steps.driven.keyway import Keyway
from bastler.steps.general.between import OutOfTheWay, OwnLines, Stop, Wait
from bastler.steps.general.repeat import Again, Repeat, RepeatAlong
from bastler.steps.hole.boring import Boring
from bastler.steps.hole.counterbore import Counterbore
from bastler.steps.hole.countersink import Countersink
from bastler.steps.hole.drilling import Drilling
from bastler.steps.hole.finished import FinishedHole
from bastler.steps.hole.reaming import Reaming
from bastler.steps.hole.tapping import Tapping
from bastler.steps.hole.thread_milling import ThreadMilling
from bastler.steps.mill.boss import FreeBoss
from bastler.steps.mill.cornered import PolygonBoss, PolygonPocket, RectangularBoss
from bastler.steps.mill.edge_break import EdgeBreak
from bastler.steps.mill.engraving import Engraving
from bastler.steps.mill.facing import Facing
from bastler.steps.mill.free_pocket import Contour, FreePocket
from bastler.steps.mill.outline_milling import OutlineMilling
from bastler.steps.mill.pocket import RectangularPocket
from bastler.steps.mill.rest import RestMachining
from bastler.steps.mill.round import RoundBoss, RoundPocket
from bastler.steps.mill.slots import RingGroove, Slot
from bastler.steps.transfer.hand_over import HandOver
from bastler.steps.transfer.next_part import NextPart
from bastler.steps.turn.centre import CentreHole
from bastler.steps.turn.centre_finished import CentreFinished
from bastler.steps.turn.context import TurnedContext
from bastler.steps.turn.face_thread import FaceThread
from bastler.steps.turn.facing import TurnFacing
from bastler.steps.turn.finishing import TurnFinishing, TurnRest
from bastler.steps.turn.free_moves import FreeMove, FreeMoves
from bastler.steps.turn.grooving import Groove
from bastler.steps.turn.parting import PartOff
from bastler.steps.turn.roughing import TurnRoughing
from bastler.steps.turn.tailstock import TailstockCentre
from bastler.steps.turn.threading import Threading

__all__ = [
    "STEPS",
    "Again",
    "AnyStep",
    "Arrival",
    "Between",
    "Boring",
    "CentreFinished",
    "CentreHole",
    "Context",
    "Contour",
    "Counterbore",
    "Countersink",
    "Dim",
    "Drilling",
    "EdgeBreak",
    "Engraving",
    "FaceThread",
    "Facing",
    "FinishedHole",
    "FlatContext",
    "Flats",
    "FreeBoss",
    "FreeMove",
    "FreeMoves",
    "FreePocket",
    "Groove",
    "HandOver",
    "HelicalGroove",
    "Keyway",
    "NextPart",
    "OutOfTheWay",
    "OutlineMilling",
    "OwnLines",
    "PartOff",
    "PolygonBoss",
    "PolygonPocket",
    "Reaming",
    "RectangularBoss",
    "RectangularPocket",
    "Repeat",
    "RepeatAlong",
    "RestMachining",
    "RingGroove",
    "RoundBoss",
    "RoundPocket",
    "Sketch",
    "Slot",
    "Spin",
    "Stage",
    "Step",
    "StepKind",
    "Stop",
    "TailstockCentre",
    "Tapping",
    "ThreadLines",
    "ThreadMilling",
    "Threading",
    "Transfer",
    "TurnFacing",
    "TurnFinishing",
    "TurnRest",
    "TurnRoughing",
    "TurnSketch",
    "TurnedContext",
    "Wait",
    "fill",
    "kind_of",
    "replaced",
    "step",
    "trouble_with",
    "troubles_of",
]
