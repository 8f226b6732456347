"""When notices are looked at and messages sent: behind refreshes, and from time to time. What cannot be sent is tried
again, and keeps nothing else from being sent."""

from __future__ import annotations

import asyncio
import hashlib
import json
import logging
import secrets
from collections.abc import Awaitable, Callable, Iterable
from datetime import datetime, timedelta
from typing import Any

from tin_bucket.core.notices.causes.registry import kind_of_cause
from tin_bucket.core.notices.channel import Channel
from tin_bucket.core.notices.channels.hook import HookChannel
from tin_bucket.core.notices.channels.mail import MailChannel
from tin_bucket.core.notices.facts import Finding
from tin_bucket.core.notices.model import Notice
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.network.http import Fetcher
from tin_bucket.engine.reports.reader import ReportReader
from tin_bucket.store.notices import Content, KeptNotice, Message
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .content import Writer
from .hook import send_hook
from .known import Known
from .mail import MailServer, is_for_good, send_mail

log = logging.getLogger("tin_bucket.telling")
# Minutes until a message that was not sent is tried again; the last pause repeats.
PAUSES = (1, 5, 15, 60, 180)
MOST_TRIES = 12
_SERVER = "mail server"
_PASSWORD = "mail"


class Telling:
    """Looks at notices and sends messages."""

    def __init__(self, workspace: Workspace, reports: ReportReader, clock: Clock, fetcher: Fetcher) -> None:
        self._workspace, self._reports, self._clock, self._fetcher = workspace, reports, clock, fetcher
        self._writer = Writer(workspace, reports)
        self._tasks: set[asyncio.Task[None]] = set()
        self._looking: asyncio.Task[None] | None = None
        self._sending = asyncio.Lock()
        self._senders: dict[type[Channel], Callable[[Message, Any], Awaitable[None]]] = {
            MailChannel: self._by_mail,
            HookChannel: self._by_hook,
        }

    # When ------------------------------------------------------------------------------------------------------

    def after(self, run: Run) -> None:
        """Look at the notices behind a refresh, however it ended. On the event loop alone."""
        task = asyncio.create_task(self._after(run))
        self._tasks.add(task)
        task.add_done_callback(self._tasks.discard)

    async def _after(self, run: Run) -> None:
        await asyncio.to_thread(self._look_at, run.query_id, True)
        await self.send()

    def look(self) -> None:
        """Begin to look at the notices that go by the clock, and to send what is to be sent, unless that is under way:
        a mail server that hangs holds nothing else up. On the event loop alone."""
        if self._looking is None or self._looking.done():
            self._looking = asyncio.create_task(self._look_now())
            self._tasks.add(self._looking)
            self._looking.add_done_callback(self._tasks.discard)

    async def _look_now(self) -> None:
        await asyncio.to_thread(self._look_at, None, False)
        await self.send()

    async def idle(self) -> None:
        """Wait until nothing is looked at or sent any more."""
        while self._tasks:
            await asyncio.gather(*self._tasks, return_exceptions=True)

    def _look_at(self, query_id: int | None, after: bool) -> None:
        for kept in self._workspace.notices.all():
            if not kept.notice.off and kind_of_cause(kept.notice.cause).after == after:
                try:
                    self._look(kept, query_id)
                except ProblemError as error:
                    log.warning("the notice “%s” cannot be looked at: %s", kept.notice.name, error.problem.sentence())
                except Exception as error:
                    log.error("notice %s: %s", kept.id, type(error).__name__, exc_info=error)

    def _look(self, kept: KeptNotice, query_id: int | None) -> int:
        now = self._clock.now()
        told = self._workspace.notices.told(kept.id)
        found = list(self._found(kept, query_id, told))
        new = [one for one in found if one.mark != told.get(one.subject, "")]
        if not new:
            return 0
        with_words = [(one, self._writer.content(kept.notice, one, now) if one.mark else None) for one in new]
        quiet = kept.notice.quiet
        due = quiet.until(self._clock.here()) if quiet is not None else now
        return self._workspace.notices.note(kept, with_words, now, due)

    def _found(self, kept: KeptNotice, query_id: int | None, told: dict[str, str]) -> Iterable[Finding]:
        changed = datetime.fromisoformat(kept.changed)
        since = max(changed, datetime.fromisoformat(told["time"])) if "time" in told else changed
        known = Known(self._workspace, self._reports, self._clock.now(), since, query_id)
        found: Iterable[Finding] = kind_of_cause(kept.notice.cause).found(kept.notice.cause, known)
        return found

    def begin(self, kept: KeptNotice) -> None:
        """Begin with a notice: what happened before it was made is not told, what holds now is."""
        if kept.notice.off:
            return
        if kept.notice.cause.happens:
            found = [(one, None) for one in self._found(kept, None, {}) if one.mark]
            self._workspace.notices.note(kept, found, self._clock.now(), self._clock.now())
        else:
            self._look(kept, None)

    # Sending ---------------------------------------------------------------------------------------------------

    async def send(self) -> None:
        """Send what is to be sent now, each message by itself."""
        async with self._sending:
            due = await asyncio.to_thread(self._workspace.notices.due, self._clock.now())
            # One that hangs keeps no other from being sent.
            await asyncio.gather(*(self._send(one) for one in due))

    async def _send(self, message: Message) -> None:
        notices = self._workspace.notices
        try:
            await self._senders[type(message.channel)](message, message.channel)
        except ProblemError as error:
            problem = error.problem
            log.warning("“%s” was not sent to %s: %s", message.content.title, message.place, problem.sentence())
            await asyncio.to_thread(notices.failed, message.id, problem, self._next_try(message, problem))
        except Exception as error:
            log.error("message %s: %s", message.id, type(error).__name__, exc_info=error)
            what = f"The program itself failed ({type(error).__name__})."
            problem = Problem("program-fault", what, message.place, "It is tried again by itself.")
            await asyncio.to_thread(notices.failed, message.id, problem, self._next_try(message, problem))
        else:
            await asyncio.to_thread(notices.done, message.id, self._clock.now())

    def _next_try(self, message: Message, problem: Problem) -> datetime | None:
        if message.tries + 1 >= MOST_TRIES or is_for_good(problem):
            return None
        return self._clock.now() + timedelta(minutes=PAUSES[min(message.tries, len(PAUSES) - 1)])

    async def _by_mail(self, message: Message, channel: MailChannel) -> None:
        server = await asyncio.to_thread(self.server)
        if server is None:
            raise fail("mail-unset", "No mail server is set.", where="mail", do="Enter one on the page Notices.")
        password = await asyncio.to_thread(self._password, server)
        await send_mail(message.content, channel, server, password, self._clock.now(), self._fetcher.reach)

    async def _by_hook(self, message: Message, channel: HookChannel) -> None:
        secret = await asyncio.to_thread(self._secret, message.notice_id, channel)
        await send_hook(self._fetcher, message.content, channel, secret, message.id, self._clock.now())

    async def trial(self, kept: KeptNotice) -> None:
        """Send a message now, whatever the cause, as it would be sent."""
        content = await asyncio.to_thread(self._writer.content, kept.notice, None, self._clock.now())
        await asyncio.to_thread(self._workspace.notices.post, kept, content, self._clock.now())
        await self.send()

    def preview(self, notice: Notice) -> Content:
        """What a message of a notice says, without sending it."""
        return self._writer.content(notice, None, self._clock.now())

    # The mail server and the secrets of web hooks --------------------------------------------------------------

    def server(self) -> MailServer | None:
        """The mail server, where one is set."""
        text = self._workspace.settings.get(_SERVER)
        return MailServer.model_validate_json(text) if text else None

    def set_server(self, server: MailServer | None, password: str | None) -> None:
        """Set the mail server, or none; its password is kept in the vault, bound to its account.

        Args:
            password: the one that is kept stays where absent.

        Raises:
            ProblemError: ``vault-closed``.
        """
        if server is None:
            self._workspace.vault.forget(_PASSWORD)
            self._workspace.settings.put(_SERVER, "")
            return
        if password:
            self._workspace.vault.store(_PASSWORD, server.account(), {"password": password}, self._clock.now())
        self._workspace.settings.put(_SERVER, json.dumps(server.model_dump()))

    def has_password(self, server: MailServer) -> bool:
        """Whether a password is kept for a mail server's account."""
        state = self._workspace.vault.state(_PASSWORD)
        return state is not None and state.origin == server.account()

    def _password(self, server: MailServer) -> str:
        if not server.user:
            return ""
        found = self._workspace.vault.open(_PASSWORD)
        if found is None or found.origin != server.account():
            raise fail(
                "mail-login", "There is no password for this mail server.", where=server.host,
                do="Enter it on the page Notices.",
            )  # fmt: skip
        return found.secret.get("password", "")

    def new_secret(self, notice_id: int, address: str, secret: str = "") -> str:
        """Make the secret of a web hook anew; it is told this once.

        Args:
            secret: one that the other side has already; made by chance where empty.

        Raises:
            ProblemError: ``vault-closed``.
        """
        made = secret or secrets.token_urlsafe(32)
        self._workspace.vault.store(_hook_key(notice_id, address), address, {"secret": made}, self._clock.now())
        return made

    def has_secret(self, notice_id: int, address: str) -> bool:
        """Whether a web hook has a secret."""
        return self._workspace.vault.state(_hook_key(notice_id, address)) is not None

    def _secret(self, notice_id: int | None, channel: HookChannel) -> str:
        found = None
        if notice_id is not None:
            found = self._workspace.vault.open(_hook_key(notice_id, channel.address))
        if found is None:
            raise fail(
                "hook-unsigned", "There is no secret to sign with.", where=channel.place(),
                do="Make one on the page Notices.",
            )  # fmt: skip
        return found.secret.get("secret", "")


def _hook_key(notice_id: int, address: str) -> str:
    """Under what the secret of a web hook is kept."""
    return f"hook:{notice_id}:{hashlib.blake2b(address.encode(), digest_size=8).hexdigest()}"
