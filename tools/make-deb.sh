#!/usr/bin/env bash
# A Debian package in dist/, for Debian 12 on this kind of processor. What Bastler needs of Python lies in it, in the versions of
# the lock file: nothing is fetched when it is installed, or when it runs.
set -euo pipefail
cd "$(dirname "$0")/.."
python=${PYTHON:-/usr/bin/python3}
version=$(sed -n 's/^version = "\(.*\)"/\1/p' pyproject.toml)
architecture=$(dpkg --print-architecture)
short=$("$python" -c 'import sys; print("%d.%d" % sys.version_info[:2])')
next=$("$python" -c 'import sys; print("%d.%d" % (sys.version_info[0], sys.version_info[1] + 1))')
mkdir -p dist build
root=build/deb/bastler_${version}_${architecture}
rm -rf "$root"
own=$root/usr/lib/bastler
mkdir -p "$own" "$root/usr/bin" "$root/usr/share/doc/bastler" "$root/DEBIAN"

wheel=$(tools/make-wheel.sh)
.venv/bin/python tools/runtime-lock.py > build/runtime.lock
# for the interpreter that the package will run under, whatever built it
.venv/bin/python -m pip install -q --disable-pip-version-check --no-compile --no-deps --target "$own" \
    --python-version "$short" --only-binary :all: -r build/runtime.lock
rm -rf "$own/bin"
.venv/bin/python -m pip install -q --disable-pip-version-check --no-compile --no-deps --target "$own" "$wheel"
rm -rf "$own/bin" "$own"/*/tests "$own"/numba/tests
find "$own" -name '__pycache__' -prune -exec rm -rf {} +

cat > "$root/usr/bin/bastler" <<'SH'
#!/bin/sh
# -s: nothing of the user's own Python gets in
PYTHONPATH=/usr/lib/bastler exec /usr/bin/python3 -s -m bastler "$@"
SH
chmod 755 "$root/usr/bin/bastler"
PYTHONPATH=$own "$python" -c '
import sys
from pathlib import Path
from bastler.cli import make_parser
from bastler.installing import share_files
for place, data in share_files("/usr/bin/bastler", make_parser):
    path = Path(sys.argv[1]) / place
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(data)
' "$root/usr/share"
find "$root/usr/share/man" -name "*.1" -exec gzip -9n {} +
find "$own" -name '__pycache__' -prune -exec rm -rf {} +
cp LICENSE "$root/usr/share/doc/bastler/copyright"
gzip -9nc CHANGELOG.md > "$root/usr/share/doc/bastler/changelog.gz"

cat > "$root/DEBIAN/control" <<CONTROL
Package: bastler
Version: $version
Section: science
Priority: optional
Architecture: $architecture
Depends: python3 (>= $short), python3 (<< $next), libgl1, libegl1, libgl1-mesa-dri, libxkbcommon-x11-0, libxcb-cursor0, libxcb-icccm4, libxcb-keysyms1, libxcb-image0, libxcb-render-util0, libxcb-shape0, libxcb-xinerama0, libxcb-xkb1, libdbus-1-3, libfontconfig1, libxrender1, libglib2.0-0
Recommends: desktop-file-utils, shared-mime-info
Installed-Size: $(du -sk "$root/usr" | cut -f1)
Maintainer: The makers of Bastler <bastler@localhost>
Description: feature cycles, a live proof and G-code for machinists
 Fill in one feature after the other, see the part being cut while you type,
 and take away a program that does on the machine what the screen showed: the
 program itself is read and run against the stock, the tools and the machine
 before it leaves.
CONTROL
cat > "$root/DEBIAN/postinst" <<'SH'
#!/bin/sh
# compiled once, where users may not write
set -e
[ "$1" = configure ] && { /usr/bin/python3 -s -m compileall -q /usr/lib/bastler > /dev/null 2>&1 || true; }
exit 0
SH
cat > "$root/DEBIAN/prerm" <<'SH'
#!/bin/sh
set -e
find /usr/lib/bastler -name __pycache__ -type d -prune -exec rm -rf {} + 2> /dev/null || true
exit 0
SH
chmod 755 "$root/DEBIAN/postinst" "$root/DEBIAN/prerm"
(cd "$root" && find usr -type f -exec md5sum {} + > DEBIAN/md5sums)
find "$root" -type d -exec chmod 755 {} +
dpkg-deb -Zxz -z1 --root-owner-group --build "$root" dist/ > /dev/null
rm -rf build/deb
ls "dist/bastler_${version}_${architecture}.deb"
