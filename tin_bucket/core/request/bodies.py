"""What a query asks: the method, the path, the address parameters, the headers and the body; or a sheet to read."""

from __future__ import annotations

import hashlib
from typing import Annotated, Any, Literal
from urllib.parse import quote_plus

from pydantic import Field

from tin_bucket.core.base import Pair, Part
from tin_bucket.core.formats.json import json_text

from .fields import fill_pairs
from .templates import document_texts, fill, fill_json, text_names
from .variables import Scope


class JsonBody(Part):
    """A JSON document; its texts may hold ``{parameter}``."""

    kind: Literal["json"] = "json"
    value: Any = Field(default={}, description="the document")


class FormBody(Part):
    """Fields as a web form sends them (application/x-www-form-urlencoded)."""

    kind: Literal["form"] = "form"
    fields: list[Pair] = []


class MultipartBody(Part):
    """Fields as multipart/form-data (RFC 7578)."""

    kind: Literal["multipart"] = "multipart"
    fields: list[Pair] = []


class TextBody(Part):
    """Any other text."""

    kind: Literal["text"] = "text"
    text: str = ""
    media_type: str = Field(default="text/plain", pattern=r"^[\w.+-]+/[\w.+-]+(;[ -~]*)?$")


Body = Annotated[JsonBody | FormBody | MultipartBody | TextBody, Field(discriminator="kind")]

JSON, FORM, MULTIPART = "application/json", "application/x-www-form-urlencoded", "multipart/form-data"


def encode_body(body: Body, scope: Scope) -> tuple[bytes, str]:
    """A body's bytes and its media type.

    Raises:
        ProblemError: as :func:`templates.fill`, with the place in the body.
    """
    if body.kind == "json":
        return json_text(fill_json(body.value, scope, "body $")).encode(), JSON
    if body.kind == "form":
        fields = fill_pairs(body.fields, scope, "form field")
        pieces = [quote_plus(name) + ("" if value is None else f"={quote_plus(value)}") for name, value in fields]
        return "&".join(pieces).encode(), FORM
    if body.kind == "multipart":
        return _multipart([(name, value or "") for name, value in fill_pairs(body.fields, scope, "form field")])
    return fill(body.text, scope, "the body").encode(), body.media_type


def _multipart(fields: list[tuple[str, str]]) -> tuple[bytes, str]:
    """multipart/form-data (RFC 7578 §4); equal fields give equal bytes, so that equal calls are recognised."""
    boundary = "tin-" + hashlib.blake2b(repr(fields).encode(), digest_size=12).hexdigest()
    parts = []
    for name, value in fields:
        # A quote or a line break in a name is percent-encoded (RFC 7578 §2, HTML form rules).
        shown = name.replace('"', "%22").replace("\r", "%0D").replace("\n", "%0A")
        parts.append(f'--{boundary}\r\nContent-Disposition: form-data; name="{shown}"\r\n\r\n{value}\r\n')
    text = "".join(parts) + f"--{boundary}--\r\n"
    return text.encode(), f"{MULTIPART}; boundary={boundary}"


def body_names(body: Body | None) -> set[str]:
    """The parameters that a body names."""
    if body is None:
        return set()
    if body.kind == "json":
        return {name for text in document_texts(body.value) for name in text_names(text)}
    if body.kind == "text":
        return text_names(body.text)
    return {name for field in body.fields for text in (field.name, field.value or "") for name in text_names(text)}
