"""The Convert stage: features × versions above, the operations that follow from it below."""

from __future__ import annotations

from functools import partial

from PySide6.QtWidgets import QPushButton

from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.convert import model
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.stage import Stage, board, heading_row
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session
from chalkreel.core.convert.kinds import WHENS
from chalkreel.core.figures import plural
from chalkreel.document.entities import BUILD_ID, Dimension, Feature, KitPart, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.edits.removing import removal

VERB_STATES = {"remove": "bad", "shorten": "warn", "add": "good", "check": "quiet"}


class ConvertStage(Stage):
    """What must I change, from what stock?"""

    name: StageName = "Convert"
    prompt = "Type how the kit and the version have each feature: “form at place”, “not there” or “?”. Jobs follow."

    def __init__(self, session: Session) -> None:
        self._titles = model.version_titles(session.build)
        self.features = Table(session, "Features by version", self._feature_columns(session), self._remove, self._add)
        self.jobs = Table(session, "Operations", self._job_columns(session), key=model.job_key)
        self.features.hint = "No feature yet: add what differs between the kit and the version you build."
        self.jobs.hint = "No job: the kit is already right, or nothing has been compared yet."
        centre, column = board()
        add = QPushButton("Add feature")
        column.addLayout(heading_row("What differs between the versions", add))
        column.addWidget(self.features, 1)
        column.addLayout(heading_row("Jobs that follow from it"))
        column.addWidget(self.jobs, 1)
        super().__init__(session, centre)
        add.clicked.connect(self.features.add_row)
        form = Form(session)
        for words, field in (("Kit is the", "kit_version_id"), ("I build the", "version_id")):
            form.choice(
                words, self._versions, partial(self._chosen_version, field), partial(self._put_version, words, field)
            )
        form.text("Its name", self._version_name, self._rename_version)
        self.form, self.feature_form = form, self._feature_form()
        self.card.form.addWidget(self.feature_form)
        self.card.form.addWidget(form)
        self.features.selectionModel().currentRowChanged.connect(self._show_feature)

    def lists(self) -> tuple[Table, ...]:
        return (self.features,)

    def begin(self, _: NextStep) -> None:
        self.features.add_row()

    def refresh(self) -> None:
        session = self.session
        build = session.build
        titles = model.version_titles(build)
        if titles != self._titles:
            self._titles = titles
            self.features.set_columns(self._feature_columns(session))
        self.features.show_rows(build.all(Feature))
        rows = session.answers.conversion.rows if session.answers and session.answers.conversion else ()
        self.jobs.show_rows(rows, session.stale)
        self.form.refresh()
        self._show_feature()
        self._write_card()

    def _write_card(self) -> None:
        answers, card = self.session.answers, self.card.answers
        card.clear(self.session.stale)
        self.next_step()
        if answers is None or answers.conversion is None:
            card.sentence("Comparing versions…", "quiet")
            return
        found = answers.conversion
        card.heading("The conversion")
        card.figure("work at the bench", f"{found.hours:.1f} h", note=plural(len(found.rows), "job"), state="plain")
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

    def _version_name(self) -> str:
        version = self.session.build.get(Version, self.session.build.info.version_id)
        return version.name if version else ""

    def _rename_version(self, text: str) -> None:
        version = self.session.build.get(Version, self.session.build.info.version_id)
        if version is not None and text.strip():
            self.session.edit("name of a version", version, name=text.strip())

    def _add(self) -> str:
        feature = Feature(id=new_id(), name=f"feature {len(self.session.build.all(Feature)) + 1}", assembly="Hull")
        self.session.commit(feature.name, {feature.id: feature})
        return feature.id

    def _remove(self, feature: Feature) -> None:
        self.session.commit(f"{feature.name} removed", removal(self.session.build, feature.id))

    @staticmethod
    def _feature_columns(session: Session) -> tuple[Column, ...]:
        def put(feature: Feature, label: str, **fields: object) -> None:
            session.edit(label, feature, **fields)

        def put_assembly(feature: Feature, text: str) -> None:
            put(feature, "assembly", assembly=text.strip() or feature.assembly)

        def put_cell(version_id: str, feature: Feature, text: str) -> None:
            edits = model.cell_edits(session.build, feature, version_id, text)
            session.commit(f"{feature.name} in a version", edits)

        def put_evidence(feature: Feature, text: str) -> None:
            session.commit("evidence", model.evidence_edits(session.build, feature, text))

        def stills() -> tuple[str, ...]:
            return ("none", *(f"still {s.number}" for s in session.build.all(Still)))

        def words(version_id: str, feature: Feature) -> str:
            return model.cell(session.build, feature, version_id).words

        versions = (
            Column(title, partial(words, version_id), partial(put_cell, version_id), stretch=True)
            for version_id, title in model.version_titles(session.build)
        )
        return (
            Column("feature", lambda f: f.name, lambda f, text: put(f, "feature name", name=text.strip() or f.name)),
            Column(
                "assembly",
                lambda f: f.assembly,
                lambda f, text: put(f, "assembly", assembly=text.strip() or f.assembly),
            ),
            *versions,
            Column("evidence", lambda f: model.evidence_words(session.build, f), put_evidence, stills),
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
            Column("when", lambda r: r.operation.when, lambda r, text: put(r, "when", when=text), lambda: WHENS),
        )
