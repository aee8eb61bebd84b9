"""View-model of Convert (no Qt): the features × versions table and the operations in words."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

import msgspec

from chalkreel.answers.conversion import OperationRow, state_in
from chalkreel.answers.ordering import OrderRow
from chalkreel.core.convert.kinds import Verb
from chalkreel.core.draft.sheet import Sheet
from chalkreel.core.errors import RefusedError
from chalkreel.core.figures import parse_number, plural
from chalkreel.core.lengths import LengthUnit, signed_length, small_length
from chalkreel.document.changes import Edits
from chalkreel.document.convert_entities import Order
from chalkreel.document.entities import Dimension, Feature, FeatureInVersion, Still, Version
from chalkreel.document.entity import new_id
from chalkreel.document.light_entities import Lamp
from chalkreel.document.snapshot import Build

# A click so near to a number on the drawing means it, mm of the replica.
NEAR_MM = 12.0
ABSENT, DOUBTFUL = "not there", "?"


@dataclass(frozen=True)
class Cell:
    """A feature in one version, as one phrase: 'lattice boom at amidships', 'not there' or '?'."""

    feature: Feature
    state: FeatureInVersion | None

    @property
    def words(self) -> str:
        """The phrase."""
        if self.state is None or self.state.present is None:
            return DOUBTFUL
        if not self.state.present:
            return ABSENT
        return " at ".join(part for part in (self.state.form or "as moulded", self.state.place) if part)

    @property
    def parts(self) -> str:
        """The numbers on the sheet that make it."""
        return self.state.parts if self.state is not None else ""


def version_titles(build: Build) -> tuple[tuple[str, str], ...]:
    """Every version's id and column title: the kit's first, then the one being built, then the others."""
    info = build.info
    tags = {info.version_id: "being built", info.kit_version_id: "the kit"}
    if info.version_id == info.kit_version_id:
        tags = {info.version_id: "the kit, being built"}
    rank = {info.kit_version_id: 0, info.version_id: 1}
    ordered = sorted(build.all(Version), key=lambda v: rank.get(v.id, 2))
    return tuple((v.id, f"{v.name} ({tags[v.id]})" if v.id in tags else v.name) for v in ordered)


def cell(build: Build, feature: Feature, version_id: str) -> Cell:
    """One cell of the table."""
    return Cell(feature, state_in(build, feature.id, version_id))


def _entry(build: Build, feature: Feature, version_id: str, **fields: object) -> Edits:
    """New words of a feature in a version; what is not spoken of stays."""
    old = state_in(build, feature.id, version_id)
    present = old or FeatureInVersion(id=new_id(), feature_id=feature.id, version_id=version_id, present=None)
    made = msgspec.structs.replace(present, **fields)
    return {made.id: made}


def cell_edits(build: Build, feature: Feature, version_id: str, text: str) -> Edits:
    """Read a phrase back: '?', 'not there' (or '-', 'no', 'none'), or 'form at place'."""
    words = text.strip()
    form, _, place = words.partition(" at ")
    present = None if words in ("", DOUBTFUL) else words.lower() not in (ABSENT, "-", "no", "none", "—")
    if not present:
        form = place = ""
    return _entry(build, feature, version_id, present=present, form=form.strip(), place=place.strip())


def parts_edits(build: Build, feature: Feature, version_id: str, text: str) -> Edits:
    """The numbers on the sheet that make a feature in a version."""
    return _entry(build, feature, version_id, parts=text.strip())


def evidence_words(build: Build, feature: Feature, version_id: str) -> str:
    """Which still shows the feature in a version."""
    state = state_in(build, feature.id, version_id)
    still = build.get(Still, state.still_id) if state else None
    return f"still {still.number}" if still else "none"


def evidence_edits(build: Build, feature: Feature, version_id: str, words: str) -> Edits:
    """Set the still that shows a feature in a version.

    Raises
    ------
    RefusedError
        No such still.
    """
    number = words.removeprefix("still ").strip()
    still = next((s for s in build.all(Still) if str(s.number) == number), None)
    if still is None and words != "none":
        raise RefusedError(f"There is no still {number} on the reel.")
    return _entry(build, feature, version_id, still_id=still.id if still else "")


def evidence(build: Build, feature: Feature) -> tuple[tuple[str, Still | None], ...]:
    """Words and still of a feature, in the kit's version and in the one being built."""
    found = []
    for version_id, title in version_titles(build)[:2]:
        state = state_in(build, feature.id, version_id)
        still = build.get(Still, state.still_id) if state else None
        where = f", still {still.number}" if still else ""
        found.append((f"{title}: {cell(build, feature, version_id).words}{where}", still))
    return tuple(found)


def hours_from(text: str) -> float | None:
    """Hours, or None to go back to the usual.

    Raises
    ------
    RefusedError
        Not between a few minutes and a thousand hours.
    """
    if not text.strip():
        return None
    hours = parse_number(text.removesuffix("h"))
    if not 0.05 <= hours <= 1000:
        raise RefusedError("A job takes between 0.05 and 1000 hours.")
    return hours


def job_key(row: OperationRow) -> str:
    """What tells a job from the others, whatever it is made of."""
    return f"{row.feature_id} {row.operation.verb}"


def stock_words(row: OperationRow, unit: LengthUnit) -> str:
    """The stock nearest to the size, with how far it is off and how surely."""
    stock = row.stock
    assert stock is not None
    return f"{stock.words}, {signed_length(stock.error_mm, unit)} ± {small_length(stock.doubt_mm, unit)}"


def job_features(rows: tuple[OperationRow, ...]) -> tuple[str, ...]:
    """The features that have jobs, in the order of the list: their numbers on the drawing."""
    return tuple(dict.fromkeys(row.feature_id for row in rows))


def number_at(sheet: Sheet | None, x: float, y: float) -> int:
    """The number written nearest to a place of the drawing of jobs; 0 where none is near."""
    near = [
        (math.hypot(w.at[0] - x, w.at[1] - y), w.words.partition(",")[0])
        for w in (sheet.words if sheet is not None else ()) if w.words.partition(",")[0].isdecimal()
    ]  # fmt: skip
    apart, words = min(near, default=(math.inf, ""))
    return int(words) if apart <= NEAR_MM else 0


def with_job(feature: Feature, verb: Verb) -> Edits:
    """A feature with one job more."""
    return {feature.id: msgspec.structs.replace(feature, also=(*feature.also, verb))}


def without_job(feature: Feature, verb: Verb) -> Edits:
    """A feature without a job that was added by hand."""
    return {feature.id: msgspec.structs.replace(feature, also=tuple(v for v in feature.also if v != verb))}


def waits_for(build: Build, row: OperationRow) -> str:
    """What a job cannot be done without: a still that decides, or something on its way."""
    if row.operation.verb == "check":
        return "a still"
    orders = [o for o in build.all(Order) if o.feature_id == row.feature_id and not o.came_on]
    return ", ".join(o.name if o.ordered_on else f"{o.name}: not ordered" for o in orders)


def due_words(row: OrderRow) -> str:
    """By when to order, or how it stands."""
    order = row.order
    if order.came_on:
        return f"✓ came on {order.came_on}"
    if order.ordered_on:
        late = f"✗ may come {row.due.may_come}, too late: " if row.late and row.due is not None else ""
        return f"{late}on its way since {order.ordered_on}"
    if row.due is None:
        return "when it is needed is not planned yet"
    day = f"{row.due.latest.day} {row.due.latest:%b %Y}"
    if row.late:
        return f"✗ {day}, {plural(-row.due.days_left, 'day')} ago"
    return f"{day}, in {plural(row.due.days_left, 'day')}"


def days_words(order: Order) -> str:
    """'14, at worst 60'."""
    return f"{order.usual_days}, at worst {order.worst_days}"


def days_from(text: str) -> dict[str, int]:
    """Usual and worst days; one number alone is taken for both, three times as long at worst.

    Raises
    ------
    RefusedError
        Not one or two whole numbers of days.
    """
    numbers = [int(n) for n in re.findall(r"\d+", text)][:2]
    if not numbers or max(numbers) > 1000:
        raise RefusedError("Type the usual days and the worst, for example 14, 60.")
    usual, worst = numbers[0], numbers[1] if len(numbers) > 1 else 3 * numbers[0]
    return {"usual_days": min(usual, worst), "worst_days": min(1000, max(usual, worst))}


def further_words(build: Build, feature: Feature) -> str:
    """The names of a feature's further sizes."""
    names = {d.id: d.name for d in build.all(Dimension)}
    return "; ".join(names[i] for i in feature.other_dimension_ids if i in names)


def further_from(build: Build, text: str) -> tuple[str, ...]:
    """Sizes by their names, parted by semicolons.

    Raises
    ------
    RefusedError
        There is no size of a name.
    """
    ids = {d.name.casefold(): d.id for d in build.all(Dimension)}
    found = []
    for name in (part.strip() for part in text.split(";")):
        if name and name.casefold() not in ids:
            raise RefusedError(f"Measure has no size “{name[:40]}”. Part several by semicolons.")
        found += [ids[name.casefold()]] * bool(name)
    return tuple(dict.fromkeys(found))


def holds_up(row: OperationRow) -> str:
    """What cannot go on before a job is done."""
    waits = {"before primer": f"the primer of {row.assembly}", "before closing": f"closing {row.assembly}"}
    waiting = waits.get(row.operation.when)
    return f"{row.operation.when}: holds up {waiting}" if waiting else f"{row.operation.when}: holds up nothing before"


def lamp_holes(build: Build) -> tuple[str, ...]:
    """What Light asks to be drilled: places by kind of lamp; the step stands in Finish."""
    if build.info.dark:
        return ()
    return tuple(
        f"{plural(lamp.count, 'place')} for {lamp.name} ({lamp.package}{', ' + lamp.assembly if lamp.assembly else ''})"
        for lamp in build.all(Lamp)
    )


def to_order(build: Build) -> tuple[Feature, ...]:
    """Features whose part is to be ordered or printed, and for which no order stands."""
    ordered = {order.feature_id for order in build.all(Order)}
    return tuple(f for f in build.all(Feature) if f.way in ("order", "print") and f.id not in ordered)


def orders_for(found: tuple[Feature, ...]) -> Edits:
    """An order for each of some features."""
    made = (
        Order(id=new_id(), name=f.name, feature_id=f.id, source="print" if f.way == "print" else "order") for f in found
    )
    return {order.id: order for order in made}
