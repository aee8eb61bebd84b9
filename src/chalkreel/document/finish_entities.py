"""Entities of the finishing sequence: kept finishes, what is known of assemblies, evenings at the bench."""

from __future__ import annotations

from typing import Annotated

import msgspec
from msgspec import Meta

from chalkreel.core.finish.stacks import Fact, Role, Wear
from chalkreel.core.materials import Sheen
from chalkreel.document.entity import Clock, Day, Entity, Name


class KeptFinish(Entity, tag="finish", frozen=True, kw_only=True):
    """A finish of the user's own, to be given to other zones."""

    name: Name
    role: Role = "base"
    sheen: Sheen = "matte"
    wear: tuple[Wear, ...] = ()


class WrongStep(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A step that went wrong, the medium laid over it last, and when that was (ISO)."""

    step_id: str
    medium: str
    at: str


class PlannedTime(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A stretch of work in a plan (ISO); without a step it is the airbrush, and `what` says what is done to it."""

    step_id: str
    start: str
    end: str
    what: str = ""


class Assembly(Entity, tag="assembly", frozen=True, kw_only=True):
    """What is known of the parts of an assembly that changes how it is prepared."""

    name: Name
    facts: tuple[Fact, ...] = ()


class Evening(Entity, tag="evening", frozen=True, kw_only=True):
    """A weekly bench session (Monday is 0), or one on a `day` only; times as 'HH:MM'.

    One that ends before it starts goes on past midnight.
    """

    weekday: Annotated[int, Meta(ge=0, le=6)]
    day: Day = ""
    start: Clock
    end: Clock
