#!/usr/bin/env bash
# Runs a command on the display there is, or on a virtual one, and says so.
if [ -z "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
    echo "No display here: using a virtual one (1280 x 800)."
    exec xvfb-run -a -s "-screen 0 1280x800x24" "$@"
fi
exec "$@"
