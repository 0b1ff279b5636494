"""The day sheet: whose turn it is, who works, what waits."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterator
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

import psutil
import pytest
from client import Client, soon
from workers_here import RULES, draining, wanted

from ample_crate.work import history
from clips import moving_bar
from support import Installation

SPEC = "tannery-list"


@pytest.fixture
def drained(client: Client) -> Iterator[None]:
    yield from draining(client)


@pytest.fixture(scope="module")
def masters(client: Client, inbox: Path, clip: Callable[..., Path]) -> list[Any]:
    made = [
        clip(f"day sheet {n}.mp4", draw=moving_bar((320, 180)), frames=10 + n) for n in range(3)
    ]
    return [client.ingest(inbox.parent, film) for film in made]


@pytest.fixture
def queued(client: Client, drained: None, masters: list[Any]) -> list[Any]:
    """Crates of an item each, whose runs wait."""
    made = []
    for number, master in enumerate(masters):
        crate = client.crate(SPEC, master["id"], title=f"Day sheet {number}")
        made.append(client.good("POST", f"/api/crates/{crate['id']}/runs"))
    return made


def run_of(crate: Any) -> int:
    return int(crate["deliverables"][0]["run"]["id"])


def order(client: Client) -> list[int]:
    return [run["id"] for run in client.good("GET", "/api/day")["runs"]]


def begun(client: Client, runs: list[int]) -> list[int]:
    """Let the workers work, and give runs in the order in which they were begun."""
    wanted(client, "working")
    client.until("/api/day", lambda day: not {r["id"] for r in day["runs"]} & set(runs))
    past = {run["id"]: run for run in client.good("GET", "/api/day")["past"]}
    assert all(past[id]["state"] == "done" and past[id]["worker"] for id in runs)
    return sorted(runs, key=lambda id: past[id]["begins"])


def test_a_page_says_what_it_waits_for(client: Client, queued: list[Any]) -> None:
    pages = [client.good("GET", f"/api/crates/{crate['id']}")["ready"] for crate in queued]
    floor = {c["id"]: c["ready"] for c in client.good("GET", "/api/floor")["crates"]}
    for one in (pages, [floor[crate["id"]] for crate in queued]):
        assert one[0]["wait"] == 0 < one[1]["wait"] < one[2]["wait"]
        assert one[1]["wait"] == pytest.approx(one[0]["encode"] + one[0]["measure"], rel=0.1)
    sheet = client.good("GET", "/api/day")
    ends = [run["ends"] for run in sheet["runs"]]
    assert [run["begins"] for run in sheet["runs"]][1:] == ends[:-1]
    assert {run["worker"] for run in sheet["runs"]} <= {0, *(w["id"] for w in sheet["workers"])}


def test_runs_are_begun_in_the_order_in_which_they_are_put(
    client: Client, queued: list[Any]
) -> None:
    first, second, third = map(run_of, queued)
    assert order(client) == [first, second, third]
    client.good("POST", "/api/runs/move", {"runs": [third], "before": first})
    assert order(client) == [third, first, second]
    client.good("POST", "/api/runs/move", {"runs": [third, first], "before": None})
    assert order(client) == [second, third, first]
    # A priority goes before any order, and one that comes before another has its priority.
    client.good("PATCH", "/api/runs/turns", {"runs": [first], "priority": 1})
    assert order(client) == [first, second, third]
    client.good("POST", "/api/runs/move", {"runs": [third], "before": first})
    assert order(client) == [third, first, second]
    assert [run["priority"] for run in client.good("GET", "/api/day")["runs"]] == [1, 1, 0]
    assert begun(client, [first, second, third]) == [third, first, second]


def test_what_is_held_waits_until_it_is_let_go(client: Client, queued: list[Any]) -> None:
    first, second, third = map(run_of, queued)
    client.good("PATCH", "/api/runs/turns", {"runs": [first], "held": True})
    assert client.good("GET", f"/api/crates/{queued[0]['id']}")["ready"]["held"] == 1
    # It is foretold as if it came after all others.
    ends = {run["id"]: run["ends"] for run in client.good("GET", "/api/day")["runs"]}
    assert max(ends, key=lambda id: ends[id]) == first
    begun(client, [second, third])
    assert order(client) == [first]
    client.good("PATCH", "/api/runs/turns", {"runs": [first], "held": False})
    begun(client, [first])


def test_all_are_held_and_what_is_ordered_meanwhile_too(
    client: Client, queued: list[Any], masters: list[Any]
) -> None:
    first, *others = map(run_of, queued)
    client.good("PATCH", "/api/runs/turns", {"runs": others, "held": True})
    begun(client, [first])
    client.good("PUT", "/api/day/rules", RULES | {"hold_all": True})
    more = client.crate(SPEC, masters[0]["id"], title="Ordered while all is held")
    late = run_of(client.good("POST", f"/api/crates/{more['id']}/runs"))
    client.good("PATCH", "/api/runs/turns", {"runs": others, "held": False})
    # What comes after all runs is done, and these wait still.
    client.good("POST", f"/api/runs/{first}/quality", {})
    client.until(f"/api/runs/{first}/quality", lambda found: found["state"] == "done")
    assert order(client) == [*others, late]
    client.good("PUT", "/api/day/rules", RULES)
    client.until("/api/day", lambda day: not day["runs"])


def test_what_is_for_the_night_waits_for_it(client: Client, queued: list[Any]) -> None:
    hours = [(datetime.now(UTC) + timedelta(hours=h)).strftime("%H:%M") for h in (3, 5)]
    by_night = RULES | {"night": {"begins": hours[0], "ends": hours[1], "zone": "UTC"}}
    client.good("PUT", "/api/day/rules", by_night)
    first, *others = map(run_of, queued)
    sheet = client.good("PATCH", "/api/runs/turns", {"runs": [first], "night": True})
    mine = next(run for run in sheet["runs"] if run["id"] == first)
    assert mine["waits_for_night"]
    assert datetime.fromisoformat(mine["begins"]) > datetime.now(UTC) + timedelta(hours=2)
    begun(client, others)
    assert order(client) == [first]
    # It is night now, whatever the time is.
    all_day = RULES | {"night": {"begins": "00:00", "ends": "00:00", "zone": "UTC"}}
    sheet = client.good("PUT", "/api/day/rules", all_day)
    assert not any(run["waits_for_night"] for run in sheet["runs"])
    begun(client, [first])


def test_what_would_help_is_told_where_a_crate_would_be_late(
    client: Client, queued: list[Any]
) -> None:
    last = queued[-1]
    soon_due = datetime.now(UTC) + timedelta(seconds=last["ready"]["total"] * 0.5)
    client.good("PATCH", f"/api/crates/{last['id']}", {"due_at": soon_due.isoformat()})
    client.good("PATCH", "/api/runs/turns", {"runs": [run_of(last)], "held": True})
    late = next(one for one in client.good("GET", "/api/day")["late"] if one["id"] == last["id"])
    assert late["spare"] < 0
    assert {one["way"] for one in late["helps"]} & {"first", "let go", "worker", "quicker"}


def test_those_of_a_master_that_are_to_wait_are_not_taken_along(
    client: Client, drained: None, masters: list[Any]
) -> None:
    crates = [client.crate(SPEC, masters[0]["id"], title=f"Together {n}") for n in range(2)]
    runs = [run_of(client.good("POST", f"/api/crates/{c['id']}/runs")) for c in crates]
    client.good("PATCH", "/api/runs/turns", {"runs": runs[1:], "held": True})
    begun(client, runs[:1])
    [other] = client.good("GET", "/api/day")["runs"]
    assert (other["id"], other["state"]) == (runs[1], "queued")


def test_what_a_paused_worker_is_at_holds_still_and_can_be_stopped(
    client: Client,
    installation: Installation,
    drained: None,
    inbox: Path,
    clip: Callable[..., Path],
) -> None:
    film = clip("day sheet long.mp4", draw=moving_bar((1280, 720)), frames=400)
    master = client.ingest(inbox.parent, film)
    crate = client.crate(SPEC, master["id"], title="Held still")
    run = run_of(client.good("POST", f"/api/crates/{crate['id']}/runs"))
    wanted(client, "working")
    client.until("/api/day", lambda day: day["runs"][0]["state"] == "running")
    wanted(client, "paused")
    client.until("/api/day", lambda day: any(w["resting"] for w in day["workers"]))
    assert soon(lambda: psutil.STATUS_STOPPED in _states(installation))
    wanted(client, "working")
    assert soon(lambda: psutil.STATUS_STOPPED not in _states(installation))
    wanted(client, "paused")
    client.until("/api/day", lambda day: any(w["resting"] for w in day["workers"]))
    client.good("POST", f"/api/runs/{run}/cancel")
    client.until("/api/day", lambda day: not day["runs"])
    past = client.good("GET", "/api/day")["past"]
    assert next(one["state"] for one in past if one["id"] == run) == "cancelled"


def _states(installation: Installation) -> set[str]:
    found = set()
    for worker in installation.pool.workers:
        for one in psutil.Process(worker.pid).children(recursive=True):
            try:
                found.add(one.status())
            except psutil.NoSuchProcess:
                continue
    return found


def test_what_does_not_wait_any_more_is_not_moved(client: Client, drained: None) -> None:
    status, answer, _ = client.call("POST", "/api/runs/move", {"runs": [10**6], "before": None})
    assert (status, answer["detail"]) == (
        409,
        "A run that was to be moved does not wait any more.",
    )


def test_runs_that_ended_are_found_and_written(client: Client, queued: list[Any]) -> None:
    runs = begun(client, [run_of(crate) for crate in queued])
    assert client.good("GET", "/api/day")["accuracy"]["runs"] >= 3
    page = client.good("GET", "/api/runs/history?limit=2&codec=h264&state=done")
    assert [row["id"] for row in page["rows"]] == runs[:0:-1]
    assert page["total"] >= 3
    one = page["rows"][0]
    assert one["speed"] == pytest.approx(one["seconds"] / one["encode_seconds"])
    named = client.good("GET", f"/api/runs/history?words=day+sheet+0+{queued[0]['number']}")
    assert [row["crate"] for row in named["rows"]] == [queued[0]["id"]]
    today = datetime.now(UTC).date()
    [kind] = named["by_codec"]
    assert (kind["codec"], kind["runs"]) == ("H.264", 1)
    assert kind["speed"] == pytest.approx(named["rows"][0]["speed"])
    film = named["rows"][0]["seconds"]
    assert kind["bit_rate"] == pytest.approx(named["rows"][0]["size"] * 8 / film, abs=1)
    none = client.good("GET", f"/api/runs/history?until={today - timedelta(days=1)}")
    assert none["total"] == 0
    assert client.good("GET", "/api/runs/history?codec=prores&words=day+sheet")["total"] == 0
    _, text, head = client.call("GET", "/api/runs/history.csv?codec=h264&words=Day+sheet")
    assert 'filename="runs.csv"' in head["Content-Disposition"]
    rows = list(csv.DictReader(io.StringIO(text.decode("utf-8-sig"))))
    assert [int(row["run"]) for row in rows][: len(runs)] == runs[::-1]
    assert rows[0]["codec"] == "H.264" and int(rows[0]["bytes"]) == one["size"]


def test_a_table_of_runs_is_read_to_its_end(
    client: Client, installation: Installation, queued: list[Any], monkeypatch: pytest.MonkeyPatch
) -> None:
    runs = begun(client, [run_of(crate) for crate in queued])
    monkeypatch.setattr(history, "AT_ONCE", 2)
    with installation.database.session() as session:
        rows = history.every(session, history.Wanted("day sheet"))
        count, _ = history.found(session, history.Wanted("day sheet"), 1)
    assert [row["id"] for row in rows[:3]] == runs[::-1]
    assert len({row["id"] for row in rows}) == len(rows) == count
