"""Starts the process that computes. Nothing else is loaded for it: it can load all it needs while the window loads what that
needs."""

from __future__ import annotations

import socket
import subprocess
import sys
from collections.abc import Sequence

PROGRAM = (sys.executable, "-m", "bastler.live")


class Child:
    """A process, and our end of the pair of sockets it was born with: without a name, packets keep their borders."""

    def __init__(self, program: Sequence[str] = PROGRAM) -> None:
        self.end, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        handle = theirs.fileno()
        self.process = subprocess.Popen([*program, str(handle)], pass_fds=(handle,), stdin=subprocess.DEVNULL)
        theirs.close()

    def close(self) -> None:
        """Ends it at once: it keeps nothing that anybody misses."""
        self.process.kill()
        self.end.close()
        self.process.wait()
