#!/usr/bin/env bash
# Every check that is not a test. Says which failed; ends with how many did.
set -uo pipefail
cd "$(dirname "$0")/.."
passed=0 failed=0

check() { # name, command ...
  local name=$1 output
  shift
  if output=$("$@" 2>&1); then
    passed=$((passed + 1))
    printf 'ok    %s\n' "$name"
  else
    failed=$((failed + 1))
    printf 'FAIL  %s\n%s\n' "$name" "$output"
  fi
}

types_are_current() {
  local folder
  folder=$(mktemp -d)
  .venv/bin/python -m golddice.server.openapi >"$folder/openapi.json"
  (cd web && npx --no-install openapi-typescript "$folder/openapi.json" -o "$folder/schema.d.ts") || return 1
  diff -q "$folder/schema.d.ts" web/src/api/schema.d.ts || { echo 'run: make types'; return 1; }
}

check 'ruff' .venv/bin/ruff check .
check 'ruff format' .venv/bin/ruff format --check .
check 'mypy --strict' .venv/bin/mypy
check 'import contracts' .venv/bin/lint-imports
check 'TypeScript' bash -c 'cd web && npx --no-install tsc -b'
check 'eslint' bash -c 'cd web && npx --no-install eslint . --max-warnings 0'
check 'prettier' bash -c 'cd web && npx --no-install prettier --check .'
check 'generated types are current' types_are_current
echo "checks: $passed passed, $failed failed"
[ "$failed" = 0 ]
