"""From zones, jobs and lamps to the steps of the finishing sequence."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Final, Literal, get_args

from chalkreel.core.convert.operations import Operation
from chalkreel.core.finish.drying import UNHEATED
from chalkreel.core.finish.limits import masking_order
from chalkreel.core.finish.steps import FREEHAND, NOT_FIRST, SHINY, Step, caution_words, step_kinds
from chalkreel.core.finish.undercoats import under_clear
from chalkreel.core.materials import Medium, Sheen

Role = Literal["base", "stripe", "freehand", "stripe first", "metal", "glass", "bright metal"]
Wear = Literal["pre-shade", "post-shade", "chipping", "wash", "dry-brush", "streaks", "powders"]
Fact = Literal["shallow lines", "foam", "glue faces", "two halves", "printed", "vinyl"]
Chipping = Literal["medium", "salt", "liquid mask", "sponge"]
Filler = Literal["putty", "CA", "epoxy"]
Powders = Literal["left", "sealed"]
Canopy = Literal["last", "masked"]
Gloss = Literal["always", "on matte paint"]
Wash = Literal["enamel", "oil", "acrylic"]

ROLES: Final[tuple[Role, ...]] = get_args(Role)
WEARS: Final[tuple[Wear, ...]] = get_args(Wear)
FACTS: Final[tuple[Fact, ...]] = get_args(Fact)
FILLERS: Final[tuple[Filler, ...]] = get_args(Filler)
PAINTED: Final[tuple[Role, ...]] = ("base", "stripe", "freehand", "stripe first", "metal")
# Panels and stripes: colours that border another of the same assembly.
OVER: Final[tuple[Role, ...]] = ("stripe", "freehand", "stripe first")
# Strokes of wear that need a surface on which they do not slide.
_ON_MATTE: Final = frozenset({"dry-brush", "streaks"})
# How a zone stands to stripes that come first: one of them, what is sprayed round them, or one that cannot come first.
Turn = Literal["", "first", "round", "not first"]
# What steps are called where a panel's edge is left soft, and where stripes come first.
_NAMED: Final = {
    ("freehand", "stripe"): "Spray freehand, edges soft",
    ("clear", "base"): "Clear colour",
    ("clear", "metal"): "Clear colour",
    ("clear", "stripe"): "Clear colour",
    ("first", "base"): "Spray the stripe first",
    ("round", "mask"): "Tape over the stripes",
    ("round", "stripe"): "Spray round the taped stripes",
}
# Strokes of wear that take the gloss off paint, or lie over it.
_DULLING: Final = frozenset({"post-shade", "chipping"})
# Steps that come from jobs, whose hours the user gives.
JOBS: Final = frozenset({"rework", "make", "detail", "add small parts", "add fragile parts"})
# Jobs that are made apart, and only fitted late in the sequence, in so many minutes.
_FITTED: Final = frozenset({"add small parts", "add fragile parts"})
FITTING: Final = 20
# Minutes to soak, place, set and soften one, and so many at one sitting.
ONE_DECAL: Final = 12
ONE_SITTING: Final = 8
_WHEN_KIND: Final = {
    "before primer": "rework", "before closing": "rework", "after base colour": "detail",
    "after decals": "add small parts", "after matte coat": "add fragile parts",
}  # fmt: skip


@dataclass(frozen=True)
class Schools:
    """What is done where practitioners differ: how paint is chipped, what seams are filled with, whether powders are
    left as they are, last of all, or sealed under a mist of matte, whether clear parts are set in last or before
    painting, masked, whether decals lie on a gloss coat always, or on paint itself where that is glossy, and what a
    wash is made of.
    """

    chipping: Chipping = "medium"
    filler: Filler = "putty"
    powders: Powders = "left"
    canopy: Canopy = "last"
    gloss: Gloss = "always"
    wash: Wash = "enamel"


@dataclass(frozen=True)
class Decal:
    """One decal by name; `under` where a detail part is fitted over it afterwards."""

    name: str
    under: bool = False


@dataclass(frozen=True)
class ZonePlan:
    """A zone as the sequence sees it; a `vivid` colour (yellow, orange, red) needs white beneath, and `shiny` paint
    dries to a gloss by itself. A `filtered` one is tinted all over after its gloss; clear coats
    of it lie on `clear_over`.

    It gets `decals`, all at one go where there is no `decal_list`; its `turn` follows from the others beside it.
    """

    name: str
    assembly: str
    colour_words: str
    medium: Medium
    sheen: Sheen
    role: Role
    wear: tuple[Wear, ...] = ()
    decals: bool = False
    lightness: float | None = None
    coats: int = 2
    colour: str = ""
    vivid: bool = False
    decal_list: tuple[Decal, ...] = ()
    shiny: bool = False
    turn: Turn = ""
    filtered: bool = False
    clear_over: str = ""


@dataclass(frozen=True)
class AssemblyPlan:
    """A thing painted as one: its zones, its operations, whether lights go into it, and what is known of its parts."""

    name: str
    zones: tuple[ZonePlan, ...]
    operations: tuple[Operation, ...] = ()
    lit: bool = False
    facts: tuple[Fact, ...] = ()

    @property
    def painted(self) -> tuple[ZonePlan, ...]:
        """The zones that are primed."""
        return tuple(zone for zone in self.zones if zone.role in PAINTED)


def steps_for(assemblies: tuple[AssemblyPlan, ...], schools: Schools) -> tuple[Step, ...]:
    """Every step the plans call for, assembly by assembly in the order of the usual stack.

    Panels and stripes of one assembly are masked one after another, the lightest first.
    """
    rank = {kind: number for number, kind in enumerate(step_kinds())}
    masked = dict.fromkeys(("mask", "edge seal", "white stripe", "stripe", "unmask"), rank["mask"])
    found: list[Step] = []
    for assembly in (_with_turns(plan, schools) for plan in assemblies):
        made = {step.id: _on_substrate(step, assembly) for step in _assembly_steps(assembly, schools)}
        turn = _turns(assembly)
        found += sorted(
            made.values(), key=lambda s: (masked.get(s.kind, rank[s.kind]), turn.get(s.zone, 0), rank[s.kind], s.coat)
        )
    return (*found, *_joining(assemblies))


def _with_turns(plan: AssemblyPlan, schools: Schools) -> AssemblyPlan:
    """Stripes that come first change places with the colour round them: they lie on primer as a base colour does, and
    that is sprayed like a panel, under tape. Where it is chipped or metal, or of a paint that cannot follow while the
    tape is on, they are masked as others are.
    """
    ground = next((zone for zone in plan.zones if zone.role in ("base", "metal")), None)
    chipped = ground is not None and "chipping" in ground.wear and schools.chipping != "sponge"
    over = ground if ground is not None and ground.role == "base" and not chipped else None
    first = [z for z in plan.zones if z.role == "stripe first" and over is not None and _bears(z.medium, over.medium)]
    others = [
        replace(z, role="stripe", turn="not first") if z.role == "stripe first" else z
        for z in plan.zones if z not in first
    ]  # fmt: skip
    if over is None or not first:
        return replace(plan, zones=tuple(others))
    beneath = (replace(z, role="base", turn="first", wear=tuple(w for w in z.wear if w != "chipping")) for z in first)
    # Before all other panels, however dark: those lie on it.
    panel = replace(over, role="stripe", turn="round", lightness=None)
    return replace(plan, zones=(*beneath, panel, *(z for z in others if z is not over)))


def _bears(stripe: Medium, over: Medium) -> bool:
    """Whether paint may follow over a stripe while tape stays: enamel and oil cure longer, lacquer attacks."""
    return stripe == over or (stripe not in ("enamel", "oil") and over != "lacquer")


def _on_substrate(step: Step, plan: AssemblyPlan) -> Step:
    """The step with what its assembly is made of among its facts, where not every layer and cabinet does on that."""
    substrate = tuple(fact for fact in plan.facts if fact in UNHEATED and fact not in step.facts)
    return replace(step, facts=(*step.facts, *substrate)) if substrate else step


def _turns(plan: AssemblyPlan) -> dict[str, int]:
    stripes = [(zone.name, zone.lightness) for zone in plan.zones if zone.role in OVER]
    return {name: number for number, name in enumerate(masking_order(stripes))}


def _assembly_steps(plan: AssemblyPlan, schools: Schools) -> Iterator[Step]:
    yield _step("clean", plan.name)
    for number, operation in enumerate(plan.operations):
        before = sum((o.feature, o.verb) == (operation.feature, operation.verb) for o in plan.operations[:number])
        yield from _operation_steps(operation, plan.name, before)
    yield from _before_primer(plan, schools)
    for zone in plan.zones:
        yield from _zone_steps(zone, plan, schools)
    if plan.painted:
        yield from _varnish_steps(plan, schools)
        yield _step("compare", plan.name)
    if plan.lit:
        yield _step("test on stand", plan.name)


def _before_primer(plan: AssemblyPlan, schools: Schools) -> Iterator[Step]:
    if plan.lit:
        for kind in ("drill", "black inside", "silver inside", "wire", "test lights"):
            yield _step(kind, plan.name)
    if plan.lit or "two halves" in plan.facts:
        yield _step("close", plan.name)
    if plan.lit:
        yield _step("test again", plan.name)
    if "foam" in plan.facts:
        yield _step("seal foam", plan.name)
    if not plan.painted:
        return
    if "shallow lines" in plan.facts:
        yield _step("scribe", plan.name)
    if "glue faces" in plan.facts:
        yield _step("mask faces", plan.name)
    if "printed" in plan.facts:
        yield _step("smooth", plan.name)
    yield _step("fill", plan.name, medium=schools.filler)
    yield _step("sand", plan.name)
    yield _step("prime", plan.name, facts=plan.facts)
    yield _step("inspect", plan.name)


def _zone_steps(zone: ZonePlan, plan: AssemblyPlan, schools: Schools) -> Iterator[Step]:
    where = (zone.assembly, zone.name)
    if zone.role == "glass":
        # Where nothing is sprayed there is nothing to mask it from.
        masked = schools.canopy == "masked" and bool(plan.painted)
        yield from (_step(kind, *where) for kind in (("mask glass", "unmask glass") if masked else ("glass",)))
    elif zone.role == "bright metal":
        apart = not plan.painted
        yield from (_step(kind, *where) for kind in ("black under chrome", "chrome"))
        if not apart:
            yield from (_step(kind, *where) for kind in ("mask bright", "unmask bright"))
    else:
        beneath = next((other.medium for other in plan.zones if other.role in ("base", "metal")), zone.medium)
        yield from _painted_steps(zone, beneath, schools)


def _painted_steps(zone: ZonePlan, beneath: Medium, schools: Schools) -> Iterator[Step]:
    where, medium = (zone.assembly, zone.name), zone.medium
    if "pre-shade" in zone.wear:
        yield _step("pre-shade", *where, medium=medium)
    if zone.role == "metal":
        yield _step("gloss black", *where, medium=medium)
    if zone.role == "stripe":
        yield _named(_step("mask", *where), zone.turn)
        yield _step("edge seal", *where, medium=beneath)
        yield _step("unmask", *where)
    if zone.clear_over or (zone.vivid and zone.role != "metal"):
        soft = (FREEHAND,) if zone.role == "freehand" else ()
        white = _step("white stripe" if zone.role in OVER else "white", *where, medium=medium, facts=soft)
        yield under_clear(white, zone.clear_over) if zone.clear_over else white
    if "chipping" in zone.wear and zone.role == "base":
        yield from _chipping_steps(zone, schools)
    yield from _coats(zone)
    if "post-shade" in zone.wear:
        yield _step("post-shade", *where, medium=medium)


def _chipping_steps(zone: ZonePlan, schools: Schools) -> Iterator[Step]:
    where = (zone.assembly, zone.name)
    if schools.chipping == "sponge":
        return
    yield _step("under-colour", *where, medium=zone.medium)
    yield _step("seal coat", *where)
    yield _step("chipping medium" if schools.chipping == "medium" else schools.chipping, *where)
    yield _step("chip" if schools.chipping == "medium" else "rub", *where)


def _coats(zone: ZonePlan) -> Iterator[Step]:
    freehand = zone.role == "freehand"
    facts = ("vivid",) * zone.vivid + (SHINY,) * zone.shiny + (FREEHAND,) * freehand
    facts += (NOT_FIRST,) * (zone.turn == "not first")
    for coat in range(1, zone.coats + 1):
        step = _step(
            "stripe" if freehand else zone.role, zone.assembly, zone.name, extra=zone.colour_words, medium=zone.medium,
            colour=zone.colour or zone.colour_words, lightness=zone.lightness, coat=coat, coats=zone.coats, facts=facts,
        )  # fmt: skip
        yield _named(step, "clear" if zone.clear_over else "freehand" if freehand else zone.turn)


def _named(step: Step, how: str) -> Step:
    """The step under the name that it has where a panel is made in some way."""
    usual = step_kinds()[step.kind].title
    return replace(step, title=step.title.replace(usual, _NAMED.get((how, step.kind), usual)))


def _varnish_steps(plan: AssemblyPlan, schools: Schools) -> Iterator[Step]:
    name = plan.name
    wear = {kind for zone in plan.painted for kind in zone.wear}
    decals = any(zone.decals for zone in plan.painted)
    bare = schools.gloss == "on matte paint" and _all_shiny(plan)
    washed = "wash" in wear or any(zone.filtered for zone in plan.painted)
    if washed or (decals and not bare):
        yield _step("gloss", name)
    if decals:
        yield from _decal_steps(plan)
        yield _step("seal", name)
    if washed:
        yield from _wash_steps(plan, schools, "wash" in wear)
    matte = any(zone.sheen != "gloss" for zone in plan.painted) or bool(wear & _ON_MATTE)
    if matte:
        yield _step("matte", name)
        yield from (_step("shine", name, zone.name) for zone in plan.painted if zone.sheen == "gloss")
    if "chipping" in wear and schools.chipping == "sponge":
        yield _step("sponge", name)
    yield from (_step(kind, name) for kind in ("dry-brush", "streaks") if kind in wear)
    if "powders" in wear:
        # A mist over gloss would dull it all: there they are left.
        sealed = schools.powders == "sealed" and matte
        yield from (_step(kind, name) for kind in (("sealed powders", "fix") if sealed else ("pigments",)))


def _wash_steps(plan: AssemblyPlan, schools: Schools, washed: bool) -> Iterator[Step]:
    """A wash, and filters of the same carrier in one go with it, or these alone.

    What dries with water cannot be wiped off again, so it is drawn out at once.
    """
    tinted = ", ".join(zone.name for zone in plan.painted if zone.filtered)
    for kind in ("acrylic wash",) if schools.wash == "acrylic" else ("wash", "wipe"):
        step = _step(kind, plan.name, medium=schools.wash if kind == "wash" else "")
        if kind == "wash" and schools.wash == "oil":
            step = replace(step, materials=("oil wash",))
        does = "even the filter out" if kind == "wipe" else "filter, thin and even"
        title = f"{step.title}; {does}" if washed else does.capitalize()
        yield replace(step, title=f"{title}: {tinted}") if tinted else step


def _all_shiny(plan: AssemblyPlan) -> bool:
    """Whether glossy paint lies open wherever a decal may come; one without a name may come anywhere."""
    marked = [zone for zone in plan.painted if zone.decals]
    if any(not zone.decal_list for zone in marked):
        marked = list(plan.painted)
    open_paint = all(z.shiny and z.role in ("base", *OVER) and not set(z.wear) & _DULLING for z in marked)
    # Details painted afterwards are not of that paint.
    return open_paint and not any(_WHEN_KIND[o.when] == "detail" for o in plan.operations)


def _decal_steps(plan: AssemblyPlan) -> Iterator[Step]:
    """Decals zone by zone, in sittings of a few, those under detail parts first; where none is named, all at one go."""
    marked = [zone for zone in plan.painted if zone.decals]
    if any(not zone.decal_list for zone in marked):
        yield _step("decal", plan.name)
    for under, words in ((True, ", under parts"), (False, "")):
        for zone in marked:
            names = [decal.name for decal in zone.decal_list if decal.under is under]
            for number, first in enumerate(range(0, len(names), ONE_SITTING), start=1):
                some = names[first : first + ONE_SITTING]
                step = _step("decal", plan.name, zone.name)
                title = f"{step.title}{words}: {'; '.join(some)}"
                key = f"{step.id}{'/under' if under else ''}{f'/{number}' if number > 1 else ''}"
                yield replace(step, id=key, title=title, minutes=ONE_DECAL * len(some))


def _joining(assemblies: tuple[AssemblyPlan, ...]) -> Iterator[Step]:
    """All assemblies but the first are fitted to the rest when they are painted."""
    painted = [plan.name for plan in assemblies if plan.painted]
    for name in painted[1:]:
        yield _step("join", name)


def _step(
    kind: str, assembly: str, zone: str = "", extra: str = "", medium: str = "", colour: str = "",
    lightness: float | None = None, coat: int = 1, coats: int = 1, facts: tuple[str, ...] = (),
) -> Step:  # fmt: skip
    entry = step_kinds()[kind]
    number = f", coat {coat} of {coats}" if coats > 1 else ""
    return Step(
        f"{assembly}/{zone}/{kind}" + (f"/{coat}" if coat > 1 else ""), kind, assembly, zone,
        f"{entry.title}: {zone or assembly}{number}", entry.minutes, ((extra,) if extra else ()) + entry.materials,
        caution_words(kind), medium or entry.material, colour or entry.colour, lightness, coat, coats, facts,
    )  # fmt: skip


def _operation_steps(operation: Operation, assembly: str, before: int) -> Iterator[Step]:
    """A job at its time; one for late in the sequence is made whenever there is time, and only fitted then.

    `before` counts jobs of the same name before it.
    """
    kind = _WHEN_KIND[operation.when]
    size = f", {operation.size_words}" if operation.size_mm else ""
    name = f"{assembly}/{operation.feature}/{operation.verb}" + (f"/{before + 1}" if before else "")
    minutes = max(5, round(operation.hours * 60))
    fitted = kind in _FITTED and minutes > 2 * FITTING
    if fitted:
        yield Step(
            f"{name}/make", "make", assembly, "", f"Make {operation.feature}{size}", minutes - FITTING,
            (operation.material,), caution_words("make"),
        )  # fmt: skip
    yield Step(
        name, kind, assembly, "", f"{operation.verb.capitalize()} {operation.feature}{size}",
        FITTING if fitted else minutes, (operation.material,), caution_words(kind), step_kinds()[kind].material,
    )  # fmt: skip
