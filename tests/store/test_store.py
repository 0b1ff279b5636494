"""The cluster, the register, and places on disk."""

import os
import signal
import stat
import tempfile
from collections.abc import Iterator
from pathlib import Path

import psycopg
import pytest

from ample_crate.core.errors import AmpleError, Refused
from ample_crate.store import library
from ample_crate.store.cluster import Cluster
from ample_crate.store.places import Folders, data_directory

OWN = (
    "id: own\nversion: 1\nrecipient: tannery\ntitle: Our own\nrequirements:\n  - "
    "{property: picture.size, rule: {is: 640x360}}\n"
)


@pytest.fixture
def root() -> Iterator[Path]:
    with tempfile.TemporaryDirectory(prefix="ample-store-", dir="/tmp") as folder:
        Path(folder).chmod(0o755)
        yield Path(folder)


def test_a_cluster_is_made_once_found_again_and_keeps_its_password(root: Path) -> None:
    cluster = Cluster(root / "database", durable=False)
    try:
        url = cluster.start()
        with psycopg.connect(url) as connection:
            connection.execute("create table kept (n int)")
            assert connection.execute("show listen_addresses").fetchone() == ("127.0.0.1",)
        assert stat.S_IMODE((root / "database" / "password").stat().st_mode) == 0o600
        with pytest.raises(psycopg.OperationalError):
            psycopg.connect(
                url.replace(":", ":wrong", 2).replace("wrong//", "//"), connect_timeout=3
            )
        cluster.stop()
        assert not cluster.running()
        again = Cluster(root / "database", durable=False)
        with psycopg.connect(again.start()) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)
        # What another one started is used, and left running.
        other = Cluster(root / "database", durable=False)
        assert other.start() == again.url and other.pid is None
        other.stop()
        assert again.running() and not again.lost
        # One that is lost is known, and started anew.
        os.kill(again.pid or 0, signal.SIGKILL)
        os.waitid(os.P_PID, again.pid or 0, os.WEXITED | os.WNOWAIT)
        assert again.lost
        with psycopg.connect(again.start()) as connection:
            assert connection.execute("select count(*) from kept").fetchone() == (0,)
        again.stop()
        assert not again.running()
    finally:
        cluster.stop()


@pytest.mark.skipif(os.geteuid() != 0, reason="only root hands the cluster to another user")
def test_a_closed_folder_is_named(root: Path) -> None:
    closed = root / "closed"
    closed.mkdir(mode=0o700)
    with pytest.raises(AmpleError, match="cannot reach") as error:
        Cluster(closed / "database").start()
    assert "AMPLE_DATA" in error.value.way_out


def test_a_bad_spec_file_costs_only_itself(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AMPLE_SPECS", str(tmp_path))
    (tmp_path / "own.yaml").write_text(OWN)
    (tmp_path / "typo.yaml").write_text(OWN.replace("picture.size", "picture.sise"))
    (tmp_path / "stranger.yaml").write_text(OWN.replace("tannery", "nobody"))
    (tmp_path / "twice.yaml").write_text(OWN)
    specs, refused = library.register()
    assert {s.id for s in specs} == {"own"} | {s.id for s in library.specs()}
    why = {r.file: r.error.sentence() for r in refused}
    assert "picture.sise" in why["typo.yaml"] and "line 6" in why["typo.yaml"]
    assert (
        "no recipient 'nobody'" in why["stranger.yaml"] and "is there already" in why["twice.yaml"]
    )


def test_files_are_opened_inside_the_media_folders_only(tmp_path: Path) -> None:
    folders = Folders(tmp_path / "media", [tmp_path / "intake"]).make()
    inside = folders.intake[0] / "a.mov"
    inside.touch()
    assert folders.inside(inside) == inside.resolve()
    outside = tmp_path / "secret"
    outside.touch()
    link = folders.intake[0] / "link"
    link.symlink_to(outside)
    for path in (outside, link, folders.intake[0] / ".." / "secret", Path("/etc/passwd")):
        with pytest.raises(Refused):
            folders.inside(path)


def test_the_data_directory_can_be_named(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("AMPLE_DATA", str(tmp_path))
    assert data_directory() == tmp_path
    monkeypatch.delenv("AMPLE_DATA")
    assert "ample-crate-" in data_directory().name


def test_proxies_of_an_older_version_are_kept(tmp_path: Path) -> None:
    former = tmp_path / "media" / "plays"
    former.mkdir(parents=True)
    (former / "1-ab.mp4").write_bytes(b"proxy")
    for _ in range(2):
        folders = Folders(tmp_path / "media").make()
        assert (folders.proxies / "1-ab.mp4").read_bytes() == b"proxy" and not former.exists()
