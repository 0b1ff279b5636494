"""Channels of a master spread over several sound tracks."""

from __future__ import annotations

from typing import Any

import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.facts.properties import track_key
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sound_steps import Mix
from ample_crate.core.planning.streams import MadeSound
from ample_crate.core.specs.spec import Spec
from support import master_facts


def with_tracks(*layouts: str) -> Facts:
    channels = {"mono": 1, "stereo": 2, "5.1": 6}
    values: dict[str, Any] = {"sound.tracks": len(layouts)}
    for number, layout in enumerate(layouts, 1):
        values[track_key("sound.layout", number)] = layout
        values[track_key("sound.channels", number)] = channels[layout]
        values[track_key("sound.sample_rate", number)] = 48000
    return master_facts().with_values("measured", values)


def route(master: Facts, count: int, layout: str | None = None, **choices: Any) -> Route:
    asked: dict[str, Any] = {
        "picture.codec": "prores",
        "file.wrapper": "mov",
        "sound.codec": "pcm_s24le",
        "sound.tracks": count,
    }
    if layout is not None:
        asked["sound.layout"] = layout
    rows = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    spec = Spec.model_validate(
        {"id": "tracks", "version": 1, "recipient": "x", "title": "t", "requirements": rows}
    )
    return plan_route(master, spec, choices, "film.mov")


def made(route: Route) -> list[tuple[tuple[int, ...], list[list[int]]]]:
    """Say of each track which of the master's it takes, and the gains of their channels."""
    assert route.plan is not None, route.cautions
    return [(s.tracks, gains(s)) for s in route.plan.sounds]


def gains(sound: MadeSound) -> list[list[int]]:
    mixes = [s for s in sound.steps if isinstance(s, Mix)]
    return [[int(g) for g in row] for mix in mixes for row in mix.gains]


def test_the_channels_of_one_track_become_tracks() -> None:
    """Two tracks of a stereo master, where nobody says what they hold, are its two channels."""
    split = route(with_tracks("stereo"), 2)
    assert made(split) == [((1,), [[1, 0]]), ((1,), [[0, 1]])]
    assert split.facts.value("sound.layout@2") == "mono"
    assert split.facts.value("sound.tracks") == 2


def test_mono_tracks_become_pairs() -> None:
    pairs = route(with_tracks("mono", "mono", "mono", "mono"), 2, "stereo")
    both = [[1, 0], [0, 1]]
    assert made(pairs) == [((1, 2), both), ((3, 4), both)]


def test_as_many_tracks_are_made_one_of_one() -> None:
    same = route(with_tracks("stereo", "5.1"), 2, "stereo")
    first, second = made(same)
    assert first == ((1,), [[1, 0], [0, 1]]) and second[0] == (2,)
    assert any(s.kind == "limit" for s in same.plan.sounds[1].steps), "5.1 is folded"
    assert [c.what for c in same.cautions if c.row == "sound.layout"] == [
        "Surround becomes stereo."
    ]


def test_what_no_channel_is_left_for_is_silent_and_said() -> None:
    eight = route(with_tracks("5.1"), 8, "mono")
    assert [tracks for tracks, _ in made(eight)] == [(1,)] * 6 + [()] * 2
    assert any("Tracks 7, 8 will be silent." in c.what for c in eight.cautions)
    third = made(eight)[2]
    assert third[1] == [[0, 0, 1, 0, 0, 0]]


def test_sixteen_tracks_of_silence_where_there_is_no_sound() -> None:
    silent = route(master_facts(sound_tracks=0), 16, "mono")
    assert made(silent) == [((), [])] * 16


@pytest.mark.parametrize(
    ("master", "layout", "says"),
    [
        (("5.1",), "mono", "6 channels have no place in 2 tracks of mono"),
        (("mono", "5.1", "mono"), "5.1", "would share a track"),
    ],
)
def test_what_cannot_be_spread_is_refused(master: tuple[str, ...], layout: str, says: str) -> None:
    refused = route(with_tracks(*master), 2, layout)
    assert refused.plan is None and says in refused.cautions[-1].what
    assert refused.cautions[-1].way_out


def test_which_track_goes_out_may_be_answered_by_all_of_them() -> None:
    rows = [
        {"property": "sound.tracks", "rule": {"between": [1, 8]}},
        {"property": "file.wrapper", "rule": {"is": "mov"}},
    ]
    spec = Spec.model_validate(
        {"id": "room", "version": 1, "recipient": "x", "title": "t", "requirements": rows}
    )
    master = with_tracks("mono", "mono", "mono")
    asked = next(c for c in plan_route(master, spec, {}, "film.mov").cautions if c.blocks)
    assert asked.way_out.endswith("or 3 sound tracks.")
    every = plan_route(master, spec, {"sound.tracks": 3}, "film.mov")
    assert every.plan is not None and len(every.plan.sounds) == 3


def test_tracks_that_were_chosen_alone_go_out() -> None:
    chosen = route(with_tracks("mono", "mono", "mono", "mono"), 2, "mono", tracks="3+4")
    assert made(chosen) == [((3,), [[1]]), ((4,), [[1]])]


def test_several_tracks_ask_nothing_and_their_bytes_are_counted() -> None:
    master = with_tracks("mono", "mono", "mono", "mono")
    four, one = route(master, 4, "mono"), route(master, 1, "mono", tracks="1")
    assert not any(c.blocks for c in four.cautions)
    # Three tracks more of 24 bit at 48 kHz over 20 s.
    assert four.size - one.size == pytest.approx(3 * 20 * 48000 * 3, rel=0.01)
