"""How a finished file would play: what is asked for, and what comes late."""

from __future__ import annotations

from itertools import pairwise
from typing import get_args

import pytest

from ample_crate.core.quality.rehearsal import (
    LAYERS,
    TICKS,
    WAYS,
    Played,
    asked,
    of_layer,
    places,
    short,
)
from ample_crate.core.specs.playback import WORDS, Playback, WayKey

BY = {way.key: way for way in WAYS}


def steps(way: str, frames: int) -> set[int]:
    """Give how far apart two frames in turn lie, around the end of the file."""
    return {(b - a) % frames for a, b in pairwise(places(BY[way], frames))}


@pytest.mark.parametrize("frames", [1, 2, 7, 100, 1000, 100_000])
@pytest.mark.parametrize("way", BY)
def test_every_frame_that_is_asked_for_is_there(way: str, frames: int) -> None:
    asked = places(BY[way], frames)
    assert len(asked) == TICKS and all(0 <= place < frames for place in asked)


def test_films_are_played_over_their_ends() -> None:
    assert steps("forwards", 1000) == {1}
    assert steps("backwards", 1000) == {999}
    for way in ("forwards", "backwards", "faster"):
        asked = places(BY[way], 1000)
        assert min(asked) < 200 and max(asked) > 800, way
    assert steps("faster", 1000) == {1, 2} and steps("slower", 1000) == {0, 1}
    back = places(BY["ping-pong"], 1000)
    assert max(back) == 999 and {abs(b - a) for a, b in pairwise(back)} == {1}
    assert back[1] == back[-1]
    assert places(BY["ping-pong"], 3)[:6] == [0, 1, 2, 1, 0, 1]


def test_anywhere_is_the_same_each_time_and_everywhere() -> None:
    asked = places(BY["random"], 1000)
    assert asked == places(BY["random"], 1000)
    assert len(set(asked)) > 200 and min(asked) < 50 and max(asked) > 950


def test_layers_play_parts_of_their_own() -> None:
    assert [of_layer(90, layer, 4, 100) for layer in range(4)] == [90, 15, 40, 65]
    assert [of_layer(0, layer, 4, 1) for layer in range(4)] == [0, 0, 0, 0]
    first, second = asked("forwards", 2, 10, 7)
    assert first == places(BY["forwards"], 10)[:7]
    assert second == [(place + 5) % 10 for place in first]


def test_what_takes_longer_than_a_picture_lasts_comes_late() -> None:
    played = Played("forwards", 1, [9.0, 0.01, 0.05, 0.04, 0.1], 25)
    assert played.waits == pytest.approx([0, 0, 0.01, 0, 0.06])
    told = played.as_json()
    assert (told["shown"], told["late"], told["worst"]) == (5, 2, 60)
    assert told["could"] == pytest.approx(5 / 9.2, abs=0.01)


def test_what_the_recipient_asks_is_held_against_what_came_late() -> None:
    played = [
        {"way": "forwards", "layers": 1, "late": 0, "shown": 240},
        {"way": "forwards", "layers": 2, "late": 3, "shown": 240},
        {"way": "backwards", "layers": 2, "late": 2, "shown": 100},
    ]
    ways = ["forwards", "backwards"]
    assert short(played, ["forwards"], 1, 0) == []
    assert short(played, ways, 2, 0) == ways
    assert short(played, ways, 2, 3) == ["backwards"]  # 2 of 100 are more than 3 of 240
    assert short(played, ways, 2, 5) == []
    assert short(played, ["random"], 2, 240) == ["random"]


def test_the_ways_that_a_spec_may_ask_for_are_those_that_are_played() -> None:
    assert list(WORDS) == list(BY) and set(get_args(WayKey)) == set(BY)
    counts = get_args(Playback.model_fields["layers"].annotation)
    assert counts == LAYERS
    asked = Playback.model_validate({"ways": ["forwards", "ping-pong"], "layers": 2})
    assert asked.said() == "forwards and to and fro, in 2 layers, no picture late"
    some = Playback.model_validate({"ways": ["random"], "late": 3})
    assert some.said() == "anywhere, in one layer, at most 3 of 240 pictures late"
    for wrong in ({"ways": []}, {"ways": ["random", "random"]}, {"ways": ["sideways"]}):
        with pytest.raises(ValueError):
            Playback.model_validate(wrong)
