"""Stepping through a video and putting its frames on the reel."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QSize
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QLineEdit, QPushButton

from chalkreel.app.gather.picker import Picker
from chalkreel.app.jobs import Job, Progress
from chalkreel.app.parts.echo import Echo
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.session import Session, read_file, told_of
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural

if TYPE_CHECKING:
    from chalkreel.core.media.clip import Clip, Frame

VIDEOS = (".mp4", ".mkv", ".mov", ".avi", ".mpg", ".mpeg", ".m4v", ".webm", ".ts", ".vob")
STEPS = (-25, -1, 1, 25)
# Scenes of longer videos are looked for when asked: a quarter of an hour.
MOST_UNASKED = 22_500


class Grabber(Picker):
    """One open video, shown in true shape, with its scenes."""

    def __init__(self, session: Session) -> None:
        super().__init__(session, "frame", STEPS)
        self._clip: Clip | None = None
        self._path = Path()
        self._seeking: Job | None = None
        self.frame: Frame | None = None
        self.scenes: tuple[int, ...] = ()
        self.moment = QLineEdit()
        self.moment.setAccessibleName("Go to a time or frame")
        self.moment.setPlaceholderText("go to 1:02.5 or frame 310")
        self.moment.setMinimumWidth(210)
        self._echo = Echo(self.moment)
        self.seek = QPushButton("Find scenes")
        self.before, self.after = QPushButton("Scene before"), QPushButton("Next scene")
        self.scene_words = PlainLabel()
        self.second = QCheckBox("second field")
        self.bars = QCheckBox("take black bars off")
        self.bars.setChecked(True)
        for widget in (self.moment, self.before, self.after, self.seek, self.scene_words, self.second, self.bars):
            self.flow.addWidget(widget)
        self.moment.returnPressed.connect(self._go)
        self.seek.clicked.connect(self.find_scenes)
        self.before.clicked.connect(lambda: self.step_scene(-1))
        self.after.clicked.connect(lambda: self.step_scene(1))
        self.second.clicked.connect(self.read)
        self.bars.clicked.connect(self.read)

    def open_clip(self, path: Path) -> None:
        """Open a video in the worker and show its first frame."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.clip import Clip

            with told_of(path.name):
                yield path, Clip(read_file(path))

        self._session.run(f"reading {path.name}", work, self._take_clip)

    def close_file(self) -> None:
        if self._seeking is not None:
            self._seeking.stop()
        if self._clip is not None:
            self._clip.close()
        self._clip = self.frame = self._seeking = None
        self.open_up(False)

    def find_scenes(self) -> None:
        """Look for cuts, beside everything else."""
        path = self._path

        def work(progress: Progress) -> Iterator[object]:
            from chalkreel.core.media.clip import Clip
            from chalkreel.core.media.scenes import scene_starts

            # A reader of its own: the other one goes where the user steps.
            clip = Clip(read_file(path))
            try:
                yield scene_starts(clip, progress)
            finally:
                clip.close()

        self.seek.hide()
        self.scene_words.setText("looking for scenes…")
        self._seeking = self._session.run("looking for scenes", work, self._take_scenes, self._session.background)

    def step_scene(self, by: int) -> None:
        """To where a scene begins, on or back."""
        here = self.slider.value()
        at = bisect_right(self.scenes, here) if by > 0 else bisect_left(self.scenes, here) - 1
        if 0 <= at < len(self.scenes):
            self.slider.setValue(self.scenes[at])

    def keep_shown(self) -> None:
        session, frame, name = self._session, self.frame, self._path.name
        if frame is None:
            return
        scene = bisect_right(self.scenes, frame.number)

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.edits.grabbing import grabbed, png_of

            yield grabbed(session.build, name, frame, scene, session.store.keep(png_of(frame.pixels)))

        session.run("keeping the frame", work, self.put_on_reel)

    def read(self) -> None:
        clip, number = self._clip, self.slider.value()
        if clip is None:
            return
        second, bars = self.second.isChecked(), self.bars.isChecked()

        def work(_: Progress) -> Iterator[object]:
            # While the slider moves on, frames that were passed by are not read.
            if number == self.slider.value():
                yield clip.frame(number, second, bars)

        self._session.run(f"reading frame {number}", work, self._take_frame)

    def _go(self) -> None:
        if self._clip is None:
            return
        try:
            self.slider.setValue(self._clip.index.number_of(self.moment.text()))
        except RefusedError as refusal:
            self._echo.say(f"✗ {refusal}", "bad")
        else:
            self.moment.clear()

    def _take_clip(self, found: object) -> None:
        path, clip = cast("tuple[Path, Clip]", found)
        self.close_file()
        self._path, self._clip, self.scenes = path, clip, ()
        self.second.setVisible(clip.info.interlaced)
        self._show_scenes()
        if clip.info.frames <= MOST_UNASKED:
            self.find_scenes()
        self.open_at_first(clip.info.frames)

    def _take_scenes(self, found: object) -> None:
        self.scenes = cast("tuple[int, ...]", found)
        self._show_scenes()

    def _show_scenes(self) -> None:
        several = len(self.scenes) > 1
        self.before.setVisible(several)
        self.after.setVisible(several)
        self.seek.setVisible(not self.scenes)
        self.scene_words.setVisible(bool(self.scenes))
        self.scene_words.setText(f"{plural(len(self.scenes), 'scene')}; frames of one share a lens")

    def _take_frame(self, found: object) -> None:
        from chalkreel.core.media.frame_index import shown_time
        from chalkreel.edits.grabbing import preview_size

        frame, clip = cast("Frame", found), self._clip
        if clip is None:
            return
        self.frame = frame
        height, width = frame.pixels.shape[:2]
        parts = [f"{self._path.name}: frame {frame.number + 1} of {clip.info.frames}, {shown_time(frame.seconds)}",
                 f"{width} × {height} px, pixels {frame.pixel_aspect:.3f} wide"]  # fmt: skip
        if len(self.scenes) > 1:
            parts.append(f"scene {bisect_right(self.scenes, frame.number)} of {len(self.scenes)}")
        if any(frame.bars):
            parts.append("uneven bars taken off: marked as cropped" if frame.cropped else "black bars taken off")
        if clip.info.interlaced:
            parts.append("interlaced: one field, its lines doubled")
        image = QImage(frame.pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888)
        self.show_image(image, QSize(*preview_size(frame)), "; ".join(parts))
