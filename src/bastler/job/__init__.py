"""The document: job, setup, reading and writing job files, edits and their history, and planning it all."""

from bastler.job.document import ZERO_CHOICES, AnySetup, Job, Setup, TurnSetup, new_job
from bastler.job.files import JobFileError, read_job, read_job_text, schema, write_job
from bastler.job.planned import Plan, PlannedStep
from bastler.job.planning import plan, setup_context

__all__ = [
    "ZERO_CHOICES",
    "AnySetup",
    "Job",
    "JobFileError",
    "Plan",
    "PlannedStep",
    "Setup",
    "TurnSetup",
    "new_job",
    "plan",
    "read_job",
    "read_job_text",
    "schema",
    "setup_context",
    "write_job",
]
