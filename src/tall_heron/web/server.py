"""The production server: waitress, one process."""

import gc
import logging
import os
import socket
from copy import copy
from pathlib import Path

import click
import waitress
from flask import Flask
from waitress.adjustments import Adjustments
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import BaseWSGIServer
from waitress.task import ErrorTask
from werkzeug.exceptions import HTTPException

from tall_heron.core.document.build import dump
from tall_heron.core.editing.demo import demo_builds
from tall_heron.store import builds, db, lock
from tall_heron.web import create_app, door, pass_phrase, room_of
from tall_heron.web.backups import Schedule
from tall_heron.web.headers import HEADERS
from tall_heron.web.stations.prove.demo import lay_logs

THREADS = 16
MOST_CONNECTIONS = 1000  # some twenty browsers hold six each; others come with hundreds unwillingly
IDLE_S = 30  # a connection is held so long without a word
OPEN_FILES = 4096
MOST_HEADER = 32_768  # bytes
OUTSIDE_BYTES = 10_000  # of a request of somebody who has not given the pass-phrase
WORDS_BYTES = (
    4_000_000  # over what an address takes: so far its own words are said, not the server's
)


def run(
    database: Path,
    host: str,
    port: int,
    with_demo: bool,
    proxy: str = "",
    backups: Schedule | None = None,
) -> None:
    """Serve the database at an address; with the demo builds laid in where it is new, and with
    `backups` while it runs. `proxy` is the address of a server with a certificate that stands in
    front. Raises ClickException where it cannot.
    """
    os.umask(0o077)  # what is written is its owner's
    locked = bool(proxy) or not door.loopback(host)
    if locked and not pass_phrase.kept(database.parent):
        who = f"What {proxy} passes on" if proxy else host
        words = f"{who} can be reached from other machines, and anyone there could change your builds. Set a pass-phrase first: tall-heron pass-phrase --data {database.parent}"
        raise click.ClickException(words)
    try:
        held = _alone(database)
        if with_demo:
            add_demo(database)
        app = create_app(
            database,
            hosts=["*"] if locked else sorted({host, "127.0.0.1", "localhost"}),
            locked=database.parent if locked else None,
            behind_tls=bool(proxy),
        )
    except db.Unusable as unusable:
        raise click.ClickException(str(unusable)) from None
    except (db.Fault, OSError) as error:
        raise click.ClickException(db.what_to_do(database, error)) from None
    bound = bind(host, port)
    server = make_server(app, bound, proxy)
    gc.collect()
    gc.freeze()  # what is loaded now stays: later collections need not walk it
    click.echo(f"Tall Heron is at http://{host}:{bound.getsockname()[1]}/  (stop with Ctrl C)")
    if backups is not None:
        app.extensions["backups"] = backups
        backups.start()
    try:
        server.run()
    finally:
        if backups is not None:
            backups.end()
        held.close()


def _alone(database: Path) -> lock.Lock:
    """The lock of a database, so that no other serves it and nothing is restored under it."""
    held = lock.hold(database)
    if held is None:
        raise click.ClickException(
            f"Another Tall Heron already serves {database}. Use its page, stop it first, or name another folder with --data."
        )
    return held


def make_server(app: Flask, bound: socket.socket, proxy: str = "") -> BaseWSGIServer:
    """The server of an application on a socket, with its limits."""
    _allow_files()
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)  # one who waits is no fault
    passed_on = {
        "trusted_proxy": proxy,
        "trusted_proxy_count": 1,
        "trusted_proxy_headers": "x-forwarded-for x-forwarded-proto",
        "clear_untrusted_proxy_headers": True,
    }
    server = waitress.create_server(
        app,
        sockets=[bound],
        threads=THREADS,
        ident=None,
        connection_limit=MOST_CONNECTIONS,
        channel_timeout=IDLE_S,
        cleanup_interval=IDLE_S // 3,
        max_request_header_size=MOST_HEADER,
        channel_request_lookahead=1,  # so that one who went away is seen while his answer is worked out
        asyncore_use_poll=True,  # select() ends at 1,024 files
        **(passed_on if proxy else {}),
    )
    server.channel_class = channel_for(app)
    return server


def channel_for(app: Flask) -> type[HTTPChannel]:
    """Connections whose requests are refused by their head where their body is more than their
    address takes, or where whoever sends it is outside: nothing of it is read.
    """

    class Request(HTTPRequestParser):
        def parse_header(self, header_plus: bytes) -> None:
            super().parse_header(header_plus)
            if self.content_length or self.chunked:
                self.adj: Adjustments = copy(self.adj)
                self.adj.max_request_body_size = most_bytes(
                    app, self.command, self.path, self.headers.get("COOKIE", "")
                )

    class Refusal(ErrorTask):
        def execute(self) -> None:
            self.response_headers.extend([*HEADERS.items(), ("Cache-Control", "no-store")])
            super().execute()

    class Channel(HTTPChannel):
        parser_class = Request
        error_task_class = Refusal

    return Channel


def most_bytes(app: Flask, method: str, path: str, cookies: str) -> int:
    """How many bytes are read of a request, by its head alone."""
    if not door.is_known_by(app, cookies):
        return OUTSIDE_BYTES
    try:
        endpoint = app.url_map.bind("").match(path, method)[0]
    except HTTPException:  # no such page, or not so
        endpoint = ""
    return room_of(endpoint) + WORDS_BYTES


def _allow_files() -> None:
    """As many open files as connections need, where the system says how many there may be."""
    try:
        import resource
    except ImportError:  # Windows sets no such limit
        return
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    if soft < OPEN_FILES:
        most = OPEN_FILES if hard == resource.RLIM_INFINITY else min(OPEN_FILES, hard)
        resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))


def bind(host: str, port: int) -> socket.socket:
    """A socket on a port, or on the next free one of ten where that is taken; port 0 is any. Raises
    ClickException where none is free.
    """
    words = ""
    for candidate in range(port, port + 10) if port else (0,):
        bound = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET)
        bound.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            bound.bind((host, candidate))
            bound.listen()
        except OSError as error:
            bound.close()
            words = error.strerror or str(error)
        else:
            return bound
    raise click.ClickException(
        f"cannot listen on {host}, ports {port} to {port + 9}: {words}. Name another with --port."
    )


def add_demo(database: Path) -> None:
    """Lay the demo builds into a database that has none yet."""
    with db.opened(database) as connection:
        if not builds.every(connection):
            demo = demo_builds(wired=True)
            for build in demo.values():
                builds.create(connection, build.name, dump(build), "Laid on the bench")
            lay_logs(connection, database, demo)
