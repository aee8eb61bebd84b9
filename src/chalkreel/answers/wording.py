"""What answers say in words: ids become the names that entities have now."""

from __future__ import annotations

import math
from collections.abc import Mapping

from chalkreel.answers.reel import Basis, Lack
from chalkreel.answers.sizes import PlaneRow, SizeRow
from chalkreel.core.figures import format_pm
from chalkreel.core.finish.schedule import Missed
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import INCH_MM, LengthUnit, length_pm, length_words, metres_pm
from chalkreel.core.measure.advice import Advice
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.faults import Fault
from chalkreel.core.measure.start.cold import Untied
from chalkreel.document.entities import Plane, Still
from chalkreel.document.snapshot import Build

WIDENED = 1.5
REEL = "Whole reel"


def name_of(build: Build, entity_id: str) -> str:
    """What an entity is called; a mark is called after what it marks, a still by its number."""
    entity = build.entities.get(entity_id)
    if isinstance(entity, Still):
        return f"still {entity.number}"
    for field in ("dimension_id", "landmark_id", "circle_id"):
        owner = build.entities.get(getattr(entity, field, ""))
        if owner is not None and not getattr(entity, "name", ""):
            entity = owner
    return getattr(entity, "name", "") or getattr(entity, "direction", "")


def names_of(build: Build, entity_ids: tuple[str, ...]) -> str:
    """Names one after the other."""
    return ", ".join(name_of(build, i) for i in entity_ids)


def stock_words(row: SizeRow, unit: LengthUnit) -> str:
    """The stock nearest to a size, and what it is off by."""
    if row.stock is None:
        return "cut to length"
    error = f"{row.stock.error_mm:+.2f}" if unit == "mm" else f"{row.stock.error_mm / INCH_MM:+.3f}"
    return f"{row.stock.words}, {error}"


def story_words(size: Size, unit: LengthUnit) -> str:
    """An in-story size: metres throughout, so that a column compares, or feet and inches."""
    if unit == "mm":
        return " ".join(metres_pm(size.mm, size.half_width_mm))
    return length_words(size.mm, size.half_width_mm, unit)


def size_words(size: Size, unit: LengthUnit) -> str:
    """A size with its 95 % interval in the unit chosen."""
    if unit == "mm":
        return format_pm(size.mm, size.half_width_mm, "mm")
    return length_words(size.mm, size.half_width_mm, unit)


def short_words(size: Size, unit: LengthUnit) -> str:
    """A size without its ±, for a label on the picture."""
    return f"{size.mm:.1f} mm" if unit == "mm" else length_pm(size.mm, size.half_width_mm, unit)[0]


def capital(words: str) -> str:
    """With a capital in front, the rest as it is."""
    return words[:1].upper() + words[1:]


def lack_words(build: Build, lack: Lack | None) -> str:
    """Why a size is not known, and what to do."""
    if lack is None:
        return ""
    return {
        "second still": f"Mark “{name_of(build, lack.key)}” on a second still.",
        "scale": "Nothing gives the scale yet. Make one known length a ruler.",
        "direction": f"Nothing says which way {lack.along} runs: mark edges along it on a still.",
        "one place": "Its ends lie in one place: there is no length between them this way.",
        "ends": "Mark its two ends on a still (S).",
        "ruler": "Mark a ruler.",
        "refused": lack.words,
    }[lack.kind]


def basis_words(build: Build, basis: Basis) -> tuple[str, ...]:
    """What a size rests on, one sentence each."""
    words = [_plane_assumption(build, *place) for place in basis.planes]
    if basis.widened > WIDENED:
        words.append(f"the stills disagree {basis.widened:.1f} times more than their errors allow: ± was widened")
    if basis.views:
        numbers = sorted(s.number for i in basis.views if (s := build.get(Still, i)) is not None)
        words.append(f"marked on stills {', '.join(map(str, numbers))}")
        if basis.rulers:
            words.append(f"scale from {names_of(build, basis.rulers)}")
    if basis.mirrored:
        words.append("assumes that port and starboard are mirror images")
    if basis.along:
        words.append(f"counts along the {basis.along} only")
    if basis.true_edges:
        words.append("assumes that edges between landmarks run true")
    return (*words, *(f"assumes that {name_of(build, flat)} is flat" for flat in basis.flats))


def plane_name(build: Build, row: PlaneRow) -> str:
    """A plane of a still, or the reel as a whole."""
    if not row.still_id:
        return REEL
    plane = build.get(Plane, row.plane_id)
    return plane.name if plane is not None else "square on"


def _plane_assumption(build: Build, still_id: str, plane_id: str) -> str:
    plane, still = build.get(Plane, plane_id), build.get(Still, still_id)
    where = f"on {name_of(build, still_id)}"
    if plane is not None or still is None:
        return f"{where}, {plane.name if plane else ''}: all marks lie in the plane of the rectangle"
    within = f"{2 * still.tilt_sigma_deg:g}°"
    return f"{where}, square on: all marks lie in one plane, square to the camera within ± {within}"


def fault_words(build: Build, fault: Fault) -> str:
    """Where, and what."""
    words = _fault(build, fault)
    return f"{capital(name_of(build, fault.view))}: {words}" if fault.view else words


def _fault(build: Build, fault: Fault) -> str:
    names = [name_of(build, i) for i in fault.landmarks]
    if fault.kind == "mark":
        return f"“{names[0]}” lies {fault.strength:.0f} times its click error from where the other marks put it."
    if fault.kind == "swap":
        return f"“{names[0]}” and “{names[1]}” look swapped on this still."
    if fault.kind == "swapped view":
        return "Port and starboard are exchanged on this still: its pairs fit the other way round."
    if fault.kind == "version":
        listed = ", ".join(sorted(names))
        return f"{listed} do not sit where the other stills have them: another version, or another landmark?"
    if fault.kind == "ruler":
        return _ruler_fault(name_of(build, fault.ruler), fault)
    still = build.get(Still, fault.view)
    stated = f", not {still.pixel_aspect:.3f}" if still is not None else ""
    hint = f"; {fault.shape} would fit" if fault.shape else ""
    return f"Its pixels look {fault.found:.3f} ± {NORMAL_95 * fault.sigma:.3f} wide{stated}{hint}."


def _ruler_fault(name: str, fault: Fault) -> str:
    if not math.isfinite(fault.found):
        return f"The ruler “{name}” claims a length between places that are one in its direction."
    more = "longer" if fault.found > 0 else "shorter"
    share = f"{100 * abs(fault.found):.1f} ± {100 * NORMAL_95 * fault.sigma:.1f} %"
    return f"The ruler “{name}” claims {share} {more} than the rest of the reel finds."


def untied_words(build: Build, untied: Untied) -> str:
    """Which still is not tied in, why, and what to mark."""
    reason = "Its marks fit no camera. Check its pixel aspect, and whether port and starboard are swapped."
    if untied.lacking:
        wanted = names_of(build, untied.wanted)
        reason = f"It shares {untied.shared} landmarks with the others; mark {untied.lacking} more, such as {wanted}."
    return f"{capital(name_of(build, untied.view))} is not tied in. {reason}"


def advice_words(build: Build, advice: Advice) -> str:
    """One thing to do, with what it would leave of the error."""
    gain = f"leaves {100 * advice.left:.0f} % of its ±"
    names, view = [name_of(build, i) for i in advice.landmarks], name_of(build, advice.view)
    if advice.kind == "mark":
        return f"Mark “{names[0]}” on {view}: {gain}."
    if advice.kind == "ruler":
        return f"Find out how far “{names[0]}” is from “{names[1]}”: {gain}."
    return f"Learn the focal length of {view}, or mark edges along two directions on it: {gain}."


def size_name(build: Build, row: SizeRow) -> str:
    """What a size is called."""
    return name_of(build, row.dimension_id)


def missed_words(missed: Missed, titles: Mapping[str, str]) -> str:
    """A longest wait that the plan does not keep: which steps, how long, how long at most, why."""
    first, then = titles.get(missed.first, missed.first), titles.get(missed.then, missed.then)
    return (
        f"{then} comes {missed.hours:.1f} h after {first}, at most {missed.max_hours:g} h are allowed. {missed.reason}"
    )
