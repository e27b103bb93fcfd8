"""From planned stages to G-code text, by dialect; every line knows the step and the stage it came from."""

from collections.abc import Sequence

from bastler.job import PlannedHolding
from bastler.post.by_hand import laid_over, one_line
from bastler.post.flat import FlatVoice
from bastler.post.lathe import LatheBench
from bastler.post.mill import MillBench
from bastler.post.program import Program, Section
from bastler.post.said import Said
from bastler.post.writer import Writer


def post(held: PlannedHolding | Sequence[PlannedHolding], said: Said | None = None) -> Program:
    """The program of a whole holding, or of all that a part is handed through in one, with what was changed in it by hand. Steps
    with troubles and steps switched off are not in it. What the last program of the holding `said` is not worked out again."""
    holdings = (held,) if isinstance(held, PlannedHolding) else tuple(held)
    return laid_over(made(holdings, said), holdings[0].job.hand_edits(holdings[0].holding.id))


def made(holdings: Sequence[PlannedHolding], said: Said | None = None) -> Program:
    """The program as the steps make it, or as it came from elsewhere."""
    elsewhere = holdings[0].job.elsewhere
    if elsewhere is not None:
        return Program.foreign("\n".join(map(one_line, elsewhere.lines)))
    said = said or Said()
    writer = Writer(holdings)
    if holdings[0].job.plane == "turned":
        bench = LatheBench(writer)
        return writer.write(bench, bench.voices, said)
    flat = FlatVoice(writer)
    return writer.write(MillBench(writer, flat), {"flat": flat}, said)


__all__ = ["Program", "Said", "Section", "made", "post"]
