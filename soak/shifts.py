"""Shifts at the stand-in with whatever is hidden: touched off, run with holds and stops, given up and taken up again.

A machine that was set up right hits nothing, and what it makes is what it was asked for, but for what tools give way.
"""

from __future__ import annotations

import random
import tempfile
from pathlib import Path

from bastler.job.samples import sample
from bastler.link import messages as m
from bastler.live.gauging import gauges
from bastler.live.restarts import restarts
from bastler.proof import prove_whole
from shift import Shift

NAMES = ("winch-base", "pawl-plate", "drum-spindle", "gland-nut", "pawl-shaft")
OFF_MM = 0.06
"""Tools are thinner and give way by so much at most, all in all."""


def run(seed: int) -> None:
    """One shift."""
    rng = random.Random(seed)
    name = rng.choice(NAMES)
    with tempfile.TemporaryDirectory() as folder:
        shift = Shift(sample(name), Path(folder), rng.randrange(1, 10_000))
        shift.clamp()
        shift.load()
        shift.send()
        (shift.touch_off_lathe if shift.scene.card.turns else shift.touch_off_mill)()
        proof = prove_whole(shift.plan).holdings[0]
        places = restarts(proof)
        machine = shift.machine
        shift.do(m.Start())
        for _ in range(rng.randrange(6)):
            machine.tick(rng.uniform(0.1, 4.0))
            if machine.mode == "running":
                shift.do(m.Hold())
                machine.tick(0.1)
            if machine.mode in ("held", "stopped") and rng.random() < 0.4:
                line = machine.status().line
                shift.do(m.Reset())
                before = [place for place in places if place.line <= line]
                shift.do(m.Start(line=before[-1].line, time=before[-1].time) if before else m.Start())
            elif machine.mode in ("held", "stopped"):
                shift.do(m.Resume())
        if machine.mode != "ready":
            mode = shift.go_on()
            assert mode == "ready", f"{name}: {machine.said}"
        for gauge in gauges(shift.held, proof):
            if any(maker is not None for maker in gauge.makers):
                off = shift.truth(gauge) - gauge.nominal
                assert abs(off) < OFF_MM * machine.mm, f"{name}: {gauge.title}, {gauge.says} is off by {off:.4f}"
