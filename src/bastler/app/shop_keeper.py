"""Keeps the shop's tools, materials and machine cards on disk between two starts."""

from __future__ import annotations

import logging
from pathlib import Path

import platformdirs
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from bastler.app.session import Session
from bastler.disk import reason_of
from bastler.job import JobFileError
from bastler.job.files import stamp_at
from bastler.job.shop import Shop, read_shop, read_shop_file, shops_merged, write_shop
from bastler.language import tr

log = logging.getLogger(__name__)
WAIT_MS, AGAIN_MS = 800, 5000


def shop_path() -> Path:
    """Where the shop is kept."""
    return platformdirs.user_data_path("bastler") / "shop.json"


class ShopKeeper(QObject):
    """Reads the shop once, and writes it a moment after each change. A file that cannot be read is put aside; what another window
    has changed in it meanwhile is taken over. `refused` says why it cannot be written, and empty when it can again."""

    refused = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.trouble = ""
        self._base, self._stamp = Shop(), b""
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(WAIT_MS)
        self._timer.timeout.connect(self.keep)
        try:
            self._base, self._stamp = read_shop_file(shop_path())
        except JobFileError as error:
            log.info("%s", error)
            self._put_aside()
        session.shop = self._base
        session.shop_changed.connect(self._timer.start)

    def _put_aside(self) -> None:
        path = shop_path()
        try:
            path.replace(path.with_suffix(".unreadable.json"))
        except OSError:
            log.info("The shop's file could not be put aside", exc_info=True)

    def keep(self) -> None:
        """Writes the shop now."""
        shop = self._with_theirs()
        self._timer.stop()
        try:
            self._stamp = write_shop(shop, shop_path())
        except OSError as error:
            log.info("The shop could not be written", exc_info=True)
            self._timer.start(AGAIN_MS)
            self._tell(tr("Changes in the crib are not being kept for other jobs: {error}.", error=reason_of(error)))
            return
        self._base = shop
        self._tell("")

    def _with_theirs(self) -> Shop:
        """The shop with what another window has changed in its file since it was read here."""
        ours = self.session.shop
        try:
            if stamp_at(shop_path()) in (b"", self._stamp):
                return ours
            theirs = read_shop(shop_path())
        except (OSError, JobFileError):  # somebody else's half: ours is whole
            return ours
        shop, both = shops_merged(self._base, ours, theirs)
        self._base = theirs
        self.session.keep_shop(shop)
        if both:
            names = ", ".join(dict.fromkeys(both))
            self.session.said.emit("", tr("Another window has changed the same in the crib; yours holds: {names}.", names=names))
        return shop

    def _tell(self, text: str) -> None:
        if text != self.trouble:
            self.trouble = text
            self.refused.emit(text)

    def leave(self) -> None:
        """The window closes: what waits to be written is."""
        if self._timer.isActive():
            self.keep()
