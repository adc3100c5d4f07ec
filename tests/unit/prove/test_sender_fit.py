"""A sender as poured: never turning back for any readings, read back within the resolution it
states; the divider's worked numbers.
"""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tall_heron.core.document.wiring import Sender
from tall_heron.core.electrics.sender import divided
from tall_heron.core.prove.sender_fit import fit_sender, ohms

LITRE = 1e-3
readings = st.lists(
    st.tuples(
        st.integers(0, 80).map(lambda x: x * LITRE), st.floats(0, 1000).map(lambda x: round(x, 1))
    ),
    min_size=3,
    max_size=20,
)


def test_the_divider_by_ohms_law() -> None:
    """240 to 33 ohm pulled up by 100 ohm to 5 V: 5 x 240 / 340 = 3.529 V and 5 x 33 / 133 = 1.241
    V.
    """
    assert divided(240, 100, 5) == pytest.approx(3.529, abs=5e-4)
    assert divided(33, 100, 5) == pytest.approx(1.241, abs=5e-4)
    assert ohms(3.529411765, Sender()) == pytest.approx(240)


@given(readings)
def test_it_never_turns_back_and_is_read_back_within_what_it_states(
    rows: list[tuple[float, float]],
) -> None:
    if len({v for v, _ in rows}) < 3:
        with pytest.raises(ValueError, match="make no curve"):
            fit_sender(rows, Sender())
        return
    sender = Sender(bits=12, pull_up_ohm=150)
    fit = fit_sender(rows, sender)
    steps = [b - a for a, b in zip(fit.curve[1], fit.curve[1][1:], strict=False)]
    assert all(x >= -1e-9 for x in steps) or all(x <= 1e-9 for x in steps)
    count_v = sender.range_v / 2**sender.bits
    for mark in fit.table:
        seen = (mark.count + 0.5) * count_v  # the middle of the count that the converter says
        back = fit.volume_at(ohms(min(seen, 0.9999 * sender.supply_v), sender))
        assert (
            abs(back - mark.volume)
            <= mark.step + 0.02 * LITRE + (fit.volumes[-1] - fit.volumes[0]) / 500
        )


def test_marks_line_and_what_is_wrong() -> None:
    poured = [(2.1, 238), (10, 222), (20, 183), (30, 138), (40, 95), (50, 52), (57, 24)]
    fit = fit_sender([(v * LITRE, o) for v, o in poured], Sender(reserve=0.15), 2.1 * LITRE)
    assert fit.unusable.volume == pytest.approx(2.1 * LITRE)
    assert fit.reserve.volume == pytest.approx((2.1 + 0.15 * (57 - 2.1)) * LITRE)
    assert fit.ohm_at(10 * LITRE) == pytest.approx(222)
    # Between 10 and 20 L a straight line from 238 to 24 ohm reads 222 at 2.1 + (238 - 222) / (238 -
    # 24) * 54.9 = 6.2 L: low by 3.8 L there, by a little more beyond.
    assert -5 * LITRE < fit.line_off < -3.8 * LITRE
    assert not fit.troubles
    odd = fit_sender([(v * LITRE, o) for v, o in [*poured, (45, 120)]], Sender())
    assert "reverses" in odd.troubles[0]
    assert (
        "the same empty and full"
        in fit_sender([(v * LITRE, 100.0) for v in (0, 10, 20)], Sender()).troubles[0]
    )
    # Straight from 240 to 40 ohm over 50 L, 10 bits of 5 V: at 140 ohm a count is 5/1024 V over 4
    # ohm/L x 5 x 100 / 240^2 V/ohm, 0.141 L.
    straight = fit_sender([(v * LITRE, 240 - 4.0 * v) for v in (0, 10, 20, 30, 40, 50)], Sender())
    assert straight.table[5].ohm == pytest.approx(140)
    assert straight.table[5].step == pytest.approx(
        5 / 1024 / (4 * 5 * 100 / 240**2) * LITRE, rel=0.1
    )
    assert straight.line_off == pytest.approx(0, abs=1e-6)
    twice = fit_sender(
        [(0, 200), (10 * LITRE, 150), (10 * LITRE, 154), (20 * LITRE, 100)], Sender()
    )
    assert twice.ohm_at(10 * LITRE) == pytest.approx(152)
