# make demo: the main job on demo data, HOST=django, flask, trytond, wordpress, wagtail or oscar.  make test: every test, on real hosts.  Both set up all
# they need.
HOST ?= django
PYTHON ?= python3
TOOL := .venv
HOSTS := .cache/hosts
DJANGO := $(HOSTS)/django-5.2
TRYTOND := $(HOSTS)/trytond-8.2
FLASK := $(HOSTS)/flask-3.1
TRYTOND_MODULES := $(HOSTS)/trytond-8.2-modules
WORDPRESS := $(HOSTS)/wordpress-6.1
WAGTAIL := $(HOSTS)/wagtail-8.0
OSCAR := $(HOSTS)/oscar-4.2
PACKAGES := $(HOSTS)/wagtail-8.0-packages $(HOSTS)/oscar-4.2-packages
OLDER := $(HOSTS)/wagtail-7.4 $(HOSTS)/oscar-4.1
ALL_HOSTS := $(DJANGO)/ready $(FLASK)/ready $(TRYTOND)/ready $(TRYTOND_MODULES)/ready $(WAGTAIL)/ready $(OSCAR)/ready $(addsuffix /ready,$(OLDER) $(PACKAGES)) wordpress
CHOSEN := $(filter-out %-modules.txt %-packages.txt %-real.txt,$(wildcard tools/hosts/$(HOST)-*.txt tools/hosts/$(HOST)-*.sh))
CHOSEN := $(HOSTS)/$(basename $(notdir $(lastword $(sort $(CHOSEN)))))
SHOWN_FOLDER ?=

.PHONY: demo test quick lint lock release bench faults crash fuzz survey-real shots clean wordpress

demo: $(TOOL)/ready $(CHOSEN)/ready
	$(TOOL)/bin/swift-sprout demo $(SHOWN_FOLDER) --kit $(HOST) --runtime $(CHOSEN)$(if $(filter wordpress,$(HOST)),,/bin/python)

test: $(TOOL)/ready $(ALL_HOSTS)
	$(TOOL)/bin/python -m tests.in_halves

#  what needs no host
quick: $(TOOL)/ready
	$(TOOL)/bin/python -m tests.quick

lint: $(TOOL)/ready
	$(TOOL)/bin/ruff check .
	$(TOOL)/bin/ruff format --check .
	$(TOOL)/bin/mypy
	$(TOOL)/bin/lint-imports

bench: $(TOOL)/ready $(ALL_HOSTS)
	$(TOOL)/bin/python -m benchmarks --keep

faults: $(TOOL)/ready $(ALL_HOSTS)
	$(TOOL)/bin/python -m benchmarks.faults

crash: $(TOOL)/ready $(ALL_HOSTS)
	$(TOOL)/bin/python -m benchmarks.pressure

#  a coverage-guided fuzzer on every reader in turn; what it finds is kept and tried by the tests
FUZZ_TARGETS := fields lines names briefs made carrying telling module_files php_files data_files archives
FUZZ_SECONDS ?= 60
fuzz: $(TOOL)/ready
	$(TOOL)/bin/pip install --quiet atheris==3.0.0
	for target in $(FUZZ_TARGETS); do $(TOOL)/bin/python tools/fuzz.py $$target $(FUZZ_SECONDS) || exit 1; done

#  modules that nobody here wrote, fetched by name from the registries, each tried in turn: docs/real-modules.md
survey-real: $(TOOL)/ready $(HOSTS)/django-5.2-real/ready $(HOSTS)/trytond-8.2-real/ready wordpress
	$(TOOL)/bin/python tools/survey_real.py

lock: $(TOOL)/ready
	$(TOOL)/bin/python tools/lock.py

shots: $(TOOL)/ready $(ALL_HOSTS)
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
	$(TOOL)/bin/pip install --quiet --require-hashes --requirement tools/locked.txt
	$(TOOL)/bin/pip install --quiet --no-deps --no-build-isolation --editable .
	$(TOOL)/bin/python -m compileall -q src
	touch $@

# packages of others beside their host, only to be copied into a site
$(HOSTS)/%-packages/ready: tools/hosts/%-packages.txt $(TOOL)/ready
	$(TOOL)/bin/pip install --quiet --no-deps --target $(@D)/packages --requirement $<
	touch $@

# one folder for each host and version: an environment with exactly the packages of its list
$(HOSTS)/%/ready: tools/hosts/%.txt
	$(PYTHON) -m venv $(@D)
	$(@D)/bin/pip install --quiet --no-deps --requirement $<
	touch $@

# a host of Debian packages, unpacked; where they cannot be installed, its tests are skipped and say so
$(WORDPRESS)/ready: tools/hosts/wordpress-6.1.sh
	sh $< $(@D)

wordpress:
	-$(MAKE) --no-print-directory $(WORDPRESS)/ready

# modules from the registry beside their host, only to be read
$(TRYTOND_MODULES)/ready: tools/hosts/trytond-8.2-modules.txt tools/hosts/trytond-8.2.txt
	$(PYTHON) -m venv $(@D)
	$(@D)/bin/pip install --quiet --no-deps --requirement tools/hosts/trytond-8.2.txt --requirement $<
	touch $@

clean:
	rm -rf $(TOOL) .cache build *.egg-info
