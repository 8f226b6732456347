"""A process of its own that reads sheets, within bounds on its memory: whatever a file does to it, the server goes on.

It takes requests from standard input, one after the other, and answers on standard output. A request is a line of JSON
and the file's bytes; an answer is a line with its length and a JSON object: a table, or a problem.
"""

from __future__ import annotations

import json
import sys
from contextlib import suppress
from typing import BinaryIO

from tin_bucket.core.formats.json import json_bytes
from tin_bucket.core.interchange.spreadsheet import SheetSettings
from tin_bucket.core.interchange.workbook import read_sheet
from tin_bucket.core.problem import Problem, ProblemError

TOO_MUCH = Problem(
    "sheet-too-large",
    "The sheet needs more memory to be read than it may use.",
    "the file",
    "A value far away from the others is often the reason: delete the empty rows and columns around the table, or"
    " divide the file.",
)
DAMAGED = Problem(
    "sheet-unreadable",
    "The file cannot be read; it may be damaged.",
    "the file",
    "Open and save it again, as .xlsx, .ods or CSV, then try again.",
)


def bound_memory(more: int) -> None:
    """Let this process take so many bytes more than it has, where the system can hold it to that."""
    try:
        import resource
    except ImportError:
        return
    used = 0
    with suppress(OSError), open("/proc/self/status") as status:
        used = next((int(line.split()[1]) * 1024 for line in status if line.startswith("VmData")), 0)
    kind = resource.RLIMIT_DATA if used else resource.RLIMIT_AS
    with suppress(OSError, ValueError):
        resource.setrlimit(kind, (used + more, used + more))


def answer(name: str, settings: SheetSettings, data: bytes, most: int) -> bytes:
    """What is written for a file: its table, or why there is none.

    Args:
        most: the longest answer, in bytes.
    """
    try:
        table = read_sheet(name, data, settings)
        told = json_bytes(
            {"records": table.records, "headings": table.headings, "found": table.found, "tabs": table.tabs}
        )
        return told if len(told) <= most else _problem(TOO_MUCH)
    except ProblemError as error:
        return _problem(error.problem)
    except (MemoryError, RecursionError):
        return _problem(TOO_MUCH)
    except BaseException:  # A reader that panics raises what is no Exception.
        return _problem(DAMAGED)


def _problem(problem: Problem) -> bytes:
    return json.dumps({"problem": problem.as_dict()}).encode()


def serve(requests: BinaryIO, answers: BinaryIO) -> None:
    """Answer requests until there are no more."""
    while line := requests.readline():
        request = json.loads(line)
        data = requests.read(request["length"])
        told = answer(request["name"], SheetSettings(**request["settings"]), data, request["most"])
        answers.write(b"%d\n" % len(told))
        answers.write(told)
        answers.flush()


if __name__ == "__main__":
    bound_memory(int(sys.argv[1]))
    serve(sys.stdin.buffer, sys.stdout.buffer)
