"""The document: job, stock, holdings, reading and writing job files, edits and their history, and planning it all."""

from bastler.job.chuck import ChuckHolding
from bastler.job.document import AnyHolding, Job, new_job
from bastler.job.files import JobFileError, read_job, read_job_text, schema, write_job
from bastler.job.planned import Plan, PlannedHolding, PlannedStep
from bastler.job.planning import plan
from bastler.job.stock import AnyStock, BarStock, BlockStock
from bastler.job.vise import ZERO_CHOICES, ViseHolding

__all__ = [
    "ZERO_CHOICES",
    "AnyHolding",
    "AnyStock",
    "BarStock",
    "BlockStock",
    "ChuckHolding",
    "Job",
    "JobFileError",
    "Plan",
    "PlannedHolding",
    "PlannedStep",
    "ViseHolding",
    "new_job",
    "plan",
    "read_job",
    "read_job_text",
    "schema",
    "write_job",
]
