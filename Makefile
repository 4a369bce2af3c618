# make demo   sets up, writes the made-up company's data, scans it, publishes the page
# make test   sets up and passes the tests
# Both need only Python 3.11 or newer with pip.

PYTHON ?= python3
VENV   := .venv
BIN    := $(VENV)/bin
# What pytest is asked beside, such as TESTS="-k page".
TESTS  ?=

.PHONY: demo test bench site clean

demo: $(VENV)/.run
	$(BIN)/golden-almanac demo --to almanac-demo

test: $(VENV)/.dev
	@# Where Python may not write compiled files by itself, each of the many commands run would compile everything anew.
	$(BIN)/python -m compileall -q src bench tests
	$(BIN)/python -m pytest -n auto --dist worksteal $(TESTS)

bench: $(VENV)/.dev
	$(BIN)/python -m bench.truth
	$(BIN)/python -m bench.speed

# The documentation as a site, in .site: reference pages from the code, every link checked.
site: $(VENV)/.dev
	$(BIN)/python -m site_build.reference
	PYTHONPATH=$(CURDIR) $(BIN)/python -m mkdocs build --strict --quiet

clean:
	rm -rf $(VENV) almanac-demo .site

$(VENV)/bin/python:
	$(PYTHON) -c 'import sys; assert sys.version_info >= (3, 11), "Python 3.11 or newer is needed; set PYTHON=…"'
	$(PYTHON) -m venv $(VENV)

$(VENV)/.run: $(VENV)/bin/python pyproject.toml
	$(BIN)/python -m pip install --quiet --disable-pip-version-check -e .
	touch $@

$(VENV)/.dev: $(VENV)/bin/python pyproject.toml
	@# Compiled by all processors at once, which takes half the time of one after the other.
	$(BIN)/python -m pip install --quiet --disable-pip-version-check --no-compile -e '.[dev]'
	-$(BIN)/python -m compileall -q -j 0 $(VENV)/lib > /dev/null 2>&1
	touch $@ $(VENV)/.run
