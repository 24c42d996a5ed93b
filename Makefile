# Nod. Two commands do everything: `make demo` and `make test`.
SHELL := /bin/bash
PORT ?= 8000
DATA ?= data/demo
PY := .venv/bin/python
BIN := .venv/bin

export NOD_PORT = $(PORT)
# Where Python is told to write no bytecode, each of the many processes would compile all that it imports.
export PYTHONDONTWRITEBYTECODE =


.PHONY: try screenshots demo demo-reset test quick check check-python check-frontend described again lock bench fuzz kill soak tamper install install-dev browser api format clean

demo: .venv/ready frontend/dist/index.html
	@NOD_DATA_DIR="$(DATA)" $(BIN)/nod demo

demo-reset: .venv/ready frontend/dist/index.html
	rm -rf "$(DATA)"
	@NOD_DATA_DIR="$(DATA)" $(BIN)/nod demo

# Hashes are checked; the package itself is linked, so that a change of code needs no new install.
.venv/ready: requirements.lock pyproject.toml
	test -x .venv/bin/python || python3.11 -m venv .venv || python3 -m venv .venv
	$(BIN)/python -m pip install -q --disable-pip-version-check uv==0.13.9
	$(BIN)/uv pip install -q --compile-bytecode --python $(PY) --require-hashes -r requirements.lock
	$(BIN)/uv pip install -q --python $(PY) --no-deps --no-build-isolation -e .
	touch $@

.venv/ready-dev: .venv/ready requirements-dev.lock
	$(BIN)/uv pip install -q --compile-bytecode --python $(PY) --require-hashes -r requirements-dev.lock
	touch $@

frontend/node_modules/ready: frontend/package-lock.json frontend/package.json
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	touch $@

FRONTEND_SOURCES := $(shell find frontend/src frontend/public frontend/index.html frontend/sheet.html frontend/vite.config.ts -type f 2>/dev/null)

frontend/dist/index.html: frontend/node_modules/ready $(FRONTEND_SOURCES)
	cd frontend && npm run -s build -- --logLevel warn

# The headless shell is the same engine as chromium, without windows: a page opens in a third of the time.
APT := DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends
browser:
	@command -v qpdf >/dev/null && command -v pdftotext >/dev/null && command -v tesseract >/dev/null || \
		(apt-get update -qq && $(APT) qpdf poppler-utils tesseract-ocr >/dev/null)
	@command -v chromium-headless-shell >/dev/null || \
		(apt-get update -qq && $(APT) chromium-headless-shell >/dev/null) || command -v chromium >/dev/null
	@command -v swaks >/dev/null && command -v s-nail >/dev/null || \
		(apt-get update -qq && $(APT) swaks s-nail >/dev/null) || \
		echo "swaks and s-nail cannot be installed: the test with them is skipped"

check: check-python check-frontend

check-python: .venv/ready-dev
	$(BIN)/ruff format --check -q src tests bench
	$(BIN)/ruff check -q src tests bench
	$(BIN)/mypy
	$(BIN)/lint-imports --no-logo 2>/dev/null || $(BIN)/lint-imports
	$(PY) tests/lock_guard.py frontend/package-lock.json

check-frontend: .venv/ready-dev frontend/node_modules/ready
	$(MAKE) -s described
	cd frontend && npm run -s format && npm run -s types && npm run -s lint && npm run -s rooms

# The description of the API and the client's types are those of the routes.
described: .venv/ready-dev frontend/node_modules/ready
	$(PY) -m nod.cli openapi /tmp/nod-openapi.json && diff -q /tmp/nod-openapi.json docs/openapi.json
	cd frontend && npx openapi-typescript ../docs/openapi.json -o /tmp/nod-schema.gen.ts >/dev/null && diff -q /tmp/nod-schema.gen.ts src/api/schema.gen.ts

# What differs from the last commit, or from SINCE=a commit, and the tests that it touches.
quick: .venv/ready-dev frontend/node_modules/ready browser
	@$(PY) -m tests.quick $(SINCE)

test: .venv/ready-dev frontend/dist/index.html browser
	$(MAKE) -s -j 2 check
	cd frontend && npm run -s test
	$(BIN)/pytest -n 2 --ignore tests/browser
	$(BIN)/pytest -n 2 --dist loadfile tests/browser || $(MAKE) -s again

# Two browsers and two Nods at once wait for one another on a busy machine. What is red beside others is printed, and run once
# more with nothing beside it: what is red twice is red.
again:
	$(BIN)/pytest --last-failed --last-failed-no-failures none tests/browser

bench: .venv/ready-dev frontend/dist/index.html browser
	$(PY) -m bench.run

# Minutes long each; short ones of them are in `make test`.
fuzz: .venv/ready-dev frontend/dist/index.html
	NOD_FUZZ=30 $(BIN)/pytest -n 2 tests/web/test_fuzz.py

kill: .venv/ready-dev frontend/dist/index.html
	NOD_KILLS=300 $(BIN)/pytest -s tests/browser/test_kill.py

tamper: .venv/ready-dev
	NOD_TAMPERINGS=5000 $(BIN)/pytest -n 2 tests/services/trail/test_tampering.py

soak: .venv/ready-dev frontend/dist/index.html
	$(PY) -m bench.soak

# Any folder of files: make try FOLDER=../drawings
try: .venv/ready
	$(BIN)/nod try "$(or $(FOLDER),$(error Say which: make try FOLDER=some/files))"

# After a change of a screen.
screenshots: .venv/ready-dev frontend/dist/index.html browser
	$(PY) -m tests.browser.take_screenshots

# After a change of a route or its models.
api: .venv/ready-dev frontend/node_modules/ready
	$(BIN)/nod openapi docs/openapi.json
	cd frontend && npm run -s api

format: .venv/ready-dev frontend/node_modules/ready
	$(BIN)/ruff format -q src tests bench && $(BIN)/ruff check -q --fix src tests bench
	cd frontend && npx prettier --write . >/dev/null

# After a change of requirements.in or requirements-dev.in.
lock: .venv/ready
	$(BIN)/uv pip compile -q --generate-hashes --no-emit-index-url --no-annotate requirements.in -o requirements.lock
	$(BIN)/uv pip compile -q --generate-hashes --no-emit-index-url --no-annotate -c requirements.lock requirements-dev.in -o requirements-dev.lock

clean:
	rm -rf .venv frontend/node_modules frontend/dist
