"""CIEDE2000 colour difference.

Reference: Sharma, Wu & Dalal, *Color Research & Application* 30 (2005), 21–30.
"""

from __future__ import annotations

import numpy as np

from chalkreel.core.arrays import Array


def delta_e_2000(lab1: Array, lab2: Array) -> Array:
    """ΔE00 (...) between L*a*b* arrays (..., 3) that broadcast against each other."""
    l1, a1, b1 = np.moveaxis(np.asarray(lab1, float), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(lab2, float), -1, 0)
    c7 = ((np.hypot(a1, b1) + np.hypot(a2, b2)) / 2) ** 7
    g = 0.5 * (1 - np.sqrt(c7 / (c7 + 25.0**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dh = np.where(grey, 0.0, (h2 - h1 + 180) % 360 - 180)
    # Opposite hues: the published formula takes +180 for a difference of exactly 180.
    dh = np.where((dh == -180) & (h2 > h1), 180.0, dh)
    d_light, d_chroma = l2 - l1, c2 - c1
    d_hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    h_mean = np.where(grey, h1 + h2, _mean_hue(h1, h2))
    t = (
        1 - 0.17 * _cos(h_mean - 30) + 0.24 * _cos(2 * h_mean) + 0.32 * _cos(3 * h_mean + 6)
        - 0.20 * _cos(4 * h_mean - 63)
    )  # fmt: skip
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    turn = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))
    r_t = -np.sin(np.radians(2 * turn)) * 2 * np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7))
    light, chroma, hue = d_light / s_l, d_chroma / s_c, d_hue / s_h
    return np.asarray(np.sqrt(np.maximum(light**2 + chroma**2 + hue**2 + r_t * chroma * hue, 0.0)))


def _cos(degrees: Array) -> Array:
    return np.asarray(np.cos(np.radians(degrees)))


def _mean_hue(h1: Array, h2: Array) -> Array:
    total = h1 + h2
    near = np.abs(h1 - h2) <= 180
    return np.where(near, total / 2, np.where(total < 360, (total + 360) / 2, (total - 360) / 2))
