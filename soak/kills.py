"""A writer is killed at a random instant: the old file or the new one is there, whole, and kept work is offered."""

from __future__ import annotations

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from bastler.disk import clear_half_written
from bastler.job import read_job
from bastler.job.kept import KeptWork
from bastler.job.shop import read_shop

WRITER = """
import sys, itertools
from pathlib import Path
import msgspec
from bastler.job import new_job, write_job
from bastler.job.kept import KeptWork
from bastler.job.shop import Shop, write_shop
folder = Path(sys.argv[1])
copy = KeptWork(folder / "kept").begin()
print("writing", flush=True)
for k in itertools.count():
    job = msgspec.structs.replace(new_job(), name=f"Number {k}", note="x" * (k % 50) * 1000)
    write_job(job, folder / "part.bastler")
    copy.keep(job, folder / "part.bastler")
    write_shop(Shop().followed(job, msgspec.structs.replace(job, tools=job.tools[: 1 + k % 9])), folder / "shop.json")
"""


def run(seed: int) -> None:
    """One life and its end. Raises whatever is not as it should be."""
    draw = random.Random(seed)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        child = subprocess.Popen([sys.executable, "-c", WRITER, name], stdout=subprocess.PIPE, text=True)
        assert child.stdout is not None
        child.stdout.readline()
        time.sleep(draw.uniform(0.0, 0.25))
        os.kill(child.pid, signal.SIGKILL)
        child.wait()
        child.stdout.close()
        if (folder / "part.bastler").exists():
            assert read_job(folder / "part.bastler").name.startswith("Number ")
        if (folder / "shop.json").exists():
            assert read_shop(folder / "shop.json").rack("mm", turning=False)
        left = list(KeptWork(folder / "kept").left())
        copies = list((folder / "kept").glob("*.kept"))
        assert len(left) == len(copies)
        assert all(kept.job is not None for kept in left), [kept.reason for kept in left]
        clear_half_written([folder, folder / "kept"], time.time() + 3600)
        assert not [p for where in (folder, folder / "kept") for p in where.iterdir() if p.name.endswith(".half")]
