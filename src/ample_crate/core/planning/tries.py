"""What is tried of codecs on the same pictures: each as a spec of its own that asks for nothing
else.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from .. import formats
from ..errors import BadValue
from ..facts.properties import PROPERTIES, lookup
from ..formats.size import RateControlled
from ..specs import specfile
from ..specs.spec import Spec

# A colon stands between settings, and within values such as 16:9.
BETWEEN = re.compile(r":(?=[a-z][a-z_.]*=)")
PASSES: dict[str, Literal[1, 2]] = {"1": 1, "2": 2}


@dataclass(frozen=True)
class Try:
    """A codec with settings.

    Attributes:
        text: as it was written.
        codec: its key.
        settings: values by property, as they were written.
        passes: of the encoder.
    """

    text: str
    codec: str
    settings: dict[str, str]
    passes: Literal[1, 2] = 1


def read(text: str) -> Try:
    """Read what is tried: CODEC[:PROPERTY=VALUE]..., such as "h264:bit_rate=8 Mb/s:profile=high";
    a property without a group is the picture's. "passes=2" has the encoder look first.

    Raises:
        BadValue: there is no such codec, it is not made here, or a setting is none.
    """
    named, *parts = BETWEEN.split(text.strip())
    codec = str(lookup("picture.codec").read(named.strip()))
    if codec not in formats.made_picture():
        raise BadValue(
            f"'{named}' is no codec that pictures are made in here.",
            f"Choose among {', '.join(sorted(formats.made_picture()))}.",
        )
    settings = {}
    passes = PASSES["1"]
    for part in parts:
        key, _, value = part.partition("=")
        if key == "passes":
            passes = _passes(codec, value.strip())
            continue
        key = key if "." in key else f"picture.{key}"
        if key not in PROPERTIES or not value.strip():
            raise BadValue(
                f"'{part}' is no setting.", "Write a property and a value, such as bit_rate=8 Mb/s."
            )
        settings[key] = value.strip()
    return Try(text.strip(), codec, settings, passes)


def _passes(codec: str, value: str) -> Literal[1, 2]:
    if value not in PASSES:
        raise BadValue(f"'{value}' is no number of passes.", "Write passes=1 or passes=2.")
    if PASSES[value] > max(1, passes_of(codec)):
        raise BadValue(
            f"{formats.PICTURE[codec].label} is coded in one pass here.",
            "Leave passes=2 out, or try a codec that has it, such as h264.",
        )
    return PASSES[value]


def passes_of(codec: str) -> int:
    """Give the passes that the encoder of a codec can make: 0 where it keeps to no rate."""
    making = formats.PICTURE[codec].made
    size = None if making is None else making.size
    return (2 if size.two_passes else 1) if isinstance(size, RateControlled) else 0


def spec_of(one: Try) -> Spec:
    """Ask for what is tried, and for no sound; all else is as the master has it.

    Raises:
        BadSpec: a value is none of its property's.
    """
    asked = {
        "picture.codec": one.codec,
        "file.wrapper": _wrapper(one.codec),
        "sound.tracks": "0",
        **one.settings,
    }
    rows = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    head = {"id": "trial", "version": 1, "recipient": "trial", "title": one.text}
    coding = {"coding": {"passes": one.passes}}
    return specfile.parse_document(head | coding | {"requirements": rows}, one.text)


def _wrapper(codec: str) -> str:
    making = formats.PICTURE[codec].made
    assert making is not None
    if formats.USUAL_WRAPPER in making.wrappers:
        return formats.USUAL_WRAPPER
    return next(key for key in formats.WRAPPERS if key in making.wrappers)
