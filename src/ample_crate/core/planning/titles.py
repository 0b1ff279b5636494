"""What a programme is called where a person reads it: on a slate, burnt into a picture."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple


class Titles(NamedTuple):
    """A programme's title, its episode (empty where it has none), and which version of it."""

    title: str
    episode: str
    version: str


def titles(names: Mapping[str, str]) -> Titles:
    """Give what a programme is called, from the fields of the file name."""
    title = names.get("production") or names.get("master") or ""
    episode = names.get("episode")
    version = f"version {names.get('revision', '1')}"
    return Titles(title, f"episode {episode}" if episode else "", version)
