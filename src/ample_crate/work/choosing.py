"""Choosing values in the room that a crate's spec leaves."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from typing import Any

from ..core.errors import AmpleError
from ..core.facts.properties import lookup
from ..core.planning import programme
from ..core.planning.choices import require_effect
from ..core.planning.resolve import Resolver
from ..core.specs import naming
from ..core.specs.spec import Spec
from ..store import masters
from ..store.models import Deliverable
from .status import route_of, spec_of


def _require_effect(
    deliverable: Deliverable, spec: Spec, choices: Mapping[str, Any], key: str
) -> None:
    try:
        route = route_of(deliverable, spec, choices)
    except AmpleError:
        return  # what stands in the way of the whole route is said on the page
    require_effect(route, key, choices[key])


def check_choices(deliverable: Deliverable, choices: Mapping[str, Any]) -> None:
    """Make sure that choices lie in the room the crate's spec leaves.

    Raises:
        BadValue: one does not, with what the spec allows.
        Impossible: a framing that does not exist.
    """
    spec = spec_of(deliverable.crate)
    Resolver(spec, masters.known(deliverable.master), choices)
    if choices.get(programme.TRACKS):
        programme.tracks(masters.known(deliverable.master), str(choices[programme.TRACKS]))
    fields = {k.removeprefix("name."): str(v) for k, v in choices.items() if k.startswith("name.")}
    for key, value in fields.items():
        spec.delivery.pattern(numbered=key == naming.FRAME).fits(key, value)


def still_allowed(deliverable: Deliverable, choices: Mapping[str, Any]) -> dict[str, Any]:
    """Give choices without those that the crate's spec does not allow; alternatives count first,
    for they make the room.
    """
    kept: dict[str, Any] = {}
    for key in sorted(choices, key=lambda k: not k.startswith("either.")):
        with contextlib.suppress(AmpleError):
            check_choices(deliverable, kept | {key: choices[key]})
            kept[key] = choices[key]
    return kept


def choose(deliverable: Deliverable, key: str, value: Any) -> list[str]:
    """Choose a value, or with None go back to what is planned.

    Another alternative makes another room: choices that lie outside of it are taken back.

    Returns:
        what was taken back besides, in words.

    Raises:
        BadValue, Impossible: as `check_choices`.
    """
    wanted = {k: v for k, v in deliverable.choices.items() if k != key} | (
        {} if value is None else {key: value}
    )
    if not key.startswith("either."):
        if value is not None:
            check_choices(deliverable, wanted)
            _require_effect(deliverable, spec_of(deliverable.crate), wanted, key)
        deliverable.choices = wanted
        return []
    check_choices(deliverable, {k: v for k, v in wanted.items() if k.startswith("either.")})
    kept = still_allowed(deliverable, wanted)
    deliverable.choices = kept
    return [_in_words(k, v) for k, v in wanted.items() if k not in kept]


def _in_words(key: str, value: Any) -> str:
    if "." not in key or key.startswith("name."):
        return f"{key.removeprefix('name.')} {value}"
    prop = lookup(key)
    return f"{prop.label} {prop.kind.show(prop.read(value))}"
