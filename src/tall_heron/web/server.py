"""The production server: waitress, one process."""

import gc
import socket
from pathlib import Path

import click
import waitress

from tall_heron.core.document.build import dump
from tall_heron.core.editing.demo import demo_builds
from tall_heron.store import builds, db, lock
from tall_heron.web import create_app, door
from tall_heron.web.stations.prove.demo import lay_logs

THREADS = 16


def run(database: Path, host: str, port: int, with_demo: bool) -> None:
    """Serve the database at an address; with the demo builds laid in where it is new."""
    phrase = "" if door.loopback(host) else door.kept(database.parent)
    if not door.loopback(host) and not phrase:
        words = f"{host} can be reached from other machines, and anyone there could change your builds. Set a pass-phrase first: tall-heron pass-phrase --data {database.parent}"
        raise click.ClickException(words)
    try:
        if with_demo:
            add_demo(database)
        app = create_app(
            database,
            hosts=["*"] if phrase else sorted({host, "127.0.0.1", "localhost"}),
            pass_phrase=phrase,
        )
    except db.Unusable as unusable:
        raise click.ClickException(str(unusable)) from None
    held = lock.hold(database)  # so that nothing is restored under it
    bound = bind(host, port)
    server = waitress.create_server(app, sockets=[bound], threads=THREADS, ident=None)
    gc.collect()
    gc.freeze()  # what is loaded now stays: later collections need not walk it
    click.echo(f"Tall Heron is at http://{host}:{bound.getsockname()[1]}/  (stop with Ctrl C)")
    server.run()
    if held is not None:
        held.close()


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
