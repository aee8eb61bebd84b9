"""A suspicion, and the scene with its culprit put right."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from chalkreel.core.measure.marks import Mark
from chalkreel.core.measure.scene import Scene

Kind = Literal[
    "mark", "swap", "swapped view", "flopped", "version", "two places", "ruler", "rulers", "aspect", "crop",
    "zoom",
]  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """What, how strongly (σ), and the keys of view, landmarks and rulers that are the culprits.

    `found` with its 1 σ is what the rest of the reel says: for a ruler its claim over the length found, less one
    (infinite where its ends lie in one place), for two rulers the first's claim over the second's, less one; for an
    aspect the one that fits best. `aspect` is the one proposed, that of the usual `shape` where one is near.
    `offset_px` is where the axis of a cropped view lies, from its middle. `elsewhere` are the views on which a landmark
    sits in another place than on the other views; for a zoom, those that `view` shares a lens with, and `found` by how
    much its focal length is longer than the shortest. `or_flopped` says that a flopped print explains an exchange as
    well.
    """

    kind: Kind
    strength: float
    view: str = ""
    landmarks: tuple[str, ...] = ()
    rulers: tuple[str, ...] = ()
    found: float = 0.0
    sigma: float = 0.0
    aspect: float = 1.0
    shape: str = ""
    offset_px: tuple[float, float] = (0.0, 0.0)
    elsewhere: tuple[str, ...] = ()
    or_flopped: bool = False


def repaired(scene: Scene, fault: Fault) -> Scene:
    """The scene with the culprit removed or put right; as it is where only the user can decide (two rulers)."""
    if fault.kind in ("ruler", "rulers"):
        gone = fault.rulers if fault.kind == "ruler" else ()
        return replace(
            scene,
            rulers=tuple(r for r in scene.rulers if r.key not in gone),
            gauges=tuple(g for g in scene.gauges if g.key not in gone),
        )
    changed = {"aspect": {"pixel_aspect": fault.aspect}, "crop": {"cropped": True}, "zoom": {"lens": ""}}
    if fault.kind in changed:
        at_fault = {fault.view, *fault.elsewhere}
        views = (replace(v, **changed[fault.kind]) if v.key in at_fault else v for v in scene.views)  # type: ignore[arg-type]
        return replace(scene, views=tuple(views))
    if fault.kind == "flopped":
        return flopped(scene, fault.view)
    if fault.kind in ("swap", "swapped view"):
        return exchanged(scene, fault.view, fault.landmarks)
    views_at_fault = fault.elsewhere or (fault.view,)
    culprits = {(view, name) for view in views_at_fault for name in fault.landmarks}
    return replace(scene, sightings=tuple(s for s in scene.sightings if (s.view, s.landmark) not in culprits))


def exchanged(scene: Scene, view: str, names: tuple[str, ...]) -> Scene:
    """With these landmarks on a view called after their twins."""
    twin = {m.key: m.mirror for m in scene.landmarks}
    return replace(
        scene,
        sightings=tuple(
            replace(s, landmark=twin[s.landmark]) if s.view == view and s.landmark in names else s
            for s in scene.sightings
        ),
    )


def flopped(scene: Scene, key: str) -> Scene:
    """With a view, and all that is marked on it, turned left to right."""
    width = next(v.size_px[0] for v in scene.views if v.key == key)

    def turned(mark: Mark) -> Mark:
        return replace(mark, x_px=width - mark.x_px)

    return replace(
        scene,
        sightings=tuple(replace(s, mark=turned(s.mark)) if s.view == key else s for s in scene.sightings),
        edges=tuple(replace(e, a=turned(e.a), b=turned(e.b)) if e.view == key else e for e in scene.edges),
        rims=tuple(replace(r, marks=tuple(map(turned, r.marks))) if r.view == key else r for r in scene.rims),
    )
