"""How a spec wants its files coded, named and accompanied, and carried."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field, field_validator, model_validator

from ..errors import BadValue
from ..units.values import read_seconds
from . import naming, rules
from .requirement import Severity
from .rules import Strict

BACKGROUNDS = ("black", "white", "checker", "none", "refused")
STILL = "still"  # another master's picture: a person chooses it, a spec knows none


def background_read(text: str) -> bool:
    """Say whether a text names what shows through transparency."""
    return text in BACKGROUNDS or re.fullmatch("#[0-9a-fA-F]{6}", text) is not None


class Coding(Strict):
    """How the encoder is to reach what the requirements ask."""

    passes: Literal[1, 2] = Field(1, description="2 where the rate must land on a figure")
    buffer_bits: int | None = Field(
        None, gt=0, description="size of the decoder's rate buffer (VBV), in bits"
    )
    key_frame_every: str = Field("2 s", description="longest time from one key frame to the next")
    active_width: int | None = Field(
        None, gt=0, description="samples the picture's shape is spread over: 720, 704, 702"
    )
    framing: Literal["pad", "crop", "stretch"] = Field(
        "pad", description="what to do when the shapes differ"
    )
    without_sound: Literal["silent track", "no track"] = Field(
        "silent track",
        description="what to do where the master has no sound and the spec allows either",
    )
    background: str = Field(
        "black",
        description="what shows through transparency that the file does not carry: black, white, "
        "checker, a colour such as #204060; none where it is only dropped, refused where a person "
        "is to choose",
    )
    loudness: Literal["to the target", "untouched"] = Field(
        "to the target",
        description="whether a mix is brought to the loudness that is asked, or measured only",
    )

    @field_validator("key_frame_every")
    @classmethod
    def _a_time(cls, text: str) -> str:
        try:
            read_seconds(text)
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return text

    @field_validator("background")
    @classmethod
    def _a_background(cls, text: str) -> str:
        if not background_read(text):
            raise ValueError(f"write {', '.join(BACKGROUNDS)}, or a colour such as #204060")
        return text


class NameField(Strict):
    """A field of the file name that a person fills in."""

    matches: str = Field(
        "[A-Za-z0-9-]+",
        max_length=rules.LONGEST_PATTERN,
        description="a regular expression (RE2) that it fits",
    )
    note: str = ""


class Sidecar(Strict):
    """A small file that goes beside the deliverables."""

    kind: Literal["checksums", "metadata", "html snippet", "captions"]
    form: Literal["md5", "sha256", "sha512", "xml", "json", "html", "srt", "webvtt"]
    note: str = ""

    def said(self) -> str:
        """Say what lies beside the files: "checksums as MD5"."""
        return f"{self.kind} as {FORM_NAMES[self.form]}"

    @model_validator(mode="after")
    def _suits(self) -> Sidecar:
        forms = FORMS[self.kind]
        if self.form not in forms:
            raise ValueError(f"{self.kind} come as {' or '.join(forms)}, not as {self.form}")
        return self


FORMS = {
    "checksums": ("md5", "sha256", "sha512"),
    "metadata": ("xml", "json"),
    "html snippet": ("html",),
    "captions": ("srt", "webvtt"),
}
CAPTION_FORMS = FORMS["captions"]
FORM_NAMES = {
    "md5": "MD5",
    "sha256": "SHA-256",
    "sha512": "SHA-512",
    "xml": "XML",
    "json": "JSON",
    "html": "HTML",
    "srt": "SubRip",
    "webvtt": "WebVTT",
}


class Delivery(Strict):
    """The name the recipient asks for, what goes beside the files, and where they go."""

    name: str = Field(
        "{master}_{recipient}",
        description="pattern of the file name without its ending; [parts "
        "in brackets] may be left out",
    )
    asked: Severity | None = Field(
        None,
        description="whether the recipient asks for the name; left out "
        "where it is the house's own habit",
    )
    fields: dict[str, NameField] = Field(
        default_factory=dict, description="free fields of the pattern"
    )
    characters: str = Field(
        "A-Z a-z 0-9 _ - .", description="characters allowed, as ranges and single ones"
    )
    case: Literal["any", "lower", "upper"] = "any"
    longest: int = Field(200, ge=8, le=255, description="characters of the name with its ending")
    source: str = ""
    sidecars: list[Sidecar] = Field(default_factory=list)
    carrier: str = Field("", description="how the crate travels, such as 'inbox'")
    address: str = Field("", description="where it goes")

    @model_validator(mode="after")
    def _readable(self) -> Delivery:
        try:
            self.pattern()
        except BadValue as error:
            raise ValueError(error.sentence()) from None
        return self

    def pattern(self, numbered: bool = False) -> naming.Pattern:
        """Give the name's pattern, read; where it is for numbered images and has no number, with
        one.

        Raises:
            BadValue: a field or a set of characters that cannot be understood.
        """
        free = {key: field.matches for key, field in self.fields.items()}
        plain = naming.Pattern(self.name, free, self.characters, self.case, self.longest)
        if not numbered or naming.FRAME in plain.fields:
            return plain
        joint = next((c for c in "_-." if c in plain.allowed), "_")
        text = f"{self.name}{joint}{{{naming.FRAME}}}"
        return naming.Pattern(text, free, self.characters, self.case, self.longest)
