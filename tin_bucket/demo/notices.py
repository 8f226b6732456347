"""The demo's notices, and the stand-ins that they go to."""

from __future__ import annotations

from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from tin_bucket.core.notices.channels.hook import HookChannel
from tin_bucket.core.notices.model import Notice
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.telling.mail import MailServer
from tin_bucket.store.workspace import Workspace

from .services.receiver import PASSWORD, SECRET, USER, Receiver

_DESK = "desk@skerrywick.example"


def demo_notices(workspace: Workspace, hook: str) -> list[Notice]:
    """The notices, of the demo's queries and reports.

    Args:
        hook: the address of the web hook.
    """
    ids = {name: number for number, name in workspace.queries.names().items()}
    report = next(kept.id for kept in workspace.reports.all() if kept.report.title == "The harbour this week")
    mail: dict[str, Any] = {"by": "mail", "addresses": [_DESK]}
    late = {
        "tells": "share", "name": "late sailings, in %", "query": ids["Sailings by route"],
        "where": [{"by": "empty", "column": "delay", "no": True}],
        "meet": [{"by": "between", "column": "delay", "low": "11"}],
    }  # fmt: skip
    return [
        Notice.model_validate(one)
        for one in (
            {"name": "A refresh went wrong", "cause": {"why": "refresh"}, "to": [mail]},
            {
                "name": "Many late sailings",
                "cause": {"why": "figure", "figure": late, "test": "above", "value": 10},
                "to": [mail, {"by": "hook", "address": hook}],
                "quiet": {"start": "22:00", "end": "06:00"},
            },
            {
                "name": "The harbour each morning",
                "cause": {"why": "time", "schedule": {"kind": "at", "at": "08:00", "days": [1, 2, 3, 4, 5]}},
                "to": [mail],
                "sends": "report",
                "report": report,
            },
        )
    ]


def add_notices(home: Path, receiver: Receiver) -> None:
    """Put the notices into the workspace of a new demo; those that hold now are told when it is served."""
    workspace = Workspace(home)
    try:
        engine = Engine(workspace)
        set_mail(workspace, receiver)
        for notice in demo_notices(workspace, f"{receiver.base}/hook"):
            kept = workspace.notices.add(notice, datetime.now(UTC))
            for channel in notice.to:
                if isinstance(channel, HookChannel):
                    engine.telling.new_secret(kept.id, channel.address, SECRET)
            engine.telling.begin(kept)
    finally:
        workspace.close()


def set_mail(workspace: Workspace, receiver: Receiver) -> None:
    """Let mails go out by the stand-in, as it runs now: its certificate is a new one each time."""
    server = MailServer(
        host="127.0.0.1", port=receiver.mail_port, user=USER, sender="tin-bucket@skerrywick.example",
        certificate=receiver.certificate,
    )  # fmt: skip
    Engine(workspace).telling.set_server(server, PASSWORD)


def receiver_ports(home: Path) -> tuple[int, int]:
    """The ports of the web hook and of the mail server that the demo in a folder tells; 0 where it tells none."""
    workspace = Workspace(home)
    try:
        channels = (one for kept in workspace.notices.all() for one in kept.notice.to)
        hook = next((one.address for one in channels if isinstance(one, HookChannel)), "")
        server = Engine(workspace).telling.server()
    finally:
        workspace.close()
    return urlsplit(hook).port or 0, server.port if server is not None else 0
