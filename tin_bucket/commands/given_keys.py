"""Keys that a command is given: from a variable, a file, or typed in; never on the command line itself."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import fail


def secret_from(source: str, name: str, option: str = "--key") -> str:
    """What ``env:VARIABLE`` or ``file:PATH`` holds.

    Args:
        name: what the key is called.
        option: where it was given.

    Raises:
        ProblemError: ``key-missing``, or ``options-unfit``.
    """
    if source.startswith("env:"):
        value = os.environ.get(source[4:])
        if not value:
            raise fail(
                "key-not-given",
                f"The variable {source[4:]} is not set.",
                where=f"{option}, key {name}",
                do="Set it in the environment; a key never belongs on the command line itself.",
            )
        return value
    if source.startswith("file:"):
        try:
            return Path(source[5:]).read_text().strip()
        except (OSError, UnicodeDecodeError) as error:
            why = (error.strerror or "the disk failed") if isinstance(error, OSError) else "it is no text"
            raise fail(
                "key-not-given", f"The key's file cannot be read: {why}.", where=source[5:], do="Check its path."
            ) from error
    raise fail(
        "options-unfit",
        f"The key “{name}” must come from env:VARIABLE or file:PATH.",
        where=option,
        do="A key on the command line would show in the list of processes.",
    )


def keys_of(services: Sequence[Service], pairs: Sequence[str]) -> dict[str, dict[str, str]]:
    """What ``--key`` gives for each service: its id → the fields of its key.

    A key is named as its service names it; with the service's id in front where several services have a key of that
    name, and with a field behind where it has several: ``ops/Desk.user=env:OPS_USER``.

    Raises:
        ProblemError: ``options-unfit``, ``key-unknown``, ``key-not-given``.
    """
    out: dict[str, dict[str, str]] = {}
    for pair in pairs:
        name, sign, source = pair.partition("=")
        if not sign:
            # What stands there may be the key itself: it is not said again.
            raise fail(
                "options-unfit", "A --key is not NAME=source.", where="--key", do="Write --key NAME=env:VARIABLE."
            )
        service, field = _named(services, name)
        given = out.setdefault(service.id, {})
        if field in given:
            raise fail(
                "options-unfit",
                f"“{name}” is given twice.",
                where="--key",
                do="Give each key, and each field of it, once.",
            )
        given[field] = secret_from(source, name)
    for service in services:
        if service.id in out:
            check_fields(service, out[service.id])
    return out


def _named(services: Sequence[Service], name: str) -> tuple[Service, str]:
    """The service and the field of its key that a name means. The whole name goes before one with a field behind it:
    the name of a key may have a full stop."""
    found: list[tuple[Service, str]] = []
    for service in services:
        if service.key is None:
            continue
        wants = service.key.required_fields()
        for own in (service.key.name, f"{service.id}/{service.key.name}"):
            if name == own:
                found.append((service, wants[0] if len(wants) == 1 else ""))
            elif name.startswith(f"{own}.") and name[len(own) + 1 :] in wants:
                found.append((service, name[len(own) + 1 :]))
    if not found:
        known = [service.key.name for service in services if service.key is not None]
        raise fail(
            "key-unknown",
            f"No service takes a key named “{name}”.",
            where="--key",
            do=f"The services take {', '.join(f'“{one}”' for one in known)}." if known else "Leave --key out.",
        )
    if len(found) > 1:
        ways = " or ".join(f"{service.id}/{name}" for service, _ in found)
        raise fail(
            "key-unclear",
            f"{len(found)} services have a key named “{name}”.",
            where="--key",
            do=f"Say which one is meant: {ways}.",
        )
    return found[0]


def check_fields(service: Service, given: dict[str, str]) -> None:
    """
    Raises:
        ProblemError: ``key-not-given``: a field is missing.
    """
    assert service.key is not None
    wants = service.key.required_fields()
    missing = [field for field in wants if field not in given]
    if missing:
        raise fail(
            "key-not-given",
            f"The key “{service.key.name}” is made of {' and '.join(wants)}.",
            where="--key",
            do=f"Write --key {service.key.name}.{missing[0]}=env:VARIABLE.",
        )
