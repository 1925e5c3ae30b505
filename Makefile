# Two commands do everything: `make start` and `make test`.
# What is imported is compiled once and kept, whatever the shell says: every process would do it anew.
unexport PYTHONDONTWRITEBYTECODE
.PHONY: start test lint bench types screenshots clean

start: ## install what is missing, build, start PostgreSQL and the application on the demo game
	@tools/setup.sh start
	@exec .venv/bin/golddice serve --demo

test: ## install what is missing and run every test
	@tools/setup.sh test
	@.venv/bin/python -m tests $(only)

lint: ## style, types, import contracts, generated types
	@tools/setup.sh lint
	@tools/lint.sh

bench: ## ours beside its rivals
	@tools/setup.sh start
	@.venv/bin/python -m bench

types: ## the web's types from the server's OpenAPI document
	@.venv/bin/python -m golddice.server.openapi > web/openapi.json
	@cd web && npx --no-install openapi-typescript openapi.json -o src/api/schema.d.ts >/dev/null

screenshots: ## the pictures in docs/screenshots, from the demo game
	@tools/setup.sh test
	@.venv/bin/python -m tests.browser.screenshots
