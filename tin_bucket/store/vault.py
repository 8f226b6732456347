"""The vault: keys at rest, sealed with AES-256-GCM under a key file that only its owner may read.

A sealed key is bound to its service and to the origin that it was stored for: both are authenticated with it
(NIST SP 800-38D, additional authenticated data), so a row moved to another service or a changed base address
does not open.
"""

from __future__ import annotations

import os
import secrets
from dataclasses import dataclass
from datetime import datetime

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM

from tin_bucket.core.problem import fail

from .database import Database

KEY_FILE = "vault.key"


@dataclass(frozen=True, slots=True)
class KeyState:
    """What may be shown of a stored key: nothing of its text."""

    origin: str
    stored: str
    last_used: str | None


@dataclass(frozen=True, slots=True)
class OpenKey:
    """A key's text, in memory only, and the origin that it may go to."""

    secret: str
    origin: str

    def __repr__(self) -> str:
        return f"OpenKey(••••, {self.origin})"


class Vault:
    """Stores and opens keys."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def store(self, service_id: str, origin: str, secret: str, now: datetime) -> None:
        """Seal a key for a service, in place of the one it had.

        Raises:
            ProblemError: ``key-empty``.
        """
        text = secret.strip()
        if not text:
            raise fail("key-empty", "The key is empty.", where=f"key of {service_id}", do="Paste the key's text.")
        nonce = secrets.token_bytes(12)
        sealed = self._cipher(create=True).encrypt(nonce, text.encode(), _context(service_id, origin))
        with self._database.write() as db:
            db.execute(
                "INSERT INTO key (service_id, origin, nonce, sealed, stored)"
                " VALUES (:service, :origin, :nonce, :sealed, :stored)"
                " ON CONFLICT (service_id) DO UPDATE SET origin=:origin, nonce=:nonce, sealed=:sealed,"
                " stored=:stored, last_used=NULL",
                {
                    "service": service_id,
                    "origin": origin,
                    "nonce": nonce,
                    "sealed": sealed,
                    "stored": now.isoformat(timespec="seconds"),
                },
            )

    def open(self, service_id: str) -> OpenKey | None:
        """The key of a service, or ``None`` when none is stored.

        Raises:
            ProblemError: ``vault-closed`` when the key file is missing, damaged or another one.
        """
        with self._database.read() as db:
            row = db.execute("SELECT * FROM key WHERE service_id = ?", (service_id,)).fetchone()
        if row is None:
            return None
        try:
            text = self._cipher().decrypt(row["nonce"], row["sealed"], _context(service_id, row["origin"]))
        except InvalidTag as error:
            raise fail(
                "vault-closed",
                "The stored key does not open with this workspace's key file.",
                where=str(self._database.home / KEY_FILE),
                do="Put the right key file back, or put the key in again.",
            ) from error
        return OpenKey(text.decode(), row["origin"])

    def state(self, service_id: str) -> KeyState | None:
        """What is known of a service's key, without its text."""
        with self._database.read() as db:
            row = db.execute("SELECT origin, stored, last_used FROM key WHERE service_id = ?", (service_id,)).fetchone()
        return None if row is None else KeyState(row["origin"], row["stored"], row["last_used"])

    def used(self, service_id: str, now: datetime) -> None:
        """Note that a key was sent."""
        with self._database.write() as db:
            db.execute(
                "UPDATE key SET last_used = ? WHERE service_id = ?",
                (now.isoformat(timespec="seconds"), service_id),
            )

    def forget(self, service_id: str) -> None:
        """Delete a service's key."""
        with self._database.write() as db:
            db.execute("DELETE FROM key WHERE service_id = ?", (service_id,))

    def _cipher(self, *, create: bool = False) -> AESGCM:
        path = self._database.home / KEY_FILE
        try:
            material = path.read_bytes()
        except FileNotFoundError as error:
            if not create or self._has_keys():
                raise fail(
                    "vault-closed",
                    "The workspace's key file is missing, so its stored keys cannot be opened.",
                    where=str(path),
                    do="Put the file back, or delete the keys and put them in again.",
                ) from error
            material = AESGCM.generate_key(256)
            handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
            with os.fdopen(handle, "wb") as file:
                file.write(material)
        if len(material) != 32:
            raise fail(
                "vault-closed",
                "The workspace's key file is damaged.",
                where=str(path),
                do="Put the right file back.",
            )
        return AESGCM(material)

    def _has_keys(self) -> bool:
        with self._database.read() as db:
            return db.execute("SELECT 1 FROM key LIMIT 1").fetchone() is not None


def _context(service_id: str, origin: str) -> bytes:
    return f"tin-bucket key\n{service_id}\n{origin}".encode()
