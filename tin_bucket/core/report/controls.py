"""What a reader of a report can choose, as a form that works without a script (HTML Living Standard, section 4.10)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from .model import AGAINST_WORDS, Report
from .seen import ChoiceSeen
from .text import harmless


def controls_html(report: Report, choices: Iterable[ChoiceSeen], days: Sequence[str], as_of: str, against: str) -> str:
    """The form of a report.

    Args:
        choices: the choices of the report, with what is chosen.
        days: the days that it can be read as of, ISO 8601.
        as_of: the day that is chosen; empty for the newest.
        against: the day that is chosen to hold it against, or ``none``; empty for the rule of the report.
    """
    dated = [(one, one) for one in days]
    rule = AGAINST_WORDS[report.against]
    parts = [
        _select("as-of", "as of", [("", "the newest"), *dated], as_of),
        _select("against", "against", [("", rule), ("none", "nothing"), *dated], against),
    ]
    for one in choices:
        name = f"choice {one.name}"
        if one.how == "is":
            parts.append(_select(name, one.name, [("", "all"), *((text, text) for text in one.options)], one.value))
        else:
            kind = "date" if one.kind.startswith("date") else "text"
            parts.append(
                f'<label>{harmless(one.name)} <input type="{kind}" name="{harmless(name)}"'
                f' value="{harmless(one.value)}" placeholder="any"></label>'
            )
    return f'<form class="choices not-printed" method="get">{"".join(parts)}<button>Show</button></form>'


def _select(name: str, label: str, options: Iterable[tuple[str, str]], value: str) -> str:
    told = "".join(
        f'<option value="{harmless(one)}"{" selected" if one == value else ""}>{harmless(words)}</option>'
        for one, words in options
    )
    return f'<label>{harmless(label)} <select name="{harmless(name)}">{told}</select></label>'
