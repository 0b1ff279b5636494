"""Specs that the tests of the API write, and what is done with them."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

from client import Client

ROWS = [
    {"property": "picture.codec", "rule": {"is": "h264"}, "source": "1.1"},
    {"property": "picture.size", "rule": {"is": "320x180"}, "source": "1.2"},
    {"property": "motion.rate", "rule": {"one_of": ["25", "50"]}, "source": "1.3"},
    {"property": "file.wrapper", "rule": {"is": "mp4"}, "source": "1.4"},
]


def document(id: str, **more: Any) -> dict[str, Any]:
    return {
        "id": id,
        "version": 1,
        "recipient": "pinfold",
        "title": f"Made here: {id}",
        "status": "in force",
        "requirements": ROWS,
    } | more


def with_rate(rate: str) -> list[dict[str, Any]]:
    return [
        {"property": "motion.rate", "rule": {"is": rate}, "source": "1.3"}
        if r["property"] == "motion.rate"
        else r
        for r in ROWS
    ]


def keeping(client: Client) -> Iterator[Callable[..., Any]]:
    kept: set[str] = set()

    def keep(body: dict[str, Any], base: int | None = None, status: int = 200) -> Any:
        got, answer, _ = client.call("POST", "/api/specs", {"document": body, "base": base})
        assert got == status, answer
        if got == 200:
            kept.add(body["id"])
        return answer

    yield keep
    for id in kept:
        page = client.good("GET", f"/api/specs/{id}")
        newest = page["versions"][0]["version"]
        if page["versions"][0]["status"] == "draft":
            client.call("DELETE", f"/api/specs/{id}?version={newest}")
            if newest == 1:
                continue
            newest -= 1
        client.call(
            "POST",
            "/api/specs",
            {"document": page["document"] | {"status": "withdrawn"}, "base": newest},
        )


def choose(client: Client, item: int, key: str, value: Any) -> Any:
    change = {"property": key, "value": value}
    return client.good("PATCH", f"/api/crates/deliverables/{item}", change)
