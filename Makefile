# Each target sets up what is missing first.
.PHONY: setup demo test bench shots lint

setup:
	@tools/setup.sh

demo: setup
	@tools/on-a-display.sh .venv/bin/bastler demo

lint: setup
	.venv/bin/ruff check src tests benchmarks
	.venv/bin/mypy
	.venv/bin/lint-imports

test: lint
	.venv/bin/python -m pytest

bench: setup
	.venv/bin/python -m pytest benchmarks --benchmark-only --benchmark-columns=min,median,max,rounds -p no:cacheprovider

shots: setup
	@tools/on-a-display.sh .venv/bin/bastler shots docs/screenshots
