"""Choosing for a deliverable, through the API."""

from __future__ import annotations

from typing import Any

from client import Client


def place_of(item: Any) -> str:
    return f"/api/crates/deliverables/{item['id']}"


def choose(client: Client, item: Any, key: str, value: object) -> Any:
    """Choose for a crate's first deliverable: how it is then."""
    body = {"property": key, "value": value}
    return client.good("PATCH", place_of(item), body)["deliverables"][0]
