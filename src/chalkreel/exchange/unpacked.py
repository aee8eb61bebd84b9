"""A build as a folder of plain files, for version control: build.json, the stills, and CSV tables to read along.

The file and the folder hold the same: entities, their order, stills and photographs. Undo stays in the file.
"""

from __future__ import annotations

import hashlib
import json
import secrets
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import msgspec

from chalkreel.document.entities import AnyEntity
from chalkreel.document.format import FORMAT_VERSION, DocumentRefusedError
from chalkreel.document.snapshot import Build
from chalkreel.document.store import Store
from chalkreel.document.validated import InvalidBuildError, check_references, decoded
from chalkreel.exchange.entity_tables import entity_tables
from chalkreel.exchange.tables import write_rows

PROGRAM, JSON, STILLS, TABLES = "chalk-reel", "build.json", "stills", "tables"
LARGEST_JSON = 400_000_000
_SUFFIXES = ((b"\x89PNG", ".png"), (b"\xff\xd8", ".jpg"), (b"II*", ".tif"), (b"MM\x00*", ".tif"), (b"RIFF", ".webp"))


def unpack(build: Build, blob: Callable[[str], bytes], folder: Path) -> None:
    """Write the folder: it gets its name once all is in it, and nothing that is there already is touched.

    Raises
    ------
    DocumentRefusedError
        The folder is there and not empty.
    OSError
        It cannot be written.
    """
    if folder.exists() and (not folder.is_dir() or any(folder.iterdir())):
        raise DocumentRefusedError(f"“{folder.name}” is not empty. Choose a new folder.")
    part = folder.with_name(f".{folder.name}.{secrets.token_hex(4)}.part")
    try:
        (part / STILLS).mkdir(parents=True)
        (part / TABLES).mkdir()
        for sha in sorted(_blobs(build)):
            data = blob(sha)
            (part / STILLS / f"{sha}{_suffix(data)}").write_bytes(data)
        (part / JSON).write_text(_text(build), "utf-8")
        for name, rows in entity_tables(build).items():
            write_rows(rows, part / TABLES / f"{name.replace(' ', '-')}.csv")
        if folder.exists():
            folder.rmdir()
        part.rename(folder)
    finally:
        shutil.rmtree(part, ignore_errors=True)


def pack(folder: Path, path: Path) -> Store:
    """Make a build file of an unpacked folder.

    Raises
    ------
    DocumentRefusedError
        The folder is no unpacked build, is from a newer program, lacks a still, or the file is there already.
    """
    entities = _entities(folder)
    blobs = dict(_kept(folder))
    missing = _blobs(Build(0, entities)) - blobs.keys()
    if missing:
        raise DocumentRefusedError(f"{len(missing)} of its stills are not in “{STILLS}”, or have been changed.")
    return Store.create(path, entities, blobs)


def _text(build: Build) -> str:
    """One entity a line, so that a change is a changed line."""
    lines = [json.dumps(msgspec.to_builtins(e), ensure_ascii=False, sort_keys=True) for e in build.entities.values()]
    head = json.dumps({"program": PROGRAM, "format": FORMAT_VERSION})[1:-1]
    return f'{{{head}, "entities": [\n' + ",\n".join(lines) + "\n]}\n"


def _entities(folder: Path) -> dict[str, AnyEntity]:
    try:
        path = folder / JSON
        if path.stat().st_size > LARGEST_JSON:
            raise DocumentRefusedError(f"“{JSON}” is larger than any build.")
        found = json.loads(path.read_text("utf-8"))
        if found["program"] != PROGRAM or not isinstance(found["format"], int):
            raise ValueError("foreign")
        if found["format"] > FORMAT_VERSION:
            raise DocumentRefusedError("This folder was written by a newer Chalk Reel. Open it with that one.")
        entities = [decoded(json.dumps(entity)) for entity in found["entities"]]
        by_id = {entity.id: entity for entity in entities}
        if len(by_id) != len(entities):
            raise InvalidBuildError("two entities have the same id")
        check_references(by_id)
    except DocumentRefusedError:
        raise
    except InvalidBuildError as error:
        raise DocumentRefusedError(f"“{JSON}” is wrong inside: {error}.") from error
    except OSError as error:
        raise DocumentRefusedError(f"“{folder.name}” holds no “{JSON}”: it is no unpacked build.") from error
    except (ValueError, KeyError, TypeError, RecursionError) as error:
        raise DocumentRefusedError(f"“{JSON}” cannot be read: it is damaged, or no build of ours.") from error
    return by_id


def _blobs(build: Build) -> set[str]:
    """Digests of all pictures that entities speak of."""
    found = {sha for e in build.entities.values() for field in ("blob", "photo") if (sha := getattr(e, field, ""))}
    return found | {sha for e in build.entities.values() for sha in getattr(e, "photos", ())}


def _kept(folder: Path) -> Iterator[tuple[str, bytes]]:
    for path in sorted((folder / STILLS).glob("*")):
        data = path.read_bytes()
        if hashlib.sha256(data).hexdigest() == path.stem:
            yield path.stem, data


def _suffix(data: bytes) -> str:
    return next((suffix for magic, suffix in _SUFFIXES if data.startswith(magic)), ".bin")
