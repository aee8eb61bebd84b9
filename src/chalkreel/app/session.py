"""What the window works on: the open build, its answers, and what is selected."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

import msgspec
from PySide6.QtCore import QObject, Signal

from chalkreel.answers.stages import STAGES, StageName
from chalkreel.app.jobs import Doing, Job, Progress, Worker
from chalkreel.app.places import Place, changed_place
from chalkreel.core.errors import RefusedError
from chalkreel.document.changes import Edits, Gathered
from chalkreel.document.entities import AnyEntity, Still, reel_place
from chalkreel.document.format import DocumentRefusedError
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Moment, Store
from chalkreel.edits.beginning import still_from

if TYPE_CHECKING:
    # The answers and all that they compute with are loaded in the worker, while the window is already there.
    from chalkreel.answers.answers import Answerer, Answers

log = logging.getLogger(__name__)
LONGEST_VALUE = 40


class Session(QObject):
    """One open build.

    Signals
    -------
    build_changed(): a change was committed, undone or redone.
    answers_changed(): answers arrived, or went stale.
    still_changed(): another still was chosen.
    stage_changed(): another stage was chosen.
    selected(str): another entity was chosen on a still or in a list; empty for none.
    paged(tuple): the pages, by name, of which one shows what was gone to.
    refused(str): something was not done; the sentence says why.
    prompted(str): what the next click or key will do.
    progressed(float, str): share of the running work, 1 when nothing runs; what is being done.
    begin_asked(NextStep): the next step of a stage is to be begun.
    """

    build_changed = Signal()
    answers_changed = Signal()
    still_changed = Signal()
    stage_changed = Signal()
    selected = Signal(str)
    paged = Signal(tuple)
    refused = Signal(str)
    prompted = Signal(str)
    progressed = Signal(float, str)
    begin_asked = Signal(object)

    def __init__(self, store: Store, parent: QObject | None = None, stand_ins: bool = False) -> None:
        super().__init__(parent)
        self.store = store
        # Whether simulated instruments are offered: in the demo, never beside a user's own.
        self.stand_ins = stand_ins
        self.resting_prompt = ""
        self.gallery = Gallery(store.blob)
        self.answers: Answers | None = None
        self.stage: StageName = "Gather"
        self.selection = ""
        first = next(iter(store.build.all(Still)), None)
        self.still_id = first.id if first else ""
        self._gathered: Gathered | None = None
        self._answerer: Answerer | None = None
        self._plan_anew = False
        self._thinker, self._loader = Worker("answers"), Worker("stills")
        # For what may take long, and nothing else waits for.
        self.background = Worker("background")
        self._jobs: set[Job] = set()
        self._thinking: Job | None = None

    @property
    def build(self) -> Build:
        """The present snapshot; within a gesture, with what it has edited so far."""
        return self._gathered.build if self._gathered is not None else self.store.build

    @property
    def still(self) -> Still | None:
        """The chosen still."""
        return self.build.get(Still, self.still_id)

    @property
    def stale(self) -> bool:
        """Whether what is shown answers an older build, or is not complete yet."""
        return self.answers is None or self.answers.stale or not self.answers.complete

    @property
    def busy(self) -> bool:
        """Whether any work runs."""
        return bool(self._jobs)

    @contextmanager
    def gesture(self, label: str) -> Iterator[None]:
        """All that is committed within becomes one change; a refusal within leaves everything as it was."""
        self._gathered = gathered = Gathered(self.store.build)
        try:
            yield
        finally:
            self._gathered = None
        self.commit(label, gathered.edits)

    def commit(self, label: str, edits: Edits) -> bool:
        """Commit one gesture; a refusal is announced and leaves everything as it was."""
        if self._gathered is not None:
            self._gathered.take(edits)
            return True
        return self._edit(lambda: self.store.commit(label, edits))

    def edit(self, label: str, entity: AnyEntity, **fields: object) -> bool:
        """Commit new field values of one entity, as it is now: the caller's may be older."""
        present = self.build.entities.get(entity.id, entity)
        if len(fields) == 1:
            label = self._labelled(label, next(iter(fields.values())))
        return self.commit(label, {entity.id: msgspec.structs.replace(present, **fields)})

    def _labelled(self, label: str, value: object) -> str:
        """With what was set, so that three edits of one thing are told apart: 'layers of Hull: primer grey'."""
        other = self.build.entities.get(value) if isinstance(value, str) else None
        words = str(getattr(other, "name", "")) if other is not None else value if isinstance(value, str) else ""
        if isinstance(value, (int, float)) and not isinstance(value, bool):
            words = f"{value:g}"
        return f"{label}: {words[:LONGEST_VALUE]}" if words and words not in label else label

    def undo(self) -> None:
        """Take the last change back, and go to where it was made."""
        self._travel(self.store.undo, f"Undone: {self.store.undo_label}.")

    def redo(self) -> None:
        """Do the change undone last again, and go to where it was made."""
        self._travel(self.store.redo, f"Done again: {self.store.redo_label}.")

    def go_back_before(self, moment: Moment) -> None:
        """Discard a change and all after it; redo brings them back one by one."""
        self._travel(lambda: self.store.go_back_before(moment), f"Gone back to before “{moment.label}”. Redo goes on.")

    def choose_still(self, still_id: str) -> None:
        """Bring a still to the front."""
        if still_id != self.still_id and self.build.get(Still, still_id) is not None:
            self.still_id = still_id
            self.still_changed.emit()

    def rest(self) -> None:
        """Nothing is at work any more: say what the stage is for."""
        self.prompted.emit(self.resting_prompt)

    def step_still(self, by: int) -> None:
        """The next or previous still of the reel, round and round."""
        ids = [s.id for s in sorted(self.build.all(Still), key=reel_place)]
        if ids:
            at = ids.index(self.still_id) if self.still_id in ids else -by
            self.choose_still(ids[(at + by) % len(ids)])

    def choose_stage(self, stage: StageName) -> None:
        """Go to a stage."""
        if stage in STAGES and stage != self.stage:
            self.stage = stage
            self.stage_changed.emit()

    def select(self, entity_id: str) -> None:
        """Choose an entity."""
        self.selection = entity_id
        self.selected.emit(entity_id)

    def think_again(self) -> None:
        """Answer the present build from nothing."""
        self.think(afresh=True)

    def forget_plan(self) -> None:
        """The next plan keeps nothing of the one that stands; the worker forgets it, when older work has ended."""
        self._plan_anew = True

    def think(self, afresh: bool = False) -> None:
        """Answer the present build in the worker; older work is stopped."""
        if self._thinking is not None:
            self._thinking.stop()
        if self.answers is not None and not self.answers.stale:
            self.answers = replace(self.answers, stale=True)
        self.answers_changed.emit()
        build = self.build
        self._thinking = self.run(
            _answered, lambda progress: self._answer(build, progress, afresh), self._take_answers, self._thinker
        )

    def run(
        self,
        doing: str | Doing,
        results: Callable[[Progress], Iterator[object]],
        take: Callable[[object], object],
        worker: Worker | None = None,
    ) -> Job:
        """Run work off this thread, saying what is being done; `take` gets each result here."""
        job = Job((lambda _: doing) if isinstance(doing, str) else doing)
        self._jobs.add(job)
        job.arrived.connect(lambda result: None if job.stopped else take(result))
        job.progressed.connect(self.progressed)
        job.refused.connect(self.refused)
        job.ended.connect(lambda: self._end(job))
        job.report(0.0)
        return (worker or self._loader).start(job, results)

    def stop_work(self) -> None:
        """Stop everything that runs; answers stay stale until the next change or until asked again."""
        for job in self._jobs:
            job.stop()
        self.prompted.emit("Stopped. The greyed answers are from before; any edit, or F5, computes them again.")

    def add_stills(self, paths: list[Path]) -> None:
        """Decode and store files in the worker, then put each on the reel; a refused file says why."""
        for path in paths:
            self.add_still(path.stem, partial(read_file, path), path.name)

    def add_still(self, title: str, data: Callable[[], bytes], name: str) -> None:
        """Decode and store one still in the worker, then put it on the reel."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.decode import decode

            with told_of(name):
                raw = data()
                picture = decode(raw)
            blob = self.store.keep(raw)
            self.gallery.put(blob, picture)
            yield blob, (picture.width, picture.height)

        self.run(f"reading {name}", work, lambda found: self._put_on_reel(title, found))

    def keep_picture(self, path: Path, take: Callable[[str], object]) -> None:
        """Check and store a picture in the worker; `take` gets its digest."""

        def work(_: Progress) -> Iterator[object]:
            from chalkreel.core.media.decode import decode

            data = read_file(path)
            decode(data)
            yield self.store.keep(data)

        self.run(f"reading {path.name}", work, lambda blob: take(str(blob)))

    def close(self) -> None:
        """Stop work and release the file."""
        for job in list(self._jobs):
            job.stop()
            job.blockSignals(True)
        self._thinker.close()
        self._loader.close()
        self.background.close()
        # What is on its way already finds that nobody waits for it.
        for job in self._jobs:
            job.deleteLater()
        self._jobs.clear()
        self.store.close()

    def _answer(self, build: Build, progress: Progress, afresh: bool) -> Iterator[Answers]:
        if self._answerer is None or afresh:
            from chalkreel.answers.answers import Answerer

            self._answerer = Answerer(self.gallery)
        if self._plan_anew:
            self._plan_anew = False
            self._answerer.forget_plan()
        yield from self._answerer.answer(build, progress)

    def _put_on_reel(self, title: str, found: object) -> None:
        assert isinstance(found, tuple)
        still = still_from(self.build, title, *found)
        if self.commit(f"still {still.number}", {still.id: still}):
            self.choose_still(still.id)

    def _travel(self, act: Callable[[], Build], words: str) -> None:
        before = self.build.entities
        if not self._edit(act) or self.build.entities is before:
            return
        place = changed_place(before, self.build.entities, self.stage)
        if place is not None:
            self.go_to(place)
        self.prompted.emit(words)

    def go_to(self, place: Place) -> None:
        """Show a place: its stage, still, what is on it, and a page that shows that."""
        self.choose_stage(place.stage or self.stage)
        self.choose_still(place.still_id)
        self.select(place.entity_id)
        self.paged.emit(place.pages)

    def _edit(self, act: Callable[[], Build]) -> bool:
        before = self.build.revision
        try:
            act()
        except DocumentRefusedError as refusal:
            self.refused.emit(str(refusal))
            return False
        if self.build.revision != before:
            if self.still is None:
                self.still_id = next((s.id for s in self.build.all(Still)), "")
                self.still_changed.emit()
            self.build_changed.emit()
            self.think()
        return True

    def _take_answers(self, found: object) -> None:
        answers = cast("Answers", found)
        self.answers = answers if answers.build is self.build else replace(answers, stale=True)
        self.answers_changed.emit()

    def _end(self, job: Job) -> None:
        if job not in self._jobs:
            return
        self._jobs.discard(job)
        if self._thinking is job:
            self._thinking = None
        # Its signals hold what they call, which holds the job: without this every edit would leave one behind.
        job.deleteLater()
        if self._jobs:
            # What ended may have spoken last; what still runs is what is being done.
            next(iter(self._jobs)).tell()
        else:
            self.progressed.emit(1.0, "")


def _answered(found: object) -> str:
    """What is being answered next."""
    return cast("Answers", found).awaits if found is not None else "sizes"


@contextmanager
def told_of(name: str) -> Iterator[None]:
    """Put the name of a file before why it is refused."""
    try:
        yield
    except RefusedError as refusal:
        raise RefusedError(f"{name}: {refusal}") from refusal


def read_file(path: Path) -> bytes:
    """All of a file.

    Raises
    ------
    RefusedError
        It cannot be read.
    """
    try:
        return path.read_bytes()
    except OSError as error:
        raise RefusedError("The file cannot be read. Check that it is there and is yours.") from error
