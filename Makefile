# Mopsel. `make demo` and `make test` do everything on a machine with Rust, Node.js and `make`.
# CONTRIBUTING.md says which command answers which question, and how long it takes.

.PHONY: demo test test-core trial check check-rust dev build pages api bench screenshots notices setup soak mutants

PORT ?= 4180
packages := web/node_modules/.package-lock.json
page_sources := $(shell find web/src web/public web/index.html web/package.json web/vite.config.ts -type f)

# Front-end packages, as the lock file names them.
$(packages): web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	touch $@

# The pages, built again only when something of them changed.
web/dist/index.html: $(packages) $(page_sources)
	cd web && npm run build
	touch $@

pages: web/dist/index.html

build: pages
	cargo build --release --bin mopsel

demo: pages
	cargo build --profile demo --bin mopsel
	target/demo/mopsel demo --port $(PORT) $(if $(TODAY),--today $(TODAY))

# What the tests need besides Rust and Node.js: the front-end packages, and Debian's Chromium.
setup: $(packages)
	@tools/install-chromium

# Everything: core, store, API, and the pages in a real browser.
test: setup pages
	cargo test --workspace -- --skip browser::
	cargo test --workspace --test program -- --test-threads=1 browser::

# The core alone: rules, arithmetic, words.
test-core:
	cargo test --package mopsel-core

# One file of the browser's trials against a fresh demo: make trial NAME=visit
trial: setup pages
	cargo test --workspace --test program --no-run
	cd web && MOPSEL_TRACE=1 MOPSEL_BIN=../target/debug/mopsel npx playwright test $(NAME) $(ARGS)

# The whole of what `make test` does only a part of, with the seeds that it was done with. SEED=1000 takes others.
soak: setup pages
	MOPSEL_SOAK=1 $(if $(SEED),MOPSEL_SEED=$(SEED)) cargo test --workspace -- --show-output --skip the_pages_do

# Changes the rules one by one and looks whether a test fails: what was caught and what was missed, file by file.
mutants:
	tools/mutants $(NAME)

# What an editor would show; of what did not change, nothing is looked at again. The description of the API is held
# against the handlers by a test.
check:
	@$(MAKE) --no-print-directory -j2 --output-sync=target check-rust target/checked.pages target/checked.notices

# Beside the pages: each of the two leaves a core idle for half of its time.
check-rust:
	cargo fmt --all --check
	mkdir -p web/dist
	cargo clippy --workspace --all-targets -- -D warnings

target/checked.pages: $(packages) $(page_sources) $(shell find web/tests -type f) $(wildcard web/*.ts web/*.js web/*.json) docs/openapi.json
	mkdir -p target
	cd web && npm run check
	cd web && npx openapi-typescript ../docs/openapi.json | diff - src/api/schema.gen.ts > /dev/null \
	  || (echo "The types of the API are out of step with docs/openapi.json: run make api" && false)
	touch $@

target/checked.notices: Cargo.lock web/package-lock.json web/public/notices.json tools/notices.mjs $(packages)
	mkdir -p target
	node tools/notices.mjs --check
	touch $@

# Brings the API's description and the types made from it in step with the handlers.
api: $(packages)
	mkdir -p web/dist
	cargo run --quiet --bin mopsel -- openapi > docs/openapi.json
	cd web && npm run types

# The server with the pages reloaded as they are edited, on http://127.0.0.1:5173
dev: $(packages)
	mkdir -p web/dist
	cargo build --bin mopsel
	(target/debug/mopsel demo --port 4180 & trap 'kill $$!' EXIT; cd web && npx vite)

# The licences of what ships inside the program, gathered for its page of notices.
notices: $(packages)
	node tools/notices.mjs

bench:
	mkdir -p web/dist
	cargo bench --package mopsel --bench ratios
	cargo bench --package mopsel --bench record
	cargo bench --package mopsel-core --bench gardens
	cargo bench --package mopsel-core --bench diagnosis

screenshots: pages
	cargo build --bin mopsel
	cd web && node tests/screenshots.mjs
