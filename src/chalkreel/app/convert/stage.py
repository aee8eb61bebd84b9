"""The Convert stage: features × versions above, the operations that follow from it below."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from chalkreel.app.convert import model
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.stage import Stage, heading_row
from chalkreel.app.parts.table import Column, Table
from chalkreel.app.session import Session
from chalkreel.build.answers.matters import StageName
from chalkreel.build.entities import BUILD_ID, Dimension, Feature, KitPart, Still, Version, new_id
from chalkreel.build.gestures import removal

VERB_STATES = {"remove": "bad", "shorten": "warn", "add": "good", "check": "quiet"}


class ConvertStage(Stage):
    """What must I change, from what stock?"""

    name: StageName = "Convert"
    prompt = "Type how the kit and the version have each feature: “form at place”, “not there” or “?”. Jobs follow."

    def __init__(self, session: Session) -> None:
        self.features = Table(session, "Features by version", self._feature_columns(session), self._remove)
        self.jobs = Table(session, "Operations", self._job_columns(session))
        self.features.hint = "No feature yet: add what differs between the kit and the version you build."
        self.jobs.hint = "No job: the kit is already right, or nothing has been compared yet."
        centre = QWidget()
        centre.setObjectName("board")
        centre.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        add = QPushButton("Add feature")
        column = QVBoxLayout(centre)
        column.setContentsMargins(14, 10, 14, 12)
        column.addLayout(heading_row("What differs: the kit against the version being built", add))
        column.addWidget(self.features, 1)
        column.addLayout(heading_row("Jobs that follow from it"))
        column.addWidget(self.jobs, 1)
        super().__init__(session, centre)
        add.clicked.connect(self._add)
        form = Form(session)
        for words, field in (("Kit is the", "kit_version_id"), ("I build the", "version_id")):
            form.choice(
                words, self._versions, partial(self._chosen_version, field), partial(self._put_version, words, field)
            )
        self.form, self.feature_form = form, self._feature_form()
        self.card.form.addWidget(self.feature_form)
        self.card.form.addWidget(form)
        self.features.selectionModel().currentRowChanged.connect(self._show_feature)

    def refresh(self) -> None:
        session = self.session
        build = session.build
        names = {v.id: v.name for v in build.all(Version)}
        kit, ours = names.get(build.info.kit_version_id, "kit"), names.get(build.info.version_id, "version")
        self.features.rename_columns({2: f"kit ({kit})", 3: f"wanted ({ours})"})
        self.features.show_rows(build.all(Feature))
        rows = session.answers.conversion.rows if session.answers and session.answers.conversion else ()
        self.jobs.show_rows(rows, session.stale)
        self.form.refresh()
        self._show_feature()
        self._write_card()

    def _write_card(self) -> None:
        answers, card = self.session.answers, self.card.answers
        card.clear(self.session.stale)
        if answers is None or answers.conversion is None:
            card.sentence("Comparing versions…", "quiet")
            return
        found = answers.conversion
        card.heading("The conversion")
        card.figure("work at the bench", f"{found.hours:.1f} h", note=f"{len(found.rows)} jobs", state="plain")
        self.matters()
        card.heading("Cut list")
        for words in model.cut_list(answers) or ("nothing to cut to size",):
            card.sentence(words)
        card.heading("Materials to have ready")
        for words in found.shopping or ("nothing",):
            card.sentence(words)
        card.sentence(
            "Fresh blade, metal ruler, cut away from the body. Wet-sand resin; never breathe its dust.", "warn"
        )
        card.rule()

    def _show_feature(self) -> None:
        self.feature_form.setVisible(self.features.current is not None)
        if self.features.current is not None:
            self.feature_form.refresh()

    def _feature_form(self) -> Form:
        session, form = self.session, Form(self.session)

        def feature() -> Feature:
            found = self.features.current
            assert isinstance(found, Feature)
            return found

        def put(label: str, **fields: object) -> None:
            session.edit(f"{label} of {feature().name}", feature(), **fields)

        def named(kind: type[KitPart] | type[Dimension]) -> list[tuple[str, str]]:
            return [("", "none"), *((e.id, e.name) for e in session.build.all(kind))]

        form.heading(lambda: f"Chosen feature: {feature().name}")
        form.choice(
            "Kit part", lambda: named(KitPart), lambda: feature().part_id, lambda key: put("kit part", part_id=key)
        )
        form.choice(
            "Size from",
            lambda: named(Dimension),
            lambda: feature().dimension_id,
            lambda key: put("size", dimension_id=key),
        )
        form.check(
            "moulded on: cannot be swapped whole",
            lambda: feature().moulded_on,
            lambda on: put("moulded on", moulded_on=on),
        )
        return form

    def _versions(self) -> list[tuple[str, str]]:
        return [(v.id, v.name) for v in self.session.build.all(Version)]

    def _chosen_version(self, field: str) -> str:
        return str(getattr(self.session.build.info, field))

    def _put_version(self, words: str, field: str, key: str) -> None:
        self.session.edit(words, self.session.build.entities[BUILD_ID], **{field: key})

    def _add(self) -> None:
        feature = Feature(id=new_id(), name=f"feature {len(self.session.build.all(Feature)) + 1}", assembly="Hull")
        self.session.commit("feature", {feature.id: feature})
        self.features.scrollToBottom()

    def _remove(self, feature: Feature) -> None:
        self.session.commit(f"{feature.name} removed", removal(self.session.build, feature.id))

    @staticmethod
    def _feature_columns(session: Session) -> tuple[Column, ...]:
        def info() -> tuple[str, str]:
            return session.build.info.kit_version_id, session.build.info.version_id

        def put_cell(feature: Feature, which: int, text: str) -> None:
            session.commit(
                f"{feature.name} in a version", model.cell_edits(session.build, feature, info()[which], text)
            )

        return (
            Column(
                "feature",
                lambda f: f.name,
                lambda f, text: session.edit("feature name", f, name=text.strip() or f.name),
            ),
            Column(
                "assembly",
                lambda f: f.assembly,
                lambda f, text: session.edit("assembly", f, assembly=text.strip() or f.assembly),
            ),
            Column(
                "kit",
                lambda f: model.cell(session.build, f, info()[0]).words,
                lambda f, text: put_cell(f, 0, text),
                stretch=True,
            ),
            Column(
                "wanted",
                lambda f: model.cell(session.build, f, info()[1]).words,
                lambda f, text: put_cell(f, 1, text),
                stretch=True,
            ),
            Column(
                "evidence",
                lambda f: model.evidence_words(session.build, f),
                lambda f, text: session.commit("evidence", model.evidence_edits(session.build, f, text)),
                lambda: ("none", *(f"still {s.number}" for s in session.build.all(Still))),
            ),
        )

    @staticmethod
    def _job_columns(session: Session) -> tuple[Column, ...]:
        def put(row: object, label: str, **fields: object) -> None:
            session.edit(label, session.build.entities[row.feature_id], **fields)  # type: ignore[attr-defined]

        return (
            Column(
                "job",
                lambda r: f"{r.operation.verb} {r.operation.feature}",
                state=lambda r: VERB_STATES.get(r.operation.verb, "plain"),
            ),
            Column("why", lambda r: r.operation.reason, stretch=True),
            Column(
                "material",
                lambda r: r.operation.material,
                lambda r, text: put(r, "material", material=text.strip()),
                stretch=True,
            ),
            Column("size", model.size_of),
            Column(
                "hours",
                lambda r: f"{r.operation.hours:.2g} h",
                lambda r, text: put(r, "hours", hours=model.hours_from(text)),
                right=True,
            ),
            Column("when", lambda r: r.operation.when, lambda r, text: put(r, "when", when=text), lambda: model.WHENS),
        )
