"""The card of the Colour stage: the surface's colour, its recipe, what to add, how much to mix."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from textwrap import wrap

from PySide6.QtWidgets import QFileDialog

from chalkreel.answers.colours import Colours, SurfaceRow
from chalkreel.answers.mixes import Mixes, PotRow
from chalkreel.app.colour import chips, model, pots, shelf, stripes
from chalkreel.app.parts.card import AnswerColumn as Card
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.screen_colour import profile_name, use_profile
from chalkreel.app.session import Session
from chalkreel.core.colour.recipe import Recipe
from chalkreel.core.figures import plural
from chalkreel.core.interval import NORMAL_95
from chalkreel.document.paint_entities import FinishChip, ShelfPaint, Surface
from chalkreel.edits import painting
from chalkreel.edits.removing import removal

LONGEST = 38
PROFILES = "Colour profiles (*.icc *.icm);;All files (*)"


class Report:
    """Writes the card for the page in front."""

    def __init__(
        self,
        session: Session,
        card: Card,
        practice: Callable[[], object],
        my_shelf: Callable[[], object],
        show: Callable[[str], object],
        next_step: Callable[[], object],
        repaint: Callable[[], object],
    ) -> None:
        self._session, self._card, self._practice, self._show = session, card, practice, show
        self._next_step, self._my_shelf, self._repaint = next_step, my_shelf, repaint

    def write(self, page: str, row: SurfaceRow | None, pot: PotRow | None) -> None:
        """The card anew."""
        session, card = self._session, self._card
        card.clear(session.stale)
        colours = session.answers.colours if session.answers else None
        if page == "Stills":
            self._next_step()
        if colours is None:
            card.sentence("Sampling stills and searching the shelf…", "quiet")
            return
        if row is None:
            if page not in ("Stills", "Stripes", "Screen"):
                card.sentence("No surface yet. Name one above the still and take a patch of it.", "warn")
            if page == "Layers" and session.build.all(FinishChip):
                self._write_taught(colours)
        elif page == "Stills":
            self._write_colour(row)
        elif page == "Layers":
            self._write_layers(row, colours)
        elif page == "Pots":
            self._write_pot(pot, colours)
        self._write_paints(page, row)
        if row is None:
            return
        if page in ("Stills", "Mix"):
            self._write_recipe(row, page)
            self._write_batch(row)
        self._write_surfaces(colours, row)
        if page == "Stills":
            self._write_stills(colours)
            card.button(f"Remove {row.name}", partial(self._remove_surface, row))

    def _write_colour(self, row: SurfaceRow) -> None:
        card = self._card
        card.heading(f"{row.name}: the object, light taken out")
        if row.colour is None:
            card.sentence(row.evidence.problem, "warn")
        else:
            card.figure("colour, D65", model.lab_words(row.colour.lab).split("  a*")[0],
                        f"± {NORMAL_95 * row.colour.sigma_l:.0f} in lightness (shading)")  # fmt: skip
            card.sentence(model.certainty_words(row))
            words = model.help_words(row)
            if words:
                card.sentence(words, "quiet")
        left_out = model.mask_words(row, self._session.still_id)
        if left_out:
            card.sentence(left_out, "quiet")
        for words in model.fault_words(row):
            card.sentence(words, "warn")

    def _write_recipe(self, row: SurfaceRow, page: str) -> None:
        card = self._card
        if row.best is None:
            if page == "Mix":
                card.sentence(row.problem, "warn")
            return
        recipe, mixes = row.best[0], row.mixes
        card.heading("Recipe in drops" + (", settled" if mixes.settled else ""))
        for name, count in recipe.drops:
            card.figure("", f"{count}", f"{'drops' if count > 1 else 'drop'} {name}")
        for words, state in model.coats_words(mixes):
            card.sentence(words, state)
        nearest = min((other.delta_e for other, _ in mixes.recipes), default=None)
        card.sentence(*model.closeness(recipe, *row.doubts, nearest))
        if page == "Stills":
            return
        self._write_worth(mixes)
        card.sentence("Other mixes (a click settles on one):", "quiet")
        for other, _ in mixes.recipes[:6]:
            if (other.drops, other.coats) != (recipe.drops, recipe.coats):
                words = f"ΔE00 {other.delta_e:.1f}: {model.recipe_words(other)}"
                card.button("\n".join(wrap(words, LONGEST)), partial(self.settle, row, other))
        if mixes.settled:
            card.button("Let the search choose again", partial(self._forget, row))

    def _write_worth(self, mixes: Mixes) -> None:
        card = self._card
        for words in model.reach_words(mixes):
            card.sentence(words, "warn")
        if mixes.worth is not None:
            for words, state in model.worth_words(mixes.worth):
                card.sentence(words, state)
        if mixes.single is not None:
            single = mixes.single[0]
            card.sentence(f"nearest single paint: {single.drops[0][0]}, ΔE00 {single.delta_e:.1f}")
        if mixes.target is not None and mixes.target.words:
            card.sentence(mixes.target.words, "warn")

    def _write_batch(self, row: SurfaceRow) -> None:
        card, need = self._card, row.mixes.need
        if row.best is None:
            return
        card.heading("How much to mix")
        if need is None or need.batch is None:
            card.sentence("No zone in Finish uses this surface yet.", "quiet")
            return
        batch = need.batch
        card.figure(f"{need.area_cm2:.0f} cm², up to {plural(need.coats, 'coat')}, cup losses and touch-up",
                    f"{batch.millilitres:.1f} ml", f"the recipe {batch.repeats} times")  # fmt: skip
        for amount in batch.amounts:
            card.sentence(
                f"{amount.millilitres:.1f} ml {amount.name} ({amount.drops} drops, {amount.parts} parts, "
                f"{amount.percent:.0f} %)", "quiet",
            )  # fmt: skip
        card.sentence(f"thinned: {batch.thinned_ml:.0f} ml for the cup", "quiet")
        if batch.cost > 0:
            card.sentence(f"costs about {batch.cost:.2f}", "quiet")
        for name in batch.short:
            card.sentence(f"not enough {name} on the shelf", "warn")

    def _write_layers(self, row: SurfaceRow, colours: Colours) -> None:
        card = self._card
        surface = self._session.build.get(Surface, row.surface_id)
        if surface is None:
            return
        card.heading(f"{row.name}: what varnish and wash do")
        for stack in row.mixes.stacks:
            if stack.looks:
                last = stack.looks[-1]
                state = "good" if last.to_target <= surface.tolerance else "warn"
                card.figure(
                    f"{stack.zone}, finished", f"ΔE00 {last.to_target:.1f}", note="from the target", state=state
                )
        for words, state in model.layer_words(row, surface.tolerance):
            card.sentence(words, state)
        self._write_taught(colours)
        over = any(s.moved > surface.tolerance for s in row.mixes.stacks)
        if surface.through:
            card.sentence(
                "The mix aims through these layers: it is off the target now, and on it when finished.", "good"
            )
            card.button("Aim at the target before varnish again", partial(self._aim, row, False))
        elif over:
            card.button("Mix so that the finished surface is right", partial(self._aim, row, True), primary=True)

    def _write_taught(self, colours: Colours) -> None:
        for words, state in chips.taught_words(colours):
            self._card.sentence(words, state)

    def _write_pot(self, pot: PotRow | None, colours: Colours) -> None:
        card = self._card
        card.heading("The pot")
        if pot is None:
            card.sentence("No pot of this surface yet. Start one below the strip.", "quiet")
            return
        for words, state in pots.rescue_words(pot):
            card.sentence(words, state)
        for words in pots.taught_words(colours.lessons.strengths, pot.drops):
            card.sentence(words, "plain")
        surface = self._session.build.get(Surface, pot.pot.surface_id)
        clear = surface is not None and surface.clear_over
        swatch = "Let the strip dry" if clear else "Paint the swatch opaque, let it dry"
        card.sentence(f"{swatch}; wet paint looks darker. Heed the label: air, gloves.", "quiet")

    def _write_paints(self, page: str, row: SurfaceRow | None) -> None:
        if page == "Stripes":
            self._write_stripes()
        elif page == "Screen":
            self._write_screen()
        elif not self._session.build.all(ShelfPaint):
            self._card.sentence("The shelf is empty, so there is no recipe yet.", "quiet")
            count = shelf.my_paint_count()
            if count:
                self._card.button(f"Put my shelf on it ({plural(count, 'paint')})", self._my_shelf)
            self._card.button("Put made-up practice paints on it", self._practice)
        elif page == "Shelf":
            self._write_shelf(row)

    def _write_screen(self) -> None:
        card, name = self._card, profile_name()
        card.heading("This screen")
        card.sentence(f"Swatches go through “{name}”." if name else "No profile chosen: it is taken to show sRGB.")
        card.sentence("Stills are shown as they are stored, whatever the profile.", "quiet")
        card.button("Choose its profile…", self._ask_profile)
        if name:
            card.button("Take it as sRGB", partial(self._profile, None))

    def _ask_profile(self) -> None:
        path, _ = QFileDialog.getOpenFileName(None, "Profile of this screen", "", PROFILES)
        if path:
            self._profile(Path(path))

    def _profile(self, path: Path | None) -> None:
        def use() -> None:
            use_profile(path)
            self._repaint()

        attempt(self._session, use)

    def _write_shelf(self, row: SurfaceRow | None) -> None:
        card, build = self._card, self._session.build
        paints = build.all(ShelfPaint)
        card.heading("The shelf")
        card.figure("paints", f"{len(paints)}", shelf.sources_words(paints))
        if row is not None and row.mixes.single is not None:
            single = row.mixes.single[0]
            card.sentence(f"nearest to {row.name}: {single.drops[0][0]}, ΔE00 {single.delta_e:.1f}")
        for words in shelf.low_words(build):
            card.sentence(words, "warn")

    def _write_stripes(self) -> None:
        card, words = self._card, stripes.next_words(self._session.build)
        card.heading("Stripes")
        for number, line in enumerate(words):
            card.sentence(line, "plain" if number == 0 else "quiet")

    def _write_stills(self, colours: Colours) -> None:
        card = self._card
        card.heading("How each still shows colours")
        for still in colours.stills:
            card.sentence(f"{still.number}: {still.words}", "plain" if still.own or still.tied else "warn")
        for words in colours.problems:
            card.sentence(words, "warn")

    def _write_surfaces(self, colours: Colours, row: SurfaceRow) -> None:
        self._card.heading("Surfaces")
        for other in colours.surfaces:
            words = f"{other.name}: " + (f"ΔE00 {other.delta_e_words}" if other.best else "no recipe")
            chosen = "● " if other.surface_id == row.surface_id else ""
            self._card.button(chosen + words, partial(self._session.select, other.surface_id))

    def settle(self, row: SurfaceRow, recipe: Recipe) -> None:
        """Settle on a recipe."""
        surface = self._session.build.get(Surface, row.surface_id)
        if surface is not None:
            edits = painting.settled_on(self._session.build, surface, recipe.drops, recipe.coats)
            self._session.commit(f"recipe of {row.name}", edits)

    def _forget(self, row: SurfaceRow) -> None:
        self._edit(row, f"recipe of {row.name} open", drops=())

    def _aim(self, row: SurfaceRow, through: bool) -> None:
        # A recipe settled on was for another aim.
        self._edit(row, f"aim of {row.name}", through=through, drops=())
        self._show("Layers")

    def _edit(self, row: SurfaceRow, label: str, **fields: object) -> None:
        self._session.edit(label, self._session.build.entities[row.surface_id], **fields)

    def _remove_surface(self, row: SurfaceRow) -> None:
        self._session.commit(f"{row.name} removed", removal(self._session.build, row.surface_id))
