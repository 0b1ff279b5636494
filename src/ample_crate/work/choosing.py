"""Choosing values in the room that a crate's spec leaves."""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Mapping
from typing import Any

from ..core.errors import AmpleError, BadValue, Impossible, Refused
from ..core.facts import Facts
from ..core.facts.properties import lookup
from ..core.planning import beside, programme, reframing
from ..core.planning.choices import require_effect
from ..core.planning.programme import CHANNELS, TRACKS
from ..core.planning.reframing import REFRAMED
from ..core.planning.region import REGION, region_of
from ..core.planning.resolve import Resolver
from ..core.planning.speed import speed_of
from ..core.planning.under import BACKGROUND
from ..core.specs import naming
from ..core.specs.delivery import STILL
from ..core.specs.spec import Spec
from ..store import masters
from ..store.models import Deliverable, Master
from . import origins
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
    spec, known = spec_of(deliverable.crate), origins.known(deliverable)
    Resolver(spec, known, choices)
    taken, places = (str(choices.get(key, "")) for key in (TRACKS, CHANNELS))
    if taken:
        programme.tracks(known, taken)
    programme.channels(known, taken, places)
    speed_of(masters.known(deliverable.master), choices)
    _check_framing(masters.known(deliverable.master), choices)
    if choices.get(BACKGROUND) == STILL and deliverable.under is None:
        raise BadValue(
            "No master is chosen that the picture is laid over.",
            "Choose one, or another background.",
        )
    if choices.get(beside.LAID):
        _check_laid(deliverable, str(choices[beside.LAID]))
    fields = {k.removeprefix("name."): str(v) for k, v in choices.items() if k.startswith("name.")}
    for key, value in fields.items():
        spec.delivery.pattern(numbered=key == naming.FRAME).fits(key, value)


def _check_framing(master: Facts, choices: Mapping[str, Any]) -> None:
    upright = programme.of(master)
    region_of(upright, str(choices.get(REGION, "")))
    ranges = reframing.read(str(choices.get(REFRAMED, "")))
    for one in ranges:
        region_of(upright, one.region)
    reframing.check(ranges, master, uneven=False)


def _check_laid(deliverable: Deliverable, laid: str) -> None:
    sound = origins.sound_of(deliverable)
    if sound is None:
        raise BadValue("The sound is the master's own.", "Choose another master's sound first.")
    beside.lay(masters.known(deliverable.master), sound, laid)


def take_sound(deliverable: Deliverable, sound: Master | None) -> list[str]:
    """Take the sound of another master, or with None the master's own again; choices that do not
    fit it are taken back.

    Returns:
        what was taken back, in words.

    Raises:
        Impossible: it has no sound.
        Refused: it is the same master, or is not read yet.
    """
    if sound is not None:
        _require_other(deliverable, sound)
    wanted = {k: v for k, v in deliverable.choices.items() if k != beside.LAID}
    deliverable.choices, deliverable.sound = {}, sound
    origins.known(deliverable)
    return take(deliverable, wanted)


def take_under(deliverable: Deliverable, under: Master | None) -> None:
    """Lay transparency over another master's first picture, or with None over what was before.

    Raises:
        BadValue, Impossible: it has no picture that fits, or nothing of it would be seen.
        Refused: it is the same master, or is not read yet.
    """
    wanted = {k: v for k, v in deliverable.choices.items() if k != BACKGROUND}
    if under is None:
        deliverable.choices, deliverable.under = wanted, None
        return
    _require_other(deliverable, under)
    spec, before = spec_of(deliverable.crate), deliverable.under
    without = route_of(deliverable, spec, wanted)
    deliverable.under = under
    over = route_of(deliverable, spec, wanted | {BACKGROUND: STILL})
    if over.plan is None and without.plan is not None:
        deliverable.under = before
        cause = next(c for c in over.cautions if c.blocks)
        raise Impossible(cause.what, cause.way_out)
    deliverable.choices = wanted | {BACKGROUND: STILL}


def _require_other(deliverable: Deliverable, other: Master) -> None:
    if other.id == deliverable.master_id:
        raise Refused("This is the master itself.", "Choose another one.")
    if other.state not in {"measuring", "ready"}:
        raise Refused(f"'{other.name}' has not been read yet.", "Wait until it has been.")


def still_allowed(deliverable: Deliverable, choices: Mapping[str, Any]) -> dict[str, Any]:
    """Give choices without those that the crate's spec does not allow; alternatives count first,
    for they make the room.
    """
    kept: dict[str, Any] = {}
    for key in in_order(choices):
        with contextlib.suppress(AmpleError):
            check_choices(deliverable, kept | {key: choices[key]})
            kept[key] = choices[key]
    return kept


def in_order(keys: Iterable[str]) -> list[str]:
    """Sort what is chosen: alternatives first, and channels after the track that has them."""
    return sorted(keys, key=lambda k: (not k.startswith("either."), k == CHANNELS))


def take(deliverable: Deliverable, wanted: Mapping[str, Any]) -> list[str]:
    """Take choices in place of those that there are.

    Returns:
        those that the crate's spec does not allow, in words.
    """
    deliverable.choices = still_allowed(deliverable, wanted)
    return [in_words(k, v) for k, v in wanted.items() if k not in deliverable.choices]


def choose(deliverable: Deliverable, key: str, value: Any) -> list[str]:
    """Choose a value, or with None go back to what is planned.

    Another alternative makes another room: choices that lie outside of it are taken back. So are
    channels of another track.

    Returns:
        what was taken back besides, in words.

    Raises:
        BadValue, Impossible: as `check_choices`.
    """
    wanted = {k: v for k, v in deliverable.choices.items() if k != key} | (
        {} if value is None else {key: value}
    )
    if not key.startswith("either."):
        other = [CHANNELS] if key == TRACKS and CHANNELS in wanted else []
        gone = [in_words(k, wanted.pop(k)) for k in other]
        if value is not None:
            check_choices(deliverable, wanted)
            _require_effect(deliverable, spec_of(deliverable.crate), wanted, key)
        deliverable.choices = wanted
        if key == BACKGROUND and value != STILL:
            deliverable.under = None
        return gone
    check_choices(deliverable, {k: v for k, v in wanted.items() if k.startswith("either.")})
    return take(deliverable, wanted)


def choose_together(deliverable: Deliverable, wanted: Mapping[str, Any]) -> None:
    """Choose several values at once, which one by one takes longer; each of them stands alone.

    Raises:
        BadValue, Impossible: as `choose`; nothing is chosen then.
    """
    merged = deliverable.choices | dict(wanted)
    check_choices(deliverable, merged)
    route = route_of(deliverable, spec_of(deliverable.crate), merged)
    for key, value in wanted.items():
        require_effect(route, key, value)
    deliverable.choices = merged


def stands_alone(key: str) -> bool:
    """Say whether choosing a value makes no other room and takes nothing else back."""
    return not key.startswith("either.") and key not in (TRACKS, CHANNELS, BACKGROUND)


def in_words(key: str, value: Any) -> str:
    """Say what is chosen."""
    if "." not in key or key.startswith("name."):
        return f"{key.removeprefix('name.')} {value}"
    prop = lookup(key)
    return f"{prop.label} {prop.kind.show(prop.read(value))}"
