"""Leaders: read, written, as specs ask for them."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.errors import BadValue
from ample_crate.core.facts import Facts
from ample_crate.core.planning import leader
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from support import master_facts


def asking(**rows: object) -> Spec:
    named = [
        {"property": key.replace("_", ".", 1), "rule": rule, "source": "1"}
        for key, rule in rows.items()
    ]
    return spec_of(named)


def spec_of(named: list[dict[str, Any]]) -> Spec:
    head = {"id": "asks", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**head, "requirements": named})


@given(
    st.lists(
        st.tuples(
            st.sampled_from(leader.KINDS), st.integers(1, 2000).map(lambda n: n / Fraction(20))
        ),
        max_size=5,
    )
)
def test_what_is_written_is_read(parts: list[tuple[leader.Kind, Fraction]]) -> None:
    assert leader.read(leader.shown(parts)) == tuple(parts)


@pytest.mark.parametrize(
    ("rows", "text"),
    [
        ({"file_wrapper": {"is": "mxf"}}, ""),
        (
            {
                "motion_leader": {"is": "120 s", "tolerance": "1 s"},
                "motion_bars_before": {"at_least": "60 s"},
                "sound_tone_before": {"at_least": "60 s"},
                "motion_slate": {"at_least": "10 s"},
            },
            "bars 100 s, slate 10 s, black 10 s",
        ),
        ({"motion_leader": {"is": "0 s"}}, ""),
        ({"motion_black_before": {"at_most": "1 s"}}, ""),
        ({"motion_black_before": {"at_least": "2 s"}}, "black 2 s"),
        ({"motion_leader": {"at_least": "5 s"}}, "black 5 s"),
    ],
)
def test_a_leader_is_what_the_spec_asks(rows: dict[str, object], text: str) -> None:
    assert leader.asked(asking(**rows)) == text


def planned(before: str, after: str = "", **film: object) -> Route:
    spec = asking(file_wrapper={"is": "mxf"}, picture_codec={"is": "mpeg2video"})
    titled = spec.model_copy(update={"title": "Lanterns"})
    choices = {"leader": before, "tail": after, "picture": "encoded"}
    return plan_route(master_facts(**film), titled, choices, "film")


def test_it_is_whole_frames_and_says_where_the_programme_begins() -> None:
    route = planned("bars 1 s, slate 0.5 s, black 0.01 s", "0.5 s")
    assert route.plan is not None
    around, frames = route.plan.around, route.plan.frames
    assert [one.frames for one in around.before] == [25, 12, 1]
    assert (around.first, around.after, around.frames) == (38, 12, 50)
    last = frames - 13
    places = (0, 24, 25, 36, 37, 38, last, last + 1, frames - 1)
    kinds = [around.standing(place, frames) for place in places]
    assert kinds == ["bars", "bars", "slate", "slate", "black", None, None, "black", "black"]
    assert "Lanterns" in around.lines
    titles = [one.title for one in route.steps]
    assert "Leader: bars 1 s, slate 0.48 s, black 0.04 s" in titles
    assert "Black for 0.48 s at the end" in titles


def test_bars_are_not_made_of_what_only_goes_on() -> None:
    asked = asking(
        picture_transfer={"is": "PQ"}, picture_codec={"is": "hevc"}, file_wrapper={"is": "mp4"}
    )
    film = master_facts(picture_transfer="PQ", picture_matrix="BT.2020")

    def planned_so(leader: str) -> Route:
        return plan_route(film, asked, {"leader": leader, "picture": "encoded"}, "film")

    refused = [one.what for one in planned_so("bars 1 s").cautions if one.blocks]
    assert refused == ["Bars and slates in PQ are not made here."]
    black = planned_so("black 1 s").plan
    assert black is not None and black.around.first == 25


@pytest.mark.parametrize("severity", ["must", "should"])
def test_a_leader_that_is_asked_and_not_there_is_told_of(severity: str) -> None:
    rules: dict[str, Any] = {
        "motion.leader": {"is": "20 s", "tolerance": "1 s"},
        "picture.codec": {"is": "mpeg2video"},
        "file.wrapper": {"is": "mxf"},
    }
    asked = spec_of(
        [{"property": k, "rule": v, "severity": severity, "source": "1"} for k, v in rules.items()]
    )

    def told(film: Facts, **choices: str) -> list[str]:
        route = plan_route(film, asked, choices, "film")
        return [one.way_out for one in route.cautions if one.row == "motion.leader"]

    film = master_facts()
    at_once = film.with_values("measured", {"motion.leader": Fraction(1, 5)})
    # The black before it makes up the rest.
    assert "black 10 s" in str(told(at_once))
    assert told(at_once, leader="bars 10 s, black 10 s") == []
    # One that has its own is as it should be, and where nobody looked nothing is said.
    assert told(film.with_values("measured", {"motion.leader": 20})) == []
    assert told(film) == []


@pytest.mark.parametrize("text", ["-1 s", "700 s", "soon"])
def test_what_is_no_tail_is_refused(text: str) -> None:
    with pytest.raises(BadValue):
        leader.read_tail(text)
