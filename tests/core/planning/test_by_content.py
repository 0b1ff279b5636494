"""Codecs whose size follows from the pictures: a range is told, nothing is solved, and nothing is
run again for its size.
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

import pytest

from ample_crate.core import formats
from ample_crate.core.facts import Facts
from ample_crate.core.formats.size import Amount, ByContent
from ample_crate.core.planning.encoding import PictureByContent
from ample_crate.core.planning.plan import Route, amount_of
from ample_crate.core.planning.retry import retry
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.core.units.values import Size
from ample_crate.store.library import find
from support import master_facts

HD = Size(1920, 1080)


def route(profile: str, *rows: dict[str, Any], wrapper: str = "mov", **master: Any) -> Route:
    asked = {
        "picture.codec": "prores",
        "picture.profile": profile,
        "picture.size": "1920x1080",
        "file.wrapper": wrapper,
    }
    usual = [{"property": key, "rule": {"is": value}} for key, value in asked.items()]
    spec = Spec.model_validate(
        {
            "id": "content",
            "version": 1,
            "recipient": "pinfold",
            "title": "t",
            "requirements": [*usual, *rows],
        }
    )
    return plan_route(master_facts(**master), spec, {}, "film.mov")


@pytest.mark.parametrize(("profile", "mbps"), [("proxy", 45), ("hq", 220), ("xq", 500)])
def test_the_published_rate_is_what_is_expected(profile: str, mbps: int) -> None:
    """600 frames at 29.97 fps of 1920x1080 take what the published rate takes in that time."""
    row = formats.PICTURE["prores"].made
    assert row is not None and isinstance(row.size, ByContent)
    amount = row.size.amount(profile, HD, False, 600)
    seconds = 600 / Fraction(30000, 1001)
    assert amount.expected == pytest.approx(mbps * 10**6 / 8 * seconds, rel=0.002)
    assert amount.least < amount.expected < amount.most


def test_transparency_raises_the_ceiling_and_opens_the_range() -> None:
    plain, clear = (
        PictureByContent(codec="prores", profile="4444").amount(f, 25)
        for f in (
            route("4444").plan.picture.format,
            route("4444", picture_alpha=True).plan.picture.format,
        )
    )
    assert clear.expected > plain.expected
    assert clear.most - clear.expected > plain.most - plain.expected


def test_the_route_tells_a_range_and_no_rate() -> None:
    made = route("hq")
    assert made.plan is not None
    assert Amount(made.least, made.size, made.most) == amount_of(made.plan)
    assert made.facts.value("picture.bit_rate") is None
    assert made.facts.value("motion.longest_gop") == 1
    assert "when it is made" in next(s.reason for s in made.steps if s.title == "ProRes hq")
    assert "picture.bit_rate" not in made.choices


@pytest.mark.parametrize(
    ("cap", "says", "blocks"),
    [
        # 20 s at 220 Mb/s and 29.97 fps are 550 MB; at 25 fps 459 MB.
        ("900 MB", None, False),
        ("480 MB", "may land over", False),
        ("5 MB", "predicted over", True),
    ],
)
def test_a_cap_is_held_against_the_range(cap: str, says: str | None, blocks: bool) -> None:
    made = route("hq", {"property": "file.size", "rule": {"at_most": cap}})
    said = [c for c in made.cautions if c.row == "file.size"]
    assert [says in c.what for c in said] == ([True] if says else [])
    assert (made.plan is None) is blocks
    assert all("lighter profile" in c.way_out for c in said)


def test_nothing_is_run_again_for_a_size_that_the_pictures_decide() -> None:
    made = route("hq", {"property": "file.size", "rule": {"at_most": "480 MB"}})
    assert made.plan is not None and not made.plan.picture.bends
    facts = Facts().with_values("measured", {"file.size": 490_000_000})
    more = retry(made.plan, facts)
    assert more is not None and more.plan is None and "no rate is set" in more.then


def test_what_the_encoder_takes_is_told_where_the_master_has_more() -> None:
    deep = route("4444", picture_bit_depth=12)
    assert deep.facts.value("picture.bit_depth") == 12, "so the file is read"
    assert any("12 bit are rounded to 10" in c.what for c in deep.cautions)
    assert not any("rounded" in c.what for c in route("4444").cautions)


def test_transparency_is_kept_where_the_profile_carries_it() -> None:
    kept = route("4444", picture_alpha=True)
    assert kept.facts.value("picture.alpha") is True
    assert not any(c.row == "picture.alpha" for c in kept.cautions)
    open_one = plan_route(master_facts(picture_alpha=True), find("tannery-live"), {}, "fog.mov")
    assert open_one.facts.value("picture.profile") == "4444", "where nobody asks for another"
    dropped = route("hq", picture_alpha=True)
    assert dropped.facts.value("picture.alpha") is False
    assert any("is laid over black" in c.what for c in dropped.cautions)


def test_of_several_codecs_one_that_is_made_here_is_taken() -> None:
    document = find("tannery-live").model_dump(mode="json", by_alias=True, exclude_none=True)
    rule = next(r for r in document["requirements"] if r["property"] == "picture.codec")
    rule["rule"] = {"one_of": ["jpeg2000", "prores"]}
    spec = Spec.model_validate(document)
    plain = plan_route(master_facts(picture_codec="h264"), spec, {}, "film.mov")
    assert plain.plan is not None and plain.plan.picture.encoding.codec == "prores"
    chosen = plan_route(master_facts(), spec, {"picture.codec": "jpeg2000"}, "film.mov")
    assert chosen.plan is None
    assert "'jpeg2000' cannot be made here" in chosen.cautions[-1].what


def test_fields_are_not_put_where_they_would_be_called_frames() -> None:
    fields = [
        {"property": "motion.scan", "rule": {"is": "interlaced"}},
        {"property": "motion.field_order", "rule": {"is": "upper first"}},
    ]
    assert route("hq", *fields).plan is not None
    refused = route("hq", *fields, wrapper="mxf")
    assert refused.plan is None
    assert "whole frames" in refused.cautions[-1].what and "MOV" in refused.cautions[-1].way_out
