"""Stepping through a video and putting its frames on the reel."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPixmap
from PySide6.QtWidgets import QCheckBox, QHBoxLayout, QPushButton, QSlider, QVBoxLayout, QWidget

from chalkreel.app.jobs import Progress
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Still

if TYPE_CHECKING:
    from chalkreel.core.media.clip import Clip, Frame

VIDEOS = (".mp4", ".mkv", ".mov", ".avi", ".mpg", ".mpeg", ".m4v", ".webm", ".ts", ".vob")
STEPS = ((-25, "−25"), (-1, "−1"), (1, "+1"), (25, "+25"))


class Grabber(QWidget):
    """One open video: a preview in true shape, steps, and the button that keeps a frame. Hidden while none is open."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._clip: Clip | None = None
        self._name = ""
        self.frame: Frame | None = None
        self.picture, self.words = PlainLabel(), PlainLabel()
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.picture.setAccessibleName("Frame of the video")
        self.words.setWordWrap(True)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Frame")
        self.second = QCheckBox("second field")
        self.bars = QCheckBox("take black bars off")
        self.bars.setChecked(True)
        self.keep, self.close_button = QPushButton("Put this frame on the reel"), QPushButton("Close the video")
        self.keep.setObjectName("primary")
        self._lay_out()
        self.slider.valueChanged.connect(self._read)
        self.second.clicked.connect(self._read)
        self.bars.clicked.connect(self._read)
        self.keep.clicked.connect(self.keep_frame)
        self.close_button.clicked.connect(self.close_clip)
        self.hide()

    def open_clip(self, path: Path) -> None:
        """Open a video in the worker and show its first frame."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.clip import Clip

            try:
                data = path.read_bytes()
            except OSError as error:
                raise RefusedError(f"“{path.name}” cannot be read. Check that it is there and is yours.") from error
            yield Clip(data)

        self._name = path.name
        self._session.run(work, self._take_clip)

    def close_clip(self) -> None:
        """Let the video go."""
        if self._clip is not None:
            self._clip.close()
        self._clip = self.frame = None
        self.hide()

    def step(self, by: int) -> None:
        """So many frames on or back."""
        self.slider.setValue(self.slider.value() + by)

    def keep_frame(self) -> None:
        """Put the frame shown on the reel."""
        session, frame, name = self._session, self.frame, self._name
        if frame is None:
            return

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.edits.grabbing import grabbed, png_of

            yield grabbed(session.build, name, frame, session.store.keep(png_of(frame)))

        session.run(work, self._take_still)

    def _take_clip(self, found: object) -> None:
        clip = cast("Clip", found)
        self.close_clip()
        self._clip = clip
        self.second.setVisible(clip.info.interlaced)
        self.slider.setRange(0, max(0, clip.info.frames - 1))
        self.slider.setValue(0)
        self.show()
        self._read()

    def _take_still(self, still: object) -> None:
        assert isinstance(still, Still)
        if self._session.commit(f"still {still.number}", {still.id: still}):
            self._session.choose_still(still.id)

    def _read(self) -> None:
        clip, number = self._clip, self.slider.value()
        if clip is None:
            return
        second, bars = self.second.isChecked(), self.bars.isChecked()

        def work(_: Progress) -> Iterator[object]:
            # While the slider moves on, frames that were passed by are not read.
            if number == self.slider.value():
                yield clip.frame(number, second, bars)

        self._session.run(work, self._take_frame)

    def _take_frame(self, found: object) -> None:
        from chalkreel.edits.grabbing import preview_size

        frame = cast("Frame", found)
        if self._clip is None:
            return
        self.frame = frame
        height, width = frame.pixels.shape[:2]
        image = QImage(frame.pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888)
        shown = image.scaled(
            *preview_size(frame), Qt.AspectRatioMode.IgnoreAspectRatio, Qt.TransformationMode.SmoothTransformation
        )
        self.picture.setPixmap(QPixmap.fromImage(shown))
        info = self._clip.info
        parts = [f"{self._name}: frame {frame.number + 1} of {info.frames}, {frame.number / info.rate:.2f} s",
                 f"{width} × {height} px, pixels {frame.pixel_aspect:.3f} wide"]  # fmt: skip
        if any(frame.bars):
            parts.append("uneven bars taken off: marked as cropped" if frame.cropped else "black bars taken off")
        if info.interlaced:
            parts.append("interlaced: one field, its lines doubled")
        self.words.setText("; ".join(parts))

    def _lay_out(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.picture)
        column.addWidget(self.words)
        row = QHBoxLayout()
        for by, words in STEPS:
            button = QPushButton(words)
            button.setAccessibleName(f"{words} frames")
            button.clicked.connect(lambda _, by=by: self.step(by))
            row.addWidget(button)
        row.addWidget(self.slider, 1)
        column.addLayout(row)
        choices = QHBoxLayout()
        for widget in (self.second, self.bars):
            choices.addWidget(widget)
        choices.addStretch(1)
        choices.addWidget(self.close_button)
        choices.addWidget(self.keep)
        column.addLayout(choices)
