"""The planning bench of a deliverable: how it is framed, choices taken back, carried over."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict

from flask import Response
from flask_openapi3 import APIBlueprint, Tag  # type: ignore[attr-defined]
from sqlalchemy.orm import Session

from ..core.planning.framed import Framed
from ..core.planning.places import mixed_in, source_of
from ..core.planning.plan import Plan
from ..core.planning.region import LEAST
from ..core.planning.retiming import way_of
from ..store.database import tell
from ..store.models import Deliverable
from ..store.queries import get
from ..work import colour, framing, house, motion, status, undoing
from ..work.acts import nothing_runs, open_crate
from ..work.carrying_over import alike, carry_over, others
from .bench_schemas import (
    AlikeList,
    AlikeOut,
    CarriedOver,
    CarryOver,
    ClockOut,
    ColourOut,
    ColourRowOut,
    FramedQuery,
    FramingOut,
    KeepIn,
    KeptOut,
    MotionOut,
    PartOut,
    RectOut,
    ReframedOut,
    SeenOut,
    ShownOut,
    StripQuery,
)
from .crate_schemas import CratePage
from .crates import page_of
from .schemas import Numbered
from .services import give, services

api = APIBlueprint(
    "bench", __name__, url_prefix="/api/crates/deliverables", abp_tags=[Tag(name="crates")]
)


@api.get(
    "/<int:id>/framing",
    summary="How a deliverable's picture is framed, and how it could be",
    responses={200: FramingOut},
)
def show_framing(path: Numbered, query: FramedQuery) -> Response:
    """Give the part of the master's frame that is taken, where it lies in the frame made, and other
    parts to choose.
    """
    with services().database.session() as session:
        found = framing.of(get(session, Deliverable, path.id), query.frame)
    seen = found.framed
    return give(
        FramingOut(
            width=found.master.size.width,
            height=found.master.size.height,
            pixel_aspect=str(found.master.aspect),
            picture=RectOut.of(found.picture),
            region=RectOut.of(found.region),
            framing=found.framing,
            reframed=[ReframedOut(**asdict(one)) for one in found.ranges],
            within=found.within,
            columns=found.alignment.columns,
            lines=found.alignment.lines,
            least=LEAST,
            parts=[
                PartOut(label=name, region=RectOut.of(part)) for name, part in found.parts.items()
            ],
            seen=None if seen is None else _seen(seen),
        )
    )


def _seen(seen: Framed) -> SeenOut:
    return SeenOut(
        crop=RectOut.of(seen.crop),
        place=RectOut.of(seen.place),
        width=seen.made.width,
        height=seen.made.height,
        pixel_aspect=str(seen.made.pixel_aspect),
        roundness=float(seen.roundness),
    )


@api.get(
    "/<int:id>/motion",
    summary="How a deliverable's picture moves, and which frames are shown where",
    responses={200: MotionOut},
)
def show_motion(path: Numbered, query: StripQuery) -> Response:
    """Give the clocks of master and deliverable, and which of the master's frames consecutive ones
    of what is made show.
    """
    with services().database.session() as session:
        found = motion.of(get(session, Deliverable, path.id))
    plan = found.plan
    places = range(query.place, min(query.place + query.count, 0 if plan is None else plan.frames))
    return give(
        MotionOut(
            own=_clock(found.own),
            made=None if found.made is None else _clock(found.made),
            natural=None if found.natural is None else str(found.natural),
            strip=[_shown(plan, place) for place in places if plan is not None],
        )
    )


def _shown(plan: Plan, place: int) -> ShownOut:
    standing = plan.around.standing(place, plan.frames)
    other = mixed_in(plan, place)
    return ShownOut(
        place=place,
        source=source_of(plan, place),
        other=None if other is None else other[0],
        share=0 if other is None else float(other[1]),
        followed=way_of(plan) == "compensated",
        standing=standing,
    )


def _clock(clock: motion.Clock) -> ClockOut:
    return ClockOut(
        rate=str(clock.rate),
        frames=clock.frames,
        seconds=float(clock.seconds),
        fields=clock.fields,
    )


@api.get(
    "/<int:id>/colour",
    summary="What becomes of the colour of a deliverable's picture, and of its transparency",
    responses={200: ColourOut},
)
def show_colour(path: Numbered) -> Response:
    """Give what the colour is in the master, and as it is made."""
    with services().database.session() as session:
        found = colour.of(get(session, Deliverable, path.id))
    rows = [
        ColourRowOut(key=row.key, label=row.label, master=row.master, made=row.made, why=row.why)
        for row in found.rows
    ]
    return give(ColourOut(rows=rows, clear=found.clear, shape=float(found.shape)))


@api.post("/<int:id>/undo", summary="Go back to what was chosen before", responses={200: CratePage})
def undo(path: Numbered) -> Response:
    """Take the last choice back."""
    return _step(path.id, undoing.undo)


@api.post("/<int:id>/redo", summary="Choose again what was taken back", responses={200: CratePage})
def redo(path: Numbered) -> Response:
    """Choose again what was taken back last."""
    return _step(path.id, undoing.redo)


def _step(id: int, take: Callable[[Session, Deliverable], list[str]]) -> Response:
    with services().database.session() as session:
        one = get(session, Deliverable, id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        gone = take(session, one)
        tell(session, "crate", crate.id)
        return page_of(session, crate.id, gone)


@api.put("/<int:id>/house", summary="Keep what is chosen as the house's", responses={200: KeptOut})
def keep(path: Numbered, body: KeepIn) -> Response:
    """Keep choices in a new version of the spec, which new crates begin with."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        made = house.keep(session, one, body.keys)
        tell(session, "spec", made.version)
        chosen = any(key in one.choices for key in body.keys or one.choices)
        return give(KeptOut(spec=made.id, version=made.version, chosen=chosen))


@api.post(
    "/<int:id>/house", summary="Choose what new crates begin with", responses={200: CarriedOver}
)
def begin(path: Numbered) -> Response:
    """Choose what the spec has new crates begin with; the answer names what cannot be taken."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        crate = open_crate(session, one.crate_id)
        nothing_runs(one.runs)
        made = [(status.item_name(one), house.begin(one))]
        tell(session, "crate", crate.id)
    return give(CarriedOver.of(made))


@api.post(
    "/<int:id>/carry-over",
    summary="Choose for other deliverables of the crate, or of the master, what is chosen here",
    responses={200: CarriedOver},
)
def carry(path: Numbered, body: CarryOver) -> Response:
    """Carry choices over; the answer names what cannot carry over, and why."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        targets = others(session, one, body.to)
        for id in sorted({one.crate_id, *(target.crate_id for target in targets)}):
            open_crate(session, id)
            tell(session, "crate", id)
        for target in targets:
            nothing_runs(target.runs)
        made = [(_called(target, one), carry_over(one, target, body.keys)) for target in targets]
    return give(CarriedOver.of(made))


@api.get(
    "/<int:id>/alike",
    summary="The deliverables that may take over what is chosen here",
    responses={200: AlikeList},
)
def list_alike(path: Numbered) -> Response:
    """List the others of the crate, and those of the same master in other open crates."""
    with services().database.session() as session:
        one = get(session, Deliverable, path.id)
        rows = [
            AlikeOut(id=other.id, name=_called(other, one), here=other.crate_id == one.crate_id)
            for other in alike(session, one)
        ]
    return give(AlikeList(root=rows))


def _called(other: Deliverable, one: Deliverable) -> str:
    """Name another deliverable, of another crate with that."""
    name, crate = status.item_name(other), other.crate
    return name if crate is one.crate else f"{name}, crate {crate.number} {crate.recipient.name}"
