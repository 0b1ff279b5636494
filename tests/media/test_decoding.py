"""Which frames are asked for where the decoding of a file is timed."""

from __future__ import annotations

from pathlib import Path

import pytest

from ample_crate.media import decoding, looks
from ample_crate.media.pictures import Reader
from clips import Clip


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    clip = Clip(frames=30, tones=None, options={"preset": "ultrafast", "g": "10"})
    return clip.write(tmp_path_factory.mktemp("film") / "film.mp4")


def test_each_way_asks_for_its_frames(film: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[list[int]] = []

    class Noted(Reader):
        def __init__(self, path: str, even: bool) -> None:
            super().__init__(path, even)
            asked.append([])

        def frame(self, number: int):  # type: ignore[no-untyped-def]
            found = super().frame(number)
            asked[-1].append(self.place)
            return found

    monkeypatch.setattr(decoding, "Reader", Noted)
    monkeypatch.setattr(decoding, "MOST", 60.0)
    found = decoding.handle(lambda body: None, str(film))
    counted, forwards, backwards, anywhere = asked
    assert counted[-1] == 29
    assert forwards == list(range(30)) and backwards == list(range(29, -1, -1))
    assert len(anywhere) == decoding.FRAMES and set(anywhere) == set(range(30))
    assert anywhere not in (sorted(anywhere), sorted(anywhere, reverse=True))
    assert set(found) == {"forwards", "backwards", "random"}
    assert all(frames > 0 for frames in found.values())


def test_it_stops_when_its_time_is_over(film: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    clock = iter(range(1000))
    monkeypatch.setattr(decoding.time, "perf_counter", lambda: float(next(clock)))
    found = decoding.handle(lambda body: None, str(film))
    # A second passes at each look: four frames are over three seconds, in five.
    assert found == dict.fromkeys(found, 4 / 5)


def test_in_a_child(film: Path) -> None:
    assert set(looks.decoding(film)) == {"forwards", "backwards", "random"}
