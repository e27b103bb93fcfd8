"""The proof: the posted text run against the stock, compared with the wanted shape."""

from bastler.proof.prover import Proof, Prover, StageResult, prove_job
from bastler.proof.remark import Cure, Remark
from bastler.proof.scene import Scene, scene_of

__all__ = ["Cure", "Proof", "Prover", "Remark", "Scene", "StageResult", "prove_job", "scene_of"]
