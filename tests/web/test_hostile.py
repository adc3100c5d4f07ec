"""What no page would send: refused, and nothing falls over."""

import io
import json
import re
from typing import Any

import pytest
from flask.testing import FlaskClient

DEEP = "[" * 1000 + "]" * 1000
ROUTES = [
    "route",
    "route/try",
    "brief",
    "fit",
    "rework",
    "hose",
    "undo",
    "size",
    "layout",
    "accept",
    "price",
    "own-fuel",
    "size/fit",
    "cases",
    "cases/inside",
]
PUMP = {
    "kind": "pump",
    "title": "p",
    "provenance": "sheet",
    "pump_kind": "turbine",
    "mount": "in-tank",
}


def headers(client: FlaskClient) -> dict[str, str]:
    token = re.search(r'name="csrf" content="([^"]+)"', client.get("/builds/bittern/history").text)
    assert token
    return {
        "X-CSRFToken": token[1],
        "Accept": "application/json",
        "Content-Type": "application/json",
    }


@pytest.mark.parametrize(
    "body",
    [
        DEEP,
        f'{{"head": 1, "a": {DEEP}}}',
        '{"head": 9223372036854775808}',
        '{"head": 1e400}',
        '{"head": ' + "9" * 5000 + "}",
        "null",
        "7",
        "",
    ],
    ids=range(8),
)
def test_a_body_no_page_would_send_is_refused(client: FlaskClient, body: str) -> None:
    sent = headers(client)
    for route in ROUTES:
        answer = client.post(f"/builds/bittern/{route}", data=body, headers=sent)
        assert answer.status_code in (400, 422), route
        assert answer.json is not None
        assert answer.json["message"]


@pytest.mark.parametrize(
    "path",
    [
        "/compare?a=" + "9" * 5000 + "&b=bittern",
        "/compare?a=" + "9" * 30 + "&b=1",
        "/builds/" + "9" * 900 + "/circuit",
        "/compare?a=%00&b=%ff",
    ],
)
def test_an_address_that_leads_nowhere_says_so(client: FlaskClient, path: str) -> None:
    assert client.get(path).status_code in (404, 409)


@pytest.mark.parametrize("cell", ["1e999", "9" * 61])
def test_a_cell_of_a_pump_sheet_that_is_no_figure_is_named(post: Any, cell: str) -> None:
    answer = post(
        "/shelf", **PUMP, points=f"flow (L/h); pressure (kPa)\n0; {cell}\n300; 600\n500; 0"
    )
    assert (answer.status_code, answer.json["field"]) == (422, "points")
    assert "Line 2" in answer.json["message"]


@pytest.mark.parametrize(
    "part", [{"properties": {"dash": "x"}}, {"title": "[END]\nx"}, {"runs": "{x} %s"}]
)
def test_a_file_with_odd_words_hurts_no_page(client: FlaskClient, part: dict[str, Any]) -> None:
    document = json.loads(client.get("/builds/bittern/build.json").text)
    hose = next(e for e in document["circuit"]["elements"] if e["kind"] == "hose")
    for key, value in part.items():
        hose[key] = {**hose.get(key, {}), **value} if isinstance(value, dict) else value
    token = re.search(r'name="csrf"[^>]*content="([^"]+)"', client.get("/").text)
    assert token
    answer = client.post(
        "/builds",
        data={
            "csrf_token": token[1],
            "file": (io.BytesIO(json.dumps(document).encode()), "x.json"),
        },
        content_type="multipart/form-data",
    )
    slug = answer.headers["Location"].split("/")[2]
    for page in (
        "brief",
        "circuit",
        "layout",
        "hoses",
        "size",
        "sheet",
        "history",
        "cut-list.csv",
        "circuit.inp",
    ):
        assert client.get(f"/builds/{slug}/{page}").status_code == 200, page
    assert "\n[END]\nx" not in client.get(f"/builds/{slug}/circuit.inp").text
