"""What a monitor and a log reader see."""

from __future__ import annotations

import io
import json
import logging

from client import Client
from prometheus_client.parser import text_string_to_metric_families

from ample_crate.work import logs


def test_figures_for_a_monitor_are_read_by_its_own_parser(client: Client) -> None:
    status, text, head = client.call("GET", "/metrics")
    assert status == 200 and head["Content-Type"].startswith("text/plain")
    figures = {
        family.name: family.samples for family in text_string_to_metric_families(text.decode())
    }
    assert {
        "ample_jobs",
        "ample_runs",
        "ample_encode_speed",
        "ample_workers",
        "ample_disk_free_bytes",
    } <= set(figures)
    assert figures["ample_workers"][0].value >= 3 and figures["ample_disk_free_bytes"][0].value > 0


def test_every_answer_has_a_name_and_health_says_how_it_is(client: Client) -> None:
    names = {client.call("GET", "/api/health")[2]["X-Request-Id"] for _ in range(3)}
    assert len(names) == 3 and all(len(name) == 12 for name in names)
    said = client.good("GET", "/api/health")
    assert (
        said["status"] == "well"
        and said["database"] == "here"
        and said["workers"] >= 3
        and said["disk_free"] > 0
    )


def test_lines_carry_the_ids_of_what_they_are_about() -> None:
    heard = io.StringIO()
    handler = logging.StreamHandler(heard)
    handler.setFormatter(logs.Lines())
    log = logging.getLogger("ample_crate.test")
    log.addHandler(handler)
    try:
        with logs.about(run=7, crate=None), logs.about(request="ab"):
            log.warning("a %s thing\nin two lines", "strange")
        try:
            raise ValueError("inside")
        except ValueError:
            log.exception("outside")
    finally:
        log.removeHandler(handler)
    first, second = (json.loads(line) for line in heard.getvalue().splitlines())
    assert (first["run"], first["request"], first["level"]) == (
        7,
        "ab",
        "warning",
    ) and "crate" not in first
    assert first["what"] == "a strange thing\nin two lines" and first["at"].endswith("+00:00")
    assert "run" not in second and "ValueError: inside" in second["trace"]
