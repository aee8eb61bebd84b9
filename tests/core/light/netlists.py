"""Reads the stored netlists of the independent simulator into our networks."""

from __future__ import annotations

import json
import re
from pathlib import Path

from chalkreel.core.light.lamps import THERMAL_V, LampCurve
from chalkreel.core.light.network import LampInRow, Network, Row, Source, Transistor

STORED = Path(__file__).resolve().parents[2] / "data" / "circuits"
NONE = ((0.0, 0.0, 0.0),) * 3


def stored(name: str) -> list[dict]:
    return json.loads((STORED / f"{name}.json").read_text())


def curve(saturation: float, n: float, ohm: float, ma: float = 20.0, gamma: float = 1.0) -> LampCurve:
    """A lamp of just these device parameters."""
    from math import log1p

    volts = n * THERMAL_V * log1p(ma / 1000 / saturation) + ma / 1000 * ohm
    return LampCurve(volts, ma, n, ohm, gamma, NONE, 0.0)


def network(netlist: str) -> tuple[Network, list[str]]:
    """The network and its lamps' names in the order in which we number them."""
    models = {
        m[1]: tuple(float(x) for x in re.findall(r"=([0-9.e+-]+)", m[2]))
        for m in re.finditer(r"\.model (\S+) D\((.*)\)", netlist)
    }
    lines = [line.split() for line in netlist.splitlines() if not line.startswith(".")]
    behind = {words[1]: float(words[3]) for words in lines if words[0][0] == "V"}
    rows, sources, transistors, names = [], [], [], []
    joints: dict[str, int] = {"0": 0}

    def joint(name: str) -> int:
        return joints.setdefault(name, len(joints))

    for words in lines:
        if words[0][0] == "R" and words[1] in behind:
            sources.append(Source(joint(words[2]), behind[words[1]], float(words[3])))
        elif words[0][0] == "R":
            rows.append(Row(joint(words[1]), joint(words[2]), float(words[3])))
        elif words[0][0] == "D":
            saturation, n, ohm = models[words[3]]
            # Every row has some resistance; 1e-9 Ω is none.
            rows.append(Row(joint(words[1]), joint(words[2]), 1e-9, (LampInRow(curve(saturation, n, ohm)),)))
            names.append(words[0])
        elif words[0][0] == "Q":
            transistors.append(Transistor(joint(words[1]), joint(words[2]), joint(words[3])))
    return Network(len(joints) - 1, tuple(rows), tuple(sources), tuple(transistors)), names
