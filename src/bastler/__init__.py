"""Bastler: feature cycles, a live proof and G-code for the machinist who makes the part today."""

__version__ = "0.1.0"
