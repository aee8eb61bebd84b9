"""What the project promises in its files is there and true."""

import ast
import configparser
import importlib
import re
import shutil
import subprocess
import tomllib
from pathlib import Path
from xml.etree import ElementTree

import pytest
from PIL import Image
from reportlab.pdfbase.ttfonts import TTFont

from chalkreel.document.format import APPLICATION_ID

ROOT = Path(__file__).parents[1]
PAGES = [ROOT / "README.md", ROOT / "CONTRIBUTING.md", *sorted((ROOT / "docs").rglob("*.md"))]


@pytest.mark.parametrize("page", PAGES, ids=lambda p: str(p.relative_to(ROOT)))
def test_links_lead_somewhere(page: Path) -> None:
    for target in re.findall(r"\]\(([^)#]+)(?:#[^)]*)?\)", page.read_text("utf-8")):
        assert (page.parent / target).exists(), target


def test_named_source_files_exist() -> None:
    for page in PAGES:
        for name in re.findall(
            r"`((?:src|tests|tools|core|build|app|exchange)/[\w/.-]+\.\w+)`", page.read_text("utf-8")
        ):
            assert (ROOT / name).exists() or (ROOT / "src/chalkreel" / name).exists(), (page.name, name)


def test_there_is_one_picture_a_stage_of_the_right_size() -> None:
    pictures = sorted((ROOT / "docs/screenshots").glob("*.png"))
    assert 7 <= len(pictures) < 20
    for picture in pictures:
        with Image.open(picture) as image:
            assert image.size == (1280, 800)
        assert picture.name in (ROOT / "README.md").read_text("utf-8")


def test_the_demo_stills_are_small_enough() -> None:
    stills = list((ROOT / "src/chalkreel/demo/data").glob("still-*.jpg"))
    assert len(stills) >= 4 and all(s.stat().st_size < 500_000 for s in stills)


def test_the_desktop_files_agree_with_the_program() -> None:
    entry = configparser.ConfigParser(interpolation=None)
    entry.optionxform = str  # type: ignore[assignment,method-assign]
    entry.read(ROOT / "packaging/chalk-reel.desktop", encoding="utf-8")
    desktop = entry["Desktop Entry"]
    scripts = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["scripts"]
    assert desktop["Exec"].split()[0] in scripts
    mime = ElementTree.parse(ROOT / "packaging/chalk-reel-mime.xml").getroot()
    space = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
    kind = mime.find("m:mime-type", space)
    assert kind is not None and kind.get("type", "") in desktop["MimeType"]
    match = mime.find(".//m:match", space)
    assert match is not None and int(match.get("value", "0"), 16) == APPLICATION_ID and match.get("offset") == "68"
    assert ElementTree.parse(ROOT / "packaging/chalk-reel.svg").getroot().tag.endswith("svg")


def test_the_desktop_files_install_for_one_user(tmp_path: Path) -> None:
    env = {"HOME": str(tmp_path), "XDG_DATA_HOME": str(tmp_path / "share"), "PATH": "/usr/bin:/bin"}
    subprocess.run(["bash", ROOT / "packaging/install-desktop"], check=True, env=env, capture_output=True)
    installed = {p.name for p in (tmp_path / "share").rglob("chalk-reel*")}
    assert {"chalk-reel.desktop", "chalk-reel.svg", "chalk-reel.xml", "chalk-reel.metainfo.xml"} <= installed


VALIDATORS = (
    ("desktop-file-validate", "chalk-reel.desktop"),
    ("appstreamcli", "validate", "--no-net", "chalk-reel.metainfo.xml"),
    ("xmllint", "--noout", "chalk-reel-mime.xml"),
)


@pytest.mark.parametrize("command", VALIDATORS, ids=lambda command: command[0])
def test_the_systems_own_validators_find_nothing_wrong(command: tuple[str, ...]) -> None:
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not on this machine")
    done = subprocess.run(command, cwd=ROOT / "packaging", check=False, capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr


def test_the_lock_names_no_host_and_every_dependency_with_a_hash() -> None:
    lock = (ROOT / "requirements.lock").read_text()
    assert "://" not in lock
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    for wanted in (*project["dependencies"], *project["optional-dependencies"]["dev"]):
        name = re.split(r"[<>=\[]", wanted)[0].lower()
        assert re.search(rf"^{re.escape(name)}==\S+ \\\n\s+--hash=sha256:", lock, re.MULTILINE), name


def test_the_toolkit_is_pinned_below_the_faulty_release() -> None:
    lock = (ROOT / "requirements.lock").read_text()
    match = re.search(r"^pyside6-essentials==(\d+)\.(\d+)\.(\d+)", lock, re.MULTILINE)
    assert match is not None and (6, 11, 2) <= tuple(map(int, match.groups())) < (6, 12, 0)


def test_shipped_code_says_what_it_is_for() -> None:
    for path in (ROOT / "src").rglob("*.py"):
        text = path.read_text("utf-8")
        assert text.startswith('"""'), path
        assert "TODO" not in text and "FIXME" not in text, path


def test_every_test_folder_is_collected(pytestconfig: pytest.Config) -> None:
    left_out = pytestconfig.getini("norecursedirs")
    folders = {p.name for p in (ROOT / "tests").iterdir() if p.is_dir()}
    assert not folders & set(left_out)


@pytest.mark.parametrize("name", ["core", "edits", "start_up"])
def test_benchmarks_still_find_what_they_measure(name: str) -> None:
    # The one of the solver needs rivals that only a developer installs.
    importlib.import_module(f"benchmarks.{name}")


def test_every_sign_that_is_shown_is_in_a_shipped_font() -> None:
    """On a machine without other fonts, what they lack would be an empty box."""
    source = ROOT / "src/chalkreel"
    drawn = set[str]()
    for path in source.rglob("*.py"):
        tree = ast.parse(path.read_text())
        docs = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
        words = (n.value for n in ast.walk(tree) if isinstance(n, ast.Constant) and id(n) not in docs)
        drawn.update(*(w for w in words if isinstance(w, str)))
    drawn.update(*(page.read_text() for page in (source / "help").glob("*.md")))
    # What people type for a prime, a hyphen or a fraction's bar is read, not written; one sign marks keys of twins.
    drawn -= set("ʺʹ‐‑∕⇋")
    signs = set(TTFont("Signs", str(source / "fonts/ChalkSigns.ttf")).face.charToGlyph)
    for weight in ("Regular", "Semibold", "Bold"):
        known = set(TTFont(weight, str(source / f"fonts/OpenSans-{weight}.ttf")).face.charToGlyph) | signs
        assert sorted(c for c in drawn if c.isprintable() and ord(c) not in known) == []
