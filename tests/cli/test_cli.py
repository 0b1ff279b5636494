"""The command line as a person and as a program meet it."""

import json
import subprocess
import sys
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import jsonschema
import numpy as np
import pytest
import yaml

from ample_crate import cli
from ample_crate.store import library
from ample_crate.store.places import CHECKOUT
from clips import noise

SCHEMA = json.loads((CHECKOUT / "docs" / "cli.schema.json").read_text())


def valid(name: str, document: object) -> None:
    jsonschema.validate(document, {"$ref": f"#/$defs/{name}", "$defs": SCHEMA["$defs"]})


def run(*args: object) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [sys.executable, "-m", "ample_crate.cli", *map(str, args)], capture_output=True, text=True
    )


def test_facts_as_json(clip: Callable[..., Path]) -> None:
    done = run("facts", clip("plain.mp4"), "--json")
    assert done.returncode == 0
    document = json.loads(done.stdout)
    valid("facts", document)
    assert document["facts"]["motion.frames"] == {"declared": 25, "measured": 25}


def test_facts_for_a_person(clip: Callable[..., Path], capsys: pytest.CaptureFixture[str]) -> None:
    assert cli.main(["facts", str(clip("plain.mp4"))]) == 0
    shown = capsys.readouterr().out
    assert "320 x 180" in shown and "measured" in shown


def test_everything_is_measured_when_asked(
    clip: Callable[..., Path], capsys: pytest.CaptureFixture[str]
) -> None:
    assert cli.main(["facts", str(clip("plain.mp4")), "--everything", "--json"]) == 0
    document = json.loads(capsys.readouterr().out)
    valid("facts", document)
    assert document["facts"]["motion.cadence"]["measured"] == "every frame new"
    assert [e["kind"] for e in document["events"]] == ["tone"]


def test_deliver_then_check(hd_frames: Path, tmp_path: Path) -> None:
    done = run(
        "deliver",
        hd_frames,
        "--spec",
        "tannery-list",
        "--out",
        tmp_path,
        "--choose",
        "picture.bit_rate=8 Mb/s",
        "--json",
    )
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    valid("deliver", document)
    made = Path(document["deliverable"])
    assert made.exists() and document["verdict"] in {"meets", "advice"}
    assert made.with_suffix(".mov.ledger.html").read_text().startswith("<!doctype html>")
    checked = run("check", made, "--spec", "tannery-list", "--json")
    assert checked.returncode == 0
    valid("check", json.loads(checked.stdout))


def test_check_tells_breaks_from_what_cannot_be_judged(
    clip: Callable[..., Path], tmp_path: Path
) -> None:
    broken = run("check", clip("plain.mp4"), "--spec", "tannery-list", "--json")
    assert broken.returncode == 1 and json.loads(broken.stdout)["verdict"] == "breaks"
    text = tmp_path / "text.mp4"
    text.write_text("not a film " * 100)
    refused = run("check", text, "--spec", "tannery-list", "--json")
    assert refused.returncode == 2 and "text file" in refused.stderr
    valid("error", json.loads(refused.stdout))


def test_a_spec_with_an_unknown_property_is_named_with_its_line(
    clip: Callable[..., Path], tmp_path: Path
) -> None:
    spec = tmp_path / "mine.yaml"
    spec.write_text(
        "id: mine\nversion: 1\nrecipient: x\ntitle: T\nrequirements:\n  - {property: "
        "picture.colour, rule: {is: red}}\n"
    )
    done = run("check", clip("plain.mp4"), "--spec", spec)
    assert (
        done.returncode == 2
        and "mine.yaml, line 6" in done.stderr
        and "picture.colour" in done.stderr
    )
    assert "Ship with the product" in run("check", clip("plain.mp4"), "--spec", "nobody").stderr


def test_a_name_that_climbs_stays_in_its_folder(clip: Callable[..., Path], tmp_path: Path) -> None:
    odd = tmp_path / "..évening\u202e ..mp4"
    odd.write_bytes(clip("plain.mp4").read_bytes())
    out = tmp_path / "out"
    done = run("deliver", odd, "--spec", "tannery-list", "--out", out, "--json")
    assert done.returncode == 0, done.stderr
    made = Path(json.loads(done.stdout)["deliverable"])
    assert made.parent == out and made.name == "evening_list_r1.mov"


def test_no_room_is_said(
    hd_frames: Path,
    tmp_path: Path,
    monkeypatch: pytest.MonkeyPatch,
    capsys: pytest.CaptureFixture[str],
) -> None:
    import shutil

    usage = shutil.disk_usage(tmp_path)
    monkeypatch.setattr(shutil, "disk_usage", lambda path: usage._replace(free=1000))
    assert (
        cli.main(["deliver", str(hd_frames), "--spec", "tannery-list", "--out", str(tmp_path)]) == 2
    )
    assert "has 1.00 kB free" in capsys.readouterr().err
    assert list(tmp_path.iterdir()) == []


def test_a_name_with_the_day_and_fields_of_its_own(
    clip: Callable[..., Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    spec = tmp_path / "dated.yaml"
    spec.write_text(
        "id: dated\nversion: 1\nrecipient: someone\ntitle: Dated\nrequirements:\n"
        "- {property: picture.codec, rule: {is: h264}}\n- {property: picture.size, rule: {is: "
        "320x180}}\n- {property: file.wrapper, rule: {is: mp4}}\n"
        "delivery: {name: '{slug}_{production}_{date}', asked: must, fields: {slug: {matches: "
        "'[a-z]+'}}}\n"
    )
    master = clip("plain.mp4")
    assert (
        cli.main(["deliver", str(master), "--spec", str(spec), "--out", str(tmp_path / "a")]) == 2
    )
    assert "still needs: slug, small letters; production." in capsys.readouterr().err
    chosen = ["--choose", "name.slug=fog", "--choose", "name.production=lichen"]
    assert (
        cli.main(
            ["deliver", str(master), "--spec", str(spec), "--out", str(tmp_path / "b"), *chosen]
        )
        == 0
    )
    assert [p.name for p in (tmp_path / "b").glob("*.mp4")] == [
        f"fog_lichen_{datetime.now(UTC):%Y%m%d}.mp4"
    ]


def test_what_leans_on_a_flag_and_what_has_several_tracks_is_said(
    clip: Callable[..., Path], tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    turned = clip("turned.mov", frames=5, rotation=90)
    assert cli.main(["check", str(turned), "--spec", "pinfold-720p", "--json"]) == 1
    row = next(
        f
        for f in json.loads(capsys.readouterr().out)["findings"]
        if f["property"] == "picture.rotation"
    )
    assert row["verdict"] == "breaks" and row["found"] == "90°"
    mono = np.full((1, 9600), 0.1, np.float32)
    two = clip(
        "two tracks.mov", frames=5, tracks=[("mono", mono), ("mono", mono)], sound_codec="pcm_s16le"
    )
    assert cli.main(["deliver", str(two), "--spec", "pinfold-720p", "--out", str(tmp_path)]) == 2
    said = capsys.readouterr().err
    assert "2 of the master's 2 sound tracks carry programme" in said and "1+2" in said
    assert not list(tmp_path.iterdir())


def test_the_start_command_answers_at_once_and_takes_paths_as_the_caller_means_them(
    clip: Callable[..., Path],
) -> None:
    ample, film = CHECKOUT / "ample", clip("plain.mp4")
    version = subprocess.run([ample, "--version"], capture_output=True, text=True, cwd="/")
    assert version.returncode == 0 and version.stdout.startswith("ample-crate 0.")
    assert "usage:" in subprocess.run([ample, "--help"], capture_output=True, text=True).stdout
    (commands,) = (a.choices for a in cli._parser()._actions if isinstance(a.choices, dict))
    assert {"plan", "trial", "compare"} <= set(commands)
    for command in commands:
        told = subprocess.run([ample, command, "--help"], capture_output=True, text=True)
        assert told.returncode == 0 and f"ample {command}" in told.stdout, told.stderr
    wrong = subprocess.run([ample, "nonsense"], capture_output=True, text=True)
    # 1 means that a file breaks its spec.
    assert wrong.returncode == 2 and "no command 'nonsense'" in wrong.stderr
    near = subprocess.run(
        [ample, "facts", film.name, "--headers"], capture_output=True, text=True, cwd=film.parent
    )
    assert near.returncode == 0 and "H.264" in near.stdout, near.stderr


SMALL_SPEC = (
    "id: small\nversion: {version}\nrecipient: someone\ntitle: Small\nrequirements:\n"
    "- {{property: picture.codec, rule: {{is: h264}}}}\n- {{property: picture.size, rule: {{is: "
    "320x180}}}}\n"
    "- {{property: file.wrapper, rule: {{is: mp4}}}}\n- {{property: delivery.week, rule: "
    "{{at_most: 1 GB}}}}\n"
    "delivery: {{name: '{{master}}_small', sidecars: [{{kind: checksums, form: sha256}}]}}\n"
)


@pytest.fixture
def small(tmp_path: Path) -> Path:
    path = tmp_path / "small.yaml"
    path.write_text(SMALL_SPEC.format(version=1))
    return path


def test_nothing_of_somebody_elses_is_written_over(
    clip: Callable[..., Path], small: Path, tmp_path: Path
) -> None:
    out = tmp_path / "out"
    out.mkdir()
    (out / "plain_small.mp4").write_text("somebody else's")
    done = run("deliver", clip("plain.mp4"), "--spec", small, "--out", out)
    assert done.returncode == 2 and "is there already" in done.stderr and "--force" in done.stderr
    assert (out / "plain_small.mp4").read_text() == "somebody else's"
    done = run("deliver", clip("plain.mp4"), "--spec", small, "--out", out, "--force", "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    valid("deliver", document)
    # What only a crate tells is said to be open, and what the spec wants beside the file lies
    # there.
    assert len(document["unjudged"]) == 1 and "bytes in the week" in document["unjudged"][0]
    assert document["beside"] == ["checksums.sha256"]
    assert (out / "checksums.sha256").read_text().endswith("  plain_small.mp4\n")


def test_two_at_once_in_one_folder_both_succeed(
    clip: Callable[..., Path], small: Path, tmp_path: Path
) -> None:
    ask = [
        sys.executable,
        "-m",
        "ample_crate.cli",
        "deliver",
        str(clip("plain.mp4")),
        "--spec",
        str(small),
        "--out",
        str(tmp_path / "out"),
    ]
    both = [
        subprocess.Popen(ask, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
        for _ in range(2)
    ]
    said = [process.communicate() for process in both]
    codes = [process.returncode for process in both]
    # The later one may have found the first one's file.
    assert 0 in codes and all(
        c == 0 or "is there already" in text[1] for c, text in zip(codes, said, strict=True)
    ), said
    assert not [p for p in (tmp_path / "out").iterdir() if p.name.startswith(".")]


def test_ranges_are_joined(clip: Callable[..., Path], tmp_path: Path) -> None:
    film, out = clip("plain.mp4"), tmp_path / "out"
    ask = ("deliver", film, "--spec", "tannery-list", "--out", out, "--json", "--range")
    done = run(*ask, "2-6, 00:00:00:12-00:00:00:14")
    assert done.returncode in (0, 1), done.stderr
    document = json.loads(done.stdout)
    valid("deliver", document)
    assert document["facts"]["motion.frames"]["measured"] == 8
    assert any("joined of 2" in step["title"] for step in document["steps"])
    wrong = run(*ask, "5-9,2-6")
    assert wrong.returncode == 2 and "in their order there" in wrong.stderr


def test_a_folder_that_cannot_be_made_is_said(
    clip: Callable[..., Path], small: Path, tmp_path: Path
) -> None:
    (tmp_path / "file").write_text("no folder")
    done = run("deliver", clip("plain.mp4"), "--spec", small, "--out", tmp_path / "file" / "in")
    assert (
        done.returncode == 2 and "cannot be made" in done.stderr and "Traceback" not in done.stderr
    )


def test_it_is_ended_without_a_trace(clip: Callable[..., Path], tmp_path: Path) -> None:
    # Read within seconds, and made in minutes: whoever stops it may come late.
    film = clip("minutes.mp4", draw=noise((64, 36)), frames=1000, options={"preset": "ultrafast"})
    out = tmp_path / "out"
    ask = [
        sys.executable,
        "-m",
        "ample_crate.cli",
        "deliver",
        str(film),
        "--spec",
        "tannery-list",
        "--out",
        str(out),
    ]
    process = subprocess.Popen(ask, stderr=subprocess.PIPE, text=True)
    while not list(out.glob(".*made-*")):
        assert process.poll() is None
        time.sleep(0.05)
    process.terminate()
    _, said = process.communicate()
    assert process.returncode == 130, said
    assert list(out.iterdir()) == []


@pytest.mark.parametrize("ending", [".yaml", ".yml", ".json"])
def test_a_houses_own_spec_is_found_by_its_id(
    ending: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("AMPLE_SPECS", str(tmp_path))
    text = SMALL_SPEC.format(version=1).replace("id: small", "id: our-own")
    (tmp_path / f"any name{ending}").write_text(
        json.dumps(yaml.safe_load(text)) if ending == ".json" else text
    )
    (tmp_path / f"newer{ending}").write_text(
        text.replace("version: 1", "version: 2")
        if ending != ".json"
        else json.dumps(yaml.safe_load(text) | {"version": 2})
    )
    (tmp_path / "broken.yaml").write_text("id: [")
    assert library.find("our-own").version == 2
    assert library.find("pinfold-720p").id == "pinfold-720p"


def test_a_route_is_told_without_making_anything(hd_frames: Path, tmp_path: Path) -> None:
    done = run("plan", hd_frames, "--spec", "tannery-list", "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    valid("plan", document)
    assert document["steps"] and document["size"]["expected"] > 0
    assert document["seconds"]["encode"] > 0 and document["verdict"] != "breaks"
    assert document["facts"]["picture.codec"]["predicted"] == "h264"
    said = run("plan", hd_frames, "--spec", "tannery-list")
    assert "about " in said.stdout and "to make and measure" in said.stdout
    assert list(tmp_path.iterdir()) == []


def test_what_cannot_be_made_says_why_before_anything_is_done(hd_frames: Path) -> None:
    done = run("plan", hd_frames, "--spec", "fellside-1080p", "--json")
    assert done.returncode == 1
    document = json.loads(done.stdout)
    valid("plan", document)
    blocking = [c for c in document["cautions"] if c["blocks"]]
    assert document["file"] is None and document["seconds"] is None
    assert blocking and "name still needs" in blocking[0]["what"]
