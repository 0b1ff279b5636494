"""Deliverables made from one reading of their master: as they would be by themselves, and each
ends, or fails, by itself.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import pytest

from ample_crate.core.errors import AmpleError, Cancelled, Impossible
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.media import levelling, ops, render
from clips import Clip
from conformance import facts_of, ignored
from tones import write

Rules = dict[str, Any]
PRORES: Rules = {"picture.codec": "prores", "file.wrapper": "mov", "picture.size": "320x180"}
H264: Rules = {"picture.codec": "h264", "file.wrapper": "mp4", "picture.size": "320x180"}
SMALL: Rules = {"picture.codec": "mpeg2video", "file.wrapper": "ts", "picture.size": "160x90"}
WAV: Rules = {"file.wrapper": "wav"}
LOUD: Rules = {"sound.loudness": "-23 LUFS"}
ASKED = (PRORES, H264, SMALL)


def planned(master: Path, rules: Rules, sound: str = "encoded", **coding: int) -> Plan:
    rows = [{"property": key, "rule": {"is": value}, "source": key} for key, value in rules.items()]
    head = {"id": "one", "version": 1, "title": "One", "recipient": "Test Hall"}
    spec = Spec.model_validate(head | {"requirements": rows, "coding": coding})
    chosen = {"picture": "encoded", "sound": sound} if "picture.codec" in rules else {}
    route = plan_route(facts_of(master), spec, chosen, master.name)
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan


def sums(folder: Path) -> dict[str, str]:
    """Give the checksum of every file in a folder, by its name and that of its own folder."""
    files = (path for path in folder.rglob("*") if path.is_file())
    return {
        str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in files
    }


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return Clip(frames=50).write(tmp_path_factory.mktemp("film") / "film.mp4")


@pytest.fixture(scope="module")
def plans(film: Path) -> list[Plan]:
    """Plans of several codecs and wrappers, one of which goes through its master twice."""
    two = planned(film, H264, passes=2)
    assert two.passes == 2
    one = planned(film, PRORES | {"sound.codec": "aac"}, sound="copied")
    assert one.sounds[0].kind == "copied sound"
    return [*(planned(film, rules) for rules in ASKED), two, one]


def ordered(plans: list[Plan], folder: Path, **controls: ops.Control) -> list[ops.Order]:
    return [
        ops.Order(plan, folder / str(n), 10**6, controls.get(f"of_{n}", ops.Control()))
        for n, plan in enumerate(plans)
    ]


def test_they_are_what_they_are_alone(film: Path, plans: list[Plan], tmp_path: Path) -> None:
    """Byte by byte, but for H.264 under a ceiling: its threads do not tell each other in the same
    order every time, and two runs alone differ too.
    """
    alone = [ops.render([film], tmp_path / "alone" / str(n), p, 10**6) for n, p in enumerate(plans)]
    together = ops.render_together([film], ordered(plans, tmp_path / "together"))
    for one, other, plan in zip(together, alone, plans, strict=True):
        assert isinstance(one, ops.Rendered)
        if plan.picture.codec == "h264":
            assert stamps(one.path) == stamps(other.path)
        else:
            assert sums(one.path.parent) == sums(other.path.parent) != {}


def stamps(path: Path) -> list[tuple[int, int | None]]:
    """Give the stream and the time of every packet."""
    with av.open(str(path)) as file:
        return sorted((p.stream_index, p.pts) for p in file.demux() if p.size)


def test_each_tells_of_its_own_progress(film: Path, plans: list[Plan], tmp_path: Path) -> None:
    told: dict[int, list[dict[str, Any]]] = {n: [] for n in range(len(plans))}
    controls = {f"of_{n}": ops.Control(told[n].append) for n in told}
    ops.render_together([film], ordered(plans, tmp_path, **controls))
    for n, plan in enumerate(plans):
        assert told[n] and {body["of"] for body in told[n]} == {n}
        assert {body["passes"] for body in told[n]} == {plan.passes}


def test_a_master_is_read_once_for_all(
    film: Path, plans: list[Plan], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    opened: list[str] = []
    real = render.open_media
    monkeypatch.setattr(render, "open_media", lambda path: opened.append(path) or real(path))
    made(film, plans, tmp_path)
    # Once for all, and once more for the one that goes through it twice.
    assert opened == [str(film)] * 2


def made(film: Path, plans: list[Plan], folder: Path, dropped: str = "") -> list[dict[str, Any]]:
    """Make plans in this process: what came of each."""
    orders = [
        {
            "plan": plan.model_dump(mode="json"),
            "outs": [str(folder / str(n) / file.name) for file in plan.files],
            "captions": [],
            "segments": [],
            "dropped": str(folder / f"{n}.dropped"),
        }
        for n, plan in enumerate(plans)
    ]
    answer: list[dict[str, Any]] = render.handle(ignored, [str(film)], str(folder), orders)["made"]
    return answer


def test_one_that_is_stopped_leaves_the_others_alone(
    film: Path, plans: list[Plan], tmp_path: Path
) -> None:
    stopped = ops.Control(cancelled=lambda: True)
    found = ops.render_together([film], ordered(plans, tmp_path, of_1=stopped))
    assert [isinstance(one, Cancelled) for one in found] == [False, True, *[False] * 3]
    assert sorted(sums(tmp_path)) == sorted(
        f"{n}/{plan.outcome}" for n, plan in enumerate(plans) if n != 1
    )


def test_what_is_let_go_of_is_worked_on_no_longer(
    film: Path, plans: list[Plan], tmp_path: Path
) -> None:
    (tmp_path / "0.dropped").touch()
    answers = made(film, plans[:2], tmp_path)
    assert answers[0]["error"]["code"] == "cancelled" and answers[1]["frames"] == 50
    assert not (tmp_path / "0" / plans[0].outcome).exists()


def test_all_stopped_end_at_once(film: Path, plans: list[Plan], tmp_path: Path) -> None:
    every = {f"of_{n}": ops.Control(cancelled=lambda: True) for n in range(len(plans))}
    with pytest.raises(Cancelled):
        ops.render_together([film], ordered(plans, tmp_path, **every))
    assert sums(tmp_path) == {}


def test_one_that_fails_leaves_the_others_alone(
    film: Path, plans: list[Plan], tmp_path: Path
) -> None:
    encoding = plans[2].picture.encoding.model_copy(update={"buffer": 1000})
    tight = plans[2].encoded_as(encoding)
    found = ops.render_together([film], ordered([plans[0], tight, plans[1]], tmp_path))
    assert isinstance(found[1], Impossible) and "encoder does not take" in found[1].what
    assert sorted(sums(tmp_path)) == [f"0/{plans[0].outcome}", f"2/{plans[1].outcome}"]


def test_what_fails_in_mid_work_is_told_of_that_one(
    film: Path, plans: list[Plan], tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real: Callable[..., None] = render.PictureWriter.write

    def write(writer: Any, frame: Any) -> None:
        if writer.frames == 20 and writer._rate == Fraction(24):
            raise MemoryError
        real(writer, frame)

    monkeypatch.setattr(render.PictureWriter, "write", write)
    slower = planned(film, PRORES | {"motion.rate": "24"})
    answers = made(film, [plans[0], slower, plans[1]], tmp_path)
    assert "more memory" in answers[1]["error"]["what"]
    assert [answers[n].get("frames") for n in (0, 2)] == [50, 50]


def test_a_reading_that_fails_fails_all(film: Path, plans: list[Plan], tmp_path: Path) -> None:
    words = tmp_path / "words.mp4"
    words.write_text("A lantern in the fog.\n" * 99)
    found = ops.render_together([words], ordered(plans[:2], tmp_path / "out"))
    assert all(isinstance(one, AmpleError) and "is a text file" in one.what for one in found)


def test_a_mix_that_is_brought_to_one_loudness_is_heard_once(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    heard: list[int] = []
    real = levelling._heard
    monkeypatch.setattr(
        levelling, "_heard", lambda *args: heard.append(len(args[2])) or real(*args)
    )
    mix = write(tmp_path / "mix.wav", loud_tone(), "stereo")
    twice = [planned(mix, WAV | LOUD), planned(mix, {"file.wrapper": "aiff"} | LOUD)]
    answers = made(mix, twice, tmp_path)
    assert heard and answers[0]["notes"] == answers[1]["notes"] != []
    alone = len(heard)
    made(mix, twice[:1], tmp_path)
    assert len(heard) == 2 * alone


def loud_tone() -> list[Any]:
    from tones import sine

    tone = sine(-10, 4)
    return [tone, tone]


def test_sizes_stand_for_their_own_plan(film: Path, plans: list[Plan], tmp_path: Path) -> None:
    found = ops.render_together([film], ordered(plans, tmp_path))
    sizes = [facts_of(one.path).value("picture.size") for one in found]  # type: ignore[union-attr]
    assert sizes == [Size(320, 180), Size(320, 180), Size(160, 90), *[Size(320, 180)] * 2]
