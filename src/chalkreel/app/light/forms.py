"""The short forms of Light: supply, the chosen branch, what the lighting has to fit."""

from __future__ import annotations

from collections.abc import Callable
from typing import Final

import msgspec

from chalkreel.app.light import model
from chalkreel.app.parts.fields import Form
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.core.lengths import format_length, length_or_none, parse_length, understood
from chalkreel.core.light.kinds import (
    DISPLAYS,
    DRAWERS,
    DRIVER_KINDS,
    SUPPLY_KINDS,
    SWITCH_KINDS,
    WIRE_NAMES,
    SupplyKind,
)
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Landmark
from chalkreel.document.entity import new_id
from chalkreel.document.light_entities import SUPPLY_ID, Lamp, LightBranch, LightDriver, LightPlan, PowerSupply


def supply_form(session: Session) -> Form:
    """What it runs from, and whether it is lit at all."""

    def put(label: str, **fields: object) -> None:
        session.edit(label, model.main_supply(session.build), **fields)

    def put_kind(key: str) -> None:
        put("supply", **model.other_supply(next(kind for kind in SUPPLY_KINDS if kind == key)))

    form = Form(session)
    form.choice(
        "Supply", lambda: tuple((kind, kind) for kind in SUPPLY_KINDS),
        lambda: model.main_supply(session.build).supply_kind, put_kind,
    )  # fmt: skip
    cells, rows = model.bounded(1, 8, "The number of cells"), model.bounded(1, 4, "The number of rows")
    form.text(
        "Cells in a row", lambda: str(model.main_supply(session.build).cells),
        lambda text: put("cells", cells=model.whole(text, cells)),
    )  # fmt: skip
    form.text(
        "Rows of cells", lambda: str(model.main_supply(session.build).rows),
        lambda text: put("rows of cells", rows=model.whole(text, rows)),
    )  # fmt: skip
    fuse = model.bounded(0, 5000, "A fuse in mA")
    form.text(
        "Fuse, mA", lambda: _or_empty(model.main_supply(session.build).fuse_ma),
        lambda text: put("fuse", fuse_ma=fuse(text or "0")),
    ).setPlaceholderText("none")  # fmt: skip
    mah = model.bounded(0, 1e6, "A charge in mAh")
    form.text(
        "Its label, mAh", lambda: _or_empty(model.main_supply(session.build).label_mah),
        lambda text: put("charge", label_mah=mah(text or "0")),
    ).setPlaceholderText("usual ones")  # fmt: skip
    form.choice(
        "Switch", lambda: tuple((kind, kind) for kind in SWITCH_KINDS),
        lambda: model.main_supply(session.build).switch, lambda key: put("switch", switch=key),
    )  # fmt: skip
    form.choice(
        "Resistors from", lambda: tuple((d, d) for d in DRAWERS), lambda: model.light_plan(session.build).drawer,
        lambda key: session.edit("drawer of resistors", model.light_plan(session.build), drawer=key),
    )  # fmt: skip
    form.text(
        "Only these, Ω", lambda: model.ohms_words(model.light_plan(session.build).own_ohms),
        lambda text: session.edit("own resistors", model.light_plan(session.build), own_ohms=model.ohms_from(text)),
    ).setPlaceholderText("100; 220; 4k7")  # fmt: skip
    share = model.bounded(10, 100, "The share of the cells used, in %,")
    form.text(
        "Lit until, % used", lambda: f"{100 * model.light_plan(session.build).used:.0f}",
        lambda text: session.edit("lit until", model.light_plan(session.build), used=share(text.rstrip(" %")) / 100),
    )  # fmt: skip
    form.check(
        "This model stays dark",
        lambda: session.build.info.dark,
        lambda on: session.edit("model stays dark" if on else "model gets lamps", session.build.info, dark=on),
    )
    return form


def branch_form(session: Session, chosen: Callable[[], LightBranch | None]) -> Form:
    """The branch that is chosen, as it is wired."""

    def put(label: str, **fields: object) -> None:
        branch = chosen()
        if branch is not None:
            session.edit(f"{label} of {branch.name}", branch, **fields)

    def of(field: str, usual: object = "") -> object:
        branch = chosen()
        return getattr(branch, field) if branch is not None else usual

    def length(text: str) -> float:
        return length_or_none(text, session.build.info.unit)

    def shown(field: str) -> str:
        value = of(field, 0.0)
        return format_length(value, session.build.info.unit) if isinstance(value, float) and value else ""

    def echo(text: str) -> str:
        return understood(text, session.build.info.unit) if text.strip() else ""

    times = model.bounded(1, 1000, "The number of such branches")
    form = Form(session)
    form.heading(lambda: f"Branch: {of('name')}")
    form.text("Name", lambda: str(of("name")), lambda text: put("name", name=text.strip() or str(of("name"))))
    form.text(
        "Resistor, Ω", lambda: "" if of("ohm", None) is None else f"{of('ohm'):g}",
        lambda text: put("resistor", ohm=model.ohm_from(text) if text.strip() else None),
    ).setPlaceholderText("chosen for you; 0 is none")  # fmt: skip
    form.text(
        "In its strands, Ω", lambda: model.strand_ohms_words(chosen()),
        lambda text: put("resistors in strands", strands=model.with_strand_ohms(chosen(), text)),
    ).setPlaceholderText("none; 220, or 220; 470")  # fmt: skip
    form.text("So many times", lambda: str(of("times", 1)), lambda text: put("number", times=model.whole(text, times)))
    form.choice(
        "Fed by", lambda: _supplies(session), lambda: str(of("supply_id")),
        lambda key: _put_supply(session, chosen(), key),
    )  # fmt: skip
    form.choice(
        "Switched by", lambda: _drivers(session), lambda: str(of("driver_id")),
        lambda key: _put_driver(session, chosen(), key),
    )  # fmt: skip
    form.choice(
        "Wire", lambda: tuple((w, w or "chosen for you") for w in WIRE_NAMES), lambda: str(of("wire")),
        lambda key: put("wire", wire=key),
    )  # fmt: skip
    form.text("Its length", lambda: shown("wire_mm"), lambda text: put("wire", wire_mm=length(text)), echo)
    form.text(
        "Ladder, one every", lambda: shown("pitch_mm"), lambda text: put("ladder", pitch_mm=length(text)), echo
    ).setPlaceholderText("no ladder")
    return form


def lamp_form(session: Session) -> Form:
    """What else is known of the lamp that is chosen."""

    def lamp() -> Lamp | None:
        return session.build.get(Lamp, session.selection)

    def put(label: str, **fields: object) -> None:
        found = lamp()
        if found is not None:
            session.edit(f"{label} of {found.name}", found, **fields)

    def of(field: str) -> float:
        found = lamp()
        return float(getattr(found, field)) if found is not None else 0.0

    def length(field: str) -> str:
        return format_length(of(field), session.build.info.unit) if of(field) else ""

    def read(text: str) -> float:
        return length_or_none(text, session.build.info.unit)

    def echo(text: str) -> str:
        return understood(text, session.build.info.unit) if text.strip() else ""

    def put_strip(text: str) -> None:
        found = lamp()
        if found is not None and not found.package.startswith("strip"):
            raise RefusedError("Only a strip has a length. Choose a strip as its size first.")
        put("length", strip_mm=read(text))

    form = Form(session)
    form.heading(lambda: f"Lamp: {found.name}" if (found := lamp()) else "")
    form.choice(
        "In assembly", lambda: tuple((name, name) for name in model.assemblies(session.build)),
        lambda: found.assembly if (found := lamp()) else "", lambda key: put("assembly", assembly=key),
    )  # fmt: skip
    form.text(
        "Plays a lamp of", lambda: length("size_mm"), lambda text: put("size", size_mm=read(text)), echo
    ).setPlaceholderText("its size on the replica")
    form.text(
        "Stands at",
        lambda: model.places_words(session.build, lamp()),
        lambda text: put("places", places=model.places_from(session.build, text)),
    ).setPlaceholderText("landmarks, marks; by semicolon")
    form.text(
        "Own resistor, Ω",
        lambda: _or_empty(of("own_ohm")),
        lambda text: put("own resistor", own_ohm=model.ohm_from(text or "0")),
    ).setPlaceholderText("none")
    form.text(
        "Feeds fibres of", lambda: length("fibre_mm"), lambda text: put("fibres", fibre_mm=read(text)), echo
    ).setPlaceholderText("no fibres")
    mcd, beam = model.bounded(0, 1e6, "Light in mcd"), model.bounded(5, 85, "A beam's half angle in degrees")
    form.text(
        "Its mcd, sheet", lambda: _or_empty(of("sheet_mcd")), lambda text: put("light", sheet_mcd=mcd(text or "0"))
    ).setPlaceholderText("not told")
    form.text("Its beam, ± °", lambda: f"{of('beam_deg'):g}", lambda text: put("beam", beam_deg=beam(text)))
    form.text("Strip length", lambda: length("strip_mm"), put_strip, echo).setPlaceholderText("no strip")
    return form  # fmt: skip


def _supplies(session: Session) -> tuple[tuple[str, str], ...]:
    others = [s for s in session.build.all(PowerSupply) if s.id != SUPPLY_ID]
    found = ((s.id, f"step-up to {s.step_up_v:g} V" if s.step_up_v else f"its own {s.supply_kind}") for s in others)
    new = (
        *((f"{NEW}{v}", f"a new step-up to {v} V") for v in (5, 12)),
        *((f"{NEW}{k}", f"its own {k}") for k in APART),
    )
    return (("", "the main supply"), *found, *new)


NEW = "new "
# Supplies that lamps of unlike volts are given beside the main one.
APART: Final[tuple[SupplyKind, ...]] = ("coin cell", "9 V block", "12 V small", "plug pack 12 V")


def _drivers(session: Session) -> tuple[tuple[str, str], ...]:
    found = tuple((d.id, f"{d.name} ({d.driver_kind})") for d in session.build.all(LightDriver))
    return (("", "the main switch"), *found, *((f"{NEW}{k}", f"a new {k}") for k in DRIVER_KINDS))


def _put_supply(session: Session, branch: LightBranch | None, key: str) -> None:
    if branch is None:
        return
    edits: Edits = {}
    if key.startswith(NEW):
        wanted = key.removeprefix(NEW)
        own = next((kind for kind in APART if kind == wanted), None)
        module = (
            PowerSupply(id=new_id(), supply_kind=own, cells=1)
            if own is not None
            else PowerSupply(id=new_id(), step_up_v=float(wanted))
        )
        edits[module.id] = module
        key = module.id
    edits[branch.id] = msgspec.structs.replace(branch, supply_id=key)
    session.commit(f"supply of {branch.name}", edits)


def _put_driver(session: Session, branch: LightBranch | None, key: str) -> None:
    if branch is None:
        return
    edits: Edits = {}
    if key.startswith(NEW):
        number = len(session.build.all(LightDriver)) + 1
        kind = next(k for k in DRIVER_KINDS if key == f"{NEW}{k}")
        driver = LightDriver(id=new_id(), name=f"channel {number}", driver_kind=kind, pin=str(number + 1))
        edits[driver.id] = driver
        key = driver.id
    edits[branch.id] = msgspec.structs.replace(branch, driver_id=key)
    session.commit(f"switch of {branch.name}", edits)


def display_form(session: Session) -> Form:
    """How it will be shown, asked before anything is bought."""
    form = Form(session)
    form.choice(
        "Shown", lambda: tuple((d, d) for d in DISPLAYS), lambda: model.light_plan(session.build).display,
        lambda key: session.edit("display", model.light_plan(session.build), display=key),
    )  # fmt: skip
    return form


def fit_form(session: Session) -> Form:
    """What the lighting has to fit: the stand, its door and tube, the room, where wires leave the hull."""

    def plan() -> LightPlan:
        return model.light_plan(session.build)

    def put(label: str, **fields: object) -> None:
        session.edit(label, plan(), **fields)

    def read(text: str) -> float:
        return parse_length(text, session.build.info.unit)

    def sides(values: tuple[float, ...] | None) -> str:
        return " × ".join(format_length(v, session.build.info.unit) for v in values or ())

    def box(text: str, count: int, what: str) -> tuple[float, ...] | None:
        found = model.cavity_from(text, read)
        if found is not None and len(found) != count:
            raise RefusedError(f"{what} has {count} sides: “{'70 × 54 × 24' if count == 3 else '52 × 26'}”.")
        return found

    def put_exit(name: str) -> None:
        put("where the wires leave", exit_id=name)

    form = Form(session)
    form.heading(lambda: "What it has to fit")
    form.text(
        "Stand inside", lambda: sides(plan().cavity_mm), lambda text: put("stand", cavity_mm=box(text, 3, "A cavity"))
    ).setPlaceholderText("length × width × height")
    form.text(
        "Its door", lambda: sides(plan().door_mm), lambda text: put("door", door_mm=box(text, 2, "A door"))
    ).setPlaceholderText("width × height")
    form.text(
        "Tube inside",
        lambda: format_length(plan().tube_mm, session.build.info.unit) if plan().tube_mm else "",
        lambda text: put("tube", tube_mm=read(text) if text.strip() else 0.0),
    ).setPlaceholderText("no tube")
    form.choice(
        "Wires leave at",
        lambda: (("", "not said"), *((m.id, m.name) for m in session.build.all(Landmark))),
        lambda: plan().exit_id,
        put_exit,
    )
    lux = model.bounded(0.1, 100_000, "The room's light in lx")
    form.text("Room, lx", lambda: f"{plan().room_lux:g}", lambda text: put("room", room_lux=lux(text)))
    form.text(
        "Shell",
        lambda: format_length(plan().shell_mm, session.build.info.unit),
        lambda text: put("shell", shell_mm=read(text)),
    )
    return form  # fmt: skip


def _or_empty(value: float) -> str:
    return f"{value:g}" if value else ""
