"""Advice that fits the command line: what a page of the interface does, an option or a command does here."""

from __future__ import annotations

from dataclasses import replace

from tin_bucket.core.problem import Problem

# Kind of problem → what to do in a workspace, and with a brief file.
_ADVICE = {
    "key-missing": (
        "Store it: tin-bucket key set SERVICE --from env:VARIABLE.",
        "Give it: --key NAME=env:VARIABLE or NAME=file:PATH.",
    ),
    "key-refused": (
        "Check the key, and that it may read this address. tin-bucket key set SERVICE stores another.",
        "Check the key that --key gives, and that it may read this address.",
    ),
    "token-wanted": (
        "Store the token: tin-bucket key set SERVICE --from env:VARIABLE.",
        "Give the token: --key NAME=env:VARIABLE or NAME=file:PATH.",
    ),
    "key-bound-elsewhere": (
        "If the service has moved, store its key again: tin-bucket key set SERVICE.",
        "Give the key again with --key.",
    ),
    "service-unknown": (
        "Import it with tin-bucket import-bundle, or name another service in the brief.",
        "Put it into the file of --services, or name another service in the brief.",
    ),
    "vault-closed": (
        "Ask for the passphrase with --passphrase, or set TIN_BUCKET_PASSPHRASE.",
        "Ask for the passphrase with --passphrase, or set TIN_BUCKET_PASSPHRASE.",
    ),
    "run-unknown": ("tin-bucket runs lists them.", "tin-bucket runs lists them."),
}


def fitting(problem: Problem, query: str = "") -> Problem:
    """The problem with advice that fits how the command was called.

    Args:
        query: how it names a query; it may be a brief file.
    """
    both = _ADVICE.get(problem.kind)
    return problem if both is None else replace(problem, do=both[1 if is_brief_file(query) else 0])


def is_brief_file(query: str) -> bool:
    """Whether a query is named by a file with its brief."""
    return query.endswith(".json")
