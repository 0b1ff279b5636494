"""Specs as the API gives them."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from pydantic import ValidationError

from ..core import formats
from ..core.errors import AmpleError, BadSpec
from ..core.facts.properties import PROPERTIES, lookup
from ..core.planning.choices import may_choose
from ..core.planning.share import cap_of
from ..core.specs import naming, saying, specfile, vocabulary
from ..core.specs.contradictions import contradictions
from ..core.specs.delivery import FORMS, Coding, Delivery
from ..core.specs.drafting import Proposal
from ..core.specs.playback import Playback
from ..core.specs.requirement import Requirement
from ..core.specs.rules import Strict
from ..core.specs.spec import Spec, check_choice
from ..core.specs.wording import asked
from ..core.units.values import show_rate
from ..store import models, specs
from . import views
from .crate_schemas import OptionOut
from .spec_schemas import (
    Checked,
    ContradictionOut,
    CrateUsing,
    HouseSetOut,
    LevelOut,
    ProfilesOut,
    PropertyOut,
    ProposalOut,
    RateOut,
    Reading,
    RepairOut,
    RequirementOut,
    SpecOut,
    SpecPage,
    VersionOut,
    Vocabulary,
    Wrong,
)

Use = Mapping[tuple[str, int], tuple[int, int]]


def listed(rows: list[models.SpecVersion], use: Use) -> list[SpecOut]:
    """Give the register: one row a spec, from all versions of all specs."""
    made = []
    for versions in specs.by_spec(rows).values():
        held = specs.current(versions)
        row = held or versions[-1]
        spec = specs.read(row)
        counts = [use.get((r.id, r.version), (0, 0)) for r in versions]
        made.append(
            SpecOut(
                id=spec.id,
                version=spec.version,
                title=spec.title,
                status=spec.status,
                in_force=held is not None,
                valid_from=spec.valid_from,
                summary=spec.summary,
                recipient=views.recipient(row.recipient),
                requirements=len(spec.requirements) + len(spec.either),
                cap=cap_of(spec)[0],
                cap_of=cap_of(spec)[1],
                open_crates=sum(c[0] for c in counts),
                crates=sum(c[1] for c in counts),
                asks=spec.said,
                newest=versions[-1].version,
                newest_status=str(versions[-1].document.get("status", "in force")),
            )
        )
    return made


def reading(spec: Spec, recipient: models.Recipient | None) -> Reading:
    """Give a spec as its reader sees it, with what contradicts itself."""
    return Reading(
        id=spec.id,
        version=spec.version,
        title=spec.title,
        status=spec.status,
        valid_from=spec.valid_from,
        summary=spec.summary,
        source=spec.source,
        recipient=views.recipient(recipient) if recipient is not None else None,
        rows=[_requirement(spec, r) for r in spec.everything()],
        coding=saying.coding(spec),
        delivery=saying.delivery(spec),
        name_pattern=spec.delivery.name,
        house_sets=[_house_set(name, s) for name, s in spec.house_sets.items()],
        contradictions=[
            ContradictionOut(
                kind=c.kind,
                grade=c.grade,
                what=c.what,
                why=c.why,
                properties=list(c.properties),
                clauses=list(c.clauses),
                repair=RepairOut(
                    says=c.repair.says,
                    changes={
                        k: None if v is None else dict(v) for k, v in c.repair.changes.items()
                    },
                ),
            )
            for c in contradictions(spec)
        ],
    )


def _requirement(spec: Spec, one: Requirement) -> RequirementOut:
    prop, choice = lookup(one.property), spec.house.get(one.property)
    return RequirementOut(
        property=one.property,
        label=prop.label,
        group=prop.group,
        part=one.part,
        asked=asked(one),
        severity=one.severity,
        note=one.note,
        source=one.source,
        sentence=one.sentence(),
        choosable=may_choose(spec, one.property),
        house=prop.kind.show(prop.read(choice.value)) if choice else None,
        house_note=choice.note if choice else "",
    )


def _house_set(name: str, one: Any) -> HouseSetOut:
    said = []
    for key, choice in one.choices.items():
        prop = lookup(key)
        said.append(
            f"{prop.label} {prop.kind.show(prop.read(choice.value))}. {choice.note}".strip()
        )
    return HouseSetOut(name=name, note=one.note, choices=said)


def versions(rows: list[models.SpecVersion], use: Use) -> list[VersionOut]:
    """Give all versions of one spec, newest first."""
    held = specs.current(rows)
    return [
        VersionOut(
            version=r.version,
            status=str(r.document.get("status", "in force")),
            in_force=r is held,
            valid_from=r.document.get("valid_from"),
            origin=r.origin,
            changed_at=r.changed_at,
            open_crates=use.get((r.id, r.version), (0, 0))[0],
            crates=use.get((r.id, r.version), (0, 0))[1],
        )
        for r in reversed(rows)
    ]


def page(
    row: models.SpecVersion, rows: list[models.SpecVersion], use: Use, crates: list[models.Crate]
) -> SpecPage:
    """Give a version of a spec to read."""
    spec = specs.read(row)
    told = versions(rows, use)
    return SpecPage(
        reading=reading(spec, row.recipient),
        document=specfile.document_of(spec),
        yaml=specfile.dump(spec),
        versions=told,
        crates=[
            CrateUsing(
                id=c.id,
                number=c.number,
                revision=c.revision,
                title=c.title,
                state=c.state,
                version=c.spec_version,
            )
            for c in crates
        ],
        in_force=any(v.in_force and v.version == row.version for v in told),
    )


def checked(
    document: dict[str, Any] | None,
    text: str | None,
    name: str,
    recipients: Mapping[str, models.Recipient],
) -> Checked:
    """Read a spec that is being written: every rule by itself, and then the whole."""
    wrong: list[Wrong] = []
    said: list[str] = []
    try:
        if text is not None:
            spec = specfile.parse(text, name)
        else:
            wrong, said = _rules(document or {})
            wrong += _parts(document or {})
            spec = specfile.parse_document(document or {}, "The spec")
    except BadSpec as error:
        return Checked(
            wrong=wrong or [Wrong(what=error.what, way_out=error.way_out, place=[])],
            document=None,
            sentences=said,
            reading=None,
        )
    if spec.recipient not in recipients:
        wrong.append(
            Wrong(
                what=f"There is no recipient '{spec.recipient}'.",
                way_out="Choose one of the list.",
                place=["recipient"],
            )
        )
    return Checked(
        wrong=wrong,
        document=specfile.document_of(spec),
        sentences=said,
        reading=reading(spec, recipients.get(spec.recipient)),
    )


def _rules(document: dict[str, Any]) -> tuple[list[Wrong], list[str]]:
    """Read each rule by itself, so that all that is wrong is told of at once; and give the
    sentences of those that are right.
    """
    found, said = [], []
    for number, row in enumerate(_list(document.get("requirements"))):
        try:
            said.append(Requirement.model_validate(row).sentence())
        except ValueError as error:
            said.append("")
            found.append(Wrong(what=_first(error), way_out="", place=["requirements", number]))
    for which, either in enumerate(_list(document.get("either"))):
        for other, alternative in enumerate(_list(_table(either).get("any"))):
            for key, rule in _table(_table(alternative).get("rules")).items():
                try:
                    Requirement.model_validate({"property": key, "rule": rule})
                except ValueError as error:
                    found.append(
                        Wrong(what=_first(error), way_out="", place=["either", which, other, key])
                    )
    return found, said


def _parts(document: dict[str, Any]) -> list[Wrong]:
    """Read what stands beside the rules: how the house makes it, the name, and each house choice
    against the rules.
    """
    found = []
    parts: dict[str, type[Strict]] = {
        "coding": Coding,
        "delivery": Delivery,
        "playback": Playback,
    }
    for key, kind in parts.items():
        try:
            if key != "playback" or document.get(key) is not None:
                kind.model_validate(document.get(key) or {})
        except ValueError as error:
            found.append(Wrong(what=_first(error), way_out="", place=[key, *_where(error)]))
    try:
        spec = specfile.parse_document(
            {k: v for k, v in document.items() if k not in {"house", "house_sets", *parts}},
            "The spec",
        )
    except BadSpec:
        return found  # what the rules leave is not known yet
    sets = [
        (["house_sets", name], _table(_table(one).get("choices")))
        for name, one in _table(document.get("house_sets")).items()
    ]
    for place, choices in [(["house"], _table(document.get("house"))), *sets]:
        for key, choice in choices.items():
            try:
                check_choice(spec, key, _table(choice).get("value"))
            except AmpleError as error:
                found.append(Wrong(what=error.what, way_out=error.way_out, place=[*place, key]))
    return found


def _list(value: Any) -> list[Any]:
    return value if isinstance(value, list) else []


def _table(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _where(error: ValueError) -> list[str | int]:
    return list(error.errors()[0]["loc"]) if isinstance(error, ValidationError) else []


def _first(error: ValueError) -> str:
    return (
        str(error.errors()[0]["msg"]).removeprefix("Value error, ")
        if isinstance(error, ValidationError)
        else str(error)
    )


def proposal(one: Proposal) -> ProposalOut:
    """Give a proposed rule, with the row that it would be."""
    prop = lookup(one.requirement.property)
    row = one.requirement.model_dump(mode="json", by_alias=True, exclude_defaults=True)
    return ProposalOut(
        row=row,
        property=one.requirement.property,
        label=prop.label,
        group=prop.group,
        shown=one.shown,
        because=one.because,
        usual=one.usual,
        sentence=one.requirement.sentence(),
    )


def offered(recipients: list[models.Recipient]) -> Vocabulary:
    """Give all that an editor offers."""
    return Vocabulary(
        properties=[
            PropertyOut(
                key=p.key,
                label=p.label,
                group=p.group,
                kind=p.kind.name,
                meaning=p.meaning,
                operators=vocabulary.operators(p),
                values=[OptionOut(value=v, label=said) for v, said in vocabulary.values(p)],
                closed=vocabulary.closed(p),
                unit=vocabulary.unit(p),
            )
            for p in PROPERTIES.values()
        ],
        rates=[
            RateOut(
                value=f"{r.numerator}/{r.denominator}" if r.denominator > 1 else str(r.numerator),
                said=show_rate(r),
            )
            for r in vocabulary.RATES
        ],
        sizes=list(vocabulary.SIZES),
        levels=[
            LevelOut(codec=c, name=held.name, says=held.says)
            for c, row in formats.PICTURE.items()
            for held in (row.levels.table("") if row.levels is not None else ())
        ],
        profiles=[
            ProfilesOut(codec=c, profiles=[p.name for p in row.profiles])
            for c, row in formats.PICTURE.items()
            if row.profiles
        ],
        name_fields=list(naming.FIELDS),
        sidecars={kind: list(forms) for kind, forms in FORMS.items()},
        recipients=[views.recipient(r) for r in recipients],
    )
