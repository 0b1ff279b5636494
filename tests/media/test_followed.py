"""Frames made between two others along what moves."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.steps import Compensate
from ample_crate.core.specs.spec import Spec
from ample_crate.media import ops, planned, reference
from clips import Clip, Picture
from conformance import facts_of, made, measured_here, plan_of

FILM, PAL = Fraction(24), Fraction(25)
SIZE = (192, 112)
SPEED = 150  # samples a second
CUT = 0.5  # s


def texture(seed: int) -> np.ndarray:
    """Soft grain, some samples wide, that goes on without an end."""
    rough = np.random.default_rng(seed).normal(size=(SIZE[1], 512))
    spectrum = np.fft.fft2(rough)
    waves = [np.fft.fftfreq(n)[:, None] for n in rough.shape]
    soft = np.fft.ifft2(spectrum * np.exp(-((waves[0] ** 2 + waves[1].T ** 2) * 90))).real
    return 128 + 40 * soft / soft.std()


BEFORE, AFTER = texture(1), texture(2)


def panned(time: float) -> Picture:
    """Grain that goes by, another from a moment on."""
    grain = BEFORE if time < CUT else AFTER
    columns = np.arange(SIZE[0]) + SPEED * time
    first, share = np.floor(columns).astype(int) % 512, columns % 1
    grey = grain[:, first] * (1 - share) + grain[:, (first + 1) % 512] * share
    return np.repeat(np.clip(grey, 16, 235).astype(np.uint8)[:, :, None], 3, axis=2)


def spec(rate: Fraction, **more: str) -> Spec:
    rows = {
        "picture.codec": "ffv1",
        "file.wrapper": "mkv",
        "motion.rate": str(rate),
        "motion.scan": "progressive",
        **{key.replace("_", ".", 1): value for key, value in more.items()},
    }
    head = {"id": "followed", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate(
        {**head, "requirements": [{"property": k, "rule": {"is": v}} for k, v in rows.items()]}
    )


def film(folder: Path, rate: Fraction, frames: int, name: str = "film") -> Path:
    clip = Clip(draw=panned, rate=rate, frames=frames, codec="ffv1", options={}, tones=None)
    return clip.write(folder / f"{name}.mkv")


def luma(plan: Plan, master: Path) -> list[np.ndarray]:
    assert plan.picture is not None
    whole = reference.frames(plan.picture, plan, [str(master)])
    return [frame.to_ndarray()[: frame.height].astype(float) for frame in whole]


def likeness(one: np.ndarray, other: np.ndarray) -> float:
    return float(10 * np.log10(255**2 / max(1e-9, np.mean((one - other) ** 2))))


@pytest.mark.parametrize(("have", "want"), [(PAL, 2 * PAL), (FILM, PAL)])
def test_it_is_nearer_to_what_was_there_than_a_mix(
    have: Fraction, want: Fraction, tmp_path: Path
) -> None:
    master = film(tmp_path, have, 20)
    frames = int(20 / have * want)
    truth = plan_of(film(tmp_path, want, frames, "truth"), spec(want), picture="encoded")
    there = luma(truth, tmp_path / "truth.mkv")
    found = {}
    for way in ("blended", "compensated"):
        plan = plan_of(master, spec(want), retime=way)
        shown = luma(plan, master)
        assert len(shown) == plan.frames == round(20 / have * want)
        # Away from the cut, and from the ends, where nothing is known of what follows.
        moving = [n for n in range(4, frames - 4) if abs(n / want - CUT) > 2 / have]
        between = [n for n in moving if (n * have / want).denominator != 1]
        found[way] = np.mean([likeness(shown[n], there[n]) for n in between])
    assert found["compensated"] > found["blended"] + 3


def test_a_cut_is_not_melted(tmp_path: Path) -> None:
    master = film(tmp_path, PAL, 24)
    plan = plan_of(master, spec(2 * PAL), retime="compensated")
    shown, own = luma(plan, master), luma(plan_of(master, spec(PAL), picture="encoded"), master)
    at = 25  # between the master's frames 12 and 13, of which the latter is another picture
    assert max(likeness(shown[at], own[12]), likeness(shown[at], own[13])) > 60


def test_what_is_shown_before_a_run_is_what_is_coded(tmp_path: Path) -> None:
    master = film(tmp_path, FILM, 30)
    part = Item(span=Span(first=3, frames=24))
    choices = {"retime": "compensated", "leader": "black 0.2 s", "burn_in": "timecode"}
    plan = plan_of(master, spec(PAL), part, **choices)
    file = made(plan, master, tmp_path)
    assert measured_here(file).value("motion.frames") == plan.frames
    found = ops.quality(file, [master], plan, ops.Control())
    assert found.frames == found.identical == plan.frames
    assert plan.picture is not None
    whole = list(reference.frames(plan.picture, plan, [str(master)]))
    for place in [*range(plan.around.first, plan.frames, 5), plan.frames - 1]:
        one = planned.frame_of([str(master)], plan, place)
        assert (one.to_ndarray() == whole[place].to_ndarray()).all(), place


def test_its_time_is_said_and_what_it_cannot_is_refused(tmp_path: Path) -> None:
    facts = facts_of(film(tmp_path, FILM, 10))

    def route(**asked: str) -> Any:
        return plan_route(facts, spec(PAL, **asked), {"retime": "compensated"}, "film.mkv")

    good = route()
    assert good.choices["retime"] == "compensated"
    assert isinstance(good.plan.picture.steps[-1], Compensate)
    assert any("Following motion takes about" in one.what for one in good.cautions)
    deep = route(picture_bit_depth="10")
    (told,) = [one for one in deep.cautions if one.blocks]
    assert deep.plan is None and "8 bit and without transparency" in told.what
