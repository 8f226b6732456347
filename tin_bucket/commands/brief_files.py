"""A brief in a file, with the services and keys that go with it."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from pydantic import ValidationError

from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.engine.clock import Clock
from tin_bucket.store.workspace import Workspace

from .common import open_workspace, read_json, unlock
from .given_keys import keys_of


def furnish(
    workspace: Workspace,
    brief_file: Path,
    services_file: Path | None,
    keys: list[str],
    home: Path | None,
    passphrase: bool,
) -> str:
    """Put a brief, services and keys into a workspace; gives the name of the query.

    Args:
        keys: as ``--key`` gives them.
        home: a workspace whose services and keys are used where the files say nothing else.
        passphrase: whether that of its vault is asked for.

    Raises:
        ProblemError: what is wrong with a file or a key.
    """
    now = Clock().now()
    brief = load_brief(read_json(brief_file), str(brief_file))
    services = services_of_file(read_json(services_file), str(services_file)) if services_file is not None else []
    if home is not None:
        wanted = set(brief.services()) - {one.id for one in services}
        services += _taken_over(workspace, home, wanted, passphrase)
    for service in services:
        workspace.services.save(service)
    for service_id, secret in keys_of(services, keys).items():
        service = workspace.services.get(service_id)
        assert service.key is not None
        workspace.vault.store(service_id, service.key.bound_to(service.base), secret, now)
    return workspace.queries.add(brief, now).name


def _taken_over(workspace: Workspace, home: Path, wanted: set[str], passphrase: bool) -> list[Service]:
    """The services of another workspace with some ids; their keys go to the vault of this one."""
    other = open_workspace(home)
    try:
        unlock(other, passphrase)
        found = [one for one in other.services.all() if one.id in wanted]
        for service in found:
            workspace.services.save(service)
            opened = other.vault.open(service.id) if service.key is not None else None
            if opened is not None:
                workspace.vault.store(service.id, opened.origin, dict(opened.secret), Clock().now())
        return found
    finally:
        other.close()


def services_of_file(document: object, where: str) -> list[Service]:
    """The services of a file.

    Raises:
        ProblemError: ``services-unreadable``, or what is wrong with one, with its name.
    """
    listed = document.get("services") if isinstance(document, dict) else None
    if not isinstance(listed, list):
        raise fail(
            "services-unreadable",
            "A services file is an object with a list “services”.",
            where=where,
            do="docs/query-format.md shows one.",
        )
    out = []
    for at, one in enumerate(listed, 1):
        try:
            out.append(Service.model_validate(one))
        except ValidationError as error:
            name = one.get("name") or one.get("id") if isinstance(one, dict) else None
            told = f"service “{name}”" if isinstance(name, str) and name else f"service {at}"
            problem = validation_problem(error, f"{where}, {told}", one)
            raise ProblemError(replace(problem, kind="services-unreadable")) from error
    return out
