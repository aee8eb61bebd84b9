"""Clicking landmarks on a photograph of the replica, with the still beside it that shows which one is meant."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.app.bench import compare_model as model
from chalkreel.app.bench.photo_view import PhotoView, SpotView
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.room import Room
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.core.measure.marks import Mark, click_sigma_px
from chalkreel.document.bench_entities import ReplicaPhoto
from chalkreel.document.entities import LandmarkMark, Still
from chalkreel.edits.photographing import assembly_told, clicked, exchanged_sides, mark_on_photo


class ClickDesk(QWidget):
    """Asks for one landmark after the other; what is not there is said to be missing, what is not wanted is skipped."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self.photo_id = ""
        self._skipped: frozenset[str] = frozenset()
        self._chosen = ""
        self.skip, self.gone, self.other = (
            QPushButton("Skip  S"), QPushButton("It is not there"), QPushButton("It shows the other side"),
        )  # fmt: skip
        self.asks = PlainLabel("")
        self.reference = SpotView(session, images, "Still that the photograph answers")
        self.photo = PhotoView(session, images)
        self.assemblies = self._assembly_table()
        self._lay_out()
        self.skip.clicked.connect(self.skip_wanted)
        self.gone.clicked.connect(self.say_missing)
        self.other.clicked.connect(self.exchange_sides)
        self.photo.placed.connect(self.place)
        self.photo.chosen.connect(self.choose)
        self.reference.chosen.connect(self.choose)

    @property
    def shown(self) -> ReplicaPhoto | None:
        """The photograph that is clicked on."""
        return self._session.build.get(ReplicaPhoto, self.photo_id)

    def show_photo(self, photo_id: str) -> None:
        """Another photograph, from its first landmark."""
        if photo_id != self.photo_id:
            self.photo_id, self._chosen, self._skipped = photo_id, "", frozenset()

    def set_room(self, room: Room) -> None:
        """Where there is little room the list of assemblies gives way to the pictures."""
        self.assemblies.setMaximumHeight(62 if room == "close" else 150)

    def refresh(self) -> None:
        """Follow build and answers."""
        photo = self.shown
        laid = model.laid_of(self._session.answers, photo)
        self.other.setVisible(laid is not None and laid.other_side)
        self.asks.setText(model.ask_words(self._session.build, laid, self._wanted()) if photo is not None else "")
        self._show_clicks(photo)

    def place(self, landmark_id: str, x: float, y: float) -> None:
        """Put a landmark on the photograph."""
        photo = self.shown
        if photo is None:
            return
        x, y = min(max(x, 0.0), float(photo.width_px)), min(max(y, 0.0), float(photo.height_px))
        mark = Mark(round(x, 2), round(y, 2), click_sigma_px(self.photo.zoom))
        made = clicked(self._session.build, photo, landmark_id, mark)
        self._chosen = ""
        self._session.commit(f"{model.names_of(self._session.build).get(landmark_id, '')} on the replica", made.edits)

    def take_off_chosen(self) -> None:
        """Remove the mark of the landmark in hand from the photograph."""
        mark = mark_on_photo(self._session.build, self.photo_id, self._chosen)
        if mark is not None:
            self._session.commit("mark on the replica removed", {mark.id: None})

    def skip_wanted(self) -> None:
        """Leave the landmark that is asked for, and ask for another."""
        self._skipped |= {self._wanted()}
        self._chosen = ""
        self.refresh()

    def say_missing(self) -> None:
        """The assembly of the landmark that is asked for is missing on the replica."""
        from chalkreel.answers.photographs import called_on

        photo, answers, wanted = self.shown, self._session.answers, self._wanted()
        if photo is None or answers is None or not wanted:
            return
        name = called_on(answers.comparing.groups, wanted)
        self._chosen = ""
        self._session.commit(f"{name} missing", {photo.id: assembly_told(photo, name, model.MISSING)})

    def exchange_sides(self) -> None:
        """Every landmark becomes its twin."""
        photo = self.shown
        if photo is not None:
            edits = exchanged_sides(self._session.build, photo)
            self._session.commit("sides exchanged on the photograph", edits)

    def _wanted(self) -> str:
        laid = model.laid_of(self._session.answers, self.shown)
        # What was clicked a moment ago is not asked for again while the answers are on their way.
        done = self._skipped | set(model.marks_on(self._session.build, self.shown))
        return model.wanted_landmark(laid, done, self._chosen)

    def _show_clicks(self, photo: ReplicaPhoto | None) -> None:
        session = self._session
        build, answers = session.build, session.answers
        names, wanted = model.names_of(build), self._wanted()
        laid = model.laid_of(answers, photo)
        self.photo.show_photo(photo)
        ghosts = laid.ghosts if laid is not None and not session.stale else {}
        self.photo.show_spots(model.marks_on(build, photo), ghosts, wanted, names)
        self.reference.shown = build.get(Still, photo.still_id) if photo is not None else None
        self.reference.empty = "Choose above which still this photograph was taken like."
        on_still = {m.landmark_id: (m.mark.x_px, m.mark.y_px) for m in build.all(LandmarkMark)
                    if photo is not None and m.still_id == photo.still_id}  # fmt: skip
        expected = {}
        # All expected marks of a still are worked out together: only where this one is not marked there.
        if answers is not None and answers.sizes is not None and photo is not None and wanted not in on_still:
            expected = {g.landmark: (g.x_px, g.y_px) for g in answers.sizes.reel.ghosts_on(photo.still_id)
                        if g.landmark == wanted}  # fmt: skip
        self.reference.show_spots(on_still, expected, wanted, names)
        if answers is not None:
            self.assemblies.show_rows(model.assembly_rows(build, answers.comparing, photo), session.stale)

    def choose(self, landmark_id: str) -> None:
        """Take a landmark in hand: the next click is for it."""
        self._chosen = landmark_id
        self.refresh()

    def _lay_out(self) -> None:
        row = QHBoxLayout()
        row.addWidget(self.asks, 1)
        for widget in (self.skip, self.gone, self.other):
            widget.setObjectName("tool")
            row.addWidget(widget)
        self.asks.setWordWrap(True)
        self.assemblies.setMaximumHeight(150)
        pair = QSplitter()
        pair.addWidget(self.reference)
        pair.addWidget(self.photo)
        pair.setSizes([400, 500])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(pair, 1)
        column.addWidget(self.assemblies)

    def _assembly_table(self) -> Table:
        def put(row: model.AssemblyRow, words: str) -> None:
            photo = self.shown
            if photo is not None:
                state = {model.NOT_BUILT: "not built", model.MISSING: "missing"}.get(words, "")
                self._session.commit(f"{row.called} {words}", {photo.id: assembly_told(photo, row.called, state)})

        return Table(
            self._session, "Assemblies on this photograph",
            (
                Column("assembly", lambda r: str(r.called)),
                Column("on this photograph", lambda r: str(r.state), put, lambda: model.STATES,
                       keys={"T": model.THERE, "N": model.NOT_BUILT, "M": model.MISSING}),
                Column("clicks", lambda r: str(r.clicks), right=True),
                Column("found", lambda r: str(r.found), stretch=True),
            ),
        )  # fmt: skip
