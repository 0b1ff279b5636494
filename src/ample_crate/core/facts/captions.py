"""Tracks of captions, as a file's header names them."""

from __future__ import annotations

from typing import NamedTuple

from .facts import Facts

KEY = "file.captions"


class Track(NamedTuple):
    """A track of captions: its place among those of its file, its codec and language."""

    number: int
    codec: str
    language: str


def tracks_of(master: Facts) -> list[Track]:
    """List the tracks of captions that a file's header names."""
    named = str(master.fact(KEY).declared or "")
    parts = [one.split(" ") for one in named.split(", ") if one]
    return [Track(n, one[0], one[1] if len(one) > 1 else "") for n, one in enumerate(parts, 1)]
