# The two commands a newcomer needs: make demo, make test. Both set up what is missing.
SHELL := /bin/bash
.SHELLFLAGS := -euo pipefail -c
.DEFAULT_GOAL := help
PY := .venv/bin/python
STAMPS := .cache/stamps
BASE ?= HEAD~1
WEB_SOURCES := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/tsconfig.json

.PHONY: help pictures setup system system-to-run python web demo test test-quick lint types-check lint-python lint-web tests format bench slow clean schema lock

help: ## List the targets
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | awk -F ':.*## ' '{printf "  make %-11s %s\n", $$1, $$2}'

setup: system python web ## Install what is missing, build the front end
system:
	@scripts/install-system.sh --with-browser
system-to-run:
	@scripts/install-system.sh
python: $(STAMPS)/python
web: $(STAMPS)/web-build

$(STAMPS)/python-to-run: requirements/base.txt pyproject.toml
	@echo "== Python packages to run it, into .venv (the first time: one to four minutes)"
	@mkdir -p $(STAMPS)
	@test -x $(PY) || python3 -m venv .venv
	@.venv/bin/pip install --disable-pip-version-check --no-input --require-hashes -q -r requirements/base.txt
	@touch $@

$(STAMPS)/python: $(STAMPS)/python-to-run requirements/dev.txt
	@echo "== Python packages to test it, into .venv (the first time: one to four minutes)"
	@.venv/bin/pip install --disable-pip-version-check --no-input --require-hashes -q -r requirements/base.txt -r requirements/dev.txt
	@touch $@

$(STAMPS)/web-packages: web/package.json web/package-lock.json web/.npmrc
	@echo "== front-end packages into web/node_modules"
	@mkdir -p $(STAMPS)
	@cd web && npm ci --silent --no-progress
	@touch $@

$(STAMPS)/web-build: $(STAMPS)/web-packages $(WEB_SOURCES)
	@echo "== front-end build into web/dist"
	@cd web && npm run --silent build
	@touch $@

demo: system-to-run $(STAMPS)/python-to-run web ## Start everything with demo data; prints the address
	@exec ./cronaca demo

test: setup lint tests ## Lint, types, import rules and every test

lint: ## Lint, types, import rules: both languages at a time
	@$(MAKE) --no-print-directory -j2 -O lint-python lint-web
lint-python: python
	@echo "== ruff, mypy, import rules, names"
	@.venv/bin/ruff check src tests bench scripts
	@.venv/bin/ruff format --check src tests bench scripts
	@.venv/bin/mypy
	@PYTHONPATH=src .venv/bin/lint-imports
	@$(PY) scripts/check_names.py .
lint-web: $(STAMPS)/web-packages
	@echo "== eslint, prettier, tsc, import rules of the front end"
	@cd web && npm run --silent lint && npm run --silent format:check && npm run --silent types && npm run --silent deps

tests: python web
	@echo "== front-end unit tests"
	@cd web && npm run --silent test
	@echo "== core with nothing but numpy, numcodecs and lark"
	@scripts/test-core-alone.sh
	@echo "== faults and recorder: most of their time is waiting, so that three at a time fit into two cores"
	@$(PY) -m pytest -q -m "not slow" tests/recorder tests/faults -n 3 --dist loadfile --no-loadscope-reorder --durations=5
	@echo "== unit, store, source, API and browser tests"
	@$(PY) -m pytest -q -m "not slow" --ignore tests/faults --ignore tests/recorder -n 2 --dist loadfile --no-loadscope-reorder --durations=10

test-quick: python $(STAMPS)/web-packages ## Tests of the core, the contracts and what was changed since BASE
	@$(PY) -m pytest -q -m "not slow" -n 2 tests/core tests/contracts $$($(PY) scripts/changed_tests.py $(BASE))
	@cd web && npx vitest run --changed $(BASE) --passWithNoTests

slow: setup ## Long fault and soak tests
	@$(PY) -m pytest -q -m slow

format: python $(STAMPS)/web-packages ## Rewrite code in the agreed format
	@.venv/bin/ruff check --fix src tests bench scripts
	@.venv/bin/ruff format src tests bench scripts
	@cd web && npm run --silent format

schema: python $(STAMPS)/web-packages ## Write docs/openapi.json, the front end's types from it, docs/setup-file.schema.json
	@./cronaca openapi > docs/openapi.json
	@./cronaca setup-schema > docs/setup-file.schema.json
	@cd web && npm run --silent schema

pictures: setup ## Take the pictures of docs/screenshots from a demo of its own
	@PYTHONPATH=src $(PY) scripts/pictures.py $(ONLY)

lock: ## Pin the Python requirements anew
	@.venv/bin/pip install --quiet pip-tools
	@cd requirements && for f in core base dev; do ../.venv/bin/pip-compile -q --generate-hashes --no-emit-index-url \
		--no-emit-find-links --no-emit-trusted-host --strip-extras -o $$f.txt $$f.in; done

bench: setup ## Measurements, written to docs/benchmarks.md
	@PYTHONPATH=src:. $(PY) -m bench

clean: ## Remove what was built or recorded (the demo's data too)
	@rm -rf .venv .cache .data web/node_modules web/dist
