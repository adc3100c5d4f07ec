"""The pages: create_app and one blueprint a stage of the job. No SQL and no physics in here."""

import hashlib
import secrets
from pathlib import Path

from flask import Flask, Response, current_app, g, jsonify, render_template, request
from flask_wtf.csrf import CSRFError, CSRFProtect
from werkzeug.exceptions import BadHost, HTTPException, SecurityError

from tall_heron import __version__
from tall_heron.core.document.sources import SOURCE_WORDS
from tall_heron.store import builds, db
from tall_heron.web import answers, door, patience
from tall_heron.web.door import HOURS
from tall_heron.web.forms.reading import Refused
from tall_heron.web.headers import HEADERS, POLICY
from tall_heron.web.page_answer import in_words
from tall_heron.web.show import money, text, units
from tall_heron.web.station import all_stations, run_of_stations
from tall_heron.web.stations import convert, fixes
from tall_heron.web.template_cache import template_cache

MOST_BYTES = 1_000_000
YEAR = 31_536_000  # s


def create_app(
    database: Path,
    hosts: list[str] | None = None,
    locked: Path | None = None,
    behind_tls: bool = False,
) -> Flask:
    """The application on a database; `hosts` are the names it answers to, `*` any; with a folder
    that it is `locked` by only those come in who give the pass-phrase kept there. `behind_tls`: its
    cookies go over a connection with a certificate alone.
    """
    app = Flask(__name__, template_folder=".", static_url_path=f"/static/{_edition()}")
    app.config.update(
        DATABASE=database,
        SECRET_KEY=_secret(database.with_suffix(".key")),
        MAX_CONTENT_LENGTH=MOST_BYTES,
        SEND_FILE_MAX_AGE_DEFAULT=YEAR,
        TRUSTED_HOSTS=None if hosts == ["*"] else hosts or ["127.0.0.1", "localhost"],
        SESSION_COOKIE_SAMESITE="Lax",
        WTF_CSRF_TIME_LIMIT=HOURS * 3600,
        WTF_CSRF_SSL_STRICT=False,
    )
    app.jinja_env.autoescape = True  # also for templates that do not end in .html
    app.jinja_env.bytecode_cache = template_cache()
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    app.jinja_env.globals.update(version=__version__, source_words=SOURCE_WORDS)
    text.register(app)
    money.register(app)
    door.guard(app, locked, behind_tls)
    app.before_request(
        _room
    )  # before CSRFProtect, which looks for its token in a form and so asks how long the body is
    CSRFProtect(app)
    for blueprint in (
        units.pages,
        convert.pages,
        fixes.pages,
        *(b for s in all_stations() for b in s.blueprints),
    ):
        app.register_blueprint(blueprint)
    app.jinja_env.globals.update(
        run_of_stations=run_of_stations,
        keys_of_stations=[line for s in all_stations() for line in s.keys],
        scripts=_scripts(),
    )
    with db.opened(database):
        pass  # brings the schema up to date before the first request
    app.extensions["connections"] = db.Connections(database)
    patience.guard(app)
    app.before_request(_open)
    app.teardown_request(_close)
    for station in all_stations():
        if station.after is not None:
            app.teardown_request(station.after)
    app.after_request(_secure)
    app.register_error_handler(Refused, _refused)
    app.register_error_handler(builds.Signed, _signed)
    app.register_error_handler(db.Fault, _unusable)
    app.register_error_handler(HTTPException, _wrong)
    return app


def _edition() -> str:
    """The name of the folder that scripts, styles and fonts are served under: another one when any
    of them changes, so that a browser may keep what it has.
    """
    digest = hashlib.blake2s(digest_size=6)
    for file in sorted((Path(__file__).parent / "static").rglob("*")):
        if file.is_file():
            digest.update(file.read_bytes())
    return digest.hexdigest()


def _secret(file: Path) -> str:
    """The key that signs sessions, made once and kept beside the database for its owner only."""
    if not file.exists() or not file.read_text(
        encoding="ascii"
    ):  # one that a full disk left empty is no key
        db.write_private(file, secrets.token_hex(32))
    return file.read_text(encoding="ascii")


def _scripts() -> dict[str, list[str]]:
    """Scripts by their names: those that `begin` something on a page, of every page and of the
    stations; `others` that they import.
    """
    folder = Path(__file__).parent / "static"
    begin = [
        "tall-heron",
        "page",
        *dict.fromkeys(name for s in all_stations() for name in s.scripts),
    ]
    return {
        "begin": begin,
        "others": sorted(p.stem for p in folder.glob("*.js") if p.stem not in begin),
    }


def _room() -> None:
    request.max_content_length = room_of(request.endpoint or "") + 1


def room_of(endpoint: str) -> int:
    """How many bytes an address takes."""
    return next((s.room[endpoint] for s in all_stations() if endpoint in s.room), MOST_BYTES - 1)


def _open() -> None:
    from flask import current_app

    if request.endpoint != "static":
        g.connection = current_app.extensions["connections"].here()


def _close(_: BaseException | None) -> None:
    answers.give_back()


def _secure(response: Response) -> Response:
    response.headers.setdefault(
        "Content-Security-Policy", POLICY
    )  # a file that somebody attached has a narrower one
    response.headers.update(HEADERS)
    if request.is_secure:
        response.headers["Strict-Transport-Security"] = f"max-age={YEAR}"
    if request.endpoint != "static":
        response.headers["Cache-Control"] = "no-store"
    return response


def _refused(error: Refused) -> tuple[Response, int]:
    return jsonify(field=error.field, message=error.message, head=error.head), error.status


def _signed(error: builds.Signed) -> tuple[Response | str, int]:
    """A change of a build that is signed."""
    if request.accept_mimetypes.best == "application/json" or request.is_json:
        sent = request.get_json(silent=True)
        return jsonify(
            field=str(sent.get("field") or "head") if isinstance(sent, dict) else "head",
            message=str(error),
        ), 422
    return render_template("pieces/wrong.html", code=409, words=str(error)), 409


def _unusable(error: db.Fault) -> tuple[Response | str, int]:
    """A disk that is full or a database that cannot be written while the application runs: in
    words, and the page keeps what was typed.
    """
    words = f"Nothing was changed. {db.what_to_do(Path(current_app.config['DATABASE']), error)}"
    current_app.logger.error("%s", words)
    return in_words(words, 503)


def _wrong(error: HTTPException) -> tuple[Response | str, int]:
    code = error.code or 500
    if isinstance(
        error, SecurityError | BadHost
    ):  # nothing of the site can be named under such an address, so no page can be made
        return Response(
            "This address is not one that Tall Heron answers to.\n", mimetype="text/plain"
        ), code
    words = {
        400: "The request could not be read."
        if not isinstance(error, CSRFError)
        else "This page has grown old. Load it again; what you typed is still in the field.",
        403: "That was sent from another site, and nothing was changed.",
        404: "There is no such page. It may have been written down wrong.",
        405: "That cannot be done here.",
        409: error.description or "",
        413: f"That is too large: {(request.max_content_length or MOST_BYTES) / 1e6:.0f} MB are taken here.",
    }.get(code, "Something went wrong on our side. Nothing was changed.")
    return in_words(words, code)
