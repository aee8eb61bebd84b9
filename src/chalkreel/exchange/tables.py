"""The tables of a build as rows, written as CSV files or one JSON file."""

from __future__ import annotations

import csv
import json
from functools import partial
from pathlib import Path

from chalkreel.answers.answers import Answers
from chalkreel.answers.wording import size_name, stock_words
from chalkreel.core.errors import RefusedError
from chalkreel.core.measure.combine import Size
from chalkreel.document.atomic import written_anew
from chalkreel.document.bench_entities import LogEntry
from chalkreel.exchange.entity_tables import Row, entity_tables
from chalkreel.exchange.plain_text import cell
from chalkreel.exchange.wiring_plan import branch_rows


def tables(answers: Answers) -> dict[str, list[Row]]:
    """What was answered (sizes, jobs, resistors, recipes, pots, steps, log), then all that the build holds."""
    found: dict[str, list[Row]] = {"dimensions": _dimensions(answers), "operations": _operations(answers)}
    found["cut list"] = [
        {"piece": r.name, "size": r.size, "count": r.count, "layers_mm": " + ".join(f"{mm:g}" for mm in r.layers_mm),
         "to_know": r.problem or r.note}
        for r in (answers.cuts.rows if answers.cuts else ())
    ]  # fmt: skip
    found["branches"] = branch_rows(answers.lighting)
    found["recipes"] = _recipes(answers)
    found["pots"] = _pots(answers)
    found["steps"] = _steps(answers)
    found["log"] = [
        {"at": e.at, "words": e.words, "step": e.step_id, "minutes": e.minutes, "cost": e.cost, "lesson": int(e.lesson),
         "mix": e.mix, "coats": e.coats, "bar": e.bar, "needle_mm": e.needle_mm, "thinner_parts": e.thinner_parts,
         "touch_dry_hours": e.dry_hours}
        for e in answers.build.all(LogEntry)
    ]  # fmt: skip
    return found | {f"build {kind}": rows for kind, rows in entity_tables(answers.build).items()}


def write_csv(answers: Answers, folder: Path) -> tuple[Path, ...]:
    """One CSV file a table into a folder; empty tables are left out.

    Raises
    ------
    RefusedError
        A file of one of the names is there already; nothing is written then.
    """
    folder.mkdir(parents=True, exist_ok=True)
    wanted = {folder / f"{name.replace(' ', '-')}.csv": rows for name, rows in tables(answers).items() if rows}
    taken = [path.name for path in wanted if path.exists() or path.is_symlink()]
    if taken:
        raise RefusedError(f"“{taken[0]}” is already there. Choose an empty folder for the tables.")
    for path, rows in wanted.items():
        written_anew(path, partial(write_rows, rows))
    return tuple(wanted)


def write_rows(rows: list[Row], path: Path) -> None:
    """Rows as CSV; a column that only some rows have is empty in the others."""
    with path.open("w", newline="", encoding="utf-8") as stream:
        writer = csv.DictWriter(stream, list(dict.fromkeys(column for row in rows for column in row)))
        writer.writeheader()
        writer.writerows({k: cell(v) if isinstance(v, str) else v for k, v in row.items()} for row in rows)


def write_json(answers: Answers, path: Path) -> None:
    """All tables in one JSON file."""
    path.write_text(json.dumps(tables(answers), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


def _dimensions(answers: Answers) -> list[Row]:
    rows: list[Row] = []
    for r in answers.sizes.rows if answers.sizes else ():
        row: Row = {"name": size_name(answers.build, r)}
        for link, size in (("story", r.story), ("miniature", r.miniature), ("replica", r.replica)):
            row |= _size(link, size)
        row |= {"angle_deg": round(r.angle.degrees, 3) if r.angle else None,
                "angle_plus_minus_95_deg": round(r.angle.half_width_deg, 3) if r.angle else None}  # fmt: skip
        stock = stock_words(answers.build, answers.stocks.get(r.dimension_id)) if r.replica else ""
        row |= {"stock": stock, "verdict": r.verdict.action, "advice": r.verdict.words}
        rows.append(row)
    return rows


def _size(link: str, size: Size | None) -> Row:
    if size is None:
        return {f"{link}_mm": None, f"{link}_plus_minus_95_mm": None}
    return {f"{link}_mm": round(size.mm, 3), f"{link}_plus_minus_95_mm": round(size.half_width_mm, 3)}


def _operations(answers: Answers) -> list[Row]:
    return [
        {"feature": r.operation.feature, "assembly": r.assembly, "verb": r.operation.verb, "reason": r.operation.reason,
         "material": r.operation.material,
         "size_mm": round(r.operation.size_mm, 2) if r.operation.size_mm is not None else None,
         "plus_minus_95_mm": round(r.operation.doubt_mm, 2),
         "hours": r.operation.hours, "when": r.operation.when}
        for r in (answers.conversion.rows if answers.conversion else ())
    ]  # fmt: skip


def _recipes(answers: Answers) -> list[Row]:
    """One row a paint; `coats` of a clear mix, 0 of one that hides."""
    rows: list[Row] = []
    for s in answers.colours.surfaces if answers.colours else ():
        for name, count in s.best[0].drops if s.best else ():
            delta = round(s.best[0].delta_e, 2) if s.best else None
            coats = s.best[0].coats if s.best else 0
            rows.append({"surface": s.name, "paint": name, "drops": count, "coats": coats, "delta_e_2000": delta,
                         "within_delta_e_95": round(s.within, 1)})  # fmt: skip
    return rows


def _pots(answers: Answers) -> list[Row]:
    """What is in each pot, one row a paint, and what is kept of it for touch-up."""
    return [
        {"pot": row.pot.label, "surface": surface.name, "paint": name, "drops": count, "kept_ml": row.pot.kept_ml}
        for surface in (answers.colours.surfaces if answers.colours else ())
        for row in surface.mixes.pots
        for name, count in row.drops
    ]  # fmt: skip


def _steps(answers: Answers) -> list[Row]:
    if answers.sequence is None:
        return []
    slots = answers.sequence.timetable.slots if answers.sequence.timetable else ()
    starts = {slot.step_id: slot.start.isoformat(timespec="minutes") for slot in reversed(slots)}
    return [
        {"number": n, "step": s.title, "assembly": s.assembly, "zone": s.zone, "minutes": s.minutes,
         "start": starts.get(s.id, ""), "materials": "; ".join(s.materials)}
        for n, s in enumerate(answers.sequence.by_plan, start=1)
    ]  # fmt: skip
