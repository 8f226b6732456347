"""The page of third-party packages says what is pinned, and why each package is there."""

import importlib.util
import json
import re
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


@pytest.fixture(scope="module")
def made():
    spec = importlib.util.spec_from_file_location("third_party", ROOT / "docs/third_party.py")
    module = importlib.util.module_from_spec(spec)
    sys.modules["third_party"] = module
    spec.loader.exec_module(module)
    return module


def listed():
    """Name → version, as the page has them."""
    text = (ROOT / "docs/third-party.md").read_text()
    return dict(re.findall(r"^\| `([^`]+)` \| (\d[^ ]*) \|", text, re.MULTILINE))


def test_every_package_is_listed_with_its_pinned_version(made):
    pinned = dict(re.findall(r"^([\w.-]+)==(\S+)$", (ROOT / "constraints.txt").read_text(), re.MULTILINE))
    pinned = {made.canonical(name): version for name, version in pinned.items()}
    page = listed()
    for package in made.python_packages():
        assert page.get(package.name) == pinned[package.name] == package.version, "run “make third-party”"
    for package in made.browser_packages():
        assert page.get(package.name) == package.version, "run “make third-party”"


def test_every_package_has_a_licence_and_a_reason(made):
    packages = [*made.python_packages(), *made.browser_packages()]
    assert [package.name for package in packages if package.licence == "?"] == []
    assert [p.name for p in packages if "tin-bucket" in p.wanted_by and p.name not in made.REASONS] == []
    assert all(package.wanted_by for package in packages)


def test_what_the_front_end_imports_is_among_them(made):
    """A package that is built into the page is listed, whatever package.json calls it."""
    known = {package.name for package in made.browser_packages()}
    found = set()
    for path in (ROOT / "frontend/src").rglob("*"):
        if path.suffix in (".ts", ".svelte", ".css"):
            found |= set(re.findall(r"(?:from|import) '((?:@[\w-]+/)?[a-z][\w-]*)[/']", path.read_text()))
    named = json.loads((ROOT / "frontend/package.json").read_text())["devDependencies"]
    assert len(found & set(named)) > 5
    assert (found & set(named)) - known == set()
