"""The installed command: chalk-reel [FILE] [--demo] [--shots DIR]."""

from __future__ import annotations

import argparse
import logging
import os
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_log_path

NO_DISPLAY = "There is no display here. For pictures of every view: chalk-reel --shots DIR (or ./demo --shots DIR)."


def main(argv: list[str] | None = None) -> int:
    """Start the window, or take the pictures; returns the process's exit code."""
    parser = argparse.ArgumentParser("chalk-reel", description="From reference stills to a finished replica.")
    parser.add_argument("file", nargs="?", type=Path, metavar="FILE", help="a build to open")
    parser.add_argument("--demo", action="store_true", help="open the demo build in a scratch copy")
    parser.add_argument("--shots", type=Path, metavar="DIR", help="write a picture of each main view and exit")
    args = parser.parse_args(argv)
    if "QT_QPA_PLATFORM" not in os.environ and not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
        if args.shots is None:
            print(NO_DISPLAY, file=sys.stderr)  # noqa: T201 - the one thing to say without a window
            return 2
        os.environ["QT_QPA_PLATFORM"] = "offscreen"
    # The solver's matrices are small: more threads than one only take the processor from the window.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    _log_to_file()
    from chalkreel.app.application import Application
    from chalkreel.app.magnify import follow_system, put_in_force

    ours = put_in_force()
    app = Application(sys.argv[:1])
    if ours and args.shots is None:
        follow_system(app.system_points)
    if args.shots is not None:
        from chalkreel.app.shots import take_shots

        app.open_demo()
        take_shots(app, args.shots)
        app.close_build()
        return 0
    if args.demo:
        app.open_demo()
    else:
        app.begin(args.file)
    code = app.exec()
    app.close_build()
    return code


def _log_to_file() -> None:
    folder = user_log_path("chalkreel", appauthor=False)
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handler = RotatingFileHandler(folder / "chalkreel.log", maxBytes=500_000, backupCount=2, encoding="utf-8")
    except OSError:
        return
    logging.basicConfig(level=logging.INFO, handlers=[handler], format="%(asctime)s %(levelname)s %(name)s %(message)s")


if __name__ == "__main__":
    sys.exit(main())
