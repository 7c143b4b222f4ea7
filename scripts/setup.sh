# Sets up the virtual environment; sourced by ./run and ./test with the Debian packages they need.
# Silent when nothing is to do, and can be repeated.

ROOT="$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)"
PYTHON="$ROOT/.venv/bin/python"

say() { echo "zuschnitt: $*" >&2; }

find_python() {
  local name
  for name in python3.11 python3.12 python3.13 python3; do
    if command -v "$name" >/dev/null && "$name" -c 'import sys; sys.exit(sys.version_info < (3, 11))'; then
      command -v "$name"
      return
    fi
  done
  say "needs Python 3.11 or newer, and found none; install python3.11 with its venv module."
  return 1
}

set_up_packages() {
  command -v dpkg-query >/dev/null || return 0
  local missing=() name
  for name in "$@"; do
    dpkg-query -W -f '${db:Status-Status}' "$name" 2>/dev/null | grep -qx installed || missing+=("$name")
  done
  [ ${#missing[@]} -eq 0 ] && return 0
  local as_root=()
  if [ "$(id -u)" -ne 0 ]; then
    if ! sudo -n true 2>/dev/null; then
      say "lacks Debian packages; install them with: sudo apt-get install ${missing[*]}"
      return 0
    fi
    as_root=(sudo -n)
  fi
  say "installing Debian packages: ${missing[*]}"
  if ! { "${as_root[@]}" apt-get update -q && DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -q -y \
         --no-install-recommends "${missing[@]}"; } >/dev/null 2>&1; then
    say "could not install them; install them with: sudo apt-get install ${missing[*]}"
  fi
}

set_up_environment() {
  local stamp="$ROOT/.venv/set-up" wanted base
  base="$(find_python)" || return 1
  wanted="$(cat "$ROOT/requirements.txt" "$ROOT/pyproject.toml" | sha256sum) $("$base" -V)"
  [ -f "$stamp" ] && [ "$(cat "$stamp")" = "$wanted" ] && return 0
  say "setting up .venv (once, a few minutes)"
  if ! { "$base" -m venv --clear "$ROOT/.venv" &&
         "$PYTHON" -m pip install -q --disable-pip-version-check -r "$ROOT/requirements.txt" &&
         "$PYTHON" -m pip install -q --disable-pip-version-check --no-deps -e "$ROOT"; } >"$ROOT/.setup.log" 2>&1; then
    say "the set-up failed: $(tail -n 1 "$ROOT/.setup.log") (all of it is in .setup.log); mend that and call again."
    return 1
  fi
  rm -f "$ROOT/.setup.log"
  echo "$wanted" >"$stamp"
}

WINDOW_PACKAGES=(libgl1 libegl1 libosmesa6 libgl1-mesa-dri libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4
  libxcb-keysyms1 libxcb-shape0 libxcb-xinerama0 libxcb-image0 libxcb-render-util0 libxcb-randr0 libxcb-util1
  libdbus-1-3 libfontconfig1)
