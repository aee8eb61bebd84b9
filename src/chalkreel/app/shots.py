"""Pictures of every main view from the demo build, for docs/screenshots and for looking at."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QWidget

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app.application import Application
from chalkreel.app.measure.pages import SHEETS
from chalkreel.app.session import Session
from chalkreel.app.start.page import StartPage

LONGEST_WAIT_MS = 60_000
PAINT_PAGES = ("Mix", "Layers", "Pots", "Shelf")
# Sheets much like others.
NOT_SHOWN = ("Mark map",)
# What is chosen in each view: the still and the entity.
CHOSEN: dict[StageName, tuple[str, str]] = {
    "Gather": ("still-4", ""),
    "Measure": ("still-7", "dim-Fin height, port"),
    "Colour": ("still-2", "surface-hull"),
    "Finish": ("still-1", "Hull/Hazard band/stripe"),
}


def take_shots(app: Application, folder: Path) -> None:
    """Visit each stage at 1280×800, wait for its answers, write one PNG each."""
    folder.mkdir(parents=True, exist_ok=True)
    assert app.window is not None and app.session is not None
    _grab(_start_page(), folder / "0-start.png")
    app.window.resize(1280, 800)
    for number, stage in enumerate(STAGES, start=1):
        still, entity = CHOSEN.get(stage, ("still-1", ""))
        app.session.choose_stage(stage)
        app.session.choose_still(still)
        app.session.select(entity)
        settle(app.session)
        if stage == "Bench":
            app.window.bench.compare.show_photo("photo-1")
            app.window.bench.choose_finding("wheelhouse|")
            settle(app.session)
        _grab(app.window, folder / f"{number}-{stage.lower()}.png")
    app.session.choose_stage("Colour")
    app.session.select("surface-hull")
    for page in PAINT_PAGES:
        app.window.colour.switch.show_page(page)
        settle(app.session)
        _grab(app.window, folder / f"5-colour-{page.lower()}.png")
    app.session.choose_stage("Convert")
    app.window.convert.turn_to("Cuts")
    app.window.convert.cuts.table.choose("cut-1")
    settle(app.session)
    _grab(app.window, folder / "3-convert-cuts.png")
    app.session.choose_stage("Finish")
    app.window.finish.turn_to("Tonight")
    settle(app.session)
    _grab(app.window, folder / "6-finish-tonight.png")
    app.session.choose_stage("Measure")
    app.session.choose_still("still-10")
    app.session.select("")
    for page in ("Sizes", "Drawing", "All round", *(sheet for sheet in SHEETS if sheet not in NOT_SHOWN)):
        app.window.measure.switch.show_page(page)
        settle(app.session)
        _grab(app.window, folder / f"2-measure-{page.lower().replace(' ', '-')}.png")


def _start_page() -> StartPage:
    """The page for a new build, filled in; the builds of whoever takes the picture are not shown."""
    page = StartPage(builds=())
    page.resize(1280, 800)
    form = page.form
    form.name.setText("Ninepin, Series, for the case")
    form.version.setText("Series")
    form.story.setText("18.6 m")
    form.miniature.setText("775 mm")
    form.replica.setText("1:72")
    return page


def settle(session: Session) -> None:
    """Let events run until no work is left and everything is painted."""
    loop = QEventLoop()
    quiet = QTimer(interval=50)
    rounds = 0

    def look() -> None:
        nonlocal rounds
        rounds = 0 if session.busy or session.stale else rounds + 1
        if rounds > 3:
            loop.quit()

    quiet.timeout.connect(look)
    quiet.start()
    QTimer.singleShot(LONGEST_WAIT_MS, loop.quit)
    loop.exec()


def _grab(window: QWidget, path: Path) -> None:
    window.grab().save(str(path))
