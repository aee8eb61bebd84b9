"""Every command declared once: the window, the menu and the F1 sheet read this list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from chalkreel.answers.stages import STAGES

# Where a command's key is listened to: anywhere in the window, on a still that has the keys, among the steps, on the
# drawn wiring, on a photograph of the replica.
Scope = Literal["window", "still", "steps", "wiring", "photograph"]


@dataclass(frozen=True)
class Command:
    """What a command is called, its key, its group on the F1 sheet; `menu` puts it in the Build menu."""

    id: str
    words: str
    key: str
    group: str
    menu: bool = False
    scope: Scope = "window"


COMMANDS: tuple[Command, ...] = (
    Command("new", "New build…", "Ctrl+N", "Build", menu=True),
    Command("open", "Open build…", "Ctrl+O", "Build", menu=True),
    Command("copy", "Save a copy as…", "Ctrl+Shift+S", "Build", menu=True),
    Command("book", "Build book (PDF)…", "Ctrl+P", "Build", menu=True),
    Command("sheet", "This stage on paper (PDF)…", "Ctrl+Shift+P", "Build", menu=True),
    Command("csv", "Tables (CSV)…", "", "Build", menu=True),
    Command("json", "Tables (JSON)…", "", "Build", menu=True),
    Command("calendar", "Schedule (calendar file)…", "", "Build", menu=True),
    Command("evening", "Tonight's sheet (PDF)…", "", "Build", menu=True),
    Command("palette", "The reel's colours (PDF, GPL, CSV, JSON)…", "", "Build", menu=True),
    Command("unpack", "Unpack into a folder…", "", "Build", menu=True),
    Command("pack", "Open an unpacked folder…", "", "Build", menu=True),
    Command("moments", "Discard changes since…", "", "Build", menu=True),
    Command("theme", "Slate or daylight", "Ctrl+L", "Window", menu=True),
    Command("larger", "Larger text and controls", "Ctrl++", "Window", menu=True),
    Command("smaller", "Smaller text and controls", "Ctrl+-", "Window", menu=True),
    Command("reel", "Show or hide the reel", "Ctrl+R", "Window", menu=True),
    Command("card", "Fold or unfold the card", "Ctrl+E", "Window", menu=True),
    Command("alone", "The picture alone, and back", "F11", "Window", menu=True),
    Command("help", "Help on this stage, and all keys", "F1", "Window", menu=True),
    Command("undo", "Undo", "Ctrl+Z", "Edit"),
    Command("redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    Command("goto", "Find a still, size, part, paint, step, entry or command", "Ctrl+G", "Edit"),
    Command("again", "Compute the answers again", "F5", "Edit"),
    Command("add", "Add stills", "Ctrl+I", "Gather"),
    Command("paste", "Paste a still, or rows into a table", "Ctrl+V", "Edit"),
    Command("copy-rows", "Copy the chosen rows", "Ctrl+C", "Edit"),
    Command("next", "Next still", "Space", "Stills"),
    Command("previous", "Previous still", "Shift+Space", "Stills"),
    Command("tool-l", "Measure: landmark", "L", "Stills", scope="still"),
    Command("tool-e", "Measure: straight edge", "E", "Stills", scope="still"),
    Command("tool-o", "Measure: rim of a circle. Colour: polygon", "O", "Stills", scope="still"),
    Command("tool-f", "Measure: flat of landmarks", "F", "Stills", scope="still"),
    Command("tool-w", "Measure: face of the skin, round its landmarks", "W", "Stills", scope="still"),
    Command("tool-i", "Measure: straight edge that shows the lens's bend", "I", "Stills", scope="still"),
    Command("tool-t", "Measure: trace an outline", "T", "Stills", scope="still"),
    Command("tool-m", "Measure: mark on a panel", "M", "Stills", scope="still"),
    Command("bend", "Measure: bend an outline's point. Colour: brush", "B", "Stills", scope="still"),
    Command("tool-r", "Measure: ruler", "R", "Stills", scope="still"),
    Command("tool-s", "Measure: size", "S", "Stills", scope="still"),
    Command("tool-a", "Measure: angle", "A", "Stills", scope="still"),
    Command("ghost", "Measure: next ghost. Colour: glow of a lamp", "G", "Stills", scope="still"),
    Command("beside", "Measure: a second still beside this one", "2", "Stills", scope="still"),
    Command("tool-p", "Measure: squared-up plane. Colour: patch", "P", "Stills", scope="still"),
    Command("tool-n", "Measure: parts round a rim. Colour: neutral", "N", "Stills", scope="still"),
    Command("tool-k", "Colour: known colour", "K", "Stills", scope="still"),
    Command("delete", "Remove the chosen mark or row", "Del", "Stills"),
    Command("earlier", "Finish: move the step earlier", "Alt+Up", "Finish", scope="steps"),
    Command("later", "Finish: move the step later", "Alt+Down", "Finish", scope="steps"),
    Command("done", "Finish: mark the step done", "D", "Finish", scope="steps"),
    Command("turn", "Light: turn the chosen lamp round", "R", "Light", scope="wiring"),
    Command("look-wipe", "Bench: wipe from the still to the photograph", "W", "Bench", scope="photograph"),
    Command("look-blink", "Bench: blink still and photograph", "B", "Bench", scope="photograph"),
    Command("look-difference", "Bench: their difference", "D", "Bench", scope="photograph"),
    Command("look-both", "Bench: both at once", "O", "Bench", scope="photograph"),
    Command("finding-job", "Bench: make the chosen finding a job", "J", "Bench", scope="photograph"),
    Command("finding-accept", "Bench: accept the chosen finding", "A", "Bench", scope="photograph"),
    Command("skip-landmark", "Bench: ask for another landmark", "S", "Bench", scope="photograph"),
    *(Command(f"stage-{n}", stage, f"Alt+{n}", "Stages") for n, stage in enumerate(STAGES, start=1)),
)

# Keys that a focused still takes itself; they are on the sheet but are no window commands.
STILL_KEYS = (
    ("Arrows", "nudge the active mark a quarter pixel (Shift: two pixels)"),
    ("Enter", "place the mark, accept"),
    ("Esc", "back out"),
    ("Tab", "next mark"),
    ("+  −  0", "zoom in, zoom out, fit"),
)
