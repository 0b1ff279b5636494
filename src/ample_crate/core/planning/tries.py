"""What is tried of codecs on the same pictures: each as a spec of its own that asks for nothing
else.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from .. import formats
from ..errors import BadValue
from ..facts.properties import PROPERTIES, lookup
from ..specs import specfile
from ..specs.spec import Spec

# A colon stands between settings, and within values such as 16:9.
BETWEEN = re.compile(r":(?=[a-z][a-z_.]*=)")


@dataclass(frozen=True)
class Try:
    """A codec with settings.

    Attributes:
        text: as it was written.
        codec: its key.
        settings: values by property, as they were written.
    """

    text: str
    codec: str
    settings: dict[str, str]


def read(text: str) -> Try:
    """Read what is tried: CODEC[:PROPERTY=VALUE]..., such as "h264:bit_rate=8 Mb/s:profile=high";
    a property without a group is the picture's.

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
    for part in parts:
        key, _, value = part.partition("=")
        key = key if "." in key else f"picture.{key}"
        if key not in PROPERTIES or not value.strip():
            raise BadValue(
                f"'{part}' is no setting.", "Write a property and a value, such as bit_rate=8 Mb/s."
            )
        settings[key] = value.strip()
    return Try(text.strip(), codec, settings)


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
    return specfile.parse_document(head | {"requirements": rows}, one.text)


def _wrapper(codec: str) -> str:
    making = formats.PICTURE[codec].made
    assert making is not None
    if formats.USUAL_WRAPPER in making.wrappers:
        return formats.USUAL_WRAPPER
    return next(key for key in formats.WRAPPERS if key in making.wrappers)
