"""What an order asks a person, and what it does not."""

from __future__ import annotations

from typing import Any

import pytest

from ample_crate.core.errors import BadSpec
from ample_crate.core.planning.deciding import questions, trouble
from ample_crate.core.planning.notes import Caution
from ample_crate.core.specs.order import FORM, StandingOrder

ORDER = {
    "id": "lessons",
    "title": "Lessons",
    "source": {"folder": "incoming/lessons", "names": ["*.mov", "*.MP4"]},
    "spec": "harbour-course",
}


def order(**more: Any) -> StandingOrder:
    return FORM.parse_document(ORDER | more, "an order")


def caution(row: str, what: str, blocks: bool = False, choice: str = "") -> Caution:
    return Caution(
        row=row, what=what, why="Why.", figures="5", way_out="Do.", blocks=blocks, choice=choice
    )


def row(property: str, file: str | None, route: str = "meets", severity: str = "must") -> Any:
    return {
        "property": property,
        "label": property,
        "sentence": "must be so.",
        "severity": severity,
        "why": "It is not so.",
        "verdict": file or "unproven",
        "file": {"found": "x"} if file else None,
        "route": {"verdict": route},
    }


def test_what_waits_for_a_choice_is_asked_with_what_can_be_chosen() -> None:
    asked = caution("alpha", "It has transparency.", blocks=True, choice="background")
    values = [{"value": "black", "label": "black"}, {"value": "", "label": "not chosen"}]
    [one] = questions(order(), [asked], [], {"background": values})
    assert (one.kind, one.row, one.why) == ("choice", "alpha", "Why. 5")
    assert [(a.key, a.choices) for a in one.answers] == [
        ("background=black", {"background": "black"}),
        ("leave out", {}),
    ]


def test_a_name_is_asked_for_by_its_fields() -> None:
    asked = caution("file.name", "The name needs a lesson.", blocks=True, choice="name.")
    fields = ["name.lesson", "name.master", "name.date"]
    [one] = questions(order(), [asked], [], {}, empty=fields)
    assert one.fields == ("name.lesson",)
    assert [a.key for a in one.answers] == ["leave out"]


def test_cautions_are_asked_of_only_where_the_order_names_their_kind() -> None:
    cautions = [caution("motion.scan", "Half goes."), caution("picture.bit_rate", "It is thin.")]
    assert questions(order(), cautions, [], {}) == []
    [one] = questions(order(stops_for=["motion.scan"]), cautions, [], {})
    assert (one.kind, one.row) == ("caution", "motion.scan")
    assert [a.key for a in one.answers] == ["go on", "leave out"]
    both = questions(order(stops_for=["any"]), cautions, [], {})
    assert len(both) == 2
    # Who agreed is not asked again.
    left = questions(order(stops_for=["any"]), cautions, [], {}, agreed=[both[0].mark])
    assert left == both[1:]


def test_what_breaks_is_asked_of_whether_foretold_or_made() -> None:
    rows = [
        row("picture.size", None, "breaks"),
        row("picture.codec", "breaks"),
        row("sound.codec", "meets", "breaks"),
        row("sound.rate", "breaks", severity="should"),
        row("file.size", "breaks") | {"exception": {"by": "somebody"}},
    ]
    found = questions(order(), [], rows, {})
    assert [(one.row, [a.key for a in one.answers]) for one in found] == [
        ("picture.size", ["leave out"]),
        ("picture.codec", ["again", "leave out"]),
    ]
    # What stops the route says the same, and is asked once.
    stops = caution("picture.size", "It cannot be scaled.", blocks=True)
    again = questions(order(), [stops], rows[:1], {})
    assert [one.kind for one in again] == ["cannot be made"]
    # Once is enough, where the order stops for its kind too.
    assert len(questions(order(stops_for=["any"]), [stops], rows[:1], {})) == 1


def test_trouble_is_tried_again_or_left() -> None:
    one = trouble("The master cannot be read.", "Look at it.")
    assert [a.key for a in one.answers] == ["again", "leave out"]


def test_an_order_says_itself_and_which_names_count() -> None:
    one = order(goes_to="hand over", makes="at night")
    assert one.said("Lesson for the portal", "Harbour Learning") == (
        "What arrives in incoming/lessons as *.mov or *.MP4 goes by Lesson for the portal to "
        "Harbour Learning, made at night."
    )
    assert one.source.counts("A.MOV") and one.source.counts("b.mp4")
    assert not one.source.counts("b.mp4.part")
    assert order(crate="{order} {date}, {master}").titled("a.mov", "2 May") == (
        "Lessons 2 May, a.mov"
    )


@pytest.mark.parametrize(
    ("more", "told"),
    [
        ({"source": {}}, "folder"),
        ({"source": {"folder": "../a"}}, "inside an intake folder"),
        ({"source": {"folder": "/etc"}}, "inside an intake folder"),
        ({"stops_for": ["motion.nonsense"]}, "motion.nonsense"),
        ({"limits": {"bytes_a_day": "many"}}, "many"),
        ({"crate": "{masterr}"}, "is not filled in here; known are {master}"),
        ({"name": {"pattern": "{a}{b}"}}, "cannot tell its fields apart"),
        ({"sends": {"begins": "25:00", "ends": "06:00"}}, "25:00"),
        ({"odd": 1}, "'odd' is not known here"),
    ],
)
def test_what_is_wrong_with_an_order_is_told(more: Any, told: str) -> None:
    with pytest.raises(BadSpec) as error:
        order(**more)
    assert told in error.value.what


def test_a_mistake_is_told_with_its_line() -> None:
    text = "id: lessons\ntitle: Lessons\nsource: {folder: a}\nspec: x\nlimits:\n  at_once: 0\n"
    with pytest.raises(BadSpec, match=r"lessons.yaml, line 6 \(limits.at_once\)"):
        FORM.parse(text, "lessons.yaml")
