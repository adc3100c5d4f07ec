"""The example of a server with a certificate in front (docs/proxy), as it stands there, with an
nginx from Debian's packages.
"""

import re
import shutil
import socket
import ssl
import subprocess
import time
import urllib.error
import urllib.parse
import urllib.request
from collections.abc import Iterator
from http.cookiejar import Cookie, CookieJar
from pathlib import Path

import pytest
from running import start, stop

from tall_heron.web import pass_phrase, visits

EXAMPLE = Path(__file__).parents[2] / "docs/proxy/nginx-site.conf"
NGINX = shutil.which("nginx", path="/usr/sbin:/usr/bin:/usr/local/sbin:/usr/local/bin")
PHRASE = "four herons by a weir"


def free_port() -> int:
    with socket.socket() as line:
        line.bind(("127.0.0.1", 0))
        return int(line.getsockname()[1])


class Visitor:
    """A browser that trusts the certificate."""

    def __init__(self, plain: int, tls: int, certificate: Path) -> None:
        self.plain, self.place = plain, f"https://127.0.0.1:{tls}"
        context = ssl.create_default_context(cafile=str(certificate))
        self.jar = CookieJar()
        self.opener = urllib.request.build_opener(
            urllib.request.HTTPSHandler(context=context),
            urllib.request.HTTPCookieProcessor(self.jar),
        )

    def ask(
        self, path: str, data: bytes | None = None, **heads: str
    ) -> tuple[int, str, dict[str, str]]:
        request = urllib.request.Request(
            self.place + path, data=data, headers={k.replace("_", "-"): v for k, v in heads.items()}
        )
        try:
            with self.opener.open(request, timeout=60) as answer:
                return answer.status, answer.read().decode("utf-8", "replace"), dict(answer.headers)
        except urllib.error.HTTPError as error:
            return error.code, error.read().decode("utf-8", "replace"), dict(error.headers)

    def enter(self, **heads: str) -> int:
        token = re.search(r'name="csrf_token" value="([^"]+)"', self.ask("/enter")[1])
        assert token
        body = urllib.parse.urlencode({"phrase": PHRASE, "back": "/", "csrf_token": token[1]})
        return self.ask("/enter", body.encode(), Origin=self.place, **heads)[0]


@pytest.fixture(scope="module")
def folder(tmp_path_factory: pytest.TempPathFactory) -> Path:
    return tmp_path_factory.mktemp("proxy")


@pytest.fixture(scope="module")
def visitor(folder: Path) -> Iterator[Visitor]:
    assert NGINX, "apt-get install nginx-light"
    data = folder / "data"
    pass_phrase.keep(data, PHRASE)
    key, certificate = folder / "key.pem", folder / "certificate.pem"
    openssl = "openssl req -x509 -newkey ec -pkeyopt ec_paramgen_curve:prime256v1 -nodes -days 2 -subj /CN=heron.example -addext subjectAltName=IP:127.0.0.1"
    made = [*openssl.split(), "-keyout", str(key), "-out", str(certificate)]
    subprocess.run(made, check=True, capture_output=True)
    process, app = start(data, "serve", more=("--proxy", "127.0.0.1"))
    plain, tls = free_port(), free_port()
    site = EXAMPLE.read_text(encoding="utf-8")
    for old, new in (
        ("listen 80;", f"listen 127.0.0.1:{plain};"),
        ("listen 443 ssl", f"listen 127.0.0.1:{tls} ssl"),
        ("/etc/ssl/heron.example.pem", str(certificate)),
        ("/etc/ssl/private/heron.example.key", str(key)),
        ("http://127.0.0.1:8080", app.address.rstrip("/")),
    ):
        assert site.count(old) == 1, old
        site = site.replace(old, new)
    paths = "".join(
        f"{kind}_temp_path {folder}/{kind};\n"
        for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    (folder / "nginx.conf").write_text(
        f"daemon off;\npid {folder}/pid;\nerror_log {folder}/error.log;\nevents {{}}\nhttp {{\naccess_log off;\n{paths}{site}}}\n"
    )
    front = subprocess.Popen(
        [NGINX, "-c", str(folder / "nginx.conf"), "-e", str(folder / "error.log")]
    )
    try:
        for _ in range(400):
            with socket.socket() as line:
                if line.connect_ex(("127.0.0.1", tls)) == 0:
                    break
            assert front.poll() is None, (folder / "error.log").read_text()
            time.sleep(0.05)
        yield Visitor(plain, tls, certificate)
    finally:
        front.terminate()
        front.wait()
        stop(process)


def cookie(visitor: Visitor) -> Cookie:
    return next(c for c in visitor.jar if c.name == "session")


def test_one_comes_in_over_the_certificate_alone(visitor: Visitor, folder: Path) -> None:
    status, page, heads = visitor.ask("/")
    assert status == 200
    assert "Pass-phrase" in page, "nobody is inside without it"
    assert heads["Strict-Transport-Security"].startswith("max-age=")
    assert heads["Content-Security-Policy"]
    assert visitor.enter(X_Forwarded_For="6.6.6.6", X_Forwarded_Proto="http") == 200
    assert cookie(visitor).secure
    assert cookie(visitor).has_nonstandard_attr("HttpOnly")
    assert "New build" in visitor.ask("/")[1]
    log = (folder / "data" / visits.FILE).read_text()
    assert "127.0.0.1 came in" in log
    assert "6.6.6.6" not in log, "what a visitor says of himself does not count"


def test_plain_http_is_sent_to_the_certificate(visitor: Visitor) -> None:
    with socket.create_connection(("127.0.0.1", visitor.plain), timeout=20) as line:
        line.sendall(b"GET /builds/x/circuit?part=P1 HTTP/1.0\r\nHost: heron.example\r\n\r\n")
        got = line.makefile("rb").read().decode()
    assert " 308 " in got.splitlines()[0]
    assert "Location: https://heron.example/builds/x/circuit?part=P1" in got


def test_work_goes_through(visitor: Visitor) -> None:
    assert visitor.enter() == 200
    token = re.search(r'name="csrf_token" value="([^"]+)"', visitor.ask("/")[1])
    assert token
    form = urllib.parse.urlencode({"csrf_token": token[1], "name": "V8 450 hp"}).encode()
    status, page, _ = visitor.ask("/builds", form, Origin=visitor.place)
    assert status == 200
    assert "450 hp" in page
    status, _, _ = visitor.ask("/builds", form, Origin="https://elsewhere.example")
    assert status == 403


def test_a_body_that_is_too_large_is_refused_in_words(visitor: Visitor) -> None:
    assert visitor.enter() == 200
    token = re.search(r'name="csrf" content="([^"]+)"', visitor.ask("/")[1])
    assert token
    status, text, _ = visitor.ask(
        "/builds/v8-450-hp/prove/file",
        b"x" * 13_000_000,
        X_CSRFToken=token[1],
        Accept="application/json",
        Origin=visitor.place,
    )
    assert status == 413
    assert "too large" in text or "MB" in text
