"""The web server's process: serves a socket that is handed to it; the database's address comes from
$AMPLE_DATABASE.
"""

from __future__ import annotations

import os
import resource
import socket
import sys

import uvicorn

from ..store.database import Database
from ..store.places import Folders
from ..work import logs
from .app import create
from .front import Front

GRACE = 2  # seconds that open answers get when the server stops
IDLE = 30  # seconds that a line without requests is kept


def application() -> Front:
    """Make the application from the environment."""
    folders = Folders.from_environment()
    app = create(Database(os.environ["AMPLE_DATABASE"]), folders)
    return Front(app, app.extensions["ample"].news, folders.uploads)


def main(descriptor: int) -> None:
    """Serve until told to stop.

    Args:
        descriptor: of a socket that listens.
    """
    logs.set_up()
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))  # a line costs a descriptor
    config = uvicorn.Config(
        application(),
        http="h11",
        loop="asyncio",
        ws="none",
        lifespan="off",
        log_config=None,
        access_log=False,
        server_header=False,
        proxy_headers=False,
        timeout_keep_alive=IDLE,
        timeout_graceful_shutdown=GRACE,
    )
    with socket.socket(fileno=descriptor) as listener:
        uvicorn.Server(config).run(sockets=[listener])


if __name__ == "__main__":
    main(int(sys.argv[1]))
