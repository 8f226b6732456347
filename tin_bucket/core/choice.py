"""Choices: one entry for each of the alternatives that a brief or a service can name, with all that belongs to it.

A registry is a tuple of entries. Everything that depends on the alternative is in its entry: its model, its code, its
label, the fields of its form and its phrase in a sentence. So a new alternative is one file and one line
in a registry. The server serves the registries; the browser draws its forms from them.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Annotated, Any, Generic, Literal, TypeVar, Union

from pydantic import BaseModel, Field

M = TypeVar("M", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class Option:
    """One value of a field that offers some.

    Attributes:
        value: what the model takes.
        label: what the form says.
        phrase: what it adds to a sentence; often nothing.
    """

    value: str
    label: str
    phrase: str = ""


FieldKind = Literal[
    "place", "code", "text", "number", "duration", "minutes", "names", "json", "yes", "column", "columns",
    "expression", "value", "conditions", "cases", "changes", "order", "groups", "figures", "table", "tables", "match",
    "bring", "unit", "zone", "numbers", "dates", "times", "number column", "number columns", "references",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class FormField:
    """A field of a form.

    Attributes:
        name: the member of the model.
        label: what stands above it.
        kind: how it is typed: ``place`` is a JSONPath or the name of a parameter, ``code`` any other text that is read
            letter by letter, ``duration`` an ISO 8601 duration, ``minutes`` one that is typed as minutes, ``names`` a
            list by commas, ``json`` a JSON body; ``column`` and ``columns`` are chosen among those of the table,
            ``number column`` and ``number columns`` among those of numbers, and the others are lists of rows that are
            filled in, each as its model says.
        placeholder: an example, or what holds while it is empty.
        required: whether it must hold something.
        start: what the form begins with where the model has no default.
        least: the lowest number.
        options: the values to choose from.
        wide: whether it takes the form's whole width.
        many: whether it is shown only where several entries of its kind stand together.
        with_field, with_values: another member, and the values of it for which the field matters; one that begins with
            a full stop is the ending of a name, and ``*`` is any value. It always matters where there are none.
        more: whether it is shown only where more is asked for.
    """

    name: str
    label: str
    kind: FieldKind = "place"
    placeholder: str = ""
    required: bool = False
    start: str = ""
    least: int | None = None
    options: tuple[Option, ...] = ()
    wide: bool = False
    many: bool = False
    with_field: str = ""
    with_values: tuple[str, ...] = ()
    more: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Choice(Generic[M]):
    """An entry of a registry.

    Attributes:
        key: the value of the discriminator, such as ``number``.
        model: its settings as a part of a document.
        label: what it is called where one is chosen.
        fields: the fields of its form, beside those that all of its kind have.
        phrase: what it is in a sentence; ``{name}`` stands for a member of the model.
    """

    key: str
    model: type[M]
    label: str
    fields: tuple[FormField, ...] = ()
    phrase: str = ""

    def defaults(self) -> dict[str, Any]:
        """What a form begins with: the model's defaults; where there is none, the field's start."""
        starts = {field.name: field.start for field in self.fields}
        values: dict[str, Any] = {}
        for name, info in self.model.model_fields.items():
            key = info.alias or name
            values[key] = starts.get(key, "") if info.is_required() else info.get_default(call_default_factory=True)
        # Defaults may be models themselves.
        return {
            name: value.model_dump(mode="json") if isinstance(value, BaseModel) else value
            for name, value in values.items()
        }


def union_of(tag: str, choices: Iterable[Choice[Any]]) -> Any:
    """The type of a field that is one of a registry's models, discriminated by a member named `tag`."""
    models = tuple(dict.fromkeys(choice.model for choice in choices))
    return Annotated[Union[models], Field(discriminator=tag)]  # noqa: UP007 the models are known when it runs


def filled(template: str, values: BaseModel, fields: Sequence[FormField] = ()) -> str:
    """A phrase with the model's values in it; an option gives its phrase."""
    told: dict[str, Any] = {}
    options = {field.name: {option.value: option.phrase for option in field.options} for field in fields}
    for name in type(values).model_fields:
        value = getattr(values, name)
        told[name] = options[name].get(value, value) if options.get(name) and isinstance(value, str) else value
    return template.format(**told)
