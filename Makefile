# make demo   installs what is missing, builds, loads the demo world, serves it
# make test   everything: Go, types, lint, formatting, browser
# make house  draws the rooms of the code
SHELL := /bin/bash
.PHONY: demo stop reset build test api house bench

GO_FILES := $(shell find cmd core app store http standin demo bench web/words -name '*.go' -o -name '*.sql' -o -name '*.html' -o -name '*.md' -o -name '*.json' 2>/dev/null)
WEB_FILES := $(shell find web/src web/words web/*.ts web/*.json -type f 2>/dev/null)

build: bin/hermeneus

bin/hermeneus: $(GO_FILES) go.mod go.sum web/embed.go web/dist/.vite/manifest.json
	@echo "Building the binary…"
	@go build -o bin/hermeneus ./cmd/hermeneus

web/dist/.vite/manifest.json: $(WEB_FILES) node_modules/.installed
	@echo "Building the front end…"
	@npm run --silent build -w web -- --logLevel warn
	@touch $@

node_modules/.installed: package-lock.json
	@echo "Installing the front end's packages…"
	@PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD=1 npm ci --no-audit --no-fund --loglevel=error
	@touch $@

demo: build
	@PORT="$(PORT)" scripts/demo.sh

stop:
	@scripts/stop.sh
	@scripts/postgres.sh stop .run/postgres
	@echo "Stopped."

reset: stop
	@scripts/postgres.sh remove .run/postgres
	@rm -rf .run/demo
	@echo "The demo's data is gone; make demo loads it again."

# The API's document and the types made from it, after the API changed.
api:
	@go run ./cmd/hermeneus openapi > web/src/shared/api/openapi.json
	@npm run --silent api -w web

# The picture of the rooms and what each stands on, drawn from the code.
house:
	@go run ./house/draw > docs/house.svg

test: node_modules/.installed
	@scripts/test.sh

bench: build
	@scripts/bench.sh
