"""Facts that meet a spec, made from the spec itself, for every way through it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from math import ceil
from typing import Any

from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import lookup
from ample_crate.core.formats import WRAPPERS
from ample_crate.core.specs.contradictions.view import View, views
from ample_crate.core.specs.requirement import Requirement
from ample_crate.core.specs.rules import RANGES, limits, test
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size, Value

# What stands where a spec only asks that something be stated, be the master's, or fit a pattern.
USUAL: dict[str, Value] = {
    "picture.size": Size(1280, 720),
    "picture.pixel_aspect": Fraction(1),
    "motion.rate": Fraction(25),
    "motion.scan": "progressive",
    "motion.frames": 500,
    "file.duration": Fraction(20),
    "sound.sample_rate": 48000,
    "sound.layout": "stereo",
    "sound.language": "eng",
    "picture.transfer": "log",
    "file.start_timecode": "10:00:00:00",
}
FIELDS = {
    "master": "lichen_hours",
    "recipient": "someone",
    "revision": "1",
    "version": "1",
    "production": "lichen hours",
    "episode": "3",
    "date": "20261123",
    "size": "1920x1080",
    "codec": "h264",
    "rate": "25",
    "spot": "QUI0042",
    "slug": "lanterns",
    "lesson": "l04",
}


@dataclass(frozen=True)
class Exemplar:
    """Facts of an item, of its master and of its crate that meet one way through a spec."""

    facts: Facts
    master: Facts
    crate: Facts
    requirements: list[Requirement]


def exemplars(spec: Spec) -> Iterator[Exemplar]:
    """Give an exemplar for each way through a spec."""
    for bare in views(spec):
        view = bare
        for _ in range(3):  # until every condition that the values make hold is asked too
            values = {
                key: _value(view, key)
                for key in dict.fromkeys(r.property for r in view.requirements)
            }
            more = [r for r in view.spec.requirements if r.when is not None and _holds(r, values)]
            view = View(
                view.spec, [*bare.requirements, *(r for r in more if r not in bare.requirements)]
            )
        named = spec.delivery.pattern().name(FIELDS, ".mp4")
        mine = {
            k.removesuffix("@1"): v for k, v in values.items() if not k.startswith("delivery.")
        } | {"file.name": named}
        place = WRAPPERS.get(str(mine.get("file.wrapper")))
        tracks = 0 if place is not None and not place.sound else 1
        mine.setdefault(
            "sound.tracks", max((int(k.split("@")[1]) for k in values if "@" in k), default=tracks)
        )
        if mine["sound.tracks"] == 0:
            mine = {
                k: v for k, v in mine.items() if not k.startswith("sound.") or k == "sound.tracks"
            }
        # What holds of all tracks holds of the second.
        for track in range(2, int(mine["sound.tracks"]) + 1):
            for key in [
                k for k in mine if k.startswith("sound.") and "@" not in k and k != "sound.tracks"
            ]:
                mine.setdefault(f"{key}@{track}", mine[key])
        facts = Facts().with_values("measured", mine)
        crate = {k: v for k, v in values.items() if k.startswith("delivery.")}
        yield Exemplar(facts, facts, Facts().with_values("measured", crate), view.requirements)


def _holds(one: Requirement, values: dict[str, Any]) -> bool:
    assert one.when is not None
    value = values.get(one.when.property)
    return value is not None and test(one.when)(value)


def _value(view: View, key: str) -> Any:
    values = view.values(key)
    if values is not None:
        return max(values) if key == "sound.tracks" else values[0]
    boxes = [
        limits(r)[-1]
        for r in view.on(key)
        if r.rule.operator in RANGES and lookup(key).kind.name == "size"
    ]
    if boxes:
        return boxes[0]
    for bound in (view.low(key), view.high(key)):
        if bound is not None and not any(r.rule.operator == "same_as" for r in view.on(key)):
            return bound if lookup(key).kind.stored is not int else ceil(bound)
    return USUAL.get(key, "something")


def spoiled(one: Requirement, now: Value) -> Value | None:
    """Give a value just outside a rule; None for what must not be there any more."""
    kind, rule = lookup(one.property).kind, one.rule
    if rule.operator == "present":
        return None if rule.present else "something"
    passes = test(one)
    if kind.name == "flag":
        return not now
    if kind.name == "size":
        assert isinstance(now, Size)
        return Size(now.width + 2, now.height + 2)
    if not kind.ordered:
        return "something else"
    if rule.operator == "same_as":
        return now * 2  # type: ignore[operator,return-value]
    step = 1 if kind.stored is int else Fraction(1, 1000)
    for limit in limits(one):
        for away in (1, -1, 10, -10, 1000, -1000, 10**5, -(10**5), 10**7, -(10**7), 10**9):
            value = limit + away * step  # type: ignore[operator]
            if not passes(value):
                return value  # type: ignore[no-any-return]
    raise AssertionError(one)
