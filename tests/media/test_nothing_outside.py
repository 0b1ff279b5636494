"""A file that is handed in leads to no other: playlists, manifests and patterns of every kind open
nothing.

Here the processes are not walled in, so that what is refused is refused by what may be opened, and
by nothing else.
"""

from __future__ import annotations

import itertools
import socket
import threading
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from ample_crate.core.errors import AmpleError, BadMedia
from ample_crate.media import confine, ops
from clips import Clip, plain

Make = Callable[..., Path]
ENDINGS = (
    ".m3u8",
    ".m3u",
    ".mp4",
    ".mov",
    ".mpd",
    ".xml",
    ".txt",
    ".sdp",
    ".ffconcat",
    ".asx",
    ".pls",
    ".cue",
    ".png",
    "",
)
PLAYLISTS = (
    "#EXTM3U\n#EXT-X-TARGETDURATION:2\n#EXTINF:2,\n{there}\n#EXT-X-ENDLIST\n",
    "#EXTM3U\n#EXT-X-STREAM-INF:BANDWIDTH=1\n{there}\n",
    '#EXTM3U\n#EXT-X-KEY:METHOD=AES-128,URI="{there}"\n#EXTINF:2,\n{there}\n#EXT-X-ENDLIST\n',
    "ffconcat version 1.0\nfile '{there}'\n",
    "ffconcat version 1.0\nfile 'concat:{there}'\n",
    '<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static" '
    'profiles="urn:mpeg:dash:profile:full:2011"><Period>'
    '<AdaptationSet mimeType="video/mp4"><Representation id="1" '
    'bandwidth="1"><BaseURL>{there}</BaseURL></Representation></AdaptationSet></Period></MPD>',
    '<ASX version="3.0"><Entry><Ref href="{there}"/></Entry></ASX>',
    "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=video {port} RTP/AVP "
    "96\na=rtpmap:96 H264/90000\n",
    "[playlist]\nFile1={there}\nNumberOfEntries=1\n",
    "RTSPtext\n{there}\n",
    '<?xml version="1.0"?><CompositionPlaylist '
    'xmlns="http://www.smpte-ra.org/schemas/2067-3/2016"><Id>{there}</Id></CompositionPlaylist>',
    "subfile,,start,0,end,0,,:{there}",
    "data:text/plain,{there}",
    "#!/bin/sh\ncat {there}\n",
    '#EXTM3U\n#EXT-X-MAP:URI="{there}"\n#EXTINF:1,\n{there}\n',
)


@pytest.fixture(autouse=True)
def open_walls(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(confine, "way", lambda: "limits alone")


@pytest.fixture
def listener() -> Iterator[tuple[int, list[str]]]:
    """A port that counts who knocks."""
    server, knocks = socket.create_server(("127.0.0.1", 0)), list[str]()
    server.settimeout(0.2)
    over = threading.Event()

    def listen() -> None:
        while not over.is_set():
            try:
                line, who = server.accept()
            except OSError:
                continue
            knocks.append(str(who))
            line.close()

    thread = threading.Thread(target=listen, daemon=True)
    thread.start()
    yield server.getsockname()[1], knocks
    over.set()
    thread.join()
    server.close()


def test_two_hundred_files_that_are_like_playlists_open_nothing(
    tmp_path: Path, listener: tuple[int, list[str]]
) -> None:
    port, knocks = listener
    outside = Clip(draw=plain((200, 30, 30)), frames=5, tones=None).write(tmp_path / "outside.mp4")
    folder = tmp_path / "in"
    folder.mkdir()
    places = (
        str(outside),
        f"file:{outside}",
        f"http://127.0.0.1:{port}/a.mp4",
        f"tcp://127.0.0.1:{port}",
        "../outside.mp4",
    )
    paths = []
    for number, (text, there) in enumerate(itertools.product(PLAYLISTS, places)):
        for ending in (ENDINGS[number % len(ENDINGS)], ".m3u8", ".mp4"):
            path = folder / f"list {number} {ending.strip('.') or 'bare'}{ending}"
            path.write_text(text.format(there=there, port=port))
            paths.append(path)
    assert len(paths) >= 200
    opened = {
        path.name: found
        for path, found in ops.read_many(paths)
        if not isinstance(found, AmpleError)
    }
    assert opened == {} and knocks == []


def test_a_playlist_of_what_lies_beside_it_is_named(tmp_path: Path) -> None:
    Clip(frames=5, tones=None).write(tmp_path / "part.ts", "mpegts")
    path = tmp_path / "film.m3u8"
    path.write_text("#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:0.2,\npart.ts\n#EXT-X-ENDLIST\n")
    with pytest.raises(BadMedia, match="is a playlist"):
        ops.read_facts(path)


@pytest.mark.parametrize("name", ["shot%03d.png", "shot*.png", "shot[0-9].png"])
def test_a_name_with_a_pattern_is_one_file(name: str, tmp_path: Path) -> None:
    from PIL import Image

    for number in range(3):
        Image.new("RGB", (64, 48), (200, 0, 0)).save(tmp_path / f"shot{number:03d}.png")
    Image.new("RGB", (32, 16), (0, 200, 0)).save(tmp_path / "one.png")
    (tmp_path / "one.png").rename(tmp_path / name)
    size = ops.read_facts(tmp_path / name).value("picture.size")
    assert (size.width, size.height) == (32, 16)


def test_every_kind_that_is_read_is_one_the_library_has() -> None:
    """The list names demuxers of the bundled library; one it does not know would be a word without
    meaning.
    """
    import av

    from ample_crate.media.wrappers import READ

    known = {name for entry in av.formats_available for name in entry.split(",")}
    assert [name for name in READ if name not in known] == []
