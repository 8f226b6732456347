"""Calls as an HTTP Archive, version 1.2, with their keys masked."""

from __future__ import annotations

import base64
from dataclasses import dataclass
from http import HTTPStatus
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.sign import shown
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer


@dataclass(frozen=True, slots=True)
class Entry:
    """One call with its answer.

    Attributes:
        call: the call, without its key.
        key: the key that it goes with; it is masked.
        answer: the answer.
        sent: when it was sent, ISO 8601.
        comment: a note for readers.
        size: the answer's size in bytes, where its body is no longer kept.
    """

    call: Call
    key: Key | None
    answer: Answer
    sent: str
    comment: str = ""
    size: int = 0


def http_archive(entries: list[Entry], version: str) -> dict[str, Any]:
    """The archive, ready for JSON.

    Args:
        entries: the calls in order.
        version: the version of this program.
    """
    return {
        "log": {
            "version": "1.2",
            "creator": {"name": "Tin Bucket", "version": version},
            "entries": [_entry(entry) for entry in entries],
        }
    }


def _entry(entry: Entry) -> dict[str, Any]:
    told = shown(entry.call, entry.key)
    answer = entry.answer
    ms = round(answer.seconds * 1000, 1)
    request: dict[str, Any] = {
        "method": told.method,
        "url": told.address,
        "httpVersion": "HTTP/1.1",
        "cookies": [],
        "headers": [{"name": name, "value": value} for name, value in told.headers],
        "queryString": [
            {"name": name, "value": value}
            for name, value in parse_qsl(urlsplit(told.address).query, keep_blank_values=True)
        ],
        "headersSize": -1,
        "bodySize": len(told.body.encode()) if told.body is not None else 0,
    }
    if told.body is not None:
        request["postData"] = {"mimeType": entry.call.media_type(), "params": [], "text": told.body}
    return {
        "startedDateTime": entry.sent,
        "time": ms,
        "request": request,
        "response": {
            "status": answer.status,
            "statusText": _phrase(answer.status),
            "httpVersion": "HTTP/1.1",
            "cookies": [],
            "headers": [{"name": name, "value": value} for name, value in answer.headers.items()],
            "content": _content(entry),
            "redirectURL": answer.headers.get("location", ""),
            "headersSize": -1,
            "bodySize": -1,
        },
        "cache": {},
        "timings": {"send": 0, "wait": ms, "receive": 0},
        "comment": entry.comment,
    }


def _content(entry: Entry) -> dict[str, Any]:
    body = entry.answer.body
    content: dict[str, Any] = {
        "size": len(body) or entry.size,
        "mimeType": entry.answer.headers.get("content-type", "application/octet-stream"),
    }
    if body:
        try:
            content["text"] = body.decode()
        except UnicodeDecodeError:
            content |= {"text": base64.b64encode(body).decode(), "encoding": "base64"}
    return content


def _phrase(status: int) -> str:
    try:
        return HTTPStatus(status).phrase
    except ValueError:
        return ""
