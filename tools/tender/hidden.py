"""What the demo's stills truly hide: how far before each landmark the first surface stands, for the tests.

A landmark that nobody marked need not be hidden: on a rounded edge it lies a little under the skin.
"""

from __future__ import annotations

import json
from pathlib import Path

from tools.tender.cameras import CLIP_STILL, SHOTS, clip_shots
from tools.tender.marks import PAIRS, SKIN_PAIRS, gaps_mm, place, triangles

ROOT = Path(__file__).resolve().parents[2]


def main() -> None:
    """Write the gaps in mm of the miniature, by still and landmark; only what lies in the picture."""
    shots = {shot.name[:7]: shot for shot in SHOTS if shot.name.startswith("still")}
    shots["still-9"] = clip_shots()[CLIP_STILL]
    solids = {version: triangles(version) for version in ("series", "special")}
    names = [name for pair in (*PAIRS, *SKIN_PAIRS) for name in (pair, f"{pair}/s")]
    found = {}
    for still, shot in shots.items():
        gaps = gaps_mm(shot, [place(name) for name in names], solids[shot.version])
        found[still] = {name: round(gap, 1) for name, gap in zip(names, gaps, strict=True) if gap < float("inf")}
    (ROOT / "tests/data/hidden.json").write_text(json.dumps(found) + "\n")


if __name__ == "__main__":
    main()
