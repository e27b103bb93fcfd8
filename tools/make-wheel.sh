#!/usr/bin/env bash
# A wheel of Bastler in dist/, from what is committed or not yet: what lies in src.
set -euo pipefail
cd "$(dirname "$0")/.."
mkdir -p dist
rm -f dist/bastler-*.whl
# the pictures of the manual: in the wheel only, they lie with the documentation already
pictures=src/bastler/assets/manual
trap 'rm -rf "$pictures"' EXIT
mkdir -p "$pictures"
cp docs/screenshots/*.png "$pictures"
.venv/bin/python -m pip wheel -q --disable-pip-version-check --no-deps --no-build-isolation -w dist .
rm -rf build/lib build/bdist.*
ls dist/bastler-*.whl
