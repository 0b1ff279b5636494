"""What the tests of masters' pages ask of them."""

import urllib.parse
from collections.abc import Callable
from pathlib import Path
from typing import Any

from client import Client

Make = Callable[..., Path]


def ready(client: Client, id: int) -> Any:
    return client.until(f"/api/masters/{id}", lambda m: m["state"] in {"ready", "failed"})


def fact(page: Any, key: str) -> Any:
    return next(f for f in page["facts"] if f["key"] == key)


def find(client: Client, words: str) -> list[str]:
    return [
        m["name"] for m in client.good("GET", f"/api/masters?q={urllib.parse.quote(words)}")["rows"]
    ]
