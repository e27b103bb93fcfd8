"""From what a print gives of an outline to the whole of it."""

from bastler.shapes.solver.report import Candidate, Missing, Solution, Worked, solve

__all__ = ["Candidate", "Missing", "Solution", "Worked", "solve"]
