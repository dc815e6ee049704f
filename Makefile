# Two commands do everything: make demo, make test.
GO ?= go
export GOAMD64 = v1
export CGO_ENABLED = 0

.PHONY: demo build test needs lint unit shots vendor parts compare-import fuzz

demo: build
	./build/arete demo --db build/demo.db

build:
	@mkdir -p build
	$(GO) build -trimpath -o build/arete ./cmd/arete

test: needs lint unit

# Chromium for the browser tests, when it is not there.
needs:
	@command -v chromium >/dev/null 2>&1 || { apt-get update && apt-get install -y --no-install-recommends chromium; }

lint:
	@test -z "$$(gofmt -l $$(git ls-files '*.go'))" || { gofmt -l $$(git ls-files '*.go'); exit 1; }
	$(GO) vet ./...
	$(GO) tool staticcheck ./...


unit:
	$(GO) test ./... -timeout 600s

# What follows is for developers: pictures for the README from a running demo,
# vendored scripts and styles, authored parts, longer fuzzing.
shots:
	$(GO) run ./scripts/shots

vendor:
	scripts/vendor.sh

parts:
	python3 demo/author/author.py && python3 demo/author/library.py && sh demo/author/kernel.sh

compare-import:
	sh scripts/compare-import.sh

fuzz:
	$(GO) test ./core/exchange/step -fuzz FuzzRead -fuzztime 60s
	$(GO) test ./core/exchange/stl -fuzz FuzzRead -fuzztime 30s
	$(GO) test ./core/exchange/dxf -fuzz FuzzRead -fuzztime 30s
	$(GO) test ./core/nc/read -fuzz FuzzRead -fuzztime 60s
	$(GO) test ./core/quantity -fuzz FuzzParse -fuzztime 30s
