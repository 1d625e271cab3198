GO ?= go
BIN := bin/restbend

.PHONY: revisions sheets demo test quick lint bench assets screenshots solve build

build:
	$(GO) build -o $(BIN) ./cmd/restbend

demo: build ## build, start with fresh demo data, print address and sign-in
	./$(BIN) demo

test: chromium solver node lint ## everything
	node --test web/static_test
	$(GO) test ./... -count=1 -timeout 25m

quick: ## under a minute: no browser, no general solver, nothing long
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "run gofmt -w on:"; gofmt -l $$(git ls-files '*.go'); exit 1; }
	$(GO) vet ./...
	$(GO) test ./... -short

lint:
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { echo "run gofmt -w on:"; gofmt -l $$(git ls-files '*.go'); exit 1; }
	$(GO) vet ./...
	$(GO) tool staticcheck ./...

.PHONY: chromium
chromium: ## the browser tests drive Debian's Chromium
	@command -v chromium >/dev/null || { \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then apt-get update -qq && apt-get install -y -qq chromium >/dev/null; \
	  else echo "the tests need Chromium; run: sudo apt-get install chromium"; exit 1; fi; }

.PHONY: node
node: ## the browser's modules are tested without a browser
	@command -v node >/dev/null || { \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then apt-get update -qq && apt-get install -y -qq nodejs >/dev/null; \
	  else echo "the tests need Node; run: sudo apt-get install nodejs"; exit 1; fi; }

.PHONY: solver
solver: ## the planner is held against a general solver
	@command -v cbc >/dev/null || { \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then apt-get update -qq && apt-get install -y -qq coinor-cbc >/dev/null; \
	  else echo "the tests need cbc; run: sudo apt-get install coinor-cbc"; exit 1; fi; }

bench: solver ## figures and their ratio to a bare handler, with the machine idle
	$(GO) test -run '^$$' -bench . -benchtime 1s ./bench

assets: ## copy scripts, styles and fonts from pinned npm packages
	./scripts/assets.sh

screenshots: chromium ## pictures of every main view from demo data
	$(GO) run ./tools/screenshots
	$(GO) run ./tools/screenshots -contact

sheets: chromium ## every version from three cameras, as pages of pictures in sheets/
	$(GO) run ./tools/sheets

revisions: ## record the fingerprints of entries (after raising revisions) and of their words
	$(GO) run ./tools/solve -lock core/catalogue/revisions.lock

solve: ## solve, validate and measure every pose again
	$(GO) run ./tools/solve -deep

.PHONY: attack
attack: ## what docs/security.md promises, in the long form, with the machine idle: figures are printed
	RESTBEND_ATTACK=1 $(GO) test ./web -run 'TestPermissions|TestFuzzedRequests|TestWhenTheMachineFails|TestATokenFrom|TestADamagedPlan|TestMutatedDocuments|TestGuessing|TestStrangers|TestManyTries|TestUploads|TestABodyWaits|TestSizesAndDeadlines|TestEqualNames|TestAnImportShows|TestWhatIsKept|TestAnOpenSession|TestASignInFlood|TestTwoForms|TestTheBin' -count=1 -v -timeout 30m
	RESTBEND_SIZE=1 $(GO) test ./web -run TestAtSize -count=1 -v -timeout 20m
	$(GO) test ./archive -run 'TestHostileBundles|TestTheOwnAlwaysComesBack|TestMarksTakenIn|TestAnExportThatLay' -count=1 -v
	KILLS=300 $(GO) test ./cmd/restbend -run 'TestKilledWhileMarking|TestStops|TestTables|TestARestore|TestReached' -count=1 -v -timeout 30m

.PHONY: soak
soak: chromium ## ten real minutes of holds in the real page, and fifty kills while four clients mark
	SOAK=1 $(GO) test ./web -run TestTenMinutesOfHolds -count=1 -v -timeout 20m
	KILLS=50 $(GO) test ./cmd/restbend -run TestKilledWhileMarking -count=1 -v -timeout 20m
