#!/usr/bin/env bash
# Tries what is installed as its users get it: the wheel in an environment of its own, then the Debian package as far as it may be
# installed here. Nothing of this folder is in reach, the home folder is new, and there is no network where that can be cut off.
set -euo pipefail
cd "$(dirname "$0")/.."
place=$(mktemp -d)
trap 'rm -rf "$place"' EXIT
cut=""
unshare -rn true 2>/dev/null && cut="unshare -rn"
[ -n "$cut" ] && echo "No network while it runs." || echo "The network cannot be cut off here."

alone() { # a command in an empty home, far from here
    (cd "$place/home" && env -i PATH="$1:/usr/bin:/bin" HOME="$place/home" LANG=C.UTF-8 QT_QPA_PLATFORM=offscreen \
        XDG_RUNTIME_DIR="$place/home" "${@:2}")
}

try() { # with the folder of the command
    rm -rf "$place/home" && mkdir -p "$place/home"
    alone "$1" bastler --version
    alone "$1" bastler sample winch-base -o base.bastler
    alone "$1" $cut bastler prove base.bastler
    alone "$1" bastler post base.bastler -o base.nc
    alone "$1" bastler sheet base.bastler -o base.pdf
    alone "$1" env BASTLER_LANGUAGE=de bastler prove base.bastler | grep "^Geprüft" > /dev/null
    alone "$1" bastler manual > "$place/home/bastler.1"
    [ "$(head -c 4 "$place/home/base.pdf")" = "%PDF" ]
    grep -q "^M30" "$place/home/base.nc"
    alone "$1" bastler --install-desktop
    local share=$place/home/.local/share
    for file in applications/bastler.desktop icons/hicolor/scalable/apps/bastler.svg mime/packages/bastler.xml man/man1/bastler.1 man/de/man1/bastler.1; do
        [ -s "$share/$file" ] || { echo "$file is missing"; exit 1; }
    done
    command=$(sed -n 's/^Exec=\(.*\) open %f$/\1/p' "$share/applications/bastler.desktop")
    alone "$1" $command --version > /dev/null
    if command -v appstreamcli > /dev/null; then appstreamcli validate --no-net "$share"/metainfo/*.xml | tail -1; fi
    if command -v desktop-file-validate > /dev/null; then desktop-file-validate "$share/applications/bastler.desktop"; fi
    if command -v xvfb-run > /dev/null; then # the real window, closed again after eight seconds
        (cd "$place/home" && env -i PATH="$1:/usr/bin:/bin" HOME="$place/home" LANG=C.UTF-8 BASTLER_QUIT_AFTER=8000 \
            timeout 120 xvfb-run -a -s "-screen 0 1280x800x24" bastler open base.bastler)
        echo "The window opens and closes."
    fi
    alone "$1" bastler --remove-desktop
    [ ! -e "$share/applications/bastler.desktop" ]
}

echo "== the wheel"
wheel=$(tools/make-wheel.sh)
"${PYTHON:-python3}" -m venv "$place/venv"
.venv/bin/python tools/runtime-lock.py > "$place/runtime.lock"
"$place/venv/bin/python" -m pip install -q --no-compile --disable-pip-version-check --no-deps -r "$place/runtime.lock"
"$place/venv/bin/python" -m pip install -q --disable-pip-version-check --no-deps "$wheel"
try "$place/venv/bin"
rm -rf "$place/venv"

echo "== the Debian package"
deb=${1:-$(tools/make-deb.sh)}
if [ "$(id -u)" = 0 ] && ! dpkg-query -W bastler > /dev/null 2>&1; then
    dpkg -i "$deb" > /dev/null
    try /usr/bin
    dpkg-deb -c "$deb" | grep man1/bastler.1.gz > /dev/null # all of it read; a system may leave manual pages out
    dpkg -r bastler > /dev/null
    [ ! -e /usr/bin/bastler ] && [ ! -e /usr/lib/bastler ]
    echo "Installed, tried, removed."
else
    dpkg-deb -c "$deb" | grep ./usr/bin/bastler > /dev/null
    echo "Only looked into: installing needs root."
fi
