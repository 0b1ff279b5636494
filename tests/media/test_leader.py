"""What stands before a programme and after it: bars with their tone, a slate, black; and the
programme behind it, to the frame and the sample.
"""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.places import source_of
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from ample_crate.store.library import find
from captioned import captioned
from clips import Clip, moving_bar
from conformance import facts_of, made, plan_of
from counting import numbered, numbers

PAL, NTSC = Fraction(25), Fraction(30000, 1001)
RATE = 48000
CLICK = Fraction(1)  # s, of the programme
LEADER, TAIL = "bars 1 s, slate 1 s, black 1 s", "0.4 s"


def spec(scan: str = "progressive", **asked: str) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "motion.scan": scan,
        "sound.codec": "pcm_s24le",
        "file.wrapper": "mkv",
    }
    rows |= {
        key.replace("__", "-").replace("_", ".", 1).replace("-", "_"): value
        for key, value in asked.items()
    }
    head = {"id": "led", "version": 1, "recipient": "pinfold", "title": "For the lanterns"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


@pytest.fixture(scope="module")
def film(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Two seconds with a click after one."""
    click = np.zeros(RATE * 2)
    click[round(CLICK * RATE) :][:240] = 0.5
    sound = np.stack([click, click]).astype(np.float32)
    clip = Clip(draw=numbered(PAL), frames=50, sound=sound, sound_codec="pcm_s24le")
    return clip.write(tmp_path_factory.mktemp("led") / "film.mov")


def heard(path: Path) -> np.ndarray:
    with av.open(str(path)) as container:
        resampler = av.AudioResampler(format="fltp", layout="stereo")
        frames = [f for one in container.decode(audio=0) for f in resampler.resample(one)]
        return np.concatenate([f.to_ndarray() for f in frames], axis=1)[0]


def test_the_programme_lies_behind_it(film: Path, tmp_path: Path) -> None:
    plan = plan_of(film, spec(), leader=LEADER, tail=TAIL)
    assert plan.frames == 75 + 50 + 10 and plan.programme == 2 and plan.lead == 3
    file = made(plan, film, tmp_path)
    shown = numbers(file)
    assert len(shown) == 135 and shown[75:125] == list(range(50))
    assert [source_of(plan, place) for place in range(75, 125)] == list(range(50))
    sound = heard(file)
    assert len(sound) == pytest.approx(135 * RATE / 25, abs=1)
    click = int(np.argmax(np.abs(sound[2 * RATE :]) > 0.3)) + 2 * RATE
    assert click == pytest.approx((3 + CLICK) * RATE, abs=2)
    # A sine whose peaks lie 18 dB below full scale, while the bars stand; then silence.
    bars = sound[:RATE]
    assert 20 * np.log10(np.abs(bars).max()) == pytest.approx(-18, abs=0.05)
    spectrum = np.abs(np.fft.rfft(bars))
    assert int(spectrum.argmax()) == 1000
    assert not np.abs(sound[RATE + 48 : 3 * RATE]).any()


def test_measuring_finds_what_was_set(film: Path, tmp_path: Path) -> None:
    route = plan_route(facts_of(film), spec(), {"leader": LEADER, "tail": TAIL}, film.name)
    assert route.plan is not None
    file = made(route.plan, film, tmp_path)
    facts = ops.measure(file, depth="everything").facts
    around = ("motion.leader", "motion.bars_before", "motion.slate", "motion.black_after")
    for key in (*around, "sound.tone_before"):
        foretold = route.facts.fraction(key)
        assert foretold is not None
        assert facts.fraction(key) == pytest.approx(float(foretold), abs=0.11), key
    told = {key: facts.value(key) for key in ("motion.bars_before", "motion.slate")}
    assert told == {"motion.bars_before": 1, "motion.slate": 1}
    assert facts.fraction("sound.tone_before") == pytest.approx(1, abs=0.1)
    assert facts.fraction("motion.leader") == pytest.approx(3, abs=0.05)


def test_bars_are_seen_below_lines_above_the_picture(tmp_path: Path) -> None:
    asked = find("skerry-d10-625")
    master = Clip(
        draw=moving_bar((720, 576)), frames=25, aspect=Fraction(16, 15), matrix="smpte170m"
    ).write(tmp_path / "film.mov")
    named = {f"name.{field}": "7" for field in asked.delivery.fields}
    plan = plan_of(master, asked, leader="bars 1 s, slate 1 s", **named)
    assert plan.picture is not None and plan.picture.format.above == 32
    facts = ops.measure(made(plan, master, tmp_path), depth="everything").facts
    assert (facts.value("motion.bars_before"), facts.value("motion.slate")) == (1, 1)


@pytest.mark.parametrize("scan", ["progressive", "interlaced"])
def test_what_is_shown_before_a_run_is_what_is_coded(film: Path, scan: str, tmp_path: Path) -> None:
    order = {"motion_field_order": "upper first"} if scan == "interlaced" else {}
    plan = plan_of(film, spec(scan, **order), leader=LEADER, tail=TAIL)
    file = made(plan, film, tmp_path)
    found = ops.quality(file, [film], plan, ops.Control())
    assert found.frames == found.identical == 135
    assert found.programme == (75, 125)
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(film)]))
    for place in (0, 30, 60, 75, 100, 124, 125, 134):
        one = planned.frame_of([str(film)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place


def test_a_range_its_captions_and_chapters_come_behind_it(tmp_path: Path) -> None:
    master = captioned(tmp_path)
    part = Item(span=Span(name="part", first=25, frames=25))
    plans = [plan_of(master, spec(), part, tracks="1", leader=text) for text in ("", LEADER)]
    without, behind = (times(made(plan, master, tmp_path / str(n))) for n, plan in enumerate(plans))
    assert without and behind == pytest.approx([at + 3 for at in without])


def times(path: Path) -> list[float]:
    with av.open(str(path)) as container:
        chapters = [float(one["start"] * one["time_base"]) for one in container.chapters()]
        texts = [
            float(p.pts * p.time_base) for p in container.demux(subtitles=0) if p.pts is not None
        ]
    return chapters + texts


def test_the_first_frame_of_the_programme_keeps_its_label(tmp_path: Path) -> None:
    master = facts_of(Clip(frames=25, tones=None).write(tmp_path / "film.mov"))
    labelled = master.with_values("assumed", {"file.start_timecode": "10:00:00:00"})
    asked = spec(file_wrapper="mov", picture_codec="prores", sound_tracks="0")
    said = spec(
        file_wrapper="mov",
        picture_codec="prores",
        sound_tracks="0",
        file_start__timecode="09:58:00:00",
    )
    for one, first in ((asked, "09:59:57:00"), (said, "09:58:00:00")):
        route = plan_route(labelled, one, {"leader": LEADER}, "film")
        assert route.plan is not None and route.plan.files[0].timecode == first


@pytest.mark.parametrize("text", ["stripes 3 s", "bars", "bars -1 s", "black 900 s"])
def test_what_is_no_leader_is_refused(film: Path, text: str) -> None:
    with pytest.raises(BadValue):
        plan_of(film, spec(), leader=text)
