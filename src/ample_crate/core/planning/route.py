"""The planner: from a master's facts, a spec and choices to a route.

One request goes through stages that are pure functions: source and video, sound, size, file. Each
gives its part of the plan, and what is to be said of it.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from .. import formats
from ..errors import Impossible
from ..facts import Facts
from ..facts.span import Span
from ..specs import naming
from ..specs.spec import Spec
from . import beside, lengths, programme, retiming, under
from .budget import Budget, size_cap
from .burning import plan_burn_in
from .captions import plan_beside, plan_captions
from .checks import at_odds, frames_kept, over_cap
from .choices import open_choices
from .coding import codec_key, plan_coding
from .copying import Copies, plan_copies
from .files import plan_files, wrapper_asked
from .labels import labelled
from .leader import Around
from .leading import leader_wanted, plan_around
from .notes import NOTHING, Notes, caution, in_all, step
from .plan import Input, Limits, Plan, Route, amount_of
from .predict import predict
from .request import Cut, Item, Request
from .resolve import Resolver, Way
from .share import bytes_left
from .size import copy_budget, plan_size
from .sound import count_tracks, plan_sound
from .source import plan_source
from .speed import speed_of
from .steps import Hold, PictureStep
from .streams import MadePicture, Stream
from .video import plan_video

MISSING = "file.missing_frames"


class Stopped(Exception):
    """Nothing can be planned; `notes` say why, and what was planned before."""

    def __init__(self, notes: Notes) -> None:
        super().__init__()
        self.notes = notes


def plan_route(
    master: Facts,
    spec: Spec,
    choices: Mapping[str, Any] | None = None,
    master_name: str = "master",
    item: Item = Item(),  # noqa: B008 (frozen)
) -> Route:
    """Plan the way from a master to a deliverable that meets a spec.

    Args:
        master: facts of the master.
        spec: what the recipient asks.
        choices: values taken in the room that the spec leaves, as `Resolver` has them.
        master_name: file name of the master, for the name of the deliverable.
        item: what the crate says of it.

    Returns:
        a route; where something makes it impossible, one whose caution blocks and whose plan is
        None.

    Raises:
        BadValue: a choice lies outside the room.
        Impossible: the other file has no sound.
    """
    request = _request(master, spec, choices or {}, master_name, item)
    values = request.values
    notes = _holes(master) + (NOTHING if item.span is None else _range(item.span))
    notes += request.speed.notes(request.sound)
    try:
        return _plan(request, notes)
    except Stopped as stopped:
        return Route(
            steps=list(stopped.notes.steps),
            cautions=list(stopped.notes.cautions),
            plan=None,
            predicted={},
            size=0,
            choices=open_choices(values.spec, values, {}) | request.moves(None, None),
        )


def _request(
    master: Facts, spec: Spec, choices: Mapping[str, Any], master_name: str, item: Item
) -> Request:
    span, laying, speed = item.span, None, speed_of(master, choices)
    if item.sound is not None:
        laying = beside.lay(master, item.sound, str(choices.get(beside.LAID, "")))
    master = speed.taken(master)
    if item.sound is not None and laying is not None:
        master = beside.joined(master, item.sound, laying)
    delivered = programme.of(master, span, choices)
    values = Resolver(spec, delivered, choices)
    part = span.name if span is not None else ""
    name = f"{naming.stem(master_name)}_{part}" if part else master_name
    chosen, places = (str(choices.get(key, "")) for key in (programme.TRACKS, programme.CHANNELS))
    return Request(
        master=delivered,
        all_sound=programme.of(master, span),
        whole=master,
        values=values,
        span=span,
        cut=item.cut,
        tracks=programme.tracks(master, chosen),
        channels=programme.channels(master, chosen, places),
        share=bytes_left(values.spec) if item.share is None else item.share,
        names=_names(values, name, item.given),
        laying=laying,
        under=item.under,
        speed=speed,
    )


def _holes(master: Facts) -> Notes:
    count = int(master.value(MISSING) or 0)
    if not count:
        return NOTHING
    return caution(
        MISSING,
        "An image of the master is missing."
        if count == 1
        else f"{count} images of the master are missing.",
        "The one before stands in for each, so that everything after it keeps its time.",
        f"{count} of {master.value('motion.frames')} frames",
        "Ask for what is missing: the master's page names the numbers.",
    )


def _range(span: Span) -> Notes:
    pieces = [f"{one.first} to {one.last}" for one in span.pieces]
    named = f"The range '{span.name}'" if span.name else f"Trimmed to {span.taken} frames"
    return step(
        named if len(pieces) == 1 else f"{named}, joined of {len(pieces)}",
        f"Frames {' and '.join(pieces)} of the master, as marked.",
        "motion.frames",
        "file.duration",
    )


def _names(values: Resolver, master_name: str, given: Mapping[str, str]) -> dict[str, str]:
    revision = given.get("revision", "1")
    return {
        "master": naming.stem(master_name),
        "recipient": values.spec.recipient,
        "revision": revision,
        "version": revision,
        "episode": naming.episode(master_name),
        **given,
        **values.fields,
    }


@contextmanager
def _after(notes: Notes) -> Iterator[None]:
    """Keep what was said, where a stage finds that nothing can be made."""
    try:
        yield
    except Impossible as error:
        raise Stopped(
            notes
            + caution(
                "file.wrapper",
                error.what,
                "No file can be made this way.",
                "",
                error.way_out,
                blocks=True,
            )
        ) from error


def _plan(request: Request, notes: Notes) -> Route:
    """Plan how everything is encoded, and then what is copied instead."""
    wrapper = wrapper_asked(request)
    size = request.values.get("picture.size")
    if size is not None:
        wrapper = formats.kind_of_wrapper(wrapper, codec_key(request), size)
    copies = plan_copies(request, wrapper, count_tracks(request))
    ways: dict[str, Way] = dict.fromkeys(copies.ways, "encoded")
    encoding = Copies(ways=ways)
    if copies.nothing:
        return _planned(request, notes, wrapper, copies)
    encoded = None
    with contextlib.suppress(Stopped):
        # What the spec leaves open can still be chosen: then it is encoded.
        encoded = _planned(request, notes, wrapper, encoding)
    copied = _planned(request, notes, wrapper, copies)
    insisted = "copied" in request.values.ways.values()
    if encoded is None or insisted or (encoded.plan is None and copied.plan is not None):
        return copied
    cap, _ = size_cap(request.values, request.share)
    fits = copied.plan is not None and (cap is None or copied.size <= cap)
    return copied if fits else encoded


def _planned(request: Request, notes: Notes, wrapper: str, copies: Copies) -> Route:
    place = formats.WRAPPERS[wrapper]
    make = _encoded if copies.picture is None else _copied
    contents = (make if place.picture else _sound_alone)(
        request, notes + copies.of_picture, wrapper, copies
    )
    fed = beside.fed(request.laying, contents.input, contents.streams)
    texts, spoken = plan_captions(request, place, fed.streams)
    streams = (*labelled(request, place, fed.streams), *texts)
    with _after(contents.notes):
        made = plan_files(request, place, streams)
        further = under.fed(request, streams)
    captions, lying = plan_beside(request, place, streams, made.folder or made.files[0].name)
    plan = Plan(
        inputs=(*fed.inputs, *further),
        streams=streams,
        files=made.files,
        folder=made.folder,
        seconds=contents.seconds,
        limits=_limits(request, contents.budget),
        around=contents.around,
        captions=captions,
    )
    notes = in_all(contents.notes, spoken, lying, made.wrapped, made.named)
    return _route(request, plan, contents.budget, notes, copies)


@dataclass(frozen=True)
class _Contents:
    """A plan's streams, and what follows from them; with all that was said so far."""

    input: Input
    streams: tuple[Stream, ...]
    seconds: Fraction
    budget: Budget
    notes: Notes
    around: Around = Around()  # noqa: RUF009 (frozen)


def _sound_alone(request: Request, notes: Notes, wrapper: str, copies: Copies) -> _Contents:
    with _after(notes):
        if request.laying is not None:
            raise Impossible(
                "The recipient wants sound alone, and this one's is another file's.",
                f"Deliver '{request.laying.name}' itself.",
            )
        seconds = lengths.seconds_of(request.master)
        sound = plan_sound(request, wrapper, seconds, copies.sounds)
        if not sound.streams:
            raise Impossible(
                "There is no sound to hand over.", "Hand in a master with sound for this spec."
            )
    notes += copies.of_sound + sound.notes
    rate = request.master.fraction("motion.rate")
    if rate is not None:
        notes += step("Picture left out", "The recipient wants sound alone.", "file.wrapper")
    seconds = lengths.heard(request.master, sound, seconds)
    budget = copy_budget(request, None, wrapper, sound.streams, seconds)
    left_out = request.left_out
    read = Input(rate=rate, first=request.first, speed=request.speed.times, left_out=left_out)
    return _Contents(read, sound.streams, seconds, budget, notes)


def _encoded(request: Request, notes: Notes, wrapper: str, copies: Copies) -> _Contents:
    with _after(notes):
        source = plan_source(request)
    notes += source.notes
    with _after(notes):
        coding = plan_coding(request, wrapper)
        video = plan_video(request, source, coding, wrapper)
        rate, one = video.format.rate, formats.WRAPPERS[wrapper].still
        seconds = 1 / rate if one else lengths.length(request, rate)
    steps: tuple[PictureStep, ...] = video.steps
    if one:
        notes += lengths.first_of_many(request)
    elif programme.still(request.master):
        steps = (*steps, Hold(frames=round(seconds * rate)))
        notes += lengths.held(round(seconds * rate), rate)
    notes += video.notes + retiming.hours(video.format, steps, seconds)
    with _after(notes):
        sound = plan_sound(request, wrapper, seconds, copies.sounds)
    notes += copies.of_sound + sound.notes
    with _after(notes):
        around, led = plan_around(request, video.format, seconds, not one)
        burnt, drawn = plan_burn_in(request, video.format, formats.WRAPPERS[wrapper], around)
        seconds += around.frames / rate
        sized = plan_size(request, coding, video.format, wrapper, sound.streams, seconds)
    picture = MadePicture(
        source=source.format,
        steps=steps,
        reframed=() if one or programme.still(request.master) else video.reframed,
        burnt=burnt,
        encoding=sized.encoding,
    )
    streams = (picture, *sound.streams)
    notes += led + drawn + sized.notes
    return _Contents(source.input, streams, seconds, sized.budget, notes, around)


def _copied(request: Request, notes: Notes, wrapper: str, copies: Copies) -> _Contents:
    picture, rate = copies.picture, request.master.fraction("motion.rate")
    assert picture is not None and rate is not None
    taken = request.cut or Cut(request.first, int(request.master.value("motion.frames")))
    seconds = taken.frames / rate
    with _after(notes):
        sound = plan_sound(request, wrapper, seconds, copies.sounds)
    budget = copy_budget(request, picture, wrapper, sound.streams, seconds)
    read = Input(rate=rate, first=taken.first, clock="even")
    return _Contents(
        read, (picture, *sound.streams), seconds, budget, notes + copies.of_sound + sound.notes
    )


def _route(request: Request, plan: Plan, budget: Budget, notes: Notes, copies: Copies) -> Route:
    values, size = request.values, amount_of(plan)
    predicted = predict(plan, beside.masters(request.all_sound, request.laying))
    notes += over_cap(plan, values, budget, size)
    notes += frames_kept(values.spec, predicted, request.master, copies.picture is not None)
    notes += at_odds(values.spec, predicted, request.master) + leader_wanted(request, predicted)
    open_size = plan.picture is not None and not plan.picture.known
    return Route(
        steps=list(notes.steps),
        cautions=list(notes.cautions),
        plan=None if notes.blocks else plan,
        draft=plan if notes.blocks else None,
        predicted=predicted.as_json(),
        size=size.expected,
        least=size.least if open_size else None,
        most=size.most if open_size else None,
        choices=open_choices(values.spec, values, predicted, copies.ways)
        | beside.choice(request.laying)
        | request.moves(predicted.fraction("motion.rate"), plan),
    )


def _limits(request: Request, budget: Budget) -> Limits:
    values = request.values
    return Limits(
        size=budget.cap,
        least_rate=values.floor("picture.bit_rate"),
        most_rate=values.top("picture.bit_rate"),
    )
