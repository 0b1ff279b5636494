"""What would help where something is foretold to be late."""

from __future__ import annotations

from ample_crate.core.planning.helping import Help, helps
from ample_crate.core.planning.schedule import Task, queue

BEFORE = [Task(1, 50, lane=0), Task(2, 40)]


def test_the_order_the_workers_and_the_pace_are_tried() -> None:
    # By itself it is made after 150 seconds.
    line = queue([*BEFORE, Task(3, 60)], [0])
    found = helps(line, {3}, 120, {"faster": {3: 20}})
    # First: after 50 + 60. With another worker: 40 + 60 there. Faster: 50 + 40 + 20.
    assert found == [Help("worker", 20), Help("first", 10), Help("quicker", 10, "faster")]


def test_what_is_not_in_time_is_told_only_where_nothing_is() -> None:
    line = queue([*BEFORE, Task(3, 60)], [0])
    assert helps(line, {3}, 115) == [Help("worker", 15), Help("first", 5)]
    assert helps(line, {3}, 30) == [Help("worker", -70)]


def test_what_is_held_is_to_be_let_go() -> None:
    held = queue([Task(1, 10, held=True), Task(2, 30)], [0])
    assert helps(held, {1}, 20) == [Help("let go", 10), Help("first", 10), Help("worker", 10)]
    night = queue([Task(1, 10, not_before=500), Task(2, 30)], [0])
    assert helps(night, {1}, 20) == [Help("let go", 10), Help("first", 10)]


def test_what_goes_on_already_is_helped_by_nothing() -> None:
    line = queue([Task(1, 50, lane=0)], [0])
    assert helps(line, {1}, 20, {"faster": {1: 5}}) == []


def test_a_pace_that_is_not_known_of_a_run_leaves_it_as_it_is() -> None:
    line = queue([Task(1, 50), Task(2, 50)], [0])
    assert helps(line, {1, 2}, 80, {"faster": {2: 10}}) == [
        Help("worker", 30),
        Help("quicker", 20, "faster"),
    ]
