"""`python -m bastler.live HANDLE`: the process that computes. It talks through the socket it was born with, and ends with it."""

from __future__ import annotations

import gc
import logging
import os
import socket
import sys
import threading

from bastler.live.messages import Ready
from bastler.live.wire import Gone, Wire

SWITCH_SECONDS = 0.001
"""How long a thread may keep the interpreter: a kernel that comes back from its work waits at most this long for it."""


def main(handle: int) -> int:
    """Works until nobody asks any more."""
    gc.disable()  # what is loaded now stays to the end
    logging.basicConfig(level=os.environ.get("BASTLER_LOG", "WARNING"))
    sys.setswitchinterval(SWITCH_SECONDS)
    wire = Wire(socket.socket(fileno=handle))
    from bastler.live.desk import Desk

    threading.excepthook = _lane_died
    desk = Desk(wire.send)
    desk.start()
    gc.freeze()
    gc.enable()
    try:
        wire.send(Ready())
        while True:
            desk.take(wire.receive())
    except Gone:
        desk.leave()
    return 0


def _lane_died(what: threading.ExceptHookArgs) -> None:
    """A lane that is gone would leave somebody waiting for ever: the whole process goes, which is seen and begun again."""
    if what.exc_type is not SystemExit:
        logging.getLogger("bastler").error("A lane has ended", exc_info=what.exc_value)
        os._exit(3)


if __name__ == "__main__":
    sys.exit(main(int(sys.argv[1])))
