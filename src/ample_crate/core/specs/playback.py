"""How a recipient plays what it gets, where the spec says so."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from .rules import Strict

WayKey = Literal["forwards", "backwards", "ping-pong", "random", "faster", "slower"]
WORDS: dict[WayKey, str] = {
    "forwards": "forwards",
    "backwards": "backwards",
    "ping-pong": "to and fro",
    "random": "anywhere",
    "faster": "faster",
    "slower": "slower",
}


class Playback(Strict):
    """What a player does with a file, so that it can be rehearsed before it goes out."""

    ways: list[WayKey] = Field(min_length=1, description="in which it is played")
    layers: Literal[1, 2, 4] = Field(1, description="that play at once")
    late: int = Field(0, ge=0, le=240, description="pictures of 240 that may come late")
    source: str = ""
    note: str = ""

    @field_validator("ways")
    @classmethod
    def _once(cls, ways: list[WayKey]) -> list[WayKey]:
        if len(set(ways)) < len(ways):
            raise ValueError("a way to play is named twice")
        return ways

    def said(self) -> str:
        """Say what is done with a file: "forwards and backwards, in 2 layers, no picture late"."""
        ways = [WORDS[way] for way in self.ways]
        listed = ", ".join(ways[:-1]) + (" and " if len(ways) > 1 else "") + ways[-1]
        layers = "in one layer" if self.layers == 1 else f"in {self.layers} layers"
        late = f"at most {self.late} of 240 pictures late" if self.late else "no picture late"
        return f"{listed}, {layers}, {late}"
