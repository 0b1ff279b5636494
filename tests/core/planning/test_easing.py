"""What would help where a rate is too low: what a spec leaves room for."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.facts import Fact, Facts
from ample_crate.core.planning.easing import Change, changes
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size

CODEC = {"property": "picture.codec", "rule": {"is": "h264"}}
WRAPPER = {"property": "file.wrapper", "rule": {"is": "mp4"}}
CHOICES: dict[str, Any] = {
    "picture.size": "1920x1080",
    "motion.rate": "50",
    "picture.codec": "h264",
}
MADE = Facts(
    {
        "picture.size": Fact(measured=Size(1920, 1080)),
        "motion.rate": Fact(measured=Fraction(50)),
        "picture.codec": Fact(measured="h264"),
    }
)


def spec_of(*rows: dict[str, Any], **more: Any) -> Spec:
    head = {"id": "eased", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(head | {"requirements": [*rows], **more})


def found(spec: Spec, *keys: str) -> list[tuple[str, str]]:
    choices = {key: CHOICES[key] for key in keys}
    return [(one.key, one.value) for one in changes(spec, choices, MADE)]


@pytest.mark.parametrize(
    ("rule", "size"),
    [
        ({"at_most": "1920x1080"}, "1280x720"),
        ({"one_of": ["1920x1080", "640x360", "1280x720", "720x576"]}, "1280x720"),
        ({"between": ["1600x900", "1920x1080"]}, None),
        ({"one_of": ["1920x1080", "720x576"]}, None),
    ],
)
def test_the_largest_smaller_frame_of_its_shape(rule: dict[str, Any], size: str | None) -> None:
    spec = spec_of(CODEC, {"property": "picture.size", "rule": rule})
    wanted = [] if size is None else [("picture.size", size)]
    assert found(spec, "picture.size") == wanted


@pytest.mark.parametrize(
    ("rule", "helps"),
    [
        ({"at_most": 60}, True),
        ({"one_of": [25, 50]}, True),
        ({"one_of": [30, 50]}, False),
        ({"between": [30, 60]}, False),
    ],
)
def test_half_of_the_frames(rule: dict[str, Any], helps: bool) -> None:
    spec = spec_of(CODEC, {"property": "motion.rate", "rule": rule})
    assert found(spec, "motion.rate") == ([("motion.rate", "25")] if helps else [])


def test_another_codec_that_keeps_to_a_rate() -> None:
    listed = {"property": "picture.codec", "rule": {"one_of": ["h264", "prores", "hevc", "vp9"]}}
    assert found(spec_of(listed), "picture.codec") == [
        ("picture.codec", "hevc"),
        ("picture.codec", "vp9"),
    ]


def test_an_alternative_with_another_codec() -> None:
    def way(name: str, codec: str) -> dict[str, Any]:
        return {"name": name, "rules": {"picture.codec": {"is": codec}}}

    ways = [way("avc", "h264"), way("av1", "av1"), way("intra", "prores"), way("same", "h264")]
    spec = spec_of(WRAPPER, either=[{"name": "way", "any": ways}])
    assert changes(spec, {"either.way": "avc"}, MADE) == [Change("codec", "either.way", "av1")]


def test_what_is_not_chosen_is_no_help() -> None:
    open_to_all = spec_of(CODEC, {"property": "picture.size", "rule": {"at_most": "4096x2160"}})
    assert changes(open_to_all, {}, MADE) == []
    assert changes(open_to_all, {"picture.size": "1920x1080"}, MADE) == [
        Change("frame", "picture.size", "1280x720")
    ]
