#!/usr/bin/env bash
# Installs whatever is missing, and only that. Safe to run again: what is there is left alone.
#   tools/setup.sh start   what the application needs
#   tools/setup.sh test    that, a browser to drive and a spreadsheet program
set -euo pipefail
cd "$(dirname "$0")/.."
what=${1:-start}

say() { printf '· %s\n' "$*"; }
fail() { printf 'Cannot go on: %s\n' "$*" >&2; exit 1; }

debian() { # package, program that proves it is there
  say "installing Debian's $1 (no $2 found)"
  local as_root=()
  if [ "$(id -u)" != 0 ]; then
    command -v sudo >/dev/null || fail "$1 is missing. Install it: apt-get install $1"
    as_root=(sudo)
  fi
  "${as_root[@]}" apt-get update -qq || fail "Debian's package lists cannot be read; is there a network?"
  DEBIAN_FRONTEND=noninteractive "${as_root[@]}" apt-get install -y -qq --no-install-recommends $1 >/dev/null \
    || fail "$1 could not be installed. Try: apt-get install $1"
}

compgen -G '/usr/lib/postgresql/*/bin/initdb' >/dev/null || debian postgresql initdb
command -v python3.11 >/dev/null || debian 'python3.11 python3.11-venv' python3.11
if [ "$what" = test ]; then
  command -v chromium >/dev/null || debian chromium chromium
  command -v chromedriver >/dev/null || debian chromium-driver chromedriver
  command -v soffice >/dev/null || debian libreoffice-calc soffice # workbooks are opened in it
fi
command -v node >/dev/null || debian 'nodejs npm' node
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
wanted=$(sum requirements.txt pyproject.toml)
if ! fresh .venv/.installed "$wanted"; then
  say 'installing Python packages' # what is used of them is compiled as it is imported
  .venv/bin/pip install -q -q --disable-pip-version-check --no-compile -r requirements.txt
  .venv/bin/pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
  echo "$wanted" >.venv/.installed
fi

wanted=$(sum golddice/core/trial/*.py $(grep -rl "from numba" golddice/core --include="*.py" | sort))
if ! fresh .venv/.compiled "$wanted"; then
  say 'compiling the event kernel'
  find golddice -name '*.nb[ci]' -delete
  .venv/bin/python -m golddice.core.warm || fail 'the event kernel could not be compiled'
  echo "$wanted" >.venv/.compiled
fi

wait "$building" || fail 'the pages could not be built'
