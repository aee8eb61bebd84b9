"""The page that compares: photographs of the replica are put on the bench, laid on the still, and looked at with it."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QButtonGroup,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from chalkreel.app.bench import compare_model as model
from chalkreel.app.bench.click_desk import ClickDesk
from chalkreel.app.bench.look_view import MODES, TIMES, LookView, Mode, Pictures, Tag
from chalkreel.app.gather.stage import PICTURES
from chalkreel.app.jobs import Job, Progress
from chalkreel.app.parts.fields import fill
from chalkreel.app.parts.flow import FlowLayout
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session, read_file, told_of
from chalkreel.app.stills.images import Images, owned
from chalkreel.document.bench_entities import LaidPose, ReplicaPhoto
from chalkreel.document.entities import Still
from chalkreel.edits.photographing import new_photo
from chalkreel.edits.removing import removal

if TYPE_CHECKING:
    from chalkreel.answers.comparing import StageVerdict
    from chalkreel.answers.look import Look
    from chalkreel.core.media.camera_notes import CameraNotes

EMPTY = "Photograph the replica roughly like one of the stills, at any stage of the build, and add the picture here."
KEYS = {"Wipe": "W", "Blink": "B", "Difference": "D", "Both": "O"}


class ComparePage(QWidget):
    """Chooses a photograph, has it clicked on, shows it with its still.

    Signals
    -------
    chosen(str): a finding was chosen; turned(): clicking or looking, or another photograph.
    """

    chosen = Signal(str)
    turned = Signal()

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self.photo_id, self.finding = "", ""
        self.clicking = False
        self._looked: tuple[object, ...] = ()
        self._job: Job | None = None
        self._arrows: dict[str, tuple[tuple[float, float], tuple[float, float]]] = {}
        self.photos, self.still, self.stage = QComboBox(), QComboBox(), QLineEdit()
        self.add, self.remove = QPushButton("Add photograph…"), QPushButton("Remove")
        self.click, self.unaided = QPushButton("Click landmarks"), QPushButton("Lay it without clicks")
        self.lies = PlainLabel("")
        self.desk, self.look = ClickDesk(session, images), LookView()
        self.modes = {mode: QPushButton(f"{mode}  {KEYS[mode]}") for mode in MODES}
        self.times = {n: QPushButton(f"×{n}") for n in TIMES}
        self.lines, self.flat = QCheckBox("wanted lines"), QCheckBox("light out")
        self.stack = QStackedWidget()
        self._lay_out()
        self._connect()

    @property
    def beside_pages(self) -> tuple[QWidget, ...]:
        """What stands beside the names of the pages: which photograph, of what."""
        return (self.photos, self.still, self.stage, self.add)

    @property
    def shown(self) -> ReplicaPhoto | None:
        """The photograph that is in hand."""
        return self._session.build.get(ReplicaPhoto, self.photo_id)

    # --- photographs ---

    def put_photo(self, path: Path) -> None:
        """Put a file on the bench."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.camera_notes import camera_notes
            from chalkreel.core.media.decode import decode

            with told_of(path.name):
                raw = read_file(path)
                picture = decode(raw)
            blob = self._session.store.keep(raw)
            self._session.gallery.put(blob, picture)
            size = (picture.width, picture.height)
            yield blob, size, camera_notes(raw, *size)

        def take(found: object) -> None:
            blob, size, notes = cast("tuple[str, tuple[int, int], CameraNotes]", found)
            taken = notes.taken_at or datetime.now()
            photo = new_photo(
                self._session.build, path.stem, blob, size, taken, notes.focal_widths,
                self._session.still_id,
            )  # fmt: skip
            if self._session.commit(f"photograph {photo.number}", {photo.id: photo}):
                self.show_photo(photo.id)

        self._session.run(f"reading {path.name}", work, take)

    def show_photo(self, photo_id: str) -> None:
        """Take another photograph in hand."""
        self.photo_id = photo_id
        photo = self.shown
        if photo is not None and photo.still_id:
            self._session.choose_still(photo.still_id)
        laid = model.laid_of(self._session.answers, photo)
        self.clicking = laid is None or laid.camera is None
        self.refresh()
        self.turned.emit()

    def remove_shown(self) -> None:
        """Take the photograph in hand off the bench, with its clicks."""
        photo = self.shown
        if photo is not None:
            self._session.commit(f"photograph {photo.number} removed", removal(self._session.build, photo.id))

    # --- clicking ---

    def start_clicking(self, on: bool) -> None:
        """Click landmarks, or look."""
        self.clicking = on
        self.click.setChecked(on)
        self.refresh()
        self.turned.emit()
        (self.desk.photo if on else self.look).setFocus()

    def lay_unaided(self) -> None:
        """Look for where it was taken from, without a click."""
        photo, answers = self.shown, self._session.answers
        if photo is None or answers is None or answers.comparing.subject is None or self._session.stale:
            return
        build, subject = answers.build, answers.comparing.subject

        def work(progress: Progress) -> Iterator[object]:
            from chalkreel.answers.photographs import Photographs

            yield Photographs(self._session.gallery).found(build, subject, photo, progress)

        def take(pose: object) -> None:
            self._session.edit("photograph laid by its lines", photo, laid=cast("LaidPose", pose))
            self.start_clicking(False)

        self._session.run("looking from where it was taken", work, take, self._session.background)

    # --- looking ---

    def turn_look(self, mode: Mode) -> None:
        """Look in another way."""
        self.modes[mode].setChecked(True)
        self.look.look(mode)

    def refresh(self) -> None:
        """Follow build and answers."""
        session = self._session
        photos = model.photo_choices(session.build)
        if self.photo_id not in dict(photos):
            self.photo_id = photos[0][0] if photos else ""
            laid = model.laid_of(session.answers, self.shown)
            self.clicking = bool(photos) and laid is not None and laid.camera is None
        photo = self.shown
        fill(self.photos, photos or [("", "no photograph yet")], self.photo_id)
        fill(self.still, model.still_choices(session.build), photo.still_id if photo else "")
        if not self.stage.hasFocus():
            self.stage.setText(photo.stage if photo is not None else "")
        for widget in (self.still, self.stage, self.remove, self.click, self.unaided):
            widget.setEnabled(photo is not None)
        self.click.setChecked(self.clicking)
        self.stack.setCurrentIndex(0 if self.clicking and photo is not None else 1)
        self._show_tools(photo)
        self.desk.show_photo(self.photo_id)
        self.desk.refresh()
        if not self.clicking:
            self._show_look(photo)
        self._write_strip(photo)

    def _show_tools(self, photo: ReplicaPhoto | None) -> None:
        looking = not self.clicking and photo is not None
        for button in (*self.modes.values(), *self.times.values(), self.lines, self.flat):
            button.setVisible(looking)
        laid = model.laid_of(self._session.answers, photo)
        self.unaided.setVisible(photo is not None and laid is not None and laid.clicks == 0 and laid.camera is None)

    def _show_look(self, photo: ReplicaPhoto | None) -> None:
        answers = self._session.answers
        if photo is None or answers is None:
            self._looked = ()
            self.look.show_pictures(None, ("", ""), EMPTY)
            return
        found = answers.comparing
        still = self._session.build.get(Still, photo.still_id)
        names = (f"still {still.number}, wanted" if still else "", f"replica, {photo.stage or photo.title}")
        self._show_tags(found.stage(photo.stage))
        laid = found.laid.get(photo.id)
        inputs = (photo.id, photo.still_id, photo.blob, laid, found.stage(photo.stage))
        if found.subject is None or laid is None or laid.camera is None:
            self._looked = ()
            words = found.problem or (laid.problem if laid is not None else "Laying the photograph on the still…")
            self.look.show_pictures(None, names, words)
        elif inputs != self._looked:
            self._looked = inputs
            self._make_look(photo, names)

    def _make_look(self, photo: ReplicaPhoto, names: tuple[str, str]) -> None:
        answers, gallery = self._session.answers, self._session.gallery
        assert answers is not None
        if self._job is not None:
            self._job.stop()

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.answers.look import look

            assert answers is not None and answers.comparing.subject is not None
            made = look(answers.build, answers.comparing.subject, answers.comparing, photo, gallery.picture)
            yield made, _pictures(made)

        def take(result: object) -> None:
            if self.photo_id != photo.id:
                return
            made, pictures = cast("tuple[Look, Pictures]", result)
            self._arrows = dict(made.arrows)
            self.look.show_pictures(pictures, names)
            if self._session.answers is not None:
                self._show_tags(self._session.answers.comparing.stage(photo.stage))

        self._job = self._session.run("laying both side by side", work, take)

    def _show_tags(self, stage: StageVerdict) -> None:
        rows = model.finding_rows(self._session.build, stage)
        tags = tuple(
            Tag(r.key, r.number, f"{r.title}: {r.words.partition(', or')[0]}", r.state, *self._arrows[r.key])
            for r in rows
            if r.is_open and r.key in self._arrows
        )
        self.look.show_tags(tags, self.finding)

    def _write_strip(self, photo: ReplicaPhoto | None) -> None:
        answers = self._session.answers
        laid = model.laid_of(answers, photo)
        words = ""
        if laid is not None:
            from chalkreel.answers.finding_words import laid_words

            ratio = self._session.build.chain.convert(1.0, "miniature", "replica")
            words = "   ·   ".join(laid_words(laid, ratio)) or laid.problem
        self.lies.setText(words)
        self.lies.setVisible(bool(words))

    # --- putting together ---

    def _lay_out(self) -> None:
        for widget, name in ((self.photos, "Photograph"), (self.still, "Taken like which still"),
                             (self.stage, "Stage of the build")):  # fmt: skip
            widget.setAccessibleName(name)
        self.stage.setPlaceholderText("stage: dry fit, primed…")
        self.stage.setMaximumWidth(150)
        self.stage.setMinimumWidth(84)
        for box, letters in ((self.photos, 14), (self.still, 13)):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(letters)
        self.click.setCheckable(True)
        self.lines.setChecked(True)
        group, factors = QButtonGroup(self), QButtonGroup(self)
        for mode, button in self.modes.items():
            button.setCheckable(True)
            group.addButton(button)
            button.setChecked(mode == "Wipe")
        for n, button in self.times.items():
            button.setCheckable(True)
            factors.addButton(button)
            button.setToolTip(f"Arrows {n} times as long as what they show")
            button.setChecked(n == self.look.times)
        tools = FlowLayout()
        looks: tuple[QWidget, ...] = (*self.modes.values(), *self.times.values(), self.lines, self.flat)
        for tool in (self.click, self.unaided, *looks, self.remove):
            tools.addWidget(tool)
        for button in (self.add, self.click, self.unaided, self.remove, *self.modes.values(), *self.times.values()):
            button.setObjectName("tool")
        self.stack.addWidget(self.desk)
        self.stack.addWidget(self.look)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(tools)
        column.addWidget(self.stack, 1)
        column.addWidget(self.lies)
        self.lies.setWordWrap(True)

    def _connect(self) -> None:
        self.photos.activated.connect(lambda: self.show_photo(str(self.photos.currentData() or "")))
        self.still.activated.connect(self._still_told)
        self.stage.editingFinished.connect(self._stage_told)
        self.add.clicked.connect(self._ask_photo)
        self.remove.clicked.connect(self.remove_shown)
        self.click.clicked.connect(self.start_clicking)
        self.unaided.clicked.connect(self.lay_unaided)
        self.look.chosen.connect(self.chosen)
        for mode, button in self.modes.items():
            button.clicked.connect(lambda _, mode=mode: self.turn_look(mode))
        for n, button in self.times.items():
            button.clicked.connect(lambda _, n=n: self._lengthen(n))
        self.lines.toggled.connect(self._with_lines)
        self.flat.toggled.connect(self._without_light)

    def _lengthen(self, times: int) -> None:
        self.look.times = times
        self.look.update()

    def _with_lines(self, on: bool) -> None:
        self.look.with_lines = on
        self.look.update()

    def _without_light(self, on: bool) -> None:
        self.look.flat = on
        self.look.update()

    def _still_told(self) -> None:
        photo = self.shown
        if photo is not None:
            self._session.edit("still that a photograph answers", photo, still_id=str(self.still.currentData() or ""))

    def _stage_told(self) -> None:
        photo = self.shown
        if photo is not None and self.stage.text().strip() != photo.stage:
            self._session.edit("stage of a photograph", photo, stage=self.stage.text().strip())

    def _ask_photo(self) -> None:
        names, _ = QFileDialog.getOpenFileNames(self, "Photographs of the replica", "", PICTURES)
        for name in names:
            self.put_photo(Path(name))


def _pictures(made: Look) -> Pictures:
    parts = (made.still, made.photo, made.still_flat, made.photo_flat, made.gap)
    still, photo, still_flat, photo_flat, gap = (owned(part) for part in parts)
    return Pictures(still, photo, still_flat, photo_flat, gap, made.lines)
