"""Errors as problem details (RFC 9457). What was sent in is never repeated: it may hold a key."""

from __future__ import annotations

import logging

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import ValidationError
from starlette.exceptions import HTTPException

from tin_bucket.core.document.faults import fault_words, place_words, validation_problem
from tin_bucket.core.problem import Problem, ProblemError

log = logging.getLogger("tin_bucket.web")
_STATUS = {
    "query-unknown": 404,
    "service-unknown": 404,
    "run-unknown": 404,
    "snapshot-unknown": 404,
    "answer-gone": 404,
    "preview-gone": 404,
    "already-running": 409,
    "run-complete": 409,
    "question-changed": 409,
    "brief-changed-meanwhile": 409,
    "draft-changed-meanwhile": 409,
    "name-taken": 409,
    "service-in-use": 409,
    "query-in-use": 409,
    "sheet-in-use": 409,
    "sheet-unknown": 404,
    "address-unknown": 404,
    "date-unknown": 404,
    "reader-unknown": 404,
    "report-unknown": 404,
    "notice-unknown": 404,
    "report-changed": 409,
    "address-taken": 409,
    "feed-unknown": 404,
    "version-unknown": 404,
    "workspace-locked": 503,
}


def respond(problem: Problem, status: int | None = None) -> JSONResponse:
    """A problem as ``application/problem+json``."""
    code = status or _STATUS.get(problem.kind, 422)
    return JSONResponse(
        {"type": f"urn:tin-bucket:{problem.kind}", "title": problem.what, "status": code, **problem.as_dict()},
        status_code=code,
        media_type="application/problem+json",
    )


def add_problem_handlers(app: FastAPI) -> None:
    """Make every error of the app a problem."""

    @app.exception_handler(ProblemError)
    async def _problem(request: Request, error: ProblemError) -> JSONResponse:
        return respond(error.problem)

    @app.exception_handler(RequestValidationError)
    async def _request(request: Request, error: RequestValidationError) -> JSONResponse:
        # Where a value may be of several forms, the fault in our own words says more than "not the other form".
        found = error.errors()
        first = next((one for one in found if one["type"] == "value_error"), found[0])
        loc = tuple(first["loc"])[1:]
        document = error.body
        while loc and loc[0] in ("brief", "service", "document") and isinstance(document, dict) and loc[0] in document:
            document, loc = document[loc[0]], loc[1:]
        place = place_words(document, loc)
        message = fault_words(first)
        return respond(
            Problem(
                "request-unreadable",
                f"{message[:1].upper()}{message[1:].rstrip('.')}.",
                place or "the request",
                "Correct that place and try again.",
            )
        )

    @app.exception_handler(ValidationError)
    async def _model(request: Request, error: ValidationError) -> JSONResponse:
        return respond(validation_problem(error, "the request"))

    @app.exception_handler(HTTPException)
    async def _http(request: Request, error: HTTPException) -> JSONResponse:
        what = "There is nothing at this address." if error.status_code == 404 else str(error.detail)
        return respond(Problem("http", what, request.url.path, "Go back to the desk."), error.status_code)

    @app.exception_handler(OverflowError)
    async def _number(request: Request, error: OverflowError) -> JSONResponse:
        # A number of more than 64 bits is the number of nothing.
        return respond(
            Problem("http", "There is nothing at this address.", request.url.path, "Go back to the desk."), 404
        )

    @app.exception_handler(RecursionError)
    async def _deep(request: Request, error: RecursionError) -> JSONResponse:
        what = "It is nested too deep to be read."
        return respond(Problem("too-deep", what, request.url.path, "Send or ask for a smaller part of it."), 422)

    @app.exception_handler(Exception)
    async def _fault(request: Request, error: Exception) -> JSONResponse:
        log.error("%s %s: %s", request.method, request.url.path, type(error).__name__, exc_info=error)
        what = f"The program itself failed ({type(error).__name__})."
        return respond(Problem("program-fault", what, request.url.path, "The log has the details."), 500)
