"""The colour of every surface from all stills at once, with what each still says and how it shows colours."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Final

import numpy as np

from chalkreel.answers.sampler import Sampler
from chalkreel.core.colour.cielab import as_lab, encode_srgb, rgb8_of_lab, xyz_of_lab
from chalkreel.core.colour.joint import joint_colours
from chalkreel.core.colour.joint_values import JointColours, Known, Seen, SurfaceEstimate
from chalkreel.core.colour.kinds import Lab, Swatch
from chalkreel.core.colour.sampling import Sample
from chalkreel.core.colour.spectra import white_xyz
from chalkreel.core.colour.still_light import Anchor, StillLight, light_from
from chalkreel.core.errors import RefusedError
from chalkreel.document.entities import Still, Trust
from chalkreel.document.paint_entities import ColourPatch, Surface
from chalkreel.document.snapshot import Build

_TRUST: Final[dict[Trust, float]] = {"high": 0.85, "fair": 1.0, "low": 1.6}
# A neutral of unknown level still says what is grey.
_ANY_LEVEL: Final = 1.0
_CLIPPED: Final = 0.3


@dataclass(frozen=True, eq=False)
class VoteRow:
    """One patch of a surface on one still.

    `lab` is None with the reason in `problem` where it has no vote; `counts` is False for another side or version
    kept apart; `odd` says in words how it stands apart from the others.
    """

    patch_id: str
    still_id: str
    still_number: int
    sample: Sample | None
    lab: Lab | None = None
    swatch: Swatch | None = None
    shown: Swatch | None = None
    weight: float = 0.0
    apart: float = 0.0
    counts: bool = True
    odd: str = ""
    problem: str = ""


@dataclass(frozen=True)
class SurfaceColour:
    """L*a*b* (D65/2°) of the object with σ of lightness and of each chromatic axis; 95 % radii in ΔE00.

    It is `faced` where something of known colour lies on the same facet on some still.
    """

    lab: Lab
    sigma_l: float
    sigma_ab: float
    delta_e: float
    delta_e_chroma: float
    stills: int
    faced: bool = False


@dataclass(frozen=True)
class SurfaceEvidence:
    """What the stills say of a surface."""

    votes: tuple[VoteRow, ...] = ()
    colour: SurfaceColour | None = None
    problem: str = ""


@dataclass(frozen=True, eq=False)
class StillRow:
    """How a still shows colours: from its own known patches, or tied through surfaces it shares with others."""

    still_id: str
    number: int
    words: str
    own: StillLight | None
    tied: bool


@dataclass(frozen=True, eq=False)
class Evidence:
    """All surfaces by id, and the stills that show any."""

    surfaces: dict[str, SurfaceEvidence] = field(default_factory=dict)
    stills: tuple[StillRow, ...] = ()
    problems: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class _Taken:
    """A patch that could be sampled."""

    patch: ColourPatch
    still: Still
    sample: Sample
    group: str


def gather_evidence(build: Build, sampler: Sampler) -> Evidence:
    """Sample every patch, estimate all surfaces together, and say of each still what it does to colours."""
    taken, refused = _sampled(build, sampler)
    groups = {name: number for number, name in enumerate(dict.fromkeys(t.group for t in taken))}
    stills = {s.id: n for n, s in enumerate(build.all(Still))}
    known = _known(build, taken, groups)
    problem, found = "", None
    try:
        found = joint_colours(
            tuple(
                Seen(
                    stills[t.still.id], groups[t.group], np.array(t.sample.rgb), t.sample.covariance, t.patch.facet,
                    t.patch.to_light,
                )
                for t in taken
            ),
            known, len(stills), len(groups), np.array([_TRUST[s.trust] for s in build.all(Still)]),
        )  # fmt: skip
    except RefusedError as refusal:
        problem = str(refusal)
    surfaces = {s.id: _surface(build, s, taken, refused, groups, found, problem) for s in build.all(Surface)}
    rows = tuple(
        _still_row(build, s, [t for t in taken if t.still.id == s.id], found, stills[s.id])
        for s in build.all(Still)
        if any(t.still.id == s.id for t in taken)
    )
    neutral_faults = tuple(words for patch, words in refused if not patch.surface_id)
    return Evidence(surfaces, rows, neutral_faults)


def group_of(surface: Surface | None, patch: ColourPatch, still: Still) -> str:
    """Patches of one group show one colour: a surface on the sides and versions that are joined, or a grey card."""
    if surface is None:
        level = patch.id if patch.reflectance is None and patch.known_lab is None else ""
        return f"known {patch.reflectance} {patch.known_lab} {level}"
    version = "" if surface.join == "sides and versions" else still.version_id
    side = still.side if surface.join == "nothing" else ""
    return f"{surface.id} {version} {side}"


def _sampled(build: Build, sampler: Sampler) -> tuple[list[_Taken], list[tuple[ColourPatch, str]]]:
    taken: list[_Taken] = []
    refused: list[tuple[ColourPatch, str]] = []
    for patch in build.all(ColourPatch):
        still = build.get(Still, patch.still_id)
        if still is None or patch.left_out or patch.lamp is not None:
            continue
        try:
            sample = sampler.sample(build, patch)
            if not patch.surface_id and sample.clipped_share > _CLIPPED:
                raise RefusedError(f"still {still.number}: the neutral is clipped. Choose one that is not white-out.")
        except RefusedError as refusal:
            refused.append((patch, str(refusal)))
            continue
        taken.append(_Taken(patch, still, sample, group_of(build.get(Surface, patch.surface_id), patch, still)))
    return taken, refused


def _known_lab(patch: ColourPatch, surface: Surface | None) -> Lab | None:
    """The colour of a patch where the user knows it, for itself or for its surface."""
    return patch.known_lab or (surface.known_lab if surface else None)


def _known(build: Build, taken: list[_Taken], groups: dict[str, int]) -> tuple[Known, ...]:
    found: dict[int, Known] = {}
    for t in taken:
        surface = build.get(Surface, t.patch.surface_id)
        place = groups[t.group]
        lab = _known_lab(t.patch, surface)
        if lab is not None:
            found[place] = Known(place, xyz_of_lab(np.array(lab)))
        elif surface is None and t.patch.reflectance is not None:
            found[place] = Known(place, t.patch.reflectance * white_xyz())
        elif surface is None:
            found[place] = Known(place, 0.3 * white_xyz(), sigma_level=_ANY_LEVEL)
    return tuple(found.values())


def _surface(
    build: Build, surface: Surface, taken: list[_Taken], refused: list[tuple[ColourPatch, str]],
    groups: dict[str, int], found: JointColours | None, problem: str,
) -> SurfaceEvidence:  # fmt: skip
    mine = [(n, t) for n, t in enumerate(taken) if t.patch.surface_id == surface.id]
    own = [t for _, t in mine if t.still.version_id == build.info.version_id] or [t for _, t in mine]
    counted = max((t.group for t in own), key=[t.group for t in own].count, default="")
    numbers = {s.id: s.number for s in build.all(Still)}
    votes = [_vote(n, t, found, counted, groups) for n, t in mine]
    votes += [
        VoteRow(p.id, p.still_id, numbers[p.still_id], None, problem=words)
        for p, words in refused
        if p.surface_id == surface.id
    ]
    votes += [
        VoteRow(p.id, p.still_id, numbers.get(p.still_id, 0), None, counts=False, problem="left out by you")
        for p in build.all(ColourPatch)
        if p.left_out and p.surface_id == surface.id
    ]
    if found is None or not counted:
        return SurfaceEvidence(tuple(votes), None, problem or "No still shows this surface yet. Sample it on a still.")
    estimate = found.surfaces[groups[counted]]
    if not estimate.anchored:
        return SurfaceEvidence(
            tuple(votes), None,
            "None of its stills has a neutral or a known colour, nor shares a surface with one that has.",
        )  # fmt: skip
    stills = len({t.still.id for _, t in mine if t.group == counted})
    return SurfaceEvidence(tuple(votes), _colour(estimate, stills))


def _colour(estimate: SurfaceEstimate, stills: int) -> SurfaceColour:
    return SurfaceColour(
        as_lab(estimate.lab),
        estimate.sigma_l,
        estimate.sigma_ab,
        estimate.delta_e,
        estimate.delta_e_chroma,
        stills,
        estimate.faced,
    )


def _vote(number: int, t: _Taken, found: JointColours | None, counted: str, groups: dict[str, int]) -> VoteRow:
    shown = encode_srgb(np.array(t.sample.rgb))
    raw = (round(255 * float(shown[0])), round(255 * float(shown[1])), round(255 * float(shown[2])))
    row = VoteRow(t.patch.id, t.still.id, t.still.number, t.sample, shown=raw, counts=t.group == counted)
    if found is None or not found.surfaces[groups[t.group]].anchored:
        return replace(row, problem=f"still {t.still.number} is not tied to any known colour: left out")
    vote, odd = found.votes[number], ""
    if vote.outlier:
        way = direction_words(vote.lab - found.surfaces[groups[t.group]].lab)
        odd = f"still {t.still.number} calls it {way} than the others: faded, graded or another version?"
    return replace(
        row, lab=as_lab(vote.lab), swatch=rgb8_of_lab(vote.lab), weight=vote.weight, apart=vote.apart, odd=odd
    )


def direction_words(step: np.ndarray[tuple[int, ...], np.dtype[np.float64]]) -> str:
    """Which way a colour lies off another, by the larger chromatic axis, or lighter and darker."""
    light, a, b = (float(v) for v in step)
    if max(abs(a), abs(b)) < 0.4 * abs(light):
        return "lighter" if light > 0 else "darker"
    if abs(a) >= abs(b):
        return "redder" if a > 0 else "greener"
    return "yellower" if b > 0 else "bluer"


def _still_row(build: Build, still: Still, mine: list[_Taken], found: JointColours | None, number: int) -> StillRow:
    anchors = []
    for t in mine:
        surface = build.get(Surface, t.patch.surface_id)
        lab = _known_lab(t.patch, surface)
        if lab is not None:
            anchors.append(Anchor(np.array(t.sample.rgb), xyz_of_lab(np.array(lab)), t.sample.place))
        elif surface is None:
            level = t.patch.reflectance or max(0.05, float(np.array(t.sample.rgb).mean()))
            anchors.append(Anchor(np.array(t.sample.rgb), level * white_xyz(), t.sample.place))
    own = None
    if anchors:
        try:
            own = light_from(tuple(anchors))
        except RefusedError as refusal:
            return StillRow(still.id, still.number, str(refusal), None, False)
    tied = found is not None and own is None
    return StillRow(still.id, still.number, _still_words(own, found, number), own, tied)


def _still_words(own: StillLight | None, found: JointColours | None, number: int) -> str:
    words = ""
    if own is not None:
        many = f"{own.anchors} known patch" + ("es" if own.anchors > 1 else "")
        left = f", leaves ΔE00 {own.residual:.1f}" if own.anchors > 1 else ""
        words = f"{own.model} from {many}{left}"
    elif found is not None:
        words = "no neutral of its own: tied in by shared surfaces"
    if found is not None:
        still = found.stills[number]
        if "contrast" in still.terms:
            words += f"; its colours are {'flattened' if still.contrast < 1 else 'steepened'} ({still.contrast:.2f})"
        if "veil" in still.terms:
            words += f"; a veil of {100 * still.veil:.0f} % lies over it"
        if still.told_mixing:
            words += f"; its channels are put right by {still.told_mixing} known patches"
        if still.scatter > 1.8:
            words += "; scatters, so it weighs little"
    return words
