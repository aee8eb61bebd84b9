"""Which landmarks move together on the replica: by what the user says, else by the first telling word of the name."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Final

from chalkreel.document.entities import Landmark
from chalkreel.document.snapshot import Build

# Words of a name that say where on an assembly a landmark is, not on which.
WHERE: Final = frozenset({
    "port", "starboard", "left", "right", "prt", "stbd", "lh", "rh", "forward", "fore", "aft", "upper", "lower",
    "front", "rear", "outer", "inner",
})  # fmt: skip


@dataclass(frozen=True)
class Group:
    """An assembly, or one side of it, with its landmarks."""

    name: str
    side: str
    landmark_ids: tuple[str, ...]

    @property
    def key(self) -> str:
        """What it is told apart by."""
        return f"{self.name}|{self.side}"

    @property
    def called(self) -> str:
        """'tail fin' or 'tail fin, port'."""
        return f"{self.name}, {self.side}" if self.side else self.name


def assembly_of(landmark: Landmark) -> str:
    """The assembly of a landmark: 'window' for 'aft window, top forward, port'."""
    if landmark.assembly:
        return landmark.assembly
    words = re.findall(r"[^\W\d_]+", landmark.name.casefold())
    return next((word for word in words if word not in WHERE), landmark.name)


def groups_by_name(build: Build) -> dict[str, frozenset[str]]:
    """Ids of the landmarks of each assembly."""
    found: dict[str, set[str]] = {}
    for landmark in build.all(Landmark):
        found.setdefault(assembly_of(landmark), set()).add(landmark.id)
    return {name: frozenset(ids) for name, ids in found.items()}


def groups_of(build: Build, port: frozenset[str]) -> tuple[Group, ...]:
    """All assemblies; one with twins is there by its sides first, then whole. `port` are landmarks on the port side."""
    members: dict[str, list[Landmark]] = {}
    for landmark in build.all(Landmark):
        members.setdefault(assembly_of(landmark), []).append(landmark)
    found = []
    for name, landmarks in members.items():
        ids = tuple(m.id for m in landmarks)
        if all(m.mirror_id and m.mirror_id != m.id for m in landmarks):
            on_port = tuple(i for i in ids if i in port)
            found.append(Group(name, "port", on_port))
            found.append(Group(name, "starboard", tuple(i for i in ids if i not in port)))
        found.append(Group(name, "", ids))
    return tuple(group for group in found if group.landmark_ids)
