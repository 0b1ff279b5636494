"""Settling values in the room that a spec leaves."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping
from fractions import Fraction
from typing import Any, Literal, cast, get_args

from ..errors import BadValue, Impossible
from ..facts import Facts
from ..formats.codec import Pace
from ..ledger import taken
from ..specs.delivery import BACKGROUNDS, CAPTION_FORMS, STILL, background_read
from ..specs.requirement import Requirement
from ..specs.rules import bounds, limits, nearest, test
from ..specs.spec import Spec, check_choice
from ..units.values import Value
from . import burn_in, leader, legal, matrix, pulldown, reframing, retiming

Way = Literal["copied", "encoded"]
STREAMS = ("picture", "sound")
# What is chosen besides values of properties.
BESIDES = {
    "background",
    "burn_in",
    "captions",
    "channels",
    "framing",
    "house",
    "laid",
    "leader",
    "levels",
    "loudness",
    "mix",
    "pace",
    "pitch",
    "pulldown",
    "reframed",
    "region",
    "retime",
    "speed",
    "tail",
    "tracks",
    "watermark",
    *STREAMS,
}
LOUDNESS = ("to the target", "untouched")
PACES: tuple[str, ...] = get_args(Pace)


class Resolver:
    """Finds the value that each property gets: the choice, else the house's, else the nearest
    allowed to the master's.

    Choices are values by property key, and besides: `framing`, `region` (the part of the
    master's picture that goes out, "" for all of it), `reframed` (see `reframing`), `speed` and
    `pitch` (see `speed`), `levels` (see `legal`), `retime` (see `retiming`), `pulldown` ("" or
    "undone"), `leader` and `tail` (see `leader`), `burn_in` and `watermark` (see `burn_in`),
    `background` (what shows through transparency that the file does not carry), `captions` (the
    form in which they lie beside the file, "" for none), `house` (a named set of house
    choices), `tracks` (of the master's sound), `channels` (of the track that goes out), `mix`
    (see `matrix`), `laid` (what sound from another file is laid by), `picture` and `sound`
    ("copied" or "encoded"), `pace` (of the picture's encoder), `loudness` ("to the target" or
    "untouched"), `either.<choice>` (an alternative by name) and `name.<field>` (a field of the
    file name).
    """

    def __init__(self, spec: Spec, master: Facts, choices: Mapping[str, Any]) -> None:
        self.alternatives = _alternatives(spec, master, choices)
        self.spec, self.master = spec.resolved(self.alternatives), master
        self.settled: set[str] = (
            set()
        )  # what the planner asked for: a choice of anything else would change nothing
        plain = {
            k: v
            for k, v in choices.items()
            if k not in BESIDES and not k.startswith(("either.", "name."))
        }
        self.chosen: dict[str, Value] = {
            key: check_choice(self.spec, key, value) for key, value in plain.items()
        }
        self.house_set = str(choices.get("house", ""))
        self.house = _preferred(spec, self.spec, self.house_set)
        self.framing = str(choices.get("framing", spec.coding.framing))
        if self.framing not in {"pad", "crop", "stretch"}:
            raise Impossible(f"'{self.framing}' is no framing.", "Choose pad, crop or stretch.")
        self.region = str(choices.get("region", ""))
        self.reframed = reframing.read(str(choices.get(reframing.REFRAMED, "")))
        self.background = str(choices.get("background", spec.coding.background))
        if self.background != STILL and not background_read(self.background):
            raise BadValue(
                f"'{self.background}' is nothing that transparency is laid over.",
                f"Choose {', '.join(BACKGROUNDS)}, or a colour such as #204060.",
            )
        self.captions = str(choices.get("captions", ""))
        if self.captions not in ("", *CAPTION_FORMS):
            raise BadValue(
                f"'{self.captions}' is no form of captions.",
                f"Choose {' or '.join(CAPTION_FORMS)}.",
            )
        self.pace = str(choices.get("pace", PACES[0]))
        if self.pace not in PACES:
            raise BadValue(f"'{self.pace}' is no pace.", f"Choose {' or '.join(PACES)}.")
        self.pulldown = pulldown.choice_of(master, choices.get("pulldown"))
        self.retime = retiming.choice_of(choices.get("retime"))
        self.levels = legal.choice_of(choices.get("levels"))
        self.leader = leader.read(str(choices.get("leader", "")))
        self.burn_in = burn_in.read(str(choices.get("burn_in", "")))
        self.watermark = burn_in.read_watermark(str(choices.get("watermark", "")))
        self.tail = leader.read_tail(str(choices.get("tail", "")))
        self.tracks = str(choices.get("tracks", ""))
        self.channels = str(choices.get("channels", ""))
        self.mix = matrix.read(str(choices.get("mix", "")))
        self.loudness = str(choices.get("loudness", spec.coding.loudness))
        if self.loudness not in LOUDNESS:
            raise BadValue(
                f"'{self.loudness}' is nothing that is done to loudness.",
                f"Choose {' or '.join(LOUDNESS)}.",
            )
        self.ways = {key: _way(choices[key]) for key in STREAMS if choices.get(key)}
        self.fields = {
            key.removeprefix("name."): str(value)
            for key, value in choices.items()
            if key.startswith("name.")
        }

    def get(self, key: str, default: Value | None = None, depth: int = 0) -> Any:
        """Settle a property.

        Args:
            key: the property.
            default: taken where neither the spec, the choices nor the master say anything, and
            where
                an open-ended rule needs a starting point.
            depth: how many conditions hang on this one.
        """
        if not depth:
            self.settled.add(key)
        for name in (key, f"{key}@1"):
            if name in self.chosen:
                return self.chosen[name]
        mine = [r for r in self._on(key) if self.counts(r, depth)]
        theirs = self.master.value(key)
        value: Any = self.house.get(key)
        if value is None:
            value = default if default is not None else theirs
            if any(r.rule.operator in {"one_of", "same_as"} for r in mine) and theirs is not None:
                value = theirs
        for requirement in mine:
            value = nearest(requirement, value, default)
        return value

    def _on(self, key: str) -> list[Requirement]:
        """Give the requirements on a property; of sound, what is asked of the first track counts
        too, for that is the one made, and what is asked of all counts for each.
        """
        mine, base = list(self.spec.on(key)), key.partition("@")[0]
        if not key.startswith("sound."):
            return mine
        return [*mine, *self.spec.on(base)] if base != key else [*self.spec.on(f"{key}@1"), *mine]

    def counts(self, requirement: Requirement, depth: int = 0) -> bool:
        """Say whether a requirement applies to what is settled; `depth` is how many conditions
        hang on this one.
        """
        when = requirement.when
        if when is None:
            return True
        if depth > 3:
            return False
        # What is asked of the first track is asked of the one made.
        value = self.get(when.property.removesuffix("@1"), None, depth + 1)
        if when.rule.operator == "present":
            return (value is not None) is when.rule.present
        return value is not None and test(when)(value)

    def cap(self, key: str) -> Any:
        """Give the most that a property may be, or None."""
        most = None
        for requirement in self._on(key):
            if (
                requirement.severity == "must"
                and requirement.rule.operator in {"at_most", "between", "is"}
                and self.counts(requirement)
            ):
                limit: Any = limits(requirement)[-1]
                most = limit if most is None else min(most, limit)
        return most

    def floor(self, key: str) -> Fraction | None:
        """Give the least that a property may be, tolerance included, or None."""
        lows = [low for low, _ in self._bounds(key) if low is not None]
        return max(lows, default=None)

    def top(self, key: str) -> Fraction | None:
        """Give the most that a property may be, tolerance included, or None."""
        highs = [high for _, high in self._bounds(key) if high is not None]
        return min(highs, default=None)

    def _bounds(self, key: str) -> list[tuple[Fraction | None, Fraction | None]]:
        asked = [r for r in self._on(key) if r.severity == "must" and self.counts(r)]
        return [found for r in asked if (found := bounds(r)) is not None]


def _way(value: object) -> Way:
    for way in get_args(Way):
        if value == way:
            return cast(Way, way)
    raise BadValue(f"'{value}' is no way to make a stream.", "Choose copied or encoded.")


def _alternatives(spec: Spec, master: Facts, choices: Mapping[str, Any]) -> dict[str, str]:
    """Settle each choice of a spec: as chosen, else the alternative that the master fits best."""
    chosen = {
        key.removeprefix("either."): str(value)
        for key, value in choices.items()
        if key.startswith("either.")
    }
    settled = taken(master, spec, master) | chosen
    for either in spec.either:
        names = [a.name for a in either.any]
        if settled[either.name] not in names:
            raise BadValue(
                f"'{settled[either.name]}' is no {either.name} of this spec.",
                f"Choose {' or '.join(names)}.",
            )
    return {e.name: settled[e.name] for e in spec.either}


def _preferred(spec: Spec, resolved: Spec, named: str) -> dict[str, Value]:
    """Give the house's choices; those that were meant for another alternative are passed over."""
    if named and named not in spec.house_sets:
        raise BadValue(
            f"This spec has no house choices named '{named}'.",
            f"There are {', '.join(spec.house_sets) or 'none'}.",
        )
    preferred = spec.house | (spec.house_sets[named].choices if named else {})
    values: dict[str, Value] = {}
    for key, choice in preferred.items():
        with contextlib.suppress(BadValue):
            values[key] = check_choice(resolved, key, choice.value)
    return values
