"""Which part of a still shows, and how large, as a value (no Qt)."""

from __future__ import annotations

from dataclasses import dataclass, replace

MOST_ZOOM = 40.0
# Room left round a still that is shown whole, and round a mark that the view follows.
BORDER_PX, FOLLOW_PX = 12.0, 60.0


@dataclass(frozen=True)
class Viewport:
    """`zoom` is screen pixels for one stored pixel's height, `aspect` its width over its height; `left` and `top` are
    where the still's corner is on the screen."""

    zoom: float
    left: float
    top: float
    aspect: float

    @property
    def across(self) -> float:
        """Screen pixels for one stored pixel's width."""
        return self.zoom * self.aspect

    def to_screen(self, x: float, y: float) -> tuple[float, float]:
        """Where a stored pixel is on the screen."""
        return x * self.across + self.left, y * self.zoom + self.top

    def to_still(self, x: float, y: float) -> tuple[float, float]:
        """Which stored pixel a place of the screen shows."""
        return (x - self.left) / self.across, (y - self.top) / self.zoom

    def moved(self, dx: float, dy: float) -> Viewport:
        """Shifted by so many screen pixels."""
        return replace(self, left=self.left + dx, top=self.top + dy)

    def zoomed(self, factor: float, x: float, y: float, least: float) -> Viewport:
        """Larger or smaller about a place of the screen, between `least` and forty times."""
        zoom = min(MOST_ZOOM, max(least, self.zoom * factor))
        share = zoom / self.zoom
        return replace(self, zoom=zoom, left=x - (x - self.left) * share, top=y - (y - self.top) * share)

    def revealing(self, x: float, y: float, width: float, height: float) -> Viewport:
        """Shifted no further than it takes to have a stored pixel well inside a screen of so many pixels."""
        sx, sy = self.to_screen(x, y)
        rim = min(FOLLOW_PX, width / 4, height / 4)
        return self.moved(min(max(sx, rim), width - rim) - sx, min(max(sy, rim), height - rim) - sy)


def fitted(size: tuple[int, int], aspect: float, width: float, height: float) -> Viewport:
    """The whole still of (width, height) stored pixels in the middle of the screen."""
    across, down = size[0] * aspect, float(size[1])
    zoom = max(1e-3, min((width - 2 * BORDER_PX) / across, (height - 2 * BORDER_PX) / down))
    return Viewport(zoom, (width - across * zoom) / 2, (height - down * zoom) / 2, aspect)
