"""The feature cycles. To add one, write its module and import it in the registry lines below."""

from bastler.steps.base import STEPS, Dim, Sketch, Stage, Step, StepKind, fill, replaced, step, trouble_with, troubles_of
from bastler.steps.context import Context
from bastler.steps.hole.drilling import Drilling
from bastler.steps.mill.facing import Facing
from bastler.steps.mill.pocket import RectangularPocket

__all__ = [
    "STEPS",
    "Context",
    "Dim",
    "Drilling",
    "Facing",
    "RectangularPocket",
    "Sketch",
    "Stage",
    "Step",
    "StepKind",
    "fill",
    "replaced",
    "step",
    "trouble_with",
    "troubles_of",
]
