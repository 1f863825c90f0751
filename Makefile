# make demo: the main job on demo data, HOST= the id of a kit (`swift-sprout kits`).  make test: every test, on real hosts.
# Both set up all they need; hosts are installed by the recipes in the kits' folders.
HOST ?= django
PYTHON ?= python3
TOOL := .venv
INSTALL := $(TOOL)/bin/python -m trials.recipes
SHOWN_FOLDER ?=

.PHONY: demo test quick lint lock release bench faults field accessibility crash fuzz survey-real shots clean hosts

demo: $(TOOL)/ready
	runtime=$$($(INSTALL) $(HOST)) && $(TOOL)/bin/swift-sprout demo $(SHOWN_FOLDER) --kit $(HOST) --runtime "$$runtime"

test: $(TOOL)/ready
	-$(INSTALL)
	$(TOOL)/bin/python -m tests.side_by_side

#  every host, or an error
hosts: $(TOOL)/ready
	$(INSTALL)

#  what needs no host
quick: $(TOOL)/ready
	$(TOOL)/bin/python -m tests.quick

lint: $(TOOL)/ready
	$(TOOL)/bin/ruff check .
	$(TOOL)/bin/ruff format --check .
	$(TOOL)/bin/mypy
	$(TOOL)/bin/lint-imports

bench: hosts
	$(TOOL)/bin/python -m benchmarks --keep

faults: hosts
	$(TOOL)/bin/python -m benchmarks.faults

#  hosts in styles that no generator writes, each ill and healthy in many ways
field: hosts
	$(TOOL)/bin/python -m trials.field

#  what an accessibility checker finds on generated pages in a real browser; needs node, npm and Chromium
accessibility: hosts
	$(TOOL)/bin/python -m tools.accessibility

crash: hosts
	$(TOOL)/bin/python -m benchmarks.crash

#  a coverage-guided fuzzer on every reader in turn; what it finds is kept and tried by the tests
FUZZ_TARGETS := fields lines names briefs made carrying telling module_files php_files data_files archives
FUZZ_SECONDS ?= 60
fuzz: $(TOOL)/ready
	$(TOOL)/bin/pip install --quiet atheris==3.0.0
	for target in $(FUZZ_TARGETS); do $(TOOL)/bin/python tools/fuzz.py $$target $(FUZZ_SECONDS) || exit 1; done

#  modules that nobody here wrote, fetched by name from the registries, each tried in turn: docs/real-modules.md
survey-real: hosts
	$(INSTALL) django-5.2-real trytond-8.2-real
	$(TOOL)/bin/python tools/survey_real.py

lock: $(TOOL)/ready
	$(TOOL)/bin/python tools/lock.py

shots: hosts
	$(TOOL)/bin/python tools/screenshots.py

#  the wheel, the same bytes each time, and the bill of materials beside it
release: $(TOOL)/ready
	rm -rf build dist && mkdir dist
	umask 022 && SOURCE_DATE_EPOCH=$${SOURCE_DATE_EPOCH:-$$(git log -1 --format=%ct)} \
		$(TOOL)/bin/pip wheel --quiet --no-deps --no-build-isolation --wheel-dir dist .
	$(TOOL)/bin/python tools/bill.py dist/bill-of-materials.cdx.json

#  packages by the hashes of tools/locked.txt, which `make lock` makes anew
$(TOOL)/ready: pyproject.toml tools/locked.txt
	$(PYTHON) -m venv $(TOOL)
	$(TOOL)/bin/pip install --quiet --no-compile --require-hashes --requirement tools/locked.txt
	$(TOOL)/bin/pip install --quiet --no-deps --no-build-isolation --editable .
	$(TOOL)/bin/python -m compileall -q src
	touch $@

clean:
	rm -rf $(TOOL) .cache build *.egg-info
