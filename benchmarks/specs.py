"""Judging specs: ledgers a second against a bare loop over the same tests, and how long the
register and a fit table take over HTTP.

Run `.venv/bin/python -m benchmarks.specs [ledger] [api]`, both by default.
"""

from __future__ import annotations

import random
import shutil
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

from ample_crate.core.facts import Fact, Facts
from ample_crate.core.facts.properties import PROPERTIES
from ample_crate.core.ledger import ledger, overall
from ample_crate.core.specs.spec import Spec, Test
from ample_crate.core.specs.vocabulary import values
from ample_crate.core.units.values import Size, Value
from ample_crate.store import library, masters, specs
from ample_crate.store.models import Master

from .deliver import middle
from .serving import ask, serving

MASTERS, SPECS, ROUNDS = 500, 40, 5


def some_facts(rng: random.Random) -> Facts:
    """Make facts of every property that a file can have, as a measured master has them."""
    table: dict[str, Fact] = {}
    for key, prop in PROPERTIES.items():
        if prop.group == "delivery":
            continue
        value: Value
        if usual := values(prop):
            value = prop.read(rng.choice(usual)[0])
        elif prop.kind.name == "flag":
            value = rng.random() < 0.5
        elif prop.kind.name == "size":
            value = rng.choice([Size(1920, 1080), Size(720, 576), Size(1280, 720)])
        elif prop.kind.name == "rate":
            value = rng.choice([Fraction(25), Fraction(50), Fraction(30000, 1001)])
        elif prop.kind.stored is int:
            value = rng.randrange(1, 10**8)
        else:
            value = Fraction(rng.randrange(1, 10**6), 1000) if prop.kind.ordered else "x"
        if key == "sound.tracks":
            value = rng.choice([0, 1, 1, 1, 2])
        table[key] = Fact(measured=value)
    return Facts(table)


def bare(facts: Facts, tests: list[Test]) -> int:
    """Look values up and test them, and do nothing else: the least that judging can cost."""
    count = 0
    for test in tests:
        found = facts.believed.get(test.key)
        if found is not None and found[0] is not None and test.passes(found[0]):
            count += 1
    return count


def judging() -> None:
    """Judge 500 masters by 40 specs on one core."""
    rng = random.Random(11)
    shipped = library.specs()
    chosen: list[Spec] = [
        shipped[n % len(shipped)].model_copy(update={"id": f"copy-{n}"}) for n in range(SPECS)
    ]
    several = [some_facts(rng) for _ in range(MASTERS)]
    flat = [
        [*s.tests, *(t for ways in s.choices for _, tests in ways for t in tests)] for s in chosen
    ]
    ours, theirs = [], []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        for facts in several:
            for spec in chosen:
                overall(ledger(facts, spec, facts))
        ours.append(time.perf_counter() - began)
        began = time.perf_counter()
        for facts in several:
            for tests in flat:
                bare(facts, tests)
        theirs.append(time.perf_counter() - began)
    count, seconds = MASTERS * SPECS, middle(ours)
    print(
        f"{MASTERS} masters x {SPECS} specs: {seconds:.2f} s, {count / seconds:.0f} ledgers a "
        f"second   (under 2 s of one core)"
    )
    print(f"ratio to a bare loop over the same tests: {seconds / middle(theirs):.2f}")
    began = time.perf_counter()
    read = [f.why for f in ledger(several[0], chosen[0], several[0])]
    print(
        f"sentences of one ledger, made when read: {len(read)} in "
        f"{1000 * (time.perf_counter() - began):.1f} ms"
    )


def asking(folder: Path) -> None:
    """Ask for the register, a spec, and a master's page with its fit table, over 40 specs."""
    with serving(folder) as (pool, database):
        rng = random.Random(3)
        with database.session() as session:
            for number, spec in enumerate(library.specs()[: SPECS - len(library.specs())]):
                document = specs.get(session, spec.id).document
                specs.save(session, {**document, "id": f"copy-{number}"}, None)
            row = Master(
                name="lantern_e03.mov",
                path="/nowhere",
                origin="intake",
                size=1,
                state="ready",
                facts=some_facts(rng).as_json(),
                production="",
                corrections={},
                notes=[],
            )
            masters.recard(row)
            session.add(row)
            session.flush()
            id = row.id
        ask(pool, "register of 40 specs", "/api/specs", "p95 under 150")
        ask(pool, "a spec to read", "/api/specs/skerry-hd", "no bar")
        ask(pool, "a master's page with its fit table", f"/api/masters/{id}", "p95 under 150")


def main(wanted: list[str]) -> None:
    """Run what is asked for and print a line each."""
    folder = Path(tempfile.mkdtemp(prefix="ample-bench-"))
    try:
        if "ledger" in wanted:
            judging()
        if "api" in wanted:
            asking(folder)
    finally:
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main(sys.argv[1:] or ["ledger", "api"])
