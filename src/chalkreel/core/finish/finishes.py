"""Named finishes: what a zone is painted as, its last sheen and its wear, chosen with one word."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

from chalkreel.core.finish.stacks import Role, Wear
from chalkreel.core.materials import Sheen


@dataclass(frozen=True)
class Finish:
    """A stack of layers by name."""

    name: str
    role: Role
    sheen: Sheen
    wear: tuple[Wear, ...] = ()


FINISHES: Final = (
    Finish("clean paint", "base", "satin"),
    Finish("weathered paint", "base", "matte", ("pre-shade", "wash", "streaks")),
    Finish("washed paint", "base", "matte", ("wash",)),
    Finish("worn edges", "base", "matte", ("wash", "dry-brush")),
    Finish("matte studio dust", "base", "matte", ("pre-shade", "post-shade", "powders")),
    Finish("chipped over metal", "base", "matte", ("chipping", "wash")),
    Finish("three-tone rust", "base", "matte", ("chipping", "wash", "streaks", "powders")),
    Finish("masked panel or stripe", "stripe", "matte"),
    Finish("soft-edged, freehand", "freehand", "matte"),
    Finish("stripe first, taped over", "stripe first", "matte"),
    Finish("metal panel", "metal", "satin"),
    Finish("worn metal", "metal", "satin", ("wash", "dry-brush")),
    Finish("bright metal", "bright metal", "gloss"),
    Finish("clear, tinted or glazed", "glass", "gloss"),
)
OWN_MIXTURE: Final = "own mixture"


def finish_name(role: Role, sheen: Sheen, wear: tuple[Wear, ...], kept: tuple[Finish, ...] = ()) -> str:
    """The name of a stack, the user's own first; "own mixture" where it has none."""
    wanted = (role, sheen, frozenset(wear))
    named = (f.name for f in (*kept, *FINISHES) if (f.role, f.sheen, frozenset(f.wear)) == wanted)
    return next(named, OWN_MIXTURE)
