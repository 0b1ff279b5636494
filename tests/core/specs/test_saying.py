"""What a spec and a codec are said to be, in words."""

from __future__ import annotations

from typing import Any

import pytest

from ample_crate.core import formats
from ample_crate.core.formats.pixels import Pixels
from ample_crate.core.planning.coding import Coding
from ample_crate.core.specs.saying import coding
from ample_crate.core.specs.spec import Spec

HEAD = {"id": "said", "version": 1, "recipient": "pinfold", "title": "t"}


@pytest.mark.parametrize(
    ("rule", "told"),
    [
        ({"at_most": 2}, "A master without sound gets a silent track."),
        ({"one_of": [0, 1]}, "A master without sound gets a silent track."),
        ({"is": 0}, None),
        ({"is": 1}, None),
    ],
)
def test_what_a_master_without_sound_gets_is_said_where_there_is_a_choice(
    rule: dict[str, Any], told: str | None
) -> None:
    rows = [{"property": "sound.tracks", "rule": rule}]
    said = coding(Spec.model_validate({**HEAD, "requirements": rows}))
    assert [one for one in said if "without sound" in one] == ([] if told is None else [told])


@pytest.mark.parametrize(
    ("codec", "profile", "name"),
    [
        ("hap", "hap", "HAP"),
        ("hap", "hap q alpha", "HAP q alpha"),
        ("h264", "high", "H.264 high"),
        ("ffv1", "", "FFV1"),
    ],
)
def test_no_codec_is_named_twice(codec: str, profile: str, name: str) -> None:
    row = formats.PICTURE[codec]
    assert row.made is not None
    pixels = Pixels("4:2:0", 8)
    assert Coding(row, row.made, profile, "", pixels).said == name
