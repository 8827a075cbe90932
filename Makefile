# Two commands matter: `make demo` and `make test`. The rest is for people who work on Cold Arc.
VENV := .venv
PY := $(VENV)/bin/python
TAKE_IN := sh scripts/take_in.sh $(VENV)
# What is read in is compiled then and kept; all of the libraries at once took a quarter of a minute.
export PYTHONDONTWRITEBYTECODE :=

.PHONY: demo demo-reset run test tests test-thorough check warm kernel setup setup-dev chromium lock vendor loc shots bench mutants clean

demo: setup
	$(VENV)/bin/cold-arc demo

demo-reset: setup
	$(VENV)/bin/cold-arc demo --reset

run: setup
	$(VENV)/bin/cold-arc serve

# On a new machine libraries, tools and browser come side by side, and so do what reads the code and what runs it.
test:
	$(MAKE) --jobs 3 check tests

tests: warm chromium
	$(PY) -m pytest -m "not thorough" --numprocesses 3 --dist worksteal --durations 25 --durations-min 3

# Whole tables and many trials besides; before a change of the beam model, of photographs, of typed numbers.
test-thorough: test
	COLD_ARC_THOROUGH=1 $(PY) -m pytest --numprocesses 3 --dist worksteal tests/core tests/formats tests/robust tests/standing
	$(PY) -m pytest -m thorough --numprocesses 2 tests/web tests/browser

# The kernel compiled and the tests read in once, for all who test; the kernel while tools still come.
warm: setup-dev kernel
	$(PY) -m pytest --collect-only --quiet >/dev/null

kernel: setup
	$(PY) -c "from cold_arc.core.beam import model; model.warm()"

check: setup-dev
	$(VENV)/bin/ruff check .
	$(VENV)/bin/ruff format --check .
	$(VENV)/bin/pyrefly check
	$(VENV)/bin/lint-imports
	$(VENV)/bin/djlint --quiet --lint cold_arc/web/templates
	$(VENV)/bin/oxlint --deny-warnings --quiet cold_arc/web/static/js
	$(PY) scripts/check_styles.py
	$(PY) scripts/check_house.py

setup: $(VENV)/.app
setup-dev: $(VENV)/.dev

$(VENV)/bin/pip:
	sh scripts/ensure_venv.sh $(VENV)

$(VENV)/.app: $(VENV)/.libraries pyproject.toml
	$(TAKE_IN) --no-deps --no-build-isolation --editable .
	touch $@

$(VENV)/.dev: $(VENV)/.app $(VENV)/.tools
	touch $@

# The app's own libraries and what it is tested with have nothing in common: either may come first.
$(VENV)/.libraries: requirements.lock | $(VENV)/bin/pip
	$(TAKE_IN) --no-deps --require-hashes -r $<
	touch $@

$(VENV)/.tools: requirements-dev.lock | $(VENV)/bin/pip
	$(TAKE_IN) --no-deps --require-hashes -r $<
	touch $@

# After the environment: that too may ask Debian for a package, and two can't at once.
chromium: | $(VENV)/bin/pip
	sh scripts/ensure_chromium.sh

# Maintainers only: renew the locked dependencies and the vendored front-end files.
lock: setup
	sh scripts/lock.sh

vendor:
	sh scripts/vendor.sh

loc:
	sh scripts/loc.sh

shots: setup-dev chromium
	$(PY) scripts/screenshots.py

# Speed of the beam model, and its ratio to a general-purpose optics package; figures in docs/performance.md.
bench: setup-dev
	$(PY) bench/beam_speed.py

# How many changes of the core some test notices: a sample of mutants, by cosmic-ray, which is needed for nothing else.
mutants: setup-dev
	$(TAKE_IN) cosmic-ray==8.7.0 pytest-cov==7.1.0
	$(PY) scripts/mutants.py

clean:
	rm -rf $(VENV) build *.egg-info
