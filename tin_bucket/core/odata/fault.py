"""What is wrong with an OData request, in the form that OData has for it (JSON Format 4.01, §21)."""

from __future__ import annotations

from typing import Any


class ODataError(Exception):
    """A request that cannot be answered.

    Attributes:
        status: the HTTP status.
        code: a short stable word.
        message: what is wrong, and what to do.
        target: the part of the request.
        at: where in that part, in characters from 0; ``None`` for all of it.
    """

    def __init__(self, status: int, code: str, message: str, target: str = "", at: int | None = None) -> None:
        super().__init__(message)
        self.status, self.code, self.message, self.target, self.at = status, code, message, target, at

    def document(self) -> dict[str, Any]:
        """The body of the answer."""
        error: dict[str, Any] = {"code": self.code, "message": self.message}
        if self.target:
            error["target"] = self.target
        if self.at is not None:
            where = f"at character {self.at + 1}"
            error["details"] = [{"code": "place", "message": where, "target": f"{self.target}@{self.at}"}]
        return {"error": error}
