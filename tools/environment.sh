# Sourced by ./demo and ./check: makes the virtual environment from the lock file and sees to system libraries.
# Sets PYTHON. Needs the network only the first time, or after the lock file has changed.

VENV="$ROOT/.venv"
LIBRARIES="libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libfontconfig1 libdbus-1-3 libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-image0 libxcb-render-util0 libxcb-shape0 libxcb-xkb1"

find_python() {
    for name in python3.11 python3; do
        if command -v "$name" >/dev/null && "$name" -c 'import sys; sys.exit(sys.version_info[:2] != (3, 11))'; then
            echo "$name"
            return
        fi
    done
    echo "Chalk Reel needs Python 3.11: install it, then run this again." >&2
    exit 1
}

make_environment() {
    local stamp="$VENV/lock.sum" wanted
    wanted=$(sha256sum "$ROOT/requirements.lock" "$ROOT/pyproject.toml" | sha256sum)
    if [ ! -f "$stamp" ] || [ "$(cat "$stamp")" != "$wanted" ]; then
        echo "Setting up the environment (once)…"
        local python
        python=$(find_python)
        "$python" -m venv "$VENV"
        "$VENV/bin/python" -m pip install --quiet --require-hashes -r "$ROOT/requirements.lock"
        "$VENV/bin/python" -m pip install --quiet --no-deps --no-build-isolation --editable "$ROOT"
        echo "$wanted" >"$stamp"
    fi
    PYTHON="$VENV/bin/python"
}

toolkit_starts() {
    QT_QPA_PLATFORM=offscreen "$PYTHON" -c 'from PySide6.QtWidgets import QApplication; QApplication([])' 2>/dev/null || return 1
    # With a screen, the plugin that draws on it must find its libraries too.
    [ -z "${DISPLAY:-}" ] || ! ldd "$VENV"/lib/python3*/site-packages/PySide6/Qt/plugins/platforms/libqxcb.so | grep -q 'not found'
}

see_to_libraries() {
    if toolkit_starts; then
        return
    fi
    if [ "$(id -u)" = 0 ] && command -v apt-get >/dev/null; then
        echo "Installing system libraries (once)…"
        apt-get update -qq
        # shellcheck disable=SC2086
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq $LIBRARIES >/dev/null
    else
        echo "System libraries are missing. Run: sudo apt-get install $LIBRARIES" >&2
        exit 1
    fi
}

make_environment
see_to_libraries
