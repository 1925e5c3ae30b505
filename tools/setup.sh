#!/usr/bin/env bash
# Installs whatever is missing, and only that. Safe to run again: what is there is left alone.
#   tools/setup.sh lint    what the checks need
#   tools/setup.sh start   what the application needs
#   tools/setup.sh test    that, a browser to drive and a spreadsheet program
set -euo pipefail
cd "$(dirname "$0")/.."
unset PYTHONDONTWRITEBYTECODE # what is imported is compiled once and kept
what=${1:-start}

say() { printf '· %s\n' "$*"; }
fail() { printf 'Cannot go on: %s\n' "$*" >&2; exit 1; }

debian() { # packages
  [ $# -gt 0 ] || return 0
  say "installing Debian's $*"
  local as_root=()
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || fail "$* are missing. Install them: apt-get install $*"
    as_root=(sudo)
  fi
  "${as_root[@]}" apt-get update -qq || fail "Debian's package lists cannot be read; is there a network?"
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends "$@" >/dev/null \
    || fail "$* could not be installed. Try: apt-get install $*"
}

there() { command -v "$1" >/dev/null; }
first=() later=() # what is needed to go on, and what only runs in the end
there python3.11 || first+=(python3.11 python3.11-venv)
there node || first+=(nodejs npm)
[ "$what" = lint ] || compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || later+=(postgresql)
if [ "$what" = test ]; then
  there chromium || later+=(chromium)
  there chromedriver || later+=(chromium-driver)
  there soffice || later+=(libreoffice-calc) # workbooks are opened in it
fi
debian ${first[@]+"${first[@]}"}
debian ${later[@]+"${later[@]}"} &
packages=$!
node -e 'process.exit(+process.versions.node.split(".")[0] >= 20 ? 0 : 1)' \
  || fail "Node.js 20 or newer is needed, this is $(node --version)"

sum() { cat "$@" | sha256sum | cut -d' ' -f1; }
fresh() { [ "$(cat "$1" 2>/dev/null || true)" = "$2" ]; } # stamp file, what it should say

# The pages and Python need nothing of each other, so both are made at once.
pages() {
  local wanted
  wanted=$(sum web/package.json web/package-lock.json)
  if ! fresh web/node_modules/.installed "$wanted"; then
    say 'installing npm packages'
    # Not `npm ci`: it refuses a lock without the native parts of other platforms.
    (cd web && npm install --no-save --no-audit --no-fund --loglevel error)
    echo "$wanted" >web/node_modules/.installed
  fi
  if [ "$what" = lint ]; then return; fi
  wanted=$(find web/src web/public web/index.html web/vite.config.ts docs/guide.md docs/guide -type f | sort | xargs cat | sha256sum | cut -d' ' -f1)
  if ! fresh web/dist/.built "$wanted"; then
    say 'building the pages'
    (cd web && npm run --silent build -- --logLevel warn)
    echo "$wanted" >web/dist/.built
  fi
}
(set -e; pages) &
building=$!

if [ ! -x .venv/bin/python ]; then
  say 'making .venv'
  python3.11 -m venv .venv || fail 'python3.11 -m venv failed; apt-get install python3.11-venv'
fi
install() { .venv/bin/pip install -q -q --disable-pip-version-check --no-compile "$@"; }

kernel() {
  local wanted
  wanted=$(sum golddice/core/trial/*.py $(grep -rl "from numba" golddice/core --include="*.py" | sort))
  if [ "$what" = lint ] || fresh .venv/.compiled "$wanted"; then return; fi
  say 'compiling the event kernel'
  find golddice -name '*.nb[ci]' -delete
  .venv/bin/python -m golddice.core.warm
  echo "$wanted" >.venv/.compiled
}

wanted=$(sum requirements.txt pyproject.toml)
if ! fresh .venv/.installed "$wanted"; then
  # What is used of them is compiled as it is imported. Compiled loops need a few of them: these come first, and
  # the others while it compiles, which takes one processor longer than all the rest.
  say 'installing Python packages'
  grep -E '^(annotated-types|llvmlite|numba|numpy|propcache|pyarrow|pydantic|pydantic-core|scipy|typing-extensions|typing-inspection)==' \
    requirements.txt >.venv/first.txt
  install --no-deps -r .venv/first.txt
  (set -e; kernel) &
  compiling=$!
  install -r requirements.txt
  install --no-deps --no-build-isolation -e .
  echo "$wanted" >.venv/.installed
else
  (set -e; kernel) &
  compiling=$!
fi
wait "$compiling" || fail 'the event kernel could not be compiled'
wait "$building" || fail 'the pages could not be built'
wait "$packages" || fail "Debian's packages could not be installed"
