"""The functions that an expression may use: the published list."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Result = Literal["number", "text", "yes/no", "as given"]


@dataclass(frozen=True, slots=True)
class SqlFunction:
    """A function.

    Attributes:
        name: as it is written, in lower case.
        least, most: how many values it takes; `most` of ``None`` is any number.
        takes: the names of what it takes, for people.
        does: what it gives, in one sentence.
        group: under which heading it is listed.
        numbers: whether it takes numbers alone.
        result: what it gives.
        ours: whether Tin Bucket brings it; SQLite has the others.
    """

    name: str
    least: int
    most: int | None
    takes: str
    does: str
    group: str
    numbers: bool = False
    result: Result = "as given"
    ours: bool = False


_NUMBER, _TEXT, _DATE, _CHOICE = "Numbers", "Texts", "Dates and times", "Choices"

FUNCTIONS: dict[str, SqlFunction] = {
    one.name: one
    for one in (
        SqlFunction("abs", 1, 1, "number", "The number without its sign.", _NUMBER, True, "number"),
        SqlFunction("ceil", 1, 1, "number", "The next whole number up.", _NUMBER, True, "number"),
        SqlFunction("floor", 1, 1, "number", "The next whole number down.", _NUMBER, True, "number"),
        SqlFunction("round", 1, 2, "number, digits", "The number with so many decimals.", _NUMBER, True, "number"),
        SqlFunction("sqrt", 1, 1, "number", "The square root.", _NUMBER, True, "number"),
        SqlFunction("power", 2, 2, "number, exponent", "The number to a power.", _NUMBER, True, "number"),
        SqlFunction("exp", 1, 1, "number", "e to a power.", _NUMBER, True, "number"),
        SqlFunction("ln", 1, 1, "number", "The natural logarithm.", _NUMBER, True, "number"),
        SqlFunction("log10", 1, 1, "number", "The logarithm to base 10.", _NUMBER, True, "number"),
        SqlFunction("sign", 1, 1, "number", "-1, 0 or 1.", _NUMBER, True, "number"),
        SqlFunction("max", 2, None, "value, value, …", "The highest of some values of one row.", _NUMBER),
        SqlFunction("min", 2, None, "value, value, …", "The lowest of some values of one row.", _NUMBER),
        SqlFunction("length", 1, 1, "text", "How many characters.", _TEXT, result="number"),
        SqlFunction("lower", 1, 1, "text", "In lower case, A to Z alone.", _TEXT, result="text"),
        SqlFunction("upper", 1, 1, "text", "In upper case, a to z alone.", _TEXT, result="text"),
        SqlFunction("trim", 1, 2, "text, characters", "Without spaces at both ends.", _TEXT, result="text"),
        SqlFunction("ltrim", 1, 2, "text, characters", "Without spaces at the beginning.", _TEXT, result="text"),
        SqlFunction("rtrim", 1, 2, "text, characters", "Without spaces at the end.", _TEXT, result="text"),
        SqlFunction("substr", 2, 3, "text, from, length", "A part of a text; the first is 1.", _TEXT, result="text"),
        SqlFunction("replace", 3, 3, "text, old, new", "With one text in another's place.", _TEXT, result="text"),
        SqlFunction("instr", 2, 2, "text, part", "Where a part begins; 0 if nowhere.", _TEXT, result="number"),
        SqlFunction("printf", 1, None, "pattern, value, …", "A text by a pattern: '%.2f'.", _TEXT, result="text"),
        SqlFunction("json_extract", 2, 2, "JSON, place", "A value in JSON text, such as '$.name'.", _TEXT),
        SqlFunction("json_valid", 1, 1, "text", "1 where a text is JSON.", _TEXT, result="yes/no"),
        SqlFunction("json_array_length", 1, 2, "JSON, place", "How many items a list has.", _TEXT, result="number"),
        SqlFunction(
            "matches", 2, 2, "text, pattern", "Whether a pattern is found in a text.", _TEXT, result="yes/no", ours=True
        ),
        SqlFunction(
            "match_of", 2, 3, "text, pattern, group", "What a pattern finds in a text.", _TEXT, result="text", ours=True
        ),
        SqlFunction("date", 1, None, "date, change, …", "The day: date(d, '+7 days').", _DATE, result="text"),
        SqlFunction("time", 1, None, "date, change, …", "The time of day.", _DATE, result="text"),
        SqlFunction("datetime", 1, None, "date, change, …", "Day and time, in UTC.", _DATE, result="text"),
        SqlFunction("julianday", 1, None, "date", "The day as a number, with fractions.", _DATE, result="number"),
        SqlFunction("unixepoch", 1, None, "date", "Seconds since 1970.", _DATE, result="number"),
        SqlFunction("strftime", 2, None, "pattern, date", "By a pattern: '%Y-%m'.", _DATE, result="text"),
        SqlFunction(
            "local_time", 2, 3, "date, zone, zone of dates without one", "The time in a time zone.", _DATE,
            result="text", ours=True,
        ),
        SqlFunction("coalesce", 2, None, "value, value, …", "The first value that is there.", _CHOICE),
        SqlFunction("ifnull", 2, 2, "value, other", "The other one where there is no value.", _CHOICE),
        SqlFunction("nullif", 2, 2, "value, other", "Empty where both are the same.", _CHOICE),
        SqlFunction("iif", 3, 3, "condition, value, other", "One or the other value.", _CHOICE),
        SqlFunction("typeof", 1, 1, "value", "'integer', 'real', 'text' or 'null'.", _CHOICE, result="text"),
    )
}  # fmt: skip

# What SQLite's own operators and this program's lines call beside them.
OUR_INNER_FUNCTIONS = ("median", "joined_values", "parts_by_pattern", "parts_by_length", "read_as", "as_number")
"""Those of Tin Bucket that lines write and no expression does."""
INNER_FUNCTIONS = frozenset(
    {
        "like", "glob", "regexp", "->", "->>", "count", "sum", "avg", "total", "min", "max", "group_concat", "median",
        "row_number", "rank", "dense_rank", "lag", "lead", "first_value", "last_value", "json_each", "json_quote",
        "json_array", "json_group_array", "parts_by_pattern", "parts_by_length", "joined_values", "read_as",
        "as_number", "ntile", "cast",
    }
)  # fmt: skip
