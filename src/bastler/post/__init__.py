"""From planned stages to G-code text, by dialect; every line knows the step and the stage it came from."""

from bastler.post.program import Program, Section
from bastler.post.writer import post

__all__ = ["Program", "Section", "post"]
