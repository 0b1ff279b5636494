"""Frames mixed for another rate: how much of which is in each, to the code value."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core.errors import BadValue
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.places import source_of
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import Blend
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from clips import Clip, Picture
from conformance import facts_of, made, measured_here, plan_of

FILM, NTSC, PAL = Fraction(24), Fraction(30000, 1001), Fraction(25)
STEP = 6  # code values from one frame to the next


def ramp(rate: Fraction) -> Any:
    """Grey that grows by as much every frame."""

    def draw(time: float) -> Picture:
        level = round(16 + STEP * round(time * float(rate)))
        return np.full((180, 320, 3), round((level - 16) * 255 / 219), np.uint8)

    return draw


def spec(rate: Fraction, **more: str) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "file.wrapper": "mkv",
        "motion.rate": str(rate),
        "motion.scan": "progressive",
        **{key.replace("_", ".", 1): value for key, value in more.items()},
    }
    head = {"id": "paced", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def film(folder: Path, rate: Fraction, **more: Any) -> Path:
    clip = Clip(draw=ramp(rate), rate=rate, frames=36, codec="ffv1", options={}, tones=None, **more)
    return clip.write(folder / "film.mkv")


def levels(plan: Plan, master: Path) -> list[float]:
    assert plan.picture is not None
    whole = reference.frames(plan.picture, plan, [str(master)])
    return [float(frame.to_ndarray()[: frame.height].mean()) for frame in whole]


@pytest.mark.parametrize(
    ("have", "want"), [(FILM, PAL), (PAL, NTSC), (NTSC, PAL), (PAL, FILM), (FILM, Fraction(60))]
)
def test_each_frame_is_mixed_of_the_two_about_its_moment(
    have: Fraction, want: Fraction, tmp_path: Path
) -> None:
    master = film(tmp_path, have)
    plan = plan_of(master, spec(want), retime="blended")
    found = levels(plan, master)
    assert len(found) == plan.frames == round(Fraction(36) / have * want)
    for place, level in enumerate(found):
        at = min(35, place * have / want)
        assert level == pytest.approx(16 + STEP * float(at), abs=0.75), place
        assert source_of(plan, place) == int(place * have / want)


@pytest.mark.parametrize("leader", ["", "black 0.2 s"])
def test_what_is_shown_before_a_run_is_what_is_coded(leader: str, tmp_path: Path) -> None:
    master = film(tmp_path, FILM)
    part = Item(span=Span(first=5, frames=24))
    choices = {"retime": "blended", "leader": leader, "burn_in": "timecode"}
    plan = plan_of(master, spec(PAL), part, **choices)
    file = made(plan, master, tmp_path)
    measured = measured_here(file)
    assert measured.value("motion.frames") == plan.frames
    assert measured.fraction("motion.rate") == PAL and measured.value("motion.steady")
    found = ops.quality(file, [master], plan, ops.Control())
    assert found.frames == found.identical == plan.frames
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(master)]))
    for place in [*range(plan.around.first, plan.frames, 4), plan.frames - 1]:
        one = planned.frame_of([str(master)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place


def test_fields_are_made_whole_before_they_are_mixed(tmp_path: Path) -> None:
    master = film(tmp_path, PAL, fields="upper first")
    plan = plan_of(master, spec(NTSC), retime="blended")
    assert plan.picture is not None
    assert [step.kind for step in plan.picture.steps if step.kind != "samples"][:1] == [
        "deinterlace"
    ]
    assert isinstance(plan.picture.steps[-1], Blend)


def test_it_is_offered_where_frames_would_lie_between_two(tmp_path: Path) -> None:
    master = film(tmp_path, PAL)

    def offered(rate: Fraction, **choices: str) -> Any:
        route = plan_route(facts_of(master), spec(rate), choices, "film")
        return route.choices.get("retime")

    assert offered(NTSC) == "" and offered(NTSC, retime="blended") == "blended"
    assert offered(PAL) is None
    # Every second one is left out: none lies between two.
    assert offered(Fraction(25, 2)) is None
    with pytest.raises(BadValue):
        plan_of(master, spec(NTSC), retime="melted")
