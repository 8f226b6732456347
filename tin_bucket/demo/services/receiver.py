"""The stand-ins that notices of the demo go to: a mail server with TLS and a web hook, with a page that shows what
came."""

from __future__ import annotations

import html
import json
import logging
import ssl
import tempfile
import warnings
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from email import message_from_bytes, policy
from email.message import EmailMessage
from ipaddress import ip_address
from pathlib import Path
from typing import Any

from aiohttp import web
from aiosmtpd.controller import Controller
from aiosmtpd.smtp import AuthResult, Envelope, LoginPassword, Session
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID

from tin_bucket.core.notices.signature import verified
from tin_bucket.demo.running import PortTaken, Running

USER, PASSWORD = "harbour-desk", "tidewater-51"
SECRET = "a secret that both sides of the demo know"
_MOST = 100


@dataclass(frozen=True, slots=True)
class Came:
    """What came: a mail, or JSON at the web hook."""

    at: datetime
    by: str
    title: str
    text: str
    html: str = ""
    signed: bool = False
    facts: Any = None


class Receiver:
    """A mail server and a web hook, running on loopback. Use it as a context."""

    def __init__(self, port: int = 0, mail_port: int = 0) -> None:
        """
        Args:
            port, mail_port: of the web hook and of the mail server; 0 takes any free one.
        """
        self.came: list[Came] = []
        self.status = 204  # What the web hook answers.
        self.refuses = False  # Whether the mail server refuses its mails.
        self.base = ""
        self._running = Running(self.app(), port)
        self._folder = tempfile.TemporaryDirectory(prefix="tin-bucket-mail-")
        self.certificate, context = _certificate(Path(self._folder.name))
        self._mail = Controller(
            _Mailbox(self), hostname="127.0.0.1", port=mail_port, ssl_context=context, authenticator=_login,
            auth_required=True, auth_require_tls=False,
        )  # fmt: skip
        self._mail_port = mail_port

    @property
    def mail_port(self) -> int:
        """The port of the mail server."""
        return self._mail_port

    def __enter__(self) -> Receiver:
        self._running.__enter__()
        self.base = self._running.base
        # TLS begins with the first byte; what warns of passwords in the clear knows STARTTLS alone.
        logging.getLogger("mail.log").setLevel(logging.ERROR)
        warnings.filterwarnings("ignore", "Requiring AUTH while not requiring TLS", UserWarning)
        try:
            if not self._mail_port:
                self._mail_port = self._mail.port = _free_port()
            self._mail.start()
        except OSError as error:
            self._running.__exit__()
            raise PortTaken(self._mail_port) from error
        return self

    def __exit__(self, *_: object) -> None:
        self._mail.stop()
        self._running.__exit__()
        self._folder.cleanup()

    def take(self, one: Came) -> None:
        """Remember what came, the newest first."""
        self.came = [one, *self.came[: _MOST - 1]]

    def app(self) -> web.Application:
        """The web hook, and the page that shows what came."""
        app = web.Application(client_max_size=8 * 1024**2)
        app.router.add_get("/", self._page)
        app.router.add_post("/hook", self._hook)
        return app

    async def _hook(self, request: web.Request) -> web.Response:
        body = await request.read()
        fields = {name.lower(): value for name, value in request.headers.items()}
        signed = verified(SECRET, "POST", str(request.url), body, fields)
        if self.status >= 300:
            return web.Response(status=self.status)
        try:
            facts = json.loads(body)
        except ValueError:
            return web.Response(status=400)
        text = json.dumps(facts, indent=1, ensure_ascii=False)
        self.take(Came(datetime.now(UTC), "web hook", str(facts.get("title", "")), text, "", signed, facts))
        return web.Response(status=self.status)

    async def _page(self, request: web.Request) -> web.Response:
        parts = []
        for one in self.came:
            how = "signature verified" if one.signed else "not signed" if one.by == "web hook" else "over TLS"
            parts.append(
                f"<article><h2>{html.escape(one.title)}</h2><p>{one.at:%Y-%m-%d %H:%M:%S} UTC, by {one.by}, {how}</p>"
                f"<pre>{html.escape(one.text[:8_000])}</pre></article>"
            )
        style = (
            "body{font:15px/1.5 system-ui;max-width:60rem;margin:2rem auto;padding:0 1rem;color:#1e242b}"
            "body{background:#f1f2f4}"
            "article{background:#fff;border:1px solid #dde1e6;border-radius:8px;padding:0 1rem;margin:1rem 0}"
            "h1{font-size:1.3rem}h2{font-size:1rem;margin-bottom:0}p{color:#5f6975;margin:0}pre{white-space:pre-wrap}"
        )
        page = (
            f"<!doctype html><html lang=en><meta charset=utf-8><title>What came</title><style>{style}</style>"
            f"<h1>What came to the harbour desk</h1>{''.join(parts) or '<p>Nothing yet.</p>'}</html>"
        )
        return web.Response(text=page, content_type="text/html")


class _Mailbox:
    """Takes mails (a handler of aiosmtpd)."""

    def __init__(self, receiver: Receiver) -> None:
        self._receiver = receiver

    async def handle_DATA(self, server: Any, session: Session, envelope: Envelope) -> str:
        if self._receiver.refuses:
            return "451 The mailbox is busy"
        mail = message_from_bytes(_bytes(envelope.content), policy=policy.default)
        assert isinstance(mail, EmailMessage)
        plain, rich = mail.get_body(("plain",)), mail.get_body(("html",))
        text = str(plain.get_content()) if plain is not None else ""
        self._receiver.take(
            Came(
                datetime.now(UTC),
                "mail",
                str(mail["Subject"]),
                f"To: {mail['To']}\n\n{text}",
                str(rich.get_content()) if rich is not None else "",
            )
        )
        return "250 OK"


def _bytes(content: bytes | str | None) -> bytes:
    return content.encode() if isinstance(content, str) else content or b""


def _login(server: Any, session: Session, envelope: Envelope, mechanism: str, data: Any) -> AuthResult:
    fits = isinstance(data, LoginPassword) and (data.login, data.password) == (USER.encode(), PASSWORD.encode())
    # What is not handled here is answered with a refusal by the server.
    return AuthResult(success=fits, handled=fits)


def _free_port() -> int:
    import socket

    with socket.create_server(("127.0.0.1", 0)) as listener:
        return int(listener.getsockname()[1])


def _certificate(folder: Path) -> tuple[str, ssl.SSLContext]:
    """A certificate of its own for loopback (RFC 5280), as PEM, and what serves with it."""
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "Skerrywick mail")])
    now = datetime.now(UTC)
    made = (
        x509.CertificateBuilder()
        .subject_name(name)
        .issuer_name(name)
        .public_key(key.public_key())
        .serial_number(x509.random_serial_number())
        .not_valid_before(now - timedelta(days=1))
        .not_valid_after(now + timedelta(days=400))
        .add_extension(x509.SubjectAlternativeName([x509.IPAddress(ip_address("127.0.0.1"))]), critical=False)
        .add_extension(x509.BasicConstraints(ca=True, path_length=0), critical=True)
        .sign(key, hashes.SHA256())
    )
    pem = made.public_bytes(serialization.Encoding.PEM)
    file = folder / "mail.pem"
    file.touch(mode=0o600)
    file.write_bytes(
        key.private_bytes(
            serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()
        )
        + pem
    )  # fmt: skip
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(file)
    return pem.decode(), context
