# Two commands do everything: make demo, make test.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
BIN := $(VENV)/bin
export PIP_DISABLE_PIP_VERSION_CHECK = 1

.PHONY: demo test bench shots format libraries clean

demo: $(VENV)/ready libraries
	$(BIN)/plucky-ledger --demo

test: $(VENV)/ready-dev libraries
	$(BIN)/ruff format --check .
	$(BIN)/ruff check .
	$(BIN)/mypy
	$(BIN)/lint-imports
	$(BIN)/python -m pytest

bench: $(VENV)/ready-dev libraries
	@for study in benchmarks/*.py; do echo "== $$study"; $(BIN)/python $$study || exit 1; done

shots: $(VENV)/ready-dev libraries
	$(BIN)/python tools/shots.py

format: $(VENV)/ready-dev
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .

libraries:
	@sh tools/system-libraries.sh

$(VENV)/ready: pyproject.toml constraints.txt
	$(PYTHON) -m venv $(VENV)
	$(BIN)/pip install --quiet --constraint constraints.txt --editable '.[all]'
	@touch $@

$(VENV)/ready-dev: $(VENV)/ready
	$(BIN)/pip install --quiet --constraint constraints.txt --editable '.[dev]'
	@touch $@

clean:
	rm -rf $(VENV)
