"""The page of Measure where landmarks have their home: names, twins, where they are marked, how well they fit."""

from __future__ import annotations

from PySide6.QtWidgets import QVBoxLayout, QWidget

from chalkreel.answers.assemblies import assembly_of
from chalkreel.answers.landmarks import LandmarkRow, landmark_rows
from chalkreel.answers.wording import name_of, still_numbers
from chalkreel.app.measure.landmarks import reel_of
from chalkreel.app.parts.card import SIGNS
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.figures import plural
from chalkreel.document.entities import Landmark
from chalkreel.edits.landmarks import joined, paired, renamed
from chalkreel.edits.removing import removal

# Beyond so many σ a mark is worth a look; the card names it from a little later on.
WORTH_A_LOOK = 3.0


class LandmarkPage(QWidget):
    """A table of landmarks; a name of another one merges the two."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.table = Table(session, "Landmarks", self._columns(), self._remove)
        self.table.hint = "No landmark yet: mark a corner that two stills show (L)."
        self.table.selectionModel().currentRowChanged.connect(lambda _, was: self._chosen() if was.isValid() else None)
        self.table.clicked.connect(lambda _: self._chosen())
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self.table)

    def refresh(self) -> None:
        """List them as they are now."""
        session = self._session
        self.table.show_rows(landmark_rows(session.build, reel_of(session.answers)), session.stale)

    def _chosen(self) -> None:
        row = self.table.current
        if row is not None and self.table.hasFocus():
            if row.still_ids and self._session.still_id not in row.still_ids:
                self._session.choose_still(row.still_ids[0])
            self._session.select(row.id)

    def _landmark(self, row: LandmarkRow) -> Landmark:
        landmark = self._session.build.get(Landmark, row.id)
        assert landmark is not None
        return landmark

    def _rename(self, row: LandmarkRow, text: str) -> None:
        was = self._landmark(row)
        edits = renamed(self._session.build, was, text)
        label = f"{was.name} merged into {text.strip()}" if edits.get(was.id) is None else f"name of {was.name}"
        self._session.commit(label, edits)

    def _pair(self, row: LandmarkRow, text: str) -> None:
        landmark = self._landmark(row)
        self._session.commit(f"twin of {landmark.name}", paired(self._session.build, landmark, text))

    def _join(self, row: LandmarkRow, text: str) -> None:
        landmark = self._landmark(row)
        self._session.commit(f"{landmark.name} moves with {text}", joined(self._session.build, landmark, text))

    def _remove(self, row: LandmarkRow) -> None:
        edits = removal(self._session.build, row.id)
        hanging = sum(1 for made in edits.values() if made is None) - 1
        words = f" with {plural(hanging, 'thing')} that hung on it" if hanging else ""
        self._session.commit(f"{self._landmark(row).name} removed{words}", edits)

    def _twin(self, row: LandmarkRow) -> str:
        if row.mirror_id == row.id:
            return "on the centre line"
        return name_of(self._session.build, row.mirror_id) if row.mirror_id else ""

    def _marked(self, row: LandmarkRow) -> str:
        return still_numbers(self._session.build, row.still_ids) if row.still_ids else "nowhere"

    def _fit(self, row: LandmarkRow) -> str:
        if not row.placed:
            return "no place yet" if row.still_ids else ""
        where = name_of(self._session.build, row.worst_still_id)
        sign = SIGNS["warn"] if row.worst_sigma > WORTH_A_LOOK else ""
        return f"{sign}{row.worst_px:.1f} px on {where}" if row.worst_still_id else ""

    def _columns(self) -> tuple[Column, ...]:
        def state(row: LandmarkRow) -> str:
            return "warn" if not row.placed or row.worst_sigma > WORTH_A_LOOK else "plain"

        return (
            Column("landmark", lambda r: name_of(self._session.build, r.id), self._rename, stretch=True),
            Column("twin", self._twin, self._pair, stretch=True),
            Column("moves with", lambda r: assembly_of(self._landmark(r)), self._join),
            Column("marked on", self._marked),
            Column("worst mark lies off by", self._fit, state=state),
        )
