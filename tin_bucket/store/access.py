"""Who may use a served workspace: whoever has its access token, which stands in a file that its owner alone may read.

Other accounts of the machine reach the port as well as its owner does; they do not have the token.
"""

from __future__ import annotations

import base64
import hmac
import re
import secrets
from pathlib import Path

from tin_bucket.core.problem import ProblemError, fail

from .private_file import replace_private, write_private

TOKEN_FILE = "access.token"
_TOKEN = re.compile(r"[A-Za-z0-9_-]{43}")  # 32 bytes, Base64 for addresses (RFC 4648 §5).


class Access:
    """The access token of one workspace, and the cookie that a browser gets for it."""

    def __init__(self, home: Path) -> None:
        self._path = home / TOKEN_FILE

    @property
    def token(self) -> str:
        """The token; a new one when the file is missing or damaged. It is read each time, so that one that was
        withdrawn opens nothing more.

        Raises:
            ProblemError: ``workspace-unreadable``.
        """
        try:
            found = self._path.read_text(encoding="ascii", errors="replace").strip()
        except FileNotFoundError:
            return self._first()
        except OSError as error:
            raise self._unusable("read") from error
        return found if _TOKEN.fullmatch(found) else self.renew()

    def renew(self) -> str:
        """Make a new token. The old one, and every cookie that came of it, open nothing more.

        Raises:
            ProblemError: ``workspace-unreadable``.
        """
        made = secrets.token_urlsafe(32)
        try:
            replace_private(self._path, made.encode())
        except OSError as error:
            raise self._unusable("written") from error
        return made

    def _first(self) -> str:
        made = secrets.token_urlsafe(32)
        try:
            write_private(self._path, made.encode())
        except FileExistsError:  # Another program was quicker.
            return self.token
        except OSError as error:
            raise self._unusable("written") from error
        return made

    def _unusable(self, done: str) -> ProblemError:
        return fail(
            "workspace-unreadable",
            f"The file with the access token cannot be {done}.",
            where=str(self._path),
            do="Check that the disk has room, and that this user may read and write the folder.",
        )

    def opens(self, token: str) -> bool:
        """Whether this is the token."""
        return hmac.compare_digest(token.encode(), self.token.encode())

    def cookie(self) -> tuple[str, str]:
        """Name and value of the cookie for browsers that came with the token. Browsers send a cookie to every port of a
        host (RFC 6265 §8.5), so each workspace has a name of its own; the value does not give the token away."""
        token = self.token
        return f"tin-bucket-{_derived(token, 'name')[:8].lower()}", _derived(token, "value")

    def admits(self, cookies: dict[str, str]) -> bool:
        """Whether the cookies have the right one among them."""
        name, value = self.cookie()
        return hmac.compare_digest(cookies.get(name, "").encode(), value.encode())


def _derived(token: str, what: str) -> str:
    digest = hmac.digest(token.encode(), f"tin-bucket cookie {what}".encode(), "sha256")
    return base64.b32encode(digest).decode().rstrip("=")
