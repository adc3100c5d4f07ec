"""Station 8 over HTTP: readings judged and kept, signatures that hold, files given back as nothing
but what they are, runs and streams.
"""

import hashlib
import io
import json
import random
import re
import shutil
import sqlite3
import time
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from icalendar import Calendar
from PIL import Image

from tall_heron.core.design import design
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.prove.car import Noise, drive_text
from tall_heron.core.prove.faults import Fault
from tall_heron.store import logs
from tall_heron.web import create_app

ON = "/builds/bittern/prove"


def act(post: Any, **data: Any) -> Any:
    return post(f"{ON}/act", page="prove", part=data.get("proof", ""), **data)


def raw(client: FlaskClient, path: str, data: bytes) -> Any:
    token = re.search(r'name="csrf" content="([^"]+)"', client.get("/units").text)
    assert token
    return client.post(
        path,
        data=data,
        headers={
            "X-CSRFToken": token.group(1),
            "Accept": "application/json",
            "Content-Type": "application/octet-stream",
        },
    )


def test_a_reading_is_judged_at_what_was_told_and_kept(post: Any, client: FlaskClient) -> None:
    answer = act(
        post,
        act="read",
        proof="flow P1",
        against="4 bar",
        volts="13.4 V",
        celsius="64 F",
        value="2 gal in 97 s",
        by="me",
    )
    assert answer.status_code == 200, answer.json
    card = answer.json["pieces"]["prove-card"]
    assert "7.571 L ÷ 97.0 s × 3,600 = 281.0 L/h" in card
    assert "13.4 V at the pump, 18 °C" in card
    log = client.get(f"{ON}/log").text
    assert "12 entries" in log
    assert "281 L/h at 58.0 psi" in log
    for data, field, says in (
        ({"value": ""}, "value", "Write what was read"),
        ({"value": "3 quarts in 1 s"}, "value", "not a unit known"),
        ({"value": "88", "volts": "900 V"}, "volts", "cannot be here"),
        ({"value": "88", "against": "5 furlongs"}, "against", "not a unit known"),
        ({"value": "88", "instrument": "nose"}, "instrument", "one of the instruments"),
        ({"value": "88", "files": '[{"sha256": "x"}]'}, "files", "attach it again"),
        ({"value": "88", "proof": "flow P9"}, "act", "no such test"),
        ({"value": "1e300 L in 1 s"}, "value", "look at its unit"),
        ({"value": "88", "doubt": "1e300 %"}, "doubt", "Nothing is as unsure"),
        ({"value": "-200 psi", "proof": "base"}, "value", "less than nothing"),
        (
            {"act": "match", "proof": "match", "flows": "1e308 1 1"},
            "flows",
            "in order of the cylinders",
        ),
        (
            {"act": "pours", "proof": "sender S1", "steps": "1e300 L; 3\n2 L; 4\n5 L; 7"},
            "steps",
            "Line 1: that cannot be in a tank",
        ),
        ({"act": "upkeep", "item": "ties", "day": "0001-01-01"}, "day", "long before this build"),
    ):
        wrong = act(post, **({"act": "read", "proof": "flow P1"} | data))
        assert (wrong.status_code, wrong.json["field"]) == (422, field)
        assert says in wrong.json["message"]
    assert "12 entries" in client.get(f"{ON}/log").text


def test_corrections_name_what_they_correct(post: Any, client: FlaskClient) -> None:
    assert act(post, act="correct", corrects="6", because="x").json["field"] == "because"
    assert (
        act(
            post, act="correct", corrects="6", because="The can leaked.", value="4.66 L in 60 s"
        ).status_code
        == 200
    )
    log = client.get(f"{ON}/log").text
    assert "corrects entry 6: The can leaked; instead T6" in log
    assert "corrected by entry 12" in log
    again = act(post, act="correct", corrects="6", because="once more")
    assert "was corrected already, by entry 12" in again.json["message"]
    assert act(post, act="correct", corrects="99", because="none such").status_code == 422
    assert act(post, act="correct", corrects="12", because="it did not leak").status_code == 200


def test_one_miss_is_named_with_the_next_reading(client: FlaskClient) -> None:
    page = client.get(f"{ON}/causes").json["piece"]
    assert "Likely: P2 is worn" in page
    assert "gives 82 % of its flow" in page
    assert "Next:" in page
    sound = client.get("/builds/egret/prove/causes").json["piece"]
    assert "Nothing speaks against the build" in sound


def signed(path: Path) -> Any:
    return closing(sqlite3.connect(path))


def test_a_signed_build_never_changes_and_forks(
    post: Any, client: FlaskClient, tmp_path: Path
) -> None:
    page = client.get("/builds/egret/prove").text
    assert "signed 18 Oct 2026" in page
    assert "L. Quill" in page
    head = int(re.search(r'data-head="(\d+)"', page)[1])  # type: ignore[index]
    refused = post("/builds/egret/brief", field="power_kw", text="170 hp", head=head)
    assert refused.status_code == 422
    assert "signed on 2026-10-18 and stays as it is" in refused.json["message"]
    assert "stays as it is" in post("/builds/egret/undo", head=head).json["message"]
    for statement in (
        "UPDATE build SET head = 1 WHERE slug = 'egret'",
        "INSERT INTO revision (build, parent, act, at, document, sha256) SELECT id, head, 'x', '', '{}', '' FROM build WHERE slug = 'egret'",
        "DELETE FROM build WHERE slug = 'egret'",
        "UPDATE entry SET text = '{}'",
        "DELETE FROM entry",
        "INSERT INTO entry (build, number, at, kind, text, before, sha256) VALUES (1, 99, '', 'note', '{}', '', 'x')",
        "INSERT OR REPLACE INTO entry (id, build, number, at, kind, text, before, sha256) SELECT id, build, number, at, kind, '{}', before, sha256 FROM entry WHERE number = 1",
        "INSERT OR REPLACE INTO frozen (sha256, text) SELECT sha256, '{}' FROM frozen LIMIT 1",
        "INSERT OR REPLACE INTO attachment (sha256, media, size, at) SELECT sha256, 'text/html', size, at FROM attachment LIMIT 1",
        "INSERT OR REPLACE INTO revision (id, build, act, at, document, sha256) SELECT head, 1, 'x', '', '{}', '' FROM build WHERE slug = 'egret'",
        "INSERT OR REPLACE INTO build (id, slug, head, made_at) SELECT id, slug, 1, made_at FROM build WHERE slug = 'egret'",
        "UPDATE frozen SET text = '{}'",
        "DELETE FROM frozen",
        "UPDATE attachment SET media = 'text/html'",
        "DELETE FROM attachment",
    ):
        with (
            signed(tmp_path / "demo.sqlite") as raw_connection,
            pytest.raises(sqlite3.IntegrityError),
        ):
            raw_connection.execute(statement)
    token = re.search(
        r'name="csrf_token" value="([^"]+)"', client.get("/builds/egret/history").text
    )
    assert token
    forked = client.post(
        "/builds/egret/variant", data={"csrf_token": token[1], "name": "Egret, spring"}
    )
    assert forked.status_code == 302
    page = client.get("/builds/egret-spring/prove").text
    assert "signed" not in page.partition("Sign-off")[0]


def test_a_copied_and_altered_database_gives_itself_away(
    client: FlaskClient, tmp_path: Path, demo_database: Path
) -> None:
    """Whoever opens the file can drop the triggers; the hashes tell what was changed, and no other
    page suffers.
    """
    for name, statement, says in (
        (
            "text",
            "UPDATE entry SET text = replace(text, 'within', 'off') WHERE number = 2",
            "entry 2 is not what was kept",
        ),
        ("gone", "DELETE FROM entry WHERE number = 3", "entry 3 is missing"),
        (
            "swapped",
            "UPDATE build SET head = (SELECT head FROM build WHERE slug = 'curlew') WHERE slug = 'egret'",
            "not the one that was signed",
        ),
        ("frozen", "UPDATE frozen SET text = text || ' '", "not what was signed"),
    ):
        copy = tmp_path / f"{name}.sqlite"
        shutil.copyfile(demo_database, copy)
        with signed(copy) as connection:
            for trigger in [
                r[0]
                for r in connection.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
            ]:
                connection.execute(f"DROP TRIGGER {trigger}")
            connection.execute(statement)
            connection.commit()
        app = create_app(copy)
        other = app.test_client()
        assert says in other.get("/builds/egret/prove/record.json").text, name
        assert other.get("/").status_code == 200
        assert other.get("/builds/egret/circuit").status_code == 200
        assert other.get("/builds/curlew/prove").status_code == 200
        app.extensions["connections"].close()


def test_signing_says_what_stands_in_the_way(post: Any, client: FlaskClient) -> None:
    blunt = act(post, act="sign", name="M. Arden")
    assert (blunt.status_code, blunt.json["field"]) == (422, "although")
    assert "1 tests to look at and 12 not run" in blunt.json["message"]
    assert act(post, act="sign", name="x").json["field"] == "name"
    assert act(post, act="sign", name="M. Arden", although="y", head=999).status_code == 409
    said = {"act": "sign", "name": "M. Arden", "although": "Goes to the dyno with P2 under watch."}
    against = [
        f
        for f in design(demo_builds(wired=True)["bittern"]).every_finding
        if f.level in ("Stop", "Check")
    ]
    assert {f.station for f in against} >= {"circuit", "cases", "route"}
    reasons = {
        f"reason {f.rule} {f.element_id}".strip(): f"{f.rule} is looked at on the dyno"
        for f in against
    }
    for i, key in enumerate(reasons):  # one after another: the first that has none is named
        refused = act(post, **said, **dict(list(reasons.items())[:i]))
        assert (refused.status_code, refused.json["field"]) == (422, key)
    card = client.get(ON).text
    assert all(f'name="{key}"' in card for key in reasons)
    done = act(post, **said, **reasons)
    assert done.status_code == 200
    assert (
        act(post, act="sign", name="m. arden", role="checked by", although="y").json["field"]
        == "name"
    )  # nobody checks his own work
    record = client.get(f"{ON}/record").text
    assert "Although: Goes to the dyno" in record
    assert "Stood: T6" in record
    assert all(
        f"Stood: {f.level} {f.rule}: " in record and f"{f.rule} is looked at on the dyno" in record
        for f in against
    )
    whole = client.get(f"{ON}/record.json").json
    last = json.loads(whole["entries"][-1]["text"])
    assert {last["build"], last["solution"]} == set(whole["frozen"])
    assert all(
        hashlib.sha256(text.encode()).hexdigest() == name for name, text in whole["frozen"].items()
    )
    assert last["last"] == whole["entries"][-2]["sha256"]


def picture(kind: str, size: tuple[int, int] = (8, 8)) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", size, (200, 120, 40)).save(out, kind)
    return out.getvalue()


def hostile(rnd: random.Random) -> tuple[str, bytes]:
    """A file that would like to be something else."""
    script = b"<script>alert(1)</script>"
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" onload="alert(1)"/>'
    pictures = [picture(kind) for kind in ("PNG", "JPEG", "WEBP", "GIF", "BMP")]
    others = [
        b"%PDF-1.4\n1 0 obj\n%%EOF",
        svg,
        b"<html>" + script,
        b"MZ\x90\0",
        b"PK\x03\x04",
        b"\x7fELF",
        b"#!/bin/sh\nrm -rf /\n",
        b"GIF89a" + script,
    ]
    base = rnd.choice(
        [*pictures, *others, b"t;rail\n1;2\n", "ünö".encode(), b"\xff\xd8\xff" + script, b""]
    )
    what = rnd.randrange(6)
    if what == 0:
        base += script
    elif what == 1:
        base = script + base
    elif what == 2 and base:
        cut = rnd.randrange(len(base))
        base = base[:cut] + bytes([rnd.randrange(256)]) + base[cut + 1 :]
    elif what == 3:
        base = base[: rnd.randrange(len(base) + 1)]
    elif what == 4:
        base = base + b"\0" * rnd.randrange(50)
    name = rnd.choice(
        [
            "a.png",
            "a.html",
            "../../etc/passwd",
            "a.svg",
            "x" * 300 + ".jpg",
            'q".exe',
            "a\r\nX-Bad: 1.png",
            "",
            "<b>.pdf",
            "a.png.js",
            "наклейка.txt",
            "CON",
        ]
    )
    return name, base


def test_two_hundred_hostile_files_are_refused_or_given_back_as_what_they_are(
    post: Any, client: FlaskClient
) -> None:
    allowed = {
        "image/png": b"\x89PNG",
        "image/jpeg": b"\xff\xd8",
        "image/webp": b"RIFF",
        "application/pdf": b"%PDF-",
        "text/plain": b"",
    }
    taken, files = 0, []
    for seed in range(200):
        name, data = hostile(random.Random(seed))
        answer = raw(client, f"{ON}/file", data)
        if answer.status_code == 422:
            assert answer.json["field"] == "files"
            assert answer.json["message"]
            continue
        assert answer.status_code == 200, (seed, answer.status_code)
        taken += 1
        files.append({"name": name, "sha256": answer.json["sha256"]})
        if not answer.json["media"].startswith("image/"):
            assert answer.json["sha256"] == hashlib.sha256(data).hexdigest()
    assert 30 < taken < 190
    for i in range(0, len(files), 20):
        assert (
            act(post, act="note", note="files", files=json.dumps(files[i : i + 20])).status_code
            == 200
        )
    for f in files:
        answer = client.get(f"{ON}/files/{f['sha256']}")
        kind = answer.headers["Content-Type"].split(";")[0]
        assert kind in allowed
        assert answer.data.startswith(allowed[kind])
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        assert answer.headers["Content-Security-Policy"].startswith("default-src 'none'; sandbox")
        how = answer.headers["Content-Disposition"]
        assert how.startswith("inline" if kind.startswith("image/") else "attachment")
        assert re.fullmatch(
            r"(inline|attachment); filename=[A-Za-z0-9_\-]+\.(png|jpg|webp|pdf|txt)", how
        ), how
    page = client.get(f"{ON}/log").text
    assert "<b>.pdf" not in page
    assert "&lt;b&gt;.pdf" in page
    # A file of one build is not a file of another, and one that was changed on the disk is not
    # given out.
    assert client.get(f"/builds/curlew/prove/files/{files[0]['sha256']}").status_code == 404
    assert client.get(f"{ON}/files/{'0' * 64}").status_code == 404
    assert client.get(f"{ON}/files/..%2f..%2fdemo.key").status_code == 404


def test_a_photograph_is_kept_upright_smaller_and_without_its_place(
    client: FlaskClient, tmp_path: Path
) -> None:
    """Exif 2.32: tag 274 orientation, 6 is a quarter to the right; tag 34853 is the place."""
    exif = Image.Exif()
    exif[274], exif[34853] = 6, {1: "N", 2: (46.0, 57.0, 0.0)}
    out = io.BytesIO()
    Image.new("RGB", (4000, 2000), "teal").save(out, "JPEG", exif=exif, comment=b"by me")
    sent = raw(client, f"{ON}/file", out.getvalue())
    data = logs.file_data(tmp_path / "demo.sqlite", sent.json["sha256"])
    assert data is not None
    with Image.open(io.BytesIO(data)) as kept:
        assert kept.size == (1500, 3000)
        assert not kept.getexif()
        assert "comment" not in kept.info
    huge = io.BytesIO()
    Image.new("1", (9000, 9000)).save(huge, "PNG")
    refused = raw(client, f"{ON}/file", huge.getvalue())
    assert refused.status_code == 422
    assert "81 million pixels; up to 25" in refused.json["message"]


def test_a_file_that_was_changed_on_the_disk_is_not_given_out(
    post: Any, client: FlaskClient, tmp_path: Path
) -> None:
    sent = raw(client, f"{ON}/file", picture("PNG"))
    sha256 = sent.json["sha256"]
    act(post, act="note", note="a picture", files=json.dumps([{"name": "p.png", "sha256": sha256}]))
    assert client.get(f"{ON}/files/{sha256}").data == picture("PNG")
    place = tmp_path / "demo.files" / sha256[:2] / sha256
    place.write_bytes(picture("PNG", (9, 9)))
    assert client.get(f"{ON}/files/{sha256}").status_code == 409
    assert raw(client, f"{ON}/file", b"x" * 13_000_000).status_code == 413


def test_a_photograph_and_a_long_log_are_taken(client: FlaskClient) -> None:
    """Beyond the megabyte that all other requests may have."""
    out = io.BytesIO()
    Image.frombytes("RGB", (1200, 1000), random.Random(1).randbytes(3_600_000)).save(out, "PNG")
    assert len(out.getvalue()) > 3_000_000
    assert raw(client, f"{ON}/file", out.getvalue()).json["media"] == "image/png"
    long = "time (s),rpm,rail (kPa)\n" + "".join(
        f"{i / 50:.2f},3000,{400 + i % 7}\n" for i in range(120_000)
    )
    assert len(long) > 1_500_000
    assert raw(client, f"{ON}/log", long.encode()).status_code == 200
    assert (
        client.post(
            "/builds/bittern/brief", data="x" * 1_200_000, content_type="application/json"
        ).status_code
        == 413
    )


def replayed(post: Any, client: FlaskClient, text: str) -> tuple[str, Any]:
    sent = raw(client, f"{ON}/log", text.encode())
    assert sent.status_code == 200, sent.json
    begun = post(f"{ON}/replay", sha256=sent.json["sha256"])
    for _ in range(300):
        how = client.get(
            f"{ON}/jobs/{begun.json['job']}", headers={"Accept": "application/json"}
        ).json
        if how["over"]:
            return sent.json["sha256"], how
        time.sleep(0.1)
    raise AssertionError("it never ended")


def test_a_run_is_replayed_shown_and_kept(post: Any, client: FlaskClient) -> None:
    text = drive_text(demo_builds(wired=True)["bittern"], Fault("reference", "PR", 0.5), 3, Noise())
    sha256, how = replayed(post, client, text)
    assert how["done"]
    assert how["share"] == 1.0
    page = client.get(f"{ON}/replay?file={sha256}&name=third").text
    assert "Likely: the reference of PR is off or leaks" in page
    assert "What it cannot tell" in page
    lines = client.get(f"{ON}/replay.json?file={sha256}").json
    assert [c["title"] for c in lines["charts"]][:2] == ["Rail", "Rail over manifold"]
    assert len(lines["x"]) == len(lines["charts"][0]["series"][0]["values"]) <= 1500
    part = client.get(f"{ON}/replay.json?file={sha256}&from=10&to=12").json
    assert part["x"][0] >= 10
    assert part["x"][-1] <= 12
    kept = post(f"{ON}/keep-run", sha256=sha256, name="third", page="prove")
    assert kept.status_code == 200
    assert "run “third”" in client.get(f"{ON}/log").text
    assert "tests in, 2 to look at" in client.get(ON).text


def test_columns_are_asked_once_and_remembered(post: Any, client: FlaskClient) -> None:
    lines = [
        "Zeit;Kraftstoffdruck;MAP;Drehzahl",
        *(
            f"{i / 10:.1f};{4.0 + (i % 3) / 100:.2f};{0.5 + i / 400:.3f};{2000 + i}".replace(
                ".", ","
            )
            for i in range(200)
        ),
    ]
    sent = raw(client, f"{ON}/log", "\n".join(lines).encode())
    assert sent.json["asks"]
    asks = {c["header"]: c["asks"] for c in sent.json["columns"]}
    assert asks["Kraftstoffdruck"] == ["unit"]
    assert asks["MAP"] == ["unit", "from"]
    told = [
        {"header": "Zeit", "key": "time", "unit": "s", "counts": ""},
        {"header": "Kraftstoffdruck", "key": "rail", "unit": "bar", "counts": "gauge"},
    ]
    told += [
        {"header": "MAP", "key": "manifold", "unit": "bar", "counts": "absolute"},
        {"header": "Drehzahl", "key": "rpm", "unit": "rpm", "counts": ""},
    ]
    bad = [
        *told[:1],
        {"header": "Kraftstoffdruck", "key": "rail", "unit": "furlong", "counts": "gauge"},
    ]
    assert (
        "in which unit"
        in post(f"{ON}/columns", sha256=sent.json["sha256"], columns=bad).json["message"]
    )
    assert post(f"{ON}/columns", sha256=sent.json["sha256"], columns=told).status_code == 200
    again = raw(client, f"{ON}/log", "\n".join([*lines, "20,1;4,0;0,9;2500"]).encode())
    assert not again.json["asks"]
    refused = raw(client, f"{ON}/log", b"a;b\n1;2\n")
    assert refused.json["field"] == "log"
    assert "Line 1, column 1" in refused.json["message"]


def test_a_replay_can_be_stopped(post: Any, client: FlaskClient) -> None:
    text = drive_text(demo_builds(wired=True)["bittern"], Fault("none"), 8)
    sent = raw(client, f"{ON}/log", text.encode())
    begun = post(f"{ON}/replay", sha256=sent.json["sha256"]).json["job"]
    post(f"{ON}/jobs/{begun}/stop")
    for _ in range(200):
        how = client.get(f"{ON}/jobs/{begun}").json
        if how["over"]:
            break
        time.sleep(0.05)
    assert how["over"]
    assert how["stopped"]
    assert not how["done"]


def test_the_stand_ins_stream_and_write_files(client: FlaskClient) -> None:
    stream = client.get(f"{ON}/stream?fault=reference PR&seed=4&speed=10", buffered=False)
    assert stream.mimetype == "text/event-stream"
    seen, rows = b"", 0
    for piece in stream.response:
        seen += piece if isinstance(piece, bytes) else piece.encode()
        rows = seen.count(b"event: rows")
        if b"event: cause" in seen:
            break
    stream.close()
    assert seen.startswith(b"event: begins")
    assert rows >= 1
    cause = json.loads(re.findall(r"event: cause\ndata: (.*)\n", seen.decode())[-1])
    assert {"sure", "found", "words"} <= set(cause)
    text = client.get(f"{ON}/car.csv?seed=4").text
    assert text.splitlines()[0].startswith("time (s),engine speed (rpm)")
    assert len(text.splitlines()) > 500
    rig = client.get(f"{ON}/rig.csv?pump=P1").text
    assert rig.startswith("time (s),pressure (kPa)")
    assert client.get(f"{ON}/rig.csv?pump=F2").status_code == 404


def test_rig_injectors_and_sender_go_into_the_build(post: Any, client: FlaskClient) -> None:
    rig = client.get(f"{ON}/rig.csv?pump=P1&fault=worn").text
    looked = post(f"{ON}/rig", pump="P1", text=rig).json
    assert len(looked["points"]) == 8
    assert post(f"{ON}/rig", pump="P1", text="x").json["field"] == "text"
    assert (
        post(f"{ON}/rig", pump="P1", text=rig, way="use", page="prove", view="rig").status_code
        == 200
    )
    element = next(
        e
        for e in client.get("/builds/bittern/build.json").json["circuit"]["elements"]
        if e["id"] == "P1"
    )
    assert element["properties"]["provenance"] == "measured"
    assert "as measured" in element["title"]
    assert "measured on the rig" in client.get(f"{ON}/log").text
    assert act(post, act="match", proof="match", flows="150 149 nine").json["field"] == "flows"
    assert act(post, act="match", proof="match", flows="150 149 151 150 144 150").status_code == 200
    assert post(f"{ON}/use", what="spread", page="prove").status_code == 200
    injectors = next(
        e
        for e in client.get("/builds/bittern/build.json").json["circuit"]["elements"]
        if e["kind"] == "injectors"
    )
    assert injectors["properties"]["flow_tolerance"] == pytest.approx(1 - 144 / 149, abs=1e-4)
    steps = "2 L; 238\n10 L; 222\n20 L; 183\n40 L; 95\n60; 24"
    for wrong, says in (
        ("2 L 238", "Line 1: write what is in the tank"),
        ("1 L; 2", "make no curve"),
        ("1 parsec; 3\n2 L; 4\n3 L; 5", "not a unit known"),
    ):
        assert says in act(post, act="pours", proof="sender S1", steps=wrong).json["message"]
    assert act(post, act="pours", proof="sender S1", steps=steps, unusable="2 L").status_code == 200
    assert post(f"{ON}/use", what="sender", tank="S1", page="prove").status_code == 200
    assert client.get("/builds/bittern/build.json").json["wiring"]["sender"]["empty_ohm"] == 238
    table = client.get(f"{ON}/sender.csv?tank=S1").text.splitlines()
    assert table[0] == "litres,percent,ohm,volt,count,litres_per_count"
    assert len(table) == 12
    assert client.get(f"{ON}/sender.csv?tank=S9").status_code == 404


def test_upkeep_is_kept_and_goes_out_as_a_calendar(post: Any, client: FlaskClient) -> None:
    assert (
        "That day has not come"
        in act(post, act="upkeep", item="ties", day="2999-01-01").json["message"]
    )
    assert act(post, act="upkeep", item="ties", day="01.02.2026").json["field"] == "day"
    assert act(post, act="upkeep", item="teeth").status_code == 422
    assert act(post, act="upkeep", item="ties", day="2026-11-20", hours="12.5").status_code == 200
    page = client.get(f"{ON}/upkeep").text
    assert "last 20 Nov 2026" in page
    calendar = Calendar.from_ical(client.get(f"{ON}/upkeep.ics").text)
    events = {str(e["UID"]).partition("@")[0]: e for e in calendar.walk("VEVENT")}
    assert events["bittern-ties"]["DTSTART"].dt.isoformat() == "2027-11-20"
    assert str(events["bittern-prefilter"]["SUMMARY"]).startswith(
        "Bittern: Pre-filter after a change to ethanol"
    )
    assert "overdue: connections after the first heat" in client.get("/").text, "at once"


def test_builds_started_from_a_sentence_have_all_their_pages(client: FlaskClient) -> None:
    started = 0
    for line in (
        "single 0.4 L 40 hp carburetor",
        "V8 1500 hp methanol, 58 psi + 30",
        "two wing tanks, flat four 150 hp, 43.5 psi",
        "high wing 100 hp carburetor gravity",
    ):
        token = re.search(r'name="csrf_token" value="([^"]+)"', client.get("/").text)
        assert token
        made = client.post(
            "/builds",
            data={"csrf_token": token[1], "name": line},
            content_type="multipart/form-data",
        )
        if made.status_code != 302:
            continue  # a line that is not understood is told so, and tested elsewhere
        started += 1
        slug = made.headers["Location"].split("/")[2]
        for page in (
            "",
            "/replay",
            "/live",
            "/sender",
            "/rig",
            "/dyno",
            "/upkeep",
            "/log",
            "/record",
            "/record.json",
            "/causes",
        ):
            answer = client.get(f"/builds/{slug}/prove{page}")
            assert answer.status_code == 200, (line, page)
            assert not re.search(
                r"\b(nan|None|inf)\b",
                re.sub(r"<script.*?</script>|maxlength|<[^>]*>", "", answer.text, flags=re.DOTALL),
            ) or page.endswith("json"), (line, page)
    assert started >= 3
