"""The paces of encoders: each is what it is called, and a trial tells what it costs."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core.errors import BadValue, Impossible
from ample_crate.core.planning.encoding import RatedPicture
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.ready import Past, encode_seconds
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import PictureFormat
from ample_crate.core.specs.spec import Spec
from ample_crate.media import confine, encoders, trial
from ample_crate.media.encoders import hardware
from ample_crate.media.encoders.setup import PictureSetup
from clips import Clip, moving_bar
from conformance import SIZE, facts_of, ignored, odd_ones, planned_from

SMALL = PictureFormat(width=320, height=192, rate=Fraction(25), chroma="4:2:0", depth=8)
WRAPPERS = {"h264": "mov", "hevc": "mp4", "av1": "mp4", "vp9": "webm", "vp8": "webm"}


def spec_of(codec: str, **rules: Any) -> Spec:
    asked: dict[str, Any] = {
        "file.wrapper": {"is": WRAPPERS.get(codec, "mov")},
        "picture.codec": {"is": codec},
        "picture.size": {"is": str(SIZE)},
        "sound.tracks": {"is": 0},
    }
    rows = [{"property": key, "rule": rule} for key, rule in (asked | rules).items()]
    head = {"id": "paces", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": rows})


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    clip = Clip(draw=moving_bar(SIZE), frames=30, tones=None)
    return clip.write(tmp_path_factory.mktemp("paces") / "film.mov")


def options(plan: Plan) -> dict[str, str]:
    assert plan.picture is not None and plan.picture.kind == "picture"
    made = encoders.picture(plan.picture)
    assert isinstance(made, PictureSetup)
    return made.options


@pytest.mark.parametrize("codec", list(WRAPPERS))
def test_the_faster_pace_is_another_and_is_proven_like_it(
    codec: str, master: Path, tmp_path: Path
) -> None:
    usual = plan_route(facts_of(master), spec_of(codec), {"picture": "encoded"}, "film.mov")
    assert usual.plan is not None and usual.choices["pace"] == "usual"
    plan, predicted, _, measured = planned_from(
        master, spec_of(codec), tmp_path, picture="encoded", pace="faster"
    )
    assert not odd_ones(predicted, measured)
    assert options(plan) != options(usual.plan)
    assert (usual.plan.effort, plan.effort) == (codec, f"{codec}, faster")


def test_it_is_said_and_its_time_is_known_by_itself(master: Path) -> None:
    facts = facts_of(master)
    route = plan_route(facts, spec_of("hevc"), {"pace": "faster"}, "film.mov")
    assert any("faster pace" in step.title for step in route.steps)
    past = Past(encode={"hevc": 5.0, "hevc, faster": 40.0})
    assert encode_seconds("hevc, faster", 40e6, past) == 1.0
    assert encode_seconds("hevc", 40e6, past) == 8.0
    assert encode_seconds("hevc, faster", 40e6) < encode_seconds("hevc", 40e6)
    with pytest.raises(BadValue, match="no pace"):
        plan_route(facts, spec_of("hevc"), {"pace": "slower"}, "film.mov")


def test_it_is_not_offered_where_it_would_change_nothing(master: Path) -> None:
    facts = facts_of(master)
    prores = spec_of("prores", **{"picture.profile": {"is": "hq"}})
    assert "pace" not in plan_route(facts, prores, {}, "film.mov").choices
    classes = {"picture.profile": {"is": "high 4:2:2 intra"}, "picture.size": {"is": "1920x1080"}}
    intra = plan_route(facts, spec_of("h264", **classes), {}, "film.mov")
    assert intra.plan is not None and intra.plan.rated is None and "pace" not in intra.choices
    copied = plan_route(facts, spec_of("h264"), {"picture": "copied"}, "film.mov")
    assert "pace" not in copied.choices


def stand_in(e: RatedPicture, f: PictureFormat) -> list[PictureSetup]:
    """Give an encoder that no machine has, and one that every machine has, as a device would be."""
    options = {"preset": "ultrafast", "g": str(e.gop), "b": str(e.bit_rate)}
    there = PictureSetup("libx264", options, bit_rate=e.bit_rate, pixels="yuv420p")
    away = PictureSetup("h264_nvenc", {}, bit_rate=e.bit_rate, pixels="yuv420p")
    return [away, there]


def test_hardware_that_does_not_open_is_passed_over(
    master: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(hardware, "setups", stand_in)
    plan, predicted, path, measured = planned_from(
        master, spec_of("h264"), tmp_path, picture="encoded", pace="hardware"
    )
    assert plan.rated is not None and plan.passes == 1 and not plan.rated.named
    assert measured.value("picture.codec") == "h264" and path.stat().st_size
    assert measured.value("motion.frames") == predicted.value("motion.frames")


def test_where_none_opens_the_run_says_so(master: Path) -> None:
    """No machine that runs these tests is known to have any; one that has gives an encoder."""
    spec = spec_of("h264")
    plan = plan_route(facts_of(master), spec, {"pace": "hardware", "picture": "encoded"}, "f").plan
    assert plan is not None and plan.rated is not None and plan.picture is not None
    assert plan.picture.kind == "picture"
    there = any(
        hardware.opens(one, plan.picture.format)
        for one in hardware.setups(plan.rated, plan.picture.format)
    )
    if there:
        assert isinstance(encoders.picture(plan.picture), PictureSetup)
        return
    with pytest.raises(Impossible, match="No hardware of this machine") as error:
        encoders.picture(plan.picture)
    assert "another pace" in error.value.way_out


def test_a_trial_tells_speed_and_quality(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(hardware, "setups", lambda e, f: [])
    told = trial.handle(ignored, "h264", 8, SMALL)
    assert (told["frames"], told["size"]) == (8, "320x192") and set(told["paces"]) == {
        "usual",
        "faster",
        "hardware",
    }
    assert "No hardware" in told["paces"]["hardware"]["error"]
    for pace in ("usual", "faster"):
        assert told["paces"][pace]["speed"] > 0 and 30 < told["paces"][pace]["quality"] < 70


def test_quality_is_what_arithmetic_gives(monkeypatch: pytest.MonkeyPatch) -> None:
    """Peak signal-to-noise ratio of an error of two code values: 20 log10(255 / 2) dB."""
    pictures = [np.full((192, 320), 100, np.uint8) for _ in range(4)]
    off = [picture + 2 for picture in pictures]
    encoding = trial._encoding("h264", "usual")
    told = trial._tried(encoding, SMALL, off, ignored)
    assert told["quality"] > 50
    frames = iter(off * 2)
    monkeypatch.setattr(trial, "_frame", lambda luma, plain=trial._frame: plain(next(frames)))
    shifted = trial._tried(encoding, SMALL, pictures, ignored)
    assert shifted["quality"] == pytest.approx(20 * np.log10(255 / 2), abs=0.4)


def test_devices_are_seen_by_those_alone_that_need_them(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    for name in ("dri/renderD128", "nvidia0", "video11", "videotest", "sda"):
        (tmp_path / name).parent.mkdir(exist_ok=True)
        (tmp_path / name).touch()
    found = confine.devices(tmp_path)
    assert [one.name for one in found] == ["dri", "nvidia0", "video11"]
    monkeypatch.setattr(confine, "devices", lambda: found)
    with_them = confine._wrapped(confine.View(devices=True), None)
    assert str(tmp_path / "dri") in with_them and "/sys" in with_them
    assert str(tmp_path / "dri") not in confine._wrapped(confine.View(), None)
    assert confine._keepers(confine.View()) == []
    assert "--clear-groups" in confine._as(1, []) and "--groups=7,44" in confine._as(1, [7, 44])
