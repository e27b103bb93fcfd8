"""Lessons: parts that are made step by step in the real window, each from a print of our own.

A lesson is data (`made/*.toml`). Where one is in it is not kept but seen: it is at the first thing to do that the job does not
show yet. So whatever is undone, forgotten or done before its time, the lesson knows.
"""

from bastler.lessons.lesson import Item, Lesson, lesson_named, lessons
from bastler.lessons.where import Seen, answer_to, at_item, done, resolved, typed_items, what_is_wrong

__all__ = [
    "Item",
    "Lesson",
    "Seen",
    "answer_to",
    "at_item",
    "done",
    "lesson_named",
    "lessons",
    "resolved",
    "typed_items",
    "what_is_wrong",
]
