"""Figures of a line: power, speed, pressures, voltage, temperature, altitude, octane, and numbers
without a unit.
"""

import re

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS, HORSEPOWER, KPA, KW
from tall_heron.core.base.units import parse
from tall_heron.core.document.wish import Question
from tall_heron.core.line.heard import FLYING, Heard
from tall_heron.core.line.tokens import Token

LOW_KPA = 103.4  # 15 psi: no injection runs on less
BOOST_KPA = 250.0  # a single pressure under this is the boost of an injected engine with a blower, not its base
CI_FROM, CI_TO = 90, 700  # a bare whole number of these is a size in cubic inches
L_FROM, L_TO = 0.3, 12.0  # and one with a decimal is one in liters
YEARS, SHORT_YEARS = (1900, 2035), (20, 99)  # of a vehicle: 1932 roadster, 32 roadster
ALTITUDE_FROM = 100.0  # m: shorter lengths are of something else


class Figures(Heard):
    """What figures say."""

    def _power(self, pieces: list[Token]) -> None:
        unit = self._of(pieces, "power", "wheel power")
        watts = self._si(pieces, "power", unit, "hp")
        if watts is None:
            return
        when = self._of(pieces, "later")
        means = "power at the crank"
        typed = (
            f"{self._of(pieces, 'number', 'range').value} {unit.value}" if unit is not None else ""  # type: ignore[union-attr]
        )
        if (unit is not None and unit.kind == "wheel power") or self._of(
            pieces, "at wheels"
        ) is not None:
            loss = house_figure("wheel_loss")
            watts /= 1 - loss
            typed = f"{watts / HORSEPOWER:.0f} hp"
            means = f"power at the wheels: {typed} at the crank, {100 * loss:.0f} % lost on the way"
            at_crank = f"{self._of(pieces, 'number', 'range').text} {unit.value if unit is not None else 'hp'}"  # type: ignore[union-attr]
            self._question(
                pieces,
                f"taken as {typed} at the crank, for {100 * loss:.0f} % is lost on the way; press if it is the crank's",
                [at_crank],
            )
        if self._of(pieces, "range") is not None:
            means += ", the most of the two"
        self._keep(
            "later_power_kw" if when is not None else "power_kw",
            float(f"{watts / KW:.9g}"),
            pieces,
            means + (", later" if when is not None else ""),
            typed,
        )

    def _later(self, pieces: list[Token]) -> None:
        unit = re.search(r"kW|PS", self.out.typed.get("power_kw", ""), re.IGNORECASE)
        word = unit[0].lower() if unit is not None else "hp"
        value = parse(f"{self._number_of(pieces):g} {word}", "power", "hp")
        name = "later_power_kw" if self._of(pieces, "later") is not None else "power_kw"
        self._keep(
            name,
            float(f"{value / KW:.9g}"),
            pieces,
            "power wanted later" if name == "later_power_kw" else "power wanted now",
            f"{self._number_of(pieces):g} {word}",
        )

    def _speed(self, pieces: list[Token]) -> None:
        value = self._number_of(pieces)
        if 300 <= value <= 25000:
            self._keep("peak_rpm", value, pieces, "speed at peak power", f"{value:g} rpm")
        else:
            self._ask(
                pieces, "is that a speed? An engine's peak lies between 300 and 25,000 rpm", []
            )

    def _total(self, pieces: list[Token]) -> None:
        plus = next(i for i, t in enumerate(pieces) if t.kind == "plus")
        one, other = pieces[:plus], pieces[plus + 1 :]
        unit = self._of(one, "pressure") or self._of(other, "pressure")
        sides = [("base_kpa", one), ("boost_kpa", other)]
        for name, side in sides:
            kpa = self._si(side, "pressure", self._of(side, "pressure") or unit, "psi")
            if kpa is not None:
                word = (
                    (self._of(side, "pressure") or unit).value  # type: ignore[union-attr]
                    if (self._of(side, "pressure") or unit) is not None
                    else "psi"
                )
                self._pressure_is(
                    name,
                    kpa / KPA,
                    side,
                    f"{self._of(side, 'number', 'range').value} {word}",  # type: ignore[union-attr]
                )

    def _labelled(self, pieces: list[Token]) -> None:
        unit = self._of(pieces, "pressure")
        value = self._si(pieces, "pressure", unit, "psi")
        if value is not None:
            name = "boost_kpa" if self._of(pieces, "boost") is not None else "base_kpa"
            self._pressure_is(
                name,
                value / KPA,
                pieces,
                f"{self._of(pieces, 'number', 'range').value} {unit.value if unit else 'psi'}",  # type: ignore[union-attr]
            )

    def _pair(self, pieces: list[Token]) -> None:
        middle = 1 + next(i for i, t in enumerate(pieces) if t.kind in ("base", "boost"))
        self._labelled(pieces[:middle])
        self._labelled([t for t in pieces[middle:] if t.kind not in ("comma", "filler")])

    def _pressure(self, pieces: list[Token]) -> None:
        value = self._si(pieces, "pressure", self._of(pieces, "pressure"), "psi")
        if value is not None:
            self.pressures.append((value / KPA, f"{pieces[0].value} {pieces[1].value}", pieces))

    def _pressure_is(self, name: str, kpa: float, pieces: list[Token], typed: str) -> None:
        self.boosted |= name == "boost_kpa"
        self._keep(
            name,
            kpa,
            pieces,
            "boost at peak, gauge" if name == "boost_kpa" else "base pressure over the manifold",
            typed,
        )

    def _quantity(self, pieces: list[Token]) -> None:
        unit = pieces[-1]
        quantity, bare, scale, offset, name, means = {
            "voltage": ("voltage", "v", 1.0, 0.0, "voltage_v", "voltage at the pump"),
            "temperature": (
                "temperature",
                "c",
                1.0,
                -CELSIUS,
                "fuel_temperature_c",
                "hottest fuel",
            ),
            "length": ("length", "m", 1.0, 0.0, "altitude_m", "altitude"),
        }[unit.kind]
        value = self._si(pieces, quantity, unit, bare)
        if value is None:
            return
        if name == "altitude_m" and value < ALTITUDE_FROM:
            self._ask(pieces, "a length of what? Lengths of lines are typed at station 6", [])
            return
        number = float(f"{value * scale + offset:.9g}")
        self._keep(name, number, pieces, means, f"{pieces[0].value} {unit.value}")

    def _octane(self, pieces: list[Token]) -> None:
        number = self._of(pieces, "number", "range")
        assert number is not None
        octane = float(number.value)
        guesses = ["100LL", "E0"] if self._flies() else ["E10", "E0"]
        self._ask(
            pieces,
            f"gasoline of {octane:g} octane: octane does not say how much ethanol is in it. {guesses[0]}?",
            guesses,
        )

    def _flies(self) -> bool:
        return self.out.fields.get("use") == "flight"

    def _number(self, pieces: list[Token]) -> None:
        self.bare.append(pieces)

    def _year(self, pieces: list[Token]) -> None:
        """A number before the vehicle it is the year of."""
        if not self._kept_as_year(pieces[0], SHORT_YEARS):
            self.bare.append(pieces)

    def _kept_as_year(self, t: Token, *more: tuple[int, int]) -> bool:
        plain = (
            t.kind == "number"
            and t.text.isdigit()
            and any(low <= int(t.text) <= high for low, high in (YEARS, *more))
        )
        if plain:
            self._piece([t], "a year: kept in your own words", "own")
            self._titled_as(t)
        return plain

    def settle(self) -> None:
        self._settle_pressures()
        if (
            self.out.outline and (self.out.outline in FLYING) != self._flies()
        ):  # a single-seat aircraft is no single seater
            self.out.outline = ""
        for pieces in self.bare:
            self._settle_number(pieces)
        if self.rotors and "displacement_l" in self.out.fields:
            self._settle_rotary()
        if self.boosted and "boost_kpa" not in self.out.fields:
            asks = (
                "by how much? Until it is said, none is counted: as in 58 psi + 22, or 12 psi boost"
            )
            self.out.questions.append(
                Question(
                    text="boosted",
                    asks=asks,
                    guesses=["8 psi boost", "15 psi boost", "22 psi boost"],
                )
            )
        if (
            "feeding" not in self.out.fields
            and "base_kpa" in self.out.fields
            and self.out.fields["base_kpa"] < LOW_KPA
        ):
            self.out.fields["feeding"], self.out.typed["feeding"] = (
                "carburettor",
                self.out.typed["base_kpa"],
            )

    def _settle_rotary(self) -> None:
        """A rotary breathes its displacement each turn, a piston engine half of it: it is taken as
        twice as large. Common practice, and the rule of race classes.
        """
        self.liters = self.out.typed["displacement_l"]
        liters = 2 * self.out.fields["displacement_l"]
        self.out.fields["displacement_l"] = float(f"{liters:.9g}")
        self.out.typed["displacement_l"] = f"{liters:.3g} L"

    def _settle_pressures(self) -> None:
        """Pressures without a word: the base, then the boost; of a boosted engine a single low one
        is the boost, and the larger of two the base.
        """
        bowl = self.out.fields.get("feeding") == "carburettor"
        left = list[tuple[float, str, list[Token]]]()
        for kpa, typed, pieces in self.pressures:
            if not self.boosted and kpa in {x[0] for x in left}:
                self._piece(pieces, "said already")
            else:
                left.append((kpa, typed, pieces))
        if len(left) == 2 and not {"base_kpa", "boost_kpa"} & set(self.out.fields):
            swap = left[0][0] < left[1][0] and not bowl
            for name, (kpa, typed, pieces) in zip(
                ("base_kpa", "boost_kpa"), reversed(left) if swap else left, strict=True
            ):
                self._pressure_is(name, kpa, pieces, typed)
            if swap:
                asks = f"taken as the boost, and {left[1][1]} as the base pressure, for a base under the boost is rare"
                self._question(left[0][2], asks, [f"{left[0][1]} base {left[1][1]} boost"])
            return
        for kpa, typed, pieces in left:
            if (
                "base_kpa" not in self.out.fields
                and self.boosted
                and "boost_kpa" not in self.out.fields
                and not bowl
                and kpa < BOOST_KPA
            ):
                self._pressure_is("boost_kpa", kpa, pieces, typed)
            elif "base_kpa" not in self.out.fields:
                self._pressure_is("base_kpa", kpa, pieces, typed)
            else:
                self._pressure_is("boost_kpa", kpa, pieces, typed)

    def _settle_number(self, pieces: list[Token]) -> None:
        """A number without a unit: a size of engine where the line says its power and no size; else
        it is asked about.
        """
        t = pieces[0]
        value = float(t.value)
        sized, powered = "displacement_l" in self.out.fields, "power_kw" in self.out.fields
        if powered and self._kept_as_year(t):
            return
        whole = value == int(value) and "." not in t.value
        inches, liters = whole and CI_FROM <= value <= CI_TO, not whole and L_FROM <= value <= L_TO
        if t.kind == "number" and not sized and (liters or (inches and powered)):
            typed = f"{t.value} {'ci' if inches else 'l'}"
            self._keep(
                "displacement_l",
                float(f"{parse(typed, 'volume', 'l') * 1000:.9g}"),
                pieces,
                "displacement: cubic inches" if inches else "displacement: liters",
                typed,
            )
            return
        guesses = [f"{t.value} hp"] if whole and 20 <= value <= 4000 and not powered else []
        guesses += [f"{t.value} ci"] if inches and not sized else []
        guesses += (
            [f"{t.value} psi"] if 2 <= value <= 120 and "base_kpa" not in self.out.fields else []
        )
        self._ask(pieces, "a number of what? Write its unit", guesses)
