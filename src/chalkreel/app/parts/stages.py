"""The stages of a window, each made when it is first wanted."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app.exports import Exports
from chalkreel.app.parts.explained import explain
from chalkreel.app.parts.stage import Stage
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images

PACKAGES = tuple(f"chalkreel.app.{name.lower()}.stage" for name in STAGES)


class Stages:
    """Makes a stage at the first visit: a window begins with one, not with seven."""

    def __init__(self, session: Session, images: Images, exports: Exports, made: Callable[[Stage], object]) -> None:
        self._session, self._images, self._exports, self._tell = session, images, exports, made
        self.made: dict[StageName, Stage] = {}

    def __getitem__(self, name: StageName) -> Stage:
        """The stage of a name."""
        if name not in self.made:
            self.made[name] = stage = self._make(name)
            self._tell(stage)
        return self.made[name]

    def _make(self, name: StageName) -> Stage:
        # Imported here, since each stage brings the modules that it alone needs.
        kind = getattr(import_module(f"chalkreel.app.{name.lower()}.stage"), f"{name}Stage")
        parts: dict[StageName, tuple[object, ...]] = {
            "Gather": (self._images,), "Measure": (self._images,), "Colour": (self._images,),
            "Convert": (self._images,), "Bench": (self._images, self._exports.offered()),
        }  # fmt: skip
        stage: Stage = kind(self._session, *parts.get(name, ()))
        explain(name, stage.centre, stage.card)
        return stage


def load_all() -> None:
    """Load what the stages need ahead of their first visit; for a worker."""
    for package in PACKAGES:
        import_module(package)
