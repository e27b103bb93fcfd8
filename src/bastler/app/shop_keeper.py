"""Keeps the shop's tools, materials and machine cards on disk between two starts."""

from __future__ import annotations

import logging
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, QTimer

from bastler.app.session import Session
from bastler.job import JobFileError
from bastler.job.shop import read_shop, write_shop

log = logging.getLogger(__name__)
WAIT_MS = 800


def shop_path() -> Path:
    """Where the shop is kept."""
    return platformdirs.user_data_path("bastler") / "shop.json"


class ShopKeeper(QObject):
    """Reads the shop once, and writes it a moment after each change. A file that cannot be read is put aside."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(WAIT_MS)
        self._timer.timeout.connect(self.keep)
        try:
            session.shop = read_shop(shop_path())
        except JobFileError as error:
            log.info("%s", error)
            self._put_aside()
        session.shop_changed.connect(self._timer.start)

    def _put_aside(self) -> None:
        path = shop_path()
        try:
            path.replace(path.with_suffix(".unreadable.json"))
        except OSError:
            log.info("The shop's file could not be put aside", exc_info=True)

    def keep(self) -> None:
        """Writes the shop now."""
        self._timer.stop()
        try:
            write_shop(self.session.shop, shop_path())
        except OSError:
            log.info("The shop could not be written", exc_info=True)

    def leave(self) -> None:
        """The window closes: what waits to be written is."""
        if self._timer.isActive():
            self.keep()
