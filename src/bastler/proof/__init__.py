"""The proof: the posted text run against the stock, compared with the wanted shape."""

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
