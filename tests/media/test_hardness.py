"""What a rate buys, foretold from stretches, held against what is then made at that rate."""

from __future__ import annotations

from itertools import pairwise
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core import formats, quality
from ample_crate.core.errors import NotFound, Refused
from ample_crate.core.formats.size import RateControlled
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.sampled import sampled
from ample_crate.core.units.values import Size
from ample_crate.media import coded, looks, ops, planned
from ample_crate.terminal import Line
from ample_crate.web.schemas import Progress
from ample_crate.work import hardness
from clips import Clip, Draw, moving_bar
from conformance import Case, cases, facts_of, spec_for

SIZE = Size(256, 144)
RATED = {
    name: codec
    for name, codec in formats.made_picture().items()
    if codec.made is not None and isinstance(codec.made.size, RateControlled)
}


def grain(amount: float, drift: float) -> Draw:
    """A soft texture that drifts, under grain."""
    rng = np.random.default_rng(4)
    coarse = rng.integers(40, 200, (SIZE.height // 4 + 2, SIZE.width // 2, 3))
    soft = coarse.repeat(8, 0).repeat(8, 1)[: SIZE.height * 2].astype(np.float32)
    for axis in (0, 1):
        soft = sum(np.roll(soft, n, axis) for n in range(-4, 5)) / 9

    def draw(time: float) -> np.ndarray:
        x = int(time * drift) % SIZE.width
        seen = soft[: SIZE.height, x : x + SIZE.width]
        noise = np.random.default_rng(round(time * 1000)).normal(0, amount, seen.shape)
        return np.clip(seen + noise, 16, 235).astype(np.uint8)

    return draw


def film(path: Path, draw: Draw, frames: int = 150) -> Path:
    return Clip(draw=draw, frames=frames, tones=None, codec="ffv1", options={}).write(path)


@pytest.fixture(scope="module")
def grainy(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return film(tmp_path_factory.mktemp("film") / "film.mkv", grain(2.0, 30.0))


def case_of(codec: str) -> Case:
    return next(c for c in cases() if c.codec == codec and c.size == c.size and not c.fields)


def plan_of(master: Path, codec: str, rate: str, **choices: str) -> Plan:
    case = case_of(codec)._replace(size=SIZE)
    asked = {"picture.bit_rate": rate}
    spec = spec_for(case)
    twice = spec.coding.model_copy(update={"passes": 2})
    spec = spec.model_copy(update={"coding": twice})
    route = plan_route(facts_of(master), spec, asked | choices, master.name)
    assert route.plan is not None, route.cautions
    return route.plan


@pytest.mark.parametrize("codec", sorted(RATED))
def test_each_step_of_the_ladder_leaves_about_half(codec: str, grainy: Path) -> None:
    made = RATED[codec].made
    assert made is not None and isinstance(made.size, RateControlled)
    plan, ladder = plan_of(grainy, codec, "400 kb/s"), made.size.ladder
    plans = [sampled(plan, 0, 25, quantiser) for quantiser in ladder]
    (points,) = looks.stretches([grainy], [plans])
    rates = np.array([point["rate"] for point in points])
    assert (rates[:-1] > rates[1:]).all()
    steps = np.log2(rates[0] / rates[-1]) / (len(rates) - 1)
    assert 0.6 < steps < 1.5, (rates, steps)
    assert all(a["figures"]["psnr"] > b["figures"]["psnr"] for a, b in pairwise(points))


@pytest.mark.parametrize(
    ("amount", "drift", "off"),
    # Grain takes much rate for little quality: there the rate is known less well.
    [(0.0, 40.0, 0.2), (0.5, 20.0, 0.2), (2.0, 30.0, 0.4), (3.0, 60.0, 0.4)],
)
def test_what_is_foretold_comes_out(
    amount: float, drift: float, off: float, tmp_path: Path
) -> None:
    master = film(tmp_path / "film.mkv", grain(amount, drift))
    plan = plan_of(master, "h264", "250 kb/s")
    learned = hardness.learn(plan, [master], ops.Control())
    made = ops.render([master], tmp_path / "made", plan, 10**7)
    found = ops.quality(made.path, [master], plan)
    wanted = quality.figures(found.curves["xpsnr"]).mean
    rate = 8 * made.path.stat().st_size / float(plan.seconds)
    assert learned.hardness.figures(rate)["xpsnr"] == pytest.approx(wanted, abs=1.2)
    there = learned.hardness.rate_for(wanted)
    assert there is not None and there == pytest.approx(rate, rel=off)


def test_the_hardest_part_is_found(tmp_path: Path) -> None:
    easy, hard = grain(0.0, 5.0), grain(6.0, 90.0)
    master = film(tmp_path / "film.mkv", lambda t: hard(t) if 3 <= t < 4 else easy(t))
    learned = hardness.learn(plan_of(master, "h264", "300 kb/s"), [master], ops.Control())
    worst = learned.document()["hardest"][0]
    assert 2 <= worst["seconds"] < 4
    assert worst["bit_rate"] > 300_000


def test_a_part_is_seen_as_it_comes_out(grainy: Path) -> None:
    plan = plan_of(grainy, "h264", "300 kb/s")
    learned = hardness.learn(plan, [grainy], ops.Control())
    number = learned.hardness.hardest(learned.planned)[0]
    place = learned.stretches[number].first + learned.frames // 2
    wanted = reference_of(plan, grainy, place)
    found = []
    for rate in (150_000, 300_000, 600_000):
        part, at = hardness.part_of(learned, plan, place, rate)
        luma = coded.frame_of([str(grainy)], part, at).to_ndarray()[: SIZE.height]
        error = np.mean((luma.astype(float) - wanted) ** 2)
        found.append(10 * np.log10(255**2 / error))
        foretold = learned.hardness.curves[number].figure(
            learned.hardness.shares(rate)[number], "psnr"
        )
        # Of one frame of the stretch; a quantiser is a whole number.
        assert found[-1] == pytest.approx(foretold, abs=1.5)
    assert found == sorted(found) and found[-1] > found[0] + 1
    with pytest.raises(NotFound):
        hardness.part_of(learned, plan, plan.frames + 1, 300_000)


def test_what_was_kept_before_is_read(grainy: Path) -> None:
    plan = plan_of(grainy, "h264", "300 kb/s")
    learned = hardness.learn(plan, [grainy], ops.Control())
    kept = learned.as_json()
    firsts = [one["first"] for one in kept.pop("stretches")]
    for curve in kept["curves"]:
        for point in curve:
            del point["seconds"]
    former = hardness.Learned.from_json(kept | {"places": firsts}, plan)
    assert [one.first for one in former.stretches] == firsts
    assert {one.share for one in former.stretches} == {1 / len(firsts)}
    assert former.hardness.slower(150_000, 300_000) is None


def reference_of(plan: Plan, master: Path, place: int) -> np.ndarray:
    return planned.frame_of([str(master)], plan, place).to_ndarray()[: SIZE.height].astype(float)


def test_a_part_of_a_programme_with_a_leader_is_found(grainy: Path) -> None:
    plan = plan_of(grainy, "h264", "300 kb/s", leader="bars 1 s, black 1 s")
    learned = hardness.learn(plan, [grainy], ops.Control())
    assert learned.of == 150 and learned.lead == 50
    first = learned.document()["hardest"][0]["first"]
    assert first - 50 in [one.first for one in learned.stretches]
    part, at = hardness.part_of(learned, plan, first, 300_000)
    assert at == 0 and not part.around.frames
    assert part.inputs[0].first == first - 50


def test_a_few_frames_are_enough(tmp_path: Path) -> None:
    master = film(tmp_path / "film.mkv", grain(1.0, 10.0), frames=3)
    found = hardness.learn(plan_of(master, "h264", "1 Mb/s"), [master], ops.Control()).document()
    assert found["sampled"]["stretches"] == 1 and found["sampled"]["frames"] == 3
    assert found["planned"]["psnr"] > 20


def test_nothing_is_coded_twice(grainy: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    plan, done = plan_of(grainy, "h264", "30 kb/s"), list[tuple[int, int]]()
    each = looks.stretches

    def noted(inputs: Any, parts: Any, control: Any) -> Any:
        made = [one for plans in parts for one in plans]
        done.extend((one.inputs[0].first, one.picture.rated.quantiser) for one in made)
        return each(inputs, parts, control)

    monkeypatch.setattr(looks, "stretches", noted)
    learned = hardness.learn(plan, [grainy], ops.Control())
    assert len(set(done)) == len(done)
    assert all(len(curve.points) == 3 for curve in learned.hardness.curves)


def known(points: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What comes out the same each time: all but how long it took."""
    assert all(point.pop("seconds") > 0 for point in points)
    return points


def test_stretches_coded_at_once_are_as_by_themselves(grainy: Path) -> None:
    plan = plan_of(grainy, "h264", "300 kb/s")
    parts = [[sampled(plan, at, 25, one) for one in (20, 30)] for at in range(0, 125, 25)]
    together = [known(points) for points in looks.stretches([grainy], parts)]
    assert together == [known(looks.stretches([grainy], [part])[0]) for part in parts]


def test_it_says_how_far_it_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    master = film(tmp_path / "film.mkv", grain(1.0, 10.0), frames=30)
    told: list[dict[str, Any]] = []
    line = Line()
    monkeypatch.setattr(line, "shown", True)

    def heard(body: dict[str, Any]) -> None:
        told.append(body)
        # What a terminal shows needs all of it.
        line(body)

    hardness.learn(plan_of(master, "h264", "1 Mb/s"), [master], ops.Control(heard))
    shares = [body["share"] for body in told]
    assert shares[-1] == 1.0 and 0 < max(body["frame"] for body in told) <= 3 * 30
    assert all(Progress.model_validate(body | {"pass": 1}) for body in told)


def test_where_no_rate_is_set_that_is_said(tmp_path: Path) -> None:
    master = film(tmp_path / "film.mkv", moving_bar(SIZE), frames=5)
    spec = spec_for(case_of("prores")._replace(size=SIZE))
    plan = plan_route(facts_of(master), spec, {}, master.name).plan
    assert plan is not None
    with pytest.raises(Refused, match="No rate is set"):
        hardness.learn(plan, [master], ops.Control())


def test_a_copied_picture_keeps_its_rate(tmp_path: Path) -> None:
    master = Clip(frames=5, tones=None).write(tmp_path / "film.mp4")
    spec = spec_for(case_of("h264")._replace(size=Size(320, 180), wrapper="mp4"))
    plan = plan_route(facts_of(master), spec, {"picture": "copied"}, master.name).plan
    assert plan is not None
    with pytest.raises(Refused, match="is copied"):
        hardness.learn(plan, [master], ops.Control())


def test_an_index_tells_what_frames_weigh(tmp_path: Path, grainy: Path) -> None:
    master = Clip(draw=grain(0.0, 5.0), frames=20, tones=None)
    found = looks.weights(master.write(tmp_path / "film.mov"))
    assert len(found) == 20 and min(found) > 0
    assert len(looks.weights(grainy)) < 150
