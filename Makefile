# Mopsel. `make demo` and `make test` do everything on a machine with Rust and Node.

.PHONY: demo test check dev build pages api bench screenshots notices

PORT ?= 4180

# Front-end packages, as the lock file names them.
web/node_modules/.package-lock.json: web/package-lock.json
	cd web && npm ci --no-audit --no-fund
	touch $@

pages: web/node_modules/.package-lock.json
	cd web && npm run build

build: pages
	cargo build --release --bin mopsel

demo: pages
	cargo build --profile demo --bin mopsel
	target/demo/mopsel demo --port $(PORT) $(if $(TODAY),--today $(TODAY))

# Everything: core, store, API, and the pages in a real browser.
test: pages
	cargo test --workspace

check: web/node_modules/.package-lock.json
	cargo fmt --all --check
	mkdir -p web/dist
	cargo clippy --workspace --all-targets -- -D warnings
	cargo run --quiet --bin mopsel -- openapi | diff - docs/openapi.json || (echo "docs/openapi.json is out of step: run make api" && false)
	cd web && npx openapi-typescript ../docs/openapi.json -o /tmp/mopsel-schema.ts > /dev/null && diff /tmp/mopsel-schema.ts src/api/schema.gen.ts
	cd web && npm run check
	node tools/notices.mjs --check

# Brings the API's description and the types made from it in step with the handlers.
api: web/node_modules/.package-lock.json
	cargo run --quiet --bin mopsel -- openapi > docs/openapi.json
	cd web && npm run types

# The server with the pages reloaded as they are edited, on http://127.0.0.1:5173
dev: web/node_modules/.package-lock.json
	cargo build --bin mopsel
	(target/debug/mopsel demo --port 4180 & trap 'kill $$!' EXIT; cd web && npx vite)

# The licences of what ships inside the program, gathered for its page of notices.
notices: web/node_modules/.package-lock.json
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
