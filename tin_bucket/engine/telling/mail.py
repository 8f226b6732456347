"""Sends a message by mail, in text and HTML (RFC 2046): SMTP (RFC 5321) over TLS (RFC 8314), or STARTTLS (RFC 3207)."""

from __future__ import annotations

import ipaddress
import ssl
from datetime import datetime
from email.headerregistry import Address
from email.message import EmailMessage
from email.utils import format_datetime, make_msgid
from typing import Literal

import aiosmtplib
from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.notices.channels.mail import MailChannel
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.core.traffic.address_policy import Reach, refusal
from tin_bucket.store.notices import Content

SECONDS = 30.0  # That a mail server may take.


class MailServer(Part):
    """The server that mails go out by.

    Attributes:
        secure: TLS from the first byte, or begun by STARTTLS; none at all is for a server on this machine alone.
        certificate: what is trusted beside this machine's authorities, as PEM.
    """

    host: str = Field(min_length=1, max_length=253, pattern=r"^[A-Za-z0-9.:_-]+$")
    port: int = Field(default=465, ge=1, le=65_535)
    secure: Literal["tls", "starttls", "none"] = "tls"
    user: str = Field(default="", max_length=300)
    sender: str = Field(min_length=3, max_length=254, pattern=r"^[^\s@<>,;]+@[^\s@<>,;]+$")
    certificate: str = Field(default="", max_length=20_000)

    def account(self) -> str:
        """What its password is bound to."""
        return f"smtp://{self.user}@{self.host}:{self.port}"


def mail_of(content: Content, channel: MailChannel, server: MailServer, now: datetime) -> EmailMessage:
    """A mail in text and HTML, marked as sent by a program (RFC 3834)."""
    mail = EmailMessage()
    mail["Subject"] = content.title.replace("\r", " ").replace("\n", " ")
    mail["From"] = _address(server.sender, "Tin Bucket")
    mail["To"] = [_address(one) for one in channel.addresses]
    mail["Date"] = format_datetime(now)
    mail["Message-ID"] = make_msgid(domain=server.sender.rpartition("@")[2])
    mail["Auto-Submitted"] = "auto-generated"
    mail.set_content(content.text)
    mail.add_alternative(content.html, subtype="html")
    return mail


def _address(text: str, name: str = "") -> Address:
    user, _, domain = text.rpartition("@")
    return Address(display_name=name, username=user, domain=domain)


async def send_mail(
    content: Content, channel: MailChannel, server: MailServer, password: str, now: datetime, reach: Reach
) -> None:
    """Send a mail.

    Raises:
        ProblemError: ``mail-refused``, ``mail-unreachable``, ``mail-untrusted``, ``mail-login``.
    """
    _check_reach(server, reach)
    try:
        mail = mail_of(content, channel, server, now)
        await aiosmtplib.send(
            mail,
            hostname=server.host,
            port=server.port,
            username=server.user or None,
            password=password if server.user else None,
            use_tls=server.secure == "tls",
            start_tls=server.secure == "starttls",
            tls_context=_trust(server) if server.secure != "none" else None,
            timeout=SECONDS,
        )
    except aiosmtplib.SMTPAuthenticationError as error:
        raise _problem(
            server, "mail-login", "The mail server refuses the user or the password", "Enter them again."
        ) from error
    except (aiosmtplib.SMTPRecipientsRefused, aiosmtplib.SMTPSenderRefused, aiosmtplib.SMTPResponseException) as error:
        words = _words(error)
        raise _problem(
            server, "mail-refused", "The mail server does not take the mail", "Check the addresses.", words
        ) from error
    except (aiosmtplib.SMTPException, OSError, TimeoutError, ValueError) as error:
        if isinstance(error, ssl.SSLError) or isinstance(error.__cause__, ssl.SSLError):
            raise _problem(
                server, "mail-untrusted", "The certificate of the mail server is not trusted",
                "Enter its certificate, or that of its authority.",
            ) from error  # fmt: skip
        raise _problem(
            server, "mail-unreachable", "The mail server does not answer", "Check its name and port, or wait."
        ) from error


def _check_reach(server: MailServer, reach: Reach) -> None:
    """
    Raises:
        ProblemError: ``mail-insecure``, ``mail-refused``.
    """
    host = server.host.strip("[]")
    local = host == "localhost"
    try:
        address = ipaddress.ip_address(host)
    except ValueError:
        address = None
    if address is not None:
        local = address.is_loopback
        if why := refusal(host, reach):
            raise _problem(server, "mail-refused", f"The mail server {why}", "Name another one.")
    if server.secure == "none" and not local:
        raise _problem(
            server, "mail-insecure", "Without TLS, mail goes to this machine alone", "Choose TLS or STARTTLS."
        )


def _trust(server: MailServer) -> ssl.SSLContext:
    context = ssl.create_default_context()
    if server.certificate.strip():
        try:
            context.load_verify_locations(cadata=server.certificate)
        except (ssl.SSLError, ValueError) as error:
            raise _problem(
                server, "mail-untrusted", "The certificate to trust cannot be read", "Paste it as PEM."
            ) from error
    return context


def _words(error: Exception) -> str:
    """What the server said, cut to a readable length."""
    if isinstance(error, aiosmtplib.SMTPRecipientsRefused) and error.recipients:
        error = error.recipients[0]
    code, message = getattr(error, "code", ""), getattr(error, "message", "")
    return " ".join(f"{code} {message}".split())[:200]


def _problem(server: MailServer, kind: str, what: str, do: str, words: str = "") -> ProblemError:
    return fail(kind, f"{what}.", where=f"{server.host}:{server.port}", do=do, words=words)


def is_for_good(problem: Problem) -> bool:
    """Whether trying again changes nothing: the server refuses this mail for good (RFC 5321 §4.2.1, a reply of 5xx)."""
    return problem.kind == "mail-refused" and problem.words.startswith("5")
