"""The part as cut as a closed solid: nothing gapes, and its volume is that of the proof."""

from __future__ import annotations

import io
import itertools
import math
import re
import zipfile
from pathlib import Path
from typing import Any

import msgspec
import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from bastler.cli import main
from bastler.exchange.solids import stl_bytes, three_mf_bytes
from bastler.job import plan, write_job
from bastler.job.samples import sample
from bastler.proof import JobProof, MillProof, TurnProof, prove_whole
from bastler.proof.closed import closed
from bastler.proof.polar.dexels import Dexels
from bastler.proof.polar.scrub import rays_at
from bastler.proof.polar.slabs import slabs_of
from bastler.proof.scrub import moment_at
from bastler.proof.stacked import NoSolid, Solid, stacked
from bastler.proof.turn.sweep import volume
from bastler.shapes import PointsPattern
from bastler.steps import Drilling, TurnFacing
from bastler.units import Unit, scale
from conftest import turned

FACES = "023 031 457 476 015 054 267 273 046 062 137 175"
CUBE = Solid(
    np.array([(x, y, z) for x in (0.0, 1.0) for y in (0.0, 1.0) for z in (0.0, 1.0)]),
    np.array([[int(corner) for corner in face[::-1]] for face in FACES.split()], np.int32),
)


@pytest.fixture(scope="module")
def solids() -> dict[str, tuple[JobProof, Solid]]:
    """Those of samples that were asked for, each made once."""
    return {}


def solid_of(name: str, solids: dict[str, tuple[JobProof, Solid]]) -> tuple[JobProof, Solid]:
    if name not in solids:
        proof = prove_whole(plan(sample(name)))
        solids[name] = (proof, closed(proof))
    return solids[name]


def left(proof: JobProof) -> float:
    """The volume of the part by the proof."""
    last = proof.holdings[-1]
    if isinstance(last, TurnProof):
        return volume(max(getattr(last.part, "geoms", [last.part]), key=lambda g: g.bounds[2]))
    assert isinstance(last, MillProof)
    return last.scene.stock.volume - sum(one.removed for one in proof.holdings) / max(len(last.scene.parts), 1)


@pytest.mark.parametrize("name", ["pawl-plate", "bearing-cap", "drum-spindle", "gland-nut"])
def test_a_part_is_one_closed_solid_of_the_volume_of_the_proof(name: str, solids: dict[str, tuple[JobProof, Solid]]) -> None:
    proof, solid = solid_of(name, solids)
    assert len(solid.open_edges) == 0
    assert solid.volume == pytest.approx(left(proof), rel=2e-3)


def test_its_box_is_that_of_the_part(solids: dict[str, tuple[JobProof, Solid]]) -> None:
    proof, solid = solid_of("pawl-plate", solids)
    stock = proof.first.scene.stock  # type: ignore[attr-defined]
    low, high = solid.points.min(axis=0), solid.points.max(axis=0)
    assert low.tolist() == pytest.approx([stock.lo[0], stock.lo[1], stock.lo[2]], abs=1e-4)
    assert high.tolist() == pytest.approx([stock.hi[0], stock.hi[1], 0.0], abs=1e-4)  # the top was faced


@pytest.mark.parametrize("unit", ["mm", "inch"])
def test_a_part_that_driven_tools_have_cut_is_one_too(unit: Unit) -> None:
    """A hole across, one in the end face, a flat on the side: the volume is that of the rays, and that of arithmetic."""
    mm, wide = scale("mm", unit), 5.0 if unit == "mm" else 0.203125
    side = PointsPattern(id="p1", name="side", points=((-7.0 * mm, 0.0),))
    end = PointsPattern(id="p2", name="end", points=((5.0 * mm, 0.0),))
    across = Drilling(id="m1", where_on="side", diameter=wide, depth=30.0 * mm, pattern="p1", spot="no")
    along = Drilling(id="m2", where_on="end", diameter=wide, depth=6.0 * mm, pattern="p2", spot="no")
    bar: dict[str, Any] = {"diameter": 24.0 * mm, "length": 60.0 * mm, "finished": 16.0 * mm, "stick_out": 30.0 * mm}
    job = turned(TurnFacing(id="t1"), across, along, unit=unit, machine="turn-mill-250", **bar)
    proof = prove_whole(plan(msgspec.structs.replace(job, patterns=(side, end))))
    last = proof.holdings[-1]
    assert isinstance(last, TurnProof)
    rays = rays_at(last, moment_at(last, last.total), last.part)
    assert rays is not None
    heard: list[float] = []
    solid = closed(proof, heard.append)
    assert len(solid.open_edges) == 0
    assert solid.volume == pytest.approx(rays.volume, rel=2e-4)
    whole = volume(last.part)
    assert whole - solid.volume > 300.0 * mm**3
    assert heard == sorted(heard)
    assert heard[-1] <= 1.0


def test_slabs_of_a_tube_with_a_slot_through_its_wall() -> None:
    """Rings where it is whole, a ring that is open where the slot is; where nothing is left nothing."""
    tube = shapely.box(-10.0, 4.0, 0.0, 8.0)
    rays = Dexels.of(tube, [-6.0, -4.0], 1.0)
    rays.open(shapely.box(0.0, -1.0, 20.0, 1.0), -4.0)
    found = list(slabs_of(rays, 1e-4))
    assert found[0][0] == -10.0
    assert found[-1][1] == 0.0
    ring = math.pi * (64.0 - 16.0)
    for low, high, region in found:
        assert low < high
        slot = 0.0 if high <= -4.0 + 1e-6 else 2.0 * 4.0
        assert region.area == pytest.approx(ring - slot, rel=5e-3)
        assert len(region.interiors) == (1 if high <= -4.0 + 1e-6 else 0)
    rays.open(shapely.box(-20.0, -20.0, 20.0, 20.0), -6.0)
    assert max(high for _, high, _ in slabs_of(rays, 1e-4)) == pytest.approx(-6.0)


PLACE, TALL = st.integers(0, 300).map(lambda k: k / 9.0), st.integers(1, 9)


@given(st.lists(st.tuples(PLACE, PLACE, PLACE, PLACE, st.integers(0, 9), TALL), min_size=1, max_size=6))
def test_prisms_on_each_other_are_closed_whatever_they_are(boxes: list[tuple[float, float, float, float, int, int]]) -> None:
    """Any boxes, cut in slabs where one begins or ends: no edge without its other, and their volume together."""
    shapes = [(shapely.box(x, y, x + 1 + a, y + 1 + b), z, z + tall) for x, y, a, b, z, tall in boxes]
    levels = sorted({z for _, low, high in shapes for z in (low, high)})
    slabs = []
    for a, b in itertools.pairwise(levels):
        there = shapely.union_all([shape for shape, low, high in shapes if low <= a and b <= high])
        if not there.is_empty:
            slabs.append((float(a), float(b), shapely.set_precision(there, 1e-5)))
    solid = stacked(slabs, 1e-5)
    assert len(solid.open_edges) == 0
    assert solid.volume == pytest.approx(sum((b - a) * region.area for a, b, region in slabs), rel=1e-6)


def test_a_cube_gapes_where_a_face_is_missing() -> None:
    assert CUBE.volume == pytest.approx(1.0)
    assert len(CUBE.open_edges) == 0
    opened = Solid(CUBE.points, CUBE.triangles[1:])
    assert len(opened.open_edges) == 3
    with pytest.raises(NoSolid, match="too fine"):
        opened.sealed(1e-3)
    assert len(opened.sealed(1.0).open_edges) == 0


def test_stl_is_in_millimetres_and_3mf_says_its_unit() -> None:
    data = stl_bytes(CUBE.points, CUBE.triangles, "inch")
    assert len(data) == 84 + 50 * 12
    assert np.frombuffer(data[80:84], np.uint32)[0] == 12
    rows = np.frombuffer(data[84:], np.dtype([("n", "<f4", 3), ("p", "<f4", (3, 3)), ("a", "<u2")]))
    assert rows["p"].max() == pytest.approx(25.4)
    assert np.linalg.norm(rows["n"], axis=1) == pytest.approx(np.ones(12))
    made = three_mf_bytes(CUBE.points, CUBE.triangles, "inch")
    assert made == three_mf_bytes(CUBE.points, CUBE.triangles, "inch")
    with zipfile.ZipFile(io.BytesIO(made)) as archive:
        assert archive.namelist() == ["[Content_Types].xml", "_rels/.rels", "3D/3dmodel.model"]
        text = archive.read("3D/3dmodel.model").decode()
    assert 'unit="inch"' in text
    assert len(re.findall("<triangle ", text)) == 12
    assert len(re.findall("<vertex ", text)) == 8


def test_it_is_written_from_the_command_line(tmp_path: Path) -> None:
    job = tmp_path / "spindle.bastler"
    write_job(sample("drum-spindle"), job)
    for suffix in ("stl", "3mf"):
        assert main(["solid", str(job), "-o", str(tmp_path / f"part.{suffix}")]) == 0
        assert (tmp_path / f"part.{suffix}").stat().st_size > 10_000
    assert main(["solid", str(job), "-o", str(tmp_path / "part.obj")]) == 2
    assert not (tmp_path / "part.obj").exists()
