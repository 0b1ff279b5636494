"""Published figures: pixel aspects, loudness, sizes, sync, the bag."""

import base64
import json
import subprocess
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import bagit
import numpy as np
import pyloudnorm
import pytest

import bags
from ample_crate.core.planning import rates
from ample_crate.core.units import geometry
from ample_crate.handover import bag, carriers, standins
from ample_crate.handover.signing import SigningKey
from ample_crate.media import ops
from ample_crate.store.library import find
from ample_crate.work.deliver import plan_or_refuse, run_route
from clips import Clip, moving_bar

Make = Callable[..., Path]
Look = Callable[[Path], ops.Measured]


def test_table_e_1_is_what_the_encoder_knows(tmp_path: Path) -> None:
    """ITU-T H.264 Table E-1: each index's aspect, written by x264 as that very index.

    x264 writes aspect_ratio_idc from its own copy of the table; 255 ("extended") would show a wrong
    row of ours.
    """
    for index, aspect in geometry.TABLE_E_1.items():
        context = av.CodecContext.create("libx264", "w")
        context.width, context.height, context.pix_fmt, context.time_base = (
            64,
            64,
            "yuv420p",
            Fraction(1, 25),
        )
        context.sample_aspect_ratio = aspect
        # Profile baseline: the bytes before the VUI stay short and fixed.
        context.options = {"preset": "ultrafast", "profile": "baseline", "x264-params": "annexb=1"}
        frame = av.VideoFrame(64, 64, "yuv420p")
        frame.pts, frame.time_base = 0, Fraction(1, 25)
        data = b"".join(bytes(p) for p in [*context.encode(frame), *context.encode(None)])
        assert _aspect_index(data) == index, f"{aspect} is not index {index}"


def _aspect_index(data: bytes) -> int:
    """Read aspect_ratio_idc from a baseline sequence parameter set (ITU-T H.264, 7.3.2.1.1 and
    E.1.1).
    """
    at = data.index(b"\x00\x00\x01\x67") + 4
    raw = data[at : at + 40].replace(b"\x00\x00\x03", b"\x00\x00")
    bits = "".join(f"{b:08b}" for b in raw)[24:]

    def take(n: int) -> int:
        nonlocal bits
        got, bits = bits[:n], bits[n:]
        return int(got, 2)

    def golomb() -> int:
        nonlocal bits
        zeros = bits.index("1")
        got = int(bits[zeros : 2 * zeros + 1], 2) - 1
        bits = bits[2 * zeros + 1 :]
        return got

    golomb(), golomb()
    order = golomb()
    if order == 0:
        golomb()
    golomb(), take(1), golomb(), golomb()
    if not take(1):
        take(1)
    take(1)
    if take(1):
        golomb(), golomb(), golomb(), golomb()
    assert take(1) and take(1)
    return take(8)


def test_pixel_aspects_by_sampling_arithmetic() -> None:
    """ITU-R BT.601 samples at 13.5 MHz; square pixels of 625 lines would need 14.75 MHz, of 525
    lines 12 + 3/11 MHz.

    (The two square rates are common practice, from memory: 14.75 = 768 * 15625 * ... and 135/11
    MHz.)
    """
    assert Fraction("14.75") / Fraction("13.5") == Fraction(59, 54)
    assert Fraction(135, 11) / Fraction("13.5") == Fraction(10, 11)
    # Table E-1's 12:11 and 16:11 spread 4:3 and 16:9 over 704 samples of 576 lines; 10:11 and 40:33
    # over 704 of 480.
    for lines, narrow, wide in (
        (576, Fraction(12, 11), Fraction(16, 11)),
        (480, Fraction(10, 11), Fraction(40, 33)),
    ):
        assert geometry.pixel_aspect(Fraction(4, 3), 704, lines) == narrow
        assert geometry.pixel_aspect(Fraction(16, 9), 704, lines) == wide
        assert {narrow, wide} <= set(geometry.TABLE_E_1.values())
    # 702 samples are 52 microseconds of active line at 13.5 MHz.
    assert Fraction("13.5") * 52 == 702


@pytest.mark.parametrize(("level", "lufs"), [(-23.0, -23.0), (-33.0, -33.0)])
def test_loudness_of_a_stereo_tone(level: float, lufs: float, clip: Make, measured: Look) -> None:
    """EBU Tech 3341, cases 1 and 2: 1 kHz stereo at -23 (-33) dBFS for 20 s reads -23.0 (-33.0) +/-
    0.1 LUFS.
    """
    made = clip(
        f"tone{level}.mov",
        draw=moving_bar((64, 64)),
        frames=500,
        rate=Fraction(25),
        level=level,
        sound_codec="pcm_s24le",
    )
    assert float(measured(made).facts.value("sound.loudness")) == pytest.approx(lufs, abs=0.1)


def test_loudness_of_a_programme_against_a_second_meter(clip: Make, measured: Look) -> None:
    rng = np.random.default_rng(2)
    time = np.arange(48000 * 12) / 48000
    sound = np.stack(
        [
            (0.02 + 0.2 * (np.sin(time * k) > 0)) * rng.standard_normal(len(time)) * 0.4
            for k in (0.9, 1.3)
        ]
    )
    sound = np.clip(sound, -0.9, 0.9).astype(np.float32)
    made = clip(
        "programme.mov", draw=moving_bar((64, 64)), frames=300, sound=sound, sound_codec="pcm_s24le"
    )
    want = pyloudnorm.Meter(48000).integrated_loudness(sound.T.astype(np.float64))
    assert float(measured(made).facts.value("sound.loudness")) == pytest.approx(want, abs=0.1)


@pytest.mark.parametrize("frames", [30, 240])
@pytest.mark.parametrize("wrapper", ["mp4", "mov"])
def test_the_wrapper_formula_against_muxed_files(frames: int, wrapper: str, clip: Make) -> None:
    path = clip(
        f"formula{frames}.{wrapper}",
        frames=frames,
        options={"preset": "ultrafast", "g": "50", "bf": "2"},
    )
    with av.open(str(path)) as container:
        sizes: dict[str, list[int]] = {"video": [], "audio": []}
        keys = 0
        for packet in container.demux():
            if packet.size:
                sizes[packet.stream.type].append(packet.size)
                keys += packet.is_keyframe and packet.stream.type == "video"
    payload = sum(map(sum, sizes.values()))
    real = path.stat().st_size - payload
    guess = rates.overhead(
        wrapper,
        rates.Contents(
            Fraction(frames, 25), len(sizes["video"]), keys, True, len(sizes["audio"]), 2
        ),
        payload,
    )
    assert real <= guess <= real * 2 + 2000, f"{guess} for {real}"
    assert guess - real < payload * 0.02 + 3000


def test_the_program_stream_formula_against_a_delivered_file(
    hd_fields: Path, tmp_path: Path, measured: Look
) -> None:
    route, _ = plan_or_refuse(measured(hd_fields).facts, find("skerry-sd625"), {}, "a.mxf")
    made = run_route([hd_fields], measured(hd_fields).facts, find("skerry-sd625"), route, tmp_path)
    assert route.size == pytest.approx(made.path.stat().st_size, rel=0.03)
    # 50 Mb/s at 25 frames a second is 250,000 bytes a frame (SMPTE ST 356 has the same figure for
    # D-10).
    with av.open(str(made.path)) as container:
        packets = [p.size for p in container.demux(video=0) if p.size]
    assert np.mean(packets[5:-5]) == pytest.approx(250_000, rel=0.03)


@pytest.mark.parametrize("id", ["skerry-sd625", "pinfold-720p", "tannery-list"])
def test_a_flash_and_a_beep_stay_together(id: str, tmp_path: Path) -> None:
    """A white frame and a beep that begin at 1.0 s in the master; in the file within 20 ms of each
    other.
    """

    def draw(time: float) -> np.ndarray:
        return np.full((720, 1280, 3), 235 if 0.99 <= time < 1.16 else 20, np.uint8)

    time = np.arange(48000 * 2) / 48000
    beep = (0.5 * np.sin(2 * np.pi * 1000 * time) * ((time >= 1.0) & (time < 1.16))).astype(
        np.float32
    )
    master = Clip(
        draw=draw, frames=50, sound=np.stack([beep, beep]), sound_codec="pcm_s24le"
    ).write(tmp_path / "sync.mov")
    facts = ops.measure(master).facts
    route, _ = plan_or_refuse(facts, find(id), {}, "sync.mov")
    made = run_route([master], facts, find(id), route, tmp_path / "out")
    with av.open(str(made.path)) as container:
        flash = next(
            f.time for f in container.decode(video=0) if f.to_ndarray(format="gray").mean() > 120
        )
    with av.open(str(made.path)) as container:
        heard = None
        for frame in container.decode(audio=0):
            loud = np.abs(frame.to_ndarray().astype(np.float64))
            if frame.format.name.startswith("s16"):
                loud /= 32768
            loud = (
                loud.reshape(-1, 2).max(axis=1) if not frame.format.is_planar else loud.max(axis=0)
            )
            hits = np.nonzero(loud > 0.1)[0]
            if len(hits):
                heard = frame.time + hits[0] / frame.sample_rate
                break
    assert heard is not None
    assert heard - flash == pytest.approx(0, abs=0.020)


def test_the_bag_is_verified_by_the_reference_library(tmp_path: Path) -> None:
    """RFC 8493: a sealed crate validates with `bagit`; one changed byte, a missing or an added file
    does not.
    """
    sealed = bags.sealed(tmp_path)
    made = sealed.path
    assert bagit.Bag(str(made)).validate()
    assert (made / "manifest-sha256.txt").exists()
    assert json.loads((made / "data" / "ledger.json").read_text())["crate"]["number"] == 7
    assert "film.mov" in (made / "data" / "ledger.html").read_text()
    arrived = carriers.carry_to_folder(made, tmp_path / "inbox", sealed.digest, sealed.files)
    answer = standins.receive(arrived, "R")
    assert answer["accepted"] and {f["name"] for f in answer["files"]} == {
        "film.mov",
        "ledger.json",
        "ledger.html",
    }
    film = arrived / "data" / "film.mov"
    film.chmod(0o644)
    film.write_bytes(b"framez" + film.read_bytes()[6:])
    assert bag.problem(arrived) is not None


def test_the_signature_is_verified_by_another_program(tmp_path: Path) -> None:
    """RFC 8032 Ed25519, by OpenSSL's own command: what signed the bag is the house's key, and
    nothing else passes.
    """
    made = bags.sealed(tmp_path).path
    public, raw = tmp_path / "public.pem", tmp_path / "signature"
    public.write_bytes(SigningKey.kept(tmp_path / "keys").public_pem)
    raw.write_bytes(base64.b64decode((made / bag.SIGNATURE).read_text()))
    ask = [
        "openssl",
        "pkeyutl",
        "-verify",
        "-pubin",
        "-inkey",
        str(public),
        "-rawin",
        "-sigfile",
        str(raw),
        "-in",
    ]
    assert subprocess.run([*ask, str(made / bag.MANIFEST)], capture_output=True).returncode == 0
    assert subprocess.run([*ask, str(made / "bag-info.txt")], capture_output=True).returncode != 0
