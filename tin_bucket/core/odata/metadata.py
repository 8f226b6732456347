"""The description of an OData service, as XML (CSDL XML 4.01) and as JSON (CSDL JSON 4.01)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from xml.sax.saxutils import escape, quoteattr

from .entity import ROW, EntityType, Property

NAMESPACE = "TinBucket"
_CORE = "https://oasis-tcs.github.io/odata-vocabularies/vocabularies/Org.OData.Core.V1"


def _nullable(entity: EntityType, one: Property) -> bool:
    return one.name not in entity.key


def _description(one: Property) -> str:
    column = one.column
    told = column.name if not column.unit else f"{column.name}, {column.unit}"
    return f"{told}: {column.note}" if column.note else told


def metadata_xml(entities: Sequence[EntityType], version: str) -> str:
    """``$metadata`` as XML.

    Args:
        version: of OData, 4.0 or 4.01.
    """
    out = [
        '<?xml version="1.0" encoding="utf-8"?>',
        f'<edmx:Edmx Version="{version}" xmlns:edmx="http://docs.oasis-open.org/odata/ns/edmx">',
        f'<edmx:Reference Uri="{_CORE}.xml">',
        '<edmx:Include Namespace="Org.OData.Core.V1" Alias="Core"/></edmx:Reference>',
        f'<edmx:DataServices><Schema Namespace="{NAMESPACE}" xmlns="http://docs.oasis-open.org/odata/ns/edm">',
    ]
    for entity in entities:
        keys = "".join(f"<PropertyRef Name={quoteattr(name)}/>" for name in entity.key)
        out.append(f"<EntityType Name={quoteattr(entity.name)}><Key>{keys}</Key>")
        if entity.key == (ROW,):
            out.append(f'<Property Name="{ROW}" Type="Edm.Int64" Nullable="false"/>')
        for one in entity.properties:
            nullable = "" if _nullable(entity, one) else ' Nullable="false"'
            precision = ' Precision="6"' if one.type == "Edm.DateTimeOffset" else ""
            told = escape(_description(one))
            out.append(
                f'<Property Name={quoteattr(one.name)} Type="{one.type}"{nullable}{precision}>'
                f'<Annotation Term="Core.Description"><String>{told}</String></Annotation></Property>'
            )
        out.append("</EntityType>")
    out.append('<EntityContainer Name="Tables">')
    for entity in entities:
        out.append(f'<EntitySet Name={quoteattr(entity.name)} EntityType="{NAMESPACE}.{escape(entity.name)}"/>')
    return "".join([*out, "</EntityContainer></Schema></edmx:DataServices></edmx:Edmx>"])


def metadata_json(entities: Sequence[EntityType], version: str) -> dict[str, Any]:
    """``$metadata`` as JSON."""
    schema: dict[str, Any] = {}
    for entity in entities:
        made: dict[str, Any] = {"$Kind": "EntityType", "$Key": list(entity.key)}
        if entity.key == (ROW,):
            made[ROW] = {"$Type": "Edm.Int64"}
        for one in entity.properties:
            described: dict[str, Any] = {} if one.type == "Edm.String" else {"$Type": one.type}
            if _nullable(entity, one):
                described["$Nullable"] = True
            if one.type == "Edm.DateTimeOffset":
                described["$Precision"] = 6
            made[one.name] = described | {"@Core.Description": _description(one)}
        schema[entity.name] = made
    container: dict[str, Any] = {"$Kind": "EntityContainer"}
    for entity in entities:
        container[entity.name] = {"$Collection": True, "$Type": f"{NAMESPACE}.{entity.name}"}
    schema["Tables"] = container
    return {
        "$Version": version,
        "$EntityContainer": f"{NAMESPACE}.Tables",
        "$Reference": {f"{_CORE}.json": {"$Include": [{"$Namespace": "Org.OData.Core.V1", "$Alias": "Core"}]}},
        NAMESPACE: schema,
    }
