"""What is said on screen: each sentence is built in one place, in American spelling."""

import ast
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

from tests.conftest import CHECKOUT

from zesty_copper.core.words import catalogue

CORE = CHECKOUT / "src" / "zesty_copper" / "core"
FOR_PROGRAMS = ("ValueError", "NumericalError", "Field", "no_part")
"""What is raised or described where no technician, but a program that sends a circuit, is told."""
LEAST_WORDS = 5
"""Fewer make no sentence."""
BRITISH = re.compile(
    r"\b(colou?red by|colour|aluminium|grey|centre|behaviour|favour|licence|earth leakage|mains)\b", re.I
)
"""Spellings and words that no American technician uses."""


def sentences(file: Path) -> Iterator[str]:
    """Every string of a module that is no docstring, f-strings with their holes left empty."""
    tree = ast.parse(file.read_text("utf-8"))
    docs = {
        id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Call) and getattr(node.func, "id", "") in FOR_PROGRAMS:
            docs |= {id(part) for part in ast.walk(node)}
    inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr) and id(node) not in docs:
            yield "".join(part.value if isinstance(part, ast.Constant) else "{}" for part in node.values)  # type: ignore[misc]
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs | inside:
            yield node.value


def said_in(file: Path) -> Iterator[tuple[str, set[str]]]:
    """Every message that a module says: its key, and the holes that are filled."""
    for node in ast.walk(ast.parse(file.read_text("utf-8"))):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "say":
            key = node.args[0]
            assert isinstance(key, ast.Constant), f"{file.name}:{node.lineno} says what cannot be found by its key"
            yield str(key.value), {str(keyword.arg) for keyword in node.keywords}


def test_every_message_is_said_with_all_its_holes_and_none_is_left_over() -> None:
    said = [one for file in CORE.rglob("*.py") for one in said_in(file) if file.parent.name != "words"]
    holes = {
        key: {name for _, name, _, _ in Formatter().parse(text) if name is not None}
        for key, text in catalogue().items()
    }
    assert {key for key, _ in said} == set(holes)
    assert [(key, filled) for key, filled in said if filled != holes[key]] == []


def test_no_sentence_is_built_twice_or_outside_the_catalogue() -> None:
    told = Counter(catalogue().values())
    assert {one: times for one, times in told.items() if times > 1} == {}
    outside = {
        sentence.strip()
        for file in CORE.rglob("*.py")
        for sentence in sentences(file)
        if len(sentence.split()) >= LEAST_WORDS and sentence.strip().endswith((".", "?"))
    }
    assert outside == set()


def test_words_on_screen_are_american() -> None:
    # The tables keep the spelling that they are looked up by.
    tables = [file for file in CORE.rglob("*.toml") if file.parent.name != "tables"]
    said = [line for file in tables for line in re.findall(r'"([^"]{4,})"', _without_comments(file))]
    said += [sentence for file in CORE.rglob("*.py") for sentence in sentences(file) if not sentence.startswith("X, ")]
    said += catalogue().values()
    pages = (CHECKOUT / "web" / "src").rglob("*.tsx")
    said += [line for file in pages for line in re.findall(r">([^<>{}]{4,})<", file.read_text("utf-8"))]
    assert [one for one in said if " " in one and BRITISH.search(one)] == []


def _without_comments(file: Path) -> str:
    return "\n".join(line for line in file.read_text("utf-8").splitlines() if not line.startswith("#"))
