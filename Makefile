# Two commands, each enough on a fresh machine with Python 3.11, git and make:
#   make demo   sets up and runs the full example
#   make test   sets up and passes the tests
# make reference compares 20,000 random calls with a program of its own,
# make fuzz MINUTES=5 tries damaged inputs, and make quick runs the core's tests alone; make structures counts how often the structure of a table is found.
PYTHON ?= python3
VENV := .venv
BIN := $(VENV)/bin

.PHONY: demo test quick check screenshots bench structures reference fuzz clean

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

fuzz: $(VENV)/dev.done
	MINUTES=$(or $(MINUTES),5) $(BIN)/python tests/fuzz.py

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

$(VENV)/bench.done: $(BIN)/python pyproject.toml
	$(BIN)/pip install --quiet --disable-pip-version-check -e .[benchmarks]
	touch $@

clean:
	rm -rf $(VENV) build dist demo
