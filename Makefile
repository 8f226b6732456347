# Two commands do everything: `make demo` and `make test`.
SHELL := /bin/bash
.DEFAULT_GOAL := help
PYTHON ?= python3
PORT ?= 8610
SERVICE_PORT ?= 8611
VENV := .venv
BIN := $(VENV)/bin
STATIC := tin_bucket/web/static/index.html
FRONT := $(shell find frontend/src frontend/public -type f 2>/dev/null) frontend/index.html frontend/vite.config.ts frontend/vite.reader.config.ts

.PHONY: help demo serve test check check-python check-front test-python test-front test-office bench build screenshots browser database machine jobs schema third-party clean

help:
	@echo "make demo    set up, build, and serve a demo with a month of snapshots"
	@echo "make test    set up, check everything, run all tests, the browser's too"
	@echo "make serve   serve your own workspace"
	@echo "make bench   measure the speed, as ratios in one run; WORKS=worked: one of them"

# Set-up ------------------------------------------------------------------------------------------

$(BIN)/.ready: pyproject.toml constraints.txt
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -c constraints.txt -e '.[dev]'
	touch $@

frontend/node_modules/.ready: frontend/package-lock.json frontend/package.json
	cd frontend && npm ci --prefer-offline --no-audit --no-fund --loglevel=error
	touch $@

# The front end's types, from the server's own OpenAPI document.
frontend/src/api/schema.d.ts: $(BIN)/.ready frontend/node_modules/.ready $(shell find tin_bucket/web tin_bucket/core tin_bucket/engine -name "*.py")
	$(BIN)/python -m tin_bucket.web.openapi frontend/openapi.json
	cd frontend && npx openapi-typescript openapi.json -o src/api/schema.d.ts >/dev/null

$(STATIC): frontend/node_modules/.ready frontend/src/api/schema.d.ts $(FRONT)
	cd frontend && npx vite build --logLevel warn && npx vite build --config vite.reader.config.ts --logLevel warn
	touch $@

build: $(BIN)/.ready $(STATIC)

# The browser for the tests: Debian's, installed where it is missing and this user may.
browser:
	@command -v chromium >/dev/null && command -v chromedriver >/dev/null || { \
	  echo "installing chromium and chromium-driver"; \
	  $$( [ "$$(id -u)" = 0 ] || echo sudo -n ) sh -c 'apt-get update -qq && apt-get install -y -qq chromium chromium-driver >/dev/null'; \
	} || echo "no browser and no way to install one: the browser tests will be skipped"

# The database server for the tests: Debian's, as the browser. One after the other, since apt does one thing at a time.
database:
	@ls /usr/lib/postgresql/*/bin/initdb >/dev/null 2>&1 || { \
	  echo "installing postgresql"; \
	  $$( [ "$$(id -u)" = 0 ] || echo sudo -n ) sh -c 'apt-get install -y -qq --no-install-recommends postgresql >/dev/null'; \
	} || echo "no PostgreSQL and no way to install one: its tests will be skipped"

machine:
	+@$(MAKE) --no-print-directory browser
	+@$(MAKE) --no-print-directory database

# Running -----------------------------------------------------------------------------------------

demo: build
	$(BIN)/tin-bucket demo --home .demo --port $(PORT) --service-port $(SERVICE_PORT)

serve: build
	$(BIN)/tin-bucket serve --port $(PORT)

# Checking ----------------------------------------------------------------------------------------

# What waits for a download or keeps one processor busy is done side by side.
test:
	+@$(MAKE) --no-print-directory --jobs=3 --output-sync build machine
	+@$(MAKE) --no-print-directory --jobs=2 --output-sync check-front check-python test-front
	+@$(MAKE) --no-print-directory test-python

check: build
	+@$(MAKE) --no-print-directory --jobs=2 --output-sync check-python check-front

check-python:
	$(BIN)/ruff format --check --quiet .
	$(BIN)/ruff check --quiet .
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo --cache-dir .make/imports

check-front:
	cd frontend && npx prettier --check --log-level warn .
	cd frontend && npx eslint .
	cd frontend && npx svelte-check --fail-on-warnings

test-front: build
	cd frontend && npx vitest run --reporter=dot

# The tests start the command hundreds of times: it is compiled once. They compile nothing themselves, since some of them
# run on a disk that is full.
test-python: export PYTHONDONTWRITEBYTECODE := 1
test-python: build
	$(BIN)/python -m compileall -q tin_bucket tests
	$(BIN)/python -m pytest

# An office suite opens every workbook that was fed: Debian's, which is too large for each run.
test-office: build
	@command -v soffice >/dev/null || { \
	  echo "installing libreoffice-calc-nogui"; \
	  $$( [ "$$(id -u)" = 0 ] || echo sudo -n ) sh -c 'apt-get update -qq && apt-get install -y -qq --no-install-recommends libreoffice-calc-nogui >/dev/null'; \
	}
	$(BIN)/python -m pytest -n0 tests/feeds/workbook/test_office.py

bench: build
	$(BIN)/python -m bench $(WORKS)

# What the commonest jobs take, in clicks, keys and seconds; see docs/jobs.md.
jobs: build browser
	$(BIN)/python -m pytest -o addopts= -q -s tests/browser/test_jobs.py

# The JSON Schema of the query format, from the brief; a test holds the two together.
schema: $(BIN)/.ready
	$(BIN)/tin-bucket schema > docs/query-format.schema.json

# The list of packages with their licences; a test holds it to the pinned versions.
third-party: $(BIN)/.ready frontend/node_modules/.ready
	$(BIN)/python docs/third_party.py > docs/third-party.md

screenshots: build
	$(BIN)/python docs/screenshots/take.py "$$($(BIN)/tin-bucket address --home .demo)"

clean:
	rm -rf $(VENV) frontend/node_modules tin_bucket/web/static .demo
