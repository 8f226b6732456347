"""Writes third-party.md: every package that Tin Bucket ships with or needs to run, its version and licence, and why it
is there. `make third-party` runs it; a test holds the page and the pinned versions together."""

from __future__ import annotations

import importlib.metadata
import json
import re
from dataclasses import dataclass
from pathlib import Path

from packaging.requirements import Requirement

ROOT = Path(__file__).parents[1]

# Why each package is there that Tin Bucket itself names.
REASONS = {
    "aiohttp": "makes the calls to services; serves the simulated ones",
    "aiosmtpd": "the mail server that the demo’s notices go to",
    "aiosmtplib": "sends mails",
    "cachetools": "the bounded caches",
    "cryptography": "seals the stored keys (AES-GCM, scrypt)",
    "fastapi": "the server's routes",
    "ijson": "reads JSON that is too large for memory",
    "jsonpath-rfc9535": "JSONPath as people write it",
    "lxml": "reads and changes the parts of workbooks",
    "markdown-it-py": "reads the texts of reports",
    "psycopg": "writes tables of PostgreSQL",
    "numpy": "row lists, origins, sorting, comparison",
    "orjson": "reads and writes JSON",
    "pint": "units of measure",
    "platformdirs": "finds the user's data folder",
    "pydantic": "the models of briefs, services and the API",
    "python-calamine": "reads workbooks, in a process of their own",
    "regex": "patterns with a bound on their time",
    "rich": "what the command line prints",
    "typer": "the command line",
    "tzdata": "time zones, where the system has none",
    "tzlocal": "the time zone of the machine",
    "uritemplate": "addresses as URI Templates",
    "uvicorn": "runs the server",
    "pyarrow": "writes Parquet",
    "xlsxwriter": "writes workbooks",
    "zstandard": "compresses saved answers and columns",
    "@codemirror/autocomplete": "expressions: completion",
    "@codemirror/commands": "expressions: keys",
    "@codemirror/lang-sql": "expressions: the language",
    "@codemirror/language": "expressions: colours",
    "@codemirror/lint": "expressions: the mark of a mistake",
    "@codemirror/state": "expressions: the text",
    "@codemirror/view": "expressions: the field",
    "@lezer/highlight": "expressions: colours",
    "@fontsource-variable/atkinson-hyperlegible-mono": "the typeface of codes",
    "@fontsource-variable/atkinson-hyperlegible-next": "the typeface",
    "@lucide/svelte": "icons",
    "@skeletonlabs/skeleton": "the theme",
    "@skeletonlabs/skeleton-svelte": "dialogs, popovers, tabs",
    "echarts": "draws charts",
    "lossless-json": "whole numbers of any length in the browser",
    "openapi-fetch": "calls to the server, typed by its OpenAPI document",
    "svelte": "the front end",
    "svelte-spa-router": "the front end's addresses",
    "tailwindcss": "styles",
    "tinyduration": "durations in the browser",
}
# Licences that packages state in other words, as SPDX identifiers.
_SPDX = {
    "PSF-2.0": "PSF-2.0", "Apache 2.0": "Apache-2.0", "MIT": "MIT", "ISC License": "ISC", "Apache-2.0": "Apache-2.0",
    "BSD 3-Clause OR Apache-2.0": "BSD-3-Clause OR Apache-2.0", "MIT License": "MIT", "BSD": "BSD-3-Clause",
    "BSD-3-Clause": "BSD-3-Clause",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Package:
    """A package that is shipped or needed to run."""

    name: str
    version: str
    licence: str
    wanted_by: tuple[str, ...]


def canonical(name: str) -> str:
    """The name of a Python package as it is compared (PEP 503)."""
    return re.sub(r"[-_.]+", "-", name).lower()


def python_packages() -> list[Package]:
    """What Tin Bucket and its packages need to run, by name."""
    found: dict[str, importlib.metadata.Distribution] = {}
    wanted_by: dict[str, set[str]] = {}
    waiting: list[tuple[str, str, set[str]]] = [("tin-bucket", "", set())]
    while waiting:
        name, by, extras = waiting.pop()
        key = canonical(name)
        if by:
            wanted_by.setdefault(key, set()).add(canonical(by))
        if key in found and not extras:
            continue
        found[key] = importlib.metadata.distribution(name)
        for text in found[key].requires or []:
            needed = Requirement(text)
            if needed.marker is None or any(needed.marker.evaluate({"extra": one}) for one in ("", *extras)):
                waiting.append((needed.name, name, needed.extras))
    return [
        Package(key, one.version, _licence(one), tuple(sorted(wanted_by[key])))
        for key, one in sorted(found.items())
        if key != "tin-bucket"
    ]


def _licence(package: importlib.metadata.Distribution) -> str:
    fields = package.metadata
    stated = fields.get("License-Expression") or fields.get("License") or ""
    named = [one.rpartition(" :: ")[2] for one in fields.get_all("Classifier") or [] if one.startswith("License ::")]
    return str(fields.get("License-Expression") or _SPDX.get(stated) or (_SPDX.get(named[0]) if named else "") or "?")


def browser_packages() -> list[Package]:
    """What is built into the page, by name: the packages of the front end that are no tools, and what they need."""
    lock = json.loads((ROOT / "frontend/package-lock.json").read_text())["packages"]
    found: dict[str, Package] = {}
    waiting = [(name, "tin-bucket") for name in REASONS if f"node_modules/{name}" in lock]
    while waiting:
        name, by = waiting.pop()
        entry = lock.get(f"node_modules/{name}")
        if entry is None:
            continue
        known = found.get(name)
        wanted_by = tuple(sorted({*(known.wanted_by if known else ()), by}))
        found[name] = Package(name, entry["version"], entry.get("license", "?"), wanted_by)
        if known is None:
            waiting += [(needed, name) for needed in entry.get("dependencies", {})]
    return [found[name] for name in sorted(found)]


def _table(packages: list[Package]) -> str:
    lines = ["| package | version | licence | why |", "|---|---|---|---|"]
    for one in packages:
        by = ", ".join(f"`{name}`" for name in one.wanted_by if name != "tin-bucket")
        lines.append(f"| `{one.name}` | {one.version} | {one.licence} | {REASONS.get(one.name) or f'needed by {by}'} |")
    return "\n".join(lines)


def page() -> str:
    """The whole page."""
    return f"""# Third-party packages

Tin Bucket itself is under the MIT licence ([LICENSE](../LICENSE)). This page is written by `make third-party` from
what is installed; a test holds it to the pinned versions in `constraints.txt` and `frontend/package-lock.json`.

No package is changed. All licences allow use and distribution; the MPL-2.0 of `orjson` covers its own files alone, and
the OFL-1.1 covers the typefaces.

## On the server

{_table(python_packages())}

## In the browser

These are built into the page. Some of what they need is used for building alone.

{_table(browser_packages())}

## Known faults

Versions are pinned, and every package of the front end is checked by its digest when it is installed. Whether a version
has a known fault is asked of the registries, so it needs the internet; none of the tools for it works offline:

```
cd frontend && npm audit              packages of the front end
python -m pip install pip-audit && pip-audit -r constraints.txt
```

What reads data from outside, and so matters most:

| package | reads | how it is contained |
|---|---|---|
| `aiohttp` | answers of services | bounded in size and time; addresses are checked after name resolution |
| `orjson`, `ijson` | JSON of services and files | bounded depth; large answers are read in a stream |
| `python-calamine` | workbooks | in a process of their own, with bounds on memory and time |
| `zstandard` | saved answers of the own workspace | a digest for each |
| `uvicorn`, `h11`, `starlette` | requests of the browser | on this machine's own address alone, with an access token |
| `cryptography` | the vault | sealed with authenticated data |
"""


if __name__ == "__main__":
    print(page(), end="")
