"""The proof: the posted text run against the stock, compared with the wanted shape.

What is named here is loaded when it is first asked for: a window that only shows what was proved needs nothing that proves.
"""

from __future__ import annotations

import importlib
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from bastler.proof.mill.milled import MillProof
    from bastler.proof.prover import Prover, prove_job, prove_whole
    from bastler.proof.remark import Cure, Remark
    from bastler.proof.result import Proof, StageResult
    from bastler.proof.scene import Scene
    from bastler.proof.scenes import scene_of
    from bastler.proof.turn.turned import TurnProof
    from bastler.proof.whole import JobProof

__all__ = [
    "Cure",
    "JobProof",
    "MillProof",
    "Proof",
    "Prover",
    "Remark",
    "Scene",
    "StageResult",
    "TurnProof",
    "prove_job",
    "prove_whole",
    "scene_of",
]

_WHERE = {
    "MillProof": "mill.milled",
    "TurnProof": "turn.turned",
    "Prover": "prover",
    "prove_job": "prover",
    "prove_whole": "prover",
    "Cure": "remark",
    "Remark": "remark",
    "Proof": "result",
    "StageResult": "result",
    "Scene": "scene",
    "scene_of": "scenes",
    "JobProof": "whole",
}


def __getattr__(name: str) -> Any:
    if name not in _WHERE:
        raise AttributeError(f"{__name__} has no {name}")
    return getattr(importlib.import_module(f"{__name__}.{_WHERE[name]}"), name)
