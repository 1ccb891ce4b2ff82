# Two commands do everything: make demo, make test.
PYTHON ?= $(shell command -v python3.11 || command -v python3)
VENV := .venv
BIN := $(VENV)/bin
# What is used is compiled when it is: all packages at once would take a third of the installing.
PIP := pip install --quiet --no-compile
TESTERS := pytest pytest-xdist filelock hypothesis psutil jsonschema
LEAN_ON_PACKAGES := tests/store tests/recording tests/exchange tests/cli/test_commands.py \
	tests/cli/test_same_figures.py tests/usecases/test_use_cases.py tests/ui/test_first_hour.py
# Our own limits and damaged rows are the same with any package.
OURS_ALONE := not gigantic and not holds_more and not damaged
AT_ONCE ?= 3
ON_BOTH := tests/store tests/usecases tests/ui/test_entries.py tests/ui/test_posting.py
NEAREST := tests/core tests/usecases tests/pages tests/wording
STUDIES := $(filter-out benchmarks/goals.py, $(wildcard benchmarks/*.py))
MEASURED := $(if $(QUICK),$(filter-out benchmarks/real_%.py, $(STUDIES)),$(STUDIES))
# What goes by the clock has the machine to itself; the others count CPU time, and in the quick mode
# two of them are there at a time.
BY_THE_CLOCK := benchmarks/sampling_cost.py benchmarks/window_walk.py benchmarks/workshop.py
RUN_STUDY := sh -c 'echo "== {}"; PYTHONPATH=. BENCH_QUICK=$(QUICK) $(BIN)/python {} || exit 255'
export PIP_DISABLE_PIP_VERSION_CHECK = 1
# As the installed command has it.
export OPENBLAS_NUM_THREADS = 1
# Tests start the program hundreds of times: it is compiled once.
unexport PYTHONDONTWRITEBYTECODE

.PHONY: bundle deb release demo test test-on-server workshop quick coverage real-pc test-installed test-lowest bench mutants fuzz kill shots messages format libraries clean

demo: $(VENV)/ready
	@sh tools/system-libraries.sh window
	$(BIN)/plucky-ledger --demo

test: $(VENV)/ready-dev libraries
	@mkdir -p build
	@# Real PCs mostly wait: two of them, beside everything else, ledgers on a server among it.
	$(BIN)/python -m pytest -n 2 --dist loadfile -rs -m "not long" tests/real_pc \
		> build/real-pc.log 2>&1 & real_pc=$$!; \
	$(BIN)/ruff format --check . && $(BIN)/ruff check . && $(BIN)/mypy && $(BIN)/lint-imports \
		&& $(BIN)/vulture && $(BIN)/python -m pytest -n $(AT_ONCE) --ignore tests/real_pc \
		&& $(BIN)/python -m pytest -n $(AT_ONCE) --on-server $(ON_BOTH); tested=$$?; \
	wait $$real_pc; there=$$?; cat build/real-pc.log; [ $$tested = 0 ] && [ $$there = 0 ]

# The core and the use cases, without the studies: about a minute.
quick: $(VENV)/ready-dev
	$(BIN)/python -m pytest -n $(AT_ONCE) -m "not study" $(NEAREST)

# Which lines the tests run; it makes them half as slow again.
coverage: $(VENV)/ready-dev libraries
	$(BIN)/python -m pytest -n $(AT_ONCE) --ignore tests/real_pc \
		--cov=plucky_ledger --cov-report=term:skip-covered

# On a real PC of the test machine's own: its disk is built once, outside the tree.
# On another release of Debian than this machine's: make real-pc RELEASE=trixie
real-pc: $(VENV)/ready-dev libraries
	PLUCKY_LEDGER_REAL_PC_NEEDED=1 PLUCKY_LEDGER_REAL_PC_RELEASE=$(RELEASE) $(BIN)/python -m pytest \
		-v tests/real_pc tests/control/test_real_generator.py tests/capture/test_autostart.py

# All that runs on a ledger in a file, on one that is on a server; make test has a part of it.
test-on-server: $(VENV)/ready-dev libraries
	$(BIN)/python -m pytest -n $(AT_ONCE) --on-server tests/store tests/usecases tests/ui

# A workshop's ledger on a server of its own, with the demo in it.
workshop: $(VENV)/ready-dev libraries
	PYTHONPATH=. $(BIN)/python tools/workshop.py

# The built wheel in an environment of its own: first alone, then with the packages of all extras,
# which are the development environment's own.
test-installed: $(VENV)/ready-dev libraries
	rm -rf build/installed build/wheel && $(PYTHON) -m venv build/installed
	$(BIN)/pip wheel --quiet --no-deps --wheel-dir build/wheel .
	build/installed/bin/$(PIP) --constraint constraints.txt build/wheel/*.whl
	rm -f build/demo.ledger && $(BIN)/plucky-ledger demo-ledger build/demo.ledger
	cd build && installed/bin/python ../tools/try_installed.py base demo.ledger
	$(BIN)/python -c "import sysconfig; print(sysconfig.get_path('purelib'))" \
		> $$(ls -d build/installed/lib/python3*/site-packages)/extras.pth
	cd build && installed/bin/python ../tools/try_installed.py window

# The oldest versions that pyproject.toml allows, exactly those: what leans on them most.
test-lowest: build/lowest/ready libraries
	build/lowest/bin/$(PIP) --constraint constraints-lowest.txt --editable '.[all]'
	build/lowest/bin/python -m pytest -n $(AT_ONCE) -k "$(OURS_ALONE)" $(LEAN_ON_PACKAGES)

# All but the program itself, which two at once cannot install from one folder.
build/lowest/ready: constraints-lowest.txt
	rm -rf build/lowest && $(PYTHON) -m venv build/lowest
	build/lowest/bin/$(PIP) --requirement constraints-lowest.txt $(TESTERS) pytest-qt
	@touch $@

# Every figure beside its goal, and all of them in one table; QUICK=1 in about five minutes, with
# fewer draws and without the real PC.
bench: $(VENV)/ready-dev libraries
	@mkdir -p build && rm -f build/bench.jsonl
	@printf '%s\n' $(filter-out $(BY_THE_CLOCK), $(MEASURED)) | xargs -P $(if $(QUICK),2,1) -I {} $(RUN_STUDY)
	@printf '%s\n' $(BY_THE_CLOCK) | xargs -I {} $(RUN_STUDY)
	@PYTHONPATH=. $(BIN)/python benchmarks/goals.py

# Small faults put into the core one at a time: those that its nearest tests do not notice.
mutants: $(VENV)/ready-dev
	$(BIN)/python -m tools.mutants 100

# Odd input for every reader, and kills at every moment: a million and 500 each, seeded.
fuzz: $(VENV)/ready-dev libraries
	$(BIN)/python -m tests.endurance.fuzz $(INPUTS) $(SEED)

kill: $(VENV)/ready-dev libraries
	$(BIN)/python -m tests.endurance.kills $(KILLS) $(SEED)

shots: $(VENV)/ready-dev libraries
	for of in "" dark contrast german 200; do $(BIN)/python tools/shots.py $$of || exit 1; done

# One archive that installs without a network; what comes of it is in dist.
bundle: $(VENV)/ready-dev libraries
	PYTHONPATH=. $(BIN)/python tools/bundle.py dist

# Packages for Debian 13 and later, built in a clean one.
deb: $(VENV)/ready-dev
	PYTHONPATH=. $(BIN)/python tools/deb.py dist

# Everything of the version that the last commit is tagged with, into dist/VERSION; TWICE=1 builds it
# once more and compares the bytes.
release: $(VENV)/ready-dev libraries
	$(BIN)/$(PIP) --constraint constraints.txt --editable '.[release]'
	PYTHONPATH=. $(BIN)/python tools/release.py dist/release $(if $(TWICE),--twice)

# Every message, for translators.
messages: $(VENV)/ready-dev
	$(BIN)/python tools/messages.py

format: $(VENV)/ready-dev
	$(BIN)/ruff format .
	$(BIN)/ruff check --fix .

# What is missing is named; tests that need it are skipped or fail with their reason.
libraries:
	@sh tools/system-libraries.sh || true

$(VENV)/ready: pyproject.toml constraints.txt
	@PYTHONPATH=src $(PYTHON) -c "import plucky_ledger"
	$(PYTHON) -m venv $(VENV)
	$(BIN)/$(PIP) --constraint constraints.txt --editable '.[all]'
	@touch $@

# It has everything that the other has: whichever is made first, nothing is installed twice.
$(VENV)/ready-dev: pyproject.toml constraints.txt
	@PYTHONPATH=src $(PYTHON) -c "import plucky_ledger"
	test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/$(PIP) --constraint constraints.txt --editable '.[dev]'
	@touch $(VENV)/ready $@

clean:
	rm -rf $(VENV) build
