"""Specs that contradict themselves: each is found, names its clauses, and its proposed repair makes
it right.
"""

from __future__ import annotations

from typing import Any

import pytest
import yaml

from ample_crate.core.errors import BadSpec
from ample_crate.core.specs.contradictions import contradictions, repaired
from ample_crate.core.specs.spec import Spec
from ample_crate.core.specs.specfile import Loader


def spec(requirements: str, **more: Any) -> Spec:
    rows = [
        {"property": key, "rule": rule, "source": "clause"}
        for key, rule in yaml.load(requirements, Loader).items()
    ]
    return Spec.model_validate(
        {
            "id": "mine",
            "version": 1,
            "recipient": "someone",
            "title": "Mine",
            "requirements": rows,
            **more,
        }
    )


H264, MPEG2 = "picture.codec: {is: h264}", "picture.codec: {is: mpeg2video}"
FIELDS = "motion.scan: {is: interlaced}, motion.field_order: {is: upper first}"
# kind, requirements, property that the repair changes ("" where a person must decide)
CASES: list[tuple[str, str, str]] = [
    (
        "level",
        f"{{{H264}, picture.profile: {{is: main}}, picture.level: {{at_most: 3.1}}, picture.size: "
        f"{{is: 1080x1080}}}}",
        "picture.level",
    ),
    (
        "level",
        f"{{{H264}, picture.level: {{is: 4}}, picture.size: {{is: 1920x1080}}, motion.rate: {{is: "
        f"50}}}}",
        "picture.level",
    ),
    (
        "level",
        f"{{{H264}, picture.level: {{is: 5.2}}, picture.size: {{is: 4096x2336}}, motion.rate: "
        f"{{is: 24}}}}",
        "picture.level",
    ),
    (
        "level",
        "{picture.codec: {is: hevc}, picture.level: {is: 4.1}, picture.size: {is: 3840x2160}, "
        "motion.rate: {is: 25}}",
        "picture.level",
    ),
    (
        "level",
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.size: {{is: 1920x1080}}, "
        f"motion.rate: {{is: 25}}}}",
        "picture.profile_level",
    ),
    (
        "level",
        f"{{{MPEG2}, picture.profile_level: {{is: '4:2:2@main'}}, picture.size: {{is: 1280x720}}, "
        f"motion.rate: {{is: 50}}}}",
        "picture.profile_level",
    ),
    (
        "level rate",
        f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{is: 3.1}}, picture.size: "
        f"{{is: 1280x720}}, motion.rate: {{is: 25}}, picture.bit_rate: {{is: 20 Mb/s}}}}",
        "picture.level",
    ),
    (
        "level rate",
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.size: {{is: 720x576}}, "
        f"motion.rate: {{is: 25}}, picture.bit_rate: {{is: 50 Mb/s}}}}",
        "picture.profile_level",
    ),
    (
        "profile chroma",
        f"{{{H264}, picture.profile: {{is: high}}, picture.chroma: {{is: '4:2:2'}}}}",
        "picture.profile",
    ),
    (
        "profile depth",
        f"{{{H264}, picture.profile: {{is: main}}, picture.bit_depth: {{is: 10}}}}",
        "picture.profile",
    ),
    (
        "profile depth",
        "{picture.codec: {is: hevc}, picture.profile: {is: main}, picture.bit_depth: {at_least: "
        "10}}",
        "picture.profile",
    ),
    ("profile", f"{{{H264}, picture.profile: {{is: hq}}}}", "picture.profile"),
    ("wrapper", "{picture.codec: {is: prores}, file.wrapper: {is: mp4}}", "file.wrapper"),
    ("wrapper", "{picture.codec: {is: vp8}, file.wrapper: {one_of: [mp4, mov]}}", "file.wrapper"),
    (
        "tag",
        f"{{{MPEG2}, file.wrapper: {{is: mpeg-ps}}, picture.tag: {{is: hvc1}}}}",
        "picture.tag",
    ),
    ("swapped", "{sound.codec: {is: aac}, sound.sample_rate: {is: 320 kHz}}", "sound.sample_rate"),
    (
        "swapped",
        "{sound.codec: {is: aac}, sound.bit_rate: {is: 48 kb/s}, sound.layout: {is: stereo}}",
        "sound.bit_rate",
    ),
    ("swapped", "{sound.codec: {is: aac}, sound.sample_rate: {is: 32 kHz}}", "sound.bit_rate"),
    (
        "sample rate",
        "{sound.codec: {is: opus}, sound.sample_rate: {is: 22.05 kHz}}",
        "sound.sample_rate",
    ),
    (
        "sample rate",
        "{sound.codec: {is: mp2}, sound.sample_rate: {is: 96 kHz}}",
        "sound.sample_rate",
    ),
    (
        "sound rate",
        "{sound.codec: {is: mp2}, sound.bit_rate: {is: 400 kb/s, tolerance: 1 %}}",
        "sound.bit_rate",
    ),
    (
        "sound rate",
        "{sound.codec: {is: ac3}, sound.bit_rate: {at_least: 700 kb/s}}",
        "sound.bit_rate",
    ),
    (
        "sound rate",
        "{sound.codec: {is: pcm_s24le}, sound.bit_rate: {at_most: 320 kb/s}}",
        "sound.bit_rate",
    ),
    (
        "sound wrapper",
        f"{{{H264}, file.wrapper: {{is: mp4}}, sound.codec: {{is: vorbis}}}}",
        "sound.codec",
    ),
    (
        "sound wrapper",
        f"{{{MPEG2}, file.wrapper: {{is: mxf}}, picture.interval_lines: {{is: 32}}, sound.codec: "
        f"{{is: mp2}}}}",
        "sound.codec",
    ),
    (
        "channels",
        "{sound.layout: {is: '5.1'}, sound.channels: {is: 2}, sound.codec: {is: aac}}",
        "sound.channels",
    ),
    ("channels", "{sound.layout: {is: '5.1'}, sound.codec: {is: mp2}}", "sound.layout"),
    ("sound depth", "{sound.codec: {is: aac}, sound.bit_depth: {is: 24}}", "sound.bit_depth"),
    ("sound depth", "{sound.codec: {is: pcm_s16le}, sound.bit_depth: {is: 24}}", "sound.codec"),
    ("no sound", "{sound.tracks: {is: 0}, sound.codec: {is: aac}}", "sound.tracks"),
    ("tracks", "{sound.tracks: {is: 1}, sound.layout@2: {is: stereo}}", "sound.tracks"),
    (
        "loudness",
        "{sound.loudness: {is: -23 LUFS}, sound.max_short_term: {at_most: -25 LUFS}}",
        "sound.max_short_term",
    ),
    (
        "loudness",
        "{sound.loudness: {is: -23 LUFS}, sound.true_peak: {at_most: -30 dBTP}}",
        "sound.true_peak",
    ),
    (
        "cap",
        "{picture.bit_rate: {at_least: 20 Mb/s}, file.duration: {at_least: 60 s}, file.size: "
        "{at_most: 100 MB}}",
        "picture.bit_rate",
    ),
    (
        "cap",
        "{picture.bit_rate: {at_least: 8 Mb/s}, delivery.length: {at_least: 2 h}, delivery.total: "
        "{at_most: 4.7 GB}}",
        "picture.bit_rate",
    ),
    (
        "ceiling",
        "{picture.bit_rate: {at_least: 6 Mb/s}, picture.peak_bit_rate: {at_most: 5 Mb/s}}",
        "picture.peak_bit_rate",
    ),
    (
        "constant",
        "{picture.rate_mode: {is: constant}, picture.bit_rate: {is: 5 Mb/s}, "
        "picture.peak_bit_rate: {at_most: 15 Mb/s}}",
        "picture.rate_mode",
    ),
    (
        "constant",
        f"{{{H264}, picture.rate_mode: {{is: constant}}, picture.bit_rate: {{is: 10 Mb/s}}}}",
        "picture.rate_deviation",
    ),
    (
        "whole rate",
        "{picture.bit_rate: {is: 9.8 Mb/s}, sound.bit_rate: {is: 448 kb/s}, file.bit_rate: "
        "{at_most: 10.08 Mb/s}}",
        "file.bit_rate",
    ),
    (
        "frames",
        "{motion.frames: {is: 500}, motion.rate: {is: 50}, file.duration: {is: 20 s}}",
        "motion.frames",
    ),
    (
        "fields",
        "{motion.scan: {is: progressive}, motion.field_order: {is: upper first}}",
        "motion.field_order",
    ),
    (
        "fields",
        "{motion.scan: {is: interlaced}, motion.field_order: {is: none}}",
        "motion.field_order",
    ),
    ("field order left open", "{motion.scan: {is: interlaced}}", "motion.field_order"),
    (
        "fields codec",
        "{picture.codec: {is: vp9}, motion.scan: {is: interlaced}, motion.field_order: {is: upper "
        "first}}",
        "motion.scan",
    ),
    (
        "fields codec",
        f"{{{H264}, picture.profile: {{is: baseline}}, motion.scan: {{is: interlaced}}, "
        f"motion.field_order: {{is: upper first}}}}",
        "picture.profile",
    ),
    (
        "shape",
        "{picture.size: {is: 720x576}, picture.pixel_aspect: {is: '1:1'}, picture.display_aspect: "
        "{is: '16:9'}}",
        "picture.pixel_aspect",
    ),
    (
        "shape carried",
        f"{{{MPEG2}, picture.size: {{is: 720x576}}, picture.pixel_aspect: {{is: '16:11'}}}}",
        "picture.display_aspect",
    ),
    (
        "shape carried",
        f"{{{MPEG2}, picture.size: {{is: 720x576}}, picture.display_aspect: {{is: '3:2'}}}}",
        "picture.display_aspect",
    ),
    ("lines and rate", "{picture.size: {is: 720x576}, motion.rate: {is: 30}}", "motion.rate"),
    ("lines and rate", "{picture.size: {is: 720x480}, motion.rate: {is: 24}}", "motion.rate"),
    (
        "intra",
        "{motion.intra_only: {is: true}, motion.longest_gop: {at_least: 12}}",
        "motion.longest_gop",
    ),
    ("intra", "{picture.codec: {is: prores}, motion.intra_only: {is: false}}", "motion.intra_only"),
    ("alpha", f"{{{H264}, picture.alpha: {{is: true}}}}", "picture.alpha"),
    (
        "alpha",
        "{picture.codec: {is: prores}, picture.profile: {is: hq}, picture.alpha: {is: true}}",
        "picture.profile",
    ),
    ("unrated", "{picture.codec: {is: hap}, picture.bit_rate: {is: 100 Mb/s}}", "picture.bit_rate"),
    (
        "level buffer",
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.vbv: {{at_least: 2 Mbit}}}}",
        "picture.vbv",
    ),
    (
        "level buffer",
        f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{is: 4.1}}, picture.vbv: "
        f"{{between: [80 Mbit, 90 Mbit]}}}}",
        "picture.vbv",
    ),
    (
        "buffer frame",
        f"{{{MPEG2}, picture.bit_rate: {{is: 50 Mb/s}}, motion.rate: {{is: 25}}, picture.vbv: "
        f"{{at_most: 1835008 bits}}}}",
        "picture.vbv",
    ),
    ("buffer exact", f"{{{MPEG2}, picture.vbv: {{is: 1835008 bits}}}}", "picture.vbv"),
    (
        "buffer codec",
        "{picture.codec: {is: prores}, picture.vbv: {at_most: 8 Mbit}}",
        "picture.vbv",
    ),
    ("buffer codec", "{picture.codec: {is: hap}, picture.slices: {at_least: 4}}", "picture.slices"),
    ("blocks", "{picture.codec: {is: hap}, picture.size: {is: 1366x767}}", "picture.size"),
    (
        "blocks",
        "{picture.chroma: {is: '4:2:0'}, motion.scan: {is: interlaced}, motion.field_order: {is: "
        "upper first}, picture.size: {is: 720x486}}",
        "picture.size",
    ),
    ("drop-frame", "{motion.rate: {is: 25}, file.drop_frame: {is: true}}", "file.drop_frame"),
    (
        "timecode",
        "{motion.rate: {is: 25}, file.start_timecode: {is: '10:00:00:27'}}",
        "file.start_timecode",
    ),
    (
        "leader",
        "{motion.black_before: {at_least: 5 s}, motion.leader: {at_most: 2 s}}",
        "motion.leader",
    ),
    (
        "leader",
        "{motion.bars_before: {is: 60 s}, motion.slate: {is: 10 s}, motion.leader: {is: 62 s}}",
        "motion.leader",
    ),
    ("index", "{file.wrapper: {is: mxf}, file.index_in_front: {is: true}}", "file.index_in_front"),
    (
        "level ceiling",
        f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
        f"picture.bit_rate: {{at_most: 80 Mb/s}}}}",
        "picture.bit_rate",
    ),
    (
        "level ceiling",
        f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
        f"picture.peak_bit_rate: {{at_most: 150 Mb/s}}}}",
        "picture.peak_bit_rate",
    ),
    (
        "level ceiling",
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.bit_rate: {{between: [6 "
        f"Mb/s, 20 Mb/s]}}}}",
        "",
    ),
    ("fields level", f"{{{H264}, picture.level: {{is: 4.2}}, {FIELDS}}}", "picture.level"),
    ("fields level", f"{{{H264}, picture.level: {{at_most: 2}}, {FIELDS}}}", "picture.level"),
    (
        "intra",
        "{picture.codec: {is: hap}, motion.longest_gop: {at_least: 12}}",
        "motion.longest_gop",
    ),
    ("intra", "{picture.codec: {is: prores}, motion.b_frames: {is: 2}}", "motion.b_frames"),
    (
        "intra",
        f"{{{H264}, picture.profile: {{is: baseline}}, motion.b_frames: {{at_least: 1}}}}",
        "motion.b_frames",
    ),
    ("depth", f"{{{MPEG2}, picture.bit_depth: {{is: 10}}}}", "picture.bit_depth"),
    ("depth", f"{{{H264}, picture.bit_depth: {{at_least: 16}}}}", "picture.bit_depth"),
    ("chroma", f"{{{MPEG2}, picture.chroma: {{is: '4:4:4'}}}}", "picture.chroma"),
    ("chroma", "{picture.codec: {is: prores}, picture.chroma: {is: '4:2:0'}}", "picture.chroma"),
    ("matrix", "{picture.matrix: {is: RGB}, picture.chroma: {is: '4:2:2'}}", "picture.matrix"),
    ("hdr", "{picture.transfer: {is: PQ}, picture.bit_depth: {is: 8}}", "picture.bit_depth"),
    (
        "hdr",
        "{picture.transfer: {one_of: [PQ, HLG]}, picture.primaries: {is: BT.709}}",
        "picture.primaries",
    ),
    (
        "tag codec",
        f"{{{H264}, picture.tag: {{is: hvc1}}, file.wrapper: {{is: mp4}}}}",
        "picture.tag",
    ),
    (
        "tag codec",
        "{picture.codec: {is: prores}, picture.profile: {is: hq}, picture.tag: {is: apcn}, "
        "file.wrapper: {is: mov}}",
        "picture.tag",
    ),
    (
        "tag codec",
        f"{{{H264}, picture.codec_string: {{is: vp09.00.10.08}}}}",
        "picture.codec_string",
    ),
    (
        "interval lines",
        f"{{{MPEG2}, picture.size: {{is: 720x576}}, picture.interval_lines: {{is: 32}}}}",
        "picture.size",
    ),
    (
        "interval lines",
        f"{{{MPEG2}, picture.size: {{is: 720x608}}, picture.interval_lines: {{is: 0}}}}",
        "picture.interval_lines",
    ),
    (
        "part of the frame",
        "{picture.size: {is: 1280x720}, picture.active: {is: 1920 x 800 + 0 + 140}}",
        "picture.active",
    ),
    (
        "part of the frame",
        "{picture.size: {is: 720x576}, picture.clean_aperture: {is: 1920 x 1080}}",
        "picture.clean_aperture",
    ),
    (
        "bars",
        "{picture.bars: {is: false}, picture.display_aspect: {is: '16:9'}, picture.active_aspect: "
        "{is: '239:100'}}",
        "picture.bars",
    ),
    ("channels", "{sound.layout: {is: stereo}, sound.channels: {is: 6}}", "sound.channels"),
    (
        "sound rate",
        "{sound.codec: {is: aac}, sound.layout: {is: stereo}, sound.sample_rate: {is: 48 kHz}, "
        "sound.bit_rate: {at_least: 600 kb/s}}",
        "sound.bit_rate",
    ),
    ("sound wrapper", "{file.wrapper: {is: mpeg-es}, sound.tracks: {is: 1}}", "sound.tracks"),
    (
        "loudness",
        "{sound.max_short_term: {at_least: -18 LUFS}, sound.max_momentary: {at_most: -20 LUFS}}",
        "sound.max_momentary",
    ),
    (
        "part longer",
        "{motion.black_before: {at_least: 6 s}, motion.black_after: {at_least: 5 s}, "
        "file.duration: {at_most: 10 s}}",
        "motion.black_before",
    ),
    ("whole frames", "{file.duration: {is: 10 s}, motion.rate: {is: 29.97}}", "file.duration"),
    (
        "whole frames",
        "{file.duration: {one_of: [10 s, 20 s]}, motion.rate: {is: 23.976}}",
        "file.duration",
    ),
    (
        "drop-frame",
        "{motion.rate: {is: 29.97}, file.drop_frame: {is: false}, file.start_timecode: {is: "
        "'10:00:00;00'}}",
        "file.drop_frame",
    ),
    (
        "drop-frame",
        "{motion.rate: {is: 29.97}, file.drop_frame: {is: true}, file.start_timecode: {is: "
        "'10:00:00:00'}}",
        "file.drop_frame",
    ),
    ("name ending", "{file.wrapper: {is: mp4}, file.name: {matches: '[a-z]+\\.mxf'}}", ""),
]


@pytest.mark.parametrize(
    ("kind", "requirements", "mended"), CASES, ids=[f"{n} {c[0]}" for n, c in enumerate(CASES)]
)
def test_it_is_found_and_its_repair_mends_it(kind: str, requirements: str, mended: str) -> None:
    wrong = spec(requirements)
    found = [c for c in contradictions(wrong) if c.kind == kind]
    assert found, [c.what for c in contradictions(wrong)]
    one = found[0]
    assert one.what.endswith(".") and one.why and one.repair.says
    assert one.clauses and all("[clause]" in c for c in one.clauses)
    assert set(one.properties) & {r.property for r in wrong.requirements}
    if not mended:
        assert not one.repair.changes
        return
    assert mended in one.repair.changes
    right = Spec.model_validate(
        repaired(wrong.model_dump(by_alias=True, exclude_none=True), one.repair)
    )
    assert [c.what for c in contradictions(right) if c.kind == kind] == []


@pytest.mark.parametrize(
    ("requirements", "why"),
    [
        (
            f"{{{H264}, picture.profile: {{is: main}}, picture.level: {{at_most: 4}}, "
            f"picture.size: {{is: 1080x1080}}}}",
            "level 4 holds 8192 macroblocks",
        ),
        (
            f"{{{H264}, picture.level: {{at_most: 3.1}}, picture.size: {{is: 1280x720}}, "
            f"motion.rate: {{is: 30}}}}",
            "just at the limit: 108000 a second",
        ),
        (
            "{sound.codec: {is: aac}, sound.bit_rate: {is: 48 kb/s}, sound.layout: {is: mono}}",
            "thin but meant: speech in one channel",
        ),
        ("{sound.codec: {is: vorbis}, sound.sample_rate: {is: 22.05 kHz}}", "Vorbis knows it"),
        (
            "{picture.size: {is: 720x576}, picture.pixel_aspect: {is: '64:45'}, "
            "picture.display_aspect: {is: '16:9'}}",
            "over 720 samples",
        ),
        ("{picture.size: {is: 720x486}, motion.rate: {is: 30000/1001}}", "525 lines"),
        ("{motion.rate: {is: 30000/1001}, file.drop_frame: {is: true}}", "where it belongs"),
        ("{picture.codec: {is: hap}, file.size: {at_most: 2 GB}}", "bytes may be capped"),
        (
            "{picture.bit_rate: {at_least: 8 Mb/s}, file.duration: {at_least: 30 s}, file.size: "
            "{at_most: 30 MB}}",
            "30 MB are 8 Mb/s over 30 s",
        ),
        (
            f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
            f"picture.bit_rate: {{at_most: 62.5 Mb/s}}}}",
            "1250 x 50 000 b/s, the level's own",
        ),
        (
            f"{{{H264}, picture.profile: {{is: high}}, picture.level: {{at_most: 4.1}}, "
            f"picture.peak_bit_rate: {{at_most: 140.625 Mb/s}}}}",
            "and in a second 1250 x 62 500 bits of buffer",
        ),
        (
            f"{{{MPEG2}, picture.profile_level: {{is: '4:2:2@main'}}, picture.bit_rate: {{is: 50 "
            f"Mb/s, tolerance: 4 %}}}}",
            "a tolerance above the level is no wish",
        ),
        (f"{{{H264}, picture.level: {{is: 4.1}}, {FIELDS}}}", "the highest level with fields"),
        (f"{{{H264}, picture.level: {{at_most: 5.1}}, {FIELDS}}}", "a lower level has fields"),
        (
            "{picture.codec: {is: hap}, motion.longest_gop: {at_most: 12}}",
            "one is not more than twelve",
        ),
        (
            "{picture.codec: {is: prores}, picture.chroma: {is: '4:4:4'}, picture.bit_depth: {is: "
            "12}}",
            "4444 has it",
        ),
        (
            "{picture.transfer: {one_of: [PQ, BT.709]}, picture.bit_depth: {is: 8}}",
            "BT.709 in 8 bit is right",
        ),
        (
            "{picture.codec: {is: prores}, picture.profile: {is: '4444'}, picture.tag: {is: "
            "ap4h}, file.wrapper: {is: mov}}",
            "they say the same",
        ),
        (
            "{picture.size: {is: 1920x1080}, picture.active: {is: 1920 x 800 + 0 + 140}}",
            "inside the frame",
        ),
        (
            "{picture.bars: {is: false}, picture.display_aspect: {is: '16:9'}, "
            "picture.active_aspect: {is: '7:4'}}",
            "1.75 in 1.78 is measured as no bars",
        ),
        (
            "{sound.codec: {is: aac}, sound.layout: {is: stereo}, sound.sample_rate: {is: 48 "
            "kHz}, sound.bit_rate: {at_least: 576 kb/s}}",
            "2 x 288 kb/s",
        ),
        ("{file.wrapper: {is: mpeg-es}, sound.tracks: {is: 0}}", "no sound"),
        ("{motion.leader: {at_least: 10 s}, file.duration: {at_most: 10 s}}", "just as long"),
        ("{file.duration: {is: 1001/100 s}, motion.rate: {is: 29.97}}", "300 frames last 10.01 s"),
        (
            "{file.duration: {is: 10 s, tolerance: 1/20 s}, motion.rate: {is: 29.97}}",
            "a frame more or less is allowed",
        ),
        ("{file.wrapper: {is: mp4}, file.name: {matches: '[a-z]+\\.mp4'}}", "the wrapper's ending"),
    ],
)
def test_what_is_right_is_let_be(requirements: str, why: str) -> None:
    assert [c.what for c in contradictions(spec(requirements))] == [], why


def test_the_square_that_does_not_fit_says_its_figures() -> None:
    # ITU-T H.264 Table A-1: 1080x1080 is 68 x 68 = 4624 macroblocks; level 3.1 holds 3600.
    (one,) = contradictions(
        spec(
            f"{{{H264}, picture.profile: {{is: main}}, picture.level: {{at_most: 3.1}}, "
            f"picture.size: {{is: 1080x1080}}}}"
        )
    )
    assert "4624 macroblocks" in one.why and "3600 macroblocks" in one.why
    assert one.repair.changes == {"picture.level": {"at_most": 3.2}}


def test_704_samples_make_other_pixels() -> None:
    rows = (
        "{picture.size: {is: 720x576}, picture.pixel_aspect: {is: '16:11'}, "
        "picture.display_aspect: {is: '16:9'}}"
    )
    assert [c.kind for c in contradictions(spec(rows))] == ["shape"]
    assert contradictions(spec(rows, coding={"active_width": 704})) == []


def test_alternatives_are_each_held_to_it() -> None:
    either = [
        {
            "name": "coding",
            "source": "clause",
            "any": [
                {"name": "good", "rules": {"picture.codec": {"is": "h264"}}},
                {"name": "bad", "rules": {"picture.codec": {"is": "prores"}}},
            ],
        }
    ]
    wrong = spec("{file.wrapper: {is: mp4}}", either=either)
    (one,) = contradictions(wrong)
    assert one.kind == "wrapper" and any("coding: bad" in c for c in one.clauses)


def test_conditions_are_held_to_it_where_they_can_hold() -> None:
    rows = [
        {"property": "sound.codec", "rule": {"one_of": ["aac", "mp2"]}},
        {
            "property": "sound.layout",
            "rule": {"is": "5.1"},
            "when": {"property": "sound.codec", "rule": {"is": "mp2"}},
        },
    ]
    base = {"id": "mine", "version": 1, "recipient": "someone", "title": "Mine"}
    assert [c.kind for c in contradictions(Spec.model_validate(base | {"requirements": rows}))] == [
        "channels"
    ]
    rows[0]["rule"] = {"is": "aac"}
    assert [
        (c.kind, c.grade)
        for c in contradictions(Spec.model_validate(base | {"requirements": rows}))
    ] == [("never asked", "doubt")]


def test_two_clauses_that_exclude_each_other() -> None:
    def two(key: str, one: dict[str, Any], other: dict[str, Any]) -> list[str]:
        rows = [{"property": key, "rule": one}, {"property": key, "rule": other}]
        return [
            c.kind
            for c in contradictions(
                Spec.model_validate(
                    {
                        "id": "mine",
                        "version": 1,
                        "recipient": "someone",
                        "title": "Mine",
                        "requirements": rows,
                    }
                )
            )
        ]

    assert two("picture.bit_rate", {"at_least": "6 Mb/s"}, {"at_most": "5 Mb/s"}) == ["exclude"]
    assert two("picture.size", {"at_least": "1920x1080"}, {"at_most": "1280x720"}) == ["exclude"]
    assert two("motion.rate", {"is": 25}, {"one_of": [24, 30]}) == ["exclude"]
    assert two("sound.language", {"present": False}, {"is": "eng"}) == ["exclude"]
    assert two("motion.rate", {"same_as": "master"}, {"at_most": 60}) == []
    assert two("picture.bit_rate", {"at_least": "5 Mb/s"}, {"at_most": "5 Mb/s"}) == []


@pytest.mark.parametrize(
    ("delivery", "kind", "grade"),
    [
        ({"name": "{recipient}_{date}"}, "name clash", "contradiction"),
        ({"name": "{production}[_e{episode}]"}, "name clash", "doubt"),
        ({"name": "{master}_with_very_much_text", "longest": 16}, "name length", "contradiction"),
        ({"name": "{master}", "fields": {"slug": {"matches": "[a-z]+"}}}, "name field", "doubt"),
        (
            {"name": "{master}", "sidecars": [{"kind": "html snippet", "form": "html"}]},
            "snippet",
            "doubt",
        ),
    ],
)
def test_names_and_what_goes_beside(delivery: dict[str, Any], kind: str, grade: str) -> None:
    found = contradictions(spec("{file.wrapper: {is: mxf}}", delivery=delivery))
    assert [(c.kind, c.grade) for c in found] == [(kind, grade)]


def test_a_rate_buffer_larger_than_its_level() -> None:
    rows = (
        f"{{{MPEG2}, picture.profile_level: {{is: main@main}}, picture.size: "
        f"{{is: 720x576}}, motion.rate: {{is: 25}}}}"
    )
    # ISO/IEC 13818-2 Table 8-14: the VBV buffer of main profile at main level is 1 835 008 bits.
    assert contradictions(spec(rows, coding={"buffer_bits": 1_835_008})) == []
    assert [c.kind for c in contradictions(spec(rows, coding={"buffer_bits": 1_835_009}))] == [
        "level buffer"
    ]


def test_a_repair_reaches_into_alternatives_and_never_empties_a_spec() -> None:
    either = [
        {
            "name": "coding",
            "any": [
                {"name": "a", "rules": {"picture.bit_rate": {"is": "9 Mb/s"}}},
                {"name": "b", "rules": {"picture.codec": {"is": "h264"}}},
            ],
        }
    ]
    made = repaired(
        {"requirements": [{"property": "file.wrapper", "rule": {"is": "mp4"}}], "either": either},
        {"picture.bit_rate": {"at_most": "5 Mb/s"}},
    )
    assert made["either"][0]["any"][0]["rules"]["picture.bit_rate"] == {"at_most": "5 Mb/s"}
    assert repaired(made, {"picture.bit_rate": None})["either"] == []
    with pytest.raises(BadSpec, match="without requirements"):
        repaired(
            {"requirements": [{"property": "file.wrapper", "rule": {"is": "mp4"}}]},
            {"file.wrapper": None},
        )


def test_a_house_choice_that_no_alternative_allows_is_told_of() -> None:
    ways = [
        {"name": "thin", "rules": {"picture.bit_rate": {"at_most": "3 Mb/s"}}},
        {"name": "fat", "rules": {"picture.bit_rate": {"at_least": "20 Mb/s"}}},
    ]
    more: dict[str, Any] = {"either": [{"name": "weight", "source": "clause", "any": ways}]}
    assert (
        contradictions(
            spec(
                "{file.wrapper: {is: mp4}}",
                house={"picture.bit_rate": {"value": "25 Mb/s"}},
                **more,
            )
        )
        == []
    )
    (one,) = contradictions(
        spec(
            "{file.wrapper: {is: mp4}}",
            house_sets={"rain": {"choices": {"picture.bit_rate": {"value": "10 Mb/s"}}}},
            **more,
        )
    )
    assert one.kind == "house choice" and "10 Mb/s (rain)" in one.what and len(one.clauses) == 2


def test_ways_that_were_not_looked_at_are_told_of() -> None:
    def choices(count: int) -> list[dict[str, Any]]:
        keys = [
            "motion.longest_gop",
            "motion.b_frames",
            "picture.spatial",
            "picture.temporal",
            "motion.repeats",
            "picture.flashes",
            "picture.red_flashes",
        ]
        return [
            {"name": key, "any": [{"name": n, "rules": {key: {"at_most": n}}} for n in ("1", "2")]}
            for key in keys[:count]
        ]

    assert contradictions(spec("{file.wrapper: {is: mp4}}", either=choices(6))) == []
    (one,) = contradictions(spec("{file.wrapper: {is: mp4}}", either=choices(7)))
    assert one.kind == "too many ways" and "128 ways" in one.what


def test_a_profile_without_a_tag_of_its_own_is_told_to_leave_the_tag_out() -> None:
    asked = spec(
        "{picture.codec: {is: prores}, picture.profile: {is: raw}, picture.tag: {is: apcn}}"
    )
    (found,) = [c for c in contradictions(asked) if c.kind == "tag codec"]
    assert found.repair.says == "Leave the tag out."
    assert found.repair.changes == {"picture.tag": None}
