"""Who makes what when: runs over workers."""

from __future__ import annotations

import random

from ample_crate.core.planning.schedule import EMPTY, Slot, Task, queue, schedule


def test_those_that_wait_go_in_order_to_whoever_is_free_first() -> None:
    tasks = [Task(1, 30, lane=0), Task(2, 10), Task(3, 50), Task(4, 5)]
    assert schedule(tasks, {0: 0, 1: 0}) == {
        1: Slot(0, 0, 30),
        2: Slot(1, 0, 10),
        3: Slot(1, 10, 60),
        4: Slot(0, 30, 35),
    }


def test_nobody_is_there_and_nothing_is_placed_but_what_goes_on() -> None:
    assert schedule([Task(1, 30, lane=0), Task(2, 10)], {}) == {1: Slot(0, 0, 30)}


def test_what_is_held_until_later_lets_others_go_first() -> None:
    tasks = [Task(1, 10, not_before=100), Task(2, 30), Task(3, 5)]
    found = schedule(tasks, {0: 0})
    assert found == {2: Slot(0, 0, 30), 3: Slot(0, 30, 35), 1: Slot(0, 100, 110)}


def test_a_worker_that_comes_later_takes_none_before() -> None:
    found = schedule([Task(1, 10), Task(2, 10)], {0: 0, 1: 5})
    assert found == {1: Slot(0, 0, 10), 2: Slot(1, 5, 15)}


def test_no_worker_has_two_at_once_and_none_idles_while_one_waits() -> None:
    chance = random.Random(4)
    for _ in range(200):
        tasks = [Task(n, chance.randint(1, 50)) for n in range(chance.randint(1, 20))]
        workers = range(chance.randint(1, 4))
        found = schedule(tasks, dict.fromkeys(workers, 0.0))
        assert len(found) == len(tasks)
        for lane in workers:
            mine = sorted(
                (slot for slot in found.values() if slot.lane == lane), key=lambda s: s.begin
            )
            # One after the other, from the first second on.
            ends = [0.0, *(slot.end for slot in mine)]
            assert [slot.begin for slot in mine] == ends[:-1]
        begins = [found[one.key].begin for one in tasks]
        assert begins == sorted(begins)


def test_more_comes_after_all_others_by_whoever_is_free() -> None:
    made = queue([Task(1, 30, lane=7), Task(2, 10), Task(3, 50)], [7, 8])
    assert made.after([5, 100, 10]) == (30, 135)
    assert made.after([]) == (0, 0)
    # Those that one worker makes from one reading are its one work.
    together = [Task(1, 30, lane=7), Task(2, 20, lane=7), Task(3, 5)]
    assert queue(together, [7]).slots[3] == Slot(7, 30, 35)


def test_a_worker_that_was_lost_comes_back() -> None:
    assert queue([Task(1, 30)], []).slots == {1: Slot(0, 0, 30)}
    assert EMPTY.after([3, 4]) == (0, 7)


def test_what_is_held_comes_last_and_what_is_for_the_night_lets_more_go_first() -> None:
    held, night = Task(1, 10, held=True), Task(2, 10, not_before=100)
    made = queue([held, night, Task(3, 30)], [5])
    assert made.slots == {3: Slot(5, 0, 30), 1: Slot(5, 30, 40), 2: Slot(5, 100, 110)}
    # What is ordered now goes before both.
    assert made.after([20]) == (30, 50)


def test_a_worker_that_takes_nothing_more_ends_what_it_is_at() -> None:
    made = queue([Task(1, 30, lane=5), Task(2, 10)], [6])
    assert made.slots == {1: Slot(5, 0, 30), 2: Slot(6, 0, 10)}
