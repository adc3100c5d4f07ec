"""Prices in the currency that a build asks for."""

from flask import Flask

from tall_heron.core.document.shop import Money
from tall_heron.web.show.text import number

SIGNS = {"USD": "$", "EUR": "€", "GBP": "£", "JPY": "¥"}
CURRENCIES = (
    "USD",
    "EUR",
    "GBP",
    "AUD",
    "CAD",
    "NZD",
    "CHF",
    "SEK",
    "NOK",
    "DKK",
    "PLN",
    "CZK",
    "ZAR",
    "JPY",
)


def priced(value: float | None, money: Money, decimals: int = 2) -> str:
    """A price of the shelf's dollars in a currency, with its sign; a dash where there is none."""
    return "—" if value is None else f"{sign_of(money)}\u00a0{number(value * money.rate, decimals)}"


def amount(value: float | None, money: Money) -> str:
    """A price of the shelf's dollars in a currency, without its sign; a dash where there is none."""
    return "—" if value is None else number(value * money.rate, 2)


def typed_price(value: float | None, money: Money, none: str = "") -> str:
    """The same as it stands in a field; `none` where there is no price."""
    return none if value is None else f"{value * money.rate:.2f}"


def sign_of(money: Money) -> str:
    """How a currency is written: by its sign where it is its own, else by its letters."""
    return SIGNS.get(money.currency, money.currency)


def register(app: Flask) -> None:
    """Make these known to the templates."""
    app.jinja_env.filters.update(priced=priced, amount=amount, typed_price=typed_price)
    app.jinja_env.globals.update(sign_of=sign_of, CURRENCIES=CURRENCIES)
