"""Photographs of the replica against what was rendered: `python -m benchmarks.comparing PAIRS [--clicks-only]`.

PAIRS is a folder of `python -m tools.tender.replica PAIRS --random 30 --seed N`. Prints the yardsticks of
docs/methods/comparing.md: clicks, clicks with lines, no click, assemblies out of true.
"""

from __future__ import annotations

import argparse
import json
import tempfile
import time
from collections import Counter
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from chalkreel.answers.assemblies import groups_of
from chalkreel.answers.faces import solved_faces
from chalkreel.answers.photographs import Subject, subject_of
from chalkreel.answers.reel import reel_inputs, solved_reel
from chalkreel.core.bench.deviations import judged
from chalkreel.core.bench.edges import edges_of
from chalkreel.core.bench.equations import Shot
from chalkreel.core.bench.lines import Lines, confirmed, fitted
from chalkreel.core.bench.proposals import proposed
from chalkreel.core.bench.resect import Lens, resected
from chalkreel.core.bench.search import is_sure, searched
from chalkreel.core.measure.camera import Camera
from chalkreel.demo.evidence import still_bytes
from chalkreel.demo.ninepin import create_demo
from chalkreel.document.snapshot import Build

SIGMA_PX, REPEATS = 0.7, 4
FAULTY = ("house", "hatch", "aft window", "forward window", "fin ")


class Bench:
    """The demo's solved model, and pairs with their truth."""

    def __init__(self, folder: Path) -> None:
        self.build = create_demo(Path(tempfile.mkdtemp()) / "demo.chalkreel").build
        reel = solved_reel(reel_inputs(self.build), (), lambda _: True)
        subject = subject_of(self.build, reel, solved_faces(self.build, reel))
        assert subject is not None and reel.solution is not None
        self.subject: Subject = subject
        self.solution = reel.solution
        self.folder = folder
        self.pairs: list[dict[str, Any]] = [
            one for path in folder.glob("truth-*.json") for one in json.loads(path.read_text())
        ]
        self._lines: dict[str, Lines] = {}

    def exact(self, pair: dict[str, Any], innocent: bool = True) -> tuple[np.ndarray, np.ndarray]:
        """Rows and true pixels of the landmarks a photograph shows."""
        names = [n for n in pair["landmarks"] if not (innocent and n.startswith(FAULTY))]
        rows = np.array([self.subject.places.index[f"landmark-{n}"] for n in names], np.intp)
        return rows, np.array([pair["landmarks"][n] for n in names])

    def shot(self, rows: np.ndarray, exact: np.ndarray, rng: np.random.Generator, size: tuple[int, int]) -> Shot:
        return Shot(rows, exact + rng.normal(0, SIGMA_PX, exact.shape), np.full(len(rows), SIGMA_PX), size)

    def lines(self, still: str) -> Lines:
        """The lines that a still confirms."""
        if still not in self._lines:
            data = np.frombuffer(still_bytes()[still], np.uint8)
            grey = np.asarray(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), np.uint8)
            camera, skin = self.solution.camera(still), self.subject.faces.skin
            self._lines[still] = confirmed(self.subject.lines, edges_of(grey), camera, skin)
        return self._lines[still]

    def off(self, camera: Camera, rows: np.ndarray, exact: np.ndarray) -> tuple[float, float]:
        gap = np.linalg.norm(camera.project(self.subject.places.points[rows]) - exact, axis=1)
        return float(np.median(gap)), float(np.percentile(gap, 95))


def size_of(pair: dict[str, Any]) -> tuple[int, int]:
    return pair["shot"]["width_px"], pair["shot"]["height_px"]


def told(name: str, found: list[tuple[float, float]], seconds: list[float]) -> None:
    fine = sum(median <= 3 and far <= 8 for median, far in found)
    median = np.median([m for m, _ in found])
    print(f"{name:24} {fine} of {len(found)} fine, median {median:.2f} px, {np.median(seconds):.2f} s")


def by_clicks(bench: Bench, count: int, rng: np.random.Generator, with_lines: bool) -> None:
    found, seconds = [], []
    for pair in bench.pairs:
        rows, exact = bench.exact(pair)
        order = proposed(bench.solution.camera(pair["still"]), bench.subject.places.points[rows], (), count)
        others = np.setdiff1d(np.arange(len(rows)), order)
        for _ in range(REPEATS):
            shot = bench.shot(rows[list(order)], exact[list(order)], rng, size_of(pair))
            clicks, begun = shot.clicks(bench.subject.places), time.perf_counter()
            camera = resected(clicks, shot.size_px).camera
            if with_lines:
                edges = edges_of(_grey(bench.folder / f"{pair['name']}.jpg"))
                skin = bench.subject.faces.skin
                camera = fitted(bench.lines(pair["still"]), edges, camera, skin, clicks=clicks).camera
            seconds.append(time.perf_counter() - begun)
            found.append(bench.off(camera, rows[others], exact[others]))
    told(f"{count} clicks{' and lines' if with_lines else ''}", found, seconds)


def without_clicks(bench: Bench, rng: np.random.Generator, lens_known: bool) -> None:
    taken, found, seconds = 0, [], []
    for pair in bench.pairs:
        widths = 0.5 / np.tan(np.radians(pair["shot"]["fov_deg"] / 2)) * np.exp(rng.normal(0, 0.04))
        lens = Lens(float(widths), 0.05) if lens_known else None
        begun = time.perf_counter()
        edges, camera = edges_of(_grey(bench.folder / f"{pair['name']}.jpg")), bench.solution.camera(pair["still"])
        best = searched(bench.lines(pair["still"]), edges, size_of(pair), camera, bench.subject.faces.skin, lens)
        seconds.append(time.perf_counter() - begun)
        if is_sure(best):
            taken += 1
            found.append(bench.off(best.camera, *bench.exact(pair)))
    told(f"no click, lens {'known' if lens_known else 'unknown'}: {taken} of {len(bench.pairs)} taken;", found, seconds)


def out_of_true(bench: Bench, build: Build, rng: np.random.Generator) -> None:
    places = bench.subject.places
    port = frozenset(k for k, p in zip(places.keys, places.points, strict=True) if p[1] > 0)
    groups = groups_of(build, port)
    members = {g.key: g.landmark_ids for g in groups}
    counts: Counter[str] = Counter()
    for pair in bench.pairs:
        fault = pair["fault"]
        wrong = {"wheelhouse": any(fault["house"]), "roof hatch": any(fault["house"]) or any(fault["hatch"]),
                 "tail fin": any(fault["fins"]) or fault["fin_taller"] != 1.0}  # fmt: skip
        for _ in range(REPEATS):
            shot = bench.shot(*bench.exact(pair, innocent=False), rng, size_of(pair))
            accused = {d.assembly.partition("|")[0] for d in judged(places, (shot,), members).deviations}
            for name in {g.name for g in groups if set(g.landmark_ids) & {places.keys[r] for r in shot.rows}}:
                counts["tests"] += 1
                counts["false"] += name in accused and not wrong.get(name, False)
                clicks = sum(places.keys[r] in members[f"{name}|"] for r in shot.rows)
                counts["wrong, four clicks"] += wrong.get(name, False) and clicks >= 4
                counts["of these named"] += wrong.get(name, False) and clicks >= 4 and name in accused
    print("assemblies", dict(counts))


def _grey(path: Path) -> np.ndarray:
    return np.asarray(cv2.imread(str(path), cv2.IMREAD_GRAYSCALE), np.uint8)


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("pairs", type=Path)
    parser.add_argument("--clicks-only", action="store_true")
    args = parser.parse_args()
    bench, rng = Bench(args.pairs), np.random.default_rng(0)
    for count in (4, 6, 8, 12):
        by_clicks(bench, count, rng, with_lines=False)
    out_of_true(bench, bench.build, rng)
    if not args.clicks_only:
        by_clicks(bench, 4, rng, with_lines=True)
        for known in (False, True):
            without_clicks(bench, rng, known)


if __name__ == "__main__":
    main()
