"""Routes that were stored, in this version's form and in the first one's."""

from __future__ import annotations

import json
from pathlib import Path

from ample_crate.core.planning import stored
from ample_crate.core.planning.route import plan_route
from ample_crate.store.library import find
from support import master_facts

FIRST = json.loads((Path(__file__).parents[2] / "store" / "first_route.json").read_text())
TWENTY_SECONDS = 1280 * 720 * 25 * 20


def test_both_forms_tell_codec_work_and_cap() -> None:
    now = plan_route(master_facts(), find("pinfold-720p"), {}, "film.mov").model_dump(mode="json")
    for route in (FIRST, now):
        record = stored.record_of(route["plan"])
        assert (record.effort, record.cap) == ("h264", 30_000_000)
        assert record.work == 2 * TWENTY_SECONDS, "two passes"


def test_a_route_of_this_version_is_read_whole() -> None:
    route = plan_route(master_facts(), find("pinfold-720p"), {}, "film.mov")
    assert stored.route_of(route.model_dump(mode="json")) == route


def test_an_earlier_route_says_what_it_said_and_is_not_run() -> None:
    route = stored.route_of(FIRST)
    assert route.plan is None
    assert [s.title for s in route.steps] == [s["title"] for s in FIRST["steps"]]
    assert route.size == FIRST["size"] and route.predicted == FIRST["predicted"]
