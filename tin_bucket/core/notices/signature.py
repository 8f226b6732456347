"""Signs what a web hook is told: HTTP Message Signatures (RFC 9421) with HMAC-SHA256, over the method, the address and
the digest of the body (RFC 9530)."""

from __future__ import annotations

import base64
import hashlib
import hmac

KEY_ID = "tin-bucket"
_COVERED = '("@method" "@target-uri" "content-digest")'


def content_digest(body: bytes) -> str:
    """The field ``Content-Digest`` (RFC 9530 §2)."""
    return f"sha-256=:{base64.b64encode(hashlib.sha256(body).digest()).decode()}:"


def signed(secret: str, method: str, address: str, body: bytes, created: int) -> list[tuple[str, str]]:
    """The fields that sign a request (RFC 9421 §3.1, §3.3.3).

    Args:
        created: when it is sent, in seconds since 1970 (POSIX).
    """
    digest = content_digest(body)
    parameters = f'{_COVERED};created={created};keyid="{KEY_ID}";alg="hmac-sha256"'
    base = _base(method, address, digest, parameters)
    signature = base64.b64encode(hmac.digest(secret.encode(), base.encode(), "sha256")).decode()
    return [
        ("Content-Digest", digest),
        ("Signature-Input", f"sig1={parameters}"),
        ("Signature", f"sig1=:{signature}:"),
    ]


def verified(secret: str, method: str, address: str, body: bytes, fields: dict[str, str]) -> bool:
    """Whether a request was signed with a secret, and its body is the one that was signed.

    Args:
        fields: of the request, by their names in lower case.
    """
    name, _, parameters = fields.get("signature-input", "").partition("=")
    given = fields.get("signature", "").removeprefix(f"{name}=:").removesuffix(":")
    digest = fields.get("content-digest", "")
    if not parameters.startswith(_COVERED) or digest != content_digest(body):
        return False
    base = _base(method, address, digest, parameters)
    wanted = base64.b64encode(hmac.digest(secret.encode(), base.encode(), "sha256")).decode()
    return hmac.compare_digest(wanted, given)


def _base(method: str, address: str, digest: str, parameters: str) -> str:
    """The signature base (RFC 9421 §2.5)."""
    return (
        f'"@method": {method}\n"@target-uri": {address}\n"content-digest": {digest}\n"@signature-params": {parameters}'
    )
