"""The Gather stage: contact wall, kit intake, coverage, and what is known of each still."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, cast

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QFileDialog, QPushButton, QScrollArea, QVBoxLayout, QWidget

from chalkreel.answers.coverage import Coverage
from chalkreel.answers.next_step import NextStep
from chalkreel.answers.stages import StageName
from chalkreel.app.gather.grabber import VIDEOS, Grabber
from chalkreel.app.gather.model import (
    alike_in_words,
    common_sides,
    guesses_in_words,
    open_guesses,
    optional_length,
    parse_aspect,
    pixel_shapes,
    shape_aspect,
)
from chalkreel.app.gather.pages import PagePicker
from chalkreel.app.gather.wall import ContactWall
from chalkreel.app.jobs import Progress
from chalkreel.app.parts.columns import Column
from chalkreel.app.parts.fields import Form
from chalkreel.app.parts.stage import Stage, board, heading_row
from chalkreel.app.parts.table import Table
from chalkreel.app.session import Session, read_file, told_of
from chalkreel.app.stills.images import Images
from chalkreel.core.convert.kinds import PART_STATES, STATE_KEYS
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import plural
from chalkreel.core.lengths import format_length, understood
from chalkreel.core.measure.sides import OPPOSITES
from chalkreel.document.entities import STILL_KINDS, TRUSTS, KitPart, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.gallery import picture_name
from chalkreel.edits.describing import put_in_new_version, sided, toggled, told
from chalkreel.edits.flopping import flop
from chalkreel.edits.removing import removal

if TYPE_CHECKING:
    from chalkreel.answers.answers import Answers
    from chalkreel.edits.replacing import Copy

KNOWN = ("*.png *.jpg *.jpeg *.tif *.tiff *.webp *.heic *.heif *.avif *.dng *.cr2 *.cr3 *.nef *.arw *.raf *.orf "
         "*.rw2 *.pef *.srw *.pdf")  # fmt: skip
PICTURES = f"Pictures, plans and videos ({KNOWN} {' '.join('*' + v for v in VIDEOS)});;All files (*)"


class GatherStage(Stage):
    """What evidence there is, and what is in the kit."""

    name: StageName = "Gather"
    prompt = "Drop stills on the window, paste them with Ctrl+V, or press Ctrl+I. Space: next still."

    def __init__(self, session: Session, images: Images) -> None:
        self.wall = ContactWall(session, images)
        self.parts = Table(
            session,
            "Kit intake",
            self._columns(session),
            lambda part: session.commit(f"{part.name} removed", removal(session.build, part.id)),
            self._add_part,
        )
        self.parts.hint = "No part yet: press Add part, or paste rows from a spreadsheet (Ctrl+V)."
        centre, column = board()
        add, part = QPushButton("Add stills or a video…"), QPushButton("Add part")
        add.setObjectName("primary")
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.wall)
        column.addLayout(heading_row("Contact wall: every still by side and version", add))
        self.grabber = Grabber(session)
        self.pages = PagePicker(session)
        column.addWidget(self.grabber)
        column.addWidget(self.pages)
        column.addWidget(scroll, 5)
        kit = QWidget()
        in_kit = QVBoxLayout(kit)
        in_kit.setContentsMargins(0, 0, 0, 0)
        in_kit.addLayout(heading_row("Kit intake: check every runner against the sheet", part))
        in_kit.addWidget(self.parts)
        column.addWidget(kit, 4)
        # While pictures are picked from a file, that and the wall have the room.
        for picker in (self.grabber, self.pages):
            picker.shown.connect(lambda on: kit.setVisible(not on))
        super().__init__(session, centre)
        self.form = self._still_form()
        self.card.form.addWidget(self.form)
        add.clicked.connect(self.add_by_dialog)
        self.wall.add_asked.connect(self.add_by_dialog)
        part.clicked.connect(self.parts.add_row)
        self.wall.chosen_changed.connect(self.form.refresh)

    def refresh(self) -> None:
        self.wall.refresh()
        self.parts.show_rows(self.session.build.all(KitPart))
        self._write_card()
        self.form.setVisible(self.session.still is not None)
        if self.session.still is not None:
            self.form.refresh()

    def lists(self) -> tuple[Table, ...]:
        return (self.parts,)

    def begin(self, step: NextStep) -> None:
        acts = {"add stills": self.add_by_dialog, "describe": self.describe, "add part": self.parts.add_row}
        acts[step.doing]()

    def describe(self) -> None:
        """Put the keys where the chosen still is described."""
        self.session.choose_stage(self.name)
        self.refresh()
        self.sides[OPPOSITES[0][0]].setFocus()

    def add_by_dialog(self) -> None:
        """Ask for files."""
        names, _ = QFileDialog.getOpenFileNames(self.centre, "Add stills", "", PICTURES)
        self.add_files([Path(name) for name in names])

    def add_files(self, paths: list[Path]) -> None:
        """Put pictures on the reel, and open a video or a PDF to pick from."""
        videos = [path for path in paths if path.suffix.lower() in VIDEOS]
        plans = [path for path in paths if path.suffix.lower() == ".pdf"]
        self.session.add_stills([path for path in paths if path not in videos and path not in plans])
        if videos or plans:
            self.session.choose_stage("Gather")
        if videos:
            self.grabber.open_clip(videos[0])
        if plans:
            self.pages.open_pdf(plans[0])
        if len(videos) > 1 or len(plans) > 1:
            self.session.refused.emit("One video and one PDF can be open at a time: add the others after it.")

    def replace_by_dialog(self) -> None:
        """Ask for a better copy of the chosen still's picture."""
        name, _ = QFileDialog.getOpenFileName(self.centre, "Better copy", "", PICTURES)
        if name:
            self.replace_picture(Path(name))

    def replace_picture(self, path: Path) -> None:
        """Put another copy in the place of the chosen still's picture; its marks go along."""
        session, still = self.session, self.session.still
        if still is None:
            return

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.decode import decode
            from chalkreel.edits.replacing import copy_of

            with told_of(path.name):
                data = read_file(path)
                new = decode(data)
                old = session.gallery.picture(picture_name(still))
                shown = new.turned() if still.flopped else new
                blob = session.store.keep(data)
                yield copy_of(old, shown, blob)

        session.run(f"reading {path.name}", work, lambda copy: self._take_copy(still.id, cast("Copy", copy)))

    def _take_copy(self, still_id: str, copy: Copy) -> None:
        from chalkreel.edits.replacing import replaced

        still = self.session.build.get(Still, still_id)
        if still is not None:
            self.session.commit(f"better copy of still {still.number}", replaced(self.session.build, still, copy))

    def add_image(self, image: QImage) -> None:
        """Add a pasted picture."""
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        if image.isNull() or not image.save(buffer, "PNG"):  # type: ignore[call-overload]
            self.session.refused.emit("The clipboard holds no picture.")
            return
        data = bytes(buffer.data().data())
        self.session.add_still("pasted", lambda: data, "The pasted picture")

    def _write_card(self) -> None:
        answers, card = self.session.answers, self.card.answers
        card.clear(self.session.stale)
        self.next_step()
        if answers is None:
            card.sentence("Looking at the reel…", "quiet")
            return
        found = answers.coverage
        shown = len(found.stills_by_side) - len(found.bare_sides)
        card.heading("Coverage of the version being built")
        card.figure(
            "sides with a still",
            f"{shown} of {len(found.stills_by_side)}",
            note=f"no still of: {', '.join(found.bare_sides)}" if found.bare_sides else "every side is shown",
            state="warn" if found.bare_sides else "good",
        )
        if found.other_versions:
            card.sentence(f"Stills of other versions, not used for this one: {found.other_versions}", "quiet")
        for words in alike_in_words(self.session.build, answers):
            card.sentence(words, "warn")
        self._write_guesses(answers)
        if "kit" in self.session.build.info.sources or self.session.build.all(KitPart):
            self._write_kit(found)
        card.rule()

    def _write_guesses(self, answers: Answers) -> None:
        """Sides that the solved cameras show, to be taken over at once."""
        session, guesses = self.session, open_guesses(self.session.build, answers)
        if guesses:
            self.card.answers.sentence(guesses_in_words(session.build, guesses))
            self.card.answers.button(
                f"Say so of {plural(len(guesses), 'still')}", lambda: session.commit(*sided(session.build, guesses))
            )

    def _write_kit(self, found: Coverage) -> None:
        card, parts = self.card.answers, self.session.build.all(KitPart)
        card.heading("Kit")
        for part in found.missing:
            card.sentence(f"{part.name}: missing", "bad")
        for part in found.faulty:
            card.sentence(f"{part.name}: {part.state}", "warn")
        if not parts:
            card.sentence("No part listed yet.", "quiet")
        elif not found.missing and not found.faulty:
            card.sentence(f"{plural(len(parts), 'part')} listed, none missing or damaged", "good")

    def _still_form(self) -> Form:
        session, form = self.session, Form(self.session)

        def still() -> Still:
            found = session.still
            assert found is not None
            return found

        def put(label: str, **fields: object) -> None:
            session.commit(*told(session.build, self.wall.chosen(), label, **fields))

        def versions() -> list[tuple[str, str]]:
            return [(v.id, v.name) for v in session.build.all(Version)] + [("", "unknown"), ("new", "new version…")]

        def version_name() -> str:
            version = session.build.get(Version, still().version_id)
            return version.name if version is not None else ""

        def heading() -> str:
            count = len(self.wall.chosen())
            if count > 1:
                return f"{count} stills chosen: what is said here is said of all"
            return f"Still {still().number}, {still().width_px} × {still().height_px} px stored"

        form.heading(heading)
        form.text("Title", lambda: still().title, self._put_title)
        self.sides = form.toggles(
            "Side", OPPOSITES, lambda: common_sides(session.build, self.wall.chosen()), self._put_side
        )
        form.choice("Version", versions, lambda: still().version_id, self._put_version)
        self.version_name = form.text("  its name", version_name, self._put_version_name)
        form.choice(
            "Kind",
            lambda: [(k, k) for k in STILL_KINDS],
            lambda: still().still_kind,
            lambda key: put("kind", still_kind=key),
        )
        form.choice(
            "Pixels",
            lambda: pixel_shapes(still().pixel_aspect),
            lambda: f"{still().pixel_aspect:.4f}",
            lambda key: put("pixel shape", pixel_aspect=shape_aspect(key)),
        )
        form.text(
            "  width : 1",
            lambda: f"{still().pixel_aspect:.4g}",
            lambda text: put("pixel shape", pixel_aspect=parse_aspect(text)),
        )
        form.choice(
            "Trust", lambda: [(k, k) for k in TRUSTS], lambda: still().trust, lambda key: put("trust", trust=key)
        )
        form.check("cropped to one side", lambda: still().cropped, lambda on: put("crop", cropped=on))
        form.check("flopped: printed reversed", lambda: still().flopped, lambda _: self._flop())
        form.text("Note", lambda: still().note, lambda text: put("note", note=text))
        replace = QPushButton("Replace by a better copy…")
        replace.clicked.connect(self.replace_by_dialog)
        form.layout().addRow("", replace)  # type: ignore[union-attr]
        remove = QPushButton("Take still off the reel")
        remove.clicked.connect(self._remove_still)
        form.layout().addRow("", remove)  # type: ignore[union-attr]
        return form

    def _flop(self) -> None:
        """Turn the still and all its marks left to right."""
        still = self.session.still
        assert still is not None
        self.session.commit(f"still {still.number} turned left to right", flop(self.session.build, still))

    def _put_title(self, text: str) -> None:
        still = self.session.still
        if still is not None and text.strip():
            self.session.edit(f"title of still {still.number}", still, title=text.strip())

    def _put_side(self, side: str, on: bool) -> None:
        self.session.commit(*toggled(self.session.build, self.wall.chosen(), side, on))
        self.form.refresh()

    def _put_version(self, key: str) -> None:
        session, chosen = self.session, self.wall.chosen()
        if key != "new":
            session.commit(*told(session.build, chosen, "version", version_id=key))
            return
        session.commit(*put_in_new_version(session.build, chosen))
        # A version is made where it is chosen, and named there.
        self.form.refresh()
        self.version_name.setFocus()
        self.version_name.selectAll()

    def _put_version_name(self, text: str) -> None:
        still = self.session.still
        version = self.session.build.get(Version, still.version_id) if still is not None else None
        if version is None:
            raise RefusedError("Choose or make a version first.")
        if not text.strip():
            raise RefusedError("A version needs a name.")
        self.session.edit(f"name of {version.name}", version, name=text.strip())

    def _remove_still(self) -> None:
        still = self.session.still
        if still is not None:
            self.session.commit(f"still {still.number} taken off", removal(self.session.build, still.id))

    def _add_part(self) -> str:
        part = KitPart(id=new_id(), name=f"Part {len(self.session.build.all(KitPart)) + 1}")
        self.session.commit(part.name, {part.id: part})
        return part.id

    def _columns(self, session: Session) -> tuple[Column, ...]:
        def named(part: KitPart, text: str) -> None:
            if not text.strip():
                raise RefusedError("A part needs a name.")
            session.edit(f"name of {part.name}", part, name=text.strip())

        def put_calliper(part: KitPart, text: str) -> None:
            mm = optional_length(text, session.build.info.unit)
            session.edit(f"calliper: {part.name}", part, calliper_mm=mm)

        return (
            Column("part", lambda p: p.name, named, stretch=True),
            Column(
                "state",
                lambda p: p.state,
                lambda p, text: session.edit(f"{p.name}: {text}", p, state=text),
                lambda: PART_STATES,
                state=lambda p: {"present": "good", "missing": "bad"}.get(p.state, "warn"),
                keys=STATE_KEYS,
            ),
            Column(
                "calliper",
                lambda p: "" if p.calliper_mm is None else format_length(p.calliper_mm, session.build.info.unit),
                put_calliper,
                right=True,
                understand=lambda text: understood(text, session.build.info.unit),
            ),
            Column(
                "fit notes",
                lambda p: p.fit_note,
                lambda p, text: session.edit(f"fit notes of {p.name}", p, fit_note=text),
                stretch=True,
            ),
        )
