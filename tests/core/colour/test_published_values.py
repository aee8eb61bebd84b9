"""Colour against published values, an independent library and hand-worked Kubelka–Munk cases."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from chalkreel.core.colour.cielab import lab_of_xyz, rgb8_of_lab, xyz_of_lab
from chalkreel.core.colour.difference import delta_e_2000
from chalkreel.core.colour.kubelka_munk import (
    mix_reflectance,
    ratio_of,
    reflectance_of,
)
from chalkreel.core.colour.paint import Paint
from chalkreel.core.colour.spectra import (
    BANDS,
    ILLUMINANTS,
    WAVELENGTHS_NM,
    tristimulus_weights,
    white_xyz,
    xyz_of_reflectance,
)
from chalkreel.demo.evidence import bench_range

# Pairs and ΔE00 from Sharma, Wu & Dalal 2005, table 1 (a choice that covers its special cases).
SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425), ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669), ((50, 2.49, -0.001), (50, -2.49, 0.0009), 7.1792),
    ((50, 2.49, -0.001), (50, -2.49, 0.0011), 7.2195), ((50, -0.001, 2.49), (50, 0.0011, -2.49), 4.7461),
    ((50, 2.5, 0), (50, 0, -2.5), 4.3065), ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (58, 24, 15), 19.4535), ((60.2574, -34.0099, 36.2677), (60.4626, -34.1751, 39.4387), 1.2644),
    ((22.7233, 20.0904, -46.694), (23.0331, 14.973, -42.5619), 2.0373),
    ((90.8027, -2.0831, 1.441), (91.1528, -1.6435, 0.0447), 1.4441),
    ((2.0776, 0.0795, -1.135), (0.9033, -0.0636, -0.5514), 0.9082),
]  # fmt: skip

SHELF = tuple(Paint(p.name, np.array(p.absorption), np.array(p.scattering)) for p in bench_range())


@pytest.mark.parametrize(("one", "other", "expected"), SHARMA)
def test_ciede2000_matches_the_published_pairs(one: tuple, other: tuple, expected: float) -> None:
    assert float(delta_e_2000(np.array(one), np.array(other))) == pytest.approx(expected, abs=1e-4)
    assert float(delta_e_2000(np.array(other), np.array(one))) == pytest.approx(expected, abs=1e-4)


def test_spectra_and_lab_agree_with_an_independent_library() -> None:
    colour = pytest.importorskip("colour")
    chart = colour.SDS_COLOURCHECKERS["ISO 17321-1"]
    shape = colour.SpectralShape(380, 730, 10)
    cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    light = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
    for sd in list(chart.values())[:24]:
        values = sd.copy().align(shape).values
        plain = colour.SpectralDistribution(values, shape.wavelengths)
        theirs = colour.sd_to_XYZ(plain, cmfs, light, method="Integration") / 100
        ours = xyz_of_reflectance(values)
        assert ours == pytest.approx(theirs, abs=2e-4)
        white = colour.XYZ_to_xy(white_xyz())
        assert lab_of_xyz(ours) == pytest.approx(colour.XYZ_to_Lab(theirs, white), abs=0.05)


def test_illuminants_are_those_that_were_published() -> None:
    colour = pytest.importorskip("colour")
    shape = colour.SpectralShape(380, 730, 10)
    cmfs = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    for ours, theirs in zip(ILLUMINANTS, ("D65", "A", "LED-B2"), strict=True):
        light = colour.SDS_ILLUMINANTS[theirs].copy().align(shape).values
        white = light @ cmfs.values
        assert tristimulus_weights(ours).sum(axis=0) == pytest.approx(white / white[1], abs=2e-4)


@given(st.floats(1, 99), st.floats(-60, 60), st.floats(-60, 60))
def test_lab_round_trip(light: float, a: float, b: float) -> None:
    lab = np.array([light, a, b])
    assert lab_of_xyz(xyz_of_lab(lab)) == pytest.approx(lab, abs=1e-8)


def test_neutral_lab_is_exactly_neutral_on_the_screen() -> None:
    # L* = 50 is sRGB 119 (published); neutrals must not be tinted by the program's own white.
    r, g, b = rgb8_of_lab(np.array([50.0, 0.0, 0.0]))
    assert abs(r - 119) <= 1 and abs(g - 119) <= 1 and abs(b - 119) <= 1


def test_kubelka_munk_by_hand() -> None:
    # K/S = 0.5: R = 1.5 − √(1.5² − 1) = 0.381966; and back.
    assert float(reflectance_of(np.array(0.5))) == pytest.approx(0.381966, abs=1e-6)
    assert float(ratio_of(np.array(0.381966))) == pytest.approx(0.5, abs=1e-5)
    # Two drops of (K 1, S 1) and one of (K 4, S 0.5): K/S = 6 / 2.5 = 2.4, R = 3.4 − √10.56.
    mixed = mix_reflectance(np.array([2.0, 1.0]), np.array([[1.0], [4.0]]), np.array([[1.0], [0.5]]))
    assert mixed[0] == pytest.approx(3.4 - np.sqrt(10.56))


@settings(max_examples=20)
@given(st.permutations(range(4)), st.lists(st.integers(0, 9), min_size=4, max_size=4).filter(any))
def test_a_mix_knows_no_order_and_no_nothing(order: list[int], drops: list[int]) -> None:
    counts = np.array(drops, float)
    k, s = np.stack([p.absorption for p in SHELF[:4]]), np.stack([p.scattering for p in SHELF[:4]])
    plain = mix_reflectance(counts, k, s)
    assert mix_reflectance(counts[order], k[order], s[order]) == pytest.approx(plain)
    assert mix_reflectance(np.append(counts, 0.0), np.vstack([k, k[:1]]), np.vstack([s, s[:1]])) == pytest.approx(plain)


def test_the_bench_range_is_physical() -> None:
    assert len(SHELF) >= 16 and len(WAVELENGTHS_NM) == BANDS == 36
    for paint in SHELF:
        reflectance = reflectance_of(paint.absorption / paint.scattering)
        assert ((reflectance > 0) & (reflectance < 1)).all()
