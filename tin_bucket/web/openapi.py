"""Writes the OpenAPI document, from which the front end's types are made: ``python -m tin_bucket.web.openapi FILE``.

Beside it go the registries that forms are drawn from, for the front end's tests."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from tin_bucket.store.workspace import Workspace

from .app import create_app
from .routes.choices import choices


def main(target: Path) -> None:
    """Write the document to a file."""
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder), create=True)
        document = create_app(workspace).openapi()
        workspace.close()
    target.write_text(json.dumps(document, indent=1, ensure_ascii=False) + "\n")
    registries = choices().model_dump(mode="json")
    target.with_name("choices.json").write_text(json.dumps(registries, indent=1, ensure_ascii=False) + "\n")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
