"""The description of JSON endpoints in OpenAPI 3.1, the same on all hosts."""

from __future__ import annotations

import json
from typing import Any

from ...core.brief import Brief
from ...core.fields import Field
from ...core.parts.pages import Endpoint
from ...core.parts.records import Record

_SCHEMAS: dict[str, dict[str, Any]] = {
    "integer": {"type": "integer"},
    "number": {"type": "number"},
    "decimal": {"type": "string", "format": "decimal"},
    "yes/no": {"type": "boolean"},
    "date": {"type": "string", "format": "date"},
    "time": {"type": "string", "format": "time"},
    "datetime": {"type": "string", "format": "date-time"},
    "duration": {"type": "string", "format": "duration"},
    "email": {"type": "string", "format": "email"},
    "link": {"type": "string", "format": "uri"},
    "uuid": {"type": "string", "format": "uuid"},
    "json": {},
    "one": {"type": "integer"},
    "many": {"type": "array", "items": {"type": "integer"}},
}


def described(brief: Brief, ending: str = "", below: str = "", protects: bool = False, error: str = "error") -> str:
    """Return the description of the endpoints as an OpenAPI 3.1 document.

    ending   -- what the host puts behind each address: a slash, or nothing; below -- what it puts before it
    protects -- whether a record that others point at is refused to be deleted, with 409
    error    -- the key under which an answer says what is wrong
    """
    paths: dict[str, Any] = {}
    schemas: dict[str, Any] = {}
    for endpoint in brief.endpoints:
        record = brief.record(endpoint.shows)
        assert record is not None
        name = record.name.camel
        schemas[name] = _schema(record)
        reference = {"$ref": f"#/components/schemas/{name}"}
        whole = f"{below}/{endpoint.path.strip('/')}{ending}" if endpoint.path != "/" else f"{below}/"
        many: dict[str, Any] = {}
        one: dict[str, Any] = {"parameters": [_ID]}
        if "get" in endpoint.methods:
            listing = {"type": "object", "properties": {"items": {"type": "array", "items": reference}}}
            listing["required"] = ["items"]
            many["get"] = _operation(f"All {record.plural.title}", endpoint, {"200": ("the records", listing)})
            one["get"] = _operation(f"One {record.name.title}", endpoint, {"200": ("the record", reference)}, True)
        if "post" in endpoint.methods:
            many["post"] = _operation(f"Add one {record.name.title}", endpoint, {"201": ("the new record", reference)})
            many["post"]["requestBody"] = _body(reference)
        if "put" in endpoint.methods:
            one["put"] = _operation(
                f"Change one {record.name.title}", endpoint, {"200": ("the record", reference)}, True
            )
            one["put"]["requestBody"] = _body(reference)
        if "delete" in endpoint.methods:
            one["delete"] = _operation(f"Delete one {record.name.title}", endpoint, {"204": ("it is gone", None)}, True)
            if protects:
                one["delete"]["responses"]["409"] = _wrong("other records still point at it")
        paths[whole] = many
        paths[f"{whole.rstrip('/')}/{{id}}{ending}"] = one
    document = {
        "openapi": "3.1.0",
        "info": {"title": brief.name.title, "version": brief.version}
        | ({"summary": brief.summary} if brief.summary else {}),
        "paths": {path: held for path, held in paths.items() if held},
        "components": {"schemas": {**schemas, "Error": _error(error)}},
    }
    return json.dumps(document, indent=2, ensure_ascii=False) + "\n"


_ID = {"name": "id", "in": "path", "required": True, "schema": {"type": "integer"}}


def _error(key: str) -> dict[str, Any]:
    return {"type": "object", "properties": {key: {"type": "string"}}, "required": [key]}


def _body(schema: dict[str, Any]) -> dict[str, Any]:
    return {"required": True, "content": {"application/json": {"schema": schema}}}


def _operation(
    summary: str, endpoint: Endpoint, answers: dict[str, tuple[str, Any]], one: bool = False
) -> dict[str, Any]:
    told: dict[str, Any] = {}
    for status, (text, schema) in answers.items():
        told[status] = {"description": text}
        if schema is not None:
            told[status]["content"] = {"application/json": {"schema": schema}}
    if endpoint.access != "anyone" or "201" in answers or "204" in answers:
        told["401"] = _wrong("nobody is signed in")
        told["403"] = _wrong("the right is missing")
    if one:
        told["404"] = _wrong("there is no such record")
    return {"summary": summary, "responses": told}


def _wrong(text: str) -> dict[str, Any]:
    schema = {"$ref": "#/components/schemas/Error"}
    return {"description": text, "content": {"application/json": {"schema": schema}}}


def _schema(record: Record) -> dict[str, Any]:
    properties: dict[str, Any] = {"id": {"type": "integer", "readOnly": True}}
    for field in record.fields:
        properties[field.name] = _field_schema(field)
    needed = ["id", *(field.name for field in record.fields)]
    return {"type": "object", "title": record.name.title, "properties": properties, "required": needed}


def _field_schema(field: Field) -> dict[str, Any]:
    schema = dict(_SCHEMAS.get(field.type, {"type": "string"}))
    if field.choices:
        schema["enum"] = [choice.value for choice in field.choices] + ([""] if field.optional else [])
    if field.length:
        schema["maxLength"] = field.length
    if field.optional and "type" in schema and schema["type"] not in ("string", "array"):
        schema["type"] = [schema["type"], "null"]
    elif field.optional and ("format" in schema or field.unique) and field.type not in ("email", "link"):
        schema["type"] = ["string", "null"]
    schema["title"] = field.label
    return schema | ({"description": field.help} if field.help else {})
