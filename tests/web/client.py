"""A small client for the installation under test."""

from __future__ import annotations

import json
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from email.message import Message
from pathlib import Path
from typing import Any

PATIENCE = 400.0  # seconds; a busy machine may be ten times slower than a quiet one


def soon(what: Callable[[], object], seconds: float = PATIENCE) -> bool:
    """Wait until it is so; say whether it came to it."""
    end = time.monotonic() + seconds
    while not what():
        if time.monotonic() > end:
            return False
        time.sleep(0.2)
    return True


class Client:
    def __init__(self, address: str) -> None:
        self.address = address

    def call(
        self,
        method: str,
        path: str,
        body: object = None,
        headers: dict[str, str] | None = None,
        data: bytes | None = None,
    ) -> tuple[int, Any, Message]:
        head = {"Content-Type": "application/json"} | (headers or {})
        payload = (
            data if data is not None else (json.dumps(body).encode() if body is not None else None)
        )
        request = urllib.request.Request(self.address + path, payload, head, method=method)
        try:
            with urllib.request.urlopen(request, timeout=PATIENCE) as answer:
                raw, status, got = answer.read(), answer.status, answer.headers
        except urllib.error.HTTPError as error:
            raw, status, got = error.read(), error.code, error.headers
        kind = got.get("Content-Type", "")
        return status, json.loads(raw) if "json" in kind and raw else raw, got

    def good(self, method: str, path: str, body: object = None) -> Any:
        status, answer, _ = self.call(method, path, body)
        assert status < 300, answer
        return answer

    def until(self, path: str, done: Callable[[Any], bool], seconds: float = PATIENCE) -> Any:
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            answer = self.good("GET", path)
            if done(answer):
                return answer
            time.sleep(0.25)
        raise AssertionError(f"{path} did not come to it: {json.dumps(answer)[:2000]}")

    def ingest(self, intake: Path, file: Path, name: str | None = None, ends: str = "ready") -> Any:
        """Lay a file in the intake folder, take it in, and wait until it ends as it should."""
        target = intake / (name or file.name)
        if not target.exists():
            target.write_bytes(file.read_bytes())
            master = self.good("POST", "/api/intake", {"folder": 0, "names": [target.name]})[0]
        else:
            master = next(
                m for m in self.good("GET", "/api/masters")["rows"] if m["name"] == target.name
            )
        read = self.until(
            f"/api/masters/{master['id']}", lambda m: m["state"] in {"ready", "failed"}
        )
        assert read["state"] == ends, (target.name, read["error"])
        return read

    def crate(self, spec: str, *masters: int, title: str = "A crate") -> Any:
        due = (datetime.now(UTC) + timedelta(hours=5)).isoformat()
        return self.good(
            "POST",
            "/api/crates",
            {"title": title, "spec": spec, "due_at": due, "masters": list(masters)},
        )

    def run_to_end(self, crate: int) -> Any:
        self.good("POST", f"/api/crates/{crate}/runs")
        return self.until(
            f"/api/crates/{crate}",
            lambda c: all(
                d["run"]["state"] in {"done", "failed", "cancelled"} for d in c["deliverables"]
            ),
        )
