"""The workers of the installation under test, told to take nothing and to work again."""

from __future__ import annotations

from collections.abc import Iterator

from client import Client

RULES = {"hold_all": False, "night": {"begins": "20:00", "ends": "06:00", "zone": "UTC"}}


def wanted(client: Client, what: str) -> None:
    """Have all workers do so, and wait until each has heard it."""
    for one in client.good("GET", "/api/day")["workers"]:
        client.good("PUT", f"/api/workers/{one['id']}/wanted", {"wanted": what})
    client.until("/api/day", lambda day: all(w["heard"] == what for w in day["workers"]))


def _clear(client: Client) -> None:
    """Stop what other tests left, or this one."""
    for run in client.good("GET", "/api/day")["runs"]:
        client.call("POST", f"/api/runs/{run['id']}/cancel")


def draining(client: Client) -> Iterator[None]:
    """Have no worker take anything; all is as usual again at the end."""
    _clear(client)
    client.until("/api/day", lambda day: day["workers"] and not day["runs"])
    wanted(client, "drained")
    yield
    client.good("PUT", "/api/day/rules", RULES)
    _clear(client)
    wanted(client, "working")
    client.until("/api/day", lambda day: not day["runs"])
