#!/usr/bin/env bash
# Sets up what is missing: system packages where that is allowed, the virtual environment, the pinned packages.
set -euo pipefail
cd "$(dirname "$0")/.."

PACKAGES="xvfb xauth libgl1 libegl1 libgl1-mesa-dri libxkbcommon-x11-0 libxcb-cursor0 libxcb-icccm4 libxcb-keysyms1 \
libxcb-image0 libxcb-render-util0 libxcb-shape0 libxcb-xinerama0 libxcb-xkb1 libdbus-1-3 libfontconfig1 libxrender1 \
libglib2.0-0 python3-venv"

missing() {
    command -v dpkg-query >/dev/null || return 0
    for package in $PACKAGES; do
        # any interpreter with a working venv will do in place of the distribution's
        [ "$package" = python3-venv ] && python3 -c 'import ensurepip' 2>/dev/null && continue
        dpkg-query -W -f='${Status}' "$package" 2>/dev/null | grep -q 'install ok installed' || echo "$package"
    done
}

needed=$(missing | tr '\n' ' ')
if [ -n "${needed// /}" ]; then
    if [ "$(id -u)" = 0 ]; then
        echo "Installing system packages: $needed"
        apt-get update -qq
        DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $needed >/dev/null
    else
        echo "Some system packages are missing. Please run this line and start again:"
        echo "  sudo apt-get install -y $needed"
        exit 1
    fi
fi

stamp=.venv/.bastler-$(cat requirements.lock pyproject.toml | sha256sum | cut -c1-16)
if [ ! -e "$stamp" ]; then
    echo "Setting up the environment in .venv"
    [ -x .venv/bin/python ] || python3 -m venv .venv
    .venv/bin/python -m pip install -q --no-compile --disable-pip-version-check --no-deps -r requirements.lock
    .venv/bin/python -m pip install -q --disable-pip-version-check --no-deps --no-build-isolation -e .
    rm -f .venv/.bastler-*
    touch "$stamp"
fi
