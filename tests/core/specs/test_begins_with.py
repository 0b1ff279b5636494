"""What new crates to a spec choose at first, said in the spec."""

from __future__ import annotations

from typing import Any

import pytest
from pydantic import ValidationError

from ample_crate.core.specs.differences import differences
from ample_crate.core.specs.saying import coding
from ample_crate.core.specs.spec import Spec

HEAD = {"id": "begins", "version": 1, "recipient": "pinfold", "title": "t"}
ROW = {"property": "picture.codec", "rule": {"is": "h264"}}


def spec(**begins: Any) -> Spec:
    return Spec.model_validate({**HEAD, "requirements": [ROW], "begins_with": begins})


def test_it_is_said_and_compared() -> None:
    made = spec(framing="crop", burn_in="timecode, name")
    assert "New crates begin with framing crop, burn-in timecode, name." in coding(made)
    changes = [d for d in differences(spec(framing="pad"), made) if d.group == "house"]
    assert [(d.label, d.left, d.right) for d in changes] == [
        ("crates begin with: framing", "pad", "crop"),
        ("crates begin with: burn_in", "", "timecode, name"),
    ]


@pytest.mark.parametrize("key", ["tracks", "channels", "laid", "name.title", "picture.codec"])
def test_what_is_no_beginning_is_refused(key: str) -> None:
    with pytest.raises(ValidationError, match="A crate cannot begin with"):
        spec(**{key: "1"})


def test_alternatives_can_be_begun_with_and_nothing_is_no_value() -> None:
    assert spec(**{"either.standard": "PAL"}).begins_with == {"either.standard": "PAL"}
    with pytest.raises(ValidationError):
        spec(framing="")
