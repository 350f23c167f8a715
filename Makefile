# Chores. `make` lists them; each needs the environment that ./test makes.
.PHONY: help start test quick whole format lint types bench campaigns audit pictures coverage mutants

help: ## list what there is
	@sed -n 's/^\([a-z]*\): ## /  \1	/p' $(MAKEFILE_LIST)

start: ## serve on this machine
	./start

test: ## check everything
	./test

quick: ## lint, types and the core, in under a minute
	./test --quick

whole: ## check everything with all the cases that tests can draw; half an hour
	RECENSOR_WHOLE=1 ./test

format: ## put the code into its form
	.venv/bin/ruff check --fix --quiet . && .venv/bin/ruff format --quiet .

lint: ## lint, import contracts, templates, styles and scripts
	.venv/bin/ruff check . && .venv/bin/lint-imports && .venv/bin/djlint recensor --check --lint --quiet && scripts/lint-assets

types: ## check types only
	.venv/bin/mypy

bench: ## measure speed, as ratios in one run
	for name in core sorting circuits recording lists; do .venv/bin/python -m benchmarks.$$name; done

campaigns: ## try to break a running Recensor, two minutes for each attempt
	.venv/bin/python -m campaigns

audit: ## hold every locked package against the advisories that PyPI publishes
	scripts/audit

pictures: ## take docs/screenshots anew; needs ./start --reset-demo running
	.venv/bin/python docs/screenshots/take.py

coverage: ## what the core's tests reach, with a floor for each package
	.venv/bin/python -m tests.coverage

mutants: ## how many small mutations of plan, sweeps, faults and entries their own tests catch; an hour for each
	for name in plan sweeps faults entries; do scripts/mutants $$name 3600; done
