"""What of an item, and of a row of its ledger, is looked at first."""

from __future__ import annotations

from typing import Any

import pytest

from ample_crate.core.planning import concerns
from ample_crate.core.planning.notes import caution, question
from ample_crate.core.planning.route import plan_route
from ample_crate.core.planning.table import rows as ledger_rows
from ample_crate.core.specs.spec import Spec
from support import master_facts

ROWS = {"picture.codec": "h264", "picture.alpha": False, "sound.tracks": 1, "file.wrapper": "mp4"}
SPEC = {
    "id": "asks",
    "version": 1,
    "recipient": "pinfold",
    "title": "t",
    "requirements": [{"property": key, "rule": {"is": value}} for key, value in ROWS.items()],
    "coding": {"background": "refused"},
    "delivery": {"name": "{master}_{cut}", "fields": {"cut": {"matches": "[ab]"}}},
}
WARNED = caution("a", "what", "why", "", "out").cautions
BARRED = caution("a", "what", "why", "", "out", blocks=True).cautions
ASKED = question("tracks", "a", "what", "why", "", "out").cautions


def row(file: str = "", route: str = "meets", master: str = "meets", **more: Any) -> Any:
    stage = {name: {"verdict": v} if v else None for name, v in [("file", file), ("route", route)]}
    known = {"property": "picture.codec", "verdict": file or "unproven", "contradiction": ""}
    return known | stage | {"master": {"verdict": master}, "exception": None} | more


@pytest.mark.parametrize(
    ("rows", "cautions", "troubles", "worst"),
    [
        ([row("meets")], (), 0, "meets"),
        ([row()], (), 0, "unproven"),
        ([row("advice")], (), 0, "advice"),
        ([row("meets")], WARNED, 0, "cautions"),
        ([row()], ASKED + WARNED, 0, "needs a choice"),
        ([row()], BARRED + ASKED, 0, "cannot be made"),
        ([row()], (), 1, "cannot be made"),
        ([row("breaks")], BARRED, 0, "breaks"),
        # Nothing is made yet, and it is known that it will break.
        ([row(route="breaks")], (), 0, "breaks"),
        # That a name is still to be filled in is no break of it.
        ([row(route="breaks", property="a")], ASKED, 0, "needs a choice"),
        ([row("breaks", property="a")], ASKED, 0, "breaks"),
        # It was foretold to break, and does not.
        ([row("meets", route="breaks")], (), 0, "meets"),
        # Somebody signed for it.
        ([row("breaks", exception={"by": "Ines"})], (), 0, "meets"),
    ],
)
def test_the_worst_of_an_item_comes_first(
    rows: Any, cautions: Any, troubles: int, worst: str
) -> None:
    assert concerns.of_item(rows, cautions, troubles).worst == worst


def test_what_waits_for_a_choice_is_told_from_what_stops() -> None:
    made = concerns.of_item([], WARNED + BARRED + ASKED)
    assert (made.cautions, made.stops, made.choices) == (1, 1, 1)


@pytest.mark.parametrize(
    ("given", "matter"),
    [
        (row(), ""),
        (row("breaks"), "breaks"),
        (row("advice"), "advice"),
        (row("unproven"), "unproven"),
        (row(master="breaks"), "change"),
        (row(contradiction="header says 24"), "change"),
        (row("meets", master="breaks"), ""),
        (row(route="advice"), "advice"),
        (row(property="warned"), "caution"),
        (row("breaks", property="warned"), "breaks"),
        (row(route="breaks", property="warned"), "caution"),
        (row(route="breaks"), "breaks"),
        (row(property="open"), "choice"),
        (row("meets", property="open"), ""),
    ],
)
def test_why_a_row_is_looked_at(given: Any, matter: str) -> None:
    assert concerns.of_row(given, {"warned"}, {"open"}) == matter


def test_which_tracks_what_name_and_what_ground_are_asked_for() -> None:
    spec = Spec.model_validate(SPEC)
    master = master_facts(sound_tracks=2, picture_alpha=True)
    route = plan_route(master, spec, {}, "film.mov")
    assert {one.choice for one in route.cautions if one.choice} == {"tracks", "name.", "background"}
    made = concerns.of_item(ledger_rows(spec, master, route.facts, None), route.cautions)
    assert (made.choices, made.stops, made.worst) == (3, 0, "needs a choice")
    chosen = {"tracks": "1", "name.cut": "a", "background": "black"}
    settled = plan_route(master, spec, chosen, "film.mov")
    assert settled.plan is not None and not [one for one in settled.cautions if one.choice]
