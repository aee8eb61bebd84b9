"""A line where each unexplained word stands: on its control as a tool tip and for assistive tools, on its column."""

from __future__ import annotations

import re
import tomllib
from functools import cache
from importlib.resources import files

from PySide6.QtWidgets import QAbstractButton, QLabel, QWidget

from chalkreel.answers.stages import StageName
from chalkreel.app.parts.plain import tip
from chalkreel.app.parts.table import Table

# What a button's words end in where it has a key: "Face W", "Patch (P)", "Wipe  W".
_KEY = re.compile(r"\s+(\([A-Z]\)|[A-Z0-9])$")


@cache
def lines() -> dict[str, dict[str, str]]:
    """What each word means, by stage."""
    return tomllib.loads(files("chalkreel.help").joinpath("words.toml").read_text("utf-8"))


def explain(stage: StageName, *roots: QWidget) -> None:
    """Put the lines of a stage on the controls, words and columns of its parts; one that has a tip keeps it."""
    known = lines()[stage]
    for widget in (w for root in roots for w in root.findChildren(QWidget)):
        if isinstance(widget, Table):
            widget.rows_model.explained = known
        elif isinstance(widget, (QAbstractButton, QLabel)) and not widget.toolTip():
            line = known.get(_KEY.sub("", widget.text()))
            if line is not None:
                widget.setToolTip(tip(line))
                widget.setAccessibleDescription(line)
