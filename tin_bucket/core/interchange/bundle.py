"""Carrying: services, queries and reports as one document without any secret, and back in, with clashes told."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal

from pydantic import Field, ValidationError

from tin_bucket.core.base import Part
from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.document.references import rename_queries, rename_services, sheets_named
from tin_bucket.core.document.service import Service, slug
from tin_bucket.core.masking.scrub import holds_secret
from tin_bucket.core.names import free_name
from tin_bucket.core.problem import fail
from tin_bucket.core.report.model import Report

BUNDLE_VERSION = 1
ImportChoice = Literal["add", "keep", "replace", "beside"]


class RequiredKey(Part):
    """A key that must be entered again on the other machine."""

    service: str
    key: str
    fields: list[str] = []


class BundledReport(Part):
    """A report, and what its queries are called."""

    report: Report
    queries: dict[int, str] = Field(default={}, description="the name of the query behind each number in the report")

    def comparable(self) -> Report:
        """The report with the same numbers for queries of the same names, and without its places outside of the
        workspace: what two reports are held against each other by."""
        names = sorted({name.casefold() for name in self.queries.values()})
        numbers = {number: 1 + names.index(name.casefold()) for number, name in self.queries.items()}
        return self.report.renumbered(numbers).model_copy(update={"files": [], "address": ""})


class Bundle(Part):
    """Services, queries and reports, ready to be carried. The keys stay behind."""

    tin_bucket_bundle: Literal[1] = Field(default=1, description="version of this format")
    made: str = ""
    services: list[Service] = []
    queries: list[Brief] = []
    reports: list[BundledReport] = []
    required_keys: list[RequiredKey] = []
    required_sheets: list[str] = Field(
        default=[], description="sheets that the queries read; the bundle does not hold them"
    )


@dataclass(slots=True)
class Item:
    """One thing of a bundle, and how it stands here.

    Attributes:
        kind: ``service``, ``query`` or ``report``.
        name: what people call it.
        state: ``new``, ``same`` (equal to the one here) or ``clash`` (another one of that name is here).
        choice: what is done with it: add it, keep the existing one, replace it, or
            keep both under different names.
    """

    kind: str
    name: str
    state: str
    choice: ImportChoice


@dataclass(slots=True)
class ImportPlan:
    """What bringing a bundle in does.

    Attributes:
        items: what is in it.
        services: services to save.
        queries: queries to save, with the name of the query here that each replaces, or ``None``.
        reports: reports to save, with the names that their queries have here, and the place among the reports here of
            that which each replaces, or ``None``.
        required_keys: the keys that must be entered, for services that are new or replaced.
        left_files: files that reports are written to where they come from: by title and path.
        required_sheets: sheets that are read and are not here.
    """

    items: list[Item] = field(default_factory=list)
    services: list[Service] = field(default_factory=list)
    queries: list[tuple[Brief, str | None]] = field(default_factory=list)
    reports: list[tuple[BundledReport, int | None]] = field(default_factory=list)
    left_files: list[tuple[str, str]] = field(default_factory=list)
    required_keys: list[RequiredKey] = field(default_factory=list)
    required_sheets: list[str] = field(default_factory=list)


def make_bundle(
    services: Sequence[Service],
    queries: Sequence[Brief],
    made: str,
    secrets: Sequence[str] = (),
    reports: Sequence[BundledReport] = (),
) -> Bundle:
    """Put services, queries and reports into a bundle; services that no query of it asks come along only when given.
    Reports of one title are numbered.

    Args:
        secrets: the stored keys' texts: none of them may be in it.

    Raises:
        ProblemError: ``secret-inside``, which names the part that holds a key's text.
    """
    for what, document in [
        *((f"service “{one.name}”", one.model_dump_json(by_alias=True)) for one in services),
        *((f"query “{one.name}”", one.model_dump_json(by_alias=True)) for one in queries),
        *((f"report “{one.report.title}”", one.model_dump_json()) for one in reports),
    ]:
        if holds_secret(document, [secret for secret in secrets if len(secret) >= 6]):
            raise fail(
                "secret-inside",
                f"The {what} contains the text of a stored key; it was not exported.",
                where=what,
                do="Remove the key's text from it: the key is sent automatically.",
            )
    wanted = [
        RequiredKey(service=one.name, key=one.key.name, fields=one.key.required_fields())
        for one in services
        if one.key is not None
    ]
    sheets = list(dict.fromkeys(name for brief in queries for name in sheets_named(brief)))
    return Bundle(
        made=made,
        services=list(services),
        queries=list(queries),
        reports=_told_apart(reports),
        required_keys=wanted,
        required_sheets=sheets,
    )


def _told_apart(reports: Sequence[BundledReport]) -> list[BundledReport]:
    out: list[BundledReport] = []
    for one in reports:
        title = free_name(one.report.title, {other.report.title for other in out})
        out.append(one.model_copy(update={"report": one.report.model_copy(update={"title": title})}))
    return out


def load_bundle(document: Any, where: str = "the file") -> Bundle:
    """Check a parsed JSON document and make it a :class:`Bundle`.

    Raises:
        ProblemError: ``bundle-unreadable`` or ``bundle-newer``, with the place.
    """
    if not isinstance(document, dict) or "tin_bucket_bundle" not in document:
        raise fail(
            "bundle-unreadable",
            "This is not a file of services, queries and reports.",
            where=where,
            do="Choose one that Tin Bucket exported. Nothing was changed.",
        )
    version = document["tin_bucket_bundle"]
    if isinstance(version, int) and version > BUNDLE_VERSION:
        raise fail(
            "bundle-newer",
            f"This file is of format {version}; this program reads formats up to {BUNDLE_VERSION}.",
            where=where,
            do="Use a newer Tin Bucket. Nothing was changed.",
        )
    for at, one in enumerate(document.get("queries") or []):
        load_brief(one, f"{where}, queries.{at}")
    try:
        return Bundle.model_validate(document)
    except ValidationError as error:
        problem = validation_problem(error, where, document)
        raise fail("bundle-unreadable", problem.what, where=problem.where, do="Nothing was changed.") from error


def plan_import(
    bundle: Bundle,
    services: Sequence[Service],
    queries: Sequence[Brief],
    sheets: Sequence[str] = (),
    choices: Mapping[str, ImportChoice] | None = None,
    reports: Sequence[BundledReport] = (),
) -> ImportPlan:
    """What bringing a bundle in would do; nothing is changed.

    Args:
        services, queries, sheets, reports: what is here.
        choices: ``service NAME``, ``query NAME`` or ``report TITLE`` → what to do where it clashes; one that is not
            named is kept as it is here.

    Raises:
        ProblemError: ``choice-unknown``.
    """
    import_plan = ImportPlan()
    wanted = choices or {}
    ids = _plan_services(bundle, services, wanted, import_plan)
    renamed = _plan_queries(bundle, queries, wanted, ids, import_plan)
    _plan_reports(bundle, reports, wanted, renamed, import_plan)
    coming = {service.name for service in import_plan.services}
    import_plan.required_keys = [one for one in bundle.required_keys if one.service in coming]
    import_plan.required_sheets = [name for name in bundle.required_sheets if name not in sheets]
    unknown = sorted(set(wanted) - {f"{item.kind} {item.name}" for item in import_plan.items})
    if unknown:
        raise fail("choice-unknown", f"The file has no {unknown[0]}.", where=unknown[0], do="Leave that choice out.")
    return import_plan


def _plan_services(
    bundle: Bundle, here: Sequence[Service], wanted: Mapping[str, ImportChoice], import_plan: ImportPlan
) -> dict[str, str]:
    by_id = {service.id: service for service in here}
    taken = set(by_id)
    ids: dict[str, str] = {}
    for service in bundle.services:
        known = by_id.get(service.id)
        choice = _decide("service", service.name, known is None, known == service, wanted, import_plan)
        if choice == "beside":
            new_id = slug(service.name, taken)
            ids[service.id] = new_id
            names = {one.name for one in [*here, *import_plan.services]}
            service = service.model_copy(update={"id": new_id, "name": free_name(service.name, names)})
        if choice != "keep":
            import_plan.services.append(service)
            taken.add(service.id)
    return ids


def _plan_queries(
    bundle: Bundle,
    here: Sequence[Brief],
    wanted: Mapping[str, ImportChoice],
    ids: dict[str, str],
    import_plan: ImportPlan,
) -> dict[str, str]:
    """Plans the queries; gives the other names of those that are put beside."""
    by_name = {brief.name.lower(): brief for brief in here}
    taken = {brief.name for brief in here}
    renamed: dict[str, str] = {}
    coming: list[tuple[Brief, str | None]] = []
    for brief in bundle.queries:
        known = by_name.get(brief.name.lower())
        moved = rename_services(brief, ids)
        choice = _decide("query", brief.name, known is None, known == moved, wanted, import_plan)
        if choice == "beside":
            renamed[brief.name] = free_name(brief.name, taken)
            moved = moved.model_copy(update={"name": renamed[brief.name]})
        if choice != "keep":
            taken.add(moved.name)
            coming.append((moved, known.name if known is not None and choice == "replace" else None))
    import_plan.queries = [(rename_queries(brief, renamed), replaces) for brief, replaces in coming]
    return renamed


def _plan_reports(
    bundle: Bundle,
    here: Sequence[BundledReport],
    wanted: Mapping[str, ImportChoice],
    renamed: Mapping[str, str],
    import_plan: ImportPlan,
) -> None:
    known_here = _told_apart(here)
    places = {one.report.title.casefold(): place for place, one in enumerate(known_here)}
    taken = {one.report.title for one in known_here}
    for one in bundle.reports:
        title = one.report.title
        place = places.get(title.casefold())
        coming = one.model_copy(
            update={"queries": {number: renamed.get(name, name) for number, name in one.queries.items()}}
        )
        same = place is not None and known_here[place].comparable() == coming.comparable()
        choice = _decide("report", title, place is None, same, wanted, import_plan)
        if choice == "beside":
            title = free_name(title, taken)
            coming = coming.model_copy(update={"report": one.report.model_copy(update={"title": title})})
        if choice != "keep":
            taken.add(title)
            import_plan.reports.append((coming, place if choice == "replace" else None))
            import_plan.left_files += [(title, path) for path in one.report.files]


def _decide(
    kind: str, name: str, new: bool, same: bool, wanted: Mapping[str, ImportChoice], import_plan: ImportPlan
) -> ImportChoice:
    """What is done with one thing of a bundle; it is noted in the plan."""
    asked = wanted.get(f"{kind} {name}", "add" if new else "keep")
    choice: ImportChoice = "add" if new and asked != "keep" else "keep" if asked == "add" else asked
    import_plan.items.append(Item(kind, name, "new" if new else "same" if same else "clash", choice))
    return choice


def bundle_text(bundle: Bundle) -> str:
    """The bundle as the text of a file."""
    return json.dumps(bundle.model_dump(mode="json", by_alias=True), indent=1, ensure_ascii=False) + "\n"
