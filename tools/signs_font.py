"""Makes fonts/ChalkSigns.ttf: the signs of the application that its family lacks, out of DejaVu Sans.

Run: python -m tools.signs_font DejaVuSans.ttf (needs fonttools; the file is in Debian's fonts-dejavu-core)
"""

from __future__ import annotations

import sys
from pathlib import Path

from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont

SIGNS = "←→↔⇄▴▾■□△○●◐✓✗✎"
NAME = "Chalk Signs"
TARGET = Path(__file__).parents[1] / "src/chalkreel/fonts/ChalkSigns.ttf"


def main(source: str) -> None:
    """Cut the signs out of a font file and give it another name."""
    options = Options()
    options.name_IDs, options.layout_features, options.hinting = [0, 1, 2, 4, 6, 13, 14], [], False
    font = TTFont(source)
    subsetter = Subsetter(options)
    subsetter.populate(text=SIGNS)
    subsetter.subset(font)
    # Its licence lets changed copies keep neither name.
    for record in font["name"].names:
        if record.nameID in (1, 4):
            record.string = NAME
        elif record.nameID == 6:
            record.string = NAME.replace(" ", "")
    font.save(TARGET)


if __name__ == "__main__":
    main(sys.argv[1])
