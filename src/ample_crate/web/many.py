"""Many at once: one master to several recipients, many masters to one spec by a sheet, choices and
names for several items, crates made like others.
"""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy.orm import Session

from ..core.errors import AmpleError, BadValue, NotFound, Refused
from ..core.planning import sheets as rules
from ..core.specs.filling import Filling
from ..store import specs
from ..store.database import tell
from ..store.models import Crate, Deliverable, Master, NamedSpan
from ..store.queries import get
from ..work import choosing, kept, many, running, sheets, status, worked_out
from ..work.acts import open_crate
from ..work.carrying_over import Carried
from .bench_schemas import CarriedOver
from .crate_schemas import CratePage
from .crates import page_of
from .many_schemas import (
    Begun,
    ChooseForMany,
    CloneIn,
    CrateIds,
    FillNames,
    LaySheet,
    LikeIn,
    LineOut,
    MistakeOut,
    NamedOut,
    NamesOut,
    NewCrateOut,
    NewCrates,
    NewCratesOut,
    NewFromSheet,
    SheetIn,
    SheetOut,
    TakerOut,
    TakersOut,
    TakersQuery,
)
from .schemas import Numbered
from .services import give, give_csv, services

api = APIBlueprint("many", __name__, url_prefix="/api", abp_tags=[Tag(name="many at once")])
# From taking masters as they are to not taking them.
ANSWERS = ("accepts", "rewrap only", "needs an encode", "not known yet", "cannot")
IN_AN_HOUR = timedelta(hours=1)


@api.get(
    "/takers", summary="How all specs in force would take some masters", responses={200: TakersOut}
)
def takers(query: TakersQuery) -> Response:
    """Give for each spec the answer to the master that fits it least."""
    with services().database.session() as session:
        rows = [get(session, Master, int(id)) for id in query.masters.split(",")]
        versions = specs.in_force(session)
        by_master = [kept.fits(session, row, versions) for row in rows]
        made = []
        for version, *fits in zip(versions, *by_master, strict=True):
            worst = max(fits, key=lambda one: ANSWERS.index(one["answer"]))
            made.append(
                TakerOut(
                    **worst,
                    recipient_key=version.recipient_key,
                    kind=version.recipient.kind,
                    could=worst["answer"] in ANSWERS[:3],
                )
            )
    return give(TakersOut(root=made))


@api.post(
    "/crates/several",
    summary="Make a crate for each of several specs",
    responses={200: NewCratesOut},
)
def make_several(body: NewCrates) -> Response:
    """Make crates of the same masters in one act: all of them, or none."""
    made: list[NewCrateOut] = []
    with services().database.session() as session:
        parts = many.parts(session, body.masters, body.spans)
        for one in body.to:
            wanted = many.Wanted(body.title, one.spec, one.due_at)
            crate = many.make(session, wanted, services().folders)
            left = many.put_in(session, crate, parts)
            made.append(
                NewCrateOut(
                    id=crate.id,
                    number=crate.number,
                    spec_title=status.spec_of(crate).title,
                    recipient=crate.recipient.name,
                    left_out=left,
                )
            )
            tell(session, "crate", crate.id)
    return give(NewCratesOut(root=made))


@api.post("/crates/run", summary="Run all of several crates", responses={200: Begun})
def run_several(body: CrateIds) -> Response:
    """Run everything of several crates that can be run, and say of the others why not."""
    begun, not_begun = [], {}
    with services().database.session() as session:
        for id in sorted(set(body.crates)):
            try:
                with session.begin_nested():
                    running.run_all(session, open_crate(session, id))
                    tell(session, "crate", id)
                begun.append(id)
            except AmpleError as error:
                not_begun[id] = error.sentence()
    return give(Begun(begun=begun, not_begun=not_begun))


@api.post("/sheets", summary="Look at a sheet before it is used", responses={200: SheetOut})
def look_at_sheet(body: SheetIn) -> Response:
    """Say what would come of a sheet, line by line: it is laid into the crate, and taken back."""
    with services().database.session() as session:
        crate = _crate_for(session, body)
        with session.begin_nested() as tried:
            session.add(crate)
            session.flush()
            made = sheets.lay_out(crate, body.text)
            answer = _answer(crate, made)
            tried.rollback()
    return give(answer)


def _crate_for(session: Session, body: SheetIn) -> Crate:
    if body.crate is not None:
        return open_crate(session, body.crate)
    if body.spec is None:
        raise BadValue("The sheet is for no crate and no spec.", "Name one of them.")
    return many.unnumbered(session, many.Wanted("A crate", body.spec, status.now() + IN_AN_HOUR))


def _answer(crate: Crate, made: sheets.LaidOut) -> SheetOut:
    found = {one["id"]: one for one in worked_out.items(crate)}
    lines = [_line(one, found[one.item.id]) for one in made.laid]
    return SheetOut(
        lines=lines,
        mistakes=_mistakes(made),
        columns=sorted(rules.headings(status.spec_of(crate))),
    )


def _mistakes(made: sheets.LaidOut) -> list[MistakeOut]:
    return [
        MistakeOut(line=one.line, column=one.column, what=one.what, way_out=one.way_out)
        for one in made.mistakes
    ]


def _line(one: sheets.Laid, found: worked_out.Document) -> LineOut:
    chosen = one.item.choices
    return LineOut(
        line=one.line.number,
        item=status.item_name(one.item),
        master=one.item.master_id,
        fresh=one.fresh,
        file=found["file"],
        chosen=[choosing.in_words(key, chosen[key]) for key in sorted(chosen)],
        worst=found["worst"],
        says=found["says"],
    )


@api.post("/crates/sheet", summary="Make a crate of a sheet", responses={200: CratePage})
def make_of_sheet(body: NewFromSheet) -> Response:
    """Make a crate with an item for each line."""
    with services().database.session() as session:
        wanted = many.Wanted(body.title, body.spec, body.due_at)
        crate = many.make(session, wanted, services().folders)
        _lay(crate, body)
        return _shown(session, crate)


@api.post(
    "/crates/<int:id>/sheet", summary="Lay a sheet into an open crate", responses={200: CratePage}
)
def lay_sheet(path: Numbered, body: LaySheet) -> Response:
    """Change items and add others as a sheet says."""
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        _lay(crate, body)
        return _shown(session, crate)


def _lay(crate: Crate, body: LaySheet) -> None:
    made = sheets.lay_out(crate, body.text)
    if made.mistakes and not body.partly:
        first = made.mistakes[0]
        more = f" There are {len(made.mistakes)} mistakes." if len(made.mistakes) > 1 else ""
        raise BadValue(
            f"Line {first.line} of the sheet: {first.what}{more}",
            f"{first.way_out} Or take only the lines without mistakes.",
        )
    if not made.laid:
        raise BadValue("No line of the sheet can be taken.", "Correct what is said of each.")


def _shown(session: Session, crate: Crate, said: Sequence[str] = ()) -> Response:
    tell(session, "crate", crate.id)
    return page_of(session, crate.id, said)


@api.get("/crates/<int:id>/sheet.csv", summary="The items of a crate as a sheet")
def sheet_of(path: Numbered) -> Response:
    """Give a crate's items, what is chosen for them, and how they fare."""
    with services().database.session() as session:
        crate = get(session, Crate, path.id)
        text = sheets.written(crate, status.item_statuses(crate))
        name = f"crate-{crate.number}-r{crate.revision}.csv"
    return give_csv(text, name)


@api.patch(
    "/crates/<int:id>/choices",
    summary="Choose the same for several items of a crate",
    responses={200: CarriedOver},
)
def choose_for(path: Numbered, body: ChooseForMany) -> Response:
    """Choose for each item what it can take; the answer names what one cannot."""
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        items = _items(crate, body.to)
        made = many.choose(body.choices, items)
        tell(session, "crate", crate.id)
        return give(CarriedOver.of(_by_name(items, made)))


def _items(crate: Crate, ids: Sequence[int]) -> list[Deliverable]:
    """Give items of a crate, in its order."""
    there = {one.id for one in crate.deliverables}
    if not set(ids) <= there:
        raise BadValue(
            "Not all of these are items of this crate.", "Choose some of those on its page."
        )
    return [one for one in crate.deliverables if one.id in set(ids)]


def _by_name(items: Sequence[Deliverable], made: Sequence[Carried]) -> list[tuple[str, Carried]]:
    names = [status.item_name(one) for one in items]
    return list(zip(names, made, strict=True))


@api.post(
    "/crates/<int:id>/names",
    summary="Fill in the names of several items",
    responses={200: NamesOut},
)
def fill_names(path: Numbered, body: FillNames) -> Response:
    """Fill in fields of the names of several items; where it is only looked at, nothing is kept."""
    with services().database.session() as session:
        crate = open_crate(session, path.id)
        items = _items(crate, body.to)
        filling = Filling(body.fields, body.pattern, body.first)
        with session.begin_nested() as tried:
            made = many.fill_names(filling, items)
            session.flush()
            answer = _named(crate, items, made)
            if not body.keep:
                tried.rollback()
        if body.keep:
            tell(session, "crate", crate.id)
    return give(answer)


def _named(crate: Crate, items: Sequence[Deliverable], made: Sequence[Carried]) -> NamesOut:
    files = {one["id"]: one["file"] for one in worked_out.items(crate)}
    named = []
    for item, carried in zip(items, made, strict=True):
        left = carried.left[0] if carried.left else None
        named.append(
            NamedOut(
                id=item.id,
                item=status.item_name(item),
                file=files[item.id],
                wrong="" if left is None else left.why,
                way_out="" if left is None else left.way_out,
            )
        )
    return NamesOut(root=named)


@api.post(
    "/crates/<int:id>/clones",
    summary="Make a crate like another, with other masters",
    responses={200: CratePage},
)
def clone(path: Numbered, body: CloneIn) -> Response:
    """Make a crate of other masters, for which is chosen what was chosen for those they stand for;
    the answer says what one of them cannot take.
    """
    with services().database.session() as session:
        source = get(session, Crate, path.id)
        wanted = many.Wanted(body.title, source.spec_id, body.due_at)
        pairs = [_pair(session, source, one) for one in body.items]
        crate = many.make(session, wanted, services().folders)
        made = many.clone(session, crate, pairs)
        said = [
            f"{status.item_name(item)}: {left.what}" for item, kept in made for left in kept.left
        ]
        return _shown(session, crate, said)


def _pair(session: Session, source: Crate, one: LikeIn) -> tuple[Deliverable, many.Part]:
    like = next((d for d in source.deliverables if d.id == one.like), None)
    if like is None:
        raise NotFound(f"Crate {source.number} has no item {one.like}.", "Open its page again.")
    if one.span is None:
        return like, (get(session, Master, one.master), None)
    row = get(session, NamedSpan, one.span)
    if row.master_id != one.master:
        raise Refused("This range is not one of that master.", "Choose one of its own.")
    return like, (get(session, Master, one.master), many.span_of(row))
