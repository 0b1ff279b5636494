"""Whatever is asked, the answer is never that the server failed: bounded random requests over the
API's own document, and odd ones by hand.
"""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import pytest
import schemathesis
from flask.testing import FlaskClient
from hypothesis import HealthCheck, settings

from ample_crate.service import open_database
from ample_crate.store import masters, specs
from ample_crate.store.cluster import Cluster
from ample_crate.store.database import Database
from ample_crate.store.models import Crate, Deliverable, Master, NamedSpan
from ample_crate.store.places import Folders
from ample_crate.web.app import create
from support import master_facts

SPEC = "pinfold-720p"
EXAMPLES = 8  # an operation


def fill(database: Database) -> None:
    """Put in a master that was read and a crate of it: what a small number asks for is there."""
    with database.session() as session:
        for _ in range(3):
            row = Master(
                name="film.mov",
                path="/nowhere/film.mov",
                origin="intake",
                size=9,
                state="ready",
                sha256="ab" * 32,
                identity="9|1|1",
                facts=master_facts().as_json(),
                corrections={},
                notes=[],
                production="",
            )
            masters.recard(row)
            row.spans = [NamedSpan(name="start", first=0, frames=50)]
            session.add(row)
            session.flush()
            version = specs.get(session, SPEC)
            crate = Crate(
                number=100 + row.id,
                title="A crate",
                recipient_key=version.recipient_key,
                spec_id=version.id,
                spec_version=version.version,
                due_at=datetime(2030, 1, 1, tzinfo=UTC),
            )
            crate.deliverables = [Deliverable(master_id=row.id)]
            session.add(crate)


@pytest.fixture(scope="module")
def app() -> Iterator[Any]:
    root = Path(tempfile.mkdtemp(prefix="ample-any-", dir="/tmp"))
    root.chmod(0o755)
    cluster = Cluster(root / "database", durable=False)
    try:
        database = open_database(cluster)
        fill(database)
        made = create(database, Folders(root / "media").make())
        yield made
        made.extensions["ample"].viewer.close()
        database.dispose()
    finally:
        cluster.stop()
        shutil.rmtree(root, ignore_errors=True)


@pytest.fixture(scope="module")
def document(app: Any) -> Any:
    return schemathesis.openapi.from_wsgi("/openapi/openapi.json", app)


requests = schemathesis.pytest.from_fixture("document")


@requests.parametrize()
@settings(
    max_examples=EXAMPLES,
    derandomize=True,
    deadline=None,
    database=None,
    suppress_health_check=list(HealthCheck),
)
def test_no_request_makes_the_server_fail(case: schemathesis.Case) -> None:
    answer = case.call(base_url="http://127.0.0.1")
    assert answer.status_code < 500, (case.as_curl_command(), answer.text[:500])
    if answer.status_code >= 400:
        assert "way_out" in answer.text or not answer.content, answer.text[:300]


@pytest.fixture
def client(app: Any) -> FlaskClient:
    return app.test_client()


DEEP = "[" * 100_000 + "]" * 100_000
DUE = "2030-01-01T00:00:00Z"


def crate(**other: Any) -> dict[str, Any]:
    return {"title": "A crate", "spec": SPEC, "due_at": DUE, "masters": [1]} | other


ODD: list[tuple[str, str, Any]] = [
    ("POST", "/api/crates", crate(title="a\0b")),
    ("POST", "/api/crates", crate(title="\ud800")),
    ("POST", "/api/crates", crate(title="x" * 2_000_000)),
    ("POST", "/api/crates", crate(masters=[2**31])),
    ("POST", "/api/crates", crate(masters=[2**63])),
    ("POST", "/api/crates", crate(masters=[-(2**31) - 1])),
    ("POST", "/api/crates", crate(masters=[10**30])),
    ("POST", "/api/crates", crate(spec="a\0b")),
    ("POST", "/api/crates", crate(due_at="0001-01-01T00:00:00+14:00")),
    ("POST", "/api/crates", crate(due_at="9999-12-31T23:59:59-12:00")),
    ("PATCH", "/api/crates/1", {"due_at": "0001-01-01T00:00:00Z"}),
    ("PATCH", "/api/masters/1", {"production": "\0"}),
    ("PATCH", "/api/masters/1", {"production": "y" * 1_000_000}),
    ("POST", "/api/masters/1/spans", {"name": "\ud83d", "first": 0, "frames": 1}),
    ("POST", "/api/masters/1/spans", {"name": "long", "first": 2**40, "frames": 2**62}),
    ("GET", "/api/masters/99999999999999999999", None),
    ("GET", "/api/crates/2147483648", None),
    ("GET", "/api/masters?q=%00", None),
    ("GET", "/api/masters?q=" + "size>9" * 2000, None),
    ("GET", "/api/masters?ids=1,2,x", None),
    ("GET", "/api/masters?ids=99999999999999999999", None),
    ("GET", "/api/masters?offset=-1&limit=99999999999999999999", None),
    ("GET", "/api/masters/1/frames/99999999999999999999?width=1", None),
    ("GET", "/api/specs/%00", None),
    ("GET", "/api/specs/" + "n" * 9000, None),
    ("POST", "/api/specs/check", {"text": "a: " + "[" * 5000}),
    ("POST", "/api/intake", {"folder": 0, "names": ["\0", "x" * 5000]}),
    ("POST", "/api/intake", {"folder": 10**20, "names": ["a"]}),
]


@pytest.mark.parametrize(
    ("method", "path", "body"),
    ODD,
    ids=[f"{n} {method} {path[:40]}" for n, (method, path, _) in enumerate(ODD)],
)
def test_odd_requests_are_answered_with_a_cause(
    method: str, path: str, body: Any, client: FlaskClient
) -> None:
    answer = client.open(
        path,
        method=method,
        data=None if body is None else json.dumps(body),
        content_type="application/json",
    )
    assert answer.status_code < 500, answer.text[:500]
    if answer.status_code >= 400:
        assert answer.json["detail"] and "way_out" in answer.json
        assert "psycopg" not in answer.text and "Traceback" not in answer.text


@pytest.mark.parametrize("path", ["/api/crates", "/api/specs/check", "/api/intake"])
def test_deep_documents_are_refused(path: str, client: FlaskClient) -> None:
    answer = client.post(path, data=DEEP, content_type="application/json")
    assert 400 <= answer.status_code < 500 and "way_out" in answer.json
