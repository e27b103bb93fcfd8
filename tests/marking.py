"""A language in which every text that is said stands between marks: what stands outside of them, nobody has said.

`python marking.py HANDLE` is the process that computes in it.
"""

from __future__ import annotations

import gettext
import re
import sys

from bastler import explained, language

LEFT, RIGHT = "⟦", "⟧"
ENGLISH = explained.texts("en")
_INNERMOST = re.compile(f"{LEFT}[^{LEFT}{RIGHT}]*{RIGHT}")


class Marking(gettext.NullTranslations):
    """Puts marks round each text."""

    def gettext(self, message: str) -> str:
        return f"{LEFT}{message}{RIGHT}"

    def pgettext(self, context: str, message: str) -> str:
        return self.gettext(message)

    def ngettext(self, msgid1: str, msgid2: str, n: int) -> str:
        return self.gettext(msgid1 if n == 1 else msgid2)


def speak_marked() -> None:
    """From now on, in this process."""
    language._tongue.name, language._tongue.words = "marked", Marking()
    explained.texts = lambda language: {key: f"{LEFT}{text}{RIGHT}" for key, text in ENGLISH.items()}  # type: ignore[assignment]


def unsaid(text: str) -> str:
    """What of a text stands outside of all marks."""
    while (less := _INNERMOST.sub(" ", text)) != text:
        text = less
    return text.partition(LEFT)[0] if text.endswith("…") else text  # of what is cut short the end is not there


if __name__ == "__main__":
    from bastler.live.__main__ import main

    speak_marked()
    sys.exit(main(int(sys.argv[1])))
