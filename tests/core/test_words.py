"""What is said on screen: each sentence is built in one place, in American spelling."""

import ast
import re
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

from tests.conftest import CHECKOUT

CORE = CHECKOUT / "src" / "zesty_copper" / "core"
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
    inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in node.values}
    for node in ast.walk(tree):
        if isinstance(node, ast.JoinedStr):
            yield "".join(part.value if isinstance(part, ast.Constant) else "{}" for part in node.values)  # type: ignore[misc]
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs | inside:
            yield node.value


def test_no_sentence_is_built_twice() -> None:
    said = Counter(
        one.strip()
        for file in CORE.rglob("*.py")
        for one in sentences(file)
        if len(one.split()) >= LEAST_WORDS and one.strip().endswith((".", "?"))
    )
    assert {one: times for one, times in said.items() if times > 1} == {}


def test_words_on_screen_are_american() -> None:
    # The tables keep the spelling that they are looked up by.
    tables = [file for file in CORE.rglob("*.toml") if file.parent.name != "tables"]
    said = [line for file in tables for line in re.findall(r'"([^"]{4,})"', _without_comments(file))]
    said += [one for file in CORE.rglob("*.py") for one in sentences(file) if not one.startswith("X, ")]
    pages = (CHECKOUT / "web" / "src").rglob("*.tsx")
    said += [line for file in pages for line in re.findall(r">([^<>{}]{4,})<", file.read_text("utf-8"))]
    assert [one for one in said if " " in one and BRITISH.search(one)] == []


def _without_comments(file: Path) -> str:
    return "\n".join(line for line in file.read_text("utf-8").splitlines() if not line.startswith("#"))
