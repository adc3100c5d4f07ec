"""The door: beyond this machine nobody comes in without the pass-phrase, and who came in goes out
again. On this machine alone there is none.
"""

import ipaddress
import time
from collections.abc import Mapping
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

from flask import (
    Blueprint,
    Flask,
    Response,
    abort,
    current_app,
    jsonify,
    redirect,
    render_template,
    request,
    session,
    url_for,
)
from flask.sessions import SecureCookieSessionInterface
from itsdangerous import BadData
from werkzeug.http import parse_cookie
from werkzeug.wrappers import Response as BaseResponse

from tall_heron.web import visits
from tall_heron.web.inside import Sessions
from tall_heron.web.pass_phrase import Kept, Tries, end_sessions

pages = Blueprint("door", __name__)
HOURS = 12  # that one stays in, whatever one does
OPEN = ("static", "door.enter")


def loopback(host: str) -> bool:
    """Whether an address is reached from this machine alone."""
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def guard(app: Flask, folder: Path | None, behind_tls: bool) -> None:
    """Refuse writes that another site sends, and with a folder whoever has not given the
    pass-phrase kept there. `behind_tls`: a server with a certificate stands in front.
    """
    app.config.update(
        PERMANENT_SESSION_LIFETIME=HOURS * 3600,
        SESSION_REFRESH_EACH_REQUEST=False,
        SESSION_COOKIE_SECURE=behind_tls,
    )
    app.extensions["pass_phrase"] = Kept(folder) if folder is not None else None
    app.extensions["inside"] = Sessions(folder, HOURS * 3600) if folder is not None else None
    app.extensions["tries"] = Tries()
    app.jinja_env.globals.update(locked=folder is not None)
    app.register_blueprint(pages)
    app.before_request(_same_site)
    app.before_request(_known)
    if folder is not None:
        visits.follow(app, folder)


def inside(path: str) -> str:
    """A path of this site to go back to; the bench where it is none."""
    ours = (
        path.startswith("/")
        and not path.startswith("//")
        and "\\" not in path
        and all(c.isprintable() for c in path)
        and not urlsplit(path).netloc
    )
    return path if ours else url_for("bench.bench")


def _same_site() -> None:
    origin = request.headers.get("Origin")
    if request.method not in ("GET", "HEAD") and origin and _place(origin) != request.host:
        abort(403)


def _place(origin: str) -> str:
    """The host and port of an origin; empty for what is none."""
    try:
        return urlsplit(origin).netloc
    except ValueError:
        return ""


def is_known(app: Flask, held: Mapping[str, Any]) -> bool:
    """Whether a session is of somebody who is inside."""
    phrase, since = app.extensions["pass_phrase"], held.get("since")
    return phrase is None or (
        isinstance(since, int)
        and 0 <= time.time() - since < HOURS * 3600
        and held.get("known") == phrase.token()
        and held.get("number") in app.extensions["inside"]
    )


def is_known_by(app: Flask, cookies: str) -> bool:
    """The same by the cookies of a request that has not been read yet."""
    if app.extensions["pass_phrase"] is None:
        return True
    signer = SecureCookieSessionInterface().get_signing_serializer(app)
    text = parse_cookie(cookies).get(app.config["SESSION_COOKIE_NAME"], "")
    try:
        return signer is not None and is_known(app, signer.loads(text, max_age=HOURS * 3600))
    except BadData:
        return False


def _known() -> Response | BaseResponse | None:
    if request.endpoint in OPEN or is_known(current_app, session):
        return None
    if request.accept_mimetypes.best == "application/json" or request.method != "GET":
        answer = jsonify(
            field="",
            message="You are no longer inside. Load the page, give the pass-phrase, and make the change again: what you typed is still in its field.",
        )
        answer.status_code = 401
        return answer
    return redirect(url_for("door.enter", back=request.full_path.rstrip("?")))


@pages.route("/enter", methods=["GET", "POST"])
def enter() -> tuple[str, int] | BaseResponse:
    """The pass-phrase asked for, and given."""
    back, phrase = inside(request.values.get("back", "/")), current_app.extensions["pass_phrase"]
    if request.method == "GET":
        return render_template("pieces/enter.html", back=back, wrong=""), 200
    if phrase is None:
        return redirect(back, 303)
    given, address = request.form.get("phrase", ""), request.remote_addr or ""
    good = current_app.extensions["tries"].judged(address, lambda: phrase.right(given))
    if good is None:
        words = "Several pass-phrases from this address are being looked at. Give it again in a few seconds."
        return render_template("pieces/enter.html", back=back, wrong=words), 429
    visits.note("came in" if good else "wrong pass-phrase")
    if not good:
        return render_template(
            "pieces/enter.html", back=back, wrong="That is not the pass-phrase."
        ), 403
    session.clear()
    session.permanent = True
    now = int(time.time())
    session["known"], session["since"] = phrase.token(), now
    session["number"] = current_app.extensions["inside"].let_in(now, address, phrase.token())
    return redirect(back, 303)


@pages.post("/leave")
def leave() -> BaseResponse:
    """Out again, this browser or everyone."""
    phrase = current_app.extensions["pass_phrase"]
    if phrase is not None and request.form.get("everyone"):
        end_sessions(phrase.folder)
        current_app.extensions["inside"].put_out()
        visits.note("put everyone outside")
    elif phrase is not None:
        current_app.extensions["inside"].put_out(session["number"])
        visits.note("went out")
    session.clear()
    return redirect(url_for("door.enter") if phrase is not None else url_for("bench.bench"), 303)


@pages.get("/inside")
def inside_now() -> str:
    """Who is inside, each to be put outside."""
    who, token = _inside(), current_app.extensions["pass_phrase"].token()
    rows = [
        (number, datetime.fromtimestamp(since, UTC).isoformat(), address)
        for number, since, address in who.listed(int(time.time()), token)
    ]
    return render_template(
        "pieces/inside.html", listed=rows, mine=session.get("number"), hours=HOURS
    )


@pages.post("/inside")
def put_out() -> BaseResponse:
    """Put one outside."""
    number = request.form.get("number", "")
    who = _inside()
    if number in who:
        who.put_out(number)
        visits.note("put one outside")
    return redirect(url_for("door.inside_now"), 303)


def _inside() -> Sessions:
    who: Sessions | None = current_app.extensions["inside"]
    if who is None:
        abort(404)  # on its own machine it has no door
    return who
