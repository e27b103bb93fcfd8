"""Everything that has to be in a catalogue: what the source hands to `tr` and its kin, and what is declared and said later.

`make words` brings the catalogues up to date with the source, keeps what is translated, and makes of
each the file that the program reads. Needs Babel, as only those who change texts do.
"""

from __future__ import annotations

import ast
import functools
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import NamedTuple

SOURCE = Path(__file__).parents[1] / "src" / "bastler"
HERE = SOURCE / "language"
BEGUN = datetime(2026, 12, 1, tzinfo=UTC)
"""The dates in a catalogue: else every run would write another file."""


class Text(NamedTuple):
    """A text in English with its plural where it has one, the sense it is meant in where that has to be said, and where it
    stands."""

    one: str
    many: str = ""
    sense: str = ""
    where: str = ""


@functools.cache
def parsed() -> dict[str, ast.Module]:
    """Every module by its place in the source."""
    paths = sorted(SOURCE.rglob("*.py"))
    return {path.relative_to(SOURCE).as_posix(): ast.parse(path.read_text(encoding="utf-8")) for path in paths}


@functools.cache
def texts() -> dict[tuple[str, str], Text]:
    """All of them by sense and English, each once."""
    found: dict[tuple[str, str], Text] = {}
    for text in (*_in_source(), *_declared()):
        if text.one and any(letter.isalpha() for letter in text.one):
            found.setdefault((text.sense, text.one), text)
    return found


# -- in the source ---------------------------------------------------------------------------------------------------


def _in_source() -> Iterator[Text]:
    for where, tree in parsed().items():
        for node in ast.walk(tree):
            if isinstance(node, ast.Call):
                yield from _of_call(node, where)


def _of_call(call: ast.Call, where: str) -> Iterator[Text]:
    name = call.func.id if isinstance(call.func, ast.Name) else ""
    words = [_words(arg) for arg in call.args]
    if name == "tr" and words:
        yield from (Text(one, where=where) for one in words[0])
    elif name == "tr_as" and len(words) > 1:
        yield from (Text(one, sense=sense, where=where) for sense in words[0] for one in words[1])
    elif name == "tr_many" and len(words) > 2:
        yield from (Text(one, many, where=where) for one, many in zip(words[1], words[2], strict=True))
    elif name == "many" and len(words) > 1:
        yield from (Text(f"{{count}} {one}", f"{{count}} {one}s", where=where) for one in words[1])
    elif name == "countable":
        yield from (Text(f"{{count}} {one}", f"{{count}} {one}s", where=where) for one in words[0])
    elif name == "sayable":
        yield from (Text(one, where=where) for one in _all_words(call.args[0]))


def _words(node: ast.expr) -> list[str]:
    """The texts that an argument may be: one, or those of a choice between some."""
    if isinstance(node, ast.Constant) and isinstance(node.value, str):
        return [node.value]
    if isinstance(node, ast.IfExp):
        return [*_words(node.body), *_words(node.orelse)]
    return []


def _all_words(node: ast.expr) -> Iterator[str]:
    """All texts in something that is declared; of a table its values."""
    if isinstance(node, ast.Dict):
        for value in node.values:
            yield from _all_words(value)
    elif isinstance(node, ast.Tuple | ast.List | ast.Set):
        for value in node.elts:
            yield from _all_words(value)
    else:
        yield from _words(node)


# -- declared -------------------------------------------------------------------------------------------------------


def _declared() -> Iterator[Text]:
    """Words of questions, steps and commands, from their registries."""
    from bastler.app.commands import COMMANDS
    from bastler.app.keyring import KEY_NAMES
    from bastler.ask.question import declared_questions
    from bastler.cutting import materials
    from bastler.job.asked import owners
    from bastler.job.samples import sample, sample_names
    from bastler.lessons import lessons
    from bastler.machines.card import SENSE
    from bastler.machines.cards import CARDS
    from bastler.steps import STEPS
    from bastler.tools import naming

    yield from (Text(word, sense=naming.SENSE) for word in naming.WORDS)
    yield from (Text(material.name, sense=materials.SENSE) for material in materials.MATERIALS.values())
    yield from (Text(card.says, sense=SENSE) for card in CARDS.values())
    yield from (Text(sample(name).note, sense="sample") for name in sample_names())
    for kind in STEPS.values():
        yield from (Text(word, where=kind.tag) for word in (kind.title, kind.group, kind.says))
    for _, cls in owners():
        for question in declared_questions(cls):
            where = f"{cls.__name__}.{question.name}"
            choices = (words for value, words in question.choices if not _is_sign(words))
            yield from (Text(word, where=where) for word in (question.says, question.helps, question.group, *choices))
            yield from (Text(word, where=where) for word in question.ends or ())
    for lesson in lessons():
        words = (lesson.title, lesson.about, lesson.print.title, lesson.print.material, *(item.says for item in lesson.items))
        yield from (Text(word, where=f"lesson {lesson.name}") for word in words)
    yield from (Text(name, sense="key") for name in KEY_NAMES)
    for command in COMMANDS.values():
        yield from (Text(word, where=command.name) for word in (command.says, command.menu))


def _is_sign(words: str) -> bool:
    """Is it the same in every language, as a code or a number?"""
    return not any(part.isalpha() and len(part) > 1 for part in words.replace("-", " ").split())


# -- the catalogues -------------------------------------------------------------------------------------------------


def brought_up_to_date(language: str) -> None:
    """Writes a language's catalogue anew: what is said now, each with what it was translated as; and what is read of it."""
    from babel.messages.catalog import Catalog
    from babel.messages.mofile import write_mo
    from babel.messages.pofile import read_po, write_po

    path = HERE / f"{language}.po"
    old = read_po(path.open("rb"), locale=language) if path.exists() else Catalog(locale=language)
    new = Catalog(
        locale=language,
        project="Bastler",
        fuzzy=False,
        header_comment="# Bastler, said in another language.",
        creation_date=BEGUN,
        revision_date=BEGUN,
    )
    for (sense, one), text in sorted(texts().items(), key=lambda entry: (entry[1].where, entry[0])):
        before = old.get(one, context=sense or None)
        said = before.string if before is not None else ""
        new.add(
            (one, text.many) if text.many else one,
            said or (("", "") if text.many else ""),
            locations=[(text.where, 0)] if text.where.endswith(".py") else [],
            context=sense or None,
        )
    with path.open("wb") as file:
        write_po(file, new, width=120, omit_header=False, include_lineno=False, sort_output=False)
    with (HERE / f"{language}.mo").open("wb") as file:
        write_mo(file, new)


if __name__ == "__main__":
    from bastler.language import ENGLISH, LANGUAGES

    for name in LANGUAGES:
        if name != ENGLISH:
            brought_up_to_date(name)
