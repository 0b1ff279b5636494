"""Documents that people write: YAML or JSON in, checked against their schema, errors with their
line.
"""

from __future__ import annotations

import json
import re
from functools import cached_property
from typing import Any, Generic, Literal, TypeVar

import yaml
from jsonschema import Draft202012Validator
from pydantic import BaseModel, ValidationError

from ..errors import AmpleError

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
                f"'*{event.anchor}' refers to another part of the file, which is not done here",
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


Model = TypeVar("Model", bound=BaseModel)


class Form(Generic[Model]):
    """A kind of document.

    Args:
        model: what it is read into.
        error: that is raised where it is not one.
        what: what it is called: "a spec".
        begins: the name that it begins with.
        names, values: where its names, and its values, are told of.
    """

    def __init__(
        self,
        model: type[Model],
        error: type[AmpleError],
        what: str,
        begins: str,
        names: str,
        values: str,
    ) -> None:
        self._model, self._error, self._what = model, error, what
        self._begins, self._names, self._values = begins, names, values

    def schema(self) -> dict[str, Any]:
        """Give the JSON Schema (2020-12)."""
        made = self._model.model_json_schema(by_alias=True)
        return {"$schema": "https://json-schema.org/draft/2020-12/schema", **made}

    @cached_property
    def _validator(self) -> Draft202012Validator:
        return Draft202012Validator(self.schema())

    def parse(self, text: str, name: str) -> Model:
        """Read a document from YAML (of which JSON is a part).

        Args:
            text: the file's text.
            name: its name, for messages.

        Raises:
            AmpleError: what is wrong, on which line, and what would be right.
        """
        right = "Look whether this is the right file."
        if len(text) > LONGEST_FILE:
            raise self._error(
                f"{name} has {len(text)} characters; {self._what} has {LONGEST_FILE} at the most.",
                right,
            )
        try:
            document = yaml.load(text, Loader)  # safe: Loader is a SafeLoader
            nodes = yaml.compose(text, Loader)
        except yaml.YAMLError as error:
            mark = getattr(error, "problem_mark", None)
            line = f", line {mark.line + 1}" if mark else ""
            problem = getattr(error, "problem", "") or "it is not YAML"
            raise self._error(
                f"{name}{line}: {problem}.",
                "Mend the line; indentation and quotes are the usual causes.",
            ) from None
        except RecursionError:
            raise self._error(f"{name} is nested deeper than {self._what} is.", right) from None
        except ValueError as error:  # such as a number of more digits than Python reads
            raise self._error(f"{name}: {error}.", right) from None
        if not isinstance(document, dict):
            raise self._error(
                f"{name} is not {self._what}: it holds no table of names and values.",
                f"Begin with '{self._begins}:'.",
            )
        return self.parse_document(document, name, nodes)

    def parse_document(
        self, document: dict[str, Any], name: str, nodes: yaml.Node | None = None
    ) -> Model:
        """Read a document from plain data.

        Args:
            document: the data.
            name: its name, for messages.
            nodes: the same as YAML nodes, for line numbers; without them only the place is named.

        Raises:
            AmpleError: what is wrong, where, and what would be right.
        """
        problems = sorted(
            self._validator.iter_errors(document),
            key=lambda e: (len(e.path) == 0, list(map(str, e.path))),
        )
        if problems:
            first = problems[0]
            raise self._error(
                _at(name, nodes, [*first.path, *_odd(first)[:1]], _clear(first)),
                f"See {self._names} for every name allowed.",
            )
        try:
            return self._model.model_validate(document)
        except ValidationError as error:
            detail = error.errors()[0]
            message = str(detail["msg"]).removeprefix("Value error, ")
            raise self._error(
                _at(name, nodes, list(detail["loc"]), message), f"See {self._values}."
            ) from None


def written(document: dict[str, Any], form: Literal["yaml", "json"] = "yaml") -> str:
    """Write plain data as a file."""
    if form == "json":
        return json.dumps(document, indent=2, ensure_ascii=False) + "\n"
    return yaml.safe_dump(document, sort_keys=False, allow_unicode=True, width=110)


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
