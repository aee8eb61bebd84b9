"""View-model of Colour (no Qt): patches over the still, the chosen surface in words, what a tool adds."""

from __future__ import annotations

import math

import msgspec

from chalkreel.answers.answers import Answers
from chalkreel.answers.colours import SurfaceRow
from chalkreel.answers.mixes import Mixes
from chalkreel.answers.stack import StackRow
from chalkreel.app.stills.mask import CODES, WORDS, Mask
from chalkreel.app.stills.strokes import Stroke
from chalkreel.app.stills.tools import BRUSH, KNOWN, NEUTRAL, POLYGON, Points, ToolKind
from chalkreel.core.colour.kinds import Lab
from chalkreel.core.colour.published_mix import WITHIN_DELTA_E, is_mix, mixed_lab, parse_mix
from chalkreel.core.colour.recipe import Recipe
from chalkreel.core.colour.typed_colour import lab_of_words
from chalkreel.core.colour.verdict import OUT_OF_REACH, Worth
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.interval import NORMAL_95
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Still
from chalkreel.document.paint_entities import ColourPatch, ShelfPaint, Surface
from chalkreel.document.snapshot import Build
from chalkreel.edits import painting

# Lightness known no better than this (± L*) is the weak part of a colour.
UNSURE_L = 6.0
BRUSH_SHARE = 0.006
LAMP_WORDS = {"D65": "daylight", "A": "tungsten", "LED-B2": "warm white LED"}
MODE_WORDS = {"object": "the object", "picture": "the picture", "free": "your own"}


def strokes_of(build: Build, still: Still, surface_id: str) -> tuple[Stroke, ...]:
    """The patches on one still; those of the chosen surface are strong, those left out are dashed."""
    found = []
    for patch in build.all(ColourPatch):
        if patch.still_id != still.id:
            continue
        surface = build.get(Surface, patch.surface_id)
        # White, not a chalk colour: nothing tinted may stand beside a colour under judgement.
        other = "known colour" if patch.known_lab else f"{patch.lamp} lamp, known" if patch.lamp else "neutral"
        label = surface.name if surface else other
        found.append(
            Stroke(
                patch.outline or painting.region_box(patch), "white", label + (", left out" if patch.left_out else ""),
                closed=not patch.brush_px, crosses=False, dashed=surface is None or patch.left_out,
                strong=patch.surface_id == surface_id and bool(surface_id),
            )
        )  # fmt: skip
    return tuple(found)


def masks_of(row: SurfaceRow | None, still_id: str) -> tuple[Mask, ...]:
    """What does not count of the chosen surface's patches on one still."""
    votes = [v for v in row.votes if v.still_id == still_id and v.sample is not None] if row else []
    found = []
    for vote in votes:
        sample = vote.sample
        assert sample is not None
        rows, columns = sample.mask.shape
        found.append(Mask(sample.mask.tobytes(), columns, rows, *sample.corner, sample.step))
    return tuple(found)


def mask_words(row: SurfaceRow, still_id: str) -> str:
    """What the chalk over the chosen surface's patches on one still means; empty where all of them counts."""
    found = {
        code for v in row.votes if v.still_id == still_id and v.sample is not None for code in set(v.sample.mask.flat)
    }
    words = [f"{CODES[code]}: {WORDS[CODES[code]]}" for code in sorted(found) if CODES[code]]
    return "Left out of the patch, " + "; ".join(words) if words else ""


def tool_edits(
    build: Build,
    still: Still,
    kind: ToolKind,
    points: Points,
    surface: str,
    known: str,
    facet: str,
    to_light: bool = False,
) -> tuple[Edits, str]:
    """What a tool adds: a neutral, a known colour, or a patch of a surface by name. Also the surface's id.

    Raises
    ------
    RefusedError
        Too small, or a reflectance or colour that cannot be read.
    """
    if kind in (NEUTRAL, KNOWN):
        patch = msgspec.structs.replace(painting.box_patch(still, "", points), facet=facet, to_light=to_light)
        if kind is NEUTRAL:
            return {patch.id: msgspec.structs.replace(patch, reflectance=reflectance_from(known))}, ""
        return {patch.id: msgspec.structs.replace(patch, known_lab=lab_of_words(known))}, ""
    chosen = painting.surface_named(build, surface)
    if kind is BRUSH:
        radius = max(3.0, BRUSH_SHARE * still.width_px)
        patch = painting.patch_over(still, chosen.id, points, radius, facet)
    elif kind is POLYGON:
        patch = painting.patch_over(still, chosen.id, points, facet=facet)
    else:
        patch = msgspec.structs.replace(painting.box_patch(still, chosen.id, points), facet=facet)
    return {chosen.id: chosen, patch.id: patch}, chosen.id


def cards_on(build: Build, still: Still | None) -> tuple[ColourPatch, ...]:
    """The neutrals and known colours of a still that are no surface of the subject."""
    mine = [p for p in build.all(ColourPatch) if still is not None and p.still_id == still.id]
    return tuple(p for p in mine if not p.surface_id and p.lamp is None)


def reflectance_from(text: str) -> float | None:
    """A percentage as a share, or None when it is not known."""
    if not text.strip():
        return None
    value = parse_number(text.strip().removesuffix("%")) / 100
    if not 0.01 <= value <= 1.0:
        raise RefusedError("A neutral’s reflectance lies between 1 % and 100 %. Leave it empty if unknown.")
    return value


def chosen_row(answers: Answers | None, surface_id: str) -> SurfaceRow | None:
    """The chosen surface, or the first."""
    rows = answers.colours.surfaces if answers and answers.colours else ()
    return next((r for r in rows if r.surface_id == surface_id), next(iter(rows), None))


def recipe_words(recipe: Recipe) -> str:
    """'12 titanium white + 7 yellow ochre'; of clears with their coats."""
    drops = " + ".join(f"{count} {name}" for name, count in recipe.drops)
    return f"{drops}, {plural(recipe.coats, 'coat')}" if recipe.coats else drops


def grounds(build: Build) -> list[tuple[str, str]]:
    """How a surface may be laid: hiding, or clear over white, silver or a metallic paint; its key and its words."""
    metals = [p.name for p in build.all(ShelfPaint) if p.metallic]
    return [("", "in paint that hides"), *((name, f"clear coats over {name}") for name in ("white", "silver", *metals))]


def lab_words(lab: Lab) -> str:
    """A colour in numbers."""
    return f"L* {lab[0]:.1f}  a* {signed(lab[1])}  b* {signed(lab[2])}"


def signed(value: float) -> str:
    """A number with its sign, minus as it is set in print."""
    return f"{_to_a_tenth(value):+.1f}".replace("-", "−")


def typed_lab(lab: Lab | None) -> str:
    """A colour as it can be typed again."""
    return "" if lab is None else " ".join(f"{_to_a_tenth(value):.1f}" for value in lab)


def lab_from(text: str) -> Lab | None:
    """L* a* b* or a code, or nothing."""
    return lab_of_words(text) if text.strip() else None


def _to_a_tenth(value: float) -> float:
    """Rounded, and no nothing with a minus before it."""
    return round(value, 1) + 0.0


def certainty_words(row: SurfaceRow) -> str:
    """How surely chroma and lightness are known, apart."""
    colour = row.colour
    if colour is None:
        return row.problem
    stills = f"{colour.stills} still" + ("s" if colour.stills > 1 else "")
    return (
        f"a* {signed(colour.lab[1])}, b* {signed(colour.lab[2])}: "
        f"chroma and hue within ΔE00 {colour.delta_e_chroma:.1f}; "
        f"with lightness {colour.delta_e:.1f} (95 %, from {stills})"
    )


def help_words(row: SurfaceRow) -> str:
    """What would make the lightness of a surface surer, where that is the weak part."""
    colour = row.colour
    if colour is None or colour.faced or row.known or NORMAL_95 * colour.sigma_l < UNSURE_L:
        return ""
    return (
        "Most help to lightness: one still with a grey card held flat on this surface, both patches given the same "
        "facet word."
    )


def known_colours(answers: Answers | None, but: str) -> dict[str, Lab]:
    """The targets of all surfaces but one, by name: a label's picture on the reel may be one."""
    rows = answers.colours.surfaces if answers and answers.colours else ()
    return {r.name: r.mixes.target.lab for r in rows if r.mixes.target is not None and r.surface_id != but}


def own_colour(text: str, row: SurfaceRow | None) -> dict[str, object]:
    """What a typed colour, or a mix that was published, sets of a surface: its own colour.

    A published mix is then aimed at, and so is a colour of a surface that has no other target.

    Raises
    ------
    RefusedError
        It is neither, or no paint can have it.
    """
    if is_mix(text):
        return {"free_lab": _own_lab(text), "published": text.strip(), "mode": "free"}
    lab = _own_lab(text)
    found: dict[str, object] = {"free_lab": lab, "published": ""}
    if lab is not None and row is not None and row.mixes.target is None:
        found["mode"] = "free"
    return found


def own_colour_understood(text: str) -> str:
    """What typed words are taken for; empty while they mean nothing yet."""
    try:
        lab = _own_lab(text)
    except RefusedError:
        return ""
    within = f", 19 in 20 such mixes within ΔE {WITHIN_DELTA_E:.0f}" if is_mix(text) else ""
    return "" if lab is None else f"= L* a* b* {lab[0]:.1f} {lab[1]:.1f} {lab[2]:.1f}{within}"


def _own_lab(text: str) -> Lab | None:
    if not text.strip():
        return None
    return mixed_lab(parse_mix(text)) if is_mix(text) else lab_of_words(text)


def closeness(recipe: Recipe, landing: float, target: float, nearest: float | None = None) -> tuple[str, str]:
    """How near the mix comes, in words, and the state of it; `landing` and `target` as `SurfaceRow.doubts` has them.

    `nearest` is the ΔE00 of the nearest mix that was found, where one was.

    A mix is called right only where its distance and both doubts together are small.
    """
    words = f"ΔE00 {recipe.delta_e:.1f} by computation, "
    whole = math.hypot(recipe.delta_e, landing, target)
    if recipe.delta_e > OUT_OF_REACH and nearest is not None and nearest < recipe.delta_e - 0.5:
        return f"{words}visible; another mix comes to {nearest:.1f}", "warn"
    if recipe.delta_e > OUT_OF_REACH:
        return words + "visible; out of this shelf’s reach", "warn"
    if whole <= 1.0:
        return words + "no difference by eye, whatever its doubts", "good"
    if whole <= OUT_OF_REACH:
        return words + "close, its doubts included", "good"
    weak = "the paints" if landing >= target else "the target"
    return (
        f"{words}but known to ± {math.hypot(landing, target):.0f} only, most of it from {weak}; test on scrap",
        "warn",
    )


def worth_words(worth: Worth) -> tuple[tuple[str, str], ...]:
    """The ± of a mix, its touchiest paint and its look under other lamps, each with its state."""
    found = [(f"lands within ΔE00 ± {NORMAL_95 * worth.sigma_delta_e:.1f} for paint strengths and drop sizes", "plain")]
    touchy = max(worth.touches, key=lambda t: max(t.more, t.less))
    state = "warn" if touchy.more > 3.0 else "plain"
    found.append((f"one drop more of {touchy.name} moves it by ΔE00 {touchy.more:.1f}", state))
    lamps = [f"{LAMP_WORDS[lamp]} {error:.1f}" for lamp, error in worth.by_lamp]
    spread = max((error for _, error in worth.by_lamp), default=0.0) - min((e for _, e in worth.by_lamp), default=0.0)
    if lamps:
        found.append(("ΔE00 under " + ", ".join(lamps), "warn" if spread > 2.0 else "plain"))
    return tuple(found)


def coats_words(mixes: Mixes) -> tuple[tuple[str, str], ...]:
    """How a clear mix is laid, and how much hangs on one coat, each with its state."""
    best, laid = mixes.best, mixes.clear
    if best is None or laid is None:
        return ()
    moves = f"one coat more moves it by ΔE00 {laid.one_more:.1f}, one less by {laid.one_less:.1f}"
    return (
        (f"{plural(best[0].coats, 'coat')} over {laid.over}", "plain"),
        (f"{moves}: count them on a test strip", "warn"),
    )


def reach_words(mixes: Mixes) -> tuple[str, ...]:
    """What an out-of-reach target lacks."""
    best = mixes.best
    if best is None or mixes.lacking is None:
        return ()
    name, error = mixes.lacking
    return (f"A {name} on the shelf would bring it to about ΔE00 {error:.1f}.",)


def fault_words(row: SurfaceRow) -> tuple[str, ...]:
    """What is wrong with the patches of a surface."""
    words = []
    for v in row.votes:
        where = f"still {v.still_number}"
        if v.problem and v.problem != "left out by you":
            words.append(v.problem)
        elif v.odd:
            words.append(v.odd)
        if v.sample is None:
            continue
        if v.sample.clipped_share > 0.02:
            words.append(f"{where}: {100 * v.sample.clipped_share:.0f} % of the patch is clipped")
        if v.sample.dark_share > 0.2:
            words.append(f"{where}: {100 * v.sample.dark_share:.0f} % of the patch drowns in noise")
        if v.sample.left_out_share > 0.25:
            words.append(f"{where}: {100 * v.sample.left_out_share:.0f} % of the patch is highlight or shadow")
        if v.sample.gradient > 1.8:
            words.append(f"{where}: the light changes {v.sample.gradient:.1f} times over the patch; take a smaller one")
    return tuple(dict.fromkeys(words))


def layer_words(row: SurfaceRow, tolerance: float) -> tuple[tuple[str, str], ...]:
    """Warnings about varnish and wash, coats and pre-shade, each with its state."""
    found = []
    for stack in row.mixes.stacks:
        if stack.problem:
            found.append((f"{stack.zone}: {stack.problem}", "warn"))
            continue
        if stack.moved > tolerance:
            found.append((f"{stack.zone}: varnish and wash move the colour by ΔE00 {stack.moved:.1f}", "warn"))
        if stack.clear:
            found.extend(_clear_words(row, stack))
        elif stack.coats is None:
            found.append((f"{stack.zone}: this mix does not hide its primer in twelve coats", "warn"))
        else:
            coats = f"{stack.coats} coat" + ("s" if stack.coats > 1 else "")
            enough = stack.planned >= stack.coats
            words = f"{stack.zone}: {coats} hide the primer, {stack.planned} planned"
            found.append((words, "good" if enough else "warn"))
        if stack.pre_shade > 0:
            found.append((f"{stack.zone}: the pre-shade still shows by ΔE00 {stack.pre_shade:.1f}", "plain"))
    return tuple(found)


def _clear_words(row: SurfaceRow, stack: StackRow) -> list[tuple[str, str]]:
    """Whether a zone gets as many clear coats as the recipe counts on."""
    counted = row.best[0].coats if row.best else 0
    if not stack.primed:
        return [(f"{stack.zone}: prime it with what its clear coats lie on; its primer is another", "warn")]
    if counted == stack.planned:
        return [(f"{stack.zone}: {plural(counted, 'clear coat')}, as the recipe counts", "plain")]
    words = f"{stack.zone}: {plural(stack.planned, 'coat')} planned, the recipe counts {counted}; settle on it on Mix"
    return [(words, "warn")]
