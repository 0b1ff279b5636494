"""Fixtures: made-once clips, and a whole installation (database, workers, server) for the tests
that need one.
"""

from __future__ import annotations

import shutil
import tempfile
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import HealthCheck, settings

from ample_crate.media import ops
from ample_crate.service import WorkerPool, listen, open_database
from ample_crate.store import library
from ample_crate.store.cluster import Cluster
from ample_crate.store.places import Folders
from ample_crate.work.deliver import Delivered
from clips import Clip, moving_bar, noise
from support import Installation, deliver

# A busy machine takes its time over an example, and what fails once must fail again.
settings.register_profile(
    "house", deadline=None, derandomize=True, suppress_health_check=[HealthCheck.too_slow]
)
settings.load_profile("house")
TRIALS = {
    "test_trust.py",
    "test_nothing_stuck.py",
    "test_uploads.py",
    "test_housekeeping.py",
    "test_watching.py",
    "test_watched_folders.py",
}
SHARED_RUNS = {"test_runs_together.py", "test_runs_in_segments.py"}
APART = {"trials": TRIALS, "shared runs": SHARED_RUNS}
# Tests of finished deliveries share them.
DELIVERIES = "deliveries"
# What takes long is begun first: the two houses, one a process, then what encodes. Rules alone take
# moments.
FIRST = ("browser", "web", "media", "outside", "cli", "store", "handover", "core")


def folder_of(item: pytest.Item) -> str:
    """Give the folder of the tests that a test lies in: core, media, web, ..."""
    return item.path.relative_to(Path(__file__).parent).parts[0]


@pytest.hookimpl(tryfirst=True)  # the groups must be there before the tests are spread
def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """What shares an installation runs in one process and in its order: one for the API's tests,
    one for the browser's.
    """
    places = {name: number for number, name in enumerate(FIRST)}
    items.sort(key=lambda item: places.get(folder_of(item), len(FIRST)))
    for item in items:
        whole = "installation" in getattr(item, "fixturenames", ())
        # What shares costly clips stays together by file.
        shared = (
            DELIVERIES
            if "delivered" in getattr(item, "fixturenames", ())
            or item.path.name == "test_render.py"
            else item.path.name
        )
        if folder_of(item) == "browser":
            # A browser on a noisy machine may stumble once; the run's summary says where.
            item.add_marker(pytest.mark.flaky(reruns=1))
        # The trials that break things have installations of their own, beside the one of the API,
        # and those that wait until a worker is missed have one for themselves.
        where = next((at for at, of in APART.items() if item.path.name in of), folder_of(item))
        item.add_marker(pytest.mark.xdist_group(f"installation of {where}" if whole else shared))


@pytest.fixture(scope="session")
def media(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("media")


@pytest.fixture(scope="session")
def clip(media: Path) -> Callable[..., Path]:
    """Make a clip once by name."""

    def make(name: str, **what: object) -> Path:
        path = media / name
        if not path.exists():
            Clip(**what).write(path)  # type: ignore[arg-type]
        return path

    return make


@pytest.fixture(scope="session")
def hd_fields(clip: Callable[..., Path]) -> Path:
    """A second and a bit of 1080i25, upper first, real fields, MPEG-2 in MXF with PCM."""
    return clip(
        "hd_fields.mxf",
        draw=moving_bar((1920, 1080), 700),
        frames=30,
        fields="upper first",
        codec="mpeg2video",
        pixels="yuv422p",
        sound_codec="pcm_s24le",
        options={
            "b": "50000000",
            "maxrate": "50000000",
            "bufsize": "17825792",
            "g": "12",
            "profile": "0",
            "level": "2",
        },
    )


@pytest.fixture(scope="session")
def hd_frames(clip: Callable[..., Path]) -> Path:
    """1080p25 with 5.1."""
    return clip(
        "hd_frames.mp4",
        draw=moving_bar((1920, 1080), 700),
        frames=30,
        tones=(500, 600, 700, 60, 800, 900),
        layout="5.1",
    )


@pytest.fixture(scope="session")
def hd_fast(clip: Callable[..., Path]) -> Path:
    """1080p50."""
    return clip("hd_fast.mp4", draw=moving_bar((1920, 1080), 700), rate=Fraction(50), frames=60)


@pytest.fixture(scope="session")
def slow(clip: Callable[..., Path]) -> Path:
    """What takes an encoder long enough to be stopped at it."""
    return clip(
        "slow.mp4", draw=noise((240, 136)), frames=20, options={"preset": "ultrafast", "crf": "35"}
    )


@pytest.fixture(scope="session")
def measured() -> Callable[[Path], ops.Measured]:
    """Measure a file once."""
    known: dict[Path, ops.Measured] = {}

    def look(path: Path) -> ops.Measured:
        if path not in known:
            known[path] = ops.measure(path)
        return known[path]

    return look


@pytest.fixture(scope="session")
def delivered(
    measured: Callable[[Path], ops.Measured], tmp_path_factory: pytest.TempPathFactory
) -> Callable[[Path, str], Delivered]:
    """Deliver a master to a spec once, in a folder of its own."""
    known: dict[tuple[Path, str], Delivered] = {}

    def look(master: Path, id: str) -> Delivered:
        if (master, id) not in known:
            known[master, id] = deliver(
                master,
                library.find(id),
                tmp_path_factory.mktemp("delivered"),
                measured(master).facts,
            )
        return known[master, id]

    return look


@pytest.fixture
def spec() -> Callable[[str], object]:
    return library.find


@pytest.fixture(scope="session")
def installation() -> Iterator[Installation]:
    """The whole application on a database of its own, on loopback."""
    root = Path(tempfile.mkdtemp(prefix="ample-test-", dir="/tmp"))
    root.chmod(0o755)
    cluster = Cluster(root / "database", durable=False)
    patch = pytest.MonkeyPatch()
    patch.setenv("AMPLE_MEDIA", str(root / "media"))
    patch.setenv("AMPLE_SPECS", str(root / "specs"))
    patch.delenv("AMPLE_INTAKE", raising=False)
    patch.setenv("AMPLE_RECONCILE", "2")  # seconds; a test need not wait a minute
    patch.setenv("AMPLE_CHAIN", "0.1")  # processors; workers here share what there are
    patch.setenv("AMPLE_SEGMENT", "0.1")  # seconds; nor make long films
    folders = Folders.from_environment().make()
    try:
        database = open_database(cluster)
        pool = WorkerPool(database.url, listen(0), workers=1)
        try:
            pool.wait_ready()
            yield Installation(pool.address, folders, database, pool, cluster)
        finally:
            pool.stop()
            database.dispose()
    finally:
        cluster.stop()
        patch.undo()
        shutil.rmtree(root, ignore_errors=True)


@pytest.fixture(scope="session")
def own_specs(installation: Installation) -> Path:
    """The folder of the house's own spec files."""
    folder = installation.folders.media.parent / "specs"
    folder.mkdir(exist_ok=True)
    return folder
