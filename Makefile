# Set-up, demo, tests. Everything is installed by name from lock files; nothing is fetched at run time.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin
WEB_SOURCES := $(shell find web/src web/public web/index.html web/vite.config.ts -type f 2>/dev/null)

# Modules compiled once are read by every process of the tests, the server's workers among them.
unexport PYTHONDONTWRITEBYTECODE

# Two things at once, on two cores: Python's packages beside the web's, one language's checks beside the other's.
MAKEFLAGS += --jobs=2

.PHONY: setup demo serve test test-all check check-python check-web bench calibrate api screenshots clean

setup: $(VENV)/.ready web/dist/index.html

$(VENV)/.ready: requirements.lock pyproject.toml
	@echo "— Python packages into $(VENV) (a minute or two the first time)"
	$(PYTHON) -m venv $(VENV)
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -r requirements.lock
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-deps -e .
	@touch $@

web/node_modules/.ready: web/package-lock.json
	@echo "— web packages"
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/index.html: web/node_modules/.ready $(WEB_SOURCES)
	@echo "— building the web pages"
	cd web && npx vite build --logLevel warn
	@touch $@

# Debian's Chromium drives the interface's tests.
chromium:
	@command -v chromium >/dev/null || { echo "— Chromium for the tests"; \
	  SUDO=$$([ $$(id -u) -eq 0 ] || echo sudo); $$SUDO apt-get update -qq && \
	  $$SUDO apt-get install -y -qq --no-install-recommends chromium fonts-dejavu-core >/dev/null; }
.PHONY: chromium

demo: setup
	$(BIN)/vane-line serve --demo

serve: setup
	$(BIN)/vane-line serve

check: check-python check-web

check-python: $(VENV)/.ready
	$(BIN)/ruff check src tests bench docs
	$(BIN)/ruff format --check src tests bench docs
	$(BIN)/mypy

check-web: web/node_modules/.ready
	cd web && npm run --silent check && npm run --silent test

# One a core: a third would be on the processor while another waits, but empties the caches of both (a tenth more work).
test: setup chromium check
	$(BIN)/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder

# With the further values and narrow cases that `make test` leaves out.
test-all: setup chromium check
	$(BIN)/python -m pytest -n 2 --dist loadfile --no-loadscope-reorder -m ""

bench: setup
	$(BIN)/python bench/measure.py

# The whole calibration, on seeds that nothing was fitted on, and the tables of repeatability: some hours.
calibrate: setup
	$(BIN)/python bench/coverage.py --first 7000 --count 200
	$(BIN)/python bench/coverage.py --cavities --first 500 --count 60
	$(BIN)/python bench/repeatability.py
	$(BIN)/python bench/grids.py
	$(BIN)/python bench/grids.py --others
	$(BIN)/python bench/grids.py --bridges
	$(BIN)/python bench/grids.py --forms 1000:40
	$(BIN)/python bench/grids.py --forms 1:20 --kind veneer
	$(BIN)/python bench/grids.py --forms 1:20 --kind onlay
	$(BIN)/python bench/truth.py
	$(BIN)/python bench/global_start.py
	$(BIN)/python bench/grading.py

# After a change of the API or the contract: their descriptions and the types made from them.
api: setup
	$(BIN)/python -m vane_line.api.describe docs/openapi.json docs/contract.md
	cd web && npm run --silent api

screenshots: setup chromium
	$(BIN)/python docs/screenshots/take.py

clean:
	rm -rf $(VENV) web/node_modules web/dist build *.egg-info
