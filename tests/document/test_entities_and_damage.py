"""Entities survive the file unchanged; a damaged file never crashes and is never touched."""

import os
import random
import shutil
from pathlib import Path
from typing import get_args

import msgspec
import pytest
from tests.builds import empty_build

from chalkreel.core.media.decode import decode
from chalkreel.demo import evidence
from chalkreel.document.entities import AnyEntity, FeatureInVersion, KitPart, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.format import DocumentRefusedError
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store
from chalkreel.edits.beginning import still_from
from chalkreel.edits.removing import removal


def test_every_kind_stands_in_the_demo_and_survives_json(demo_file: Path) -> None:
    store = Store.open(demo_file)
    kinds = {type(e) for e in store.build.entities.values()}
    store.close()
    assert kinds == set(get_args(AnyEntity))
    decoder = msgspec.json.Decoder(AnyEntity)
    for entity in store.build.entities.values():
        assert decoder.decode(msgspec.json.encode(entity)) == entity


def test_unknown_fields_and_wrong_types_are_not_swallowed() -> None:
    decoder = msgspec.json.Decoder(AnyEntity)
    good = msgspec.to_builtins(KitPart(id="x", name="fin"))
    for wrong in ({**good, "smell": "red"}, {**good, "state": "eaten"}, {**good, "name": None}, {"kind": "kit part"}):
        with pytest.raises(msgspec.ValidationError):
            decoder.decode(msgspec.json.encode(wrong))


@pytest.mark.parametrize(
    "written",
    [
        b'{"kind":"patch","id":"p","still_id":"s","surface_id":"","x_px":1.0,"y_px":2.0,"width_px":9.0,"height_px":9.0,'
        b'"reflectance":0.28}',
        b'{"kind":"surface","id":"s","name":"Hull","drops":[["white",3]]}',
        b'{"kind":"paint","id":"w","name":"white","medium":"enamel","absorption":[%s],"scattering":[%s]}'
        % (b",".join([b"0.1"] * 36), b",".join([b"1.0"] * 36)),
        b'{"kind":"zone","id":"z","name":"Side","assembly":"Hull","surface_id":"s","coats":3,"area_cm2":31.0}',
    ],
)
def test_what_format_2_wrote_is_read(written: bytes) -> None:
    found = msgspec.json.decode(written, type=AnyEntity)
    again = msgspec.json.decode(msgspec.json.encode(found))
    assert again.items() >= msgspec.json.decode(written).items()


def test_ids_do_not_repeat() -> None:
    assert len({new_id() for _ in range(5_000)}) == 5_000


def test_damage_anywhere_is_refused_or_harmless(tmp_path: Path) -> None:
    store = Store.create(tmp_path / "whole.chalkreel", empty_build("Damage"))
    for number in range(30):
        store.commit(f"part {number}", {f"p{number}": KitPart(id=f"p{number}", name="fin " * 40)})
    store.keep(bytes(range(256)) * 200)
    parts = len(store.build.all(KitPart))
    store.close()
    whole, dice, refused = store.path.read_bytes(), random.Random(5), 0
    for trial in range(60):
        path = tmp_path / f"{trial}.chalkreel"
        data = bytearray(whole)
        start = dice.randrange(100, len(data))
        for offset in range(start, min(len(data), start + dice.choice((1, 16, 600, 5000)))):
            data[offset] = dice.randrange(256)
        path.write_bytes(data if dice.random() < 0.7 else data[: dice.randrange(100, len(data))])
        before = path.read_bytes()
        try:
            opened = Store.open(path)
        except DocumentRefusedError as refusal:
            refused += 1
            assert str(refusal).endswith(".") and path.read_bytes() == before
        else:
            assert len(opened.build.all(KitPart)) <= parts
            opened.close()
    assert refused > 20


def test_a_new_still_takes_the_next_number_and_the_version_being_built(demo_file: Path) -> None:
    store = Store.open(demo_file)
    picture = decode(evidence.still_bytes()["still-2"])
    still = still_from(store.build, "again", "0" * 64, (picture.width, picture.height))
    assert (still.number, still.version_id, still.pixel_aspect) == (11, "version-series", 1.0)
    store.close()


def after(build: Build, entity_id: str) -> Build:
    places = {e: n for n, e in enumerate(build.entities)}
    return build.edited(removal(build, entity_id), build.revision + 1, places)


def test_nothing_ever_refers_to_what_is_gone(demo_file: Path) -> None:
    """Removing any one entity of the demo leaves no reference to it or to anything removed with it."""
    store = Store.open(demo_file)
    build = store.build
    store.close()
    fields = (
        "still_id",
        "plane_id",
        "dimension_id",
        "feature_id",
        "surface_id",
        "part_id",
        "version_id",
        "kit_version_id",
        "landmark_id",
        "mirror_id",
        "a_id",
        "b_id",
        "corner_id",
        "circle_id",
    )
    for entity_id in [e for e in build.entities if e not in ("build", "supply")]:
        left = after(build, entity_id)
        for entity in left.entities.values():
            for field in fields:
                target = getattr(entity, field, "")
                assert not target or target in left.entities, (entity_id, entity.id, field)
            assert all(i in left.entities for i in getattr(entity, "landmark_ids", ())), (entity_id, entity.id)


def test_a_removed_version_takes_its_table_entries(demo_file: Path) -> None:
    store = Store.open(demo_file)
    left = after(store.build, "version-special")
    store.close()
    assert [v.id for v in left.all(Version)] == ["version-series"]
    assert {s.version_id for s in left.all(FeatureInVersion)} == {"version-series"}
    assert next(s for s in left.all(Still) if s.id == "still-5").version_id == ""


def test_a_read_only_folder_opens_for_reading(tmp_path: Path, demo_file: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    # Root may write anywhere, so the answer of the system is put into its mouth.
    path = tmp_path / "r.chalkreel"
    shutil.copy(demo_file, path)
    monkeypatch.setattr(os, "access", lambda *_: False)
    store = Store.open(path)
    assert store.read_only and len(store.build.all(Still)) == 10
    store.close()
