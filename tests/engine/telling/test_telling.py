"""Notices over real mail and HTTP: received by the stand-ins, signed, once for each cause, tried again."""

import asyncio
import json
from datetime import timedelta

import pytest
from aiohttp import web

from tests.conftest import NOON
from tests.receiving import server_of
from tests.waiting import LeapingClock
from tin_bucket.core.notices.model import Notice
from tin_bucket.core.report.model import Report
from tin_bucket.demo.running import Running
from tin_bucket.demo.services.receiver import PASSWORD, SECRET
from tin_bucket.engine.attention import attention
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.telling.mail import MailServer

JSON = {"Content-Type": "application/json"}
MAIL = {"by": "mail", "addresses": ["desk@skerrywick.example", "board@skerrywick.example"]}


@pytest.fixture
def engine(workspace, receiver):
    made = Engine(workspace, LeapingClock(NOON))
    made.telling.set_server(mail_server(receiver), PASSWORD)
    return made


def mail_server(receiver, **parts):
    return MailServer(**server_of(receiver, **parts))


def serve(awkward, rows, status=200, **more):
    awkward.answers["/data"] = (status, JSON, json.dumps({"data": rows, **more}).encode())


ROWS = [{"sku": f"s{n}", "fare": float(10 + n)} for n in range(5)]


def tell(engine, workspace, receiver, cause, *to, **parts):
    """Begin with a notice."""
    document = {"name": "n", "cause": cause, "to": list(to) or [MAIL], **parts}
    kept = workspace.notices.add(Notice.model_validate(document), engine.clock.now())
    for one in kept.notice.to:
        if one.model_dump()["by"] == "hook":
            engine.telling.new_secret(kept.id, one.address, SECRET)
    engine.telling.begin(kept)
    return kept


def run(engine, workspace, moment=None, queries=()):
    """Refresh queries as at a moment, with what follows; sends what is due."""

    async def go():
        if moment is not None:
            engine.clock.set(moment)
        try:
            for one in queries:
                await engine.refresh(one, {}, "by hand")
            await engine.deliveries.idle()
            await engine.telling.idle()
            engine.telling.look()
            await engine.telling.idle()
        finally:
            await engine.fetcher.close()

    asyncio.run(go())


def titles(receiver):
    return [one.title for one in reversed(receiver.came)]


def test_a_refresh_that_failed_is_told_once_by_mail_and_again_when_it_fails_anew(
    engine, workspace, receiver, awkward, ask_awkward
):
    serve(awkward, ROWS)
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    tell(engine, workspace, receiver, {"why": "refresh"})
    run(engine, workspace, queries=[number])
    assert titles(receiver) == []
    serve(awkward, [], 500)
    run(engine, workspace, queries=[number])
    assert titles(receiver) == ["The refresh of “awkward” failed"]
    mail = receiver.came[0]
    assert "To: desk@skerrywick.example, board@skerrywick.example" in mail.text
    assert "500" in mail.text
    assert "<h1>The refresh of “awkward” failed</h1>" in mail.html
    # Still so: not told again. Whole again: it is over. Failed anew: told.
    run(engine, workspace, queries=[number])
    assert len(receiver.came) == 1
    serve(awkward, ROWS)
    run(engine, workspace, queries=[number])
    serve(awkward, [], 500)
    run(engine, workspace, queries=[number])
    assert len(receiver.came) == 2
    assert [one.state for one in workspace.notices.messages()] == ["sent", "sent"]


def test_rows_are_told_to_a_web_hook_which_verifies_the_signature(engine, workspace, receiver, awkward, ask_awkward):
    serve(awkward, ROWS)
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    hook = {"by": "hook", "address": f"{receiver.base}/hook?for=desk"}
    tell(engine, workspace, receiver, {"why": "rows", "query": number}, hook, sends="changes", query=number)
    # What happened before is not told.
    run(engine, workspace)
    assert receiver.came == []
    serve(awkward, [*ROWS[1:], {"sku": "s9", "fare": 1.0}, {"sku": "s8", "fare": 2.0}])
    run(engine, workspace, NOON + timedelta(minutes=1), [number])
    (one,) = receiver.came
    assert one.signed
    assert one.facts["new"] == 2
    assert one.facts["gone"] == 1
    assert one.facts["trial"] is False
    assert "2 rows are new, 1 are gone, 0 changed; 4 stayed as they were." in one.facts["sentences"]
    run(engine, workspace, NOON + timedelta(minutes=2))
    assert len(receiver.came) == 1
    # The address in the log carries no query, where a key may be.
    assert workspace.notices.messages()[0].place == f"{receiver.base}/hook"


def test_a_figure_that_passes_a_bound_is_told_and_waits_for_the_end_of_quiet_hours(
    engine, workspace, receiver, awkward, ask_awkward
):
    serve(awkward, ROWS)
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    figure = {"tells": "amount", "name": "mean fare", "query": number, "figure": "mean", "column": "fare"}
    cause = {"why": "figure", "figure": figure, "test": "above", "value": 20}
    tell(engine, workspace, receiver, cause, quiet={"start": "11:00", "end": "13:30"})
    serve(awkward, [{"sku": "s1", "fare": 99.5}])
    run(engine, workspace, queries=[number])
    assert receiver.came == []
    assert workspace.notices.messages()[0].next_try == "2026-11-25T13:30:00+00:00"
    later = Engine(workspace, LeapingClock(NOON + timedelta(hours=2)))
    run(later, workspace)
    assert titles(receiver) == ["mean fare is above 20: 99.50"]


def test_a_report_is_sent_at_its_time_once(engine, workspace, receiver, awkward, ask_awkward):
    serve(awkward, ROWS)
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    report = Report.model_validate(
        {
            "title": "Fares",
            "figures": [{"tells": "amount", "name": "fares", "query": number}],
            "blocks": [
                {"block": "text", "text": "There are {fares}."},
                {
                    "block": "chart",
                    "query": number,
                    "chart": {"draw": "bars", "x": "sku", "y": ["fare"], "figure": "sum"},
                },
            ],
        }
    )
    kept = workspace.reports.add(report, NOON)
    cause = {"why": "time", "schedule": {"kind": "at", "at": "12:30"}}
    tell(engine, workspace, receiver, cause, sends="report", report=kept.id)
    run(engine, workspace)
    assert receiver.came == []
    for minutes in (31, 40):
        run(Engine(workspace, LeapingClock(NOON + timedelta(minutes=minutes))), workspace)
    assert titles(receiver) == ["Fares"]
    assert "There are 5." in receiver.came[0].text
    assert "<table>" in receiver.came[0].html
    run(Engine(workspace, LeapingClock(NOON + timedelta(days=1, minutes=31))), workspace)
    assert titles(receiver) == ["Fares", "Fares"]
    # A report that is gone is said in its place.
    workspace.reports.remove(kept.id)
    run(Engine(workspace, LeapingClock(NOON + timedelta(days=2, minutes=31))), workspace)
    assert "There is no such report." in receiver.came[0].text


def test_a_mail_server_that_refuses_is_tried_again_and_keeps_nothing_else(
    engine, workspace, receiver, awkward, ask_awkward
):
    serve(awkward, ROWS)
    number = ask_awkward(keep={"match": ["sku"]}).query_id
    hook = {"by": "hook", "address": f"{receiver.base}/hook"}
    tell(engine, workspace, receiver, {"why": "refresh"}, MAIL, hook)
    receiver.refuses = True
    serve(awkward, [], 500)
    run(engine, workspace, queries=[number])
    assert [one.by for one in receiver.came] == ["web hook"]
    mail = next(one for one in workspace.notices.messages() if one.channel.model_dump()["by"] == "mail")
    assert (mail.state, mail.tries) == ("waiting", 1)
    assert mail.problem.what == "The mail server does not take the mail."
    assert mail.problem.words == "451 The mailbox is busy"
    assert mail.next_try == (NOON + timedelta(minutes=1)).isoformat()[:16] + mail.next_try[16:]
    receiver.refuses = False
    run(Engine(workspace, LeapingClock(NOON + timedelta(minutes=2))), workspace)
    assert sorted(one.by for one in receiver.came) == ["mail", "web hook"]
    # The other one was sent once.
    assert [one.state for one in workspace.notices.messages()] == ["sent", "sent"]


@pytest.mark.parametrize(
    ("parts", "password", "kind"),
    [
        ({"certificate": ""}, PASSWORD, "mail-untrusted"),
        ({}, "wrong", "mail-login"),
        ({"port": 9}, PASSWORD, "mail-unreachable"),
        ({"host": "192.0.2.1"}, PASSWORD, "mail-refused"),
        ({"host": "mail.example", "secure": "none"}, PASSWORD, "mail-insecure"),
    ],
)
def test_what_is_wrong_with_a_mail_server_is_said(engine, workspace, receiver, parts, password, kind):
    if kind == "mail-refused":
        engine.fetcher.reach = "public only"
        parts = {"host": "127.0.0.1"}
    engine.telling.set_server(mail_server(receiver, **parts), password)
    kept = tell(engine, workspace, receiver, {"why": "key"})

    async def go():
        await engine.telling.trial(kept)

    asyncio.run(go())
    (message,) = workspace.notices.messages()
    assert (message.state, message.problem.kind) == ("waiting", kind)
    assert PASSWORD not in str(message.problem)
    assert receiver.came == []


def test_a_web_hook_that_hangs_or_says_no_is_tried_again_with_the_same_key(engine, workspace, receiver, monkeypatch):
    monkeypatch.setattr("tin_bucket.engine.telling.hook.SECONDS", 0.3)
    seen = []

    async def hang(request):
        seen.append(request.headers["Idempotency-Key"])
        await asyncio.sleep(1)
        return web.Response()

    app = web.Application()
    app.router.add_post("/hook", hang)
    with Running(app) as slow:
        kept = tell(
            engine, workspace, receiver, {"why": "key"}, {"by": "hook", "address": f"{slow.base}/hook"},
            {"by": "hook", "address": f"{receiver.base}/hook"},
        )  # fmt: skip
        asyncio.run(engine.telling.trial(kept))
        # One that hangs keeps the other from nothing.
        assert [one.signed for one in receiver.came] == [True]
        waits = next(one for one in workspace.notices.messages() if one.state == "waiting")
        assert waits.problem.kind == "hook-unreachable"
        later = Engine(workspace, LeapingClock(NOON + timedelta(minutes=2)))
        asyncio.run(later.telling.send())
    assert len(seen) == 2
    assert len(set(seen)) == 1
    receiver.status = 500
    asyncio.run(Engine(workspace, LeapingClock(NOON + timedelta(minutes=3))).telling.trial(kept))
    assert workspace.notices.messages()[0].problem.what == "The web hook answers with the status 500."


def test_secrets_are_sealed_and_go_with_their_notice(engine, workspace, receiver):
    hook = {"by": "hook", "address": f"{receiver.base}/hook"}
    kept = tell(engine, workspace, receiver, {"why": "key"}, hook)
    assert engine.telling.has_secret(kept.id, hook["address"])
    raw = (workspace.home / "workspace.sqlite").read_bytes() + (workspace.home / "workspace.sqlite-wal").read_bytes()
    assert SECRET.encode() not in raw
    assert PASSWORD.encode() not in raw
    workspace.notices.remove(kept.id)
    assert not engine.telling.has_secret(kept.id, hook["address"])
    # A mail server of another account does not get the password.
    engine.telling.set_server(mail_server(receiver, host="other.example"), None)
    assert not engine.telling.has_password(engine.telling.server())


def test_what_is_refused_for_good_is_given_up_and_told_on_the_desk(engine, workspace, receiver, monkeypatch):
    async def refuse(self, server, session, envelope):
        return "550 No such mailbox"

    monkeypatch.setattr("tin_bucket.demo.services.receiver._Mailbox.handle_DATA", refuse)
    kept = tell(engine, workspace, receiver, {"why": "key"})
    asyncio.run(engine.telling.trial(kept))
    (message,) = workspace.notices.messages()
    assert (message.state, message.next_try) == ("failed", None)
    (told,) = attention(workspace, [], {}, {}, {}, NOON)
    assert (told.kind, told.title) == ("notice", "n")
    assert "was not sent to desk@skerrywick.example" in told.what
    assert attention(workspace, [], {}, {}, {}, NOON + timedelta(days=8)) == []
