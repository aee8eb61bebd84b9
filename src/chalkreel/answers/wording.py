"""What answers say in words: ids become the names that entities have now."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Mapping

from chalkreel.answers.reel import Basis, Lack
from chalkreel.answers.sizes import PlaneRow, SizeRow
from chalkreel.core.convert.stock import CutLength, StockChoice
from chalkreel.core.figures import format_pm
from chalkreel.core.finish.surface import Violation
from chalkreel.core.finish.timing import Untimely
from chalkreel.core.interval import NORMAL_95
from chalkreel.core.lengths import INCH_MM, LengthUnit, format_length, length_pm, length_words, metres_pm
from chalkreel.core.measure.advice import Advice
from chalkreel.core.measure.combine import Size
from chalkreel.core.measure.faults.fault import Fault
from chalkreel.core.measure.start.cold import Untied
from chalkreel.document.entities import LandmarkMark, Plane, Still
from chalkreel.document.snapshot import Build

WIDENED = 1.5
REEL = "Whole reel"
# Mix-ups that make a ruler wrong by a round factor, and how near to it counts.
USUAL_RATIOS = (
    (25.4, "inches taken for millimetres"), (10.0, "centimetres taken for millimetres"),
    (12.0, "feet taken for inches"), (2.0, "half taken for the whole, or a radius for a diameter"),
)  # fmt: skip
NEAR_RATIO = 0.03


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


def unplaced_words(build: Build, landmark_ids: tuple[str, ...], most: int) -> tuple[str, ...]:
    """Why landmarks have no place: marked on no still, on one only, or on stills that do not hold them."""
    count = Counter(mark.landmark_id for mark in build.all(LandmarkMark))
    groups = (
        ("Marked on no still yet: {}.", tuple(i for i in landmark_ids if not count[i])),
        ("Marked on one still only: {}. The line on other stills shows where to look.",
         tuple(i for i in landmark_ids if count[i] == 1)),
        ("Marked, but no two stills that are tied in hold it: {}.", tuple(i for i in landmark_ids if count[i] > 1)),
    )  # fmt: skip
    return tuple(words.format(names_of(build, ids[:most])) for words, ids in groups if ids)


def stock_words(build: Build, stock: StockChoice | CutLength | None) -> str:
    """The stock nearest to a size, and what it is off by; for one cut to length, what of its piece is left."""
    unit = build.info.unit
    if stock is None:
        return "cut to length"
    if isinstance(stock, CutLength):
        return f"from {name_of(build, stock.key)}, {format_length(stock.left_mm, unit)} left"
    error = f"{stock.error_mm:+.2f}" if unit == "mm" else f"{stock.error_mm / INCH_MM:+.3f}"
    return f"{stock.words}, {error}"


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
        "undetermined": "The marks hardly say how long it is: mark its ends on a still from elsewhere, or tie them.",
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
        words.append(f"marked on {still_numbers(build, basis.views)}")
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
    say: dict[str, Callable[[], str]] = {
        "mark": lambda: (
            f"“{names[0]}” lies {fault.strength:.0f} times its click error from where the other marks put it."
        ),
        "swap": lambda: f"“{names[0]}” and “{names[1]}” look swapped on this still.",
        "swapped view": lambda: "Its pairs fit the other way round: " + (
            "the print is flopped, or port and starboard are exchanged on it."
            if fault.or_flopped else "port and starboard are exchanged on it."
        ),
        "flopped": lambda: "This print is flopped: its marks fit when it is turned left to right.",
        "version": lambda: (
            f"{', '.join(sorted(names))} do not sit where the other stills have them: another version, or another "
            "landmark?"
        ),
        "two places": lambda: _two_places(build, fault, names[0]),
        "ruler": lambda: _ruler_fault(build, fault),
        "rulers": lambda: _ruler_fault(build, fault),
        "crop": lambda: _crop(fault.offset_px),
        "aspect": lambda: _aspect(build, fault),
        "zoom": lambda: (
            f"It is said to share a lens with {still_numbers(build, fault.elsewhere)}, but its focal length is up to "
            f"{100 * fault.found:.0f} % longer: the camera zoomed."
        ),
    }  # fmt: skip
    return say[fault.kind]()


def _crop(offset_px: tuple[float, float]) -> str:
    x, y = offset_px
    across, down = "right of" if x > 0 else "left of", "below" if y > 0 else "above"
    return f"It looks cropped: the lens’s axis lies {abs(x):.0f} px {across} and {abs(y):.0f} px {down} its middle."


def _aspect(build: Build, fault: Fault) -> str:
    still = build.get(Still, fault.view)
    stated = f", not {still.pixel_aspect:.3f}" if still is not None else ""
    hint = f"; {fault.shape} would fit" if fault.shape else ""
    return f"Its pixels look {fault.found:.3f} ± {NORMAL_95 * fault.sigma:.3f} wide{stated}{hint}."


def _two_places(build: Build, fault: Fault, name: str) -> str:
    marked = {m.still_id for m in build.all(LandmarkMark) if m.landmark_id == fault.landmarks[0]}
    here, there = marked - set(fault.elsewhere), fault.elsewhere
    return (
        f"“{name}” sits in two places: on {still_numbers(build, here)}, and on {still_numbers(build, there)}. "
        "Two versions, or two landmarks?"
    )


def still_numbers(build: Build, still_ids: Iterable[str]) -> str:
    """Stills by id, told by number, runs drawn together: "stills 1–3 and 5"."""
    return still_list(s.number for i in still_ids if (s := build.get(Still, i)) is not None)


def still_list(numbers: Iterable[int]) -> str:
    """Numbers of stills, runs drawn together: "stills 1–3 and 5"."""
    numbers = sorted(numbers)
    runs: list[list[int]] = []
    for number in numbers:
        if runs and number == runs[-1][-1] + 1:
            runs[-1].append(number)
        else:
            runs.append([number])
    words = [f"{run[0]}–{run[-1]}" if len(run) > 1 else str(run[0]) for run in runs]
    listed = " and ".join(filter(None, (", ".join(words[:-1]), words[-1]))) if words else ""
    return f"still{'s' if len(numbers) > 1 else ''} {listed}"


def _ruler_fault(build: Build, fault: Fault) -> str:
    names = [name_of(build, i) for i in fault.rulers]
    if not math.isfinite(fault.found):
        return f"The ruler “{names[0]}” claims a length between places that are one in its direction."
    if fault.kind == "rulers":
        near = _usual_ratio(1.0 + fault.found)
        times = f"{1.0 + fault.found:.2f} times" if fault.found > 0.5 else f"{100 * fault.found:.1f} %"
        return (
            f"The rulers “{names[0]}” and “{names[1]}” disagree: the first makes everything {times} "
            f"{'as large' if fault.found > 0.5 else 'larger'}{near}. Nothing decides between them; every ± covers both."
        )
    more = "longer" if fault.found > 0 else "shorter"
    near = _usual_ratio(1 + fault.found)
    share = f"{100 * abs(fault.found):.1f} ± {100 * NORMAL_95 * fault.sigma:.1f} %"
    return f"The ruler “{names[0]}” claims {share} {more} than the rest of the reel finds{near}."


def _usual_ratio(ratio: float) -> str:
    """What commonly goes wrong by so large a factor."""
    for usual, words in USUAL_RATIOS:
        if any(abs(math.log(r / usual)) < NEAR_RATIO for r in (ratio, 1.0 / ratio) if r > 0):
            return f" (close to {usual:g}: {words}?)"
    return ""


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


def broken_words(broken: Violation, titles: Mapping[str, str]) -> str:
    """Which step breaks a rule, and beside which other."""
    step = titles.get(broken.step, broken.step)
    other = titles.get(broken.other, broken.other)
    if broken.cure == "order":
        return f"{other} must come before {step}."
    if broken.cure == "add":
        return f"{step}: {broken.rule}, which is missing."
    return f"{step} over {other}." if other else f"{step}: {broken.rule}."


def missed_words(one: Untimely, titles: Mapping[str, str]) -> str:
    """A step that does not come at its time: beside which other, how long after it, what is allowed, why."""
    first, then = titles.get(one.first, one.first), titles.get(one.then, one.then)
    if one.least is not None and one.most is not None:
        allowed = f"that must be within {hours_words(one.least)} or after {hours_words(one.most)}"
    elif one.least is not None:
        allowed = f"at least {hours_words(one.least)} are needed"
    else:
        allowed = f"at most {hours_words(one.most or 0.0)} are allowed"
    rescue = f" If it cannot be helped: {one.rescue[0].lower()}{one.rescue[1:]}" if one.rescue else ""
    return f"{then} comes {hours_words(one.hours)} after {first}; {allowed}. {one.reason}{rescue}"


def hours_words(hours: float) -> str:
    """'20 min', '1 h 30', '18 h', '5 days'."""
    minutes = round(hours * 60)
    if minutes < 60:
        return f"{minutes} min"
    if hours < 10:
        return f"{minutes // 60} h {minutes % 60:02d}" if minutes % 60 else f"{minutes // 60} h"
    return f"{hours:.0f} h" if hours < 72 else f"{hours / 24:.0f} days"
