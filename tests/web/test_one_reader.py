"""One reader of numbers at the edge: the same text means the same in every field, or is asked about
in every field.
"""

from collections.abc import Callable
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.base.number_text import ANGLE, money_amount, plain_number
from tall_heron.web.forms.brief import FIELDS, GROUPS


def case(post: Any, **fields: str) -> Any:
    return post("/builds/bittern/cases", page="cases", act="add", name="Own", **fields)


# Every field of a page that takes a number without a quantity, as a way to send it a text.
NUMBERS: dict[str, Callable[[Any, str], Any]] = {
    "power": lambda post, t: post(
        "/builds/bittern/brief", page="brief", field="power_kw", text=f"{t} hp"
    ),
    "fuel price": lambda post, t: post("/builds/bittern/price", page="brief", fuel="E70", text=t),
    "item price": lambda post, t: post(
        "/builds/bittern/hoses/act",
        page="hoses",
        view="buy",
        act="price",
        key="own F2",
        title="F2",
        unit="piece",
        price=t,
    ),
    "own price": lambda post, t: post(
        "/shelf", kind="rail", title="Rail", provenance="guessed", bore="14 mm", loss="1", price=t
    ),
    "own K": lambda post, t: post(
        "/shelf", kind="rail", title="Rail 2", provenance="guessed", bore="14 mm", loss=t
    ),
    "speeds up": lambda post, t: case(post, ahead=t),
}
ANGLES: dict[str, Callable[[Any, str], Any]] = {
    "clock": lambda post, t: post(
        "/builds/bittern/hose", page="hoses", hose="H4", field="clock", text=t
    ),
    "pitch": lambda post, t: case(post, pitch=t),
}


@pytest.mark.parametrize("field", NUMBERS)
def test_a_comma_that_may_part_thousands_is_asked_about_in_every_field(
    post: Any, client: FlaskClient, field: str
) -> None:
    answer = NUMBERS[field](post, "1,234")
    assert answer.status_code == 422, (field, answer.json)
    assert "does 1,234 mean 1234 or 1.234" in answer.json["message"].lower().replace(
        "does 1,234", "does 1,234"
    )


@pytest.mark.parametrize("field", ANGLES)
@pytest.mark.parametrize("text", ["12", "12°", "12 deg", "12.5 degrees", "12,5"])
def test_an_angle_is_written_in_every_field_as_in_any_other(
    post: Any, client: FlaskClient, field: str, text: str
) -> None:
    assert ANGLES[field](post, text).status_code == 200, (field, text)


@pytest.mark.parametrize("field", ANGLES)
def test_the_minus_that_the_application_prints_is_read_in_every_angle(
    post: Any, client: FlaskClient, field: str
) -> None:
    """A clock below zero is refused for what it is, not for its sign."""
    answer = ANGLES[field](post, "−12")
    assert answer.status_code == 200 or "between 0" in answer.json["message"], answer.json


def test_numbers_angles_and_money_by_hand() -> None:
    assert [plain_number(t) for t in ("1,5", "−2", "+3", "3/4", "1 1/2", "1,234,567")] == [
        1.5,
        -2,
        3,
        0.75,
        1.5,
        1234567,
    ]
    assert [plain_number(t, words=ANGLE) for t in ("-45°", "45 deg", "12.5 Degrees")] == [
        -45,
        45,
        12.5,
    ]
    assert [money_amount(t) for t in ("$12.50", "12,50 EUR", "USD 3", "1.85 $/L", "€ 7")] == [
        12.5,
        12.5,
        3,
        1.85,
        7,
    ]
    for text in ("", "x", "1.2.3", "5 mm", "1e999", "1" * 200, "1,234"):
        with pytest.raises(ValueError, match="Write"):
            plain_number(text)


def test_every_field_of_the_brief_stands_in_one_group() -> None:
    assert sorted(n for names in GROUPS.values() for n in names) == sorted(FIELDS)
