"""Whatever the answers of a turned part: no rapid or holder in material, no gouge, nothing left that the tip can reach."""

from __future__ import annotations

import time
from typing import Any

from hypothesis import assume, given, settings
from hypothesis import strategies as st

from bastler.job import Job, edits, plan
from bastler.job.samples import sample
from bastler.proof import TurnProof, prove_job
from bastler.shapes import TurnedOutline
from bastler.steps import (
    CentreHole,
    Groove,
    PartOff,
    Threading,
    TurnFacing,
    TurnFinishing,
    TurnRoughing,
)
from conftest import TURNED, many, slipped, turned
from outlines import Piece, along, blend, curve, edge, slant, up
from outlines import outline as outline_of

HARM = {"rapid-in-stock", "holder-in-stock", "gouge", "left", "jaws-hit", "chuck-hit", "spindle-off", "edge-length"}


def clean(proof: TurnProof, *but: str) -> None:
    found = {r.code: r.text for r in proof.remarks}
    assert not (HARM - set(but)) & set(found), found


def planned_whole(job: Job) -> bool:
    return not any(s.troubles for s in plan(job).steps)


@st.composite
def shafts(draw: st.DrawFn) -> TurnedOutline:
    """Outlines that rise from the front to the stock, with edges, radii, slants and arcs."""
    d = draw(st.floats(16, 30))
    z = 0.0
    pieces: list[Piece] = []
    if draw(st.booleans()):
        pieces.append(edge(draw(st.floats(0.3, 2.0))))
    start = d
    for _ in range(draw(st.integers(1, 3))):
        z -= draw(st.floats(6, 14))
        pieces.append(along(z))
        grow = draw(st.floats(4, 9))
        kind = draw(st.sampled_from(["up", "slant", "out", "in"]))
        corner = draw(st.sampled_from([None, "blend", "edge"]))
        if kind == "up":
            if corner == "blend":
                pieces.append(blend(draw(st.floats(0.5, 1.5))))
            d += grow
            pieces.append(up(d))
            if corner == "edge":
                pieces.append(edge(draw(st.floats(0.2, 0.8))))
        elif kind == "slant":
            d += grow
            angle = draw(st.floats(15, 80))
            pieces.append(slant(d=d, angle=angle))
            z -= 18.0 if angle < 20 else 9.0
        else:
            d += grow
            z -= grow / 2
            pieces.append(curve(d=d, z=z, radius=draw(st.floats(0.75, 2.0)) * grow, bulge="out" if kind == "out" else "in"))
    return outline_of(id="o", name="shaft", d=start, z=0.0, pieces=(*pieces, along(z - 8.0), up(62.0)))


@settings(max_examples=many(12))
@given(
    shafts(),
    st.sampled_from(["along", "across"]),
    st.sampled_from(["45", "follow"]),
    st.floats(0.6, 3.0),
    st.floats(0.0, 1.2),
    st.sampled_from(["c80-08", "d55-04", "v35-04"]),
    st.sampled_from(["d55-04", "v35-04", "c80-08"]),
    st.sampled_from(["computed", "control"]),
)
def test_roughed_and_finished_outside(
    outline: TurnedOutline, way: Any, leave_by: Any, ap: float, leave: float, rough: str, finish: str, comp: Any
) -> None:
    job = turned(
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o", way=way, leave_by=leave_by, ap=ap, leave_d=leave, tool=rough),
        TurnFinishing(id="e", outline="o", tool=finish, compensation=comp),
        outlines=(outline,),
    )
    assume(planned_whole(job))
    proof = prove_job(plan(job))
    clean(proof, "edge-length")
    assert proof.comparison.greatest("gouge") == 0.0


@settings(max_examples=many(10))
@given(shafts(), st.floats(0.6, 3.0), st.sampled_from(["c80-08", "d55-04"]), st.booleans())
def test_in_layers_it_comes_out_the_same_on_a_bar_and_on_a_forging(
    outline: TurnedOutline, ap: float, tool: str, forged: bool
) -> None:
    """Along the outline again and again: as clean as passes along Z, and no layer thicker than the bite."""
    blank = outline_of(id="b", name="blank", d=56.0, z=1.0, pieces=(along(-12.0), up(60.0), along(-119.0)))
    finish = TurnFinishing(id="e", outline="o", tool="v35-04")
    rough = [TurnRoughing(id="r", outline="o", way=way, ap=ap, tool=tool) for way in ("along", "layers")]
    stock: Any = {"form": "forging", "forged": "b"} if forged else {}
    jobs = [turned(TurnFacing(id="f"), one, finish, outlines=(outline, blank), **stock) for one in rough]
    assume(all(planned_whole(job) for job in jobs))
    there, here = (prove_job(plan(job)) for job in jobs)
    clean(here, "edge-length")
    assert abs(there.part.symmetric_difference(here.part).area) < 1e-4 * there.part.area


@settings(max_examples=many(8))
@given(shafts(), st.floats(0.6, 3.0), st.sampled_from(["along", "across"]))
def test_roughing_alone_leaves_its_allowance_and_no_more(outline: TurnedOutline, ap: float, way: Any) -> None:
    job = turned(TurnFacing(id="f"), TurnRoughing(id="r", outline="o", ap=ap, way=way, leave_d=0.6), outlines=(outline,))
    assume(planned_whole(job))
    clean(prove_job(plan(job)), "edge-length")


@st.composite
def bores(draw: st.DrawFn) -> TurnedOutline:
    d = draw(st.floats(30, 40))
    z, pieces = 0.0, [edge(draw(st.floats(0.3, 1.5)))]
    for _ in range(draw(st.integers(1, 2))):
        z -= draw(st.floats(8, 16))
        d -= draw(st.floats(1, 3))
        pieces += [along(z), draw(st.sampled_from([up(d), slant(d=d, angle=45.0)]))]
    return outline_of(id="o", name="bore", inside=True, d=max(d + 8, 36.0), z=0.0, pieces=(*pieces, along(z - 6.0)))


@settings(max_examples=many(12))
@given(bores(), st.floats(0.5, 2.0), st.sampled_from(["bore-c80-04", "bore-d55-02"]), st.sampled_from(["along", "across"]))
def test_bored(outline: TurnedOutline, ap: float, tool: str, way: Any) -> None:
    job = turned(
        TurnFacing(id="f"),
        CentreHole(id="d", work="drill", diameter=20.0, depth=50.0, tool="drill-20"),
        TurnRoughing(id="r", outline="o", ap=ap, tool=tool, way=way),
        TurnFinishing(id="e", outline="o", tool=tool),
        outlines=(outline,),
    )
    assume(planned_whole(job))
    clean(prove_job(plan(job)), "edge-length")


@settings(max_examples=many(12))
@given(st.data())
def test_grooves_are_clean(data: st.DataObject) -> None:
    number = data.draw
    side: Any = number(st.sampled_from(["outside", "inside", "face"]))
    step = Groove(
        id="g",
        side=side,
        z=number(st.floats(-30, -8)),
        outer_d=number(st.floats(40, 56)),
        width=number(st.floats(4.5, 9.0)),
        floor_d=number(st.floats(30, 58)) if side == "outside" else number(st.floats(21, 26)),
        depth=number(st.floats(0.5, 6.0)),
        right_angle=number(st.sampled_from([0.0, 15.0, 30.0])),
        left_angle=number(st.sampled_from([0.0, 10.0, 30.0])),
        edge_break=number(st.sampled_from([0.0, 0.3])),
        corner_radius=number(st.sampled_from([0.0, 0.25, 0.5])),
        count=1 if side == "inside" else number(st.sampled_from([1, 1, 2])),
        pitch=number(st.floats(14, 18)),
        begin=number(st.sampled_from(["left", "right", "middle"])),
        edges=number(st.sampled_from(["one", "two"])),
        pecking=number(st.sampled_from(["yes", "no"])),
    )
    job = turned(TurnFacing(id="f"), step, form="tube" if side == "inside" else "bar", bore=20.0, stick_out=100.0)
    assume(planned_whole(job))
    proof = prove_job(plan(job))
    clean(proof)


@settings(max_examples=many(8))
@given(
    st.sampled_from(["M30x2", "M24", "1-8", "G 3/4", "Tr 36x6", "R 3/4"]),
    st.sampled_from(["flank", "straight", "alternating"]),
    st.integers(1, 3),
    st.floats(8, 20),
)
def test_threads_outside_are_clean(name: str, infeed: Any, starts: int, length: float) -> None:
    step = Threading(id="t", thread=name, infeed=infeed, starts=starts, length=length, run_out=1.0)
    crest = 2 * step.crest(plan(turned()).first.turned)
    outline = outline_of(id="o", name="o", d=crest, z=0.0, pieces=(along(-length - 12.0), up(62.0)))
    relief = Groove(id="g", z=-length, width=9.0, floor_d=2 * step.root(plan(turned()).first.turned) - 0.6, edges="one")
    job = turned(TurnFacing(id="f"), TurnRoughing(id="r", outline="o", leave_d=0.0), relief, step, outlines=(outline,))
    assume(planned_whole(job))
    clean(prove_job(plan(job)), "left", "edge-length")


@settings(max_examples=many(8))
@given(
    st.floats(0, 3),
    st.floats(0, 2),
    st.sampled_from([0.0, 18.0, 30.0]),
    st.floats(10, 50),
    st.sampled_from(["lathe-200", "lathe-bench"]),
)
def test_parted_off_at_the_right_length(front: float, back: float, bore: float, finished: float, machine: str) -> None:
    form: dict[str, Any] = {"form": "tube", "bore": bore} if bore else {}
    job = turned(
        TurnFacing(id="f"),
        PartOff(id="p"),
        machine=machine,
        diameter=50.0,
        over_front=front,
        over_back=back,
        finished=finished,
        **form,
    )
    assume(planned_whole(job))
    proof = prove_job(plan(job))
    clean(proof)
    assert not {"short-part", "not-parted", "long-part"} & {r.code for r in proof.remarks}
    part = max(proof.part.geoms, key=lambda g: g.bounds[2])
    assert abs(part.bounds[2] - part.bounds[0] - finished - back) < 1e-3


@settings(max_examples=many(10))
@given(st.floats(20, 60), st.floats(24, 34))
def test_the_rest_is_taken_by_a_sharper_tip(angle: float, floor: float) -> None:
    recess = outline_of(
        id="o", name="o", d=40.0, z=0.0, pieces=(along(-10), slant(d=floor, angle=angle), along(-44), up(44), along(-50), up(62))
    )
    job = turned(
        TurnFacing(id="f"),
        TurnRoughing(id="r", outline="o"),
        TurnFinishing(id="e", outline="o", tool="d55-04"),
        outlines=(recess,),
    )
    before = prove_job(plan(job))
    both, rest = edits.step_added(job, "turn-rest", "e")
    if not planned_whole(both):
        assert "tip-reach" not in {r.code for r in before.remarks} or angle > 50
        return
    after = prove_job(plan(both))
    clean(after)
    assert after.comparison.volume("left") <= before.comparison.volume("left")
    assert rest in {s.step for s in after.stages}


@settings(max_examples=many(14))
@given(st.data())
def test_a_slip_of_the_finger_is_said_and_never_hangs(data: st.DataObject) -> None:
    """Any number in any field, as long as its own bounds let it be typed: the job plans, and proves or says why not."""
    job = sample(data.draw(st.sampled_from(TURNED)))
    owners = ["stock", "holding:h1", *(f"step:{s.id}" for s in job.steps)]
    owners += [f"outline:{o.id}" for o in job.outlines]
    owners += [f"outline:{o.id}.segments.{k}" for o in job.outlines for k in range(len(o.segments))]
    job = slipped(data, job, owners)
    began = time.monotonic()
    proof = prove_job(plan(job))
    assert time.monotonic() - began < 20
    assert proof.proved or any(r.level == "stop" and r.text for r in proof.remarks)
