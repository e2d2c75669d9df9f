# `make demo` and `make test` are the two commands; `make help` lists all.
SHELL := /bin/bash
PYTHON ?= python3
PORT ?= 8000
STANDINS_PORT ?= 8010
BIN := .venv/bin
# `make test DATABASE=postgresql`: all tests on a server of Debian's that is started for them.
ON := $(if $(filter postgresql,$(DATABASE)),.ci/with-postgresql)
# The demo's simulated site and services, served by the stand-ins.
STANDINS := http://127.0.0.1:$(STANDINS_PORT)
export ZUGZWANG_HOST_MAP ?= www.marrowbank.example=$(STANDINS),marrowbank.example=$(STANDINS),staging.marrowbank.example=$(STANDINS),data.marrowbank.example=$(STANDINS),*.example=$(STANDINS)
export STANDINS_PORT
# The demo's mails go to a stand-in that keeps them: open http://127.0.0.1:8010/mail.
STANDINS_MAIL_PORT ?= 8025
export STANDINS_MAIL_PORT
export ZUGZWANG_MAIL ?= smtp://127.0.0.1:$(STANDINS_MAIL_PORT)
export ZUGZWANG_ADDRESS ?= http://127.0.0.1:$(PORT)
export DJANGO_SETTINGS_MODULE := zugzwang.settings
export PATH := $(CURDIR)/.venv/bin:$(PATH)

.PHONY: help demo setup build serve dev test test-browser test-rest test-core lint bench bench-crawl bench-wording bench-links bench-topics bench-reports bench-portfolio bench-people hostile hostile-sites hostile-requests hostile-cache drill-install container worlds known-faults lock mutants schema lighthouse screenshots selecting typing

help: ## list the targets
	@grep -E '^[a-z-]+:.*##' Makefile | sed -E 's/:.*## /\t/' | expand -t 14

demo: setup ## install, build, make the demo's data and serve at http://127.0.0.1:8000
	@echo "→ Making the demo's data, unless it stands"
	@$(BIN)/python manage.py demo
	@$(MAKE) --no-print-directory serve

setup: .venv/.runtime web/dist/index.html ## what everything stands on: packages, front end, database
	@echo "→ Bringing the database up to date"
	@$(BIN)/python manage.py migrate --verbosity 0

build: .venv/.runtime web/dist/index.html ## the packages and the front end, without a database: for a service
	@$(BIN)/python -m compileall -q zugzwang

serve: ## serve with the worker, on what is set up
	@echo "→ Open http://127.0.0.1:$(PORT) (stop with Ctrl-C)"
	@PORT=$(PORT) $(BIN)/honcho -f Procfile start -c web=1,worker=2,standins=1,clock=1

.venv/bin/uv:
	@echo "→ Making the virtual environment"
	@$(PYTHON) -c 'import sys; sys.exit("Python 3.11 or newer is needed; this is " + sys.version.split()[0]) if sys.version_info < (3, 11) else None'
	@$(PYTHON) -m venv .venv || { echo "Python's venv is missing: install your system's python3-venv package."; exit 1; }
	@$(BIN)/python -m pip install --quiet uv

.venv/.runtime: .venv/bin/uv requirements/runtime.txt
	@echo "→ Installing Python packages"
	@$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python -r requirements/runtime.txt
	@touch $@

.venv/.test: .venv/.runtime requirements/test.txt
	@echo "→ Installing what the checks need"
	@$(BIN)/uv pip install --quiet --compile-bytecode --python $(BIN)/python -r requirements/test.txt
	@touch $@

web/node_modules/.installed: web/package-lock.json
	@command -v npm >/dev/null || { echo "npm (Node 20 or newer) is needed to build the front end."; exit 1; }
	@node -e 'if (parseInt(process.versions.node) < 20) { console.error("Node 20 or newer is needed to build the front end; this is " + process.version + "."); process.exit(1) }'
	@echo "→ Installing the front end's packages"
	@cd web && npm ci --silent
	@touch $@

# What follows from the declarations. The command writes only what changed, so a change elsewhere builds nothing anew.
.venv/.declared: .venv/.runtime $(shell find zugzwang -name '*.py')
	@$(BIN)/python manage.py openapi
	@touch $@

web/src/api/schema.json web/src/api/catalog.generated.ts: .venv/.declared ;

web/src/api/schema.generated.ts: web/src/api/schema.json web/node_modules/.installed
	@echo "→ Generating the front end's types"
	@cd web && npm run --silent schema > /dev/null

GENERATED := web/src/api/schema.generated.ts web/src/api/catalog.generated.ts

web/dist/index.html: $(GENERATED) $(shell find web/src web/public -type f 2>/dev/null) web/index.html web/vite.config.ts | .venv/.runtime
	@echo "→ Building the front end"
	@cd web && npm run --silent build -- --logLevel warn
	@$(BIN)/python manage.py collectstatic --noinput --clear --verbosity 0

dev: setup ## serve with reloading: the page at http://127.0.0.1:5173
	@$(BIN)/honcho -f Procfile.dev start

lint: .venv/.test $(GENERATED) ## style, types, layers, dead code
	@$(BIN)/ruff check . && $(BIN)/ruff format --check .
	@$(BIN)/mypy
	@$(BIN)/lint-imports
	@cd web && npm run --silent lint && npm run --silent types && npm run --silent unused

test: .venv/.test web/dist/index.html ## everything that is checked, from a fresh clone too
	@.ci/packages
	@$(MAKE) --no-print-directory lint
	@cd web && npm run --silent test
	@$(MAKE) --no-print-directory --jobs=2 --output-sync=target test-browser test-core
	@$(MAKE) --no-print-directory test-rest
	@$(BIN)/python .ci/ratio.py

# Most of what these do is wait for servers and workers of their own, so two of them share two cores.
test-browser: .venv/.test web/dist/index.html ## the real thing in a browser
	@$(ON) $(BIN)/pytest --numprocesses=2 --dist=loadfile tests/browser

test-rest: .venv/.test ## all others: findings, intake, the API, the command line, the server, the demo
	@$(ON) $(BIN)/pytest --numprocesses=3 --dist=worksteal --ignore=tests/browser --ignore=tests/core

test-core: .venv/.test ## the rules alone, as on a machine without Django
	@$(BIN)/python tools/test_core.py

bench: .venv/.test ## the performance bars, as ratios measured in one run
	@$(BIN)/python -m bench.run

bench-wording: .venv/.test ## what pages say, over a bare Aho–Corasick pass; the fetcher over a bare loop
	@$(BIN)/python -m bench.wording

bench-links: .venv/.test ## authority, mentions and plans of a large site, over bare passes
	@$(BIN)/python -m bench.links

bench-topics: .venv/.test ## topics of 100,000 queries, in seconds and memory
	@$(BIN)/python -m bench.topics

bench-reports: .venv/.test ## a large report, and 500 that come due at once while workers are killed: REPORTS=500 KILLS=50
	@$(BIN)/python -m bench.reports

bench-portfolio: .venv/.test ## what one machine does with many sites in a night: SITES=1000, or SMALL=1000 from the stand-ins
	@$(BIN)/python -m bench.portfolio

bench-people: .venv/.test ## thirty people at once, nothing computed before, beside large uploads: ROWS=4000000 PEOPLE=30 UPLOADS=5
	@$(BIN)/python -m bench.people

hostile: .venv/.test ## files made to break their reader, sent to a real installation: FILES=150 SEED=1
	@$(BIN)/python -m bench.hostile

hostile-sites: .venv/.test ## sites made to break their crawler, crawled by a real worker: SITES=40
	@$(BIN)/python -m bench.hostile_sites

hostile-requests: .venv/.test ## requests made to cost much, by each role, to a real installation: REQUESTS=240 CLIENTS=6 SEED=1
	@$(BIN)/python -m bench.hostile_requests

hostile-cache: .venv/.test ## bits flipped in cached files: each is noticed, each answer is right: FLIPS=300 SEED=1
	@$(BIN)/python -m bench.hostile_cache

drill-install: .venv/.test ## follow docs/operating.md in a Debian of its own, command by command; needs root and debootstrap
	@$(BIN)/python -m tools.drill_install

container: .venv/.test ## build deploy/Containerfile on a Debian made here, and look whether it serves; needs root, debootstrap, buildah
	@$(BIN)/python -m tools.container

worlds: .venv/.test ## what the rules claim on worlds that they were not made for; writes the table of docs/methods.md
	@$(BIN)/python -m worlds.run

DOCS ?= /usr/share/doc/openjdk-17-jre-headless/api
START ?= index.html
bench-crawl: .venv/.test ## the crawler beside a bare loop, on a folder of HTML: DOCS=… START=index.html
	@$(BIN)/python -m bench.crawl $(DOCS) $(START)

OSV ?=
known-faults: .venv/.test ## faults that are known of the pinned packages, by advisories (OSV) that one brings: OSV=FOLDER
	@$(BIN)/python -m tools.known_faults $(OSV)

lock: .venv/bin/uv ## pin the Python packages anew
	@for name in runtime cluster store test mutants; do $(BIN)/uv pip compile --quiet --upgrade requirements/$$name.in -o requirements/$$name.txt \
		--generate-hashes --no-emit-index-url --no-header --python-version 3.11 --universal; done

COUNT ?= 60
SEED ?= 1
.venv/.mutants: .venv/.test requirements/mutants.txt
	@$(BIN)/uv pip install --quiet --python $(BIN)/python -r requirements/mutants.txt
	@touch $@

mutants: .venv/.mutants web/dist/index.html ## change single places of the code and count what the tests notice: COUNT=60 SEED=1 PART=core
	@$(BIN)/python -m tools.mutants --count $(COUNT) --seed $(SEED) $(if $(PART),--part $(PART))

schema: $(GENERATED) ## what follows from the declarations: the API's schema, the front end's types and catalog, the list in docs/methods.md

selecting: .venv/.test ## how long until a selected row shows its evidence, in the running demo
	@$(BIN)/python -m tools.selecting

typing: .venv/.test ## how long the live check of a draft takes, and whether typing stalls, in the running demo
	@$(BIN)/python -m tools.draft_typing

RUNS ?= 5
lighthouse: .venv/.test ## Lighthouse on sign-in and five places of the running demo: RUNS=5
	@$(BIN)/python -m tools.lighthouse $(RUNS)

screenshots: .venv/.test web/dist/index.html ## current pictures of the main views, from the running demo
	@$(BIN)/python -m tools.screenshots
