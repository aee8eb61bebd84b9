"""A camera raw file made here: one colour filter over four, a sensor whose matrix and white are known."""

from __future__ import annotations

import struct

import numpy as np

BYTE, SHORT, LONG, RATIONAL, SRATIONAL, ASCII = 1, 3, 4, 5, 10, 2
CODES = {BYTE: "B", SHORT: "H", LONG: "I", RATIONAL: "II", SRATIONAL: "ii"}
# What XYZ (D65) becomes on this sensor: rows are its red, green and blue.
SENSOR = np.array([[0.9, -0.3, -0.05], [-0.45, 1.25, 0.2], [-0.05, 0.15, 0.7]])
# sRGB to XYZ, D65 (IEC 61966-2-1).
XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
BLACK, FULL = 512, 16_383


def raw_file(light: np.ndarray, orientation: int = 1) -> bytes:
    """A DNG of a picture in linear sRGB light (H, W, 3), white being 1; sides even."""
    counts = light @ (SENSOR @ XYZ).T
    mosaic = np.empty(light.shape[:2])
    for row, column, channel in ((0, 0, 0), (0, 1, 1), (1, 0, 1), (1, 1, 2)):
        mosaic[row::2, column::2] = counts[row::2, column::2, channel]
    strip = np.clip(np.rint(BLACK + mosaic * (FULL - BLACK)), 0, FULL).astype("<u2").tobytes()
    neutral = (SENSOR @ XYZ).sum(axis=1)
    height, width = len(mosaic), len(mosaic[0])
    tags: list[tuple[int, int, bytes | list[int]]] = [
        (254, LONG, [0]), (256, LONG, [width]), (257, LONG, [height]), (258, SHORT, [16]), (259, SHORT, [1]),
        (262, SHORT, [32803]), (271, ASCII, b"Bench\0"), (272, ASCII, b"Pinhole\0"), (273, LONG, [0]),
        (274, SHORT, [orientation]), (277, SHORT, [1]), (278, LONG, [height]), (279, LONG, [len(strip)]),
        (33421, SHORT, [2, 2]), (33422, BYTE, [0, 1, 1, 2]), (50706, BYTE, [1, 4, 0, 0]),
        (50708, ASCII, b"Bench Pinhole\0"), (50714, SHORT, [BLACK]), (50717, LONG, [FULL]),
        (50721, SRATIONAL, _fractions(SENSOR.ravel())), (50728, RATIONAL, _fractions(neutral)), (50778, SHORT, [21]),
    ]  # fmt: skip
    directory, room = b"", 8 + 2 + 12 * len(tags) + 4
    extra = b""
    at_strip = room + sum(len(_value(kind, v)) + 1 for _, kind, v in tags if len(_value(kind, v)) > 4)
    for tag, kind, values in tags:
        value = _value(kind, [at_strip] if tag == 273 else values)
        count = len(value) if kind == ASCII else len(values) // len(CODES[kind])
        held = value.ljust(4, b"\0")
        if len(value) > 4:
            held = struct.pack("<I", room + len(extra))
            extra += value + b"\0" * (len(value) % 2)
        directory += struct.pack("<HHI", tag, kind, count) + held
    head = b"II*\0" + struct.pack("<I", 8) + struct.pack("<H", len(tags)) + directory + b"\0" * 4
    return (head + extra).ljust(at_strip, b"\0") + strip


def _fractions(values: np.ndarray) -> list[int]:
    return [part for v in values for part in (round(v * 10_000), 10_000)]


def _value(kind: int, values: bytes | list[int]) -> bytes:
    if isinstance(values, bytes):
        return values
    return struct.pack(f"<{len(values)}{CODES[kind][0]}", *values)
