# Each target sets up what is missing first.
.PHONY: setup demo test bench shots lint

setup:
	@tools/setup.sh

demo: setup
	@tools/on-a-display.sh .venv/bin/bastler demo

lint: setup
	.venv/bin/ruff check src tests benchmarks
	.venv/bin/mypy
	.venv/bin/mypy --config-file tests/mypy.ini tests
	.venv/bin/lint-imports

test: lint
	xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/python -m pytest -n 2 --dist worksteal

bench: setup
	xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/python -m pytest benchmarks --benchmark-only --benchmark-columns=min,median,max,rounds -p no:cacheprovider -o addopts=-q

shots: setup
	@tools/on-a-display.sh .venv/bin/bastler shots docs/screenshots
