# Everything that a machine needs is installed or named by these targets.
.DEFAULT_GOAL := help
.PHONY: help setup build demo test test-go test-web bench screenshots types format clean
SHELL := /bin/bash -o pipefail

GO_SOURCES := $(shell find cmd core internal web -name '*.go' -o -name '*.sql' | grep -v node_modules)
WEB_SOURCES := $(shell find web -path web/node_modules -prune -o -path web/dist -prune -o -type f -print)

help: ## Show the targets
	@grep -hE '^[a-z-]+:.*##' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /  make \1\t/' | expand -t 22

setup: ## Install what is missing: Debian's packages, and the web packages
	@scripts/setup

web/node_modules/.done: web/package.json web/package-lock.json
	@scripts/setup
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

web/dist/.done: web/node_modules/.done $(filter-out web/dist/%,$(WEB_SOURCES))
	cd web && npm run --silent build
	@touch $@

bin/stoop: web/dist/.done $(GO_SOURCES) go.mod go.sum
	go build -o $@ ./cmd/stoop

build: bin/stoop ## Build the one binary, with the interface in it

demo: build ## Start Kelpwick Ferries; FRESH=1 begins anew
	@scripts/setup
	@bin/stoop demo $(if $(FRESH),--fresh)

test: build ## Run every check and every test
	@scripts/setup
	@scripts/test

types: build ## Write the interface's types anew from the server's OpenAPI document
	bin/stoop openapi > web/shared/openapi.json
	cd web && npm run --silent types

bench: build ## Measure speed and weights, each beside its floor
	@scripts/setup
	go run ./bench
	bin/stoop testdb -- go test -count=1 -v ./bench/page -times 9 | grep -v '^='

screenshots: build ## Take the pictures in docs/screenshots anew
	@scripts/setup
	go test -count=1 -tags screenshots ./e2e/shots

format: web/node_modules/.done ## Format all sources
	gofmt -w cmd core internal e2e bench faults scripts web/*.go
	cd web && npx prettier --write --log-level warn .

clean: ## Remove what was built
	rm -rf bin web/dist/console web/dist/panel web/dist/loader web/dist/.done web/node_modules
