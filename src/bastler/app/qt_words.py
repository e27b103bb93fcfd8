"""What Qt says by itself, as on the buttons of a file dialog, in the language of the window."""

from __future__ import annotations

from PyQt6.QtCore import QCoreApplication, QDateTime, QLibraryInfo, QLocale, QTranslator

from bastler.language import spoken, tr

_worn: list[QTranslator] = []


def speak_in_qt() -> None:
    """From now on Qt's own words, and its numbers and dates, are in the language in force."""
    app = QCoreApplication.instance()
    if app is None:
        return
    while _worn:
        app.removeTranslator(_worn.pop())
    QLocale.setDefault(QLocale(spoken()))
    words = QTranslator(app)
    if words.load(f"qtbase_{spoken()}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)):
        app.installTranslator(words)
        _worn.append(words)


def day_of(seconds: float) -> str:
    """A day, of a moment as seconds since 1970: `3 December`."""
    date = QDateTime.fromSecsSinceEpoch(int(seconds)).date()
    return QLocale(spoken()).toString(date, tr("d MMMM"))
