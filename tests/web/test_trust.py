"""What leaves is what was checked: masters that change, bags that are swapped or forged, numbers
used once.
"""

from __future__ import annotations

import shutil
from collections.abc import Callable
from pathlib import Path

import bagit
import pytest
from client import Client, soon
from sqlalchemy import text

import bags
from ample_crate.handover import bag
from ample_crate.handover.signing import SigningKey
from ample_crate.store.models import Crate, Run
from clips import plain
from support import Installation

SPEC = "pinfold-720p"
Make = Callable[..., Path]


@pytest.fixture(scope="module")
def green(clip: Make) -> Path:
    return clip("green.mp4", draw=plain((20, 160, 40)), frames=10)


@pytest.fixture(scope="module")
def red(clip: Make) -> Path:
    return clip("red.mp4", draw=plain((180, 20, 30)), frames=10)


def ready(client: Client, installation: Installation, file: Path, name: str) -> dict:
    """Take a file in under a name of its own."""
    return client.ingest(installation.folders.intake[0], file, name)


def finished(client: Client, master: dict) -> dict:
    crate = client.crate(SPEC, master["id"])
    crate = client.run_to_end(crate["id"])
    assert crate["next_step"] == "seal", crate["obstacles"]
    return crate


def sealed(client: Client, master: dict) -> dict:
    crate = finished(client, master)
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    return client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")


def replace(target: Path, source: Path) -> None:
    """Lay another file under a name, as a copy program does."""
    part = target.with_name(f".{target.name}.part")
    shutil.copyfile(source, part)
    part.replace(target)


def test_a_crate_number_is_never_used_again(
    client: Client, installation: Installation, green: Path
) -> None:
    master = ready(client, installation, green, "same.mp4")
    first = client.crate(SPEC, master["id"])
    client.good("DELETE", f"/api/crates/{first['id']}")
    second = client.crate(SPEC, master["id"])
    assert second["number"] > first["number"]
    # A database that was restored begins again; the bags tell how far the numbers had come.
    left = installation.folders.inboxes / "pinfold" / f"crate-{second['number'] + 40}-r1"
    left.mkdir(parents=True)
    try:
        assert client.crate(SPEC, master["id"])["number"] == second["number"] + 41
    finally:
        left.rmdir()
    with installation.database.session() as session:
        session.execute(text("select setval('crate_number', 100)"))
    assert client.crate(SPEC, master["id"])["number"] == second["number"] + 42


def test_a_bag_of_the_same_name_is_never_adopted(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    """The database was lost and the bags stayed: a bag of this house, signed, whole, of another
    film.
    """
    crate = finished(client, ready(client, installation, green, "same.mp4"))
    name = f"crate-{crate['number']}-r1"
    old = bag.seal(
        installation.folders.bags,
        name,
        [bags.item(installation.folders.uploads, red.read_bytes(), "adopted.mp4")],
        bags.CRATE | {"number": crate["number"]},
        SigningKey.kept(installation.folders.keys),
    )
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    now = bag.recorded(installation.folders.bags / name)
    made = crate["deliverables"][0]["finished"]["sha256"]
    assert made in {f["sha256"] for f in now.files.values()} and now.digest != old.digest
    # Nothing is lost: the old one was set aside, whole.
    aside = next((installation.folders.bags / bag.ASIDE).glob(f"{name}-*"))
    assert bag.recorded(aside).digest == old.digest and bag.problem(aside) is None
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    seen = client.until(
        f"/api/crates/{crate['id']}", lambda c: c["state"] in {"received", "refused"}
    )
    assert seen["state"] == "received" and made in {
        f["sha256"] for f in seen["receipts"][0]["files"]
    }


def test_a_worker_lost_after_the_bag_was_made_is_followed_by_one_that_takes_it(
    client: Client, installation: Installation, green: Path
) -> None:
    crate = sealed(client, ready(client, installation, green, "same.mp4"))
    place = installation.folders.bags / crate["bag"]
    before = (place.stat().st_ino, bag.recorded(place).digest)
    with installation.database.session() as session:
        row = session.get(Crate, crate["id"])
        row.state, row.bag, row.bag_digest, row.bag_files = "open", None, None, None
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    assert (place.stat().st_ino, bag.recorded(place).digest) == before


def test_a_worker_lost_after_the_bag_was_made_does_not_lend_it_to_another_film(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    first, second = (
        ready(client, installation, green, "same.mp4"),
        ready(client, installation, red, "lent 2.mp4"),
    )
    crate = sealed(client, first)
    with installation.database.session() as session:
        row = session.get(Crate, crate["id"])
        row.state, row.bag, row.bag_digest, row.bag_files = "open", None, None, None
    client.good("DELETE", f"/api/crates/deliverables/{crate['deliverables'][0]['id']}")
    client.good("POST", f"/api/crates/{crate['id']}/deliverables", {"masters": [second["id"]]})
    crate = client.run_to_end(crate["id"])
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    crate = client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")
    there = {
        f["sha256"] for f in bag.recorded(installation.folders.bags / crate["bag"]).files.values()
    }
    assert crate["deliverables"][0]["finished"]["sha256"] in there


def test_a_forged_bag_is_not_handed_over(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    crate = sealed(client, ready(client, installation, green, "same.mp4"))
    place, film = installation.folders.bags / crate["bag"], crate["deliverables"][0]["finished"]
    bags.forge(place, Path(crate["deliverables"][0]["name"]).name, red.read_bytes())
    assert bagit.Bag(str(place)).validate()
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    seen = client.until(f"/api/crates/{crate['id']}", lambda c: c["error"])
    assert seen["state"] == "sealed" and not seen["receipts"]
    assert film["sha256"] in seen["error"]["what"] and bag.sha256(red) in seen["error"]["what"]
    assert not list(installation.folders.inboxes.glob(f"*/{crate['bag']}"))
    # The way out that is named can be gone.
    assert client.good("POST", f"/api/crates/{crate['id']}/revisions")["revision"] == 2


def test_a_bag_that_another_key_signed_is_refused_by_the_recipient(
    client: Client, installation: Installation, green: Path, tmp_path: Path
) -> None:
    crate = sealed(client, ready(client, installation, green, "same.mp4"))
    place = installation.folders.bags / crate["bag"]
    bags.open_up(place)
    stranger = SigningKey.kept(tmp_path)
    (place / bag.SIGNATURE).write_text(stranger.sign((place / bag.MANIFEST).read_bytes()))
    client.good("POST", f"/api/crates/{crate['id']}/hand-over")
    seen = client.until(
        f"/api/crates/{crate['id']}", lambda c: c["state"] in {"received", "refused"}
    )
    assert seen["state"] == "refused" and "sender's key" in seen["receipts"][0]["message"]


def test_the_public_key_can_be_had(client: Client, installation: Installation) -> None:
    status, pem, head = client.call("GET", "/api/receipts/key")
    assert status == 200 and pem == SigningKey.kept(installation.folders.keys).public_pem
    assert b"PRIVATE" not in pem and "attachment" in head["Content-Disposition"]


def test_a_master_that_was_replaced_is_noticed_when_its_run_starts(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    master = ready(client, installation, green, "swapped.mp4")
    crate = client.crate(SPEC, master["id"])
    replace(installation.folders.intake[0] / "swapped.mp4", red)
    crate = client.run_to_end(crate["id"])
    run = crate["deliverables"][0]["run"]
    assert run["state"] == "failed" and "not the file that was read" in run["error"]["what"]
    seen = client.good("GET", f"/api/masters/{master['id']}")
    assert seen["state"] == "changed" and not seen["facts"] and seen["error"]["way_out"]
    assert client.call("GET", f"/api/masters/{master['id']}/frames/3?width=64")[0] == 422
    page = client.good("GET", f"/api/crates/{crate['id']}")
    assert "not the file that was read" in page["deliverables"][0]["trouble"]["what"]
    # Read again, it is the new one: pictures too, at an address of their own.
    client.good("POST", f"/api/masters/{master['id']}/read")
    again = client.until(f"/api/masters/{master['id']}", lambda m: m["state"] == "ready")
    assert (
        again["sha256"] == bag.sha256(red) != master["sha256"] and again["mark"] != master["mark"]
    )
    _, jpeg, _ = client.call(
        "GET", f"/api/masters/{master['id']}/frames/3?width=64&v={again['mark']}"
    )
    assert _colour(jpeg) == "red"


def test_a_master_that_was_replaced_after_its_run_is_noticed_at_the_seal(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    master = ready(client, installation, green, "late swap.mp4")
    _, before, _ = client.call("GET", f"/api/masters/{master['id']}/frames/3?width=64")
    assert _colour(before) == "green"
    crate = finished(client, master)
    replace(installation.folders.intake[0] / "late swap.mp4", red)
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    seen = client.until(f"/api/crates/{crate['id']}", lambda c: c["error"])
    assert seen["state"] == "open" and "not the file that was read" in seen["error"]["what"]
    assert not (installation.folders.bags / f"crate-{crate['number']}-r1").exists()
    client.good("POST", f"/api/masters/{master['id']}/read")
    client.until(f"/api/masters/{master['id']}", lambda m: m["state"] == "ready")
    seen = client.good("GET", f"/api/crates/{crate['id']}")
    assert seen["deliverables"][0]["stale"] and seen["next_step"] == "run"
    _, after, _ = client.call("GET", f"/api/masters/{master['id']}/frames/3?width=64")
    assert _colour(after) == "red"


def test_a_master_replaced_in_mid_run_gives_no_file(
    client: Client, installation: Installation, clip: Make, red: Path
) -> None:
    slow = clip("long green.mp4", draw=plain((20, 160, 40), (640, 360)), frames=110)
    master = ready(client, installation, slow, "mid swap.mp4")
    crate = client.crate(SPEC, master["id"])
    client.good("POST", f"/api/crates/{crate['id']}/runs")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["deliverables"][0]["run"]["progress"])
    replace(installation.folders.intake[0] / "mid swap.mp4", red)
    crate = client.until(
        f"/api/crates/{crate['id']}",
        lambda c: c["deliverables"][0]["run"]["state"] in {"done", "failed"},
    )
    assert crate["deliverables"][0]["run"]["state"] == "failed"
    with installation.database.session() as session:
        assert session.get(Run, crate["deliverables"][0]["run"]["id"]).path is None


def test_a_master_that_was_only_touched_is_the_same(
    client: Client, installation: Installation, green: Path
) -> None:
    master = ready(client, installation, green, "touched.mp4")
    replace(installation.folders.intake[0] / "touched.mp4", green)
    assert client.good("GET", f"/api/masters/{master['id']}")["state"] == "ready"
    crate = finished(client, master)
    client.good("POST", f"/api/crates/{crate['id']}/seal")
    client.until(f"/api/crates/{crate['id']}", lambda c: c["state"] == "sealed")


def test_opening_the_page_of_a_master_that_was_replaced_says_so(
    client: Client, installation: Installation, green: Path, red: Path
) -> None:
    master = ready(client, installation, green, "looked at.mp4")
    replace(installation.folders.intake[0] / "looked at.mp4", red)
    assert soon(lambda: client.good("GET", f"/api/masters/{master['id']}")["state"] == "changed")


def _colour(jpeg: bytes) -> str:
    import io

    from PIL import Image

    r, g, _ = Image.open(io.BytesIO(jpeg)).convert("RGB").resize((1, 1)).getpixel((0, 0))  # type: ignore[misc]
    return "red" if r > g else "green"
