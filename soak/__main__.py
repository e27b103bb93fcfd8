"""`python -m soak WHAT [--seconds N] [--first SEED] [--jobs N]`: runs seeds one after the other and says what was found.

It goes on where it stopped: the next seed and everything found stand in `.soak/WHAT.json`.
"""

from __future__ import annotations

import argparse
import json
import multiprocessing
import signal
import sys
import time
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import Any

from soak import edits, inputs, kills, shifts

LONGEST = 10.0
"""Seconds that one seed may take."""
KINDS: dict[str, Callable[[int], None]] = {"edits": edits.run, "inputs": inputs.run, "kills": kills.run, "shifts": shifts.run}


class Hang(BaseException):
    """It takes too long. No Exception, so that nothing on the way takes it for one of its own."""


def _rings(*_: Any) -> None:
    raise Hang


def one(what: str, seed: int) -> tuple[int, float, str]:
    """Runs a seed: its number, its time, and what went wrong in a line, empty when nothing did."""
    signal.signal(signal.SIGALRM, _rings)
    signal.alarm(int(3 * LONGEST))
    begun = time.monotonic()
    fault = ""
    try:
        KINDS[what](seed)
    except BaseException as error:
        where = [f for f in traceback.extract_tb(error.__traceback__) if "bastler" in f.filename or "soak" in f.filename]
        at = f"{Path(where[-1].filename).name}:{where[-1].lineno} {where[-1].name}" if where else "?"
        fault = f"{type(error).__name__} at {at}: {str(error)[:160]}"
    finally:
        signal.alarm(0)
    took = time.monotonic() - begun
    return seed, took, fault or (f"slow: {took:.1f} s" if took > LONGEST else "")


def main() -> int:
    parser = argparse.ArgumentParser(prog="soak")
    parser.add_argument("what", choices=sorted(KINDS))
    parser.add_argument("--seconds", type=float, default=600.0)
    parser.add_argument("--first", type=int, default=-1)
    parser.add_argument("--seeds", type=int, default=1_000_000)
    parser.add_argument("--jobs", type=int, default=2)
    options = parser.parse_args()
    kept = Path(".soak") / f"{options.what}.json"
    kept.parent.mkdir(exist_ok=True)
    state: dict[str, Any] = json.loads(kept.read_text()) if kept.exists() else {"next": 0, "found": {}}
    first = options.first if options.first >= 0 else state["next"]
    ends, done, longest = time.monotonic() + options.seconds, 0, 0.0
    found: dict[str, str] = {}
    seeds = range(first, first + options.seeds)
    with multiprocessing.Pool(options.jobs, maxtasksperchild=200) as pool:
        work = pool.imap_unordered(_job, ((options.what, seed) for seed in seeds), chunksize=1)
        for seed, took, fault in work:
            done, longest = done + 1, max(longest, took)
            if fault:
                found[str(seed)] = fault
                print(f"{seed}: {fault}", flush=True)
            if time.monotonic() > ends or done >= options.seeds:
                pool.terminate()
                break
    state = {"next": first + done, "found": {**state["found"], **found}}
    kept.write_text(json.dumps(state, indent=1))
    print(f"{options.what}: {done} runs, {len(found)} faults, the longest {longest:.1f} s; next seed {state['next']}")
    return 1 if found else 0


def _job(what: tuple[str, int]) -> tuple[int, float, str]:
    return one(*what)


if __name__ == "__main__":
    sys.exit(main())
