# Two commands matter: `make demo` shows Ulvet with demo data, `make test` runs every check.
SHELL := /bin/bash
.SHELLFLAGS := -eu -o pipefail -c
.DELETE_ON_ERROR:

PYTHON ?= python3
PORT ?= 8321
DATA ?= $(CURDIR)/data
BIN := .venv/bin
# Tests beside each other; each may take some 2 GB, so that more than four are not for every machine.
CORES := $(shell n=$$(nproc); echo $$((n < 4 ? n : 4)))
STAMPS := .stamps
FRONT := $(shell find frontend/src -type f 2>/dev/null) frontend/index.html frontend/vite.config.ts frontend/tsconfig.json

CORE := $(shell find src/ulvet/core -name '*.py' 2>/dev/null)

.PHONY: demo test test-fast test-deep pytest-fast slow-tests checks front-checks types format benchmark screenshots lock clean chromium

demo: $(STAMPS)/python $(STAMPS)/front $(STAMPS)/kernels
	@exec $(BIN)/ulvet serve --demo --port "$(PORT)" --data "$(DATA)"

test: chromium checks front-checks
	@echo "· python tests, with the real browser"
	@$(BIN)/pytest -n $(CORES) -m "not deep"

# Everything that takes too long for every change: whole sets where the usual run tries some, half an hour of chaos.
test-deep: $(STAMPS)/dev $(STAMPS)/front
	@ULVET_DEEP=1 ULVET_CHAOS=1800 ULVET_KILLS=30 $(BIN)/pytest -n $(CORES) --timeout 7200

# Warm, without the browser and without anything in tests/slow.txt.
test-fast: $(STAMPS)/dev $(STAMPS)/front
	@$(MAKE) --no-print-directory --output-sync -j2 pytest-fast checks front-checks

# Runs all tests but the deep ones and writes which of them took more than a second.
slow-tests: chromium $(STAMPS)/dev $(STAMPS)/front
	@$(BIN)/pytest -n $(CORES) -m "not deep" --write-slow

pytest-fast: $(STAMPS)/dev
	@$(BIN)/pytest -n $(CORES) -m "not browser and not slow and not deep"

checks: $(STAMPS)/dev
	@echo "· format, lint, types, import contracts, what nothing uses"
	@$(BIN)/ruff format --check -q src tests benchmarks
	@$(BIN)/ruff check -q src tests benchmarks
	@$(BIN)/mypy --no-error-summary
	@$(BIN)/lint-imports --no-logo > $(STAMPS)/imports.txt || { cat $(STAMPS)/imports.txt; exit 1; }
	@$(BIN)/vulture
	@$(BIN)/deptry src > $(STAMPS)/dependencies.txt 2>&1 || { cat $(STAMPS)/dependencies.txt; exit 1; }

front-checks: $(STAMPS)/front $(STAMPS)/dev
	@echo "· front end: generated types, lint, types, unit tests"
	@$(BIN)/python -m ulvet.api.contract > $(STAMPS)/openapi.json
	@cd frontend && npx --no-install openapi-typescript ../$(STAMPS)/openapi.json -o ../$(STAMPS)/schema.d.ts > /dev/null 2>&1
	@cmp -s $(STAMPS)/schema.d.ts frontend/src/api/schema.d.ts || { echo "frontend/src/api/schema.d.ts is out of date: run make types"; exit 1; }
	@cd frontend && npm run -s lint && npm run -s check && npm run -s test

types: $(STAMPS)/dev $(STAMPS)/npm
	@$(BIN)/python -m ulvet.api.contract > $(STAMPS)/openapi.json
	@cd frontend && npx --no-install openapi-typescript ../$(STAMPS)/openapi.json -o src/api/schema.d.ts > /dev/null

format: $(STAMPS)/dev $(STAMPS)/npm
	@$(BIN)/ruff format src tests benchmarks && $(BIN)/ruff check --fix src tests benchmarks
	@cd frontend && npm run -s format > /dev/null

# ONLY=layers,mend measures these sections alone.
benchmark: $(STAMPS)/dev $(STAMPS)/front chromium
	@$(BIN)/ulvet warm
	@$(BIN)/python -m benchmarks $(ONLY)

screenshots: $(STAMPS)/dev $(STAMPS)/front chromium
	@$(BIN)/python -m docs.screenshots.take

# Adds what pyproject.toml asks for and keeps the rest; UPGRADE=--upgrade moves everything on.
lock: $(STAMPS)/dev
	@$(BIN)/pip-compile -q $(UPGRADE) --strip-extras --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --no-emit-options --allow-unsafe -o requirements.lock pyproject.toml
	@$(BIN)/pip-compile -q $(UPGRADE) --extra dev --strip-extras --no-emit-index-url --no-emit-find-links --no-emit-trusted-host --no-emit-options --allow-unsafe -c requirements.lock -o requirements-dev.lock pyproject.toml

chromium:
	@if [ ! -x /usr/bin/chromium ]; then \
	  if [ "$$(id -u)" = 0 ]; then echo "· installing chromium"; apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq chromium > /dev/null; \
	  else echo "The browser tests need Debian's chromium: run  sudo apt-get install chromium  and try again."; exit 1; fi; fi

clean:
	rm -rf .venv .stamps frontend/node_modules frontend/dist

$(STAMPS)/venv:
	@mkdir -p $(STAMPS)
	@echo "· making .venv"
	@$(PYTHON) -m venv .venv
	@touch $@

$(STAMPS)/python: requirements.lock pyproject.toml $(STAMPS)/venv
	@echo "· installing locked Python packages (a few minutes the first time)"
	@$(BIN)/pip install -q --disable-pip-version-check -r requirements.lock
	@$(BIN)/pip install -q --disable-pip-version-check --no-deps -e .
	@touch $@

$(STAMPS)/kernels: $(CORE) $(STAMPS)/python
	@echo "· compiling kernels (once)"
	@$(BIN)/ulvet warm
	@touch $@

$(STAMPS)/dev: requirements-dev.lock $(STAMPS)/python
	@echo "· installing locked development packages"
	@$(BIN)/pip install -q --disable-pip-version-check -r requirements-dev.lock
	@touch $@

$(STAMPS)/npm: frontend/package-lock.json
	@mkdir -p $(STAMPS)
	@echo "· installing locked front-end packages"
	@cd frontend && npm ci --silent --no-audit --no-fund
	@touch $@

$(STAMPS)/front: $(FRONT) $(STAMPS)/npm
	@echo "· building the front end"
	@cd frontend && npm run -s build -- --logLevel error
	@touch $@
