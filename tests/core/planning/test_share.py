"""What a crate or a week leaves its items, shared so that all of them look alike."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ample_crate.core.ledger import ledger, whole_crate
from ample_crate.core.planning.plan import Route
from ample_crate.core.planning.request import Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.share import Demand, bytes_left, shares
from ample_crate.core.specs.spec import Spec
from ample_crate.store.library import find
from support import master_facts

DVD = find("ostler-dvd-625")
GB = 10**9
LISTS = st.lists(
    st.builds(Demand, st.integers(1, 10**10), st.integers(1, 10**4).map(Fraction), st.booleans()),
    min_size=1,
    max_size=8,
)


def film(hours: Fraction | float, share: int | None = None, **choices: Any) -> Route:
    """Plan a film of some hours for the disc."""
    facts = master_facts(
        motion_frames=int(25 * 3600 * hours), file_duration=Fraction(3600) * Fraction(hours)
    )
    return plan_route(facts, DVD, choices, "film.mov", Item(share=share))


@given(room=st.integers(0, 3 * 10**10), needs=LISTS)
def test_shares_never_pass_the_room_and_never_exceed_the_need(
    room: int, needs: list[Demand]
) -> None:
    given_ = shares(room, needs)
    firm = sum(n.size for n in needs if n.firm)
    assert all(s is None for s, n in zip(given_, needs, strict=True) if n.firm)
    assert all(s is None or s < n.size for s, n in zip(given_, needs, strict=True))
    after = sum(n.size if s is None else s for s, n in zip(given_, needs, strict=True))
    if any(s is not None for s in given_):
        # The whole room is used, but for what rounding down leaves of a byte an item.
        assert room - len(needs) <= after <= room
    else:
        assert after <= room or firm >= room or all(n.firm for n in needs)


@given(room=st.integers(10**6, 3 * 10**10), needs=LISTS)
def test_those_that_give_way_get_one_rate_and_the_others_need_less(
    room: int, needs: list[Demand]
) -> None:
    rates = [
        (Fraction(n.size if s is None else s) / n.seconds, s is not None)
        for s, n in zip(shares(room, needs), needs, strict=True)
        if not n.firm
    ]
    cut = [rate for rate, gave in rates if gave]
    if cut:
        # One byte of rounding, over at least a second.
        assert max(cut) - min(cut) <= len(needs)
        assert all(rate <= max(cut) + len(needs) for rate, gave in rates if not gave)


def test_by_hand() -> None:
    """4.7 GB over a film of 2 h and an extra of half an hour at 0.2 GB: the film gets what the
    extra leaves.
    """
    assert shares(
        47 * GB // 10, [Demand(59 * GB // 10, Fraction(7200)), Demand(GB // 5, Fraction(1800))]
    ) == [45 * GB // 10, None]
    assert shares(300, [Demand(400, Fraction(10)), Demand(400, Fraction(20))]) == [100, 200]
    assert shares(300, [Demand(400, Fraction(10)), Demand(250, Fraction(20), firm=True)]) == [
        50,
        None,
    ]
    assert shares(200, [Demand(400, Fraction(10)), Demand(250, Fraction(20), firm=True)]) == [
        None,
        None,
    ]
    assert shares(800, [Demand(400, Fraction(10)), Demand(400, Fraction(20))]) == [None, None]


def test_the_room_is_the_least_of_crate_and_week() -> None:
    document: dict[str, Any] = {"id": "caps", "version": 1, "recipient": "ostler", "title": "t"}
    codec = {"property": "picture.codec", "rule": {"is": "mpeg2video"}}

    def asked(*rows: dict[str, Any]) -> Spec:
        return Spec.model_validate(document | {"requirements": [codec, *rows]})

    total = {"property": "delivery.total", "rule": {"at_most": "4.7 GB"}}
    week = {"property": "delivery.week", "rule": {"at_most": "5 GB"}}
    assert bytes_left(asked()) is None and bytes_left(asked(total)) == 47 * GB // 10 == bytes_left(
        DVD
    )
    assert (
        bytes_left(asked(total, week), 0) == 47 * GB // 10
        and bytes_left(asked(total, week), GB) == 4 * GB
    )
    # Before it is known what goes out this week, the quota says nothing; used up, it leaves
    # nothing.
    assert bytes_left(asked(week)) is None and bytes_left(asked(week), 6 * GB) == 0
    assert (
        bytes_left(
            asked(
                total | {"severity": "should"},
                {"property": "delivery.total", "rule": {"at_least": 5}},
            )
        )
        is None
    )


@pytest.mark.parametrize(
    "hours", [Fraction(1), Fraction(4, 3), Fraction(3, 2), Fraction(3), Fraction(5)]
)
def test_a_title_is_planned_into_the_disc(hours: Fraction) -> None:
    """The house likes 6.5 Mb/s, about 3 GB an hour: a longer film gets the rate that the disc
    holds.
    """
    route = film(hours)
    assert route.plan is not None and route.size <= 47 * GB // 10
    solved = any("what the crate leaves it" in s.title for s in route.steps)
    assert solved is (hours > Fraction(4, 3)) and (
        solved or route.plan.picture.encoding.bit_rate == 6_500_000
    )
    assert not solved or route.size > 46 * GB // 10, "and fills it"
    assert {
        f.property: f.verdict for f in ledger(whole_crate([route.facts], None), DVD, of="crate")
    } == {"delivery.total": "meets"}


def test_a_disc_of_several_titles_gets_one_rate() -> None:
    alone = [
        film(Fraction(5, 4)),
        film(Fraction(1, 2)),
        film(Fraction(1, 2), **{"picture.bit_rate": "7 Mb/s"}),
    ]
    needs = [Demand(r.size, r.plan.seconds, firm=i == 2) for i, r in enumerate(alone) if r.plan]
    given_ = shares(bytes_left(DVD) or 0, needs)
    first, second = film(Fraction(5, 4), given_[0]), film(Fraction(1, 2), given_[1])
    assert (
        first.plan
        and second.plan
        and alone[2].plan
        and alone[2].plan.picture.encoding.bit_rate == 7_000_000
    )
    assert (
        abs(first.plan.picture.encoding.bit_rate - second.plan.picture.encoding.bit_rate) <= 5_000
        and first.plan.picture.encoding.bit_rate < 6_500_000
    )
    found = ledger(whole_crate([r.facts for r in (first, second, alone[2])], None), DVD, of="crate")
    assert [f.verdict for f in found] == ["meets"]


def test_a_rate_that_someone_chose_stands_and_is_told_of() -> None:
    route = film(2, **{"picture.bit_rate": "7 Mb/s"})
    assert route.plan is not None and route.plan.picture.encoding.bit_rate == 7_000_000
    assert any("over what the crate leaves it" in c.what for c in route.cautions)


def test_no_room_at_all_is_said_with_its_figures() -> None:
    route = film(2, share=10_000_000)
    stop = next(c for c in route.cautions if c.blocks)
    assert (
        route.plan is None
        and stop.what == "What the crate leaves it, 10.00 MB, is 0 kb/s for 7200 s of picture."
    )


def test_a_cap_is_not_filled_beyond_the_rate_that_is_asked() -> None:
    """A short film under a large cap keeps to the ceiling on its rate."""
    document = {
        "id": "short",
        "version": 1,
        "recipient": "pinfold",
        "title": "t",
        "requirements": [
            {"property": "picture.codec", "rule": {"is": "h264"}},
            {"property": "file.size", "rule": {"at_most": "500 MB"}},
            {"property": "picture.bit_rate", "rule": {"between": ["2 Mb/s", "8 Mb/s"]}},
        ],
    }
    route = plan_route(master_facts(), Spec.model_validate(document), {}, "short.mov")
    assert route.plan is not None and route.plan.picture.encoding.bit_rate == 8_000_000
