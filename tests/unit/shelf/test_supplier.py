"""Whom a builder buys from: lists read as suppliers head them, the one he named first, nothing made
up for what is his own.
"""

import pytest

from tall_heron.core.shelf.supplier import (
    ASK,
    Market,
    Quote,
    Stocked,
    Supplier,
    read_stock,
    stand_in,
)

LIST = "Part Number;Qty;Lead time (days);Price each\nYard 500;0;21;$240,50\nYard tee;4;;\n"


def test_a_list_is_read_by_its_heads_and_a_fault_names_its_line() -> None:
    assert read_stock(LIST) == (Stocked("Yard 500", 0, 21, 240.5), Stocked("Yard tee", 4))
    wrong = (
        ("a,b\n1,2", "No column says the item"),
        ("item,stock\nx,many", "Line 2: stock is a number"),
        ("item,stock\n,3", "Line 2: an item has a name"),
        ("item,stock\nx,-1", "Line 2"),
        ('item,stock\nx,"1,200"', "Line 2: stock is a number"),  # thousands, or a decimal comma
    )
    for text, says in wrong:
        with pytest.raises(ValueError, match=says):
            read_stock(text)


def test_the_supplier_that_was_named_speaks_first_then_whoever_has_it_soonest() -> None:
    marsh, lane = (
        Supplier(name="Marsh", days=9, currency="EUR", account="TH-22"),
        Supplier(name="Lane", days=3),
    )
    market = Market(
        (marsh, lane),
        {"Marsh": read_stock(LIST), "Lane": (Stocked("yard tee", 1), Stocked("YARD 500", 2))},
        {"own-yard-500": "Marsh", "own-cap": "Marsh", "own-plug": "Nobody known"},
    )
    assert market.quote("own-yard-500", "Yard 500", "parts") == Quote(
        "Marsh", 0, 21, 240.5, "EUR", "TH-22"
    )
    assert market.quote("own-yard-tee", "Yard tee", "parts") == Quote("Lane", 1, 3), (
        "both list it, Lane has it sooner"
    )
    assert market.quote("own-cap", "Cap", "parts") == Quote(
        "Marsh", None, 9, None, "EUR", "TH-22"
    ), "named, and on no list"
    assert market.quote("own-plug", "Plug", "parts") == Quote("Nobody known", None, None), (
        "of whom nobody said any days"
    )
    assert market.quote("own-else", "Else", "parts") == ASK
    assert market.quote("marrow-340", "Marrow 340", "parts") == stand_in("marrow-340", "parts")


def test_the_stand_ins_come_in_by_the_same_door() -> None:
    assert stand_in("teasel-620", "parts").stock == 2
    assert (stand_in("step-8-10", "adapters").stock, stand_in("step-8-10", "adapters").days) == (
        0,
        21,
    )
