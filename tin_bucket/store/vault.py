"""The vault: keys at rest, sealed with AES-256-GCM under a key file that only its owner may read, or a passphrase.

A sealed key is bound to its service and to the origins that it was stored for: both are authenticated with it
(NIST SP 800-38D, additional authenticated data), so a row moved to another service or a changed base address
does not open.
"""

from __future__ import annotations

import json
import os
import secrets
import sqlite3
from collections.abc import Mapping
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path

from cryptography.exceptions import InvalidTag
from cryptography.hazmat.primitives.ciphers.aead import AESGCM
from cryptography.hazmat.primitives.kdf.scrypt import Scrypt

from tin_bucket.core.masking.looks import fingerprint
from tin_bucket.core.problem import ProblemError, fail

from .database import Database
from .private_file import write_private

KEY_FILE = "vault.key"
_COST = 2**16  # scrypt's N (RFC 7914 §2): 64 MB and a quarter of a second.
_KEY_LENGTH = 32  # Bytes, AES-256.
_CHECK = b"tin-bucket vault"
_SHOWN = ("key", "token", "client_secret")  # Of these the end may be shown; never of a password.


@dataclass(frozen=True, slots=True)
class KeyState:
    """What may be shown of a stored key: at most the last four characters of its text."""

    origin: str
    stored: str
    last_used: str | None
    expires: str | None = None
    fingerprint: str = ""
    fields: tuple[str, ...] = ("key",)


@dataclass(frozen=True, slots=True)
class OpenKey:
    """A key's fields, in memory only, and the origins that it may go to."""

    secret: Mapping[str, str]
    origin: str

    def __repr__(self) -> str:
        return f"OpenKey(••••, {self.origin})"


class Vault:
    """Stores and opens keys."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._from_passphrase: bytes | None = None

    # Keys ------------------------------------------------------------------------------------------------------

    def store(
        self,
        service_id: str,
        origin: str,
        secret: str | Mapping[str, str],
        now: datetime,
        expires: datetime | None = None,
    ) -> None:
        """Seal a key for a service, in place of the one it had.

        Args:
            origin: the origins that it may go to, as :meth:`core.keys.Key.bound_to` gives them.
            secret: field → text; a text alone is the field ``key``.
            expires: when it ends, where that is known.

        Raises:
            ProblemError: ``key-empty``, or ``vault-closed``.
        """
        given = {"key": secret} if isinstance(secret, str) else secret
        fields = {name: text if name == "password" else text.strip() for name, text in given.items()}
        if not fields or any(not text for name, text in fields.items() if name != "password"):
            raise fail("key-empty", "The key is empty.", where=f"key of {service_id}", do="Paste the key's text.")
        nonce = secrets.token_bytes(12)
        ends = next((fingerprint(text) for name, text in fields.items() if name in _SHOWN), "")
        # How the vault opens cannot change between the look at it and the end of this.
        with self._database.write() as db:
            cipher = self._cipher(create=True)
            sealed = cipher.encrypt(nonce, json.dumps(fields).encode(), _context(service_id, origin))
            db.execute(
                "INSERT INTO key (service_id, origin, nonce, sealed, stored, fields, expires, fingerprint)"
                " VALUES (:service, :origin, :nonce, :sealed, :stored, :fields, :expires, :ends)"
                " ON CONFLICT (service_id) DO UPDATE SET origin=:origin, nonce=:nonce, sealed=:sealed,"
                " stored=:stored, fields=:fields, expires=:expires, fingerprint=:ends, last_used=NULL",
                {
                    "service": service_id,
                    "origin": origin,
                    "nonce": nonce,
                    "sealed": sealed,
                    "stored": now.isoformat(timespec="milliseconds"),
                    "fields": json.dumps(list(fields)),
                    "expires": expires.isoformat(timespec="seconds") if expires else None,
                    "ends": ends,
                },
            )

    def open(self, service_id: str) -> OpenKey | None:
        """The key of a service, or ``None`` when none is stored.

        Raises:
            ProblemError: ``vault-closed`` when the key file is missing, damaged or another one, or the passphrase is
                wanted.
        """
        with self._database.read() as db:
            row = db.execute("SELECT * FROM key WHERE service_id = ?", (service_id,)).fetchone()
        if row is None:
            return None
        text = self._unseal(self._cipher(), row)
        fields = json.loads(text) if json.loads(row["fields"]) else {"key": text}
        return OpenKey(fields, row["origin"])

    def _unseal(self, cipher: AESGCM, row: sqlite3.Row) -> str:
        try:
            return cipher.decrypt(row["nonce"], row["sealed"], _context(row["service_id"], row["origin"])).decode()
        except InvalidTag as error:
            raise fail(
                "vault-closed",
                "The stored key does not open with this workspace's key file.",
                where=str(self._database.home / KEY_FILE),
                do="Restore the right key file, or enter the key again.",
            ) from error

    def state(self, service_id: str) -> KeyState | None:
        """What is known of a service's key, without its text."""
        with self._database.read() as db:
            row = db.execute("SELECT * FROM key WHERE service_id = ?", (service_id,)).fetchone()
        if row is None:
            return None
        fields = tuple(json.loads(row["fields"])) or ("key",)
        return KeyState(row["origin"], row["stored"], row["last_used"], row["expires"], row["fingerprint"], fields)

    def used(self, service_id: str, now: datetime) -> None:
        """Note that a key was sent."""
        with self._database.write() as db:
            db.execute(
                "UPDATE key SET last_used = ? WHERE service_id = ?",
                (now.isoformat(timespec="seconds"), service_id),
            )

    def expires(self, service_id: str, moment: datetime | None) -> None:
        """Note when a key ends."""
        with self._database.write() as db:
            db.execute(
                "UPDATE key SET expires = ? WHERE service_id = ?",
                (moment.isoformat(timespec="seconds") if moment else None, service_id),
            )

    def forget(self, service_id: str) -> None:
        """Delete a service's key."""
        with self._database.write() as db:
            db.execute("DELETE FROM key WHERE service_id = ?", (service_id,))

    def forget_all(self) -> None:
        """Delete every key, and how the vault opens."""
        with self._database.write() as db:
            db.execute("DELETE FROM key")
            db.execute("DELETE FROM vault_lock")
        self._from_passphrase = None

    def key_count(self) -> int:
        """How many services have a key."""
        with self._database.read() as db:
            return int(db.execute("SELECT count(*) FROM key").fetchone()[0])

    # The lock --------------------------------------------------------------------------------------------------

    @property
    def wants_passphrase(self) -> bool:
        """Whether the vault opens with a passphrase that was not given yet."""
        return self._from_passphrase is None and self._lock() is not None

    @property
    def has_passphrase(self) -> bool:
        """Whether the vault opens with a passphrase and not with the key file."""
        return self._lock() is not None

    def unlock(self, passphrase: str) -> None:
        """Give the passphrase; it stays in memory until the program ends.

        Raises:
            ProblemError: ``passphrase-wrong``.
        """
        material = self.verify(passphrase)
        if material is not None:
            self._from_passphrase = material

    def verify(self, passphrase: str) -> bytes | None:
        """The key that a passphrase gives; ``None`` where the vault has none.

        Raises:
            ProblemError: ``passphrase-wrong``.
        """
        lock = self._lock()
        if lock is None:
            return None
        material = _derive(passphrase, lock["salt"], lock["cost"])
        if not _opens(material, lock):
            raise fail(
                "passphrase-wrong", "This is not the vault's passphrase.", where="the vault", do="Type it again."
            )
        return material

    def lock(self) -> None:
        """Forget the passphrase: the keys are closed until it is given again."""
        self._from_passphrase = None

    def change_passphrase(self, old: str, new: str | None) -> None:
        """As :meth:`set_passphrase`, for somebody who has to know the old one where there is one.

        Raises:
            ProblemError: ``passphrase-wrong``, or as :meth:`set_passphrase`.
        """
        self.verify(old)
        self.set_passphrase(new)

    def set_passphrase(self, passphrase: str | None) -> None:
        """Seal every key again under a passphrase, or, with ``None``, under the key file again.

        Raises:
            ProblemError: ``passphrase-short``, or ``vault-closed``.
        """
        if passphrase is not None and len(passphrase) < 8:
            raise fail(
                "passphrase-short",
                "A passphrase has at least 8 characters.",
                where="the vault",
                do="Choose a longer one; a few words are easy to remember.",
            )
        path = self._database.home / KEY_FILE
        salt = secrets.token_bytes(16)
        material = _derive(passphrase, salt, _COST) if passphrase is not None else AESGCM.generate_key(256)
        cipher = AESGCM(material)
        beside = path.with_suffix(".new")
        with self._database.write() as db:
            old = self._cipher(create=True)
            if passphrase is None:
                beside.unlink(missing_ok=True)  # Of a change that was interrupted before its commit.
                _write_key_file(beside, material)
            for row in db.execute("SELECT * FROM key").fetchall():
                nonce = secrets.token_bytes(12)
                sealed = cipher.encrypt(
                    nonce, self._unseal(old, row).encode(), _context(row["service_id"], row["origin"])
                )
                db.execute(
                    "UPDATE key SET nonce = ?, sealed = ? WHERE service_id = ?", (nonce, sealed, row["service_id"])
                )
            db.execute("DELETE FROM vault_lock")
            if passphrase is not None:
                nonce = secrets.token_bytes(12)
                check = cipher.encrypt(nonce, b"", _CHECK)
                db.execute("INSERT INTO vault_lock VALUES (1, ?, ?, ?, ?)", (salt, _COST, nonce, check))
        if passphrase is None:
            os.replace(beside, path)
        self._from_passphrase = material if passphrase is not None else None
        if passphrase is not None:
            with suppress(FileNotFoundError):
                path.unlink()

    def _lock(self) -> sqlite3.Row | None:
        with self._database.read() as db:
            row: sqlite3.Row | None = db.execute("SELECT * FROM vault_lock").fetchone()
            return row

    def _cipher(self, *, create: bool = False) -> AESGCM:
        lock = self._lock()
        if lock is not None and self._from_passphrase is not None and _opens(self._from_passphrase, lock):
            return AESGCM(self._from_passphrase)
        # Another program may have changed how the vault opens.
        self._from_passphrase = None
        if lock is not None:
            raise fail(
                "vault-closed",
                "The vault is locked: it opens with a passphrase.",
                where="the vault",
                do="Open it on the page Services and keys, or start with --passphrase.",
            )
        path = self._database.home / KEY_FILE
        self._settle(path)
        try:
            material = path.read_bytes()
        except FileNotFoundError as error:
            if not create or self._has_keys():
                raise fail(
                    "vault-closed",
                    "The workspace's key file is missing, so its stored keys cannot be opened.",
                    where=str(path),
                    do="Restore the file, or delete the keys and enter them again.",
                ) from error
            material = _new_key_file(path)
        if len(material) != _KEY_LENGTH and create and not self._has_keys():
            # What an interrupted start or a full disk has left.
            path.unlink(missing_ok=True)
            material = _new_key_file(path)
        if len(material) != _KEY_LENGTH:
            raise fail(
                "vault-closed",
                "The workspace's key file is damaged.",
                where=str(path),
                do="Restore the right file.",
            )
        return AESGCM(material)

    def _settle(self, path: Path) -> None:
        """Finish an interrupted change of the key file: the new file stays if the keys are sealed with it."""
        beside = path.with_suffix(".new")
        if not beside.exists():
            return
        with self._database.read() as db:
            row = db.execute("SELECT * FROM key LIMIT 1").fetchone()
        try:
            material = beside.read_bytes()
            whole = len(material) == _KEY_LENGTH
            if whole and row is not None:
                self._unseal(AESGCM(material), row)
        except (FileNotFoundError, ProblemError):
            whole = False
        # Without keys the new file is the right one where there is no other.
        if whole and (row is not None or not path.exists()):
            os.replace(beside, path)
        else:
            beside.unlink(missing_ok=True)

    def _has_keys(self) -> bool:
        with self._database.read() as db:
            return db.execute("SELECT 1 FROM key LIMIT 1").fetchone() is not None


def _new_key_file(path: Path) -> bytes:
    """A new key in its file, or the key of another program that was quicker."""
    material = AESGCM.generate_key(256)
    try:
        _write_key_file(path, material)
    except FileExistsError:
        return path.read_bytes()
    return material


def _write_key_file(path: Path, material: bytes) -> None:
    """Write a key file: whole, or not at all.

    Raises:
        ProblemError: ``workspace-unreadable`` where the disk does not take it.
        FileExistsError: there is one.
    """
    try:
        write_private(path, material)
    except FileExistsError:
        raise
    except OSError as error:
        raise fail(
            "workspace-unreadable",
            "The vault's key file cannot be written; no key was stored.",
            where=str(path),
            do="Check that the disk has room and that the folder can be written to.",
        ) from error


def _opens(material: bytes, lock: sqlite3.Row) -> bool:
    try:
        AESGCM(material).decrypt(lock["nonce"], lock["sealed"], _CHECK)
    except InvalidTag:
        return False
    return True


def _derive(passphrase: str, salt: bytes, cost: int) -> bytes:
    return Scrypt(salt=salt, length=32, n=cost, r=8, p=1).derive(passphrase.encode())


def _context(service_id: str, origin: str) -> bytes:
    return f"tin-bucket key\n{service_id}\n{origin}".encode()
