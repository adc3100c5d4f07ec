"""A logger's file of any kind is read, or refused with its line and column; 300 that are spoilt at
random end in seconds.
"""

import random

import numpy as np
import pytest

from tall_heron.core.prove.log_file import read_log
from tall_heron.core.prove.log_head import WrongLog, lines_of, read_head, text_of

AIR = 101_325.0


def rows(n: int = 40, step: float = 0.1) -> list[tuple[float, ...]]:
    return [(i * step, 3000 + 10 * i, 100 + i, 400 + i, 13.5) for i in range(n)]


def plain(
    head: str = "time (s),rpm,MAP (kPa abs),rail (kPa),volts",
    mark: str = ",",
    comma: bool = False,
    n: int = 40,
) -> str:
    def cell(x: float) -> str:
        return f"{x:.2f}".replace(".", "," if comma else ".")

    return "\r\n".join([head, *(mark.join(cell(x) for x in r) for r in rows(n))]) + "\r\n"


def test_units_in_headers_semicolons_and_decimal_commas() -> None:
    text = plain("Rail [psi];MAP (bar abs);Zeit (ms);Drehzahl;Bordspannung", ";", comma=True)
    head = read_head(text)
    assert [c.key for c in head.columns] == ["rail", "manifold", "time", "rpm", "volts"]
    assert not head.questions
    log = read_log(
        "\n".join(
            [
                "rail [psi];MAP (bar abs);t (ms);rpm",
                *(f"58,0;1,5;{100 * i};3000" for i in range(20)),
            ]
        ),
        read_head("rail [psi];MAP (bar abs);t (ms);rpm\n1;1;1;1"),
        AIR,
    )
    assert log is not None
    # 58 psi by NIST SP 811, 6894.757 Pa each; 1.5 bar absolute over 101.325 kPa
    assert log.figures["rail"] == pytest.approx(58 * 6894.757, rel=1e-6)
    assert log.figures["manifold"] == pytest.approx(150_000 - 101_325)
    assert log.time[-1] == pytest.approx(1.9)
    assert log.rate == pytest.approx(10)


def test_what_is_not_said_is_asked_and_shown_as_a_guess() -> None:
    text = plain("time (s),rpm,MAP (kPa),Fuel P,volts")
    head = read_head(text)
    assert {c.header: c.asks for c in head.questions} == {
        "MAP (kPa)": ("from",),
        "Fuel P": ("unit",),
    }
    told = {
        "MAP (kPa)": ("manifold", "kpa", "gauge"),
        "Fuel P": ("rail", "kpa", "over the manifold"),
    }
    again = read_head(text, told)
    assert not again.questions
    log = read_log(text, again, AIR)
    assert log is not None
    assert log.figures["manifold"][0] == 100_000
    assert log.figures["rail"][0] == 400_000 + 100_000


def test_columns_as_loggers_write_them_are_read_and_those_left_are_named() -> None:
    """Spellings met in loggers' files, common practice; of two that hold one thing the one that
    asks less is read, and nothing is left out without a word.
    """
    head = read_head(
        "log time,Eng RPM,Boost,MAP (kPa abs),Fuel P (psi),Batt V,IAT,Inj DC %,Pump A,Eth %,Longitude,Widget\n"
        + ",".join(["1"] * 12)
    )
    assert {c.header: c.key for c in head.columns if c.key} == {
        "log time": "time",
        "Eng RPM": "rpm",
        "MAP (kPa abs)": "manifold",
        "Fuel P (psi)": "rail",
        "Batt V": "volts",
        "Inj DC %": "duty",
        "Pump A": "amps",
        "Eth %": "ethanol",
    }
    left = {c.header: c.why for c in head.columns if not c.key}
    assert "MAP (kPa abs)" in left["Boost"]
    assert "intake air" in left["IAT"]
    assert left["Widget"] == "not known here"
    assert not head.questions
    told = read_head("time,rpm,Fuel P (psi),X\n1,1,1,1", {"X": ("amps", "a", "")})
    assert told.columns[3].key == "amps"
    spelled = {
        "P_Man (mbar)": "manifold",
        "UB": "volts",
        "VBatt": "volts",
        "IDC1": "duty",
        "Fuel Temp (F)": "fuel_temperature",
        "Acc_Lon (g)": "ahead",
    }
    for spelling, key in spelled.items():
        assert {
            c.header: c.key for c in read_head(f"time;rail (bar);rpm;{spelling}\n1;1;1;1").columns
        }[spelling] == key
    for spelling, key in {
        "n_mot": "rpm",
        "Engine Speed": "rpm",
        "fuel_rail_press (bar)": "rail",
    }.items():
        others = [c for c in ("rail (bar)", "rpm") if c.split(" ")[0] != key]
        assert {c.header: c.key for c in read_head(f"time;{others[0]};{spelling}\n1;1;1").columns}[
            spelling
        ] == key


def test_clocks_gaps_doubles_and_a_cut_off_end() -> None:
    lines = ["time,rail (kPa),rpm"]
    lines += [
        f"{t:.1f},400,3000" for t in (0, 0.1, 0.2, 0.2, 0.3, 0.4, 5.0, 5.1, 5.2, 5.3, 1.0, 1.1, 1.2)
    ] + ["1.3,40"]
    log = read_log("\n".join(lines), read_head("\n".join(lines)), AIR)
    assert log is not None
    assert log.breaks == (5, 9)  # the gap, and the clock that goes back; the double is out
    assert np.all(np.diff(log.time) > 0)
    words = " ".join(log.notes)
    for part in (
        "1 rows of a time that was there already",
        "the clock goes back 1 times",
        "the longest 4.6 s",
        "ends after 2 of 3 cells",
    ):
        assert part in words
    trailing = ["time,rail (kPa),rpm", *(f"{i / 10},400,3000," for i in range(12))]
    kept = read_log("\n".join(trailing), read_head("\n".join(trailing)), AIR)
    assert kept is not None
    assert len(kept.time) == 12  # a mark after the last cell is no cell
    with pytest.raises(WrongLog, match="part the columns with semicolons"):
        read_log(
            "time,rail (kPa),rpm\n" + "0,1,400,3000\n" * 12,
            read_head("time,rail (kPa),rpm\n1,2,3"),
            AIR,
        )
    seconds = range(9 * 3600 + 59 * 60 + 55, 10 * 3600 + 60, 5)  # over a full minute and hour
    stamps = (f"{s // 3600}:{s // 60 % 60:02d}:{s % 60:02d}.5" for s in seconds)
    clock = ["time,rail (kPa),rpm", *(f"{x},400,3000" for x in stamps)]
    found = read_log("\n".join(clock), read_head("\n".join(clock)), AIR)
    assert found is not None
    assert list(found.time) == [5 * i for i in range(len(seconds))]


def test_units_in_a_line_of_their_own_and_remarks_before() -> None:
    lines = [
        "Logger 4711",
        "driver: nobody",
        "Time,Engine Speed,Fuel Pressure,Ethanol",
        "s,rpm,bar,%",
        *(f"{i * 0.1:.1f},900,4.0,70" for i in range(15)),
    ]
    head = read_head("\n".join(lines))
    assert (head.line, head.passed) == (3, 1)
    log = read_log("\n".join(lines), head, AIR)
    assert log is not None
    assert log.figures["rail"][3] == pytest.approx(4e5)
    assert log.figures["ethanol"][0] == pytest.approx(0.7)


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "no line of headers"),
        ("a,b\n1,2\n", "no line of headers"),
        ("time,rpm\n" + "1,2\n" * 20, "rail pressure"),
        ("time,rail (kPa)\n" + "1,2\n" * 20, "nothing gives the engine.s demand"),
        ("time,rail (bananas),rpm\n" + "1,2,3\n" * 20, "no unit of rail pressure"),
        ("time,rail (kPa),rail (psi),rpm\n" + "1,2,3,4\n" * 20, "All rows hold the same time"),
        (
            "time,rail (kPa),rpm\n0,400,1\n0.1,abc,1\n"
            + "".join(f"{i},400,1\n" for i in range(1, 20)),
            "Line 3, column 2: “abc”",
        ),
        (
            "time,rail (kPa),rpm\n"
            + "".join(f"{i},400,1\n" for i in range(12))
            + "13,400,1,7,8\n14,400,1\n",
            "Line 14, column 4",
        ),
        (
            "time,rail (kPa),rpm\n"
            + "".join(f"{i},400,1\n" for i in range(12))
            + '13,"400,1\n14,400,1\n',
            "a quoted cell runs on",
        ),
        ("time,rail (kPa),rpm\n" + "1,400,2\n" * 20, "same time"),
        (
            "time,rail (kPa),rpm\n" + "".join(f"{i},{9_000_000},2\n" for i in range(20)),
            "Is it another unit?",
        ),
        ("time,rail (kPa),rpm\n1,2,3\n2,3,4\n", "too few"),
    ],
)
def test_what_cannot_be_read_says_where_and_what_would_be_right(text: str, says: str) -> None:
    with pytest.raises(WrongLog, match=says.replace("(", r"\(").replace("?", r"\?")):
        read_log(text, read_head(text), AIR)


def test_bytes_that_are_no_text() -> None:
    with pytest.raises(WrongLog, match="Line 2, column 1: this is no text"):
        text_of(b"time,rail\n\0\0\0")
    assert "°" in text_of("t,fuel temperature (°C)".encode("latin-1"))
    assert text_of("time;öl".encode("utf-16")) == "time;öl"
    assert "".join(lines_of("a\nb\r\n\nc")) == "a\nb\r\n\nc"


def spoilt(rnd: random.Random) -> bytes:
    """A log with something wrong in it."""
    text = plain(n=rnd.choice((3, 40, 200)))
    for _ in range(rnd.choice((1, 1, 1, 2, 4))):
        i, j = sorted(rnd.randrange(len(text)) for _ in range(2))
        what = rnd.randrange(9)
        junk = rnd.choice(
            (
                "",
                '"',
                ",",
                ";",
                "\n",
                "NaN",
                "1e999",
                "-",
                "∞",
                "\t",
                "=1+1",
                "0x10",
                "9" * 400,
                "é",
                "\u2028",
                "1_000",
                "𝟗",
            )
        )
        if what == 0:
            text = text[:i] + text[j:]
        elif what == 1:
            text = text[:i] + junk + text[i:]
        elif what == 2:
            text = text[:i] + text[i:j] * 2 + text[j:]
        elif what == 3:
            text = text.replace(",", rnd.choice((";", "\t", "|", ",,")))
        elif what == 4:
            lines = text.splitlines()
            rnd.shuffle(lines)
            text = "\n".join(lines)
        elif what == 5:
            text = text.replace("\r\n", rnd.choice(("\r", "\n\n", "\n")))
        elif what == 6:
            text = text.replace(rnd.choice("0123456789."), junk, rnd.randint(1, 30))
        elif what == 7:
            text = junk * rnd.randint(1, 3000) + text
        else:
            text = text[:i] + text[i:j][::-1] + text[j:]
        text = text or "x"
    data = text.encode(rnd.choice(("utf-8", "utf-8", "utf-16", "utf-16-le")), "replace")
    return (
        data
        if rnd.random() < 0.85
        else bytes(rnd.randrange(256) if rnd.random() < 0.01 else b for b in data)
    )


def test_three_hundred_spoilt_logs_are_read_or_refused_with_their_place() -> None:
    read, refused = 0, []
    for seed in range(300):
        data = spoilt(random.Random(seed))
        try:
            text = text_of(data)
            log = read_log(text, read_head(text), AIR)
            assert log is not None
            assert np.isfinite(log.time).all(), seed
            assert np.isfinite(log.figures["rail"]).all(), seed
            assert np.all(np.diff(log.time) > 0), seed
            read += 1
        except WrongLog as wrong:
            refused.append((seed, str(wrong)))
    assert 20 < read < 280, read
    for seed, words in refused:
        assert any(x in words for x in ("Line", "Column", "column", "rows", "time", "byte")), (
            seed,
            words,
        )
