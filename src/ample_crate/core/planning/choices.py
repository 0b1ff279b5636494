"""What a technician may choose: where the spec leaves room, and the planner settles a value."""

from __future__ import annotations

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

from .. import formats
from ..errors import BadValue
from ..facts import Facts
from ..facts.properties import lookup
from ..formats.codec import USUAL, Pace
from ..formats.size import RateControlled
from ..specs import naming, rules
from ..specs.delivery import STILL
from ..specs.spec import Spec, leaves_room
from ..units import loudspeakers
from . import burn_in, leader, legal, matrix, reframing
from .captions import as_text, asked_beside
from .loudness import LEVELS
from .plan import Route
from .programme import PAIR
from .region import REGION
from .resolve import Resolver, Way

TRACKS = range(17)  # sound tracks that can be made


def open_choices(
    spec: Spec,
    settled: Resolver,
    predicted: Facts | dict[str, Any],
    ways: Mapping[str, Way] = MappingProxyType({}),
) -> dict[str, Any]:
    """List what the technician may choose, with the value in force.

    Args:
        spec: as it is written, with its named house choices.
        settled: what the planner settled on the way.
        predicted: facts of the planned file.
        ways: of streams that can be copied.
    """
    facts = predicted if isinstance(predicted, Facts) else Facts()
    made = _besides_values(spec, settled, facts, ways) | dict(ways)
    for key in dict.fromkeys(r.property for r in settled.spec.requirements):
        # Tracks are coded alike: what is asked of others than the first is not chosen by itself.
        mine = key.removesuffix("@1")
        if mine not in settled.settled or not may_choose(settled.spec, key):
            continue
        value = settled.chosen.get(key)
        if value is None:
            value = facts.value(mine)
        made[key] = None if value is None else lookup(key).kind.stored(value)
    return made


def _besides_values(
    spec: Spec, settled: Resolver, predicted: Facts, ways: Mapping[str, Way]
) -> dict[str, Any]:
    """List what is chosen besides values of properties.

    Args:
        ways: of streams that can be copied.
    """
    encoded = ways.get("picture") != "copied"
    lost = predicted.value("picture.alpha") is False
    made: dict[str, Any] = {"framing": settled.framing, REGION: settled.region}
    opaque = settled.master.value("picture.alpha_use") == "wholly opaque"
    laid = lost and settled.master.value("picture.alpha") and not opaque
    # One that has no effect can be taken back where it stands.
    if laid or settled.background == STILL:
        made["background"] = settled.background
    paces = _paces(predicted) if encoded else frozenset()
    if len(paces) > 1:
        made["pace"] = settled.pace if settled.pace in paces else USUAL
    if encoded and predicted.value("motion.frames") not in (None, 1):
        made[reframing.REFRAMED] = reframing.shown(settled.reframed)
        made[legal.LEVELS] = settled.levels
        made[burn_in.BURN_IN] = ", ".join(settled.burn_in)
        made[burn_in.WATERMARK] = settled.watermark
        made[leader.LEADER] = leader.shown(settled.leader)
        made[leader.TAIL] = f"{float(settled.tail):g} s" if settled.tail else ""
    if any(spec.on(key) for key in LEVELS) and settled.master.value("sound.tracks"):
        made["loudness"] = settled.loudness
    if int(settled.master.value("sound.tracks") or 0) > 1:
        made["tracks"] = settled.tracks
    many = settled.channels or int(settled.master.value("sound.channels") or 0) > PAIR
    if many and predicted.value("sound.tracks") != 0:
        made["channels"] = settled.channels
    if settled.mix or (ways.get("sound") != "copied" and _alone(settled.master, predicted)):
        made[matrix.MIX] = matrix.shown(settled.mix)
    made |= {f"either.{name}": taken for name, taken in settled.alternatives.items()}
    if spec.house_sets:
        made["house"] = settled.house_set
    wrapper = formats.WRAPPERS.get(str(predicted.value("file.wrapper")))
    moving = wrapper is None or (wrapper.picture and not wrapper.still)
    if as_text(settled.master) and moving and not asked_beside(spec):
        made["captions"] = settled.captions
    pattern = spec.delivery.pattern(numbered=wrapper is not None and wrapper.numbered)
    return made | {f"name.{field}": settled.fields.get(field, "") for field in by_hand(pattern)}


def by_hand(pattern: naming.Pattern) -> list[str]:
    """List the fields of a name that a person may fill in."""
    taken = {"master", "production", "episode", naming.FRAME, *pattern.free}
    every = dict.fromkeys([*pattern.fields, *pattern.optional])
    return [field for field in every if field in taken]


def _alone(master: Facts, predicted: Facts) -> bool:
    """Say whether one track is made of a master's sound, and not of its channels one by one."""
    named = str(predicted.value("sound.layout")) in loudspeakers.LAYOUTS
    alone = predicted.value("sound.tracks") == 1 and named
    return alone and bool(master.value("sound.tracks"))


def _paces(predicted: Facts) -> frozenset[Pace]:
    """List the paces of what is made: of what keeps to a rate alone there are several."""
    row = formats.PICTURE.get(str(predicted.value("picture.codec")))
    making = row.made if row is not None else None
    profile = str(predicted.value("picture.profile") or "")
    if making is None or not isinstance(making.model(profile), RateControlled):
        return frozenset()
    return making.paces


def may_choose(spec: Spec, key: str) -> bool:
    """Say whether a spec leaves room on a property that the planner settles."""
    mine = key.removesuffix("@1")
    return (
        lookup(mine).chosen
        and leaves_room(spec, key)
        and (mine != "sound.tracks" or len(_tracks(spec, key)) > 1)
    )


def _tracks(spec: Spec, key: str) -> list[int]:
    return [n for n in TRACKS if all(rules.test(r)(n) for r in spec.on(key) if r.when is None)]


def options(spec: Spec, keys: Mapping[str, Any]) -> dict[str, list[tuple[str, str]]]:
    """List the values to pick from, as they are stored and as they are said, for properties whose
    rules name them.

    Args:
        spec: with its alternatives resolved.
        keys: what may be chosen.
    """
    found: dict[str, list[tuple[str, str]]] = {}
    for one in spec.requirements:
        kind = lookup(one.property).kind
        if one.property in keys and one.rule.one_of is not None:
            found[one.property] = [(str(kind.stored(v)), kind.show(v)) for v in rules.limits(one)]
        elif one.property in keys and one.property.removesuffix("@1") == "sound.tracks":
            found[one.property] = [(str(n), kind.show(n)) for n in _tracks(spec, one.property)]
    return found


def require_effect(route: Route, key: str, value: object) -> None:
    """Make sure that a route follows a choice.

    Raises:
        BadValue: it would change nothing.
    """
    if "." not in key or key.startswith(("either.", "name.")):
        return
    prop = lookup(key)
    if key not in route.choices:
        raise BadValue(
            f"The {prop.label} is not chosen here: the spec fixes it, or it comes out of the "
            f"encode.",
            "Choose among the values that can be changed in the ledger.",
        )
    if key.removesuffix("@1") == "sound.tracks" and prop.read(value) not in TRACKS:
        raise BadValue(
            f"{prop.read(value)} sound tracks cannot be made here.",
            f"Choose {TRACKS[0]} to {TRACKS[-1]}.",
        )
