"""The jobs that ship with Bastler, from a harbour workshop that overhauls hand winches."""

from __future__ import annotations

from pathlib import Path

from bastler.job.document import Job
from bastler.job.files import read_job

_FOLDER = Path(__file__).parent


def sample_names() -> list[str]:
    """Names of the samples, in alphabetical order."""
    return sorted(path.stem for path in _FOLDER.glob("*.bastler"))


def sample(name: str) -> Job:
    """A sample by name. KeyError when there is none."""
    if name not in sample_names():
        raise KeyError(name)
    return read_job(_FOLDER / f"{name}.bastler")


def sample_text(name: str) -> bytes:
    """The text of a sample's file. KeyError when there is none."""
    if name not in sample_names():
        raise KeyError(name)
    return (_FOLDER / f"{name}.bastler").read_bytes()


def sample_drawing() -> Path:
    """The drawing that ships with Bastler, a DXF file: the bearing cap's rim, window, oil groove and holes."""
    return _FOLDER / "bearing-cap.dxf"
