"""Starts what the application is made of: the database, workers, the web server."""

from __future__ import annotations

import argparse
import asyncio
import ctypes
import fcntl
import json
import os
import secrets
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from types import FrameType

from .core.errors import AmpleError
from .core.facts import listing
from .core.specs import order as standing_order
from .core.specs import specfile
from .store import library, masters
from .store import specs as register
from .store.cluster import Cluster
from .store.database import Database
from .store.places import FRONT_END, Folders, data_directory
from .work import crew, engine, logs, orders
from .work.home import Home


def run(args: argparse.Namespace) -> int:
    """Run one of demo, serve, worker, openapi, schema and properties."""
    match args.name:
        case "openapi":
            from .web.app import bare

            print(json.dumps(bare(static=False).api_doc, indent=1, sort_keys=True))
            return 0
        case "schema":
            print(json.dumps(specfile.schema(), indent=1))
            return 0
        case "order-schema":
            print(json.dumps(standing_order.FORM.schema(), indent=1))
            return 0
        case "properties":
            print(listing.document(), end="")
            return 0
        case "worker":
            return _worker(args.database)
        case _:
            return _serve(args)


def announce(text: str) -> None:
    """Tell whoever started the application."""
    print(f"ample: {text}", flush=True)


def open_database(cluster: Cluster) -> Database:
    """Start the cluster, bring its tables and the register of specs up to date."""
    url = cluster.start(announce)
    database = Database(url)
    database.migrate()
    engine.prepare(url)
    found, refused = library.register()
    with database.session() as session:
        register.keep_files(session, library.recipients(), found)
        refused += register.passed_over(session, found)
        masters.fill_cards(session)
    for one in refused:
        print(f"ample: left out of the register: {one.error.sentence()}", file=sys.stderr)
    return database


class Lock:
    """Keeps a data directory for one installation: a second one would take the first one's database
    down.
    """

    def __init__(self, directory: Path) -> None:
        directory.mkdir(parents=True, exist_ok=True)
        # held as long as the process lives
        self._file = open(directory / "lock", "a+")  # noqa: SIM115
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            holder = self._file.read().strip() or "another process"
            self._file.close()
            raise AmpleError(
                f"The data directory {directory} is in use by {holder}.",
                "Use that one, stop it first, or set AMPLE_DATA to another directory.",
            ) from None
        self.note(f"process {os.getpid()}")

    def note(self, text: str) -> None:
        """Write who holds the directory."""
        self._file.seek(0)
        self._file.truncate()
        self._file.write(text)
        self._file.flush()

    def release(self) -> None:
        """Let the directory go."""
        self._file.close()


def _worker(url: str | None) -> int:
    logs.set_up()
    address = url or os.environ.get("AMPLE_DATABASE")
    if not address:
        raise AmpleError(
            "The worker does not know its database.", "Give --database or set AMPLE_DATABASE."
        )
    folders = Folders.from_environment().make()
    asyncio.run(
        engine.work(address, folders, _queues(), os.environ.get("AMPLE_HOUSE", ""), _home(folders))
    )
    return 0


def _queues() -> tuple[str, ...]:
    """Give the queues that a worker works on; who encodes takes runs too."""
    if os.environ.get("AMPLE_HOME"):
        return (crew.RUNS,)
    said = tuple(q for q in os.environ.get("AMPLE_QUEUES", "").split(",") if q)
    if crew.ENCODES in said and crew.RUNS not in said:
        said = (*said, crew.RUNS)
    return said or orders.QUEUES


def _home(folders: Folders) -> Home | None:
    """Give the installation that a worker of another machine reaches over HTTP."""
    address, secret = os.environ.get("AMPLE_HOME"), os.environ.get("AMPLE_SECRET", "")
    if not address:
        return None
    if not secret:
        raise AmpleError(
            "The worker does not know the installation's secret.",
            "Set AMPLE_SECRET to what the file 'machines' among the installation's keys says.",
        )
    return Home(address, secret, folders)


def _end_with_parent() -> None:
    """Ask the kernel to stop this process when the one that started it is gone, however it went."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)  # PR_SET_PDEATHSIG, linux/prctl.h


class WorkerPool:
    """The processes of one installation, started together and stopped together.

    The port is taken before anything is started: what answers there is this pool, and while its web
    server is brought back, whoever asks waits instead of being turned away.

    Args:
        url: address of the database.
        listener: the port that is served (`listen`).
        workers: how many encode.
    """

    def __init__(self, url: str, listener: socket.socket, workers: int) -> None:
        self._listener = listener
        self.address = f"http://127.0.0.1:{self._listener.getsockname()[1]}"
        self.instance = secrets.token_hex(8)
        self._env = os.environ | {
            "AMPLE_DATABASE": url,
            "PYTHONUNBUFFERED": "1",
            "AMPLE_INSTANCE": self.instance,
        }
        # Light work has a worker of its own, so that an encode never keeps a seal or a new master
        # waiting.
        self._queues = ["masters,handover"] + ["runs,encodes"] * workers + ["proxies"]
        self.workers = [self._worker(place) for place in range(len(self._queues))]
        self.web = self._web()

    def _web(self) -> subprocess.Popen[bytes]:
        number = self._listener.fileno()
        return subprocess.Popen(
            [sys.executable, "-m", "ample_crate.web.serve", str(number)],
            env=self._env,
            preexec_fn=_end_with_parent,
            pass_fds=(number,),
        )

    def _worker(self, place: int) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "ample_crate.cli", "worker"]
        own = {"AMPLE_QUEUES": self._queues[place], "AMPLE_PLACE": str(place)}
        return subprocess.Popen(command, env=self._env | own, preexec_fn=_end_with_parent)

    def mend(self) -> list[str]:
        """Bring back each process that has ended; give what was brought back."""
        lost = [n for n, worker in enumerate(self.workers) if worker.poll() is not None]
        for number in lost:
            self.workers[number] = self._worker(number)
        said = ["a worker"] * len(lost)
        if self.web.poll() is not None:
            self.web = self._web()
            said.append("the web server")
        return said

    @property
    def processes(self) -> list[subprocess.Popen[bytes]]:
        """List all processes."""
        return [self.web, *self.workers]

    def wait_ready(self, told: Callable[[str], None] = lambda text: None) -> None:
        """Wait until this pool's own server answers, for as long as it lives.

        Raises:
            AmpleError: it ended instead.
        """
        began, said = time.monotonic(), 0.0
        while not self._answers():
            if self.web.poll() is not None:
                raise AmpleError("The web server could not start.", "See what it printed above.")
            if time.monotonic() - began - said > 5:
                said = time.monotonic() - began
                told(f"waiting for the web server to answer ({said:.0f} s)")
            time.sleep(0.1)

    def _answers(self) -> bool:
        try:
            with urllib.request.urlopen(f"{self.address}/api/health", timeout=5) as answer:
                return bool(json.load(answer)["instance"] == self.instance)
        except (OSError, ValueError, KeyError):
            return False

    def stop(self) -> None:
        """Stop everything this pool started."""
        for process in self.processes:
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
        for process in self.processes:
            try:
                process.wait(timeout=8)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()
        self._listener.close()


def listen(port: int) -> socket.socket:
    """Take a port on loopback; 0 for any that is free.

    Raises:
        AmpleError: it is taken.
    """
    try:
        return socket.create_server(("127.0.0.1", port), backlog=512)
    except OSError:
        raise AmpleError(
            f"Port {port} is taken by another program.", "Give another with --port."
        ) from None


def _serve(args: argparse.Namespace) -> int:
    began = time.monotonic()
    if not (FRONT_END / "index.html").exists():
        raise AmpleError(
            "The front end is not built.",
            "Start with './ample demo' or './ample serve', which build it.",
        )
    lock = Lock(data_directory())
    # A port that is taken is told before minutes are spent on a demo.
    listener = listen(args.port)
    folders = Folders.from_environment().make()
    cluster = Cluster(data_directory() / "database")

    def end(signum: int, frame: FrameType | None) -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGTERM, end)
    pool: WorkerPool | None = None
    try:
        database = open_database(cluster)
        if args.name == "demo":
            from .demo import generate, scenario

            os.environ.setdefault("AMPLE_HOUSE", scenario.HOUSE)
            made = generate.make_all(folders.intake[0], announce)
            scenario.load(database, folders, made)
        database.dispose()
        pool = WorkerPool(database.url, listener, args.workers)
        pool.wait_ready(announce)
        lock.note(f"process {os.getpid()}, which serves {pool.address}")
        announce(
            f"ready after {time.monotonic() - began:.0f} s at {pool.address} (Ctrl-C stops it)"
        )
        announce(f"intake folders: {', '.join(str(p) for p in folders.intake)}")
        announce(f"recipients' inboxes: {folders.inboxes}")
        while True:
            tend(cluster, pool)
            time.sleep(1)
    except KeyboardInterrupt:
        return 0
    finally:
        if pool is not None:
            pool.stop()
        listener.close()
        cluster.stop()
        lock.release()


def tend(cluster: Cluster, pool: WorkerPool) -> None:
    """Bring back what has ended: the database first, for the others lean on it."""
    if cluster.lost:
        announce("the database ended and is started again")
        cluster.start(announce)
    for what in pool.mend():
        announce(f"{what} ended and is started again")


__all__ = ["Path", "WorkerPool", "listen", "open_database", "run"]
