"""A colour meter that is not there: it reads swatches of the demo's paints and sends them as real ones do.

Behind it the paints are not quite what the shelf says of them: two bottles have another strength, as bottles have.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import replace
from typing import Final

from chalkreel.core.colour.mixing import pot_of, pot_reflectance
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.spectra import WAVELENGTHS_NM
from chalkreel.core.errors import RefusedError

REPEAT: Final = 0.002
# How much stronger a bottle is than its swatch card said.
TRUE_STRENGTH: Final[Mapping[str, float]] = {"neutral grey": 1.35, "yellow ochre": 0.8}


class ColourMeter:
    """Reads opaque swatches of mixes at 45°/0°, with the scatter of a hand."""

    def __init__(self, seed: int = 0) -> None:
        self._hand = random.Random(seed)

    def file(self, name: str, drops: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...]) -> bytes:
        """One reading as the meter's own text file (ISO 28178).

        Raises
        ------
        RefusedError
            None of the paints is on the shelf.
        """
        strengths = ((p, TRUE_STRENGTH.get(p.name, 1.0)) for p in shelf)
        truly = tuple(replace(p, absorption=p.absorption * f, scattering=p.scattering * f) for p, f in strengths)
        pot = pot_of(drops, truly)
        if pot.drops == 0:
            raise RefusedError("Nothing that the meter knows lies under it: mix paints of the shelf.")
        reflectance = pot_reflectance(pot) * (1.0 + self._hand.gauss(0.0, REPEAT))
        columns = " ".join(f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM)
        values = " ".join(f"{v:.5f}" for v in reflectance)
        lines = (
            "CGATS.17", 'ORIGINATOR "colour meter, stand-in"', f"NUMBER_OF_FIELDS {len(WAVELENGTHS_NM) + 1}",
            "BEGIN_DATA_FORMAT", f"SAMPLE_NAME {columns}", "END_DATA_FORMAT", "NUMBER_OF_SETS 1", "BEGIN_DATA",
            f'"{name}" {values}', "END_DATA",
        )  # fmt: skip
        return ("\r\n".join(lines) + "\r\n").encode("ascii", "replace")
