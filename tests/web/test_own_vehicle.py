"""Pictures and drawings of the builder's own vehicle, from upload to a build that is handed on with
them.
"""

import hashlib
import io
import re
import zipfile
from pathlib import Path

import ezdxf
import pytest
from click.testing import CliRunner
from flask.testing import FlaskClient
from PIL import Image
from werkzeug.test import TestResponse

from tall_heron.cli import main
from tall_heron.web.stations.route.drawn_files import MOST_PX

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 450 150"><g transform="translate(0 50)"><path d="M0 100 V0 H450 V100 Z"/></g><circle cx="90" cy="40" r="40"/></svg>'
ON = "/builds/bittern/route"


def dxf(unit: int, long: float) -> bytes:
    """A box so long and a third as high, on a block that is put in once."""
    drawing = ezdxf.new("R2010", units=unit)
    block = drawing.blocks.new("body")
    block.add_lwpolyline([(0, 0), (long, 0), (long, long / 3), (0, long / 3)], close=True)
    drawing.modelspace().add_blockref("body", (120, 40))
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue().encode()


def pdf(*sizes: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    pages = [Image.new("RGB", size, "grey") for size in sizes]
    pages[0].save(out, "PDF", save_all=True, append_images=pages[1:])
    return out.getvalue()


class Sender:
    """Sends files and acts as the page does."""

    def __init__(self, client: FlaskClient) -> None:
        self.client = client
        found = re.search(r'name="csrf" content="([^"]+)"', client.get("/units").text)
        assert found
        self.headers = {"X-CSRFToken": found[1], "Accept": "application/json"}

    def picture(self, data: bytes, page: str = "1") -> TestResponse:
        return self.client.post(
            f"{ON}/picture?page={page}",
            data=data,
            headers=self.headers,
            content_type="application/octet-stream",
        )

    def act(self, act: str, **data: object) -> TestResponse:
        head = re.search(r'data-head="(\d+)"', self.client.get(ON).text)
        assert head
        return self.client.post(
            ON,
            json={"head": int(head[1]), "page": "route", "act": act} | data,
            headers=self.headers,
        )

    def put(self, data: bytes, view: str = "side", page: str = "1") -> dict[str, object]:
        sha = self.picture(data, page).get_json()["sha256"]
        assert self.act("ground", view=view, sha256=sha).status_code == 200
        ground: dict[str, object] = self.client.get("/builds/bittern/build.json").get_json()[
            "space"
        ]["grounds"][view]
        return ground

    def image(self, sha: object) -> Image.Image:
        return Image.open(io.BytesIO(self.client.get(f"{ON}/picture/{sha}").data))


@pytest.fixture
def sender(client: FlaskClient) -> Sender:
    return Sender(client)


@pytest.mark.parametrize(("unit", "long"), [(4, 4500.0), (1, 180.0), (6, 4.4)])
def test_a_dxf_with_a_unit_lies_there_at_its_own_size(
    sender: Sender, unit: int, long: float
) -> None:
    """$INSUNITS 4 millimeters, 1 inches, 6 meters (DXF reference): 4,500 mm, 180 in, 4.4 m."""
    mm = long * {4: 1.0, 1: 25.4, 6: 1000.0}[unit]
    ground = sender.put(dxf(unit, long))
    assert ground["scaled"]
    assert float(str(ground["mm_per_px"])) * float(str(ground["wide_px"])) == pytest.approx(
        mm, rel=0.002
    )
    assert ground["top_mm"] == pytest.approx(mm / 3, rel=0.005)  # its lowest line on the ground


def test_a_dxf_without_a_unit_or_of_no_vehicle_and_an_svg_wait_for_two_clicks(
    sender: Sender,
) -> None:
    for data in (dxf(0, 4500.0), dxf(4, 90.0), SVG):
        assert not sender.put(data)["scaled"]
    svg = sender.image(sender.put(SVG)["sha256"])
    assert svg.size[0] == MOST_PX
    k = MOST_PX / 450
    dark = [
        svg.getpixel((round(x * k), round(y * k)))[0] < 128
        for x, y in ((90, 80), (0, 100), (225, 50), (225, 100))
    ]  # type: ignore[index]
    assert dark == [True, True, True, False]  # foot of the circle, left side, moved top, middle


def test_a_page_of_a_pdf_is_seen_from_the_other_side_and_turned(sender: Sender) -> None:
    assert sender.put(pdf((300, 100), (200, 400)))["wide_px"] == MOST_PX
    tall = sender.put(pdf((300, 100), (200, 400)), page="2")
    assert (tall["wide_px"], tall["high_px"]) == (MOST_PX // 2, MOST_PX)
    left = Image.new("RGB", (80, 40), "white")
    left.paste("black", (0, 0, 10, 10))
    out = io.BytesIO()
    left.save(out, "PNG")
    sender.put(out.getvalue())
    for how, corner in (("mirror", (75, 4)), ("quarter", (36, 75))):
        assert sender.act("turn_ground", view="side", how=how).status_code == 200
        sha = sender.client.get("/builds/bittern/build.json").get_json()["space"]["grounds"][
            "side"
        ]["sha256"]
        seen = sender.image(sha)
        assert seen.convert("L").getpixel(corner) < 128  # type: ignore[operator]


@pytest.mark.parametrize(
    ("data", "page", "says"),
    [
        (b"%PDF-1.4 nothing", "1", "cannot be read"),
        (pdf((30, 30)), "7", "1 page; there is no page 7"),
        (b"<svg></svg>", "1", "No line"),
        (b"<?xml version='1.0'?><!DOCTYPE x [<!ENTITY a 'b'>]><svg/>", "1", "<!doctype>"),
        (SVG.replace(b"<circle", b"<use href='#a'/><circle"), "1", "<use>"),
        (SVG.replace(b'r="40"', b'r="1e308"'), "1", "too large"),
        (b"0\nSECTION\n2\nENTITIES\n", "1", "DXF cannot be read"),
        (b"\x89PNG\r\n\x1a\nbroken", "1", "is broken"),
        (b"\x00" * 50, "1", "A picture is wanted"),
        (b"", "1", "empty"),
        (SVG + b" " * 2_000_000, "1", "up to 2 MB"),
    ],
)
def test_what_cannot_be_shown_is_refused_in_words(
    sender: Sender, data: bytes, page: str, says: str
) -> None:
    answer = sender.picture(data, page)
    assert answer.status_code == 422
    assert says in answer.get_json()["message"]


def test_a_zone_is_drawn_from_the_side_and_then_from_above(sender: Sender) -> None:
    assert (
        sender.act(
            "zone_drawn",
            view="side",
            usual="exhaust",
            name="side pipe",
            points=[[900, 400], [2500, 200]],
        ).status_code
        == 200
    )
    assert "side pipe: seen from one side only" in sender.client.get(ON).text
    assert (
        sender.act(
            "zone_drawn",
            view="plan",
            usual="exhaust",
            name="side pipe",
            points=[[2600, -700], [900, -820]],
        ).status_code
        == 200
    )
    assert "seen from one side only" not in sender.client.get(ON).text
    zone = next(
        z
        for z in sender.client.get("/builds/bittern/build.json").get_json()["space"]["zones"]
        if z["name"] == "side pipe"
    )
    assert (zone["kind"], zone["low"], zone["high"], zone["temperature_c"]) == (
        "hot",
        [900, -820, 200],
        [2600, -700, 400],
        300,
    )
    assert (
        "well apart"
        in sender.act(
            "zone_drawn", view="rear", usual="battery", name="", points=[[0, 0], [4, 400]]
        ).get_json()["message"]
    )
    assert (
        sender.act(
            "zone_drawn", view="top", usual="battery", name="", points=[[0, 0], [400, 400]]
        ).status_code
        == 422
    )


def test_a_build_goes_out_with_its_pictures_and_comes_in_again(
    sender: Sender, tmp_path: Path
) -> None:
    ground = sender.put(dxf(4, 4500.0))
    data = sender.client.get("/builds/bittern/build.zip").data
    file = tmp_path / "bittern.zip"
    file.write_bytes(data)
    there = tmp_path / "elsewhere"
    made = CliRunner().invoke(main, ["import", str(file), "--data", str(there)])
    assert made.exit_code == 0, made.output
    kept = list((there / "tall-heron.files").glob("??/*"))
    assert [k.name for k in kept] == [ground["sha256"]]
    again = CliRunner().invoke(
        main,
        ["export", made.output.strip(), "--data", str(there), "--zip", str(tmp_path / "again.zip")],
    )
    assert again.exit_code == 0, again.output
    assert (tmp_path / "again.zip").read_bytes() == data
    token = sender.headers["X-CSRFToken"]
    opened = sender.client.post(
        "/builds", data={"csrf_token": token, "file": (io.BytesIO(data), "bittern.zip")}
    )
    assert opened.status_code == 302
    slug = opened.location.split("/")[2]
    assert sender.client.get(f"/builds/{slug}/route/picture/{ground['sha256']}").status_code == 200


@pytest.mark.parametrize(
    ("spoil", "says"),
    [
        ("name", "not the picture that its name says"),
        ("build", "no build.json"),
        ("cut", "broken"),
        ("picture", "no picture that can be read"),
    ],
)
def test_a_spoilt_zip_is_refused_and_nothing_of_it_kept(
    sender: Sender, spoil: str, says: str
) -> None:
    junk = b"no picture"
    name = {"name": "0" * 64, "picture": hashlib.sha256(junk).hexdigest()}.get(spoil, "")
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as box:
        box.writestr(
            "other.json" if spoil == "build" else "build.json",
            sender.client.get("/builds/bittern/build.json").data,
        )
        if name:
            box.writestr(f"pictures/{name}.jpg", junk)
    data = out.getvalue()[:-30] if spoil == "cut" else out.getvalue()
    before = sender.client.get("/").text.count('class="place')
    refused = sender.client.post(
        "/builds",
        data={"csrf_token": sender.headers["X-CSRFToken"], "file": (io.BytesIO(data), "x.zip")},
    )
    assert refused.status_code == 422
    assert says in refused.text
    assert sender.client.get("/").text.count('class="place') == before
