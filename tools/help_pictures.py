"""Make the pictures of the help pages from the screenshots: python -m tools.help_pictures, after --shots."""

from __future__ import annotations

from pathlib import Path

from PIL import Image

ROOT = Path(__file__).parents[1]
# As wide as the help page's text, at most.
WIDTH, HEIGHT, QUALITY = 800, 500, 82


def main() -> None:
    """One picture a stage: the screenshot that is named by number and stage alone."""
    for shot in sorted((ROOT / "docs/screenshots").glob("[1-7]-*.png")):
        number, _, stage = shot.stem.partition("-")
        if "-" not in stage:
            with Image.open(shot) as picture:
                small = picture.convert("RGB").resize((WIDTH, HEIGHT), Image.Resampling.LANCZOS)
            small.save(ROOT / f"src/chalkreel/help/{stage}.webp", quality=QUALITY, method=6)
            print(number, stage)


if __name__ == "__main__":
    main()
