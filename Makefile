# Each target sets up what is missing first. Modules are kept compiled, whatever the surroundings say: else every process that is
# begun, and the tests begin hundreds, compiles all of them once more.
unexport PYTHONDONTWRITEBYTECODE
.PHONY: setup demo test bench shots soak lint words wheel deb installed

setup:
	@tools/setup.sh

demo: setup
	@tools/on-a-display.sh .venv/bin/bastler demo

lint: setup
	.venv/bin/ruff check src tests benchmarks soak
	.venv/bin/mypy
	.venv/bin/lint-imports

# Kernels are compiled beside the checks: each keeps one core busy for a while.
test: setup
	.venv/bin/python tools/warm.py > .warm.log 2>&1 & warm=$$!; $(MAKE) --no-print-directory lint; checked=$$?; wait $$warm || { cat .warm.log; exit 1; }; exit $$checked
	xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/python -m pytest -n 2 --dist worksteal

bench: setup
	xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/python -m pytest benchmarks --benchmark-only --benchmark-columns=min,median,max,rounds -p no:cacheprovider -o addopts=-q

# Looks further than the tests, with fresh seeds each time; goes on where it stopped. SECONDS is for each kind.
SECONDS ?= 1800
soak: setup
	.venv/bin/python -m soak kills --seconds $(SECONDS) --seeds 200
	.venv/bin/python -m soak inputs --seconds $(SECONDS)
	.venv/bin/python -m soak edits --seconds $(SECONDS)
	.venv/bin/python -m soak shifts --seconds $(SECONDS)
	xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/python -m soak.window --seconds $(SECONDS) --seed $$(date +%s)
	BASTLER_TIMES=6 .venv/bin/python -m pytest -n 2 tests --ignore=tests/gui

shots: setup
	@BASTLER_LANGUAGE=en tools/on-a-display.sh .venv/bin/bastler shots docs/screenshots

# The catalogues of other languages, brought up to date with the texts in the source.
words: setup
	PYTHONPATH=tests .venv/bin/python tests/gathering.py

wheel: setup
	@tools/make-wheel.sh

deb: setup
	@tools/make-deb.sh

# What is installed, tried as its users get it: in an empty home, without a network.
installed: setup
	@tools/try-installed.sh
