"""Services in the workspace."""

from __future__ import annotations

from tin_bucket.core.document.service import Service, slug
from tin_bucket.core.problem import fail

from .database import Database


class Services:
    """Reads and writes services."""

    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> list[Service]:
        """Every service, by name."""
        with self._database.read() as db:
            rows = db.execute("SELECT document FROM service").fetchall()
        services = [Service.model_validate_json(row["document"]) for row in rows]
        return sorted(services, key=lambda service: service.name.lower())

    def get(self, service_id: str) -> Service:
        """One service.

        Raises:
            ProblemError: ``service-unknown``.
        """
        with self._database.read() as db:
            row = db.execute("SELECT document FROM service WHERE id = ?", (service_id,)).fetchone()
        if row is None:
            raise fail(
                "service-unknown",
                f"There is no service “{service_id}”.",
                where=f"service {service_id}",
                do="Add it on the page Services and keys, or choose another in the brief.",
            )
        return Service.model_validate_json(row["document"])

    def free_id(self, name: str) -> str:
        """An id for a new service, made of its name."""
        return slug(name, {service.id for service in self.all()})

    def save(self, service: Service) -> None:
        """Add a service, or put it in the place of the one with its id."""
        with self._database.write() as db:
            db.execute(
                "INSERT INTO service (id, document) VALUES (:id, :document)"
                " ON CONFLICT (id) DO UPDATE SET document = :document",
                {"id": service.id, "document": service.model_dump_json()},
            )

    def used_by(self, service_id: str) -> list[str]:
        """The names of the queries that ask a service, in the order in which they were made."""
        with self._database.read() as db:
            rows = db.execute(
                "SELECT query.name FROM query JOIN brief ON brief.id = query.brief_id"
                " WHERE json_extract(brief.document, '$.ask.service') = :id OR EXISTS (SELECT 1 FROM"
                " json_each(brief.document, '$.look_up') AS one WHERE json_extract(one.value, '$.service') = :id)"
                " ORDER BY query.id",
                {"id": service_id},
            ).fetchall()
        return [row["name"] for row in rows]

    def delete(self, service_id: str) -> None:
        """Delete a service and its key.

        Raises:
            ProblemError: ``service-unknown``, or ``service-in-use`` with the queries that ask it.
        """
        service = self.get(service_id)
        users = self.used_by(service_id)
        if users:
            raise fail(
                "service-in-use",
                f"“{service.name}” is used by these queries: {', '.join(users)}.",
                where=f"service {service_id}",
                do="Delete those queries first, or let them ask another service.",
            )
        with self._database.write() as db:
            db.execute("DELETE FROM service WHERE id = ?", (service_id,))
