"""The timecode of the first frame: asked, or the master's."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core.facts import Facts
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from support import master_facts

NTSC = Fraction(30000, 1001)


def planned(master: Facts, wrapper: str = "mov", **rows: Any) -> Route:
    asked = {"file.wrapper": {"is": wrapper}, "picture.codec": {"is": "prores"}}
    asked |= {key.replace("_", ".", 1): rule for key, rule in rows.items()}
    document = {
        "id": "start",
        "version": 1,
        "recipient": "pinfold",
        "title": "t",
        "requirements": [{"property": k, "rule": r} for k, r in asked.items()],
    }
    return plan_route(master, Spec.model_validate(document), {"picture": "encoded"}, "film.mov")


def start(route: Route) -> str | None:
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    return route.plan.files[0].timecode


@pytest.mark.parametrize("wrapper", ["mov", "mxf"])
def test_what_is_asked_is_made_and_predicted(wrapper: str) -> None:
    route = planned(
        master_facts(file_start_timecode="01:00:00:00"),
        wrapper,
        file_start_timecode={"is": "10:00:00:00"},
    )
    assert start(route) == route.facts.value("file.start_timecode") == "10:00:00:00"
    assert any(s.title == "Timecode from 10:00:00:00" for s in route.steps)


def test_the_masters_is_carried_over_where_nobody_asks() -> None:
    assert start(planned(master_facts(file_start_timecode="01:00:00:12"))) == "01:00:00:12"
    assert start(planned(master_facts())) is None
    # MXF always has one.
    assert start(planned(master_facts(), "mxf")) == "00:00:00:00"
    silent = planned(master_facts(file_start_timecode="01:00:00:12"), "mpeg-ts")
    assert silent.plan is None or silent.plan.files[0].timecode is None


@pytest.mark.parametrize(
    ("master", "made", "have", "carried"),
    [
        (Fraction(50), Fraction(25), "01:00:00:48", "01:00:00:24"),
        (NTSC, NTSC, "01:00:00;02", "01:00:00;02"),
        (NTSC, Fraction(25), "01:00:00;15", "01:00:00:12"),
        (Fraction(25), Fraction(25), "nonsense", None),
    ],
)
def test_at_another_rate_the_time_of_day_stays(
    master: Fraction, made: Fraction, have: str, carried: str | None
) -> None:
    facts = master_facts(motion_rate=master, file_start_timecode=have)
    assert start(planned(facts, motion_rate={"is": str(made)})) == carried


def test_drop_frame_is_counted_as_it_is_asked() -> None:
    route = planned(
        master_facts(motion_rate=NTSC),
        file_start_timecode={"is": "10:00:00;00"},
        file_drop_frame={"is": True},
    )
    assert start(route) == "10:00:00;00" and route.facts.value("file.drop_frame") is True


def test_a_timecode_that_the_rate_does_not_have_is_refused() -> None:
    route = planned(master_facts(), file_start_timecode={"is": "10:00:00;00"})
    assert route.plan is None
    (said,) = [c for c in route.cautions if c.blocks]
    assert "no drop-frame counting" in said.what and "colon" in said.way_out
