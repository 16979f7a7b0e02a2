# Two commands do everything: make demo, make test.
.PHONY: demo test race soak fuzz bench html shots assets check setup
export PATH := $(PATH):/usr/local/go/bin

demo:
	@sh scripts/setup.sh postgres
	@go build -o .run/candlepath ./cmd/candlepath
	@exec .run/candlepath demo

# The model of the road to Live goes first: alone it takes less than a minute.
test:
	@sh scripts/setup.sh postgres chromium servers
	go test -run '^TestTheRoadToLive$$' ./internal/app
	go test -timeout 35m -skip '^TestTheRoadToLive$$' ./...

# What several people do at once, under the race detector; the model does one step after the other.
race:
	@sh scripts/setup.sh postgres cc
	go test -race -timeout 25m -skip "^TestTheRoadToLive$$" ./internal/app/... ./internal/jobs/... ./internal/store/... ./internal/web/reader/...

# The road from a draft to Live as a model, for as long as one says: make soak ROADS=2000
ROADS ?= 500
soak:
	@sh scripts/setup.sh postgres
	ROADS=$(ROADS) go test -count 1 -timeout 0 -run TestTheRoadToLive -v ./internal/app

# Readers of foreign files, with input of their own making, in 6 GB of memory.
FUZZTIME ?= 60s
fuzz:
	@sh -c 'ulimit -v 6000000; for f in FuzzReadSitemap FuzzReadNested FuzzReadRedirects FuzzOldBody FuzzRewriting FuzzPrepare; do \
		go test -run "^$$" -fuzz "^$$f\$$" -fuzztime $(FUZZTIME) -parallel 2 ./internal/files || exit 1; done'

bench:
	@sh scripts/setup.sh postgres load
	go test -run '^$$' -bench . -benchtime 5x ./internal/core/... ./internal/files/... ./internal/markup ./internal/web/...
	go test -timeout 30m -run '^$$' -bench . -benchtime 1x -p 1 ./e2e/...

html:
	@sh scripts/setup.sh postgres chromium java
	npm install --no-save --no-audit --no-fund vnu-jar@26.9.27
	rm -rf .tools/pages && PAGES="$$(pwd)/.tools/pages" go test -count 1 -run TestSavePages ./e2e/site
	java -jar node_modules/vnu-jar/build/dist/vnu.jar .tools/pages && echo "The Nu HTML checker finds nothing."

shots:
	@sh scripts/setup.sh postgres chromium
	SHOTS=1 go test -count 1 -run TestShots ./e2e/site

assets:
	npm ci --no-audit --no-fund
	node web/assets/build.mjs
	sh scripts/assets.sh record

check:
	sh scripts/setup.sh lint
	test -z "$$(gofmt -l cmd internal web migrations e2e)"
	.tools/golangci-lint run ./...
	sh scripts/assets.sh check
	sh scripts/assets.sh lint
