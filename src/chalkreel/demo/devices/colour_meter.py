"""A colour meter that is not there: it reads swatches of the demo's paints and sends them as real ones do.

Behind it the paints are not quite what the shelf says of them: two bottles have another strength, as bottles have.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from typing import Final

import numpy as np

from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.mixing import pot_of
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.spectra import WAVELENGTHS_NM
from chalkreel.core.colour.surface_terms import seen

REPEAT: Final = 0.002
# How much stronger a bottle is than its swatch card said.
TRUE_STRENGTH: Final[Mapping[str, float]] = {"neutral grey": 1.35, "yellow ochre": 0.8}


class ColourMeter:
    """Reads opaque swatches of mixes at 45°/0°, with the scatter of a hand."""

    def __init__(self, seed: int = 0) -> None:
        self._hand = random.Random(seed)

    def file(self, name: str, drops: tuple[tuple[str, int], ...], shelf: tuple[Paint, ...]) -> bytes:
        """One reading as the meter's own text file (ISO 28178)."""
        by_name = {paint.name: paint for paint in shelf}
        pot = pot_of(drops, shelf)
        k = sum((n * TRUE_STRENGTH.get(p, 1.0) * by_name[p].absorption for p, n in drops if p in by_name), np.zeros(1))
        s = sum((n * TRUE_STRENGTH.get(p, 1.0) * by_name[p].scattering for p, n in drops if p in by_name), np.zeros(1))
        if pot.drops == 0:
            k, s = np.full(len(WAVELENGTHS_NM), 0.4), np.ones(len(WAVELENGTHS_NM))
        wanted = by_name[drops[0][0]].sheen if drops and drops[0][0] in by_name else "matte"
        reflectance = seen(reflectance_of(k / s), wanted) * (1.0 + self._hand.gauss(0.0, REPEAT))
        columns = " ".join(f"SPECTRAL_NM{nm:.0f}" for nm in WAVELENGTHS_NM)
        values = " ".join(f"{v:.5f}" for v in reflectance)
        lines = (
            "CGATS.17", 'ORIGINATOR "colour meter, stand-in"', f"NUMBER_OF_FIELDS {len(WAVELENGTHS_NM) + 1}",
            "BEGIN_DATA_FORMAT", f"SAMPLE_NAME {columns}", "END_DATA_FORMAT", "NUMBER_OF_SETS 1", "BEGIN_DATA",
            f'"{name}" {values}', "END_DATA",
        )  # fmt: skip
        return ("\r\n".join(lines) + "\r\n").encode("ascii", "replace")
