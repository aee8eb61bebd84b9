"""The demo's replica against what was rendered: what is found, what becomes of it, and what is decided about it."""

from __future__ import annotations

import io
from dataclasses import replace
from datetime import datetime

import msgspec
import numpy as np
import pytest
from PIL import Image

from chalkreel.answers.answers import Answers
from chalkreel.answers.assemblies import assembly_of
from chalkreel.answers.comparing import Comparing, StageVerdict, comparing
from chalkreel.answers.finding_words import finding_title, finding_words, headline, whole_words
from chalkreel.answers.photographs import Photographs
from chalkreel.core.measure.marks import Mark
from chalkreel.core.media.camera_notes import camera_notes
from chalkreel.demo.evidence import still_bytes
from chalkreel.demo.photographs import photograph_bytes
from chalkreel.document.bench_entities import ReplicaMark, ReplicaPhoto, ReplicaReading
from chalkreel.document.changes import Edits
from chalkreel.document.entities import Landmark
from chalkreel.document.gallery import Gallery
from chalkreel.document.snapshot import Build
from chalkreel.document.store import digest
from chalkreel.edits.photographing import accepted, exchanged_sides, made_a_job

# In mm of the replica, as tools/tender/replica.py has them.
HOUSE_AFT, HATCH_AFT = 1.6, 3.6
BLOBS = {digest(b): b for b in (*still_bytes().values(), *photograph_bytes().values())}


def compared(answers: Answers, edits: Edits) -> tuple[Build, Comparing]:
    build = answers.build
    changed = build.edited(edits, build.revision + 1, {e: n for n, e in enumerate({**build.entities, **edits})})
    assert answers.sizes is not None
    return changed, comparing(changed, answers.sizes, answers.faces, Photographs(Gallery(BLOBS.__getitem__)))


def named(stage: StageVerdict) -> dict[str, str]:
    return {f.group.called: f.state for f in stage.findings}


def test_the_dry_fit_shows_what_is_wrong_and_nothing_else(demo_answers: Answers) -> None:
    dry = demo_answers.comparing.stage("Dry fit ")
    assert named(dry) == {"tail fin, port": "missing", "wheelhouse": "new", "roof hatch": "new"}
    sizes = {f.group.name: f.amounts[0] for f in dry.findings if f.amounts}
    assert {a.way for a in sizes.values()} == {"forward"}
    for name, truth in (("wheelhouse", HOUSE_AFT), ("roof hatch", HATCH_AFT)):
        amount = sizes[name]
        assert -amount.mm == pytest.approx(truth, abs=amount.half_mm) and amount.half_mm < 0.6
    assert {"hull", "louvres"} <= set(dry.tested)
    # Two photographs from well apart: what they show worst is told, and is no more than a good millimetre.
    assert dry.unseen_mm is not None and dry.within_mm is not None and dry.within_mm < dry.unseen_mm < 1.5
    assert headline(dry, "mm") == ("3 things to look at, stage “dry fit”", "bad")


def test_what_was_mended_is_told_and_what_was_not_seen_again_stays_open(demo_answers: Answers) -> None:
    last = demo_answers.comparing.last
    assert last.name == "primed"
    assert named(last) == {"tail fin, port": "fixed", "wheelhouse": "fixed", "roof hatch": "not seen"}
    house = next(f for f in last.findings if f.group.name == "wheelhouse")
    # In truth it stands where it belongs now: the bound that is told lies below what it was, and above nothing.
    assert house.was_mm is not None and house.within_mm is not None and 0 < house.within_mm < abs(house.was_mm)
    assert "now within" in finding_words(demo_answers.build, house)
    (hatch,) = last.open
    assert finding_title(hatch) == "Roof hatch" and "not looked at since" in finding_words(demo_answers.build, hatch)
    assert last.untested == ("roof hatch",)


def test_what_nobody_sees_is_accepted_until_it_grows(demo_answers: Answers) -> None:
    edits = accepted(demo_answers.build, "roof hatch", "", -HATCH_AFT)
    assert named(compared(demo_answers, edits)[1].stage("dry fit"))["roof hatch"] == "accepted"
    small = accepted(demo_answers.build, "roof hatch", "", -1.0)
    assert named(compared(demo_answers, small)[1].stage("dry fit"))["roof hatch"] == "new"


def test_what_is_not_built_yet_is_not_judged(demo_answers: Answers) -> None:
    photos = demo_answers.build.all(ReplicaPhoto)
    edits: Edits = {p.id: msgspec.structs.replace(p, not_built=("wheelhouse",)) for p in photos}
    found = compared(demo_answers, edits)[1].stage("dry fit")
    assert "wheelhouse" not in named(found) and "wheelhouse" not in found.tested


def test_a_calliper_reading_sets_the_scale(demo_answers: Answers) -> None:
    """150 mm are wanted: two per cent more, and everything is two per cent larger."""
    reading = ReplicaReading(id="replica-reading-1", dimension_id="dim-Hull width at band", length_mm=153.0)
    found = compared(demo_answers, {reading.id: reading})[1]
    assert found.scale is not None
    assert found.scale.percent == pytest.approx(2.0, abs=found.scale.half) and found.scale.half < 1.0
    assert "larger than drawn" in " ".join(whole_words(found.last, found.scale))
    before = {f.group.name: f.amounts[0].mm for f in demo_answers.comparing.stages[0].findings if f.amounts}
    after = {f.group.name: f.amounts[0].mm for f in found.stages[0].findings if f.amounts}
    assert demo_answers.comparing.scale is not None
    grown = (1 + found.scale.percent / 100) / (1 + demo_answers.comparing.scale.percent / 100)
    assert after["wheelhouse"] / before["wheelhouse"] == pytest.approx(grown, rel=1e-6)


def test_the_other_side_is_said_and_exchanged(demo_answers: Answers) -> None:
    photo = demo_answers.build.all(ReplicaPhoto)[0]
    build, found = compared(demo_answers, exchanged_sides(demo_answers.build, photo))
    assert found.laid[photo.id].other_side and "other side" in found.laid[photo.id].problem
    back = exchanged_sides(build, photo)
    assert {m.landmark_id for m in back.values()} == {  # type: ignore[union-attr]
        m.landmark_id for m in demo_answers.build.entities.values() if getattr(m, "photo_id", "") == photo.id
    }  # type: ignore[attr-defined]


def test_clicks_on_something_else_are_refused_and_accuse_nothing(demo_answers: Answers) -> None:
    photo = demo_answers.build.all(ReplicaPhoto)[0]
    rng = np.random.default_rng(6)
    edits: Edits = {
        m.id: msgspec.structs.replace(
            m, mark=Mark(m.mark.x_px + float(rng.normal(0, 60)), m.mark.y_px + float(rng.normal(0, 60)), 0.7)
        )
        for m in demo_answers.build.all(ReplicaMark)
        if m.photo_id == photo.id
    }
    found = compared(demo_answers, edits)[1]
    assert found.laid[photo.id].camera is None and "fit no view" in found.laid[photo.id].problem
    # The other photograph of the dry fit still says what it said.
    assert {"wheelhouse", "tail fin, port"} <= set(named(found.stage("dry fit")))


def test_a_finding_becomes_a_job_between_the_kit_and_the_version(demo_answers: Answers) -> None:
    from chalkreel.answers.conversion import conversion

    made = made_a_job(demo_answers.build, "wheelhouse", "", "1.4 mm aft", -1.4, missing=False)
    build, found = compared(demo_answers, made.edits)
    assert demo_answers.sizes is not None
    jobs = [r.operation for r in conversion(build, demo_answers.sizes).rows if r.feature_id == made.entity_id]
    assert [(j.verb, "1.4 mm aft" in j.reason) for j in jobs] == [("move", True)]
    (finding,) = (f for f in found.stage("dry fit").findings if f.group.name == "wheelhouse")
    assert finding.decision is not None and finding.decision.feature_id == made.entity_id
    missing = made_a_job(demo_answers.build, "tail fin", "port", "missing", 0.0, missing=True)
    build, _ = compared(demo_answers, missing.edits)
    jobs = [r.operation for r in conversion(build, demo_answers.sizes).rows if r.feature_id == missing.entity_id]
    assert [j.verb for j in jobs] == ["add"]


@pytest.mark.parametrize(
    ("name", "assembly"),
    [("aft window, top forward, port", "window"), ("Port fin root", "fin"), ("buffer 3", "buffer"), ("port", "port")],
)
def test_assemblies_are_read_off_names(name: str, assembly: str) -> None:
    assert assembly_of(Landmark(id="x", name=name)) == assembly
    assert assembly_of(Landmark(id="x", name=name, assembly="bridge")) == "bridge"


def test_the_camera_tells_its_lens_and_the_hour() -> None:
    picture = Image.new("RGB", (40, 30))
    notes = picture.getexif()
    notes[0x8769] = {0x9003: "2026:11:14 16:10:00", 0xA405: 27}
    stream = io.BytesIO()
    picture.save(stream, "JPEG", exif=notes)
    found = camera_notes(stream.getvalue(), 4000, 3000)
    assert found.taken_at == datetime(2026, 11, 14, 16, 10)
    # 27 mm on small film's diagonal of 43.27 mm; a picture of 4 : 3 is 0.8 of its diagonal wide.
    assert found.focal_widths == pytest.approx(27 / 43.27 / 0.8, rel=1e-3)
    assert camera_notes(stream.getvalue()[:60], 40, 30).focal_widths is None
    assert camera_notes(b"no picture", 4, 3).taken_at is None


def test_no_tick_where_one_photograph_would_have_hidden_much(demo_answers: Answers) -> None:
    primed = demo_answers.comparing.last
    assert primed.unseen_mm is not None and primed.unseen_mm > 6.0
    words, state = headline(replace(primed, findings=()), "mm")
    assert state != "good" and "hardly anything would have shown" in words
    words, state = headline(replace(primed, findings=(), unseen_mm=6.0), "mm")
    assert state != "good" and "up to 6.0 mm would not have shown" in words
    words, state = headline(replace(primed, findings=(), unseen_mm=0.8), "mm")
    assert state == "good" and "0.8 mm" in words
