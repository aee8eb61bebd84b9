"""Random circuits and their solutions by an independent circuit simulator (Debian's ngspice), for the tests of Light.

Run: python tools/make_circuits.py; it writes netlists and what the simulator found into tests/data/circuits.
"""

from __future__ import annotations

import json
import subprocess
import tempfile
from pathlib import Path

import numpy as np

HERE = Path(__file__).resolve().parent.parent / "tests" / "data" / "circuits"
OPTIONS = ".options temp=25 tnom=25 reltol=1e-7 abstol=1e-15 vntol=1e-9 gmin=1e-12 itl1=2000 epsmin=1e-60"


def run(netlist: str, commands: str) -> str:
    """What the simulator prints."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "c.cir"
        path.write_text(f"made up\n{netlist}\n{OPTIONS}\n.control\n{commands}\nquit\n.endc\n.end\n")
        done = subprocess.run(["ngspice", "-b", str(path)], capture_output=True, text=True, timeout=120, check=False)
    return done.stdout


class Maker:
    """Lays parts between joints, and numbers them."""

    def __init__(self, seed: int) -> None:
        self.rng = np.random.default_rng(seed)
        self.lines: list[str] = []
        self.models: list[str] = []
        self.joints = 0
        self.count = 0

    def joint(self) -> int:
        """A new joint."""
        self.joints += 1
        return self.joints

    def number(self) -> int:
        """The next part's number."""
        self.count += 1
        return self.count

    def lamp(self, plus: int, minus: int) -> None:
        """A lamp of n 1.5 to 3.3, Rs 3 to 25 Ω, 1.7 to 3.4 V at 20 mA."""
        k = self.number()
        n, ohm, volts = self.rng.uniform(1.5, 3.3), self.rng.uniform(3, 25), self.rng.uniform(1.7, 3.4)
        saturation = 0.02 / np.expm1((max(volts - 0.02 * ohm, 1.2)) / (n * 0.025693))
        self.models.append(f".model L{k} D(IS={saturation:.6e} N={n:.6f} RS={ohm:.6f})")
        self.lines.append(f"D{k} {plus} {minus} L{k}")

    def resistor(self, plus: int, minus: int, ohm: float) -> None:
        """A resistor between joints."""
        self.lines.append(f"R{self.number()} {plus} {minus} {ohm:.6g}")

    def supply(self, volts: float, ohm: float) -> int:
        """Volts behind a resistance; gives its plus."""
        inner, plus, k = self.joint(), self.joint(), self.number()
        self.lines += [f"V{k} {inner} 0 {volts:.6g}", f"R{self.number()} {inner} {plus} {ohm:.6g}"]
        return plus

    def row(self, plus: int, minus: int, lamps: int, ohm: float, turn: bool) -> None:
        """Lamps one after another behind a resistor; some turned round."""
        at = self.joint()
        self.resistor(plus, at, ohm)
        for k in range(lamps):
            after = minus if k == lamps - 1 else self.joint()
            back = turn and self.rng.random() < 0.25
            self.lamp(*((after, at) if back else (at, after)))
            at = after

    def text(self) -> str:
        """The netlist."""
        return "\n".join(self.lines + self.models)


def circuit(seed: int) -> str:
    """Rows, lamps side by side, ladders, meshes, turned lamps, transistors, one or two supplies."""
    m = Maker(seed)
    rng = m.rng
    plus = m.supply(rng.choice([3.0, 3.2, 4.5, 5.0, 6.0, 9.0, 12.0]), rng.uniform(0.1, 15))
    for _ in range(rng.integers(1, 7)):
        m.row(plus, 0, int(rng.integers(1, 4)), float(rng.choice([1, 22, 68, 150, 330, 1000])), seed % 3 == 0)
    if seed % 2:
        shared = m.joint()
        m.resistor(plus, shared, rng.uniform(10, 200))
        for _ in range(rng.integers(2, 5)):
            m.row(shared, 0, 1, 0.01, seed % 3 == 0)
    if seed % 4 == 1:
        near, far = plus, 0
        for _ in range(rng.integers(3, 12)):
            a, b = m.joint(), m.joint()
            m.resistor(near, a, rng.uniform(0.02, 2))
            m.resistor(b, far, rng.uniform(0.02, 2))
            m.row(a, b, 1, float(rng.choice([0.01, 100, 220])), False)
            near, far = a, b
    if seed % 5 == 2:
        inner, collector, base, k = m.joint(), m.joint(), m.joint(), m.number()
        m.row(plus, inner, int(rng.integers(1, 3)), float(rng.choice([10, 68, 150])), False)
        m.resistor(inner, collector, 0.4)
        m.resistor(plus, base, float(rng.choice([470, 1000, 10000, 100000])))
        m.lines.append(f"Q{k} {collector} {base} 0 T")
        m.models.append(".model T NPN(IS=2e-14 BF=200 BR=1)")
    if seed % 7 == 3:
        other = m.supply(rng.uniform(2, 12), rng.uniform(0.5, 20))
        m.row(other, plus, 1, rng.uniform(5, 100), True)
        m.row(other, 0, 2, 47, True)
    return m.text()


def operating(seeds: range) -> list[dict[str, object]]:
    """Netlists with every lamp's current, A."""
    made = []
    for seed in seeds:
        netlist = circuit(seed)
        lamps = [line.split()[0].lower() for line in netlist.splitlines() if line.startswith("D")]
        printed = run(netlist, "op\n" + "\n".join(f"print @{d}[id]" for d in lamps))
        found = [float(line.split("=")[1]) for line in printed.splitlines() if line.startswith("@d")]
        if len(found) != len(lamps):
            print("no solution", seed, printed[-300:])
            continue
        made.append({"netlist": netlist, "lamp_a": found})
    return made


# Cells as in core/light/cells.py, typed anew: open volts by used share, ohm fresh and at the end, mAh by mA.
USED = (0.0, 0.1, 0.2, 0.4, 0.6, 0.8, 0.9, 0.95, 1.0)
CELLS = {
    "AA cells": (
        (1.60, 1.50, 1.44, 1.36, 1.30, 1.22, 1.14, 1.05, 0.90), 0.15, 1.2,
        ((25, 2700), (100, 2400), (250, 1900), (500, 1400)),
    ),
    "AAA cells": (
        (1.60, 1.50, 1.44, 1.36, 1.30, 1.22, 1.14, 1.05, 0.90), 0.25, 2.0, ((25, 1200), (100, 1000), (250, 700)),
    ),
    "coin cell": (
        (3.20, 3.05, 3.00, 2.97, 2.94, 2.85, 2.70, 2.45, 2.00), 12, 180, ((0.2, 225), (1, 200), (3, 180), (10, 110)),
    ),
}  # fmt: skip
# kind, cells, rows of (lamps, resistor, V at 20 mA, n, Rs)
RUNS = (
    ("AA cells", 3, ((1, 150, 3.05, 2.2, 12), (2, 68, 1.95, 1.8, 6))),
    ("AA cells", 3, ((1, 47, 3.2, 2.5, 9),)),
    ("AA cells", 2, ((1, 68, 1.9, 1.7, 5), (1, 120, 2.05, 1.9, 8))),
    ("AA cells", 4, ((1, 330, 3.1, 2.0, 14), (1, 330, 3.1, 2.0, 14), (2, 150, 2.0, 1.8, 6))),
    ("AAA cells", 3, ((2, 22, 1.95, 1.8, 6), (2, 22, 1.95, 1.8, 6), (1, 100, 3.1, 2.2, 12))),
    ("AAA cells", 2, ((1, 150, 2.1, 1.9, 8),)),
    ("coin cell", 1, ((1, 100, 1.85, 1.8, 6),)),
    ("coin cell", 1, ((1, 47, 2.75, 2.2, 12),)),
    ("coin cell", 2, ((1, 1000, 3.0, 2.2, 12), (2, 330, 1.95, 1.8, 6))),
)  # fmt: skip


def run_time(case: tuple[str, int, tuple[tuple[float, ...], ...]]) -> dict[str, object]:
    """A discharge through time; one second of the simulator is one hour."""
    kind, cells, rows = case
    volts, fresh, end, charge = CELLS[kind]
    open_v = ",".join(f"{u},{cells * v}" for u, v in zip(USED, volts, strict=True))
    mah = ",".join(f"{np.log(i):.9f},{q}" for i, q in charge)
    growth = np.log(end / fresh)
    lines = [
        f"Bopen o 0 V = pwl(V(u),{open_v}) - I(Vs)*{cells * fresh}*exp({growth:.9f}*V(u)*V(u))",
        "Vs o p 0",
        f"Bused 0 u I = 1000*I(Vs)/pwl(ln(min(max(1000*I(Vs),{charge[0][0]}),{charge[-1][0]})),{mah})",
        "Cu u 0 1 IC=0",
        "Rp p 0 1e9",
    ]
    models = []
    for k, (lamps, ohm, at20, n, rs) in enumerate(rows):
        saturation = 0.02 / np.expm1((at20 - 0.02 * rs) / (n * 0.025693))
        models.append(f".model L{k} D(IS={saturation:.9e} N={n} RS={rs})")
        lines.append(f"Vm{k} p m{k} 0\nRm{k} m{k} a{k}x0 {ohm}")
        for j in range(int(lamps)):
            after = "0" if j == lamps - 1 else f"a{k}x{j + 1}"
            lines.append(f"D{k}x{j} a{k}x{j} {after} L{k}")
    length = 3000 if kind != "coin cell" else 4000
    measures = []
    for k in range(len(rows)):
        measures.append(f"meas tran first{k} find I(Vm{k}) at={length * 1e-6}")
        measures.append(f"meas tran dark{k} when I(Vm{k})=2e-5 fall=1")
        measures.append(f"let h{k} = 0.5^(1/{1.0})*first{k}")
        measures.append(f"meas tran half{k} when I(Vm{k})=h{k} fall=1")
    measures.append("meas tran done when V(u)=1 rise=1")
    printed = run(
        "\n".join(lines + models), f"tran {length / 20000} {length} 0 {length / 20000} uic\n" + "\n".join(measures)
    )
    found: dict[str, float] = {}
    for line in printed.splitlines():
        words = line.split()
        if len(words) >= 3 and words[1] == "=" and words[0].rstrip("0123456789") in ("first", "dark", "half", "done"):
            found[words[0]] = float(words[2])
    return {"kind": kind, "cells": cells, "rows": rows, "found": found}


def main() -> None:
    """Write the stored cases; circuits 0 to 59 are tested, the others are told in docs."""
    HERE.mkdir(parents=True, exist_ok=True)
    (HERE / "operating.json").write_text(json.dumps(operating(range(60)), indent=0))
    (HERE / "run_time.json").write_text(json.dumps([run_time(case) for case in RUNS], indent=0))


if __name__ == "__main__":
    main()
