"""Tables as files that a browser downloads."""

from __future__ import annotations

import re
import tempfile
from collections.abc import Iterator
from datetime import datetime
from typing import Annotated, BinaryIO, cast
from urllib.parse import quote

from fastapi import Depends
from fastapi.responses import StreamingResponse

from tin_bucket.core.problem import fail
from tin_bucket.feeds.formats.format import Format
from tin_bucket.feeds.formats.registry import FORMATS, endings
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.store.snapshot import Snapshot


def export_options(
    formulas_as_text: bool = False,
    headings: bool = True,
    separator: str = "comma",
    decimal: str = "point",
    encoding: str = "utf-8",
    moments: str = "zone",
) -> ExportOptions:
    """How a file is written, as its address says."""
    return ExportOptions(formulas_as_text, headings, separator, decimal, encoding, moments=moments).checked()


Options = Annotated[ExportOptions, Depends(export_options)]


def format_of(ending: str) -> Format:
    """The format of an ending.

    Raises:
        ProblemError: ``format-unknown``.
    """
    writer = FORMATS.get(ending)
    if writer is None:
        raise fail("format-unknown", f"“{ending}” is not a format.", where="download", do=f"Use {endings()}.")
    return writer


def new_file() -> BinaryIO:
    """A file for a table to be written to; :func:`download` closes it when it has been sent."""
    return cast(BinaryIO, tempfile.TemporaryFile())


def dated(snapshot: Snapshot) -> str:
    """The date and time of a snapshot for a file's name, and that it is not proved to be whole, if so."""
    taken = datetime.fromisoformat(snapshot.taken).astimezone()
    return f"{taken:%Y-%m-%d %H.%M}" + ("" if snapshot.state == "complete" else f" ({snapshot.state})")


def download(file: BinaryIO, writer: Format, title: str) -> StreamingResponse:
    """A written file under a title, with the ending of its format."""
    return download_as(file, writer.media_type, f"{title}.{writer.ending}")


def download_as(file: BinaryIO, media_type: str, name: str) -> StreamingResponse:
    """A written file under a name."""
    file.seek(0)

    def parts() -> Iterator[bytes]:
        with file:
            while part := file.read(1 << 16):
                yield part

    # What no file system takes in a name becomes a hyphen (RFC 6266 §4.3).
    name = re.sub(r'[<>:"/\\|?*\x00-\x1f]', "-", name)
    disposition = f"attachment; filename*=UTF-8''{quote(name, safe='')}"
    return StreamingResponse(parts(), media_type=media_type, headers={"Content-Disposition": disposition})
