# Sourced by ./start and ./check: system libraries and the project's virtual environment.
# Usage: prepare_system [package...]; prepare_python [extra]

here=$(cd "$(dirname "${BASH_SOURCE[0]}")/.." && pwd)
venv="$here/.venv"
# Packages are compiled as they are first wanted: most of what comes with them never is, and all of it takes a minute.
unset PYTHONDONTWRITEBYTECODE

# What Qt needs to show a window, and what makes sound. Debian names.
runtime_packages=(libegl1 libgl1 libxkbcommon0 libxkbcommon-x11-0 libdbus-1-3 libfontconfig1
  libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 libxcb-shape0 libxcb-image0 libxcb-render-util0
  libxcb-xinerama0 libxcb-randr0 libfluidsynth3 timgm6mb-soundfont
  fonts-dejavu-core fonts-wqy-microhei fonts-freefont-ttf) # letters that the own face has not

prepare_system() {
  command -v dpkg-query >/dev/null || return 0
  local missing=() package
  for package in "$@"; do
    dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || missing+=("$package")
  done
  [ ${#missing[@]} -gt 0 ] || return 0
  if [ "$(id -u)" = 0 ]; then
    echo "Installing: ${missing[*]}"
    if ! { unlocked apt-get update -qq && unlocked apt-get install -y -qq --no-install-recommends "${missing[@]}"; }; then
      echo "apt-get could not install them; going on without: some things may not work." >&2
    fi
  else
    echo "These system packages are missing: ${missing[*]}" >&2
    echo "Install them with: sudo apt-get install ${missing[*]}" >&2
  fi
}

# Run apt-get, and wait up to two minutes where another program holds its lock (its own time-out knows one of its locks).
unlocked() {
  local said until=$((SECONDS + ${lock_patience_s:-120})) waiting=
  while ! said=$(DEBIAN_FRONTEND=noninteractive "$@" 2>&1 >/dev/null); do
    if ! grep -q 'Could not get lock\|Unable to lock\|Unable to acquire' <<<"$said" || [ $SECONDS -ge $until ]; then
      echo "$said" >&2
      return 1
    fi
    [ -n "$waiting" ] || echo "Another program is installing packages: waiting for it, two minutes at most..."
    waiting=yes
    sleep 1
  done
}

prepare_python() {
  local extra=${1:-} stamp="$venv/.yellow-hinge-${1:-run}" wanted
  wanted=$(cat "$here/pyproject.toml" | cksum)
  if [ -x "$venv/bin/python" ] && [ "$(cat "$stamp" 2>/dev/null)" = "$wanted" ]; then
    return 0
  fi
  if ! command -v python3.11 >/dev/null; then
    echo "Python 3.11 is needed: install python3.11 and python3.11-venv" >&2
    return 1
  fi
  echo "Setting up Python packages (once)..."
  [ -x "$venv/bin/python" ] || python3.11 -m venv "$venv"
  "$venv/bin/python" -m pip install --quiet --no-compile --disable-pip-version-check -e "$here${extra:+[$extra]}" 2> >(grep -v '^WARNING: Location' >&2)
  echo "$wanted" > "$stamp"
  echo "$wanted" > "$venv/.yellow-hinge-run" # what checks need holds what running needs
}
