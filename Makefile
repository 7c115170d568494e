# Tailor: two commands do everything, `make demo` and `make test`; the rest is for its makers.
PYTHON ?= python3
VENV   := .venv
BIN    := $(VENV)/bin
STAMP  := $(VENV)/.ready

# What Qt, a virtual screen and a new environment need on a bare Debian machine.
SYSTEM := python3-venv libegl1 libgl1 libglib2.0-0 libdbus-1-3 libfontconfig1 libxkbcommon0 libxkbcommon-x11-0 \
          libxcb-cursor0 libxcb-icccm4 libxcb-image0 libxcb-keysyms1 libxcb-randr0 libxcb-render-util0 \
          libxcb-shape0 libxcb-xinerama0 libxcb-xkb1 libxcb-util1 xvfb xauth

.PHONY: setup system demo test sweeps lint hostile standing mutants bench screenshots install uninstall clean

setup: system $(STAMP)

system:
	@have=" $$(dpkg-query -W -f='$${db:Status-Abbrev} $${Package}, $${Provides},\n' 2>/dev/null | grep '^ii' | tr -s ',\n' '  ' | tr -d '()=') "; \
	missing=""; for p in $(SYSTEM); do case "$$have" in *" $$p "*) ;; *) missing="$$missing $$p";; esac; done; \
	if [ -n "$$missing" ]; then \
	  if [ "$$(id -u)" = 0 ]; then echo "Installing:$$missing"; \
	    DEBIAN_FRONTEND=noninteractive sh -c "apt-get update -q && apt-get install -y -q $$missing" >/dev/null; \
	  else echo "Tailor needs these Debian packages. Run this line, then make again:"; \
	    echo "  sudo apt-get install$$missing"; exit 1; fi; fi

$(STAMP): pyproject.toml requirements.lock
	@test -x $(BIN)/python || $(PYTHON) -m venv $(VENV)
	$(BIN)/pip install -q --disable-pip-version-check -c requirements.lock -e '.[dev]'
	@echo "Compiling what lays out and draws, which takes a minute, once."
	@$(BIN)/python -c "from tailor.core.cut import layer; from tailor.core.together import drawn; layer.warm(); drawn.ready()"
	@touch $@

# With no screen the window opens on a virtual one.
demo: setup
	@if [ -n "$$DISPLAY$$WAYLAND_DISPLAY" ]; then $(BIN)/tailor --demo; \
	else echo "No display: starting on a virtual one."; QT_QPA_PLATFORM=xcb xvfb-run -a -s "-screen 0 1280x800x24" $(BIN)/tailor --demo; fi

# One thread to a test: three of them run beside one another, since those of the window wait for their helpers.
test: setup
	QT_QPA_PLATFORM=offscreen OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 PYTHONDONTWRITEBYTECODE= $(BIN)/python -m pytest -n 3

# The same with all that its sweeps go over, of which a run takes a part.
sweeps: export SWEEP := all
sweeps: test

lint: setup
	$(BIN)/ruff check src tests bench packaging
	$(BIN)/ruff format --check src tests bench packaging
	$(BIN)/mypy
	$(BIN)/lint-imports

# Kills, mutated files and a monkey, for so many minutes.
MINUTES ?= 20
hostile: setup
	QT_QPA_PLATFORM=offscreen OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m tests.hostile $(MINUTES)

# The numbers that stand, as they are now, and which of them moved.
standing: setup
	QT_QPA_PLATFORM=offscreen OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m tests.standing

# Small seeded changes to core and files, and the share that a test notices.
COUNT ?= 20
SEED ?= 1
mutants: setup
	$(BIN)/python -m tests.mutants $(COUNT) $(SEED) $(CHANGED)

bench: setup
	$(BIN)/pip install -q --disable-pip-version-check -c requirements.lock -e '.[bench]'
	QT_QPA_PLATFORM=offscreen OMP_NUM_THREADS=1 OPENBLAS_NUM_THREADS=1 $(BIN)/python -m bench

# All pictures of the README, or those that are named: make screenshots VIEWS="bench guide".
screenshots: setup
	QT_QPA_PLATFORM=offscreen $(BIN)/python -m tailor.desk.screenshots docs/screenshots $(VIEWS)

# For one user: an environment of its own, a menu entry, the file type of jobs, a manual page.
install:
	$(PYTHON) packaging/install.py

uninstall:
	$(PYTHON) packaging/install.py --uninstall

clean:
	rm -rf $(VENV) build dist src/*.egg-info
