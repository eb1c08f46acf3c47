# Sets up what is missing, then does what is asked. `make demo`, `make test`, `make bench`.
PYTHON ?= python3
BIN := .venv/bin
PAGE := src/lean_parcel/web/static/index.html
# What does not wait for each other is set up and checked side by side.
MAKEFLAGS += --jobs=2
# Modules are compiled once and kept: a worker then starts in half the time.
unexport PYTHONDONTWRITEBYTECODE
SUDO := $(if $(filter 0,$(shell id -u)),,sudo)

.PHONY: demo demo-workspace build test check check-page check-python check-types types bench mutants faults fuzz screenshots chromium nginx
.DELETE_ON_ERROR:

demo: build .venv/.warm
	@mkdir -p build
	$(BIN)/lean-parcel serve --demo --workspace build/demo.sqlite3

build: $(BIN)/lean-parcel $(PAGE)

# Three at a time on two cores: browsers wait a good part of the time.
test: check build .venv/.warm chromium nginx
	$(BIN)/pytest -q -n 3 --dist loadfile --no-loadscope-reorder

check: check-page check-types check-python

check-page: frontend/node_modules/.package-lock.json
	cd frontend && npm run --silent check
	cd frontend && npm run --silent types -- --check

check-python: $(BIN)/lean-parcel
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/pip check -q --disable-pip-version-check
	$(BIN)/lint-imports --no-cache --no-logo
	$(BIN)/python -m lean_parcel.web.openapi | diff frontend/src/api/openapi.json -

check-types: $(BIN)/lean-parcel
	$(BIN)/mypy

types: $(BIN)/lean-parcel frontend/node_modules/.package-lock.json
	$(BIN)/python -m lean_parcel.web.openapi > frontend/src/api/openapi.json
	cd frontend && npm run --silent types

bench: build .venv/.warm
	$(BIN)/python -m benchmarks

fuzz: build .venv/.warm
	FUZZ_TIMES=130 $(BIN)/pytest -q -n 2 tests/fuzz

# Such as `make mutants MUTANTS="work/photos --count 20 --seed 3"`.
mutants: build .venv/.warm build/mutants/.installed
	build/mutants/bin/python -m tools.mutants $(MUTANTS)

build/mutants/.installed: tools/mutants/constraints.txt
	$(PYTHON) -m venv build/mutants
	build/mutants/bin/pip install -q --no-deps --disable-pip-version-check -r tools/mutants/constraints.txt
	@touch $@

faults: build .venv/.warm
	$(BIN)/python -m tools.faults

screenshots: build .venv/.warm chromium
	$(BIN)/python -m tools.screenshots

demo-workspace: build .venv/.warm
	$(BIN)/python -m tools.demo_workspace

# After the other: one package is installed at a time.
nginx: | chromium
	@command -v nginx /usr/sbin/nginx > /dev/null || { $(SUDO) apt-get update -q && \
	  $(SUDO) apt-get install -yq --no-install-recommends nginx-light; }

chromium:
	@command -v chromium-headless-shell > /dev/null || { $(SUDO) apt-get update -q && \
	  $(SUDO) apt-get install -yq --no-install-recommends chromium-headless-shell; } || \
	  command -v chromium

# The constraints name all that is needed, so nothing is left to be resolved. uv unpacks them in
# a sixth of pip's time; where only pip is told where packages lie, pip does it.
PIP := -q --no-deps --disable-pip-version-check
$(BIN)/lean-parcel: pyproject.toml constraints.txt
	$(PYTHON) -m venv .venv
	$(BIN)/pip install $(PIP) $(shell grep ^uv== constraints.txt)
	$(BIN)/uv pip install --python $(BIN)/python -q --no-deps -r constraints.txt || \
	  $(BIN)/pip install $(PIP) --no-compile -r constraints.txt
	$(BIN)/pip install $(PIP) --no-build-isolation -e .
	@touch $@

# The compiled kernels, kept beside their source: some 15 s, once.
KERNELS := $(addprefix src/lean_parcel/core/, likeness/kernels.py damage/measures/view.py picture/resample.py picture/pixels.py)
.venv/.warm: $(BIN)/lean-parcel $(KERNELS)
	$(BIN)/python -c "from lean_parcel.work.tasks.worker import warm_up; warm_up()"
	@touch $@

frontend/node_modules/.package-lock.json: frontend/package-lock.json
	cd frontend && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

$(PAGE): frontend/node_modules/.package-lock.json $(shell find frontend/src -type f) \
         frontend/index.html frontend/vite.config.ts
	cd frontend && npm run --silent build -- --logLevel warn
	@touch $@

