"""The window: it only assembles; stages and parts do the work."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import suppress
from datetime import datetime
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QSettings, Qt, Signal
from PySide6.QtGui import QAction, QCloseEvent, QDragEnterEvent, QDropEvent, QKeySequence, QResizeEvent
from PySide6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QMainWindow,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from chalkreel.answers.next_step import NextStep, next_step
from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app import theme
from chalkreel.app.commands import COMMANDS
from chalkreel.app.exports import Exports
from chalkreel.app.files import Files
from chalkreel.app.framing import Framing, Surroundings
from chalkreel.app.help_page import HelpPage
from chalkreel.app.jobs import Progress
from chalkreel.app.magnify import magnify
from chalkreel.app.measure.keys import KEYS
from chalkreel.app.moments import Moments
from chalkreel.app.parts.chalkline import ChalkLine
from chalkreel.app.parts.fields import attempt
from chalkreel.app.parts.prompt import PromptStrip
from chalkreel.app.parts.reel import Reel
from chalkreel.app.parts.room import LEAST, room_of
from chalkreel.app.parts.slate import Slate
from chalkreel.app.parts.stage import Stage
from chalkreel.app.parts.stages import Stages, load_all
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.start.recents import Recent, picture_path, recent_of, remember
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.tools import BRUSH, GLOW, KNOWN, NEUTRAL, PATCH, POLYGON
from chalkreel.core.lengths import format_length
from chalkreel.document.entities import Still
from chalkreel.document.gallery import picture_name

if TYPE_CHECKING:
    from chalkreel.app.bench.stage import BenchStage
    from chalkreel.app.colour.stage import ColourStage
    from chalkreel.app.convert.stage import ConvertStage
    from chalkreel.app.finish.stage import FinishStage
    from chalkreel.app.gather.stage import GatherStage
    from chalkreel.app.light.stage import LightStage
    from chalkreel.app.measure.stage import MeasureStage

COLOUR_TOOLS = {"n": NEUTRAL, "p": PATCH, "o": POLYGON, "b": BRUSH, "k": KNOWN, "g": GLOW}
MEASURE_TOOLS = {key.lower(): kind for kind, key in KEYS}


class Window(QMainWindow):
    """One build.

    Signals
    -------
    open_asked(Path): another build is wanted in this window's place; new_asked(): one is to be begun.
    theme_asked(): the other theme is wanted.
    """

    open_asked = Signal(Path)
    new_asked = Signal()
    theme_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.images = Images(session)
        self.exports, self.files = Exports(session, self), Files(session, self, self.open_asked.emit)
        self.centres, self.cards = QStackedWidget(), QStackedWidget()
        self.folded = QPushButton()
        self.stages = Stages(session, self.images, self.exports, self._take_stage)
        self.actions_by_id: dict[str, QAction] = {}
        menu = self._make_actions()
        self.slate, self.chalkline = Slate(session, menu), ChalkLine(session)
        self.reel, self.prompt = Reel(session, self.images), PromptStrip(session)
        self._lay_out()
        parts = Surroundings(self.slate, self.chalkline, self.reel, self.prompt, self.cards, self.folded)
        self.framing = Framing(session, self.stages, parts)
        self.help, self.moments = HelpPage(session, self), Moments(session, self)
        self.setAcceptDrops(True)
        self.setMinimumSize(*LEAST)
        self.framing.fit("usual")
        self.setWindowTitle(f"{session.build.info.name} — Chalk Reel")
        session.stage_changed.connect(self._show_stage)
        session.begin_asked.connect(self._begin)
        self.prompt.help.clicked.connect(self.actions_by_id["help"].trigger)
        self.slate.command_asked.connect(lambda command: self.actions_by_id[command].trigger())
        session.build_changed.connect(lambda: self.setWindowTitle(f"{session.build.info.name} — Chalk Reel"))
        self._show_stage()

    @property
    def gather(self) -> GatherStage:
        """The first stage."""
        return cast("GatherStage", self.stages["Gather"])

    @property
    def measure(self) -> MeasureStage:
        """The second stage."""
        return cast("MeasureStage", self.stages["Measure"])

    @property
    def convert(self) -> ConvertStage:
        """The third stage."""
        return cast("ConvertStage", self.stages["Convert"])

    @property
    def light(self) -> LightStage:
        """The fourth stage."""
        return cast("LightStage", self.stages["Light"])

    @property
    def colour(self) -> ColourStage:
        """The fifth stage."""
        return cast("ColourStage", self.stages["Colour"])

    @property
    def finish(self) -> FinishStage:
        """The sixth stage."""
        return cast("FinishStage", self.stages["Finish"])

    @property
    def bench(self) -> BenchStage:
        """The last stage."""
        return cast("BenchStage", self.stages["Bench"])

    def _take_stage(self, stage: Stage) -> None:
        self.centres.addWidget(stage.centre)
        self.cards.addWidget(stage.card)
        stage.card.answers.headed.connect(lambda words: self._head(stage, words))
        stage.set_room(self.framing.room)
        stage.reframed.connect(self.framing.frame)
        stage.asks.connect(self.framing.ask)
        places = stage.key_places()
        for command in COMMANDS:
            for widget in places.get(command.scope, ()):
                widget.addAction(self.actions_by_id[command.id])

    def begin_work(self) -> None:
        """Answer the build, and load the other stages' modules, so that a first visit is as quick as the second."""
        self.session.think()

        def work(_: Progress) -> Iterator[object]:
            load_all()
            yield None

        self.session.run("making ready", work, lambda _: None)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        room = room_of(event.size().width(), event.size().height())
        if room != self.framing.room:
            self.framing.fit(room)

    def _head(self, stage: Stage, words: str) -> None:
        if stage.name == self.session.stage:
            self.framing.head(words)

    def remember(self) -> None:
        """Keep how the build was left, for the start page and for the next time."""
        session = self.session
        build, chain, unit = session.build, session.build.chain, session.build.info.unit
        step = next_step(build, session.answers, session.stage)
        lengths = (format_length(mm, unit) for mm in (chain.story_mm, chain.miniature_mm, chain.replica_mm))
        path = session.store.path.absolute()
        switch = self.stages[session.stage].page_switch()
        remember(Recent(
            str(path), build.info.name, f"{' – '.join(lengths)}, 1:{chain.replica_ratio:.4g}", session.stage,
            session.still_id, switch.page if switch is not None else "", step.words if step else "",
            datetime.now(),
        ))  # fmt: skip
        first = next(iter(build.all(Still)), None)
        picture = self.images.thumbnail(picture_name(first), first.pixel_aspect) if first is not None else None
        if picture is not None:
            # Where there is no room for it, the start page does without.
            with suppress(OSError):
                picture_path(str(path)).parent.mkdir(parents=True, exist_ok=True)
                picture.save(str(picture_path(str(path))))

    def return_to_place(self) -> None:
        """Go back to the stage, still and page at which the build was left."""
        left = recent_of(self.session.store.path.absolute())
        if left is None:
            self.reel.setFocus()
            return
        self.session.choose_stage(cast("StageName", left.stage))
        self.session.choose_still(left.still_id)
        switch = self.stages[self.session.stage].page_switch()
        if switch is not None and left.page in switch.buttons:
            switch.show_page(left.page)

    def closeEvent(self, event: QCloseEvent) -> None:
        settings = QSettings()
        settings.setValue("window/geometry", self.saveGeometry())
        settings.setValue("window/reel", self.framing.reel_shown)
        super().closeEvent(event)

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasImage():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        data = event.mimeData()
        paths = [Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()]
        if paths:
            self.gather.add_files(paths)
        elif data.hasImage():
            self.gather.add_image(data.imageData())
        event.acceptProposedAction()

    def _lay_out(self) -> None:
        middle = QHBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self.centres, 1)
        middle.addWidget(self.cards)
        right = QVBoxLayout()
        right.setSpacing(0)
        right.addWidget(self.chalkline)
        right.addLayout(middle, 1)
        right.addWidget(self.folded)
        body = QWidget()
        body.setObjectName("board")
        grid = QGridLayout(body)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        grid.addWidget(self.slate, 0, 0, 1, 2)
        grid.addWidget(self.reel, 1, 0)
        grid.addLayout(right, 1, 1)
        grid.addWidget(self.prompt, 2, 0, 1, 2)
        grid.setColumnStretch(1, 1)
        self.setCentralWidget(body)

    def _show_stage(self) -> None:
        stage = self.stages[self.session.stage]
        self.centres.setCurrentWidget(stage.centre)
        self.cards.setCurrentWidget(stage.card)
        stage.enter()
        self.framing.frame()

    def _make_actions(self) -> QMenu:
        menu = QMenu(self)
        handlers = self._handlers()
        for command in COMMANDS:
            action = QAction(command.words, self)
            if command.key:
                action.setShortcut(QKeySequence(command.key))
            action.triggered.connect(partial(self._run, handlers[command.id]))
            if command.scope == "window":
                self.addAction(action)
            else:
                action.setShortcutContext(Qt.ShortcutContext.WidgetShortcut)
            self.actions_by_id[command.id] = action
            if command.menu:
                menu.addAction(action)
        return menu

    def _run(self, act: Callable[[], object]) -> None:
        attempt(self.session, act)

    def _handlers(self) -> dict[str, Callable[[], object]]:
        session = self.session
        found: dict[str, Callable[[], object]] = {
            "new": self.new_asked.emit,
            "open": self.files.ask_open,
            "copy": self.files.ask_copy,
            "book": self.exports.book,
            "sheet": self.exports.stage,
            "csv": self.exports.csv,
            "json": self.exports.json,
            "calendar": self.exports.calendar,
            "evening": self.exports.evening,
            "palette": self.exports.palette,
            "unpack": self.exports.unpack,
            "pack": self.files.ask_pack,
            "moments": lambda: self.moments.show_over(),  # noqa: PLW0108 - the list is made later
            "theme": self.theme_asked.emit,
            "larger": lambda: session.prompted.emit(magnify(1)),
            "smaller": lambda: session.prompted.emit(magnify(-1)),
            "card": lambda: self.framing.turn_card(),  # noqa: PLW0108 - made later
            "alone": lambda: self.framing.turn_alone(),  # noqa: PLW0108 - made later
            "reel": lambda: self.framing.show_reel(not self.framing.reel_shown),
            "help": lambda: self.help.turn(),  # noqa: PLW0108 - the page is made later
            "undo": session.undo,
            "redo": session.redo,
            "goto": lambda: self.slate.goto.setFocus(),  # noqa: PLW0108 - the slate is made later
            "again": session.think_again,
            "add": lambda: self.gather.add_by_dialog(),  # noqa: PLW0108 - the stage is made when it is wanted
            "copy-rows": self._copy,
            "paste": self._paste,
            "next": self._space,
            "previous": lambda: session.step_still(-1),
            **{f"tool-{key}": partial(self._tool, key) for key in "leofwitmrsapnk"},
            "bend": partial(self._by_stage, "bend_chosen", "b"),
            "beside": lambda: self.measure.turn_beside(),  # noqa: PLW0108 - the stage is made when it is wanted
            "ghost": partial(self._by_stage, "next_ghost", "g"),
            "delete": self._delete,
            "earlier": lambda: self.finish.move(-1),
            "later": lambda: self.finish.move(1),
            "look-wipe": lambda: self.bench.look("Wipe"),
            "look-blink": lambda: self.bench.look("Blink"),
            "look-difference": lambda: self.bench.look("Difference"),
            "look-both": lambda: self.bench.look("Both"),
            "finding-job": lambda: self.bench.make_job(),  # noqa: PLW0108 - the stage is made when it is wanted
            "finding-accept": lambda: self.bench.accept(),  # noqa: PLW0108 - as above
            "skip-landmark": lambda: self.bench.compare.desk.skip_wanted(),  # noqa: PLW0108 - as above
            "turn": lambda: self.light.turn_round(),  # noqa: PLW0108 - the stage is made when it is wanted
            "done": lambda: self.finish.toggle_done(),  # noqa: PLW0108 - the stage is made when it is wanted
        }
        for number, stage in enumerate(STAGES, start=1):
            found[f"stage-{number}"] = partial(session.choose_stage, stage)
        return found

    def _tool(self, key: str) -> None:
        if self.session.stage == "Measure" and key in MEASURE_TOOLS:
            self.measure.use(MEASURE_TOOLS[key])
        elif self.session.stage == "Colour" and key in COLOUR_TOOLS:
            self.colour.use(COLOUR_TOOLS[key])

    def _by_stage(self, act: str, colour_tool: str) -> None:
        """A key that acts in Measure and takes up a tool in Colour."""
        if self.session.stage == "Measure":
            getattr(self.measure, act)()
        else:
            self._tool(colour_tool)

    def _begin(self, step: NextStep) -> None:
        """Begin the next step of a stage."""
        self.session.choose_still(step.still_id)
        stage = self.gather if step.doing == "add stills" else self.stages[self.session.stage]
        self._run(partial(stage.begin, step))

    def _space(self) -> None:
        # The key for the next still must not rob a focused button of its own.
        focus = QApplication.focusWidget()
        if isinstance(focus, QAbstractButton):
            focus.click()
        elif isinstance(focus, QComboBox):
            focus.showPopup()
        elif not (isinstance(focus, Table) and focus.toggle_tick()):
            self.session.step_still(1)

    def _delete(self) -> None:
        focus = QApplication.focusWidget()
        if isinstance(focus, Table):
            focus.remove_current()
        elif focus is not None and not focus.inherits("QLineEdit"):
            self.stages[self.session.stage].delete_chosen(focus)

    def _copy(self) -> None:
        focus = QApplication.focusWidget()
        if isinstance(focus, Table):
            QApplication.clipboard().setText(focus.copied())

    def _paste(self) -> None:
        data, focus = QApplication.clipboard().mimeData(), QApplication.focusWidget()
        if isinstance(focus, Table) and data is not None and data.hasText() and not data.hasUrls():
            focus.paste(data.text())
        elif data is not None and data.hasUrls():
            self.gather.add_files([Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile()])
        else:
            self.gather.add_image(QApplication.clipboard().image())


def window_theme() -> theme.ThemeName:
    """The theme kept from last time."""
    return "daylight" if QSettings().value("window/theme", "slate") == "daylight" else "slate"
