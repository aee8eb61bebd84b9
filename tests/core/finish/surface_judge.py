"""A judge of plans that knows the trade and not the program's rules: it lays the coats on and looks at the surface.

Figures are the handbook's low ends: what no workshop would do sooner. Written from the handbook, not from rules.toml.
"""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import datetime
from itertools import pairwise

from chalkreel.core.finish.schedule import Schedule
from chalkreel.core.finish.steps import Step

# Hours: touch, tape, another medium or varnish over it, and how long tape still comes off.
PAINT = {
    "water acrylic": (0.33, 24, 24, 2), "alcohol acrylic": (0.17, 6, 6, 1.5), "lacquer": (0.16, 2, 2, 1),
    "enamel": (4, 24, 24, 14), "oil": (24, 48, 48, 14),
}  # fmt: skip
COLOURS = ("base", "metal", "stripe", "under-colour", "white", "white stripe", "gloss black")
SPRAYED = (*COLOURS, "prime", "pre-shade", "post-shade", "edge seal", "gloss", "seal", "seal coat", "matte", "fix",
           "chipping medium", "chrome", "black under chrome", "black inside", "silver inside")  # fmt: skip
BY_HAND = ("decal", "wash", "acrylic wash", "streaks", "dry-brush", "sponge", "detail", "glass", "shine", "pigments",
           "sealed powders", "salt", "liquid mask")  # fmt: skip
LEAVES_SOFT = ("unmask", "unmask bright", "wipe", "chip", "compare")


@dataclass
class Coat:
    kind: str
    medium: str
    zone: str
    end: datetime
    shiny: bool = False


@dataclass
class Model:
    """One assembly: its coats in order, tape by zone, and what was done to it when."""

    coats: list[Coat] = field(default_factory=list)
    tape: dict[str, datetime] = field(default_factory=dict)
    last: dict[str, datetime] = field(default_factory=dict)

    def hours(self, kind: str, now: datetime) -> float | None:
        return (now - self.last[kind]).total_seconds() / 3600 if kind in self.last else None

    def on(self, zone: str) -> list[Coat]:
        return [c for c in self.coats if c.zone in ("", zone)]


def faults(steps: tuple[Step, ...], plan: Schedule) -> list[str]:
    """What an old hand would object to, watching over the modeller's shoulder."""
    by_id = {s.id: s for s in steps}
    first, last = {}, {}
    for slot in plan.slots:
        first.setdefault(slot.step_id, slot.start)
        last[slot.step_id] = slot.end
    found = [f"{s.id} is never done" for s in steps if s.id not in last]
    busy = sorted((*plan.slots, *plan.airbrush), key=lambda s: s.start)
    found += [f"two things at once at {b.start}" for a, b in pairwise(busy) if b.start < a.end]
    pieces = Counter(slot.step_id for slot in plan.slots)
    found += [f"{name} sprayed in pieces" for name in first if by_id[name].spray and pieces[name] > 1]
    models = {s.assembly: Model() for s in steps}
    events = sorted([(first[i], 1, i) for i in first] + [(last[i], 0, i) for i in last])
    for now, begins, step_id in events:
        step = by_id[step_id]
        if begins:
            found += [f"{now:%d %b %H:%M} {step_id}: {words}" for words in objections(step, models, now, steps)]
        else:
            done(step, models[step.assembly], now)
    return found


def done(step: Step, model: Model, now: datetime) -> None:
    model.last[step.kind] = now
    if step.kind in ("mask", "mask bright"):
        model.tape[step.zone] = now
    elif step.kind in ("unmask", "unmask bright"):
        model.tape.pop(step.zone, None)
    elif step.kind in SPRAYED or step.kind in BY_HAND:
        model.coats.append(Coat(step.kind, step.medium, step.zone, now, "shiny" in step.facts))


def objections(step: Step, models: dict[str, Model], now: datetime, steps: tuple[Step, ...]) -> Iterator[str]:
    model, kind = models[step.assembly], step.kind
    yield from wet(step, model, now)
    if model.hours("pigments", now) is not None and kind != "compare":
        yield "handled after the powders"
    loose = "sealed powders" in model.last and "fix" not in model.last
    if loose and kind not in ("fix", "compare"):
        yield "loose powders handled"
    if kind == "mask glass" and any(k in model.last for k in SPRAYED if "inside" not in k):
        yield "a clear part set into paint"
    if kind == "fix" and any(k in model.last for k in ("shine", "chrome")):
        yield "a matte mist over what shines"
    if kind == "sealed powders" and (model.hours("matte", now) or 0) < 4:
        yield "powders on no hard matte coat"
    if kind in SPRAYED and kind not in ("black inside", "silver inside"):
        yield from _clear_parts(step, model, steps)
    for look in (_prepared, _coloured, _masked, _chipped, _varnished, _finished):
        yield from look(step, model, now, steps)
    if kind == "join":
        for other in models.values():
            yield from (
                f"joined while {c.kind} is fresh"
                for c in other.coats
                if age(c, now) < (0.5 if c.kind == "glass" else 2)
            )


def _clear_parts(step: Step, model: Model, steps: tuple[Step, ...]) -> Iterator[str]:
    """What is in the model while something is sprayed is covered, until nothing more is."""
    masked = any(s.kind == "mask glass" and s.assembly == step.assembly for s in steps)
    if "glass" in model.last or "unmask glass" in model.last:
        yield "sprayed over a bare clear part"
    if masked and "mask glass" not in model.last:
        yield "sprayed before the clear part was in and masked"


def age(coat: Coat, now: datetime) -> float:
    return (now - coat.end).total_seconds() / 3600


def wet(step: Step, model: Model, now: datetime) -> Iterator[str]:
    for coat in model.coats:
        low = PAINT.get(coat.medium, (0.16,))[0] if coat.kind != "decal" else 12
        if coat.kind == step.kind == "decal":
            continue  # one beside another, in one sitting
        sprayed_over = (coat.medium, coat.zone) == (step.medium, step.zone) and step.kind in SPRAYED
        if age(coat, now) < (0.15 if sprayed_over else low) and step.kind not in LEAVES_SOFT:
            yield f"touched while {coat.kind} is wet"
    last = next((c for c in reversed(model.coats) if c.zone == step.zone), None)
    if (
        last
        and step.kind in COLOURS
        and last.medium == step.medium
        and last.medium in ("lacquer", "enamel")
        and 1.01 < age(last, now) < 23.9
    ):
        yield "recoated while it wrinkles"


def _prepared(step: Step, model: Model, now: datetime, steps: tuple[Step, ...]) -> Iterator[str]:
    kind, mine = step.kind, {s.kind for s in steps if s.assembly == step.assembly}
    if kind == "close" and "wire" in mine:
        if not {"wire", "test lights", "black inside", "silver inside"} <= set(model.last):
            yield "closed before the inside was finished"
        if any(age(c, now) < 2 for c in model.coats if c.kind.endswith("inside")):
            yield "closed on fresh paint"
    if kind == "test again" and (model.hours("close", now) or 0) > 48:
        yield "tested too late to open it again"
    if kind == "sand" and "close" in mine and (model.hours("close", now) or 0) < 24:
        yield "sanded before the cement was hard"
    if kind == "sand":
        low, high = {"CA": (0.2, 24), "epoxy": (24, 1e9)}.get(filler(steps, step), (1, 1e9))
        if not low <= (model.hours("fill", now) or 0) <= high:
            yield "filler sanded at the wrong time"
    if kind == "prime":
        needed = (
            {"clean", "sand"}
            | ({"close", "test again"} & mine)
            | ({"scribe", "seal foam", "mask faces", "smooth"} & mine)
        )
        yield from (f"primed before {name}" for name in needed - set(model.last))
        if (
            "rework" in mine
            and any(s.kind == "rework" and s.assembly == step.assembly for s in steps)
            and (model.hours("rework", now) or 0) < 24
        ):
            yield "primed over fresh cement"


def filler(steps: tuple[Step, ...], step: Step) -> str:
    return next(s.medium for s in steps if s.kind == "fill" and s.assembly == step.assembly)


def _coloured(step: Step, model: Model, now: datetime, _: tuple[Step, ...]) -> Iterator[str]:
    if step.kind in COLOURS or step.kind == "pre-shade":
        primer = model.hours("prime", now)
        if primer is None or primer < 1:
            yield "colour on no primer, or on wet primer"
        if "inspect" not in model.last:
            yield "colour on primer that nobody looked at"
        if model.hours("matte", now) is not None or model.hours("gloss", now) is not None:
            yield "colour over varnish"
    below = model.on(step.zone)
    if step.kind in ("base", "stripe") and "vivid" in step.facts and not any(c.kind.startswith("white") for c in below):
        yield "vivid colour without white"
    # Panels and stripes are sprayed under tape, and all other colour before them.
    if step.kind == "base" and any(c.kind == "stripe" for c in model.coats):
        yield "a base colour over finished panels"
    if step.kind == "metal" and not any(c.kind == "gloss black" for c in below):
        yield "metal without gloss black"
    if step.medium == "lacquer" and step.kind in COLOURS and below and below[-1].medium not in ("lacquer", "primer"):
        yield "lacquer over weaker paint"
    if step.kind in COLOURS and below and below[-1].medium == "enamel" != step.medium and age(below[-1], now) < 24:
        yield "acrylic on fresh enamel"


def _masked(step: Step, model: Model, now: datetime, steps: tuple[Step, ...]) -> Iterator[str]:
    if step.kind in ("mask", "mask bright"):
        if any(c.kind in COLOURS and age(c, now) < PAINT[c.medium][1] for c in model.coats):
            yield "tape on soft paint"
        if any(c.kind == "matte" and age(c, now) < 12 for c in model.coats):
            yield "tape on soft varnish"
        if (model.hours("prime", now) or 0) < 24:
            yield "tape on fresh primer"
        known = {s.zone: s.lightness for s in steps
                 if s.assembly == step.assembly and s.kind == "stripe" and s.lightness is not None}  # fmt: skip
        own = known.get(step.zone, -1.0)
        darker = [c for c in model.coats if c.kind == "stripe" and known.get(c.zone, 101.0) < own]
        if step.kind == "mask" and darker:
            yield "a light stripe after a dark one"
    soft = "freehand" in step.facts
    if step.kind in ("stripe", "white stripe") and step.zone not in model.tape and not soft:
        yield "stripe without tape"
    if soft and model.tape:
        yield "sprayed freehand beside tape"
    if step.kind == "unmask":
        last = max(
            (c for c in model.coats if c.zone == step.zone and c.kind == "stripe"), key=lambda c: c.end, default=None
        )
        if last is None or not 0.1 <= age(last, now) <= PAINT[last.medium][3] + 0.02:
            yield "tape off at the wrong time"
    # Masks of clear parts are made to stay for weeks.
    if step.kind in ("unmask", "unmask bright") and (now - model.tape[step.zone]).total_seconds() > 96 * 3600:
        yield "tape on for days"
    if step.kind in ("gloss", "decal", "matte") and model.tape:
        yield "varnish over tape"


def _chipped(step: Step, model: Model, now: datetime, _: tuple[Step, ...]) -> Iterator[str]:
    zone = model.on(step.zone)
    medium = next((c for c in zone if c.kind in ("chipping medium", "salt", "liquid mask")), None)
    if step.kind in ("chipping medium", "salt", "liquid mask"):
        seal = next((c for c in zone if c.kind == "seal coat"), None)
        if seal is None or age(seal, now) < 4:
            yield "medium on an unsealed colour"
    if step.kind == "base" and medium is not None:
        if not 0.5 <= age(medium, now) <= (24.02 if medium.kind == "chipping medium" else 72):
            yield "top colour at the wrong time for the medium"
        if step.medium not in ("water acrylic", "alcohol acrylic"):
            yield "top colour that water does not pass"
    if step.kind in ("chip", "rub"):
        top = [c for c in zone if c.kind == "base"]
        most = 4.02 if step.kind == "chip" else 1e9
        if not top or not 0.17 <= age(top[-1], now) <= most:
            yield "chipped at the wrong time"
        if zone[-1].kind != "base":
            yield "something lies over the colour that is to be chipped"


def _varnished(step: Step, model: Model, now: datetime, _: tuple[Step, ...]) -> Iterator[str]:
    kind, coats = step.kind, model.coats
    if kind in ("gloss", "matte") and any(c.kind in COLOURS and age(c, now) < PAINT[c.medium][2] for c in coats):
        yield "varnish over uncured paint"
    # A decal of a zone lies on what is on that zone, others anywhere; glossy paint does for decals once it has cured.
    below = model.on(step.zone) if kind == "decal" and step.zone else coats
    top = next((c for c in reversed(below) if c.kind in ("gloss", "seal", "matte", "post-shade", *COLOURS)), None)
    bare = kind == "decal" and top is not None and top.shiny and age(top, now) >= PAINT[top.medium][2]
    if (
        kind in ("decal", "wash", "acrylic wash")
        and not bare
        and (top is None or top.kind not in ("gloss", "seal") or age(top, now) < 4)
    ):
        yield f"{kind} on no hard gloss"
    decal = model.hours("decal", now)
    if kind in ("seal", "matte", "add small parts") and decal is not None and decal < 12:
        yield "decals not dry"
    if kind in ("wash", "acrylic wash") and decal is not None and "seal" not in model.last:
        yield "wash over unsealed decals"
    if kind == "wipe" and not 0.24 <= (model.hours("wash", now) or 0) <= 1.02:
        yield "wash wiped at the wrong time"
    wash = model.hours("wash", now)
    hours = max((PAINT[c.medium][2] for c in coats if c.kind == "wash"), default=24)
    if kind in ("matte", "streaks", "dry-brush") and wash is not None and (wash < hours or "wipe" not in model.last):
        yield "over a wash that is not dry or not wiped"
    acrylic = model.hours("acrylic wash", now)
    if kind in ("matte", "streaks", "dry-brush") and acrylic is not None and acrylic < PAINT["water acrylic"][2]:
        yield "over a wash that is not dry"
    if model.hours("matte", now) is not None and kind in ("gloss", "decal", "seal", "wash", "prime", *COLOURS):
        yield f"{kind} after the matte coat"


def _finished(step: Step, model: Model, now: datetime, steps: tuple[Step, ...]) -> Iterator[str]:
    kind, coming = step.kind, {s.kind for s in steps if s.assembly == step.assembly}
    matte = model.hours("matte", now)
    if (
        kind in ("streaks", "dry-brush", "shine", "chrome", "glass")
        and "matte" in coming
        and (matte is None or matte < 4)
    ):
        yield f"{kind} before the matte coat has cured"
    if kind in ("streaks", "dry-brush") and matte is None:
        yield f"{kind} on gloss"
    if kind == "chrome" and "black under chrome" not in model.last:
        yield "chrome without gloss black"
    if kind == "glass" and any(s.kind in ("add small parts", "add fragile parts") and s.assembly == step.assembly
                               and s.kind not in model.last for s in steps):  # fmt: skip
        yield "CA still to come beside clear parts"
    if kind in SPRAYED and "add fragile parts" in model.last:
        yield "sprayed round thin parts"
    if kind == "pigments" and "wire" in coming and "test on stand" not in model.last:
        yield "powders before the last test of the lights"
