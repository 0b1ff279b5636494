"""Kills workers and restarts the database over a batch of short encodes: nothing is lost, nothing
stuck, no half file.

Usage: python -m benchmarks.trust [--kills 100] [--restarts 10] [--items 20]
"""

from __future__ import annotations

import argparse
import json
import os
import random
import shutil
import signal
import tempfile
import time
import urllib.error
import urllib.request
from datetime import UTC, datetime, timedelta
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.video.frame import VideoFrame
from av.video.stream import VideoStream
from sqlalchemy import text

from ample_crate.handover.bag import sha256
from ample_crate.service import WorkerPool, listen, open_database
from ample_crate.store.cluster import Cluster
from ample_crate.store.models import Run
from ample_crate.store.places import Folders

SPEC, SEED, PATIENCE = "pinfold-720p", 4, 1800.0
DONE = {"done", "failed", "cancelled"}


def film(path: Path, number: int) -> None:
    """Make a second of noise, of its own for each number."""
    rng = np.random.default_rng(number)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=25)
        assert isinstance(video, VideoStream)
        video.width, video.height, video.pix_fmt = 320, 180, "yuv420p"
        video.options = {"preset": "ultrafast", "crf": "30"}
        for at in range(24):
            frame = VideoFrame.from_ndarray(
                rng.integers(0, 255, (180, 320, 3), np.uint8), format="rgb24"
            )
            frame = frame.reformat(format="yuv420p")
            frame.pts, frame.time_base = at, Fraction(1, 25)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))


class Trial:
    """One installation in a folder of its own, and its troubles."""

    def __init__(self, root: Path) -> None:
        os.environ |= {
            "AMPLE_MEDIA": str(root / "media"),
            "AMPLE_SPECS": str(root / "specs"),
            "AMPLE_RECONCILE": "2",
        }
        self.folders = Folders.from_environment().make()
        self.cluster = Cluster(root / "database")
        self.database = open_database(self.cluster)
        self.pool = WorkerPool(self.database.url, listen(0), workers=2)
        self.pool.wait_ready()

    def ask(self, method: str, path: str, body: object = None) -> Any:
        """Ask the API, waiting out a database that is away."""
        data = json.dumps(body).encode() if body is not None else None
        end = time.monotonic() + 120
        while True:
            request = urllib.request.Request(
                self.pool.address + path, data, {"Content-Type": "application/json"}, method=method
            )
            try:
                with urllib.request.urlopen(request, timeout=60) as answer:
                    return json.load(answer)
            except urllib.error.HTTPError as error:
                if error.code != 503 or time.monotonic() > end:
                    raise
                time.sleep(0.5)

    def mend(self) -> None:
        """Bring back what has ended, as the start command does each second."""
        if self.cluster.lost:
            self.cluster.start()
        self.pool.mend()

    def kill_worker(self, rng: random.Random) -> None:
        """Kill an encoding worker as the kernel does when memory runs out."""
        worker = rng.choice(self.pool.workers[1:3])
        if worker.poll() is None:
            worker.send_signal(signal.SIGKILL)
            worker.wait()

    def kill_database(self) -> None:
        """Kill the database server in the same way."""
        if self.cluster.pid is not None:
            os.kill(self.cluster.pid, signal.SIGKILL)
            while not self.cluster.lost:
                time.sleep(0.05)

    def stop(self) -> None:
        """Stop everything."""
        self.pool.stop()
        self.database.dispose()
        self.cluster.stop()


def batch(trial: Trial, items: int) -> list[int]:
    """Hand masters in, make a crate for each, and press Run; give the crates."""
    intake = trial.folders.intake[0]
    for number in range(items):
        film(intake / f"film {number:02d}.mp4", number)
    names = [f"film {number:02d}.mp4" for number in range(items)]
    masters = trial.ask("POST", "/api/intake", {"folder": 0, "names": names})
    due = (datetime.now(UTC) + timedelta(hours=5)).isoformat()
    made = []
    for master in masters:
        crate = trial.ask(
            "POST",
            "/api/crates",
            {"title": master["name"], "spec": SPEC, "due_at": due, "masters": [master["id"]]},
        )
        trial.ask("POST", f"/api/crates/{crate['id']}/runs")
        made.append(crate["id"])
    return made


def unfinished(trial: Trial) -> int:
    """Count what is at work or waits, and the jobs of the engine that are."""
    query = (
        "select (select count(*) from run where state in ('queued', 'running', 'stopping'))"
        " + (select count(*) from deliverable where wanted_at is not null)"
        " + (select count(*) from master where state in ('reading', 'measuring'))"
        " + (select count(*) from procrastinate_jobs where status in ('todo', 'doing'))"
    )
    return int(trial.database.lasting(lambda session: session.scalar(text(query))) or 0)


def harm(trial: Trial, crates: list[int]) -> dict[str, int]:
    """Count what went wrong: runs that are not done, files that are not what was measured, half
    files.
    """
    lost = wrong = 0
    for id in crates:
        run = trial.ask("GET", f"/api/crates/{id}")["deliverables"][0]["run"]
        lost += run is None or run["state"] != "done"
    with trial.database.session() as session:
        for row in session.query(Run).filter(Run.state == "done"):
            wrong += row.path is None or sha256(Path(row.path)) != row.sha256
        known = {Path(row.path) for row in session.query(Run) if row.path}
    left = {p for p in trial.folders.runs.rglob("*") if p.is_file()} - known
    return {"lost": lost, "wrong": wrong, "half files": len(left)}


def main() -> None:
    """Run the trial and print its figures."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--kills", type=int, default=100)
    parser.add_argument("--restarts", type=int, default=10)
    parser.add_argument("--items", type=int, default=20)
    asked = parser.parse_args()
    rng = random.Random(SEED)
    root = Path(tempfile.mkdtemp(prefix="ample-trust-", dir="/tmp"))
    root.chmod(0o755)
    trial = Trial(root)
    try:
        crates, began = batch(trial, asked.items), time.monotonic()
        troubles = ["worker"] * asked.kills + ["database"] * asked.restarts
        rng.shuffle(troubles)
        while troubles or unfinished(trial):
            if time.monotonic() - began > PATIENCE:
                break
            if troubles:
                if not unfinished(trial):
                    # All is done before all was tried: the batch is run once more.
                    for id in crates:
                        for one in trial.ask("GET", f"/api/crates/{id}")["deliverables"]:
                            trial.ask("POST", f"/api/deliverables/{one['id']}/runs")
                if troubles.pop() == "worker":
                    trial.kill_worker(rng)
                else:
                    trial.kill_database()
            time.sleep(rng.uniform(0.2, 2.5))
            trial.mend()
        stuck = unfinished(trial)
        print(
            json.dumps(
                {
                    "kills": asked.kills,
                    "restarts": asked.restarts,
                    "items": asked.items,
                    "stuck": stuck,
                }
                | harm(trial, crates)
                | {"seconds": round(time.monotonic() - began)}
            )
        )
    finally:
        trial.stop()
        shutil.rmtree(root, ignore_errors=True)


if __name__ == "__main__":
    main()
