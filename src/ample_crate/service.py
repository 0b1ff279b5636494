"""Starts what the application is made of: the database, workers, the web server."""

from __future__ import annotations

import argparse
import asyncio
import ctypes
import json
import logging
import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path
from types import FrameType

from .core import specfile
from .core.errors import AmpleError
from .store import library, masters
from .store import specs as register
from .store.cluster import Cluster
from .store.database import Database
from .store.places import FRONT_END, Folders, data_directory
from .work import engine, orders


def run(args: argparse.Namespace) -> int:
    """Run one of demo, serve, worker, openapi and schema."""
    match args.name:
        case "openapi":
            from .web.app import bare

            print(json.dumps(bare(static=False).api_doc, indent=1, sort_keys=True))
            return 0
        case "schema":
            print(json.dumps(specfile.schema(), indent=1))
            return 0
        case "worker":
            return _worker(args.database)
        case _:
            return _serve(args)


def open_database(cluster: Cluster) -> Database:
    """Start the cluster, bring its tables and the register of specs up to date."""
    url = cluster.start()
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


def free_port() -> int:
    """Give a port on loopback that nobody listens on now."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


def _worker(url: str | None) -> int:
    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(name)s %(message)s")
    for name in ("procrastinate", "bagit"):
        logging.getLogger(name).setLevel(logging.WARNING)
    address = url or os.environ.get("AMPLE_DATABASE")
    if not address:
        raise AmpleError("The worker does not know its database.", "Give --database or set AMPLE_DATABASE.")
    queues = tuple(q for q in os.environ.get("AMPLE_QUEUES", "").split(",") if q) or orders.QUEUES
    asyncio.run(engine.work(address, Folders.from_environment().make(), queues, os.environ.get("AMPLE_HOUSE", "")))
    return 0


def _end_with_parent() -> None:
    """Ask the kernel to stop this process when the one that started it is gone, however it went."""
    ctypes.CDLL(None).prctl(1, signal.SIGTERM)  # PR_SET_PDEATHSIG, linux/prctl.h


class Crew:
    """The processes of one installation, started together and stopped together."""

    def __init__(self, url: str, port: int, workers: int) -> None:
        self._env = os.environ | {"AMPLE_DATABASE": url, "PYTHONUNBUFFERED": "1"}
        # Light work has a worker of its own, so that an encode never keeps a seal or a new master waiting.
        self._queues = ["masters,handover"] + ["encodes"] * workers + ["copies"]
        self.workers = [self._worker(queues) for queues in self._queues]
        self.web = subprocess.Popen(
            [sys.executable, "-m", "gunicorn", "--bind", f"127.0.0.1:{port}", "--threads", "48", "--workers", "1",
             "--timeout", "0", "--graceful-timeout", "2", "--log-level", "warning", "ample_crate.web.wsgi:application()"],
            env=self._env, preexec_fn=_end_with_parent,
        )  # fmt: skip
        self.address = f"http://127.0.0.1:{port}"

    def _worker(self, queues: str) -> subprocess.Popen[bytes]:
        command = [sys.executable, "-m", "ample_crate.cli", "worker"]
        return subprocess.Popen(command, env=self._env | {"AMPLE_QUEUES": queues}, preexec_fn=_end_with_parent)

    def replace_lost_workers(self) -> int:
        """Start a worker for each that has ended; give how many."""
        lost = [n for n, worker in enumerate(self.workers) if worker.poll() is not None]
        for number in lost:
            self.workers[number] = self._worker(self._queues[number])
        return len(lost)

    @property
    def processes(self) -> list[subprocess.Popen[bytes]]:
        """List all processes."""
        return [self.web, *self.workers]

    def wait_ready(self, seconds: float = 30) -> None:
        """Wait until the server answers.

        Raises:
            AmpleError: it does not.
        """
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            if self.web.poll() is not None:
                raise AmpleError("The web server could not start.", "Another program may use the port; give another with --port.")
            try:
                with urllib.request.urlopen(f"{self.address}/api/specs", timeout=5):
                    return
            except OSError:
                time.sleep(0.2)
        raise AmpleError("The web server does not answer.", "See what it printed above.")

    def stop(self) -> None:
        """Stop everything this crew started."""
        for process in self.processes:
            if process.poll() is None:
                process.send_signal(signal.SIGTERM)
        for process in self.processes:
            try:
                process.wait(timeout=8)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()


def _serve(args: argparse.Namespace) -> int:
    began = time.monotonic()
    if not (FRONT_END / "index.html").exists():
        raise AmpleError("The front end is not built.", "Start with './ample demo' or './ample serve', which build it.")
    folders = Folders.from_environment().make()
    cluster = Cluster(data_directory() / "database")
    database = open_database(cluster)
    if args.name == "demo":
        from .demo import generate, scenario

        os.environ.setdefault("AMPLE_HOUSE", scenario.HOUSE)
        made = generate.make_all(folders.intake[0], lambda text: print(f"ample: {text}", flush=True))
        scenario.load(database, folders, made)
    crew = Crew(database.url, args.port, args.workers)

    def end(signum: int, frame: FrameType | None) -> None:
        raise KeyboardInterrupt

    signal.signal(signal.SIGTERM, end)
    try:
        crew.wait_ready()
        print(f"ample: ready after {time.monotonic() - began:.0f} s at {crew.address} (Ctrl-C stops it)", flush=True)
        print(f"ample: intake folders: {', '.join(str(p) for p in folders.intake)}", flush=True)
        print(f"ample: recipients' inboxes: {folders.inboxes}", flush=True)
        while crew.web.poll() is None:
            if crew.replace_lost_workers():
                print("ample: a worker ended and is started again", file=sys.stderr, flush=True)
            time.sleep(1)
        return 1
    except KeyboardInterrupt:
        return 0
    finally:
        crew.stop()
        database.dispose()
        cluster.stop()


__all__ = ["Crew", "Path", "open_database", "run"]
