"""A mix as it was published, of paints that one does not own: what colour it makes, from the colours of its parts.

Each part is taken for a paint whose strength is guessed from its masstone (`characterise.guessed`).
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Final

import numpy as np

from chalkreel.core.colour.characterise import guessed
from chalkreel.core.colour.cielab import as_lab, lab_of_xyz
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.kubelka_munk import reflectance_of
from chalkreel.core.colour.spectra import tristimulus_weights
from chalkreel.core.colour.surface_terms import SURFACE, seen
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number

# How much of which colour.
Part = tuple[float, Lab]
LOOKS: Final = "parts and their colours, like “3 #8c3c28 + 1 #f4f1ea” or “60 % rust #8c3c28 + 40 % 82 0 3”"
MOST_PARTS: Final = 8
# How those paints dry is not published: between matte and gloss the miss is least for whatever they are.
USUAL_SURFACE: Final = SURFACE["satin"]
# Of mixes made in a laboratory of the tests, matte, satin or gloss, from paints known by their masstones alone, 95 in
# 100 lay within this.
WITHIN_DELTA_E: Final = 14.0
# How much of it, in parts, drops or percent; perhaps what it is called; its colour as #rrggbb or L* a* b*.
_SIGNED: Final = re.compile(r"\s*\+?[\d.]+(?:[\s,;]+[-−+]?[\d.]+){2}(?:\s+D(?:50|65))?\s*")
_PART: Final = re.compile(
    r"(?P<amount>\d+(?:[.,]\d+)?)\s*(?:%|parts?\b|drops?\b)?\s*(?:of\b)?\s*[^#\d]*?\s*"
    r"(?P<colour>#[0-9a-fA-F]{6}|-?\d[\d.]*[ ,;]+[-−]?\d[\d.]*[ ,;]+[-−]?\d[\d.]*(?:\s+D(?:50|65))?)"
)
_NAMED: Final = re.compile(
    r"\s*(?P<amount>\d+(?:[.,]\d+)?\s*(?:%|parts?\b|drops?\b)?)\s*(?:of\b)?\s*(?P<name>\D.*?)\s*"
)


def is_mix(text: str) -> bool:
    """Whether words are meant for a mix: parts are joined by a plus, which is no mere sign of a*."""
    return "+" in text and _SIGNED.fullmatch(text) is None


def parse_mix(text: str) -> tuple[Part, ...]:
    """Parts joined by “+”.

    Raises
    ------
    RefusedError
        It is no mix, or a part has a colour that no paint can have.
    """
    words = [part.strip() for part in text.split("+")]
    if not 2 <= len(words) <= MOST_PARTS:
        raise RefusedError(f"A published mix has 2 to {MOST_PARTS} parts: {LOOKS}.")
    found = []
    for part in words:
        match = _PART.fullmatch(part)
        amount = parse_number(match["amount"]) if match else 0.0
        if match is None or not 0 < amount <= 1000:
            raise RefusedError(f"“{part[:40]}” is no part of a mix. Write {LOOKS}.")
        found.append((amount, lab_of_words(match["colour"].replace("−", "-"))))
    return tuple(found)


def with_known(text: str, known: Mapping[str, Lab]) -> str:
    """A mix with the colour behind each part that is only named, where `known` has one of that name.

    So it can be read when the names are gone.
    """
    by_name = {name.casefold(): (name, lab) for name, lab in known.items()}
    parts = []
    for part in text.split("+"):
        match = _NAMED.fullmatch(part)
        name, lab = by_name.get(match["name"].casefold(), ("", None)) if match else ("", None)
        if match is None or lab is None:
            parts.append(part.strip())
            continue
        # Figures of a name would be read as the colour's.
        words = re.sub(r"[\d#+]+", "", name).strip()
        parts.append(f"{match['amount'].strip()} {words} " + " ".join(f"{value:.1f}" for value in lab))
    return " + ".join(parts)


def mixed_lab(parts: tuple[Part, ...], surface: float = USUAL_SURFACE) -> Lab:
    """L*a*b* of an opaque coat of a published mix that dries with such a surface.

    Raises
    ------
    RefusedError
        A part has a colour that no paint can have.
    """
    whole = [(amount, guessed(np.array(lab), surface)) for amount, lab in parts]
    absorption = np.sum([amount * paint.absorption for amount, paint in whole], axis=0)
    scattering = np.sum([amount * paint.scattering for amount, paint in whole], axis=0)
    return as_lab(lab_of_xyz(seen(reflectance_of(absorption / scattering), surface) @ tristimulus_weights()))
