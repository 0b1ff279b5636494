"""Coded frames that go over as they are: files, ranges from a key frame on, what is refused."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any, NamedTuple

import av
import pytest

from ample_crate.core.errors import BadMedia, Impossible
from ample_crate.core.facts import Facts
from ample_crate.core.facts.span import Span
from ample_crate.core.planning.plan import Plan
from ample_crate.core.planning.request import Cut, Item
from ample_crate.core.planning.route import plan_route
from ample_crate.core.specs.spec import Spec
from ample_crate.media import cuts, ops, render, sources
from ample_crate.media.measuring import whole
from clips import Clip
from conformance import ignored, make, odd_ones, seen
from counting import numbered, numbers


def coded(order: str) -> list[cuts.Coded]:
    """Frames as they are coded: "I0 P3 B1 B2", key frames by an I."""
    return [cuts.Coded(int(word[1:]), word[0] == "I") for word in order.split()]


# Each: frames in coding order, the range that is wanted, and what a copy of it has.
ORDERS = [
    ("I0 P1 P2 I3 P4 P5", (4, 5), (3, 5)),
    ("I0 P1 P2 I3 P4 P5", (3, 6), (3, 6)),
    ("I0 P3 B1 B2 P6 B4 B5", (1, 3), (0, 4)),
    ("I0 P4 B2 B1 B3 P8 B6 B5 B7", (0, 2), (0, 5)),
    ("I0 P3 B1 B2 I6 B4 B5 P9 B7 B8", (7, 9), (6, 10)),
    ("I0 P3 B1 B2 I6 B4 B5", (5, 6), (0, 7)),
    ("I0 P1 P2", (2, 9), (0, 3)),
    ("P1 P2 I3 P4", (2, 4), None),
]


@pytest.mark.parametrize(("order", "wanted", "cut"), ORDERS, ids=[o[0] for o in ORDERS])
def test_a_cut_begins_at_a_key_frame_and_lacks_nothing(order: str, wanted: Any, cut: Any) -> None:
    assert cuts.holding(iter(coded(order)), *wanted) == cut


class Kind(NamedTuple):
    """A kind of master."""

    codec: str
    suffix: str
    wrapper: str
    options: dict[str, str]
    pixels: str = "yuv420p"
    sound: str = "aac"


LONG = {"g": "48", "bf": "2"}
KINDS = [
    Kind("libx264", ".mp4", "mov", LONG | {"preset": "ultrafast"}),
    Kind("libx264", ".ts", "mp4", LONG | {"preset": "ultrafast", "x264-params": "open-gop=1"}),
    Kind("libx264", ".mkv", "mpeg-ts", LONG | {"preset": "ultrafast", "b-pyramid": "normal"}),
    Kind("mpeg2video", ".mpg", "mpeg-ts", LONG | {"b": "3M"}, sound="mp2"),
    Kind("mpeg2video", ".mov", "mpeg-ps", LONG | {"b": "3M"}),
    Kind("libx265", ".mp4", "mov", {"preset": "ultrafast", "x265-params": "log-level=0:keyint=48"}),
    Kind("prores_ks", ".mov", "mov", {}, "yuv422p10le"),
]


def clip_of(kind: Kind, folder: Path) -> Path:
    clip = Clip(
        draw=numbered(),
        frames=200,
        codec=kind.codec,
        options=kind.options,
        pixels=kind.pixels,
        sound_codec=kind.sound,
    )
    return clip.write(folder / f"master{kind.suffix}")


def facts_of(path: Path) -> Facts:
    return Facts.from_json(whole.handle(ignored, str(path))["facts"])


def asked(wrapper: str, *rows: dict[str, Any]) -> Spec:
    into = {"property": "file.wrapper", "rule": {"is": wrapper}}
    codecs = ["h264", "hevc", "mpeg2video", "prores"]
    carried = {"property": "picture.codec", "rule": {"one_of": codecs}}
    kept = {"id": "copies", "version": 1, "recipient": "pinfold", "title": "t"}
    return Spec.model_validate({**kept, "requirements": [into, carried, *rows]})


def rendered(master: Path, plan: Plan, folder: Path, progress: render.Progress = ignored) -> Path:
    folder.mkdir(exist_ok=True)
    file = folder / plan.files[0].name
    make(master, file, plan, progress)
    return file


@pytest.mark.parametrize("kind", KINDS, ids=lambda k: f"{k.codec} {k.suffix} to {k.wrapper}")
def test_a_copied_range_holds_its_frames_and_no_others(kind: Kind, tmp_path: Path) -> None:
    master = clip_of(kind, tmp_path)
    facts, span = facts_of(master), Span(name="a", first=110, frames=30)
    cut = ops.cut(master, span.first, span.frames, facts.fraction("motion.rate") or Fraction(25))
    assert cut.first <= 110 and cut.first + cut.frames >= 140
    spec = asked(kind.wrapper)
    route = plan_route(facts, spec, {"picture": "copied"}, master.name, Item(span, cut=cut))
    assert route.plan is not None, [c.what for c in route.cautions if c.blocks]
    file = rendered(master, route.plan, tmp_path / "out")
    if kind.codec == "prores_ks":
        assert cut == (110, 30), "every frame decodes by itself"
    assert numbers(file) == list(range(cut.first, cut.first + cut.frames))
    assert odd_ones(route.facts, facts_of(file)) == {}


def test_a_copy_holds_the_very_bytes(tmp_path: Path) -> None:
    master = clip_of(KINDS[0], tmp_path)
    route = plan_route(facts_of(master), asked("mov"), {}, master.name)
    assert route.plan is not None and route.plan.work == 0
    stages: set[str] = set()
    file = rendered(master, route.plan, tmp_path / "out", lambda said: stages.add(said["stage"]))
    assert stages == {"copy"}
    assert packets_of(file) == packets_of(master) and seen(file) == seen(master)


def packets_of(path: Path) -> list[bytes]:
    with av.open(str(path)) as container:
        return [bytes(p) for p in container.demux(video=0) if p.size]


def test_a_range_with_no_key_frame_before_it_is_refused(tmp_path: Path) -> None:
    master = clip_of(KINDS[0], tmp_path)
    with pytest.raises(BadMedia, match="No key frame"):
        cuts.handle(ignored, str(tmp_path / clip_without_start(master)), 0, 5, "25")


def clip_without_start(master: Path) -> str:
    """Copy a file from its fourth coded frame on."""
    return picture_alone(master, "no_start.mkv", range(4, 120)).name


def picture_alone(master: Path, name: str, taken: range = range(10_000)) -> Path:
    """Put coded frames of a file's picture into another."""
    made = master.with_name(name)
    with av.open(str(master)) as source, av.open(str(made), "w") as out:
        stream = out.add_stream_from_template(source.streams.video[0])
        for number, packet in enumerate(source.demux(video=0)):
            if packet.size and number in taken:
                packet.stream = stream
                out.mux(packet)
    return made


def clip_with_hidden_frames(master: Path) -> str:
    """Have an edit list begin ten frames later."""
    edited = master.with_name("edited.mp4")
    data = bytearray(master.read_bytes())
    at = data.index(b"elst") + 4 + 8 + 4
    begins = int.from_bytes(data[at : at + 4], "big")
    data[at : at + 4] = (begins + 10 * 512).to_bytes(4, "big")
    edited.write_bytes(data)
    return edited.name


def clip_without_times(master: Path) -> str:
    """Take the coded frames alone: a stream without a wrapper states no times."""
    return picture_alone(master, "bare.h264").name


UNCOPIED = [
    (clip_with_hidden_frames, "motion.hidden_frames", 10, "hides"),
    (clip_without_start, "motion.starts_on_key", False, "leans on one that is not there"),
    (clip_without_times, "motion.timed", False, "says when it is shown"),
]


@pytest.mark.parametrize(("spoil", "key", "found", "why"), UNCOPIED, ids=[u[1] for u in UNCOPIED])
def test_what_cannot_be_copied_is_found_by_measuring_and_encoded(
    spoil: Callable[[Path], str], key: str, found: object, why: str, tmp_path: Path
) -> None:
    master = clip_of(KINDS[0], tmp_path)
    facts = facts_of(tmp_path / spoil(master))
    assert facts_of(master).value(key) != found == facts.value(key)
    route = plan_route(facts, asked("mov"), {}, "spoilt")
    assert route.choices["picture"] == "encoded"
    assert [s for s in route.steps if s.title == "Picture encoded anew" and why in s.reason]


def test_frames_that_an_edit_list_hides_are_not_brought_to_light(tmp_path: Path) -> None:
    edited = tmp_path / clip_with_hidden_frames(clip_of(KINDS[0], tmp_path))
    # As files were measured before hidden frames were counted.
    facts = facts_of(edited).with_values("measured", {"motion.hidden_frames": 0})
    route = plan_route(facts, asked("mov"), {"picture": "copied"}, edited.name)
    assert route.plan is not None
    with pytest.raises(Impossible, match="edit list"):
        rendered(edited, route.plan, tmp_path / "out")


def test_a_copy_that_would_lean_on_nothing_is_refused(tmp_path: Path) -> None:
    master = clip_of(KINDS[0], tmp_path)
    span = Span(name="a", first=110, frames=30)
    item = Item(span, cut=Cut(101, 50))
    route = plan_route(facts_of(master), asked("mov"), {"picture": "copied"}, master.name, item)
    assert route.plan is not None
    with pytest.raises(Impossible, match="leans on one before"):
        rendered(master, route.plan, tmp_path / "out")


def test_silence_lies_beside_a_copied_picture_and_not_after_it(tmp_path: Path) -> None:
    mute = picture_alone(clip_of(KINDS[0], tmp_path), "mute.mp4")
    spec = asked("mpeg-ts", {"property": "sound.tracks", "rule": {"is": 1}})
    route = plan_route(facts_of(mute), spec, {}, mute.name)
    assert route.plan is not None
    assert [s.kind for s in route.plan.streams] == ["copied picture", "sound"]
    written = []
    monkey = sources.CopyFeed.push

    def push(self: Any, packet: Any, selection: Any) -> None:
        monkey(self, packet, selection)
        written.append([track.samples for track in self._silent])

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sources.CopyFeed, "push", push)
        file = rendered(mute, route.plan, tmp_path / "out")
    assert odd_ones(route.facts, facts_of(file)) == {}
    assert written[99] == [100 * 48000 // 25], "at the hundredth frame, four seconds of it"
