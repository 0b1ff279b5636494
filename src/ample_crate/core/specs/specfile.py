"""Spec files as text: YAML or JSON in, checked against the schema, errors with their line."""

from __future__ import annotations

import json
import re
from functools import lru_cache
from typing import Any, Literal

import yaml
from jsonschema import Draft202012Validator
from pydantic import ValidationError

from ..errors import BadSpec
from .spec import Recipient, Spec

LONGEST_FILE, LONGEST_MESSAGE = 200_000, 400


class Loader(yaml.SafeLoader):
    """Reads YAML without its numbers to base 60, which would turn 16:9 and 10:00:00:00 into
    integers, and without references.

    A few lines of references to references stand for more than any memory holds.
    """

    def compose_node(self, parent: Any, index: Any) -> Any:
        """Compose a node, unless it refers to another."""
        if self.check_event(yaml.events.AliasEvent):
            event: Any = self.peek_event()  # type: ignore[no-untyped-call]
            raise yaml.composer.ComposerError(
                None,
                None,
                f"'*{event.anchor}' refers to another part of the file, which specs do not",
                event.start_mark,
            )
        return super().compose_node(parent, index)


Loader.yaml_implicit_resolvers = {
    first: [
        (tag, pattern)
        for tag, pattern in found
        if tag
        not in {"tag:yaml.org,2002:int", "tag:yaml.org,2002:float", "tag:yaml.org,2002:timestamp"}
    ]
    for first, found in yaml.SafeLoader.yaml_implicit_resolvers.items()
}
Loader.add_implicit_resolver(
    "tag:yaml.org,2002:int", re.compile(r"[-+]?(?:0|[1-9][0-9_]*)$"), list("-+0123456789")
)
Loader.add_implicit_resolver(
    "tag:yaml.org,2002:float",
    re.compile(r"[-+]?(?:[0-9][0-9_]*)\.[0-9]*(?:[eE][-+]?[0-9]+)?$"),
    list("-+0123456789."),
)


def schema() -> dict[str, Any]:
    """Give the JSON Schema (2020-12) of a spec file."""
    made = Spec.model_json_schema(by_alias=True)
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **made}


def parse(text: str, name: str) -> Spec:
    """Read a spec from YAML (of which JSON is a part).

    Args:
        text: the file's text.
        name: its name, for messages.

    Raises:
        BadSpec: what is wrong, on which line, and what would be right.
    """
    if len(text) > LONGEST_FILE:
        raise BadSpec(
            f"{name} has {len(text)} characters; a spec has {LONGEST_FILE} at the most.",
            "Look whether this is the right file.",
        )
    try:
        document = yaml.load(text, Loader)  # safe: Loader is a SafeLoader
        nodes = yaml.compose(text, Loader)
    except yaml.YAMLError as error:
        mark = getattr(error, "problem_mark", None)
        line = f", line {mark.line + 1}" if mark else ""
        problem = getattr(error, "problem", "") or "it is not YAML"
        raise BadSpec(
            f"{name}{line}: {problem}.",
            "Mend the line; indentation and quotes are the usual causes.",
        ) from None
    except RecursionError:
        raise BadSpec(
            f"{name} is nested deeper than any spec.", "Look whether this is the right file."
        ) from None
    except ValueError as error:  # such as a number of more digits than Python reads
        raise BadSpec(f"{name}: {error}.", "Look whether this is the right file.") from None
    if not isinstance(document, dict):
        raise BadSpec(
            f"{name} is not a spec: it holds no table of names and values.", "Begin with 'id:'."
        )
    return parse_document(document, name, nodes)


def parse_document(document: dict[str, Any], name: str, nodes: yaml.Node | None = None) -> Spec:
    """Read a spec from plain data.

    Args:
        document: the data.
        name: its name, for messages.
        nodes: the same as YAML nodes, for line numbers; without them only the place is named.

    Raises:
        BadSpec: what is wrong, where, and what would be right.
    """
    problems = sorted(
        _validator().iter_errors(document), key=lambda e: (len(e.path) == 0, list(map(str, e.path)))
    )
    if problems:
        first = problems[0]
        raise BadSpec(
            _at(name, nodes, [*first.path, *_odd(first)[:1]], _clear(first)),
            "See docs/spec.schema.json for every name allowed.",
        )
    try:
        return Spec.model_validate(document)
    except ValidationError as error:
        detail = error.errors()[0]
        message = str(detail["msg"]).removeprefix("Value error, ")
        raise BadSpec(
            _at(name, nodes, list(detail["loc"]), message),
            "See docs/properties.md for properties and units.",
        ) from None


@lru_cache
def _validator() -> Draft202012Validator:
    return Draft202012Validator(schema())


def same(one: dict[str, Any], other: dict[str, Any]) -> bool:
    """Say whether two documents say the same but for their version."""
    left, right = ({k: v for k, v in d.items() if k != "version"} for d in (one, other))
    return left == right


def dump(spec: Spec, form: Literal["yaml", "json"] = "yaml") -> str:
    """Write a spec as a file that `parse` reads back to the same; what is as usual is left out."""
    document = document_of(spec)
    if form == "json":
        return json.dumps(document, indent=2, ensure_ascii=False) + "\n"
    return yaml.safe_dump(document, sort_keys=False, allow_unicode=True, width=110)


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


def _odd(problem: Any) -> list[str]:
    if problem.validator != "additionalProperties":
        return []
    return sorted(set(problem.instance) - set(problem.schema.get("properties", {})))


def _clear(problem: Any) -> str:
    odd = _odd(problem)
    if odd:
        return (
            f"'{odd[0]}' is not known here; known are "
            f"{', '.join(sorted(problem.schema['properties']))}"
        )
    message = str(problem.message)
    return message if len(message) <= LONGEST_MESSAGE else f"{message[:LONGEST_MESSAGE]}…"


def _at(name: str, node: yaml.Node | None, path: list[Any], message: str) -> str:
    where = ".".join(str(p) for p in path)
    if node is None:
        return f"{name}{f' ({where})' if where else ''}: {message.rstrip('.')}."
    line = node.start_mark.line + 1
    for key in path:
        if isinstance(node, yaml.MappingNode):
            pair = next(((k, v) for k, v in node.value if k.value == str(key)), None)
            if pair is None:
                break
            line, node = pair[0].start_mark.line + 1, pair[1]
        elif isinstance(node, yaml.SequenceNode) and isinstance(key, int) and key < len(node.value):
            node = node.value[key]
            line = node.start_mark.line + 1
        else:
            break
    return f"{name}, line {line}{f' ({where})' if where else ''}: {message.rstrip('.')}."


def parse_recipients(text: str, name: str) -> list[Recipient]:
    """Read the list of recipients.

    Raises:
        BadSpec: with the place and the cause.
    """
    try:
        return [Recipient.model_validate(row) for row in yaml.load(text, Loader)]
    except (yaml.YAMLError, ValidationError, TypeError, ValueError, RecursionError) as error:
        raise BadSpec(f"{name}: {error}", "Mend the list of recipients.") from None
