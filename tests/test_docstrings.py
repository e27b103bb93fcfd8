"""What the house style asks of docstrings, held over the whole program."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest

import bastler

HOME = Path(bastler.__file__).parent
MODULES = sorted(HOME.rglob("*.py"))
BUILT_IN = ("NotImplementedError", "AssertionError", "TypeError")
"""Errors that are a fault of the program and not of what it is given."""


def raised(function: ast.FunctionDef) -> set[str]:
    """The names of the errors that a function raises itself, not in functions within it."""
    found, todo = set(), list(function.body)
    while todo:
        node: ast.AST = todo.pop()
        if isinstance(node, ast.FunctionDef | ast.ClassDef | ast.Lambda):
            continue
        if isinstance(node, ast.Raise) and node.exc is not None:
            error = node.exc.func if isinstance(node.exc, ast.Call) else node.exc
            found.add(getattr(error, "id", getattr(error, "attr", "")))
        todo += ast.iter_child_nodes(node)  # type: ignore[arg-type]
    return found - {*BUILT_IN, ""}


def outer(tree: ast.Module) -> list[tuple[ast.FunctionDef, str]]:
    """Functions of a module, and methods of its classes, each with what its class says."""
    found = [(node, "") for node in tree.body if isinstance(node, ast.FunctionDef)]
    for node in tree.body:
        if isinstance(node, ast.ClassDef):
            says = ast.get_docstring(node) or ""
            found += [(entry, says) for entry in node.body if isinstance(entry, ast.FunctionDef)]
    return found


@pytest.mark.parametrize("folder", sorted({p.parent for p in MODULES}), ids=lambda p: str(p.relative_to(HOME)))
def test_a_public_function_says_its_errors(folder: Path) -> None:
    silent = []
    for path in (p for p in MODULES if p.parent == folder and "app" not in p.relative_to(HOME).parts):
        for function, of_class in outer(ast.parse(path.read_text(encoding="utf-8"))):
            says = of_class + (ast.get_docstring(function) or "")
            missing = {name for name in raised(function) if name not in says}
            if not function.name.startswith("_") and missing:
                silent.append((path.name, function.name, missing))
    assert silent == []


def test_every_module_says_what_it_is_for() -> None:
    empty = [p for p in MODULES if p.read_text(encoding="utf-8").strip()]
    assert [p.name for p in empty if not ast.get_docstring(ast.parse(p.read_text(encoding="utf-8")))] == []
