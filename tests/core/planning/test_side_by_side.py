"""Tracks of several layouts in one file: surround and stereo side by side."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sound_steps import Mix
from ample_crate.core.planning.streams import MadeSound
from ample_crate.core.specs.spec import Spec
from ample_crate.store.library import find
from support import master_facts

UHD = find("owlery-uhd")


def surround(**more: object) -> Facts:
    values: dict[str, object] = {"sound_layout": "5.1", "sound_channels": 6} | more
    return master_facts(**values)


def tracks(master: Facts, spec: Spec = UHD, **choices: str) -> list[MadeSound]:
    route = plan_route(master, spec, choices, "film.mov")
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return [s for s in route.plan.sounds if isinstance(s, MadeSound)]


def gains(track: MadeSound) -> tuple[tuple[Fraction, ...], ...]:
    return next(s.gains for s in track.steps if isinstance(s, Mix))


def test_the_fold_goes_beside_the_surround() -> None:
    whole, pair = tracks(surround())
    assert (whole.format.layout, pair.format.layout) == ("5.1", "stereo")
    assert whole.tracks == pair.tracks == (1,)
    # ITU-R BS.775-4, Annex 4, Table 2: the centre and the surrounds at -3 dB, no LFE.
    less = Fraction(707107, 1_000_000)
    assert gains(pair) == ((1, 0, less, 0, less, 0), (0, 1, less, 0, 0, less))
    assert (whole.enabled, pair.enabled) == (True, False)
    assert (whole.rate, pair.rate) == (384_000, 192_000)


def test_the_masters_own_stereo_is_taken_where_it_has_one() -> None:
    whole, pair = tracks(with_tracks("stereo"))
    assert (whole.tracks, pair.tracks) == ((1,), (2,))


def with_tracks(*layouts: str) -> Facts:
    counts = {"5.1": 6, "stereo": 2}
    more = {
        f"sound.{key}@{number}": value
        for number, layout in enumerate(layouts, 2)
        for key, value in (
            ("layout", layout),
            ("channels", counts[layout]),
            ("sample_rate", 48000),
            ("codec", "pcm_s24le"),
        )
    }
    made = surround(sound_tracks=1 + len(layouts))
    return made.with_values("measured", more)  # type: ignore[arg-type]


def test_no_programme_stays_behind_in_silence() -> None:
    route = plan_route(with_tracks("stereo", "stereo"), UHD, {}, "film.mov")
    (said,) = (c for c in route.cautions if c.row == "sound.tracks")
    assert route.plan is not None and said.figures == "left out: 3"


def test_it_asks_which_of_two_surrounds_goes_out() -> None:
    master = with_tracks("5.1")
    route = plan_route(master, UHD, {}, "film.mov")
    assert route.plan is None
    assert any("which one goes out?" in c.what for c in route.cautions if c.blocks)
    whole, pair = tracks(master, tracks="2")
    assert whole.tracks == pair.tracks == (2,)


def test_a_second_track_that_must_not_be_is_not_made() -> None:
    document = UHD.model_dump(mode="json", by_alias=True)
    kept = [r for r in document["requirements"] if r["property"] != "sound.layout@2"]
    barred = {"property": "sound.layout@2", "rule": {"present": False}, "source": "9"}
    spec = Spec.model_validate(document | {"requirements": [*kept, barred]})
    assert len(tracks(surround(), spec)) == 1


def test_a_stereo_master_is_asked_for_no_second_track() -> None:
    (only,) = tracks(master_facts())
    # Nor for the rate that surround has.
    assert only.format.layout == "stereo" and only.rate == 192_000


@pytest.mark.parametrize(("count", "layouts"), [("1", ["5.1"]), ("2", ["5.1", "stereo"])])
def test_the_number_of_tracks_counts_first(count: str, layouts: list[str]) -> None:
    rules: list[dict[str, Any]] = [
        *UHD.model_dump(mode="json", by_alias=True)["requirements"],
        {"property": "sound.tracks", "rule": {"is": int(count)}, "source": "9"},
    ]
    spec = Spec.model_validate(UHD.model_dump(mode="json", by_alias=True) | {"requirements": rules})
    assert [t.format.layout for t in tracks(surround(), spec)] == layouts


def test_what_is_asked_of_every_track_is_asked_of_the_second() -> None:
    rules = [
        {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1"},
        {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "2"},
        {"property": "sound.codec", "rule": {"is": "aac"}, "source": "3"},
        {"property": "sound.bit_rate", "rule": {"at_most": "160 kb/s"}, "source": "4"},
        {"property": "sound.layout@1", "rule": {"is": "5.1"}, "source": "5"},
        {"property": "sound.layout@2", "rule": {"is": "stereo"}, "source": "6"},
    ]
    head = {"id": "side-by-side", "version": 1, "title": "Both", "recipient": "Test Hall"}
    made = tracks(surround(), Spec.model_validate(head | {"requirements": rules}))
    assert [t.rate for t in made] == [160_000, 160_000]
