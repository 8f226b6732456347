"""A range of dates, cut into windows that are asked for one by one."""

from __future__ import annotations

import re
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.formats.durations import Duration, parse_duration, shift_date
from tin_bucket.core.pagination.base import AT, AT_ONCE, MAX_PAGES, PagedModel
from tin_bucket.core.pagination.protocol import Paginator
from tin_bucket.core.pagination.tracker import PageTracker
from tin_bucket.core.pagination.way import Way
from tin_bucket.core.problem import fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.edit import ParameterLocation, put, sent_value


class DatePagination(PagedModel):
    """A long range of dates is asked for piece by piece. The question holds the whole range."""

    by: Literal["dates"] = "dates"
    at: ParameterLocation = "address"
    start: str = Field(default="from", min_length=1, description="the parameter with the first date of the range")
    end: str = Field(default="to", min_length=1, description="the parameter with its last date")
    step: str = Field(default="P7D", description="length of a piece, an ISO 8601 duration")
    ends: Literal["included", "excluded"] = Field(
        default="included", description="whether the end belongs to what the API gives for a range"
    )

    @field_validator("step")
    @classmethod
    def _goes_on(cls, value: str) -> str:
        step = parse_duration(value)
        if min(step.months, step.days, step.seconds) < 0 or not (step.months or step.days or step.seconds):
            raise ValueError("a piece is at least a second long")
        return value


def by_dates(call: Call, pages: DatePagination, base: str = "") -> Paginator:
    """A range of dates, piece by piece."""
    tracker = PageTracker(pages)
    pieces = date_pieces(call, pages)
    calls = [put(call, pages.at, {pages.start: start, pages.end: end}, label) for start, end, label in pieces]
    stated_totals: list[int | None] = []
    left = len(calls)
    for at in range(0, len(calls), AT_ONCE):
        batch = calls[at : at + AT_ONCE]
        for step in range(len(batch)):
            page = yield batch if step == 0 else []
            tracker.saw(page)  # Two pieces of a range may well be the same.
            if page.failed is None:
                stated_totals.append(tracker.total)
            left -= 1
            if left and (stop := tracker.enough()) is not None:
                return stop
    known = [total for total in stated_totals if total is not None]
    total = sum(known) if known and len(known) == len(calls) else None
    stop = tracker.stop("last-window", f"all {len(calls):,} pieces of the range were asked for", True)
    return replace(stop, stated_total=total, first_total=total)


_SHAPES = {"date": "%Y-%m-%d", "plain date": "%Y%m%d"}


def date_pieces(call: Call, pages: DatePagination) -> list[tuple[str, str, str]]:
    """First and last date of each piece, as the call writes them, and what it is called.

    Raises:
        ProblemError: ``pages-unfit``: the call has no such range, or one that cannot be read.
    """
    texts = [sent_value(call, pages.at, name) for name in (pages.start, pages.end)]
    for name, text in zip((pages.start, pages.end), texts, strict=True):
        if not text:
            raise _unfit(f"The question sends no “{name}”.", "Name the parameters that hold the range.")
    start_text, end_text = (text or "" for text in texts)
    shape = _shape(start_text)
    if shape is None or _shape(end_text) != shape:
        raise _unfit(
            f"“{start_text}” to “{end_text}” is not a range of two dates of one form.",
            "Take dates such as 2026-11-24, dates and times with a zone, or seconds since 1970, for both.",
        )
    start, end = _read(start_text, shape), _read(end_text, shape)
    if end < start:
        raise _unfit(f"The range ends with {end_text}, before it starts with {start_text}.", "Let it end later.")
    step = parse_duration(pages.step)
    days = shape in _SHAPES
    if days and step.seconds:
        raise _unfit(
            f"{pages.step} is no whole number of days.", "Give the length of a piece in days, weeks or months."
        )
    smallest = timedelta(days=1) if days else timedelta(seconds=1)
    pieces: list[tuple[str, str, str]] = []
    number = 0
    at = start
    while at <= end if pages.ends == "included" else at < end or not pieces:
        number += 1
        after = _moved(start, step, number)
        if after is None:
            stop = end
        else:
            stop = min(after - smallest, end) if pages.ends == "included" else min(after, end)
        first, last = _write(at, shape, start_text), _write(stop, shape, start_text)
        pieces.append((first, last, first if first == last else f"{first} to {last}"))
        if len(pieces) > min(pages.most, MAX_PAGES):
            break
        if after is None:
            break
        at = after
    return pieces


def _moved(start: datetime, step: Duration, times: int) -> datetime | None:
    """The start of a later piece; `None` beyond the year 9999."""
    # Counted from the start each time, so that months keep their day.
    whole = Duration(step.months * times, step.days * times, 0)
    try:
        day = shift_date(start.date(), whole)
        return datetime.combine(day, start.timetz()) + timedelta(seconds=step.seconds * times)
    except (ValueError, OverflowError):
        return None


def _shape(text: str) -> str | None:
    if re.fullmatch(r"\d{4}-\d\d-\d\d", text):
        return "date"
    if re.fullmatch(r"(19|20)\d{6}", text):
        return "plain date"
    if re.fullmatch(r"\d{9,10}", text):
        return "seconds"
    if re.fullmatch(r"\d{12,13}", text):
        return "milliseconds"
    return "moment" if re.match(r"\d{4}-\d\d-\d\d[T ]\d\d:\d\d", text) else None


def _read(text: str, shape: str) -> datetime:
    try:
        if shape == "seconds":
            return datetime.fromtimestamp(int(text), UTC)
        if shape == "milliseconds":
            return datetime.fromtimestamp(int(text) / 1000, UTC)
        if shape == "moment":
            return datetime.fromisoformat(text)
        return datetime.strptime(text, _SHAPES[shape])
    except (ValueError, OverflowError) as error:
        raise _unfit(f"“{text}” is not a date.", "Correct the question's range.") from error


def _write(moment: datetime, shape: str, like: str) -> str:
    if shape in _SHAPES:
        text = moment.date().isoformat()
        return text if shape == "date" else text.replace("-", "")
    if shape == "seconds":
        return str(int(moment.timestamp()))
    if shape == "milliseconds":
        return str(int(moment.timestamp() * 1000))
    text = moment.isoformat(timespec="auto" if "." in like else "seconds" if like.count(":") > 1 else "minutes")
    text = text.replace("+00:00", "Z") if like.endswith("Z") else text
    return text if "T" in like else text.replace("T", " ")


def _unfit(what: str, do: str) -> Exception:
    return fail("pages-unfit", what, where="turn pages", do=do)


WAY = Way(
    key="dates",
    model=DatePagination,
    label="A range of dates, window by window",
    fields=(
        FormField("start", "Parameter with the first date", required=True),
        FormField("end", "Parameter with the last date", required=True),
        AT,
        FormField("step", "Length of a window (ISO 8601)", "duration", "P7D", required=True),
        FormField(
            "ends",
            "What the API gives for a range",
            options=(
                Option("included", "includes its last date"),
                Option("excluded", "ends before its last date"),
            ),
        ),
    ),
    phrase="windows of {step} from {start} to {end}",
    until=(("", "the range is over"),),
    paginate=by_dates,
    can_skip=True,
    plans_ahead=True,
)
