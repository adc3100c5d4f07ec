"""The door: beyond this machine nobody comes in without the pass-phrase. On this machine alone
there is none.
"""

import hashlib
import ipaddress
import time
from collections import deque
from pathlib import Path
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
from werkzeug.security import check_password_hash, generate_password_hash
from werkzeug.wrappers import Response as BaseResponse

pages = Blueprint("door", __name__)
FILE = "pass-phrase"  # beside the database, a hash for its owner's eyes only
LEAST = 10  # letters
HOURS = 12  # that one stays in
TRIES, WITHIN = (
    5,
    300.0,
)  # wrong pass-phrases from anywhere, in so many seconds, before the door waits
OPEN = ("static", "door.enter")


def loopback(host: str) -> bool:
    """Whether an address is reached from this machine alone."""
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def keep(folder: Path, phrase: str) -> None:
    """Keep the hash of a pass-phrase in a folder. Raises ValueError for one too short."""
    if len(phrase) < LEAST:
        raise ValueError(
            f"a pass-phrase has at least {LEAST} letters; four or five words are easy to keep in mind"
        )
    folder.mkdir(parents=True, exist_ok=True)
    file = folder / FILE
    file.touch(mode=0o600)
    file.write_text(generate_password_hash(phrase), encoding="ascii")


def kept(folder: Path) -> str:
    """The hash that is kept in a folder; empty where there is none."""
    file = folder / FILE
    return file.read_text(encoding="ascii").strip() if file.exists() else ""


def guard(app: Flask, hashed: str) -> None:
    """Refuse writes that another site sends, and with a hash whoever has not given the pass-phrase."""
    app.config.update(PASS_PHRASE=hashed, PERMANENT_SESSION_LIFETIME=HOURS * 3600)
    app.extensions["wrong_tries"] = deque[float](maxlen=TRIES)
    app.register_blueprint(pages)
    app.before_request(_same_site)
    app.before_request(_known)


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


def _token() -> str:
    """What a session holds of whoever is inside: nothing of the hash can be read from it."""
    return hashlib.sha256(f"inside {current_app.config['PASS_PHRASE']}".encode()).hexdigest()


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


def _known() -> Response | BaseResponse | None:
    if (
        not current_app.config["PASS_PHRASE"]
        or request.endpoint in OPEN
        or session.get("known") == _token()
    ):
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
    back, tries = inside(request.values.get("back", "/")), current_app.extensions["wrong_tries"]
    if request.method == "GET":
        return render_template("pieces/enter.html", back=back, wrong=""), 200
    now = time.monotonic()
    if len(tries) == TRIES and now - tries[0] < WITHIN:
        return render_template(
            "pieces/enter.html",
            back=back,
            wrong=f"Too many wrong pass-phrases. The door opens again in {WITHIN - (now - tries[0]):.0f} s.",
        ), 429
    if not check_password_hash(current_app.config["PASS_PHRASE"], request.form.get("phrase", "")):
        tries.append(now)
        return render_template(
            "pieces/enter.html", back=back, wrong="That is not the pass-phrase."
        ), 403
    session.permanent = True
    session["known"] = _token()  # another pass-phrase, and everyone is outside again
    return redirect(back, 303)
