"""Spec files as text: YAML or JSON in, checked against the schema, errors with their line."""

from __future__ import annotations

from typing import Any, Literal

import yaml
from pydantic import ValidationError

from ..errors import BadSpec
from .documents import Form, Loader, written
from .spec import Recipient, Spec

FORM = Form(
    Spec,
    BadSpec,
    "a spec",
    "id",
    "docs/spec.schema.json",
    "docs/properties.md for properties and units",
)


def schema() -> dict[str, Any]:
    """Give the JSON Schema (2020-12) of a spec file."""
    return FORM.schema()


def parse(text: str, name: str) -> Spec:
    """Read a spec from YAML (of which JSON is a part); raises as `Form.parse`: BadSpec."""
    return FORM.parse(text, name)


def parse_document(document: dict[str, Any], name: str) -> Spec:
    """Read a spec from plain data; raises as `Form.parse_document`: BadSpec."""
    return FORM.parse_document(document, name)


def same(one: dict[str, Any], other: dict[str, Any]) -> bool:
    """Say whether two documents say the same but for their version."""
    left, right = ({k: v for k, v in d.items() if k != "version"} for d in (one, other))
    return left == right


def dump(spec: Spec, form: Literal["yaml", "json"] = "yaml") -> str:
    """Write a spec as a file that `parse` reads back to the same; what is as usual is left out."""
    return written(document_of(spec), form)


def document_of(spec: Spec) -> dict[str, Any]:
    """Give a spec as plain data, without what is as usual."""
    made = spec.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    head = {
        "id": spec.id,
        "version": spec.version,
        "recipient": spec.recipient,
        "title": spec.title,
        "status": spec.status,
    }
    return head | {k: v for k, v in made.items() if k not in head}


def parse_recipients(text: str, name: str) -> list[Recipient]:
    """Read the list of recipients.

    Raises:
        BadSpec: with the place and the cause.
    """
    try:
        return [Recipient.model_validate(row) for row in yaml.load(text, Loader)]
    except (yaml.YAMLError, ValidationError, TypeError, ValueError, RecursionError) as error:
        raise BadSpec(f"{name}: {error}", "Mend the list of recipients.") from None
