"""A file played as a player would: from its own index, every way, in several layers."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import closing
from fractions import Fraction
from pathlib import Path
from typing import Any

import pytest

from ample_crate.core.errors import BadMedia
from ample_crate.core.quality.rehearsal import LAYERS, TICKS, WAYS
from ample_crate.media import looks, pictures, rehearsing
from ample_crate.media.pictures import Reader
from clips import Clip, moving_bar
from tones import sine, write


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    how: Any = {"codec": "prores_ks", "pixels": "yuv422p10le", "options": {}, "tones": None}
    clip = Clip(draw=moving_bar(), frames=30, **how)
    return clip.write(tmp_path_factory.mktemp("played") / "film.mov")


def test_a_file_is_played_every_way_in_some_layers(film: Path) -> None:
    found = looks.rehearsal(film)
    assert Fraction(found["rate"]) == 25 and found["frames"] == 30
    told = [(one["way"], one["layers"]) for one in found["played"]]
    assert told == [(way.key, layers) for way in WAYS for layers in LAYERS]
    for one in found["played"]:
        assert len(one["waits"]) == one["shown"] <= TICKS
        assert one["late"] == sum(wait > 0 for wait in one["waits"])
        assert one["worst"] == max(one["waits"]) and one["could"] > 0


def test_what_is_slow_to_decode_comes_late(film: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    clock = [0.0]
    frame = Reader.frame

    def slow(self: Reader, number: int) -> Any:
        # Every tenth frame takes a tenth of a second, by a clock of our own.
        clock[0] += 0.1 if number % 10 == 0 else 0.001
        return frame(self, number)

    monkeypatch.setattr(Reader, "frame", slow)
    monkeypatch.setattr(rehearsing.time, "perf_counter", lambda: clock[0])
    found = rehearsing.handle(lambda _: None, str(film))
    forwards = found["played"][0]
    assert forwards["worst"] == pytest.approx(60, abs=0.1)
    # Of thirty frames three, round and round.
    assert forwards["late"] == pytest.approx(forwards["shown"] / 10, abs=1)
    assert forwards["shown"] == TICKS
    # Where it is slow all along, there is an end to it.
    whole = sum(one["shown"] for one in found["played"])
    assert whole < len(found["played"]) * TICKS


def test_a_frame_that_stands_by_itself_costs_itself_alone(
    film: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    read = [0]
    packets = pictures.packets

    def counted(*asked: Any) -> Iterator[Any]:
        for packet in packets(*asked):
            read[0] += 1
            yield packet

    monkeypatch.setattr(pictures, "packets", counted)
    with closing(Reader(str(film), even=True)) as reader:
        reader.frame(29)
        read[0] = 0
        # Back, on in steps, and to the first.
        for place in (*range(28, 10, -1), *range(1, 29, 2), 0):
            reader.frame(place)
            assert reader.place == place
    # As many threads as there are would each take a frame before the first is given.
    assert read[0] == 18 + 14 + 1


def test_what_has_no_picture_is_not_played(tmp_path: Path) -> None:
    with pytest.raises(BadMedia):
        looks.rehearsal(write(tmp_path / "tone.wav", [sine(-20, 1), sine(-20, 1)]))
