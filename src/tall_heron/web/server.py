"""The production server: waitress, one process."""

import gc
from pathlib import Path
from typing import Any

import click
import waitress
from flask import Flask

from tall_heron.core.build import dump
from tall_heron.core.demo import demo_builds
from tall_heron.store import builds, db
from tall_heron.web import create_app

THREADS = 16


def run(database: Path, host: str, port: int, with_demo: bool) -> None:
    """Serve the database at an address; with the demo builds laid in where it is new."""
    if with_demo:
        add_demo(database)
    app = create_app(database, hosts=sorted({host, "127.0.0.1", "localhost"}))
    server = listen(app, host, port)
    gc.collect()
    gc.freeze()  # what is loaded now stays: later collections need not walk it
    click.echo(f"Tall Heron is at http://{host}:{server.effective_port}/  (stop with Ctrl C)")
    server.run()


def listen(app: Flask, host: str, port: int) -> Any:
    """A server bound to a port, or to the next free one of ten where that is taken. Raises ClickException where none is free."""
    error: OSError | None = None
    for candidate in range(port, port + 10) if port else (0,):
        try:
            return waitress.create_server(app, host=host, port=candidate, threads=THREADS, ident=None)
        except OSError as taken:
            error = taken
    words = error.strerror if error else "no port"
    raise click.ClickException(f"cannot listen on {host}, ports {port} to {port + 9}: {words}. Name another with --port.")


def add_demo(database: Path) -> None:
    """Lay the demo builds into a database that has none yet."""
    with db.opened(database) as connection:
        if not builds.every(connection):
            for build in demo_builds().values():
                builds.create(connection, build.name, dump(build), "Laid on the bench")
