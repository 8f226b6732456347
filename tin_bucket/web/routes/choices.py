"""The registries: what the browser draws its forms from, so that it repeats no rule of the server."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from fastapi import APIRouter

from tin_bucket.core.alike.registry import ALIKE
from tin_bucket.core.auth.registry import PLACEMENTS, SOURCES
from tin_bucket.core.chart.registry import CHARTS
from tin_bucket.core.choice import Choice
from tin_bucket.core.columns.kind_registry import KINDS
from tin_bucket.core.columns.reduction_registry import REDUCTIONS
from tin_bucket.core.hand_over.registry import FEEDS
from tin_bucket.core.notices.causes.registry import CAUSES
from tin_bucket.core.notices.channels.registry import CHANNELS
from tin_bucket.core.pagination.listing import LISTING_WAYS
from tin_bucket.core.pagination.registry import WAYS
from tin_bucket.core.report.condition import REPORT_TESTS
from tin_bucket.core.report.exhibits.registry import EXHIBITS
from tin_bucket.core.report.figures.registry import REPORT_FIGURES
from tin_bucket.core.report.model import AGAINST_WORDS
from tin_bucket.core.request.parameters.kinds import DATE_FORMATS, PARAMETER_KINDS
from tin_bucket.core.work_out.conditions import TESTS
from tin_bucket.core.work_out.expression.functions import FUNCTIONS
from tin_bucket.core.work_out.figures import FIGURES
from tin_bucket.core.work_out.lines.period import PERIODS
from tin_bucket.core.work_out.registry import LINES
from tin_bucket.feeds.formats.registry import ALL as FORMATS
from tin_bucket.web.models.choices import (
    AlikeInfo,
    ChoiceInfo,
    ChoicesOut,
    FeedKindInfo,
    FieldInfo,
    FormatInfo,
    KindInfo,
    LineKindInfo,
    OptionInfo,
    ParameterKindInfo,
    PhraseInfo,
    PlacementInfo,
    ReductionInfo,
    SourceInfo,
    WayInfo,
)
from tin_bucket.web.models.work_out import FigureInfo, FunctionInfo, TestInfo

router = APIRouter(prefix="/api")


@router.get("/choices")
def choices() -> ChoicesOut:
    """All that can be chosen, with the fields of its forms."""
    return ChoicesOut(
        pagination=[
            WayInfo(
                **_common(way),
                until=[PhraseInfo(member=member, phrase=phrase) for member, phrase in way.until],
                lists=way in LISTING_WAYS,
            )
            for way in WAYS
        ],
        placements=[
            PlacementInfo(
                **_common(one),
                way=one.way,
                shown=one.shown,
                for_tokens=one.for_tokens,
                secret_fields=[] if "field" in one.model.model_fields else one.model().secret_fields(),
            )
            for one in PLACEMENTS
        ],
        sources=[
            SourceInfo(
                **_common(one),
                stored=one.model.model_construct().stored,
                pasted=one.model.model_construct().pasted,
                placement=one.placement,
            )
            for one in SOURCES
        ],
        charts=[ChoiceInfo(**_common(one)) for one in CHARTS],
        report_figures=[ChoiceInfo(**_common(one)) for one in REPORT_FIGURES],
        exhibits=[ChoiceInfo(**_common(one)) for one in EXHIBITS],
        causes=[ChoiceInfo(**_common(one)) for one in CAUSES],
        channels=[ChoiceInfo(**_common(one)) for one in CHANNELS],
        against=[OptionInfo(value=key, label=words, phrase="") for key, words in AGAINST_WORDS.items()],
        report_tests=[OptionInfo(value=one.key, label=one.key, phrase="") for one in REPORT_TESTS],
        alike=[AlikeInfo(**_common(one), ignores=one.model.ignores) for one in ALIKE],
        reductions=[ReductionInfo(**_common(one), numeric=one.model.model_construct().numeric) for one in REDUCTIONS],
        kinds=[
            KindInfo(
                name=kind.name,
                label=kind.label,
                numeric=kind.numeric,
                temporal=kind.temporal,
                read_with=list(kind.read_with),
            )
            for kind in KINDS
        ],
        parameters=[
            ParameterKindInfo(
                **_common(kind),
                holds=kind.holds,
                typed_as=kind.typed_as,
                anchors=list(kind.anchors),
                units=[OptionInfo(**asdict(unit)) for unit in kind.units],
            )
            for kind in PARAMETER_KINDS
        ],
        date_formats=[OptionInfo(**asdict(one)) for one in DATE_FORMATS],
        lines=[
            LineKindInfo(
                **_common(one), hint=one.hint, finds=list(one.finds), heading=one.heading, of=one.of, starts=one.starts
            )
            for one in LINES
        ],
        tests=[TestInfo(key=one.key, words=one.words, takes=one.takes) for one in TESTS],
        figures=[
            FigureInfo(
                key=one.key,
                label=one.label,
                words=one.words,
                column=one.column,
                numbers=one.numbers,
                over_time=one.over_time,
            )
            for one in FIGURES
        ],
        periods=[OptionInfo(**asdict(one)) for one in PERIODS],
        functions=[
            FunctionInfo(name=one.name, takes=one.takes, does=one.does, group=one.group, ours=one.ours)
            for one in FUNCTIONS.values()
        ],
        feeds=[FeedKindInfo(**_common(one), hint=one.hint) for one in FEEDS],
        formats=[FormatInfo(ending=one.ending, label=one.label, takes=list(one.takes)) for one in FORMATS],
    )


def _common(choice: Choice[Any]) -> dict[str, Any]:
    fields = [FieldInfo(**asdict(field)) for field in choice.fields]
    return {
        "key": choice.key,
        "label": choice.label,
        "fields": fields,
        "defaults": choice.defaults(),
        "phrase": choice.phrase,
    }
