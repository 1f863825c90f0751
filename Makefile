# make demo: the main job on demo data.  make test: every test, on real hosts.  Both set up all they need.
PYTHON ?= python3
TOOL := .venv
DJANGO := .cache/hosts/django-5.2
SHOWN_FOLDER ?=

.PHONY: demo test lint bench faults shots clean

demo: $(TOOL)/ready $(DJANGO)/ready
	$(TOOL)/bin/swift-sprout demo $(SHOWN_FOLDER) --python $(DJANGO)/bin/python

test: $(TOOL)/ready $(DJANGO)/ready
	$(TOOL)/bin/python -m unittest discover -s tests -t .

lint: $(TOOL)/ready
	$(TOOL)/bin/ruff check .
	$(TOOL)/bin/ruff format --check .
	$(TOOL)/bin/mypy
	$(TOOL)/bin/lint-imports

bench: $(TOOL)/ready $(DJANGO)/ready
	$(TOOL)/bin/python -m benchmarks

faults: $(TOOL)/ready $(DJANGO)/ready
	$(TOOL)/bin/python -m benchmarks.faults

shots: $(TOOL)/ready $(DJANGO)/ready
	$(TOOL)/bin/python tools/screenshots.py

$(TOOL)/ready: pyproject.toml
	$(PYTHON) -m venv $(TOOL)
	$(TOOL)/bin/pip install --quiet --editable ".[develop]"
	$(TOOL)/bin/python -m compileall -q src
	touch $@

$(DJANGO)/ready: tools/hosts/django-5.2.txt
	$(PYTHON) -m venv $(DJANGO)
	$(DJANGO)/bin/pip install --quiet --requirement tools/hosts/django-5.2.txt
	touch $@

clean:
	rm -rf $(TOOL) .cache build *.egg-info
