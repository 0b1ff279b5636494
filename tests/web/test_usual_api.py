"""What is usual for a recipient, and by which rule a crate is due."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from typing import Any

import pytest
from client import Client
from pydantic import ValidationError
from specs_here import ROWS, document

from ample_crate.work.usual import DueRule

RATED = [*ROWS, {"property": "picture.bit_rate", "rule": {"between": ["1 Mb/s", "8 Mb/s"]}}]
FRIDAY = datetime(2026, 11, 27, 13, 0, tzinfo=UTC)


def due(now: datetime, **rule: Any) -> str:
    return DueRule(**rule).due(now).astimezone(UTC).isoformat(timespec="minutes")[:16]


def test_days_are_counted_by_the_recipients_calendar() -> None:
    assert due(FRIDAY, days=1, at="16:00") == "2026-11-30T16:00"
    assert due(FRIDAY, days=1, at="16:00", working=False) == "2026-11-28T16:00"
    assert due(FRIDAY, days=6, at="09:30") == "2026-12-07T09:30"
    # It is Saturday there already, and counted from the Monday that follows.
    late = FRIDAY.replace(hour=20)
    assert due(late, days=1, at="09:00", zone="Asia/Tokyo") == "2026-12-01T00:00"
    assert due(late, days=0, at="09:00", zone="Asia/Tokyo") == "2026-11-30T00:00"


def test_a_time_of_day_is_kept_where_clocks_are_put_back() -> None:
    """Oslo is an hour nearer to UTC from the last Sunday of October on (tz database)."""
    friday = datetime(2026, 10, 23, 10, 0, tzinfo=UTC)
    rule = {"at": "16:00", "zone": "Europe/Oslo"}
    assert due(friday, days=0, **rule) == "2026-10-23T14:00"
    assert due(friday, days=1, **rule) == "2026-10-26T15:00"


def test_what_is_past_today_is_due_on_the_next_day_that_counts() -> None:
    assert due(FRIDAY, days=0, at="12:00") == "2026-11-30T12:00"
    assert due(FRIDAY, days=0, at="12:00", working=False) == "2026-11-28T12:00"
    assert due(FRIDAY, days=0, at="16:00") == "2026-11-27T16:00"


@pytest.mark.parametrize(
    "rule", [{"at": "24:00"}, {"at": "9:00"}, {"zone": "Mars/Olympus"}, {"days": -1}]
)
def test_a_rule_that_cannot_be_is_refused(rule: dict[str, Any]) -> None:
    with pytest.raises(ValidationError):
        DueRule(**rule)


def test_it_is_kept_used_and_forgotten(
    client: Client, save_for_all: Callable[..., Any], tiny_master: Any
) -> None:
    sets = {"quick": {"choices": {"picture.bit_rate": {"value": "2 Mb/s"}}}}
    save_for_all(document("usual-sets", requirements=RATED, house_sets=sets))
    rule = {"days": 2, "working": True, "at": "12:00", "zone": "Europe/Oslo"}
    body = {"spec": "usual-sets", "house": "quick", "due": rule}
    assert {"UTC", "Europe/Oslo"} <= set(client.good("GET", "/api/recipients/zones"))
    rows = client.good("PUT", "/api/recipients/pinfold/usual", body)
    (mine,) = [row for row in rows if row["usual"]]
    assert (mine["key"], mine["usual"]) == ("pinfold", body)
    assert datetime.fromisoformat(mine["due_at"]) > datetime.now(UTC)
    one = client.crate("usual-sets", tiny_master["id"])["deliverables"][0]
    assert one["chosen"] == {"house": "quick"} and one["choices"]["picture.bit_rate"] == 2_000_000
    # To another spec it does not speak.
    save_for_all(document("usual-other", house_sets=sets, requirements=RATED))
    assert client.crate("usual-other", tiny_master["id"])["deliverables"][0]["chosen"] == {}
    odd = [
        ("/api/recipients/nobody/usual", body, 404),
        ("/api/recipients/skerry/usual", body, 409),
        ("/api/recipients/pinfold/usual", body | {"house": "slow"}, 409),
        ("/api/recipients/pinfold/usual", body | {"due": rule | {"zone": "Mars"}}, 422),
    ]
    assert [client.call("PUT", place, said)[0] for place, said, _ in odd] == [s for *_, s in odd]
    rows = client.good("DELETE", "/api/recipients/pinfold/usual")
    assert not [row for row in rows if row["usual"]]
    assert client.crate("usual-sets", tiny_master["id"])["deliverables"][0]["chosen"] == {}
