"""Hands at a stand-in, without a window: sets up a job as a person does, by touching alone."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import msgspec

from bastler.job import Job, plan
from bastler.job.files import job_text
from bastler.link import messages as m
from bastler.link.touching import Contact, tool_length, turned_by, zero_along, zero_in_plan
from bastler.post import post
from bastler.proof.gauge import Gauge, standing
from bastler.proof.scenes import scene_of
from bastler.standin.control import Machine
from bastler.tools import TurnTool


def sound(found: Sequence[Gauge]) -> None:
    """Sizes each once by its id, in its limits as it is meant to be, with an arithmetic that fits its faces."""
    assert found
    assert len({g.id for g in found}) == len(found)
    for gauge in found:
        assert gauge.nominal > 0
        assert standing(gauge, gauge.aim) in ("in", "open")
        if gauge.ends:
            assert gauge.size([0.0] * len(gauge.ends)) == gauge.nominal
            assert len(gauge.ends) == len(gauge.grows) == len(gauge.makers)
            # moved as a whole nothing changes its size: a place moves against the faces it is counted from
            along = sum(grows * end.out[0] for grows, end in zip(gauge.grows, gauge.ends, strict=True))
            assert len(gauge.ends) == 1 or abs(along) < 1e-9


class Shift:
    """Somebody at a machine with a job."""

    def __init__(self, job: Job, folder: Path, seed: int) -> None:
        self.job, self.plan = job, plan(job)
        self.scene: Any = scene_of(self.plan)
        self.held = self.plan.holdings[0]
        self.text = post(self.plan.programs[0]).text
        self.machine = Machine(job.card, folder, seed)
        self.machine.pace = 50.0

    def do(self, request: m.AnyRequest) -> dict[str, Any]:
        """What a request brings; it must not be refused."""
        answer = self.machine.take(request)
        assert answer.ok, (type(request).__name__, answer.why)
        return answer.brings

    def refused(self, request: m.AnyRequest) -> str:
        """Why a request is refused; it has to be."""
        answer = self.machine.take(request)
        assert not answer.ok
        return answer.why

    def clamp(self) -> None:
        self.do(m.Clamp(job=msgspec.json.decode(job_text(self.job)), holding=self.held.holding.id))

    def load(self) -> None:
        """All tools into their stations."""
        for station, tool in self.scene.tools.items():
            self.do(m.Load(station=station, tool=tool.id))

    def send(self, text: str = "") -> None:
        self.do(m.Put(name="PART", text=text or self.text))
        self.do(m.Select(name="PART"))

    def wait(self) -> None:
        """Until the axes stand."""
        while self.machine.mode == "jogging":
            self.machine.tick(0.02)

    def jog(self, axis: Any, by: float, *, feel: bool = False, fast: bool = False) -> bool:
        """Moves an axis by hand; says whether something was touched."""
        meets = self.do(m.Jog(axis=axis, by=by, feel=feel, fast=fast))["meets"]
        self.wait()
        assert self.machine.mode == "ready", self.machine.said
        return bool(meets)

    def jog_to(self, axis: str, where: float) -> None:
        k = "xyz".index(axis)
        by = where - float(self.machine.axes[k])
        if abs(by) > 1e-9:
            self.jog(axis, by, fast=True)

    def take_up(self, station: int) -> None:
        self.do(m.TakeUp(station=station))
        self.wait()

    def feel(self, axis: Any, sense: float, reach: float) -> Contact:
        """Touches along an axis and goes back a little."""
        assert self.jog(axis, sense * reach, feel=True), f"nothing touched along {axis}"
        x, y, z = self.machine.axes.tolist()
        radius = self.machine.feeler.radius if self.machine.tool == 0 else 0.0
        self.jog(axis, -sense * 3.0 * self.machine.mm, fast=True)
        return Contact((x, y, z), axis, sense, radius)

    # -- a mill ---------------------------------------------------------------------------------------------------

    def over(self, x: float, y: float) -> None:
        """The spindle over a place of the part, as the job says where that is."""
        zero = self.scene.zero
        self.jog_to("z", self.machine.card.home[2])
        self.jog_to("x", zero[0] + x)
        self.jog_to("y", zero[1] + y)

    def touch_off_mill(self) -> None:
        """Angle and place of the block by its left and front side, its height by its top, then all tools on the top. The zero of
        the samples lies in a corner of the finished part, the block stands out round it by what the stock says."""
        mm, stock = self.machine.mm, self.scene.stock
        (x0, y0, _), (x1, y1, top) = stock.lo, stock.hi
        self.take_up(0)
        depth = 4.0 * mm
        self.over((x0 + x1) / 2, (y0 + y1) / 2)
        face = self.feel("z", -1.0, self.machine.axes[2] - self.scene.zero[2] - top - 20 * mm)

        def beside(x: float, y: float, axis: str, sense: float) -> Contact:
            self.over(x, y)
            self.jog_to("z", face.axes[2] - depth)
            return self.feel(axis, sense, 30.0 * mm)

        out = 14.0 * mm
        front = [beside(x0 + share * (x1 - x0), y0 - out, "y", 1.0) for share in (0.2, 0.8)]
        back = beside((x0 + x1) / 2, y1 + out, "y", -1.0)
        turn = turned_by(*front)
        middle_x, middle_y = (x0 + x1) / 2, (y0 + y1) / 2
        left = beside(x0 - out, middle_y, "x", 1.0)
        right = beside(x1 + out, middle_y, "x", -1.0)
        old = self.machine.offsets[1]
        x, y = zero_in_plan({"x": ([left, right], middle_x), "y": ([front[0], back], middle_y)}, turn, old)
        z = zero_along(face, self.machine.feeler.length, top)
        self.do(m.SetOffset(index=1, x=x, y=y, z=z, turn=turn))
        self.measure_mills(z, top)

    def measure_mills(self, zero: float, top: float) -> None:
        """The length of every tool by the top of the block."""
        (x0, y0, _), (x1, y1, _) = self.scene.stock.lo, self.scene.stock.hi
        for station in self.machine.stations:
            self.measure_mill(station, zero, top, ((x0 + x1) / 2, (y0 + y1) / 2))

    def measure_mill(self, station: int, zero: float, top: float, place: tuple[float, float]) -> None:
        self.take_up(station)
        self.over(*place)
        tool = self.scene.tools[station]
        reach = float(self.machine.axes[2]) - zero - top - tool.length + 2.0 * self.machine.mm
        contact = self.feel("z", -1.0, reach)
        self.do(m.SetTool(number=station, z=tool_length(contact, zero, top), diameter=tool.diameter))

    # -- a lathe --------------------------------------------------------------------------------------------------

    def preset(self, station: int) -> None:
        """A tool is measured on the setter, and the control told; a second edge lies its width beside the first."""
        found, tool = self.do(m.Preset(station=station)), self.scene.tools[station]
        x, z = found["x"], found["z"]
        self.do(m.SetTool(number=station, x=x, z=z, diameter=getattr(tool, "diameter", 0.0)))
        second = getattr(tool, "second", 0)
        if second:
            dz, dr = tool.other_edge
            self.do(m.SetTool(number=second, x=x - dr, z=z - dz))

    def touch_off_lathe(self) -> None:
        """All tools on the setter; then the first one, a turning tool, touches the face, which is the zero, and the outside."""
        for station in self.machine.stations:
            self.preset(station)
        mm, machine = self.machine.mm, self.machine
        _, _, front, outer = self.scene.raw.bounds
        first = min(n for n, tool in self.scene.tools.items() if isinstance(tool, TurnTool) and tool.side == "outside")
        self.take_up(first)
        offset = machine.tools[first]
        self.jog_to("x", offset.x + outer - 2 * mm)
        assert self.jog("z", -(float(machine.axes[2]) - self.scene.zero[2] - front - offset.z - 20 * mm), fast=True) is False
        contact = self.feel("z", -1.0, 40.0 * mm)
        self.do(m.SetOffset(index=self.scene.control.part, z=zero_along(contact, offset.z, front)))

    # -- running --------------------------------------------------------------------------------------------------

    def run(self, start: m.Start | None = None) -> str:
        """Runs to where it ends, on from every stop; gives the mode then."""
        self.do(start or m.Start())
        return self.go_on()

    def go_on(self) -> str:
        for _ in range(100_000):
            if self.machine.mode == "stopped":
                self.do(m.Resume())
            elif self.machine.mode != "running":
                break
            self.machine.tick(0.1)
        return self.machine.mode

    def size(self, gauge: Gauge, offset: int = 0) -> float:
        """A size as it is measured, of the part whose work offset that is."""
        within = 3.0 * self.machine.mm
        offs = self.do(m.Measure(ends=list(gauge.ends), within=within, round=gauge.round, offset=offset))["offs"]
        return gauge.size(offs)

    def truth(self, gauge: Gauge, offset: int = 0) -> float:
        """The same, as it is."""
        piece = self.machine.piece
        assert piece is not None
        return gauge.size(piece.offs(piece.ends_on(gauge.ends, offset), 3.0 * self.machine.mm, round_=gauge.round))
