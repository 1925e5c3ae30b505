#!/usr/bin/env bash
# Every check that is not a test. Says which failed; ends with how many did.
set -uo pipefail
cd "$(dirname "$0")/.."
unset PYTHONDONTWRITEBYTECODE
said=$(mktemp -d)
trap 'rm -rf "$said"' EXIT
names=() running=0

check() { # name, command ...; two at a time, since most use one core
  local at=${#names[@]}
  names+=("$1")
  shift
  if [ "$running" -ge 2 ]; then wait -n || true; running=$((running - 1)); fi
  ("$@" >"$said/$at" 2>&1; echo $? >"$said/$at.exit") &
  running=$((running + 1))
}

types_are_current() {
  local folder
  folder=$(mktemp -d)
  .venv/bin/python -m golddice.server.openapi >"$folder/openapi.json"
  (cd web && npx --no-install openapi-typescript "$folder/openapi.json" -o "$folder/schema.d.ts") || return 1
  diff -q "$folder/schema.d.ts" web/src/api/schema.d.ts || { echo 'run: make types'; return 1; }
}

check 'TypeScript' bash -c 'cd web && npx --no-install tsc -b'
check 'mypy --strict' .venv/bin/mypy
check 'eslint' bash -c 'cd web && npx --no-install eslint . --max-warnings 0'
check 'generated types are current' types_are_current
check 'prettier' bash -c 'cd web && npx --no-install prettier --check .'
check 'import contracts' .venv/bin/lint-imports
check 'regular expressions' .venv/bin/python tools/regexes.py golddice
check 'one place for results' .venv/bin/python tools/caches.py golddice/core
check 'one walk of tables' .venv/bin/python tools/walks.py golddice/core
check 'ruff' .venv/bin/ruff check .
check 'ruff format' .venv/bin/ruff format --check .
wait

passed=0 failed=0
for at in "${!names[@]}"; do
  if [ "$(cat "$said/$at.exit")" = 0 ]; then
    passed=$((passed + 1))
    printf 'ok    %s\n' "${names[at]}"
  else
    failed=$((failed + 1))
    printf 'FAIL  %s\n' "${names[at]}"
    cat "$said/$at"
  fi
done
echo "checks: $passed passed, $failed failed"
[ "$failed" = 0 ]
