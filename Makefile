.PHONY: start build test soak lint generate screenshots bench bench-farm bench-picture format golden

start:        ## install what is missing, build, start with the demonstration
	@scripts/start.sh
build:        ## front end and program
	@bash -c 'source scripts/tools.sh; need_toolchains; build_web; build_program'
test:         ## everything: lint, freshness, Go, front end, browser
	@scripts/test.sh
soak:         ## for long: 200 rounds of faults, everything heavy at once, the API fuzzed, sync of many
	@scripts/test.sh --soak
lint:
	@scripts/lint.sh
format:
	@gofmt -w core internal cmd web/embed.go
	@cd web && npx --no-install prettier --write --log-level warn . && cd ../e2e && ../web/node_modules/.bin/prettier --write --log-level warn .
generate:     ## schema, API code, types
	@scripts/generate.sh
screenshots:  ## docs/screenshots from the demonstration
	@scripts/test.sh --screenshots
bench:
	@scripts/bench.sh
golden:      ## take the renderer's kept pictures as they are now, and show what has changed
	@bash -c 'source scripts/tools.sh; need_toolchains; go test ./internal/demo -run PicturesAreAsTheyWere -count=1 -v -golden'
bench-farm:   ## how well 1 to 100 workers share a delivery
	@scripts/bench.sh --farm
bench-picture: ## the renderer in turns with another one: MODEL, CAMERAS, REFERENCE and PLAIN (docs/performance.md)
	@scripts/bench.sh --picture
