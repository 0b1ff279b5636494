"""What is made of a deliverable's sound: ordered by a person, heard before it is coded."""

from __future__ import annotations

import contextlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

from sqlalchemy.orm import Session

from ..core.errors import Impossible, NotFound, Refused
from ..core.planning.plan import Plan
from ..core.planning.sound_steps import Mix, Normalise
from ..core.planning.streams import AnySound, MadeSound
from ..core.planning.tracks import speakers_of
from ..core.units import loudspeakers
from ..media import looks, ops
from ..store.models import Deliverable
from ..store.places import Folders
from ..store.studied import Hearing
from . import origins, status
from .studies import Study, Work, recipe


@dataclass(frozen=True)
class Planned:
    """A track that is made of a master's sound.

    Attributes:
        number: among the tracks that are made, counted from 1.
        taken, made: loudspeakers of the channels that are taken, and of those that are made; of
            the former their numbers, where nobody says which is which.
        gains: a row a channel made, in it a factor a channel taken.
        target: LUFS that it is brought to, if it is.
        ceiling: dBTP under which its peaks are held, where they are measured.
    """

    number: int
    taken: Sequence[str]
    made: Sequence[str]
    gains: Sequence[Sequence[Fraction]]
    target: Fraction | None
    ceiling: Fraction | None


def planned(deliverable: Deliverable, plan: Plan) -> list[Planned]:
    """List the tracks that are made of a master's sound."""
    return [_planned(deliverable, number, made) for number, made in _made(plan)]


def _made(plan: Plan) -> list[tuple[int, MadeSound]]:
    sounds = [one for one in plan.streams if isinstance(one, AnySound)]
    return [
        (number, one)
        for number, one in enumerate(sounds, 1)
        if isinstance(one, MadeSound) and one.tracks
    ]


def _planned(deliverable: Deliverable, number: int, made: MadeSound) -> Planned:
    mix = next(step for step in made.steps if isinstance(step, Mix))
    brought = next((step for step in made.steps if isinstance(step, Normalise)), None)
    return Planned(
        number=number,
        taken=_named(deliverable, made),
        made=loudspeakers.LAYOUTS[mix.layout],
        gains=mix.gains,
        target=None if brought is None else brought.target,
        ceiling=None if brought is None else brought.peak,
    )


def _named(deliverable: Deliverable, made: MadeSound) -> Sequence[str]:
    """Name the channels that a track takes, as the planner takes them."""
    alone = len(made.tracks) == 1
    facts = origins.known(deliverable) if alone else origins.delivered(deliverable)
    with contextlib.suppress(Impossible):
        named = speakers_of(facts, made.tracks[0] if alone else 1)
        if len(named) == made.source.channels:
            return named
    return [str(n) for n in range(1, made.source.channels + 1)]


def plan_of(deliverable: Deliverable) -> Plan:
    """Give the plan of a deliverable whose sound is made.

    Raises:
        NotFound: there is none yet.
        Refused: its sound is not made of a master's.
    """
    plan = status.shown(deliverable)
    if plan is None:
        raise NotFound("There is no route yet.", "See what the page says is missing.")
    if not _made(plan):
        raise Refused(
            "No sound is made of the master's.",
            "What is copied goes out as it is; silence has nothing to hear.",
        )
    return plan


def _recipe(deliverable: Deliverable, plan: Plan) -> str:
    # How it is coded changes nothing of what is coded.
    told = [
        one.model_dump(mode="json", exclude={"encoding", "language", "name", "enabled"})
        for one in plan.streams
        if isinstance(one, MadeSound)
    ]
    return recipe(told, plan, origins.bytes_of(deliverable))


def _ready(session: Session, row: Hearing) -> Work:
    deliverable, number = row.deliverable, row.id
    plan, paths = plan_of(deliverable), origins.paths(deliverable)
    known, tracks = _recipe(deliverable, plan), len(_made(plan))

    def heard(folders: Folders, control: ops.Control) -> Mapping[str, Any]:
        inputs = [folders.inside(path) for path in paths]
        names = [_name(number, known, track) for track in range(1, tracks + 1)]
        outs = [folders.proxies / name for name in names]
        found = looks.hearing(inputs, plan.alone, outs, control)
        return {"found": {**found, "files": names}, "recipe": known}

    return heard


STUDY = Study(Hearing, "deliverable_id", "hear", "hearing", "hearing", _ready)


def begin(session: Session, deliverable: Deliverable) -> None:
    """Have a deliverable's sound heard, anew where it was, unless that goes on.

    Raises:
        NotFound, Refused: there is nothing to hear.
    """
    plan_of(deliverable)
    STUDY.begin(session, deliverable.id)


def heard(row: Hearing | None, deliverable: Deliverable, plan: Plan) -> Mapping[str, Any] | None:
    """Give what was heard, as `media.hearing` has it; None where that is not known, or was of other
    sound than is planned.
    """
    if row is None or row.found is None:
        return None
    return row.found if row.recipe == _recipe(deliverable, plan) else None


def _name(row: int, known: str, track: int) -> str:
    return f"heard-{row}-{known[:16]}-{track}.mp4"


def file_of(row: Hearing | None, track: int, folders: Folders) -> Path:
    """Give what can be listened to of a track, counted from 1 among those that were heard.

    Raises:
        NotFound: there is none.
    """
    names: list[str] = [] if row is None or row.found is None else row.found["files"]
    if not 1 <= track <= len(names) or not (folders.proxies / names[track - 1]).is_file():
        raise NotFound("There is nothing to listen to yet.", "Have the sound heard first.")
    return folders.proxies / names[track - 1]
