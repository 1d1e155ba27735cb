# Two commands, each enough on a fresh machine with Python 3.11, git and make:
#   make demo   sets up and runs the full example
#   make test   sets up and passes the tests
# make reference compares 20,000 random calls with a program of its own,
# make fuzz MINUTES=5 tries damaged inputs, make faults interrupts, make mutate MINUTES=20 changes the core to see
# whether a test notices, make matrix tests on every Python here and on the oldest libraries; docs/trust.md tells more.
# make quick runs the core's tests alone, make structures counts how often the structure of a table is found.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test quick check screenshots bench structures reference fuzz faults mutate matrix clean

demo: $(VENV)/demo.done
	$(BIN)/marvex demo demo --overwrite

test: check
	$(BIN)/pytest

quick: $(VENV)/dev.done
	$(BIN)/pytest tests/core src/marvex/core -n 0

check: $(VENV)/dev.done
	$(BIN)/ruff check .
	$(BIN)/ruff format --check .
	$(BIN)/mypy
	$(BIN)/lint-imports

reference: $(VENV)/dev.done
	MARVEX_CALLS=20000 $(BIN)/pytest tests/app/test_reference.py

fuzz: $(VENV)/fuzz.done
	MINUTES=$(or $(MINUTES),5) $(BIN)/python tests/fuzzing/run.py

faults: $(VENV)/dev.done
	MARVEX_KILLS=200 $(BIN)/pytest -n 1 tests/process/test_faults.py
	MARVEX_ROWS=10000000 $(BIN)/pytest -n 0 tests/app/test_verified.py -k 38

mutate: $(VENV)/fuzz.done
	MINUTES=$(or $(MINUTES),20) $(BIN)/python tests/mutate.py

matrix:
	$(PYTHON) tests/matrix.py

screenshots: $(VENV)/dev.done
	$(BIN)/python docs/make_screenshots.py

bench: $(VENV)/bench.done
	$(BIN)/python benchmarks/compare.py start
	$(BIN)/python benchmarks/compare.py waterfall

structures: $(VENV)/dev.done
	$(BIN)/python benchmarks/structures.py

$(BIN)/python:
	$(PYTHON) -m venv $(VENV)

$(VENV)/demo.done: $(BIN)/python pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check -e .
	touch $@

$(VENV)/dev.done: $(BIN)/python pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check -e .[dev]
	touch $@

$(VENV)/fuzz.done: $(BIN)/python pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check -e .[dev,fuzzing]
	touch $@

$(VENV)/bench.done: $(BIN)/python pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check -e .[benchmarks]
	touch $@

clean:
	rm -rf $(VENV) build dist demo
