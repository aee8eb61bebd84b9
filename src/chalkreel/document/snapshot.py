"""A build at one revision: an immutable set of entities."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import TypeVar

from chalkreel.core.scale import ScaleChain
from chalkreel.document.entities import BUILD_ID, AnyEntity, BuildInfo
from chalkreel.document.entity import Entity

E = TypeVar("E", bound=Entity)


@dataclass(frozen=True, eq=False)
class Build:
    """Entities by id, in the order in which they were made."""

    revision: int
    entities: Mapping[str, AnyEntity]
    _kinds: dict[type[Entity], tuple[Entity, ...]] = field(default_factory=dict, init=False, repr=False)

    def all(self, kind: type[E]) -> tuple[E, ...]:
        """All entities of a kind."""
        # Asked for again and again while a view is drawn.
        if kind not in self._kinds:
            self._kinds[kind] = tuple(e for e in self.entities.values() if isinstance(e, kind))
        return self._kinds[kind]  # type: ignore[return-value]

    def get(self, kind: type[E], entity_id: str) -> E | None:
        """The entity with an id, if there is one of that kind."""
        entity = self.entities.get(entity_id)
        return entity if isinstance(entity, kind) else None

    @property
    def info(self) -> BuildInfo:
        """Name, versions and scale chain."""
        info = self.entities[BUILD_ID]
        assert isinstance(info, BuildInfo)
        return info

    @property
    def chain(self) -> ScaleChain:
        """The scale chain."""
        info = self.info
        return ScaleChain(info.story_mm, info.miniature_mm, info.replica_mm)

    def edited(self, edits: Mapping[str, AnyEntity | None], revision: int, places: Mapping[str, int]) -> Build:
        """The build after edits: an entity replaces, None removes; `places` orders what is added."""
        entities = dict(self.entities)
        entities.update({entity_id: entity for entity_id, entity in edits.items() if entity is not None})
        for entity_id, entity in edits.items():
            if entity is None:
                entities.pop(entity_id, None)
        ordered = sorted(entities, key=lambda entity_id: places[entity_id])
        return Build(revision, MappingProxyType({entity_id: entities[entity_id] for entity_id in ordered}))
