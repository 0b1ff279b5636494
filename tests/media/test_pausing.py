"""Children that hold still, and go on from where they were."""

from __future__ import annotations

import subprocess
import sys
import threading
from collections.abc import Iterator

import psutil
import pytest
from client import soon

from ample_crate.media.pausing import Gate

# One that has a child of its own, as a confined one has.
COUNTING = """
import subprocess, sys
subprocess.run([sys.executable, "-u", "-c", "n = 0\\nwhile True: n += 1; print(n)"])
"""


@pytest.fixture
def counting() -> Iterator[psutil.Process]:
    child = subprocess.Popen(
        [sys.executable, "-c", COUNTING], stdout=subprocess.DEVNULL, start_new_session=True
    )
    family = psutil.Process(child.pid)
    assert soon(lambda: len(family.children()) == 1)
    yield family
    for one in (*family.children(recursive=True), family):
        one.kill()
    child.wait()


def states(family: psutil.Process) -> set[str]:
    return {one.status() for one in (family, *family.children(recursive=True))}


def rested(gate: Gate, pid: int, unless: threading.Event) -> threading.Thread:
    resting = threading.Thread(target=gate.rest, args=(pid, unless.is_set))
    resting.start()
    return resting


def test_a_child_and_what_it_started_hold_still_until_the_gate_opens(
    counting: psutil.Process,
) -> None:
    gate = Gate()
    gate.put(shut=True)
    resting = rested(gate, counting.pid, threading.Event())
    assert soon(lambda: states(counting) == {psutil.STATUS_STOPPED})
    assert gate.resting
    gate.put(shut=False)
    resting.join()
    assert soon(lambda: psutil.STATUS_STOPPED not in states(counting))
    assert not gate.resting


def test_it_is_let_go_where_something_else_is_to_come_of_it(counting: psutil.Process) -> None:
    gate, ended = Gate(), threading.Event()
    gate.put(shut=True)
    resting = rested(gate, counting.pid, ended)
    assert soon(lambda: states(counting) == {psutil.STATUS_STOPPED})
    ended.set()
    resting.join()
    assert soon(lambda: psutil.STATUS_STOPPED not in states(counting))


def test_one_that_has_ended_already_is_nobody_to_wait_for() -> None:
    gate = Gate()
    gate.put(shut=True)
    ended = subprocess.Popen([sys.executable, "-c", ""])
    ended.wait()
    gate.rest(ended.pid, lambda: True)
