"""The variants of a family, each proved as the job of its own that it is, with its programs as they leave."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from bastler.job import Job, answering, plan
from bastler.job.family import Family, FamilyError, Variant
from bastler.language import tr
from bastler.live.leaving import names_of, safe_name, sent_bytes, stamp
from bastler.live.variants import ProvedVariant
from bastler.proof import JobProof, prove_whole
from bastler.proof.remark import HOLDING, VERDICTS

LAST_NUMBER = 9999
"""Of a program."""


def proved_variants(job: Job, told: Callable[[float], None] = lambda share: None) -> tuple[ProvedVariant, ...]:
    """All of them, in order; `told` hears how much is done."""
    every = (job.family or Family()).variants
    found = []
    for k, one in enumerate(every):
        told(k / len(every))
        found.append(_proved(job, one, job.program_number + k * len(job.programs)))
    return tuple(found)


def _proved(job: Job, variant: Variant, number: int) -> ProvedVariant:
    """Each has a program number of its own, as long as there are any."""
    try:
        own = replace(answering.variant_of(job, variant), program_number=number if number <= LAST_NUMBER else job.program_number)
    except FamilyError as error:
        return ProvedVariant(variant.name, tr(VERDICTS["stop"]), proved=False, why=f"{error.name}: {error.reason}")
    planned = plan(own)
    proof = prove_whole(planned)
    wrong = [t.text for step in planned.steps for t in step.troubles] + [t.text for t in planned.troubles]
    worst = next((r.text for r in proof.remarks if r.level in HOLDING), "") or next(iter(wrong), "")
    fit = proof.proved and not wrong
    words = tr(VERDICTS[proof.verdict if fit or proof.verdict == "open" else "stop"])
    return ProvedVariant(variant.name, words, fit, proof.total, _programs(own, proof), worst)


def _programs(job: Job, proof: JobProof) -> tuple[tuple[str, bytes], ...]:
    """Those that cut something."""
    card, numbers = job.card, [proof.plan.holdings[group[0]].number for group in job.programs]
    names = names_of(safe_name(job.name.lower(), card.dialect), numbers, card.dialect)
    found = []
    for name, group in zip(names, job.programs, strict=True):
        own = [proof.holdings[place] for place in group]
        if any(held.stages for held in own):
            remarks = [r for held in own for r in held.remarks]
            found.append((name, sent_bytes(own[0].program, card, job.unit, remarks, stamp())))
    return tuple(found)
