# `make demo` sets everything up, seeds the demo and starts it; `make test` sets everything up and runs all checks.
# Each set-up step leaves a stamp, so that it is done again only when what it depends on has changed.
PYTHON ?= python3
BIN := .venv/bin
STAMPS := .stamps
# Every test of the command line and of the server starts Python anew: it must not compile our sources each time.
unexport PYTHONDONTWRITEBYTECODE
WEB_SOURCES := $(shell find web/src web/public -type f) web/index.html web/vite.config.ts web/tsconfig.json
KERNELS := $(shell grep -rlE --include=*.py 'numba|core.compiled' src/zeichen/core)
# Tests that share nothing and need no server; the others start servers and browsers.
PURE := src/zeichen/core tests/core tests/reference tests/standins tests/store

.PHONY: demo test pure browser served ready lint front bench types screenshots clean

demo:
	@$(MAKE) --no-print-directory -j2 $(STAMPS)/python $(STAMPS)/web
	@$(BIN)/zeichen demo

test:
	@$(MAKE) --no-print-directory -j2 --output-sync=target ready
	@$(MAKE) --no-print-directory -j3 --output-sync=target browser served pure

# Each has servers, ports and data folders of its own, so they may run side by side: the first two often wait.
pure:
	$(BIN)/python -m pytest $(PURE)
browser:
	$(BIN)/python -m pytest tests/e2e
served:
	$(BIN)/python -m pytest tests --ignore=tests/e2e $(PURE:%=--ignore=%)

# All there is to do before the tests, two things at a time: compiling the kernels takes as long as all checks.
ready: $(STAMPS)/python $(STAMPS)/kernels $(STAMPS)/web $(STAMPS)/system lint front

lint: $(STAMPS)/python
	$(BIN)/ruff check src tests bench docs
	$(BIN)/ruff format --check src tests bench docs
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo

front: $(STAMPS)/python $(STAMPS)/node
	$(BIN)/python -m zeichen.api.describe > $(STAMPS)/openapi.json
	cd web && npx openapi-typescript ../$(STAMPS)/openapi.json -o ../$(STAMPS)/schema.d.ts
	$(BIN)/python -m zeichen.api.describe trace-defaults > $(STAMPS)/traceDefaults.json
	@cmp -s $(STAMPS)/traceDefaults.json web/src/api/traceDefaults.json && cmp -s $(STAMPS)/schema.d.ts web/src/api/schema.d.ts || { echo "The client's types are stale: run make types."; exit 1; }
	cd web && npm run check && npm test

bench: $(STAMPS)/python $(STAMPS)/kernels
	$(BIN)/python -m bench

types: $(STAMPS)/python $(STAMPS)/node
	$(BIN)/python -m zeichen.api.describe > $(STAMPS)/openapi.json
	cd web && npx openapi-typescript ../$(STAMPS)/openapi.json -o src/api/schema.d.ts
	$(BIN)/python -m zeichen.api.describe trace-defaults > web/src/api/traceDefaults.json

# Pictures of the main views, taken from the demo data.
screenshots: $(STAMPS)/python $(STAMPS)/kernels $(STAMPS)/web $(STAMPS)/system
	$(BIN)/python docs/take_screenshots.py

clean:
	rm -rf .venv $(STAMPS) web/node_modules src/zeichen/api/static

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	$(PYTHON) -c 'import sys; sys.exit("Zeichen needs Python 3.11 or newer." if sys.version_info < (3, 11) else 0)'
	test -x $(BIN)/python || $(PYTHON) -m venv .venv
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

# The numeric kernels are compiled once here, so that no test waits for it; the app does it itself where it must.
$(STAMPS)/kernels: $(STAMPS)/python $(KERNELS)
	$(BIN)/python -m zeichen.core.tracing.warming
	@touch $@

$(STAMPS)/node: web/package-lock.json web/package.json
	@mkdir -p $(STAMPS)
	cd web && npm ci --no-audit --no-fund
	@touch $@

$(STAMPS)/web: $(STAMPS)/node $(WEB_SOURCES)
	cd web && npm run build
	@touch $@

# What the tests need beyond Python and Node: a browser, and readers of EPS and PDF.
$(STAMPS)/system:
	@mkdir -p $(STAMPS)
	@if ! { command -v chromium && command -v gs && command -v pdftoppm; } > /dev/null; then \
		apt-get update -qq && apt-get install -y -qq --no-install-recommends chromium ghostscript poppler-utils; fi
	@touch $@
