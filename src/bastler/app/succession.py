"""Another language at once: a window in it takes the place of the one that is there, with the job, what undo goes back to, and
the place one was at.

A new window says every word anew, and a new process that computes sends its sentences in the language; a walk over all that is
shown would miss what was painted, cached or made half an hour ago.
"""

from __future__ import annotations

from PyQt6.QtWidgets import QApplication

from bastler.app.main_window import MainWindow
from bastler.app.qt_words import speak_in_qt
from bastler.app.settings import language_meant
from bastler.language import speak, spoken


def succeed(old: MainWindow) -> MainWindow:
    """The window that goes on in the language of the settings; the old one where that is spoken already, or where what is in no
    file cannot be kept."""
    wanted = language_meant(old.settings.language)
    if wanted == spoken() or not old.jobs.may_leave():
        return old
    session, place, view = old.session, old.place, old.current_view
    ident, selected, focus = old.jobs.recovery.ident, session.selected, session.focus
    had, history, path, saved, stamp = session.has_job, session.history, session.path, session.saved, session.stamp
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    app.setQuitOnLastWindowClosed(False)
    shown = old.isVisible()
    old.close()
    speak(wanted)
    speak_in_qt()
    new = MainWindow()
    if shown:
        new.open_up()
    app.setQuitOnLastWindowClosed(True)
    if had:
        new.jobs.opened(history.job, path, saved=saved, stamp=stamp, ident=ident)
        new.session.take_history(history)
        new.session.select(selected)
        new.go_to(place)
        if place == "bench":
            new.view(view)
            new.questions.take_focus(focus)
    return new
