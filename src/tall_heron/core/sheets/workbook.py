"""A spreadsheet of everything that is bought and cut (Office Open XML, through openpyxl)."""

import io
from collections.abc import Sequence

from tall_heron.core.base.csv_text import guarded
from tall_heron.core.sheets.buy_list import GROUPS, BuyList
from tall_heron.core.sheets.cut_sheet import HoseJob

BUY_HEAD = (
    "part of the list",
    "item",
    "what",
    "quantity",
    "unit",
    "price each",
    "price",
    "mass kg",
    "have",
    "to pay",
    "for",
    "supplier",
    "in stock",
    "days",
    "note",
)


def buy_rows(bought: BuyList, rate: float = 1.0) -> list[list[str | float | None]]:
    """The buy list as rows below `BUY_HEAD`, the totals last; prices times a rate of exchange,
    quantities of hose and sleeve in meters.
    """
    out: list[list[str | float | None]] = []
    for i in bought.items:
        scale = 1.0 if i.unit == "piece" else 1000.0
        price, pay = (None if x is None else round(x * rate, 2) for x in (i.price, i.price_to_buy))
        each = None if i.each is None else round(i.each * rate, 4)
        amounts = [
            round(i.quantity / scale, 3),
            "piece" if i.unit == "piece" else "m",
            each,
            price,
            None if i.mass_kg is None else round(i.mass_kg, 4),
            round(i.have / scale, 3),
            pay,
        ]
        out.append(
            [
                GROUPS[i.group],
                i.key,
                i.title,
                *amounts,
                ", ".join(i.needed),
                i.quote.supplier or "ask",
                *(None if x is None else float(x) for x in (i.quote.stock, i.quote.days)),
                i.note,
            ]
        )
    price, mass, pay = (
        round(sum(float(r[at] or 0) for r in out), digits)
        for at, digits in ((6, 2), (7, 4), (9, 2))
    )
    note = f"{bought.unpriced} without a price" if bought.unpriced else ""
    return [
        *out,
        ["total", "", "", None, "", None, price, mass, None, pay, "", "", None, None, note],
    ]


def to_workbook(
    name: str, bought: BuyList, rows: Sequence[HoseJob], currency: str, rate: float
) -> bytes:
    """The buy list and the cut list as sheets of one file."""
    from openpyxl import Workbook  # only who asks for a spreadsheet pays for it
    from openpyxl.styles import Font

    book = Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.title = "buy"
    sheet.append([_cell(f"{name}: to buy, prices in {currency}")])
    sheet.append(list(BUY_HEAD))
    for row in buy_rows(bought, rate):
        sheet.append([_cell(v) for v in row])
    cuts = book.create_sheet("cut")
    cuts.append(
        [
            "hose",
            "runs",
            "size",
            "what",
            "cut mm",
            "piece cut from the roll mm",
            "tolerance mm",
            "made",
            "end A deg",
            "end B deg",
            "clocking deg",
            "label",
        ]
    )
    for b in rows:
        e = b.element
        ends = [end.angle_deg if end is not None else None for end in (e.end_a, e.end_b)]
        lengths = [
            None if mm is None else round(mm, 1)
            for mm in (b.cut.cut_mm, b.piece_mm, b.tolerance_mm)
        ]
        cuts.append(
            [
                _cell(v)
                for v in (
                    e.id,
                    e.runs,
                    e.properties.dash,
                    e.title,
                    *lengths,
                    b.made_at,
                    *ends,
                    e.clock_deg,
                    b.label,
                )
            ]
        )
    for page, head in ((sheet, 2), (cuts, 1)):
        for cell in page[head]:
            cell.font = Font(bold=True)
        page.freeze_panes = f"A{head + 1}"
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _cell(value: str | float | None) -> str | float | None:
    """A value that no spreadsheet takes for a formula, without signs that its format cannot hold."""
    return (
        guarded("".join(c for c in value if c >= " " or c == "\n"))
        if isinstance(value, str)
        else value
    )
