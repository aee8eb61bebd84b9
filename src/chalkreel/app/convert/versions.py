"""Features by version, with the stills that show them side by side above."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QSplitter, QVBoxLayout, QWidget

from chalkreel.app import theme
from chalkreel.app.convert import model
from chalkreel.app.convert.forms import named
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.plain import PlainLabel
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.app.stills.images import Images
from chalkreel.app.stills.picture_view import PictureView
from chalkreel.core.convert.kinds import WAYS
from chalkreel.document.entities import Dimension, Feature, KitPart, Landmark, Still
from chalkreel.document.entity import new_id
from chalkreel.edits.removing import removal

NO_STILL = "no still decides it: choose one below, under “seen on”"


class EvidenceView(PictureView):
    """One still with what it decides written over it; the wheel zooms, dragging pans."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__(session, images)
        self.setMinimumSize(160, 120)
        self._still: Still | None = None
        self._held: QPointF | None = None

    @property
    def still(self) -> Still | None:
        """The still that is shown."""
        return self._still

    def show_still(self, words: str, still: Still | None) -> None:
        """Replace the still; none is told as such."""
        self._still = still
        self.setAccessibleName(words)
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        painter = QPainter(self)
        if self._still is None:
            painter.fillRect(self.rect(), QColor(theme.JUDGING_GREY))
            painter.setPen(QColor("#101010"))
            painter.setFont(theme.font(13))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, NO_STILL)
            return
        self.draw_picture(painter)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._held = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._held is not None:
            moved = event.position() - self._held
            self._held = event.position()
            self.pan(moved.x(), moved.y())

    def mouseReleaseEvent(self, _: QMouseEvent) -> None:
        self._held = None

    def mouseDoubleClickEvent(self, _: QMouseEvent) -> None:
        self.fit()


class SideBySide(QWidget):
    """The two stills that decide a feature: in the kit's version and in the one being built."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self.setMinimumHeight(150)
        self.views = tuple(EvidenceView(session, images) for _ in range(2))
        self.titles = tuple(PlainLabel("") for _ in range(2))
        self.hint = PlainLabel("Choose a feature below: the stills of both versions stand here side by side.")
        self.hint.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.hint.set_state("quiet")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(10)
        row.addWidget(self.hint, 1)
        self._sides = []
        for title, view in zip(self.titles, self.views, strict=True):
            side = QWidget()
            column = QVBoxLayout(side)
            column.setContentsMargins(0, 0, 0, 0)
            column.setSpacing(3)
            title.setStyleSheet("font-weight: 600;")
            title.setWordWrap(True)
            column.addWidget(title)
            column.addWidget(view, 1)
            row.addWidget(side, 1)
            self._sides.append(side)

    def show_stills(self, shown: tuple[tuple[str, Still | None], ...]) -> None:
        """Words over each still, and the still."""
        self.hint.setVisible(not shown)
        for number, side in enumerate(self._sides):
            side.setVisible(number < len(shown))
            if number < len(shown):
                words, still = shown[number]
                self.titles[number].setText(words)
                self.views[number].show_still(words, still)


class VersionsPage(QWidget):
    """The table, its stills, and the form of the chosen feature for the card."""

    def __init__(self, session: Session, images: Images) -> None:
        super().__init__()
        self._session = session
        self._titles = model.version_titles(session.build)
        self.stills = SideBySide(session, images)
        self.table = Table(session, "Features by version", self._columns(), self._remove, self._add)
        self.table.hint = "No feature yet: add what differs between the kit and the version you build."
        self.add = QPushButton("Add feature")
        both = QSplitter(Qt.Orientation.Vertical)
        both.addWidget(self.stills)
        both.addWidget(self.table)
        both.setSizes([290, 270])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(both)
        self.add.clicked.connect(self.table.add_row)
        self.form = self._form()
        self.table.selectionModel().currentRowChanged.connect(lambda *_: self.show_feature())

    @property
    def feature(self) -> Feature | None:
        """The feature in hand."""
        found = self.table.current
        return found if isinstance(found, Feature) else None

    def refresh(self) -> None:
        """Follow the build."""
        titles = model.version_titles(self._session.build)
        if titles != self._titles:
            self._titles = titles
            self.table.set_columns(self._columns())
        self.table.show_rows(self._session.build.all(Feature))
        self.show_feature()

    def show_feature(self) -> None:
        """Show what the chosen feature is on the stills."""
        feature = self.feature
        self.form.setVisible(feature is not None and self.isVisible())
        self.stills.show_stills(model.evidence(self._session.build, feature) if feature is not None else ())
        if feature is not None:
            self.form.refresh()

    def _add(self) -> str:
        build = self._session.build
        feature = Feature(
            id=new_id(), name=f"feature {len(build.all(Feature)) + 1}", assembly="Hull", late=bool(build.info.done)
        )
        self._session.commit(feature.name, {feature.id: feature})
        return feature.id

    def _remove(self, feature: Feature) -> None:
        self._session.commit(f"{feature.name} removed", removal(self._session.build, feature.id))

    def _columns(self) -> tuple[Column, ...]:
        session = self._session

        def put(feature: Feature, label: str, **fields: object) -> None:
            session.edit(label, feature, **fields)

        def put_cell(version_id: str, feature: Feature, text: str) -> None:
            session.commit(f"{feature.name} in a version", model.cell_edits(session.build, feature, version_id, text))

        def put_evidence(version_id: str, feature: Feature, text: str) -> None:
            session.commit("evidence", model.evidence_edits(session.build, feature, version_id, text))

        def stills() -> tuple[str, ...]:
            return ("none", *(f"still {s.number}" for s in session.build.all(Still)))

        def words(version_id: str, feature: Feature) -> str:
            return model.cell(session.build, feature, version_id).words

        versions = [
            column
            for version_id, title in self._titles
            for column in (
                Column(title, partial(words, version_id), partial(put_cell, version_id), stretch=True,
                       state=partial(self._cell_state, version_id)),
                Column(f"{title.partition(' (')[0]}: seen on", partial(self._evidence, version_id),
                       partial(put_evidence, version_id), stills),
            )
        ]  # fmt: skip
        return (
            Column("feature", lambda f: f.name, lambda f, text: put(f, "feature name", name=text.strip() or f.name)),
            Column("assembly", lambda f: f.assembly,
                   lambda f, text: put(f, "assembly", assembly=text.strip() or f.assembly)),
            *versions,
            Column("late", lambda f: "found late" if f.late else "", state=lambda _: "warn"),
        )  # fmt: skip

    def _evidence(self, version_id: str, feature: Feature) -> str:
        return model.evidence_words(self._session.build, feature, version_id)

    def _cell_state(self, version_id: str, feature: Feature) -> str:
        return "warn" if model.cell(self._session.build, feature, version_id).words == model.DOUBTFUL else "plain"

    def _form(self) -> Form:
        session, form = self._session, Form(self._session)

        def feature() -> Feature:
            found = self.feature
            assert found is not None
            return found

        def put(label: str, **fields: object) -> None:
            session.edit(f"{label} of {feature().name}", feature(), **fields)

        form.heading(lambda: f"Chosen feature: {feature().name}")
        form.choice(
            "Kit part", lambda: named(session, KitPart), lambda: feature().part_id, lambda k: put("kit part", part_id=k)
        )
        form.choice(
            "Size from",
            lambda: named(session, Dimension),
            lambda: feature().dimension_id,
            lambda k: put("size", dimension_id=k),
        )
        form.choice(
            "Sits at",
            lambda: named(session, Landmark),
            lambda: feature().landmark_id,
            lambda k: put("place", landmark_id=k),
        )
        form.choice(
            "Made by", lambda: [(w, w or "sheet and strip") for w in WAYS], lambda: feature().way,
            lambda k: put("way", way=k),
        )  # fmt: skip
        form.text(
            "More sizes", lambda: model.further_words(session.build, feature()),
            lambda text: put("more sizes", other_dimension_ids=model.further_from(session.build, text)),
        )  # fmt: skip
        form.text("Numbers", self._parts, self._put_parts)
        form.check("moulded on: not swapped whole", lambda: feature().moulded_on,
                   lambda on: put("moulded on", moulded_on=on))  # fmt: skip
        form.check("found late", lambda: feature().late, lambda on: put("late", late=on))
        return form

    def _parts(self) -> str:
        feature, build = self.feature, self._session.build
        return model.cell(build, feature, build.info.version_id).parts if feature is not None else ""

    def _put_parts(self, text: str) -> None:
        feature, build = self.feature, self._session.build
        if feature is not None:
            edits = model.parts_edits(build, feature, build.info.version_id, text)
            self._session.commit(f"part numbers of {feature.name}", edits)
