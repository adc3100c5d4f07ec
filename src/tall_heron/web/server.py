"""The production server: waitress, one process."""

import gc
from pathlib import Path

import click
import waitress

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
    try:
        server = waitress.create_server(app, host=host, port=port, threads=THREADS, ident=None)
    except OSError as error:
        raise click.ClickException(f"cannot listen on {host}:{port}: {error.strerror}. Try another with --port.") from None
    shown = getattr(server, "effective_port", port)
    gc.collect()
    gc.freeze()  # what is loaded now stays: later collections need not walk it
    click.echo(f"Tall Heron is at http://{host}:{shown}/  (stop with Ctrl C)")
    server.run()


def add_demo(database: Path) -> None:
    """Lay the demo builds into a database that has none yet."""
    with db.opened(database) as connection:
        if not builds.every(connection):
            for build in demo_builds().values():
                builds.create(connection, build.name, dump(build), "Laid on the bench")
