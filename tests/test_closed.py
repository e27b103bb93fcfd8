"""The part as cut as a closed solid: nothing gapes, and its volume is that of the proof."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest

from bastler.cli import main
from bastler.exchange.solids import stl_bytes, three_mf_bytes
from bastler.job import plan, write_job
from bastler.job.samples import sample
from bastler.proof import JobProof, MillProof, TurnProof, prove_whole
from bastler.proof.closed import NoSolid, Solid, closed
from bastler.proof.turn.sweep import volume

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
    assert solid.gapes == 0
    assert solid.volume == pytest.approx(left(proof), rel=2e-3)


def test_its_box_is_that_of_the_part(solids: dict[str, tuple[JobProof, Solid]]) -> None:
    proof, solid = solid_of("pawl-plate", solids)
    stock = proof.first.scene.stock  # type: ignore[attr-defined]
    low, high = solid.points.min(axis=0), solid.points.max(axis=0)
    assert low.tolist() == pytest.approx([stock.lo[0], stock.lo[1], stock.lo[2]], abs=1e-4)
    assert high.tolist() == pytest.approx([stock.hi[0], stock.hi[1], 0.0], abs=1e-4)  # the top was faced


def test_a_part_that_driven_tools_have_cut_is_refused_with_a_sentence() -> None:
    proof = prove_whole(plan(sample("pawl-shaft")))
    with pytest.raises(NoSolid, match="driven tools"):
        closed(proof)


def test_a_cube_gapes_where_a_face_is_missing() -> None:
    assert CUBE.volume == pytest.approx(1.0)
    assert CUBE.gapes == 0
    assert Solid(CUBE.points, CUBE.triangles[1:]).gapes > 0


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
