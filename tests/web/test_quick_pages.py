"""What was worked out is kept, and never stands once what it depends on has changed."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from client import Client
from flask.testing import FlaskClient
from sqlalchemy import event, text

from ample_crate.core.planning.schedule import EMPTY
from ample_crate.store.models import Crate, Deliverable, KeptCrate, Master, Run
from ample_crate.web import floor
from ample_crate.web.app import create
from ample_crate.web.crate_schemas import Floor
from ample_crate.web.memo import Memo
from ample_crate.work import kept, worked_out
from clips import plain
from support import Installation

SPEC = "pinfold-720p"
MOST_QUERIES, ASKED = 15, 4


@pytest.fixture(scope="module")
def crate(client: Client, installation: Installation, clip: Callable[..., Path]) -> Any:
    file = clip("short green.mp4", draw=plain((20, 160, 40)), frames=10)
    masters = [
        client.ingest(installation.folders.intake[0], file, f"quick {n}.mp4")["id"] for n in (1, 2)
    ]
    return client.run_to_end(client.crate(SPEC, *masters)["id"])


@pytest.fixture
def asked(installation: Installation) -> Iterator[list[str]]:
    """The statements that this process sends to the database."""
    heard: list[str] = []

    def hear(connection: object, cursor: object, statement: str, *rest: object) -> None:
        heard.append(statement)

    event.listen(installation.database.engine, "before_cursor_execute", hear)
    yield heard
    event.remove(installation.database.engine, "before_cursor_execute", hear)


@pytest.fixture
def here(installation: Installation) -> FlaskClient:
    """The application in this process, with nothing in mind."""
    return create(installation.database, installation.folders).test_client()


def test_a_page_asks_few_questions(here: FlaskClient, crate: Any, asked: list[str]) -> None:
    master = crate["deliverables"][0]["master"]["id"]
    for path in (
        "/api/floor",
        f"/api/crates/{crate['id']}",
        f"/api/masters/{master}",
        "/api/masters",
    ):
        counts = [statements(here, path, asked) for _ in range(ASKED)]
        # What else goes on in the background can change a row meanwhile, and it is worked out anew.
        assert 0 < min(counts) <= MOST_QUERIES, (path, counts, asked)


def statements(here: FlaskClient, path: str, asked: list[str]) -> int:
    """Count what an application with nothing in mind asks for a page."""
    again = create_again(here)
    asked.clear()
    assert again.get(path).status_code == 200
    return len(asked)


def create_again(here: FlaskClient) -> FlaskClient:
    installation = here.application.extensions["ample"]
    return create(installation.database, installation.folders).test_client()


def test_the_floor_has_the_shape_of_its_model(client: Client, crate: Any) -> None:
    floor = Floor.model_validate(client.good("GET", "/api/floor"))
    assert crate["id"] in {one.id for one in floor.crates}


def test_what_is_kept_is_what_would_be_worked_out(installation: Installation, crate: Any) -> None:
    with installation.database.session() as session:
        held = kept.whole(session, crate["id"])
        row = session.get_one(KeptCrate, crate["id"])
        assert (row.floor, row.page) == (held.floor, held.page)
        fresh = worked_out.work_out(session.get_one(Crate, crate["id"]))
        assert fresh.floor == held.floor and fresh.page == held.page


def another_name(one: Deliverable) -> None:
    one.master.name = "another.mp4"


def corrected(one: Deliverable) -> None:
    one.master.corrections = {"motion.field_order": "upper first"}


def other_facts(one: Deliverable) -> None:
    one.master.facts = one.master.facts | {"picture.matrix": {"measured": "BT.601"}}


def other_bytes(one: Deliverable) -> None:
    one.master.sha256 = "0" * 64


def damaged(one: Deliverable) -> None:
    one.master.notes = ["The last second is missing."]


def chosen(one: Deliverable) -> None:
    one.choices = one.choices | {"framing": "crop"}


def signed(one: Deliverable) -> None:
    one.exceptions = [
        {"property": "sound.loudness", "reason": "r", "by": "b", "at": "t", "sha256": "x"}
    ]


def shorter(one: Deliverable) -> None:
    one.span = {"name": "range", "first": 0, "frames": 5}


def run_failed(one: Deliverable) -> None:
    one.runs.append(
        Run(
            state="failed",
            route=one.runs[-1].route,
            choices={},
            error={"code": "x", "what": "w", "way_out": "o"},
        )
    )


def run_elsewhere(one: Deliverable) -> None:
    one.runs[-1].path = "/nowhere/made.mp4"


def refused(one: Deliverable) -> None:
    one.crate.state = "refused"


def revised(one: Deliverable) -> None:
    one.crate.revision += 7


CHANGES: dict[str, Callable[[Deliverable], None]] = {
    make.__name__: make
    for make in (
        another_name,
        corrected,
        other_facts,
        other_bytes,
        damaged,
        chosen,
        signed,
        shorter,
        run_failed,
        run_elsewhere,
        refused,
        revised,
    )
}


@pytest.mark.parametrize("name", list(CHANGES))
def test_whatever_changes_is_worked_out_anew(
    name: str, installation: Installation, crate: Any
) -> None:
    with installation.database.session() as session:
        before = kept.digests(session, [crate["id"]])
        CHANGES[name](session.get_one(Deliverable, crate["deliverables"][0]["id"]))
        session.flush()
        assert kept.digests(session, [crate["id"]]) != before
        session.rollback()


def test_a_file_that_goes_changes_what_is_said_of_its_crate(
    installation: Installation, crate: Any
) -> None:
    with installation.database.session() as session:
        before = kept.digests(session, [crate["id"]])
        made = Path(str(session.get_one(Deliverable, crate["deliverables"][0]["id"]).runs[-1].path))
        away = made.rename(made.with_suffix(".away"))
        try:
            assert kept.digests(session, [crate["id"]]) != before
        finally:
            away.rename(made)
        assert kept.digests(session, [crate["id"]]) == before


def test_other_rules_work_everything_out_anew(
    installation: Installation, crate: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    with installation.database.session() as session:
        before = kept.digests(session, [crate["id"]])
        monkeypatch.setattr(kept, "rules", lambda: "others")
        assert kept.digests(session, [crate["id"]]) != before


def test_a_worker_keeps_what_it_changed(installation: Installation, crate: Any) -> None:
    """What hangs on a finished run and on a measured master is there before anybody asks."""
    with installation.database.session() as session:
        assert crate["id"] not in kept.out_of_date(session)
        row = session.get_one(Master, crate["deliverables"][0]["master"]["id"])
        document = session.scalar(
            text("select document from kept_fits where master_id = :id"), {"id": row.id}
        )
        assert len(document) >= 25 and SPEC in document


def test_fits_are_worked_out_again_where_their_master_or_spec_changed(
    installation: Installation, crate: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    from ample_crate.store import specs

    counted: list[str] = []
    real = kept.assess
    monkeypatch.setattr(
        kept,
        "assess",
        lambda facts, spec, *more: counted.append(spec.id) or real(facts, spec, *more),
    )
    with installation.database.session() as session:
        row, versions = (
            session.get_one(Master, crate["deliverables"][0]["master"]["id"]),
            specs.in_force(session),
        )
        held = kept.fits(session, row, versions)
        assert counted == []
        row.corrections = {"motion.field_order": "upper first"}
        session.flush()
        session.refresh(row)
        kept.fits(session, row, versions)
        assert len(counted) == len(held) == len(versions)
        session.rollback()


def test_a_floor_is_written_anew_as_time_goes_on_and_files_go(tmp_path: Path) -> None:
    file, now = tmp_path / "made.mp4", time.monotonic()
    file.write_text("a file")
    crates = [(None, None, {"files": {str(file): True}})]
    seen = floor._Seen(crates, {}, {}, EMPTY, [], [])  # type: ignore[arg-type]
    assert floor._current(floor._Given(b"", now, seen))
    assert not floor._current(floor._Given(b"", now - floor.SHOWN_FOR, seen))
    file.unlink()
    assert not floor._current(floor._Given(b"", now, seen))


def test_an_answer_stands_until_something_is_written(installation: Installation) -> None:
    memo, made = Memo(), [0]

    def make() -> int:
        made[0] += 1
        return made[0]

    def ask() -> int:
        with installation.database.session() as session:
            return memo.answer(session, "how many", make)

    # It is alive and writes by itself: a snapshot is held here, and changed on purpose.
    with installation.database.at_one_moment() as session:
        answers = {memo.answer(session, "held", make) for _ in range(3)}
    first = ask()
    with installation.database.session() as session:
        session.execute(text("select pg_current_xact_id()"))
    assert ask() > first and len(answers) == 1
