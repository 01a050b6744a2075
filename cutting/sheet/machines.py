"""Power machines that nobody under 18 may run, set up or clean."""

from __future__ import annotations

from enum import StrEnum

LAW = "29 CFR 570.61"
"""Hazardous order 10, power-driven meat-processing machines; setting up and cleaning them too."""


class Machine(StrEnum):
    """What a step needs beside knife and steel."""

    SAW = "saw"
    SLICER = "slicer"
    GRINDER = "grinder"
    MIXER = "mixer"
    CHOPPER = "chopper"
    PATTY = "patty machine"
    TENDERIZER = "tenderizer"

    @property
    def source(self) -> str:
        """Who says so: the law, or for the tenderizer the house."""
        return "house rule" if self is Machine.TENDERIZER else LAW
