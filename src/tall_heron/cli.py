"""The command line."""

import json
import sys
import tempfile
from contextlib import closing
from datetime import timedelta
from pathlib import Path
from typing import IO, NoReturn

import click

from tall_heron import __version__

BAD_INPUT, NO_ANSWER = 2, 3


def _complain(error: Exception) -> NoReturn:
    """Say every fault on its field and leave with status 2."""
    for one in getattr(error, "errors", [error]):
        click.echo(f"Error: {one}", err=True)
    sys.exit(BAD_INPUT)


def _data_folder(given: str | None) -> Path:
    return Path(given) if given else Path.cwd() / "instance"


def _database(folder: str | None, demo_data: bool) -> Path:
    return _data_folder(folder) / ("demo.sqlite" if demo_data else "tall-heron.sqlite")


def _period(_: click.Context, __: click.Parameter, text: str | None) -> timedelta | None:
    """A period of a minute or more, such as 24h."""
    from tall_heron.core.base.units import parse

    if text is None:
        return None
    try:
        period = timedelta(seconds=parse(text, "duration", "h"))
    except (ValueError, OverflowError) as error:
        raise click.BadParameter(str(error)) from None
    if not timedelta(minutes=1) <= period <= timedelta(days=366):
        raise click.BadParameter("between a minute and a year, such as 24h")
    return period


@click.group()
@click.version_option(__version__, prog_name="tall-heron")
def main() -> None:
    """Plan, size and prove performance fuel systems."""


@main.command()
@click.argument("file", type=click.File("rb"))
@click.option("--json", "as_json", is_flag=True, help="Full precision, for programs.")
@click.option("--point", "wanted", help="Only the point of this name.")
def solve(file: IO[bytes], as_json: bool, wanted: str | None) -> None:
    """Solve the build in FILE (- for standard input) at each of its points."""
    from tall_heron.core.base.errors import BuildErrors
    from tall_heron.core.contract import FORMAT, solution_data, solve_build
    from tall_heron.core.document.build import load

    try:
        solved = solve_build(load(file.read()))
    except BuildErrors as error:
        _complain(error)
        return
    if wanted is not None:
        solved = [(p, s) for p, s in solved if p.name == wanted]
        if not solved:
            raise click.UsageError(f"there is no point named “{wanted}” in the file")
    if as_json:
        points = [solution_data(point.name, solution) for point, solution in solved]
        click.echo(json.dumps({"format": FORMAT, "points": points}, ensure_ascii=False, indent=1))
    else:
        for point, solution in solved:
            _print_point(point.name, solution_data(point.name, solution))
    for point, solution in solved:
        if not solution.converged:
            click.echo(f"Error: {point.name}: {solution.part}: {solution.reason}", err=True)
    if not all(solution.converged for _, solution in solved):
        sys.exit(NO_ANSWER)


def _print_point(name: str, data: dict) -> None:
    click.echo(f"{name}: asked {data['asked_lph']:.1f} L/h, got {data['delivered_lph']:.1f} L/h")
    for node, kpa in data["nodes"].items():
        click.echo(f"  {node:<24}{'undefined' if kpa is None else f'{kpa:.2f} kPa':>16} gauge")
    for key, link in data["links"].items():
        loss = "undefined" if link["loss_kpa"] is None else f"{link['loss_kpa']:.3f} kPa"
        click.echo(f"  {key:<24}{link['flow_lph']:>12.2f} L/h{loss:>18}  {link['state']}")


@main.command()
def schema() -> None:
    """Print the JSON Schema of a build file."""
    from tall_heron.core.document.build import Build

    click.echo(json.dumps(Build.model_json_schema(), ensure_ascii=False, indent=1))


@main.command()
@click.argument("name")
def example(name: str) -> None:
    """Print a demo build as a build file."""
    from tall_heron.core.document.build import dump
    from tall_heron.core.editing.demo import demo_builds

    builds = demo_builds()
    if name.lower() not in builds:
        raise click.UsageError(f"there is no example “{name}”; there is {', '.join(builds)}")
    click.echo(dump(builds[name.lower()]))


@main.command("inp")
@click.argument("file", type=click.File("rb"))
@click.option(
    "--case", "key", default="peak", show_default=True, help="The case of the brief to write."
)
def write_inp(file: IO[bytes], key: str) -> None:
    """Print the network of the build in FILE (- for standard input) as an EPANET input file."""
    from tall_heron.core.base.errors import BuildErrors
    from tall_heron.core.document.build import load
    from tall_heron.core.hydraulics.epanet import make_inp
    from tall_heron.core.study.study import make_study

    try:
        study = make_study(load(file.read()))
        if key not in study.solved:
            raise click.UsageError(f"there is no case “{key}”; there is {', '.join(study.solved)}")
        solved = study.solved[key]
        click.echo(
            make_inp(
                solved.case.demand, solved.solution, f"{study.build.name}, {solved.case.title}"
            ),
            nl=False,
        )
    except (BuildErrors, ValueError) as error:
        _complain(error)


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8080, show_default=True)
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option(
    "--proxy",
    default="",
    metavar="ADDRESS",
    help="Address of a server with a certificate in front: its word counts on who asks, and cookies go over HTTPS alone.",
)
@click.option(
    "--backup-every",
    metavar="PERIOD",
    callback=_period,
    help="Make a backup so often while it runs, such as 24h.",
)
@click.option(
    "--keep",
    default=14,
    show_default=True,
    type=click.IntRange(1, 10_000),
    help="How many of these backups stay.",
)
@click.option(
    "--backups",
    "backup_folder",
    type=click.Path(path_type=Path, file_okay=False),
    help="Folder of these backups; backups beside the database otherwise.",
)
def serve(
    host: str,
    port: int,
    folder: str | None,
    proxy: str,
    backup_every: timedelta | None,
    keep: int,
    backup_folder: Path | None,
) -> None:
    """Start the application on its own data."""
    from tall_heron.web.backups import Schedule
    from tall_heron.web.server import run

    data = _data_folder(folder)
    database = data / "tall-heron.sqlite"
    schedule = (
        Schedule(database, backup_folder or data / "backups", backup_every, keep)
        if backup_every is not None
        else None
    )
    run(database, host, port, with_demo=False, proxy=proxy, backups=schedule)


@main.command()
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False))
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--demo", "demo_data", is_flag=True, help="Of the demo's database.")
@click.option("--force", is_flag=True, help="Write over a backup that is there.")
def backup(file: Path, folder: str | None, demo_data: bool, force: bool) -> None:
    """Copy all builds with their history and logs into FILE, the files of logs and pictures into
    FILE.files beside it, or all into one archive where FILE ends with .zip; the application may run
    meanwhile.
    """
    from tall_heron.store import archive, db, logs

    database = _database(folder, demo_data)
    if file.exists() and not force:
        _complain(FileExistsError(f"{file} is there already; name another, or say --force"))
    try:
        if file.suffix == ".zip":
            file.parent.mkdir(parents=True, exist_ok=True)
            with tempfile.TemporaryDirectory() as room:
                archive.pack(database, file, Path(room))
            click.echo(f"Kept in {file}.")
            return
        logs.copy_whole(database, file)
    except (db.Unusable, FileNotFoundError) as error:
        _complain(error)
    beside = logs.folder(file)
    click.echo(
        f"Kept in {file}"
        + (
            f", and {sum(1 for _ in beside.glob('??/*'))} files of logs and pictures in {beside}."
            if beside.exists()
            else "."
        )
    )


@main.command()
@click.argument("file", type=click.Path(path_type=Path, exists=True, dir_okay=False))
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--demo", "demo_data", is_flag=True, help="Of the demo's database.")
def restore(file: Path, folder: str | None, demo_data: bool) -> None:
    """Put the builds of a backup FILE in the place of those that are there, which are kept beside
    it. Where the application runs on them, it is done from its bench instead.
    """
    from tall_heron.store import db, lock, logs, restored

    database = _database(folder, demo_data)
    try:
        mine = lock.hold(database)
    except (OSError, db.Fault) as error:
        _complain(RuntimeError(db.what_to_do(database, error)))
    if mine is None:
        _complain(
            RuntimeError(
                f"Tall Heron runs on {database}: stop it first, or restore from its page, under Backup"
            )
        )
    with closing(mine):
        try:
            done = restored.take_up(file, database)
        except (db.Unusable, FileNotFoundError) as error:
            _complain(error)
    click.echo(
        f"Restored from {file}."
        + (f" What was there is in {done.before}." if done.before is not None else "")
    )
    if done.missing:
        words = f"{done.missing} {'file' if done.missing == 1 else 'files'} of logs or pictures {'is' if done.missing == 1 else 'are'} missing: {logs.folder(file)} was not there, or not whole."
        click.echo(words, err=True)


@main.command("pass-phrase")
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--phrase", prompt="Pass-phrase", hide_input=True, confirmation_prompt=True)
def pass_phrase(folder: str | None, phrase: str) -> None:
    """Set what is asked of whoever comes from another machine (serve --host). Its hash is kept
    beside the database. It counts at once, and everyone who is inside is outside.
    """
    from tall_heron.web.pass_phrase import keep

    try:
        keep(_data_folder(folder), phrase)
    except ValueError as error:
        _complain(error)
    click.echo(
        "Kept. Over plain HTTP it can be read on the way: put a server with a certificate before it."
    )


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8080, show_default=True)
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
def demo(host: str, port: int, folder: str | None) -> None:
    """Start the application with the demo builds."""
    from tall_heron.web.server import run

    run(_data_folder(folder) / "demo.sqlite", host, port, with_demo=True)


@main.command("export")
@click.argument("name")
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--demo", "demo_data", is_flag=True, help="From the demo's database.")
@click.option(
    "--zip",
    "target",
    type=click.Path(dir_okay=False, path_type=Path),
    help="Write it with the pictures under its views, as a ZIP, to this file.",
)
def export_build(name: str, folder: str | None, demo_data: bool, target: Path | None) -> None:
    """Print a stored build as a build file, or write it with its pictures."""
    from tall_heron.store import builds, bundle, db

    database = _database(folder, demo_data)
    with db.opened(database) as connection:
        row = builds.find(connection, name)
        if row is None:
            raise click.UsageError(
                f"there is no build “{name}”; there is {', '.join(r['slug'] for r in builds.every(connection)) or 'none'}"
            )
        try:
            document = builds.document_of(row)
        except builds.Altered as error:
            _complain(error)
        if target is None:
            click.echo(document)
        else:
            target.write_bytes(bundle.packed(document, connection, database))
            click.echo(f"Written: {target}")


@main.command()
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--demo", "demo_data", is_flag=True, help="The demo's database.")
@click.option("--mend", is_flag=True, help="Take up the newest sound revision of what is damaged.")
@click.option(
    "--save",
    "into",
    type=click.Path(path_type=Path, file_okay=False),
    metavar="FOLDER",
    help="Write what can still be read of each build as a build file, where nothing else goes.",
)
def check(folder: str | None, demo_data: bool, mend: bool, into: Path | None) -> None:
    """Walk the whole store: say what is sound, what is damaged, and what can be saved."""
    from tall_heron.store import check as store_check
    from tall_heron.store import db

    database = _database(folder, demo_data)
    if not database.exists():
        _complain(FileNotFoundError(f"there is no {database}"))
    if into is not None:
        try:
            for line in store_check.save(database, into):
                click.echo(line)
        except (OSError, db.Fault) as error:
            _complain(error)
        return
    try:
        with db.opened(database) as connection:
            state = store_check.walk(connection, database)
            for line in state.words():
                click.echo(line)
            if mend:
                for line in store_check.mend(connection, state):
                    click.echo(line)
    except db.Unusable as error:
        _complain(error)
    if not state.sound and not mend:
        sys.exit(1)


@main.command("import")
@click.argument("file", type=click.File("rb"))
@click.option("--data", "folder", help="Folder of the database; ./instance otherwise.")
@click.option("--demo", "demo_data", is_flag=True, help="Into the demo's database.")
def import_build(file: IO[bytes], folder: str | None, demo_data: bool) -> None:
    """Store the build in FILE (- for standard input) as a new build; a ZIP brings its pictures
    along.
    """
    from tall_heron.core.base.errors import BuildErrors
    from tall_heron.core.document.build import dump, load
    from tall_heron.core.editing.drawn import held_to_drawing
    from tall_heron.store import builds, bundle, db

    database = _database(folder, demo_data)
    try:
        data, pictures = bundle.opened(file.read())
        build, _ = held_to_drawing(load(data))
    except (BuildErrors, bundle.NotABundle) as error:
        _complain(error)
    with db.opened(database) as connection:
        bundle.keep(connection, database, pictures)
        click.echo(builds.create(connection, build.name, dump(build), "Imported"))
