# Every target makes what it needs first; `make help` lists them.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
CONSOLE := src/wise_ledger/service/console/index.html
SCHEMA := console/src/api/schema.ts

# Compiled code is kept, whatever the machine says: a command starts in two thirds of the time.
# What is installed is compiled when it is first loaded: most of it never is.
unexport PYTHONDONTWRITEBYTECODE

.DEFAULT_GOAL := help
.PHONY: help demo test torture check lint types rules format console-check console-types console-tests browser bench bench-json screenshots examples lock clean console

help: ## list the targets
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | awk -F ':.*## ' '{printf "  make %-14s %s\n", $$1, $$2}'

$(VENV)/.runtime: requirements/runtime.txt pyproject.toml
	@$(PYTHON) -c 'import sys; sys.exit(sys.version_info < (3, 11))' || { echo "Python 3.11 or newer is needed; set PYTHON=…"; exit 1; }
	@test -x $(BIN)/pip || $(PYTHON) -m venv $(VENV) 2>/dev/null || { rm -rf $(VENV); \
	  test "$$(id -u)" = 0 && apt-get install -y -qq python3-venv >/dev/null && $(PYTHON) -m venv $(VENV); } || \
	  { echo "Python's venv module is missing. Run: sudo apt-get install python3-venv"; exit 1; }
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile -r requirements/runtime.txt
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

$(VENV)/.develop: requirements/develop.txt $(VENV)/.runtime
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile -r requirements/develop.txt
	@touch $@

console/node_modules/.installed: console/package-lock.json
	@command -v npm >/dev/null || { echo "Node 20 with npm is needed. On Debian: apt-get install nodejs npm"; exit 1; }
	cd console && npm ci --silent --no-audit --no-fund
	@touch $@

# The types of the console are those of the service's own OpenAPI document.
$(SCHEMA): console/node_modules/.installed $(VENV)/.runtime tools/openapi.py $(shell find src/wise_ledger/service src/wise_ledger/wire -name '*.py')
	$(BIN)/python tools/openapi.py console/openapi.json
	cd console && npm run --silent types > /dev/null
	@touch $@

$(CONSOLE): $(SCHEMA) $(shell find console/src console/public -type f) console/index.html console/vite.config.ts
	cd console && npm run --silent build -- --logLevel warn
	@touch $@

console: $(CONSOLE) ## build the console into the package

demo: $(VENV)/.runtime $(CONSOLE) ## start a ledger of made-up companies and say how to sign in
	@$(BIN)/wise-ledger demo $(ARGS)

browser: $(VENV)/.develop # Debian's Chromium, where there is none
	@$(BIN)/python tests/browser.py

test: browser $(CONSOLE) ## run every test (ARGS=tests.core… runs some)
	@$(BIN)/python -m tests $(ARGS)

torture: $(VENV)/.develop ## the hostile world in long form: calls, kills, faults, flips, files (ARGS=--scale 0.1)
	@$(BIN)/python -m tests.torture $(ARGS)

format: $(VENV)/.develop console/node_modules/.installed ## lay out all lines as the checks want them
	$(BIN)/ruff format --quiet src tests benchmarks tools
	cd console && npm run --silent format

lint: $(VENV)/.develop ## ruff: style and format
	$(BIN)/ruff check src tests benchmarks tools
	$(BIN)/ruff format --check src tests benchmarks tools

types: $(VENV)/.develop ## mypy --strict on core, wire and client
	$(BIN)/mypy

rules: $(VENV)/.develop ## which room may know which
	$(BIN)/lint-imports

console-check: console-types console-tests ## types and format of the console, and its tests without a browser

console-types: $(SCHEMA)
	cd console && npm run --silent check

console-tests: $(SCHEMA)
	cd console && npm test --silent

check: lint types rules console-check ## all checks that are no tests

bench: $(VENV)/.develop ## measure against other engines (SIZE=small|full)
	@$(BIN)/python -m benchmarks --size $(or $(SIZE),full)

bench-json: $(VENV)/.develop ## the same into benchmarks/results.json
	@$(BIN)/python -m benchmarks --size $(or $(SIZE),full) --json benchmarks/results.json

screenshots: $(VENV)/.develop $(CONSOLE) ## draw docs/screenshots/ again from the demo data
	@$(BIN)/python tests/browser.py
	@$(BIN)/python tools/screenshots.py

examples: $(VENV)/.develop ## record the API's example answers again from the demo data
	@$(BIN)/python tools/examples.py src/wise_ledger/service/examples.json

lock: $(VENV)/.runtime ## pin what requirements/*.in ask for
	$(BIN)/python -m pip install --quiet pip-tools
	for name in runtime develop; do $(BIN)/pip-compile --quiet --strip-extras --no-header --no-emit-index-url --no-emit-find-links --no-emit-trusted-host -o requirements/$$name.txt requirements/$$name.in; done

clean: ## remove what was built, not the data
	rm -rf $(VENV) console/node_modules src/wise_ledger/service/console src/*.egg-info
