# Two commands do everything: `make demo` and `make test`. `make setup` is the part both share.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
STAMPS := .make
YOAKE_PORT ?= 8710
WORKERS ?= 3

.PHONY: demo test setup dev expected check unit browser bench clean lock types

demo: setup
	@YOAKE_HOME="$${YOAKE_HOME:-$(CURDIR)/.yoake}" $(BIN)/yoake demo --port $(YOAKE_PORT)

test: setup $(STAMPS)/browser check
	$(BIN)/pytest -n $(WORKERS) --dist worksteal
	cd web && npm test --silent

setup: $(STAMPS)/python $(STAMPS)/pack $(STAMPS)/web

$(STAMPS)/python: requirements.lock pyproject.toml
	@mkdir -p $(STAMPS)
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --disable-pip-version-check -r requirements.lock
	$(BIN)/pip install --quiet --disable-pip-version-check --no-deps --no-build-isolation -e .
	@touch $@

# What loads at once: knowledge in its packed form, and our own modules compiled (also where Python is told not to).
SOURCES := $(shell find src/yoake -name '*.py' -not -path '*/demo/portfolio/*')
KNOWLEDGE := $(shell find src/yoake/knowledge -type f)
$(STAMPS)/pack: $(STAMPS)/python $(SOURCES) $(KNOWLEDGE)
	$(BIN)/python -m yoake.runner.knowledge_pack
	$(BIN)/python -m compileall -q -x 'demo/portfolio|runner/probes' src/yoake
	@touch $@

# The lock file leaves out builds for other systems where the registry does not list them; npm ci then refuses it.
$(STAMPS)/node: web/package-lock.json
	@mkdir -p $(STAMPS)
	cd web && (npm ci --silent --no-audit --no-fund || npm install --silent --no-save --no-audit --no-fund)
	@touch $@

WEB := $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts web/tsconfig.json
$(STAMPS)/web: $(STAMPS)/node $(WEB)
	cd web && npx vite build --logLevel warn
	@touch $@

# Chromium with its driver, and nginx, from Debian's packages, when they are missing and can be installed.
$(STAMPS)/browser:
	@mkdir -p $(STAMPS)
	@command -v chromedriver >/dev/null && command -v chromium >/dev/null && test -x /usr/sbin/nginx || \
		(apt-get update -qq && apt-get install -y -qq chromium chromium-driver nginx-light openssl) || \
		echo "Chromium or nginx could not be installed; the tests that need them will say that they skip."
	@touch $@

check: setup
	$(BIN)/ruff check src tests
	$(BIN)/ruff format --check src tests
	$(BIN)/mypy
	$(BIN)/lint-imports
	cd web && npx tsc -p tsconfig.json && npx eslint src
	$(BIN)/python -m tests.engine_words
	$(BIN)/python -m tests.import_depth
	$(BIN)/python -m tests.drift

unit: setup
	$(BIN)/pytest -n $(WORKERS) --dist worksteal -m "not browser"

browser: setup $(STAMPS)/browser
	$(BIN)/pytest -m browser

bench: setup
	$(BIN)/python -m bench.speed
	$(BIN)/python -m bench.search
	$(BIN)/python -m bench.waves
	$(BIN)/python -m bench.load "$${YOAKE_LOAD_HOME:-/tmp/yoake-load}"
	$(BIN)/python -m bench.crossing
	$(BIN)/python -m bench.kills
	$(BIN)/python -m bench.fuzz

accuracy: setup
	$(BIN)/python -m bench.truth
	$(BIN)/python -m bench.truth_node
	$(BIN)/python -m bench.truth_libraries
	$(BIN)/python -m bench.truth_libraries apart
	$(BIN)/python -m bench.truth_npm
	$(BIN)/python -m bench.resolves

# The interface's types, from the server's own description.
# What the demo and the awkward applications of the tests say, written anew: read the difference before it is committed.
expected: setup
	EXPECTED=write $(BIN)/pytest -q tests/server/test_expected.py tests/server/test_week.py tests/core/planning/test_as_read.py tests/usecases/test_small_applications.py

types: $(STAMPS)/python $(STAMPS)/node
	$(BIN)/python -m tests.drift --write
	cd web && npx openapi-typescript openapi.json -o src/api/schema.d.ts

# Reload on both sides: the server on 8710, the interface on 5173.
dev: setup
	@YOAKE_HOME="$${YOAKE_HOME:-$(CURDIR)/.yoake}" $(BIN)/yoake demo --build-only
	@YOAKE_HOME="$${YOAKE_HOME:-$(CURDIR)/.yoake}" $(BIN)/uvicorn --factory yoake.server.development:development --reload --reload-dir src --port $(YOAKE_PORT) & \
		cd web && YOAKE_PORT=$(YOAKE_PORT) npx vite; kill %1 2>/dev/null || true

lock:
	$(BIN)/pip freeze --all --exclude-editable | grep -v '^-e\|^pip==' > requirements.lock

clean:
	rm -rf $(STAMPS) $(VENV) web/node_modules src/yoake/web build dist
