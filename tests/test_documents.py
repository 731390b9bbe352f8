"""What is written for people: links lead somewhere, commands exist, pictures are shown, names in the code are there."""

import re
import subprocess
import tomllib
from pathlib import Path

import pytest
from tests.conftest import CHECKOUT

DOCUMENTS = sorted([*CHECKOUT.glob("*.md"), *CHECKOUT.glob("docs/*.md")])
LINK = re.compile(r"\[[^\]]*\]\(([^)#\s]+)")
COMMAND = re.compile(r"^    (?:[A-Z_]+=\S+ )?(\S+)((?: .*?)?)(?:\s+#.*)?$", re.M)


def ids(paths: list[Path]) -> list[str]:
    return [str(path.relative_to(CHECKOUT)) for path in paths]


@pytest.mark.parametrize("document", DOCUMENTS, ids=ids(DOCUMENTS))
def test_every_link_leads_somewhere(document: Path) -> None:
    targets = [link for link in LINK.findall(document.read_text("utf-8")) if "://" not in link]
    assert [link for link in targets if not (document.parent / link).exists()] == []


def test_every_picture_is_shown_on_the_front_page() -> None:
    front = (CHECKOUT / "README.md").read_text("utf-8")
    pictures = {path.name for path in (CHECKOUT / "docs" / "screenshots").iterdir()}
    assert {name for name in pictures if f"docs/screenshots/{name}" not in front} == set()
    assert len(pictures) < 20


@pytest.mark.parametrize("document", DOCUMENTS, ids=ids(DOCUMENTS))
def test_every_command_is_there(document: Path) -> None:
    """Of the launcher each verb, of Python each module, of npm each script; what is run is a file of the checkout."""
    usage = subprocess.run([CHECKOUT / "zesty"], capture_output=True, text=True, check=False).stdout
    verbs = set(re.findall(r"^  \./zesty (\w+)", usage, re.M))
    assert {"start", "test", "backup"} <= verbs
    scripts = (CHECKOUT / "web" / "package.json").read_text("utf-8")
    for program, rest in COMMAND.findall(document.read_text("utf-8")):
        words = rest.split()
        if program == "./zesty":
            assert words[0] in verbs, rest
        elif program == ".venv/bin/python":
            assert words[0] == "-m"
            module = words[1].replace(".", "/")
            places = [CHECKOUT / root / f"{module}{end}" for root in ("", "src") for end in (".py", "/__main__.py")]
            assert any(place.exists() for place in places), rest
        elif program == ".venv/bin/pytest":
            assert all((CHECKOUT / word).exists() for word in words if word.startswith("tests")), rest
        elif program == "npm":
            assert f'"{words[words.index("run") + 1]}":' in scripts, rest


def test_names_of_the_glossary_are_names_in_the_code() -> None:
    rows = re.findall(r"^\| [^|]+ \| ([^|]*) \|", (CHECKOUT / "docs" / "glossary.md").read_text("utf-8"), re.M)
    names = {name for row in rows for name in re.findall(r"`([A-Za-z_.]+)`", row)}
    source = "\n".join(path.read_text("utf-8") for path in (CHECKOUT / "src").rglob("*.py"))
    source += "\n".join(path.read_text("utf-8") for path in (CHECKOUT / "src").rglob("*.toml"))
    assert {name for name in names if not re.search(rf"\b{re.escape(name)}\b", source)} == set()
    assert len(names) > 20


def test_the_version_is_said_once() -> None:
    version = tomllib.loads((CHECKOUT / "pyproject.toml").read_text("utf-8"))["project"]["version"]
    assert f"## {version}" in (CHECKOUT / "CHANGELOG.md").read_text("utf-8")
    assert '"version"' not in (CHECKOUT / "web" / "package.json").read_text("utf-8")
