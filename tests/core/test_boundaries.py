"""The core without the toolkit, held three ways."""

import os
import shutil
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]

IMPORT_ALL = """
import importlib, pkgutil, sys
for name in ("PySide6", "shiboken6", "sqlite3"):
    sys.modules[name] = None
import chalkreel.core
found = [m.name for m in pkgutil.walk_packages(chalkreel.core.__path__, "chalkreel.core.")]
for name in found:
    importlib.import_module(name)
heavy = {"colour", "reportlab", "icalendar"} & set(sys.modules)
assert len(found) > 30 and not heavy, (len(found), heavy)
"""


def test_every_core_module_imports_with_the_toolkit_blocked() -> None:
    done = subprocess.run([sys.executable, "-c", IMPORT_ALL], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr


def test_the_contracts_catch_a_planted_violation(tmp_path: Path) -> None:
    shutil.copytree(ROOT / "src/chalkreel", tmp_path / "src/chalkreel", ignore=shutil.ignore_patterns("*.jpg", "*.ttf"))
    shutil.copy(ROOT / "pyproject.toml", tmp_path)
    planted = tmp_path / "src/chalkreel/core/figures.py"
    planted.write_text(planted.read_text() + "\nfrom PySide6.QtCore import QPointF\n")
    app = tmp_path / "src/chalkreel/app/start/page.py"
    app.write_text(app.read_text() + "\nimport numpy\n")
    run = (
        "import sys; sys.path.insert(0, 'src')\n"
        "from importlinter.cli import lint_imports_command; lint_imports_command()"
    )
    done = subprocess.run([sys.executable, "-c", run], cwd=tmp_path, capture_output=True, text=True, check=False)
    assert done.returncode != 0
    assert "The core knows no toolkit, no document, no window BROKEN" in done.stdout
    assert "The window computes nothing BROKEN" in done.stdout


def test_the_first_window_loads_nothing_that_computes() -> None:
    """A word taken from the answers once brought NumPy along, and a third of a second."""
    run = (
        "import sys\n"
        "from chalkreel.app.application import Application\n"
        "app = Application(['chalk-reel']); app.open_demo()\n"
        "print(sorted({'numpy', 'cv2', 'PIL', 'scipy', 'shapely', 'reportlab'} & set(sys.modules)))\n"
        "app.close_build()"
    )
    env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
    done = subprocess.run([sys.executable, "-c", run], env=env, capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
