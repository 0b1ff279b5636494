"""A bag is the one that was sealed, or it is refused: forged, swapped, unsigned, brought under a
name that is taken.
"""

import hashlib
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import bagit
import pytest

import bags
from ample_crate.core.errors import AmpleError, Refused
from ample_crate.core.specs.delivery import Sidecar
from ample_crate.handover import bag, carriers, report, sidecars, standins
from ample_crate.handover.signing import SigningKey, fingerprint, verifies

FILM = "film.mov"


def _flip(made: Path) -> None:
    film = made / "data" / FILM
    data = bytearray(film.read_bytes())
    data[100] ^= 1
    film.write_bytes(bytes(data))


def _rename(made: Path) -> None:
    (made / "data" / FILM).rename(made / "data" / "other.mov")
    bagit.Bag(str(made)).save(manifests=True)


def _add(made: Path) -> None:
    (made / "data" / "more.mov").write_bytes(b"more")
    bagit.Bag(str(made)).save(manifests=True)


def _empty(made: Path) -> None:
    (made / "data" / FILM).unlink()
    bagit.Bag(str(made)).save(manifests=True)


def _ledger(made: Path) -> None:
    ledger = made / "data" / "ledger.json"
    text = ledger.read_text().replace('"meets"', '"breaks"')
    bags.forge(made, "ledger.json", text.encode())


def _info(made: Path) -> None:
    other = bagit.Bag(str(made))
    other.info["External-Description"] = "Another title"
    other.save()


FORGERIES: dict[str, Callable[[Path], None]] = {
    "film": lambda made: bags.forge(made, FILM, b"another film" * 500),
    "one bit": _flip,
    "name": _rename,
    "one more": _add,
    "one less": _empty,
    "ledger": _ledger,
    "title": _info,
    "no manifest": lambda made: (made / bag.MANIFEST).unlink(),
    "no bag": lambda made: (made / "bagit.txt").unlink(),
}


@pytest.mark.parametrize("name", FORGERIES)
def test_a_forged_bag_is_not_carried(name: str, tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    bags.open_up(sealed.path)
    FORGERIES[name](sealed.path)
    with pytest.raises(Refused):
        carriers.carry_to_folder(sealed.path, tmp_path / "inbox", sealed.digest, sealed.files)
    assert not list((tmp_path / "inbox").glob("*crate*"))


def test_what_is_forged_is_named_with_both_checksums(tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    was = sealed.files[FILM]["sha256"]
    bags.forge(sealed.path, FILM, b"another")
    now = bag.sha256(sealed.path / "data" / FILM)
    with pytest.raises(Refused) as refused:
        bag.require_recorded(sealed.path, sealed.digest, sealed.files)
    assert was in refused.value.what and now in refused.value.what


@pytest.mark.parametrize("name", [n for n in FORGERIES if n != "one bit"])
def test_a_recipient_who_has_the_key_takes_nothing_forged(name: str, tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    standins.introduce(tmp_path, SigningKey.kept(tmp_path / "keys").public_pem)
    bags.open_up(sealed.path)
    FORGERIES[name](sealed.path)
    assert not standins.receive(sealed.path, "R")["accepted"]


def test_a_recipient_takes_only_what_the_known_sender_signed(tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    stranger = SigningKey.kept(tmp_path / "other keys").public_pem
    standins.introduce(tmp_path, stranger)
    answer = standins.receive(sealed.path, "R")
    assert not answer["accepted"] and "sender's key" in answer["message"]
    # The first key stands, whoever comes with another.
    standins.introduce(tmp_path, SigningKey.kept(tmp_path / "keys").public_pem)
    assert (tmp_path / standins.SENDER_KEY).read_bytes() == stranger


def test_a_receipt_for_something_else_is_told(tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    good = standins.receive(sealed.path, "R")
    assert carriers.disagreement(good, sealed.files) is None
    files = [f | ({"sha256": "0" * 64} if f["name"] == FILM else {}) for f in good["files"]]
    said = carriers.disagreement(good | {"files": files}, sealed.files)
    assert said and "0" * 64 in said and sealed.files[FILM]["sha256"] in said
    assert carriers.disagreement(good | {"files": files[:1]}, sealed.files)


def test_a_name_that_another_bag_has_is_not_written_over(tmp_path: Path) -> None:
    first = bags.sealed(tmp_path)
    inbox = tmp_path / "inbox"
    arrived = carriers.carry_to_folder(first.path, inbox, first.digest, first.files)
    # The same bag may be brought again.
    carriers.carry_to_folder(first.path, inbox, first.digest, first.files)
    bag.set_aside(first.path)
    second = bags.sealed(tmp_path, b"another film")
    with pytest.raises(Refused, match="already holds another bag"):
        carriers.carry_to_folder(second.path, inbox, second.digest, second.files)
    assert bag.sha256(arrived / bag.MANIFEST) == first.digest


def test_an_inbox_that_is_a_file_is_said(tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    (tmp_path / "inbox").write_text("no folder")
    with pytest.raises(Refused, match="is a file"):
        carriers.carry_to_folder(sealed.path, tmp_path / "inbox", sealed.digest, sealed.files)


def test_a_bag_is_taken_for_ones_own_only_if_made_from_the_same(tmp_path: Path) -> None:
    sealed = bags.sealed(tmp_path)
    key, items = SigningKey.kept(tmp_path / "keys"), [bags.item(tmp_path)]
    later = bags.CRATE | {"sealed_at": "later"}
    assert bag.made_here(sealed.path, bag.origin(items, later, {}), key)
    assert not bag.made_here(sealed.path, bag.origin(items, later | {"title": "U"}, {}), key)
    assert not bag.made_here(sealed.path, bag.origin(items, later, {"a.txt": "b"}), key)
    assert not bag.made_here(
        sealed.path, bag.origin(items, later, {}), SigningKey.kept(tmp_path / "k2")
    )
    other = [bags.item(tmp_path, b"another film")]
    assert not bag.made_here(sealed.path, bag.origin(other, later, {}), key)
    bags.open_up(sealed.path)
    _flip(sealed.path)
    assert not bag.made_here(sealed.path, bag.origin(items, later, {}), key)


def test_a_measured_file_that_changed_or_went_is_never_sealed(tmp_path: Path) -> None:
    made = bags.item(tmp_path)
    key = SigningKey.kept(tmp_path / "keys")
    made.files[0].write_bytes(b"changed after it was measured")
    with pytest.raises(Refused, match="no longer the file that was measured") as refused:
        bag.seal(tmp_path, "crate-8-r1", [made], bags.CRATE, key)
    assert made.sha256 in refused.value.what and bag.sha256(made.files[0]) in refused.value.what
    made.files[0].unlink()
    with pytest.raises(Refused, match="no longer where its run left it"):
        bag.seal(tmp_path, "crate-8-r1", [made], bags.CRATE, key)
    assert not list(tmp_path.glob(".crate-8*")) and not (tmp_path / "crate-8-r1").exists()


def images(folder: Path) -> bag.Item:
    (folder / "reel").mkdir()
    files = tuple(folder / "reel" / f"reel_{n:04d}.dpx" for n in (8, 9, 10))
    for file in files:
        file.write_bytes(file.name.encode() * 100)
    made = bag.Item(files, "", bags.item(folder).entry, "reel")
    return replace(made, sha256=made.sum_of([bag.sha256(file) for file in files]))


def test_a_folder_of_images_lies_in_its_bag_as_a_folder(tmp_path: Path) -> None:
    made = images(tmp_path)
    key = SigningKey.kept(tmp_path / "keys")
    # As `sha256sum reel_*.dpx | sha256sum` has it (RFC 8493 does not know of folders).
    lines = "".join(f"{bag.sha256(f)}  {f.name}\n" for f in made.files)
    assert made.sha256 == hashlib.sha256(lines.encode()).hexdigest()
    wanted = [Sidecar(kind="checksums", form="md5"), Sidecar(kind="metadata", form="json")]
    beside = {one.name: one.text for one in sidecars.make(wanted, [made], "T")}
    assert set(beside) == {"checksums.md5", "reel.json"}
    assert [line.split("  ")[1] for line in beside["checksums.md5"].splitlines()] == made.names
    sealed = bag.seal(tmp_path, "crate-8-r1", [made], bags.CRATE, key, beside)
    assert {f"reel/{f.name}" for f in made.files} <= set(sealed.files)
    assert bag.problem(sealed.path) is None
    modes = {p.stat().st_mode & 0o777 for p in (sealed.path / "data" / "reel").iterdir()}
    assert modes == {0o440}
    arrived = carriers.carry_to_folder(sealed.path, tmp_path / "inbox", sealed.digest, sealed.files)
    assert (arrived / "data" / "reel" / "reel_0009.dpx").is_file()


@pytest.mark.parametrize("change", ["bytes", "one less"])
def test_images_that_changed_after_measuring_are_never_sealed(change: str, tmp_path: Path) -> None:
    made = images(tmp_path)
    if change == "bytes":
        made.files[1].write_bytes(b"other")
    else:
        made.files[1].unlink()
    with pytest.raises(Refused, match="no longer"):
        bag.seal(tmp_path, "crate-8-r1", [made], bags.CRATE, SigningKey.kept(tmp_path / "keys"))
    assert not list(tmp_path.glob("*crate-8*"))


def test_numbers_of_bags_anywhere_are_known(tmp_path: Path) -> None:
    assert bag.highest_number(tmp_path, tmp_path / "nowhere") == 0
    sealed = bags.sealed(tmp_path, number=112)
    assert bag.highest_number(tmp_path) == 112
    bag.set_aside(sealed.path)
    assert bag.highest_number(tmp_path) == 112
    (tmp_path / "inboxes" / "hall" / "crate-140-r2").mkdir(parents=True)
    (tmp_path / "inboxes" / "hall" / "crate-x-r2").mkdir()
    assert bag.highest_number(tmp_path, tmp_path / "inboxes") == 140


def test_the_key_is_made_once_and_closed_to_others(tmp_path: Path) -> None:
    key = SigningKey.kept(tmp_path / "keys")
    again = SigningKey.kept(tmp_path / "keys")
    assert key.mark == again.mark == fingerprint(again.public_pem)
    assert (tmp_path / "keys" / "house-key.pem").stat().st_mode & 0o777 == 0o600
    assert verifies(again.public_pem, key.sign(b"words"), b"words")
    assert not verifies(again.public_pem, key.sign(b"words"), b"word")
    assert not verifies(again.public_pem, "no signature", b"words")
    assert not verifies(b"no key", key.sign(b"words"), b"words")
    (tmp_path / "keys" / "house-key.pem").write_text("not a key")
    with pytest.raises(AmpleError, match="not an Ed25519 key"):
        SigningKey.kept(tmp_path / "keys")


def test_a_sealed_bag_is_closed_to_others(tmp_path: Path) -> None:
    made = bags.sealed(tmp_path).path
    assert all(not p.stat().st_mode & 0o007 for p in made.rglob("*") if p.is_file())
    assert not made.stat().st_mode & 0o007


def test_many_who_write_one_small_file_do_not_take_each_others_part(tmp_path: Path) -> None:
    from concurrent.futures import ThreadPoolExecutor

    path = tmp_path / "checksums.sha256"
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda n: report.write_whole(path, f"{n % 8}" * 5000), range(200)))
    assert len(set(path.read_text())) == 1 and list(tmp_path.iterdir()) == [path]


def test_a_carrier_that_is_not_known_is_refused_with_those_that_are() -> None:
    assert carriers.named("") is carriers.named("inbox") is carriers.carry_to_folder
    with pytest.raises(Refused, match="carried by 'pigeon'") as refused:
        carriers.named("pigeon")
    assert "inbox" in refused.value.way_out
