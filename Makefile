# Kaiku. `make demo` and `make test` do all the set-up themselves; see README.md.
SHELL := /bin/bash
.DELETE_ON_ERROR:

# The tests of the API take longest, and so begin first.
GO_PACKAGES := ./httpapi/... ./core/... ./homes ./store/... ./wording/... ./wire/... ./papers/... ./reel ./views/... ./makers/... ./service/... ./media ./multicast ./safely ./client/... ./cli/... ./cmd/... ./scripts/... ./console
CONSOLE_SOURCES := $(shell find console -type f \( -path console/node_modules -o -path console/dist \) -prune -o -type f -print 2>/dev/null | grep -vE 'node_modules|/dist/|schema.d.ts')
VERSION := $(shell git describe --always --dirty 2>/dev/null || echo unknown)
OWN_NET := $(CURDIR)/scripts/own-net
# How the program is built, and all that need not be built otherwise: SQLite takes minutes to compile each way.
PLAIN := CGO_ENABLED=0 GOFLAGS="$$GOFLAGS -trimpath"
# Simulated houses answer in real time, and what is asked of them waits only so long.
IN_REAL_TIME := ./probe/... ./practice/... ./demo/...
# By time about a third of the tests of probe.
EVERY_FAULT := ^TestEachFaultFailsItsTests$$
# The race detector leaves out SQLite, which is C in the shape of Go and takes three times as long under it, and the hash of
# passwords, which is half of the work of all tests that log in. Not SQLite's libc: that shares generic functions of
# sync/atomic with the rest of the program, which would then go unwatched.
RACE := -race $(foreach p,modernc.org/sqlite/lib modernc.org/memory golang.org/x/crypto/argon2,'-gcflags=$(p)=-race=false')
# Nothing in core runs beside anything else; where others run it so, the detector looks on in their tests.
WATCHED := $(filter-out ./core/...,$(GO_PACKAGES))
# About half of the tests in a browser, by time; the other half runs beside them, in a network of its own.
LONG_PAGES := ^(TestEveryPage|TestTheThread|TestTheNetwork|TestPeople|TestHouseholds|TestTheHomeDrawn|TestThePictures|TestFaultsOf|TestOpenPages)

.PHONY: demo story test check unit unit-faults unit-probes unit-houses unit-computing unit-core browser browser-run browser-skip build console openapi shots bench soak fuzz audit sbom mutants sabotage setup setup-browser clean

demo: build ## the demo firm and its practice house, until Ctrl-C
	@bin/kaiku demo

story: build ## the complete job of one new home, command by command
	@bin/kaiku story

build: setup console makers/table/prefixes.tsv.gz
	@mkdir -p bin
	$(PLAIN) go build -ldflags "-s -w -X main.version=$(VERSION)" -o bin/ ./cmd/kaiku ./cmd/kaiku-practice

makers/table/prefixes.tsv.gz: scripts/makers | setup
	@scripts/makers $@

setup:
	@scripts/setup

setup-browser: setup
	@scripts/setup browser

console/node_modules/.package-lock.json: console/package.json console/package-lock.json | setup
	cd console && npm ci --no-fund --no-audit --loglevel=error
	@touch $@

console/src/api/schema.d.ts: httpapi/openapi.json console/node_modules/.package-lock.json
	cd console && npm run --silent types

console/dist/index.html: $(CONSOLE_SOURCES) console/node_modules/.package-lock.json console/src/api/schema.d.ts
	cd console && npm run --silent build -- --logLevel warn

console: console/dist/index.html

openapi: ## write httpapi/openapi.json anew after a change of the API
	go test ./httpapi -run TestOpenAPIFileIsCurrent -update -count=1

test: build check unit browser ## everything; prints the share of test lines last
	@scripts/share

check: console
	@$(PLAIN) scripts/staticcheck $(GO_PACKAGES) $(IN_REAL_TIME) ./e2e/...
	cd console && npm run --silent lint && npm run --silent check && npm run --silent test -- --reporter=dot

# Tests with simulated houses wait more than they work: their parts run side by side, each in a network of its own, and what
# computes takes what they leave of the processors, three packages at a time, of which some wait for the disk. Everything is
# compiled before, since compiling leaves nothing.
unit: build
	@mkdir -p bin && rm -f bin/skipped-*.txt
	@CGO_ENABLED=1 go list $(RACE) -export -test -deps $(WATCHED) $(IN_REAL_TIME) >/dev/null
	@$(PLAIN) go list -export -test -deps ./core/... >/dev/null
	@$(MAKE) --no-print-directory -j5 unit-faults unit-probes unit-houses unit-computing unit-core

unit-faults: WHAT := -count=1 -run '$(EVERY_FAULT)' ./probe
unit-probes: WHAT := -count=1 -skip '$(EVERY_FAULT)' ./probe/...
unit-houses: WHAT := -count=1 -p 1 ./practice/... ./demo/...
unit-computing: WHAT := -p 3 $(WATCHED)
unit-computing: FIRST := chrt --idle 0
unit-faults unit-probes unit-houses unit-computing: unit-%:
	@set -o pipefail; CGO_ENABLED=1 $(FIRST) go test -json $(RACE) -exec "$(OWN_NET)" -timeout 20m $(WHAT) | go run ./scripts/testlines bin/skipped-unit-$*.txt

unit-core:
	@set -o pipefail; $(PLAIN) chrt --idle 0 go test -json -timeout 20m ./core/... | go run ./scripts/testlines bin/skipped-$@.txt

browser: build setup-browser
	@$(MAKE) --no-print-directory -j2 -Oline browser-run browser-skip

# go test knows the flags -run and -skip: what one leaves out the other takes.
browser-run browser-skip: browser-%:
	@rm -f bin/skipped-browser-$*.txt
	@set -o pipefail; $(PLAIN) go test -json -exec "$(OWN_NET)" -count=1 -timeout 20m -$* '$(LONG_PAGES)' ./e2e/... | go run ./scripts/testlines bin/skipped-browser-$*.txt all

shots: build setup-browser ## the pictures in docs/screenshots
	@scripts/setup browser terminal
	KAIKU_SHOTS=$(CURDIR)/docs/screenshots go test -exec "$(OWN_NET)" -count=1 -run TestShots ./e2e
	$(OWN_NET) scripts/terminal-shot docs/screenshots/commands.png

bench: build ## prints aim, measured and ratio; exits 0 whatever they are
	@for b in "./store . 100x" "./core/... . 50x" "./httpapi MixedLoad 60x" "./cmd/kaiku Start 5x" "./cmd/kaiku Reading 1x" "./media . 1x" "./demo . 3x" "./probe . 3x"; do set -- $$b; \
		$(OWN_NET) go test -run '^$$' -bench "$$2" -benchtime "$$3" "$$1"; done | scripts/bench-table
	@KAIKU_EVENINGS=240 $(OWN_NET) go test -count=1 -timeout 20m -v ./practice/watching | scripts/bench-table
	@KAIKU_CLEAN_RUNS=50 $(OWN_NET) go test -count=1 -timeout 20m -v -run CleanHouseFails ./probe | scripts/bench-table
	@KAIKU_HOUSES=12 go test -count=1 -timeout 20m -v -run FaultsInOtherHomes ./core/suspects | scripts/bench-table

sabotage: build ## careless edits that no test notices, from scripts/sabotages; WORDS="restore visit" for some
	@go run ./scripts/sabotage $(WORDS)

soak: build setup-browser ## the long forms of the kill tests and of the test of relevance
	KAIKU_HISTORIES=20000 go test -count=1 -timeout 60m -run StandsOnItStale ./core/proving
	KAIKU_KILLS=1000 go test -exec "$(OWN_NET)" -count=1 -timeout 60m -v -run TestKilled ./e2e | grep -v "^=== "

FUZZTIME ?= 30s
fuzz: ## each fuzz test for a while: make fuzz FUZZTIME=10m
	@grep -rEo '^func Fuzz[A-Za-z0-9]+' --include=*_test.go --exclude-dir=node_modules . | sed 's,/[^/]*:func ,:,' | sort | while IFS=: read -r dir f; do \
		$(OWN_NET) go test $$dir -run '^$$' -fuzz "^$$f\$$" -fuzztime $(FUZZTIME) || exit 1; done

mutants: ## small changes to the code that no test notices; PACKAGES="./core/network ./store" for some, MUTANTS="-every 5" for every fifth
	@go run ./scripts/mutants $(MUTANTS) $(PACKAGES)

audit: ## what is known of the modules that Kaiku is made of; says so where that cannot be reached
	@scripts/audit

sbom: ## a bill of materials (CycloneDX) of the program and the console, in bin/
	@scripts/sbom bin

clean:
	rm -rf bin console/node_modules console/src/api/schema.d.ts && find console/dist -mindepth 1 ! -name .keep -delete
