"""Masters over HTTP: taken in, found, corrected, marked, joined, watched, played."""

import urllib.parse
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from client import Client
from master_pages import Make, fact, find
from PIL import Image

from clips import moving_bar
from support import Installation


@pytest.fixture(scope="module")
def fields(client: Client, installation: Installation, clip: Make) -> Any:
    """SD fields, lower first, marked upper first, with timecode-free MPEG-2."""
    path = clip(
        "sd_wrong.mpg",
        draw=moving_bar((720, 576), 300),
        codec="mpeg2video",
        pixels="yuv422p",
        sound_codec="mp2",
        fields="lower first",
        flagged="upper first",
        frames=50,
        options={
            "b": "15000000",
            "maxrate": "20000000",
            "bufsize": "4000000",
            "profile": "0",
            "g": "1",
        },
    )
    return client.ingest(installation.folders.intake[0], path)


def test_a_contradiction_is_shown_and_a_correction_is_assumed_and_taken_back(
    client: Client, fields: Any
) -> None:
    page = client.good("GET", f"/api/masters/{fields['id']}")
    assert page["contradictions"] == ["field order"] and fields["name"] in find(
        client, "contradiction"
    )
    order = fact(page, "motion.field_order")
    assert order["contradicts"] and order["values"] == {
        "declared": "upper first",
        "measured": "lower first",
    }
    assert order["shown"] == "lower first"
    path = f"/api/masters/{fields['id']}/corrections"
    page = client.good("PUT", path, {"key": "motion.field_order", "value": "upper first"})
    assert (
        fact(page, "motion.field_order")["provenance"] == "assumed"
        and "corrected" not in page["name"]
    )
    assert fields["name"] in find(client, "corrected")
    crate = client.crate("pinfold-720p", fields["id"], title="Corrected")
    row = next(r for r in crate["deliverables"][0]["rows"] if r["property"] == "motion.scan")
    assert row["master"]["provenance"] == "assumed"
    assert any(
        "upper" in s["title"].lower() or "fields" in s["title"].lower()
        for s in crate["deliverables"][0]["steps"]
    )
    client.good("DELETE", f"/api/crates/{crate['id']}")
    page = client.good("PUT", path, {"key": "motion.field_order", "value": None})
    assert fact(page, "motion.field_order")["shown"] == "lower first"


@pytest.mark.parametrize(
    ("key", "value", "says"),
    [
        ("motion.field_order", "sideways", "none of the words"),
        ("picture.size", "1x1", "not corrected by hand"),
        ("motion.rate", "0", "beyond reason"),
        ("picture.pixel_aspect", "wide", "not a number"),
        ("nothing.at_all", "1", "no property"),
    ],
)
def test_corrections_that_make_no_sense_are_refused(
    client: Client, fields: Any, key: str, value: str, says: str
) -> None:
    status, said, _ = client.call(
        "PUT", f"/api/masters/{fields['id']}/corrections", {"key": key, "value": value}
    )
    assert status == 422 and says in said["detail"] and said["way_out"]


def test_pixel_aspect_corrected_changes_the_picture_shown(client: Client, fields: Any) -> None:
    def shape(page: Any) -> float:
        _, jpeg, _ = client.call(
            "GET", f"/api/masters/{page['id']}/frames/1?width=400&v={page['display_aspect']}"
        )
        image = Image.open(__import__("io").BytesIO(jpeg))
        return image.width / image.height

    path = f"/api/masters/{fields['id']}/corrections"
    wide = client.good("PUT", path, {"key": "picture.pixel_aspect", "value": "64:45"})
    assert wide["display_aspect"] == pytest.approx(16 / 9) and shape(wide) == pytest.approx(
        16 / 9, abs=0.01
    )
    plain = client.good("PUT", path, {"key": "picture.pixel_aspect", "value": None})
    assert shape(plain) == pytest.approx(plain["display_aspect"], abs=0.01)


def test_fields_and_samples_are_shown_as_asked(client: Client, fields: Any) -> None:
    def look(query: str) -> np.ndarray:
        _, jpeg, _ = client.call("GET", f"/api/masters/{fields['id']}/frames/3?{query}")
        return np.asarray(Image.open(__import__("io").BytesIO(jpeg)).convert("L"), np.int16)

    upper, lower = look("width=720&field=upper"), look("width=720&field=lower")
    assert np.abs(upper - lower).mean() > 0.5
    assert look("width=0").shape == (576, 720)
    assert client.call("GET", f"/api/masters/{fields['id']}/frames/3?field=sideways")[0] == 422


def test_search_by_words_and_figures(
    client: Client, fields: Any, installation: Installation, hd_frames: Path
) -> None:
    other = client.ingest(installation.folders.intake[0], hd_frames, "search_me_51.mp4")
    assert fields["name"] in find(client, "interlaced mpeg-2") and other["name"] not in find(
        client, "interlaced"
    )
    assert other["name"] in find(client, "5.1 h.264 1080p") and other["name"] not in find(
        client, "5.1 -h.264"
    )
    assert (
        other["name"] in find(client, "over 1 kB under 10 GB shorter than 1 min")
        and find(client, "over 10 GB") == []
    )
    assert find(client, "100%_") == []
    page = client.good("GET", "/api/masters?q=over%203%20parsecs")
    assert page["unread"] == ["over 3 parsecs"]
    assert client.good("GET", "/api/masters?limit=1")["total"] >= 2
    assert (
        client.good("PATCH", f"/api/masters/{other['id']}", {"production": "  Moss Hours "})[
            "production"
        ]
        == "Moss Hours"
    )
    assert client.good("GET", "/api/masters?production=Moss%20Hours")["total"] == 1
    named = client.good("GET", "/api/masters/productions")
    assert {"name": "Moss Hours", "masters": 1} in named
    assert client.good("GET", f"/api/masters?ids={other['id']},{fields['id']}")["total"] == 2


def test_the_same_bytes_handed_in_twice_are_recognised(
    client: Client, installation: Installation, clip: Make
) -> None:
    first = client.ingest(
        installation.folders.intake[0], clip("handed in twice.mp4", frames=13), "one_name.mp4"
    )
    second = client.ingest(
        installation.folders.intake[0], clip("handed in twice.mp4", frames=13), "another_name.mp4"
    )
    assert second["sha256"] == first["sha256"]
    assert client.good("GET", f"/api/masters/{second['id']}")["same_as"] == [
        f"one_name.mp4 (master {first['id']})"
    ]


def test_ranges_are_kept_and_delivered_as_items_of_their_own(client: Client, fields: Any) -> None:
    path = f"/api/masters/{fields['id']}/spans"
    page = client.good("POST", path, {"name": "walk", "first": 10, "frames": 20})
    span = page["spans"][0]
    for body, says in (
        ({"name": "walk", "first": 0, "frames": 5}, "already"),
        ({"name": "late", "first": 40, "frames": 20}, "the last one is 49"),
    ):
        status, said, _ = client.call("POST", path, body)
        assert status in {409, 422} and says in said["detail"]
    body = {
        "title": "A part",
        "spec": "pinfold-720p",
        "due_at": "2031-01-01T00:00:00Z",
        "spans": [span["id"]],
    }
    crate = client.good("POST", "/api/crates", body)
    one = crate["deliverables"][0]
    assert (
        "walk" in one["name"]
        and one["frames"] == 20
        and any("walk" in s["title"] for s in one["steps"])
    )
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    done = client.until(
        f"/api/crates/{crate['id']}",
        lambda c: c["deliverables"][0]["run"]["state"] in {"done", "failed"},
    )
    assert done["deliverables"][0]["run"]["state"] == "done", done["deliverables"][0]["run"][
        "error"
    ]
    assert done["deliverables"][0]["frames"] == 20
    assert (
        done["strips"][0]["name"] == f"{fields['name']}, walk"
        and done["deliverables"][0]["first"] == 10
    )
    assert client.good("DELETE", f"{path}/{span['id']}")["spans"] == []
    assert client.good("GET", f"/api/crates/{crate['id']}")["deliverables"][0]["frames"] == 20
    assert (
        client.call(
            "POST",
            "/api/crates",
            {"title": "x", "spec": "pinfold-720p", "due_at": "2031-01-01T00:00:00Z"},
        )[0]
        == 422
    )


def test_timecode_entry(client: Client, fields: Any) -> None:
    path = f"/api/masters/{fields['id']}/frame-at?label="
    assert (
        client.good("GET", path + "00:00:01:05")["frame"] == 30
        and client.good("GET", path + "17")["frame"] == 17
    )
    for label, says in (
        ("00:00:59:00", "outside"),
        ("00:00:00:25", "does not exist"),
        ("when", "no timecode"),
    ):
        status, said, _ = client.call("GET", path + urllib.parse.quote(label))
        assert status == 422 and says in said["detail"]


def test_curves_and_events(client: Client, fields: Any) -> None:
    traces = client.good("GET", f"/api/masters/{fields['id']}/traces")
    assert len(traces["picture"]["bits"]) == 2 and len(traces["tracks"][0]["channels"]) == 2
    assert max(traces["tracks"][0]["channels"][0]["high"]) == pytest.approx(7, abs=1)  # -23 dBFS
    assert any(
        e["kind"] == "tone" and e["track"] == 1
        for e in client.good("GET", f"/api/masters/{fields['id']}")["events"]
    )


def test_a_copy_for_smooth_play_is_made_once(client: Client, fields: Any) -> None:
    path = f"/api/masters/{fields['id']}/proxy"
    assert client.call("GET", path)[0] == 404
    assert client.good("POST", path)["state"] in {"waiting", "making", "ready"}
    page = client.until(
        f"/api/masters/{fields['id']}", lambda m: m["proxy"]["state"] in {"ready", "failed"}
    )
    assert page["proxy"]["state"] == "ready" and page["proxy"]["channels"] == 2
    status, data, head = client.call("GET", path)
    assert status == 200 and data[4:8] == b"ftyp" and head["Content-Type"] == "video/mp4"
    assert client.good("POST", path)["state"] == "ready"


def test_a_master_whose_file_was_moved_away_says_so(
    client: Client, installation: Installation, clip: Make
) -> None:
    page = client.ingest(installation.folders.intake[0], clip("plain.mp4"), "moved_away.mp4")
    (installation.folders.intake[0] / "moved_away.mp4").unlink()
    status, said, _ = client.call("GET", f"/api/masters/{page['id']}/frames/3?width=160")
    assert (
        status == 404
        and said["detail"] == "'moved_away.mp4' is no longer where it was."
        and "Put it back" in said["way_out"]
    )
    assert client.good("GET", f"/api/masters/{page['id']}")["state"] == "ready", (
        "what is known of it is kept"
    )
    client.good("DELETE", f"/api/masters/{page['id']}")
