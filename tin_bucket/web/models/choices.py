"""The registries, as the browser's forms need them."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from .work_out import FigureInfo, FunctionInfo, TestInfo


class OptionInfo(BaseModel):
    value: str
    label: str
    phrase: str = Field(description="what it adds to a sentence")


class FieldInfo(BaseModel):
    name: str
    label: str
    kind: str = Field(description="place, code, text, number, duration, minutes, names or json")
    placeholder: str
    required: bool
    least: int | None
    options: list[OptionInfo]
    wide: bool
    many: bool
    with_field: str = Field(description="another member, on whose value it hangs whether the field matters")
    with_values: list[str] = Field(description="those values; one that begins with a full stop ends a name")
    more: bool = Field(description="whether it is shown only where more is asked for")


class PhraseInfo(BaseModel):
    """A phrase that holds when a member is set; one without a member always holds."""

    member: str
    phrase: str


class ChoiceInfo(BaseModel):
    """An entry of a registry."""

    key: str
    label: str
    fields: list[FieldInfo]
    defaults: dict[str, Any] = Field(description="what a form begins with")
    phrase: str = Field(description="what it is in a sentence; {name} stands for a member")


class WayInfo(ChoiceInfo):
    """A way to turn pages."""

    until: list[PhraseInfo] = Field(description="what ends it: the first that holds")
    lists: bool = Field(description="whether it can turn the pages of a list of ids")


class PlacementInfo(ChoiceInfo):
    """A place of a key."""

    way: str = Field(description="what it is called where a key is set up as a whole")
    shown: str = Field(description="how it stands on a call, masked")
    for_tokens: bool
    secret_fields: list[str] = Field(description="the fields of the secret that always go here")


class SourceInfo(ChoiceInfo):
    """A source of a key's secret."""

    stored: bool
    pasted: bool
    placement: str = Field(description="where its secret usually goes")


class AlikeInfo(ChoiceInfo):
    """A rule of what counts as the same where two tables are compared."""

    ignores: bool = Field(description="whether it leaves its columns out")


class ReductionInfo(ChoiceInfo):
    """A list reduction."""

    numeric: bool = Field(description="whether it is of numbers alone")


class KindInfo(BaseModel):
    """A column kind."""

    name: str
    label: str = Field(description="empty for one that is not offered")
    numeric: bool
    temporal: bool
    read_with: list[str]


class ParameterKindInfo(ChoiceInfo):
    """A kind of parameter."""

    holds: Literal["text", "whole number", "number", "yes/no"] = Field(description="what a value is in a document")
    typed_as: Literal["text", "date", "datetime-local", "month"] = Field(description="the type of its input")
    anchors: list[str] = Field(description="what a value that moves counts from; none where values do not move")
    units: list[OptionInfo] = Field(description="the steps by which it moves")


class LineKindInfo(ChoiceInfo):
    """A kind of work-out line."""

    hint: str
    finds: list[str] = Field(description="words under which people look for it")
    heading: str = Field(description="what it is called at a column's heading; empty where it is not offered there")
    of: Literal["any", "numbers", "texts", "dates"] = Field(description="for which columns it is offered there")
    starts: str = Field(description="the member that takes the column it is begun from")


class FeedKindInfo(ChoiceInfo):
    """A kind of feed."""

    hint: str


class FormatInfo(BaseModel):
    """A file format of an export."""

    ending: str
    label: str
    takes: list[str] = Field(description="the options of an export that matter to it")


class ChoicesOut(BaseModel):
    """Every registry that forms are drawn from."""

    pagination: list[WayInfo]
    placements: list[PlacementInfo]
    sources: list[SourceInfo]
    alike: list[AlikeInfo]
    charts: list[ChoiceInfo]
    report_figures: list[ChoiceInfo]
    exhibits: list[ChoiceInfo]
    causes: list[ChoiceInfo]
    channels: list[ChoiceInfo]
    report_tests: list[OptionInfo]
    against: list[OptionInfo]
    reductions: list[ReductionInfo]
    kinds: list[KindInfo]
    parameters: list[ParameterKindInfo]
    date_formats: list[OptionInfo]
    lines: list[LineKindInfo]
    tests: list[TestInfo]
    figures: list[FigureInfo]
    periods: list[OptionInfo]
    functions: list[FunctionInfo]
    formats: list[FormatInfo]
    feeds: list[FeedKindInfo]
