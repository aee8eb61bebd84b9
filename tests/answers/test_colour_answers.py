"""Answers of the Colour stage on builds made by hand: evidence, targets, layers, pots and what they teach."""

from __future__ import annotations

from typing import Any

import msgspec
import numpy as np
import pytest
from tests.builds import empty_build

from chalkreel.answers.answers import Answers
from chalkreel.answers.colours import ColourAnswers, Colours, SurfaceRow
from chalkreel.answers.mixes import paint_of
from chalkreel.answers.zone_areas import zone_areas
from chalkreel.core.colour.cielab import RGB_TO_XYZ, encode_srgb, lab_of_xyz, xyz_of_lab
from chalkreel.core.colour.clear_coats import clear_look, ground_of
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.typed_colour import lab_of_reflectance
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.marks import Mark
from chalkreel.core.media.picture import Picture
from chalkreel.demo.evidence import bench_range
from chalkreel.document.entities import AnyEntity, Outline, Still
from chalkreel.document.gallery import Gallery
from chalkreel.document.paint_entities import ColourPatch, Drawdown, PaintPot, PotStep, ShelfPaint, Surface, Zone
from chalkreel.document.snapshot import Build
from chalkreel.edits import painting
from chalkreel.edits.removing import removal
from chalkreel.edits.shelving import Dries, guessed_paint, put_on_shelf

GREY, PANEL, TRIM = (50.0, 0.0, 0.0), (60.0, 12.0, 30.0), (40.0, -15.0, -12.0)
LIGHTS = {"one": (1.0, 0.8, 0.55), "two": (0.7, 0.85, 1.0), "three": (0.9, 0.6, 0.4)}


class Shown(Gallery):
    """Stills of three flat fields: grey, panel and trim, each under its own light."""

    def __init__(self, spoilt: dict[str, tuple[float, float, float]] | None = None) -> None:
        super().__init__(lambda _: b"")
        self._spoilt = spoilt or {}

    def picture(self, sha: str) -> Picture:
        fields = []
        for lab in (GREY, self._spoilt.get(sha, PANEL), TRIM):
            rgb = np.linalg.inv(RGB_TO_XYZ) @ xyz_of_lab(np.array(lab)) * LIGHTS[sha]
            fields.append(np.full((40, 40, 3), encode_srgb(rgb)))
        noise = np.random.default_rng(1).normal(0, 0.003, (40, 120, 3))
        return Picture((65535 * np.clip(np.concatenate(fields, axis=1) + noise, 0, 1)).astype(np.uint16))


def still(name: str, number: int, **fields: Any) -> Still:
    return Still(id=name, title=name, blob=name, width_px=120, height_px=40, number=number, **fields)


def patch(still_id: str, surface: str, **fields: Any) -> ColourPatch:
    place = {"": 0, "panel": 40, "trim": 80}[surface]
    return ColourPatch(id=f"{still_id} {surface}", still_id=still_id, surface_id=surface, x_px=place + 5, y_px=5,
                       width_px=30, height_px=30, facet="flat", **fields)  # fmt: skip


def build_of(*entities: AnyEntity) -> Build:
    first = empty_build("hand-made")
    version = next(e.version_id for e in first.values() if hasattr(e, "version_id"))
    placed = {
        e.id: msgspec.structs.replace(e, version_id=version) if isinstance(e, Still) and not e.version_id else e
        for e in entities
    }
    return Build(1, first | placed)


def basics(neutral_level: float | None = 0.1842) -> list[AnyEntity]:
    return [
        Surface(id="panel", name="Panel"), Surface(id="trim", name="Trim"),
        still("one", 1, side="port"), still("two", 2, side="starboard"),
        patch("one", "", reflectance=neutral_level), patch("one", "panel"), patch("one", "trim"),
        patch("two", "panel"), patch("two", "trim"),
    ]  # fmt: skip


def answered(build: Build, gallery: Gallery | None = None) -> Colours:
    return list(ColourAnswers(gallery or Shown()).answer(build, lambda _: True, zone_areas(build, None, None)))[-1]


def row_of(colours: Colours, surface: str) -> SurfaceRow:
    return next(r for r in colours.surfaces if r.surface_id == surface)


def test_a_still_without_a_neutral_votes_through_shared_surfaces() -> None:
    found = answered(build_of(*basics()))
    panel = row_of(found, "panel")
    assert panel.colour is not None and panel.colour.stills == 2
    assert delta_e_2000(np.array(panel.colour.lab), np.array(PANEL)) < 1.5
    assert [s.tied for s in found.stills] == [False, True]
    assert row_of(answered(build_of(*basics()[:-2])), "panel").colour is not None
    nothing = answered(build_of(*[e for e in basics() if not (isinstance(e, ColourPatch) and not e.surface_id)]))
    assert row_of(nothing, "panel").colour is None and "neutral" in row_of(nothing, "panel").problem


def test_a_burnt_out_neutral_is_refused_and_said() -> None:
    class Burnt(Shown):
        def picture(self, sha: str) -> Picture:
            shown = super().picture(sha).pixels.copy()
            shown[:, :40] = 65535
            return Picture(shown)

    found = answered(build_of(*basics()), Burnt())
    assert row_of(found, "panel").colour is None
    assert any("clipped" in words for words in found.problems)


def test_a_neutral_of_unknown_level_tells_hue_but_not_lightness() -> None:
    known, unknown = (row_of(answered(build_of(*basics(level))), "panel").colour for level in (0.1842, None))
    assert known is not None and unknown is not None
    assert unknown.sigma_l > 1.5 * known.sigma_l
    hue = np.degrees(np.arctan2(unknown.lab[2], unknown.lab[1]))
    assert hue == pytest.approx(np.degrees(np.arctan2(PANEL[2], PANEL[1])), abs=4)


def test_a_surface_of_known_colour_is_an_anchor() -> None:
    entities = [e for e in basics() if not (isinstance(e, ColourPatch) and not e.surface_id)]
    entities[0] = Surface(id="panel", name="Panel", known_lab=PANEL)
    trim = row_of(answered(build_of(*entities)), "trim").colour
    assert trim is not None and delta_e_2000(np.array(trim.lab), np.array(TRIM)) < 1.5


def test_a_known_colour_beside_the_grey_puts_the_channels_right_and_it_is_said() -> None:
    plain = answered(build_of(*basics()))
    told = answered(build_of(Surface(id="panel", name="Panel", known_lab=PANEL), *basics()[1:]))
    words = {row.number: row.words for row in told.stills}
    assert "put right by 2 known patches" in words[1] and "put right" not in plain.stills[0].words

    def off(found: Colours) -> float:
        trim = row_of(found, "trim").colour
        # Its own facet has a grey and a known colour on it.
        assert trim is not None and trim.faced
        return float(delta_e_2000(np.array(trim.lab), np.array(TRIM)))

    assert off(told) < off(plain) < 2.0


def test_versions_and_sides_are_kept_apart_unless_joined() -> None:
    entities = [*basics(), still("three", 3, version_id="other"), patch("three", ""), patch("three", "panel")]
    gallery = Shown({"three": (45.0, 50.0, 30.0)})
    apart = row_of(answered(build_of(*entities), gallery), "panel")
    assert apart.colour is not None and abs(apart.colour.lab[1] - PANEL[1]) < 2
    assert [v.counts for v in apart.votes] == [True, True, False]
    entities[0] = Surface(id="panel", name="Panel", join="sides and versions")
    joined = row_of(answered(build_of(*entities), gallery), "panel")
    assert joined.colour is not None and joined.colour.stills == 3
    odd = [v for v in joined.votes if v.odd]
    assert [v.still_number for v in odd] == [3] and "redder" in odd[0].odd
    entities[0] = Surface(id="panel", name="Panel", join="nothing")
    sided = row_of(answered(build_of(*entities), gallery), "panel")
    assert sided.colour is not None and sided.colour.stills == 1


def test_a_vote_left_out_no_longer_counts() -> None:
    entities = basics()
    entities[7] = patch("two", "panel", left_out=True)
    found = row_of(answered(build_of(*entities)), "panel")
    assert found.colour is not None and found.colour.stills == 1
    assert [v.problem for v in found.votes if v.still_number == 2] == ["left out by you"]


def shelf() -> list[AnyEntity]:
    return bench_range()


def zone(**fields: Any) -> Zone:
    return Zone(id="zone", name="Side", assembly="Hull", surface_id="panel", **fields)


def test_three_targets_and_what_is_put_on_them() -> None:
    entities = [*basics(), *shelf()]
    rows = {t.mode: t for t in row_of(answered(build_of(*entities)), "panel").mixes.targets}
    assert rows["free"].lab is None
    assert rows["object"].lab is not None and rows["picture"].lab is not None
    # The picture's own colour keeps the light in: the mean of both stills' sRGB.
    shown = [np.linalg.inv(RGB_TO_XYZ) @ xyz_of_lab(np.array(PANEL)) * LIGHTS[n] for n in ("one", "two")]
    expected = np.median([lab_of_xyz(RGB_TO_XYZ @ rgb) for rgb in shown], axis=0)
    assert rows["picture"].lab == pytest.approx(expected, abs=1.0)
    entities[0] = Surface(id="panel", name="Panel", mode="free", free_lab=(30.0, 20.0, 5.0), lighten=0.1)
    free = row_of(answered(build_of(*entities)), "panel").mixes.target
    assert free is not None and free.lab[0] > 32 and free.lightened_by > 1


def test_the_mix_aims_through_varnish_and_wash_when_asked() -> None:
    plain = [*basics(), *shelf(), zone(wear=("wash",), coats=8)]
    row = row_of(answered(build_of(*plain)), "panel")
    (stack,) = row.mixes.stacks
    assert [look.name for look in stack.looks][:2] == ["grey primer", "coat 1"]
    assert stack.looks[-1].name == "matte varnish" and stack.moved > 2
    through = [msgspec.structs.replace(e, through=True) if e.id == "panel" else e for e in plain]
    aimed = row_of(answered(build_of(*through)), "panel")
    assert aimed.mixes.target is not None and aimed.mixes.target.aim != aimed.mixes.target.lab
    assert aimed.mixes.stacks[0].looks[-1].to_target < 0.5 * stack.looks[-1].to_target


def test_media_that_do_not_mix_are_not_proposed() -> None:
    paints = [msgspec.structs.replace(p, medium="enamel") if p.name == "yellow ochre" else p for p in shelf()]  # type: ignore[union-attr]
    row = row_of(answered(build_of(*basics(), *paints, zone())), "panel")
    used = {name for recipe, _ in row.mixes.recipes for name, _ in recipe.drops}
    assert used and "yellow ochre" not in used
    alone = row_of(answered(build_of(*basics(), *paints, zone(medium="lacquer"))), "panel")
    assert alone.best is None and "lacquer" in alone.problem


def test_recipes_are_kept_while_nothing_changes_that_matters() -> None:
    more = [msgspec.structs.replace(p, id=f"{p.id} 2", name=f"{p.name} 2") for p in shelf()]  # type: ignore[union-attr]
    desk, build = ColourAnswers(Shown()), build_of(*basics(), *shelf(), *more)
    areas = zone_areas(build, None, None)
    first = list(desk.answer(build, lambda _: True, areas))
    assert [c.quick for c in first] == [True, False]
    assert min(r.delta_e for r, _ in first[1].surfaces[0].mixes.recipes) <= min(
        r.delta_e for r, _ in first[0].surfaces[0].mixes.recipes
    )
    again = list(desk.answer(build, lambda _: True, areas))
    assert len(again) == 1 and again[0].surfaces[0].mixes is first[1].surfaces[0].mixes


POT = PaintPot(
    id="pot", surface_id="panel", label="pot 1", cup_ml=8.0,
    steps=(PotStep("2026-11-20T20:00", (("titanium white", 20), ("yellow ochre", 20), ("red oxide", 4))),),
)  # fmt: skip


def test_a_pot_asks_for_its_swatch_then_tells_what_to_add_and_teaches() -> None:
    build = build_of(*basics(), *shelf(), POT)
    (pot,) = row_of(answered(build), "panel").mixes.pots
    assert pot.rescue is None and "swatch" in pot.problem
    pinker = painting.swatched(POT, (62.0, 22.0, 20.0), "2026-11-21T20:00")["pot"]
    assert isinstance(pinker, PaintPot)
    colours = answered(build_of(*basics(), *shelf(), pinker))
    (pot,) = row_of(colours, "panel").mixes.pots
    assert pot.rescue is not None and pot.rescue.steps
    errors = [step.delta_e for step in pot.rescue.steps]
    assert errors[-1] < 0.5 * pot.rescue.now
    assert colours.lessons.strengths["red oxide"] > 1.0
    mute = answered(build_of(*basics(), *shelf(), msgspec.structs.replace(pinker, teaches=False)))
    assert mute.lessons.strengths == {} and mute.lessons.corrections == ()


def test_a_second_batch_uses_what_the_first_swatch_taught() -> None:
    wanted = row_of(answered(build_of(*basics(), *shelf())), "panel")
    assert wanted.best is not None
    drops = wanted.best[0].drops
    lab = wanted.best[0].lab
    pot = PaintPot(id="pot", surface_id="panel", label="pot", cup_ml=8.0,
                   steps=(PotStep("a", drops), PotStep("b", (), (lab[0] - 4, lab[1] + 3, lab[2]))))  # fmt: skip
    again = row_of(answered(build_of(*basics(), *shelf(), pot)), "panel")
    assert again.best is not None and again.best[0].drops != drops


def test_pots_refuse_nonsense() -> None:
    build = build_of(*basics(), *shelf(), POT)
    for act in (
        lambda: painting.stirred(build, POT, (), "now"),
        lambda: painting.stirred(build, POT, (("titanium white", 900),), "now"),
        lambda: painting.swatched(msgspec.structs.replace(POT, steps=()), (50.0, 0.0, 0.0), "now"),
        lambda: painting.swatched(POT, (95.0, 90.0, 90.0), "now"),
    ):
        with pytest.raises(RefusedError):
            act()
    more = painting.stirred(build, POT, (("lamp black", 2),), "now")["pot"]
    assert isinstance(more, PaintPot) and more.steps[-1].drops == (("lamp black", 2),)
    assert set(removal(build, "panel")) >= {"panel", "pot", "one panel"}


def test_paints_put_on_the_shelf_take_the_place_of_their_namesakes() -> None:
    build = build_of(*shelf())
    ochre = next(p for p in build.all(ShelfPaint) if p.name == "yellow ochre")
    priced = Build(2, dict(build.entities) | {ochre.id: msgspec.structs.replace(ochre, ml_left=7.0, price_per_ml=0.3)})
    guess = guessed_paint("yellow ochre", (55.0, 15.0, 40.0), Dries())
    edits = put_on_shelf(priced, (guess,))
    (edit,) = edits.values()
    assert isinstance(edit, ShelfPaint) and edit.id == ochre.id and edit.source == "guess"
    assert (edit.ml_left, edit.price_per_ml) == (7.0, 0.3)


def test_a_traced_panel_becomes_a_patch() -> None:
    marks = tuple(Mark(x, y) for x, y in ((45, 5), (75, 5), (75, 35), (45, 35)))
    outline = Outline(id="o", still_id="one", name="panel", points=marks, bends=("corner",) * 4)
    build = build_of(*basics(), outline)
    taken = painting.patch_from_outline(build, still("one", 1), "panel")
    assert taken.outline == ((45, 5), (75, 5), (75, 35), (45, 35))
    with pytest.raises(RefusedError, match="traced"):
        painting.patch_from_outline(build, still("two", 2), "panel")


def test_a_patch_is_found_again_on_another_still_of_the_demo(demo_answers: Answers) -> None:
    build, sizes = demo_answers.build, demo_answers.sizes
    assert sizes is not None
    band = {p.still_id: p for p in build.all(ColourPatch) if p.surface_id == "surface-band_series"}
    source, there = band["still-1"], band["still-2"]
    target = build.get(Still, "still-2")
    assert target is not None
    carried = painting.carried_patch(build, sizes.reel, source, target)
    x, y = (sum(p[i] for p in carried.outline) / 4 for i in (0, 1))
    # The demo's own patch there has the same middle on the model.
    assert x == pytest.approx(there.x_px + there.width_px / 2, abs=6)
    assert y == pytest.approx(there.y_px + there.height_px / 2, abs=6)
    starboard = build.get(Still, "still-4")
    assert starboard is not None
    with pytest.raises(RefusedError, match="behind"):
        painting.carried_patch(build, sizes.reel, source, starboard)
    found, still_found, _ = painting.carried_to_next(build, sizes.reel, source, {"still-1"})
    assert found is not None and still_found is not None and still_found.id == "still-2"


def test_a_metered_clear_looks_as_one_coat_of_it_was_read() -> None:
    """However a clear was read: a dye that swallows green and blue, read by meter as one coat over white."""
    band = np.linspace(380.0, 730.0, 36)
    read = 0.04 + 0.8 * np.exp(-2.2 * np.exp(-(((band - 500.0) / 45.0) ** 2)))
    # K and S as a meter's software has them of a film taken to be opaque: next to nothing like the clear's.
    opaque = (1.0 - read) ** 2 / (2.0 * read)
    paint = ShelfPaint(
        id="p", name="rose clear", medium="lacquer", absorption=tuple(opaque.tolist()), scattering=(1.0,) * 36,
        sheen="gloss", source="metered", clear=True, drawdowns=(Drawdown(1.0, tuple(read.tolist())),),
    )  # fmt: skip
    white = ground_of("white", ())
    assert white is not None
    found = clear_look((("rose clear", 1),), 1, (paint_of(paint),), white)
    assert found is not None and delta_e_2000(np.array(found), np.array(lab_of_reflectance(read))) < 2.5
