"""Parts of a line: cylinders and their banks, what feeds them, pumps, injectors, tanks, lines and
rails that are there or wanted.
"""

from tall_heron.core.document.wish import MOST_BOWLS, Wish
from tall_heron.core.line.heard import Heard
from tall_heron.core.line.tokens import Token

POTS = ("pot", "can")
TANKS = ("tank", "tanks", "cell", "cells", *POTS)
OTHER_TANKS = ("header", "surge", "swirl", "catch", "collector")  # beside the tank that is filled
MOST_L = 60.0  # no engine is larger
MOST_PUMPS = 3
FLOW = {"lph": 1.0, "gph": 3.785411784, "lpm": 60.0}  # L/h
DOSE_CC = {
    "cc/min": 1.0,
    "cc": 1.0,
    "lb/h": 10.5,
}  # cc/min of gasoline of 0.72 kg/L: common practice


class Parts(Heard):
    """What is said of parts."""

    def _pumps(self, pieces: list[Token]) -> None:
        count, unit = self._count_of(pieces), self._of(pieces, "flow")
        noun, place = self._of(pieces, "pump"), self._of(pieces, "external", "in tank")
        if count is not None and count > MOST_PUMPS:
            cylinders = next((t for t in pieces if t.kind == "count"), None)
            if cylinders is not None and unit is not None:  # turbo four 340 lph pump
                self._count([cylinders])
                pieces = pieces[pieces.index(cylinders) + 1 :]
                count = None
            else:
                self._ask(pieces, "more than three pumps are not laid out here", ["three pumps"])
                return
        if place is not None:
            self.out.layout = self.out.layout or place.value
            self.out.wishes.append(Wish(text=self._span(pieces), kind="layout", value=place.value))
        if unit is not None:
            lph = self._flow_of(pieces, unit)
            if not 5 <= lph <= 5000:
                self._ask(pieces, "no fuel pump gives that: between 5 and 5,000 L/h", [])
                return
            self._wish(
                pieces,
                "pumps",
                f"{count or 1} pump{'s' if (count or 1) > 1 else ''} of {lph:.0f} L/h that you have",
                count=count,
                figure=lph,
                have=True,
            )
        elif count is not None:
            self._wish(
                pieces, "pumps", f"{count} pump{'s' if count > 1 else ''} wanted", count=count
            )
        elif place is not None:
            self._piece(pieces, place.means)
        else:
            self._piece(pieces, noun.means if noun is not None else "a pump", "own")

    def _flow_of(self, pieces: list[Token], unit: Token) -> float:
        return float(pieces[pieces.index(unit) - 1].value) * FLOW[unit.value]

    def _injectors(self, pieces: list[Token]) -> None:
        count, unit = self._count_of(pieces), self._of(pieces, "dose", "volume")
        if unit is None:
            if count is not None and count != self.out.fields.get("cylinders"):
                self._wish(pieces, "injectors", f"{count} injectors wanted", count=count)
            else:
                self._piece(pieces, "injectors", "own")
            return
        cc = float(pieces[pieces.index(unit) - 1].value) * DOSE_CC.get(unit.value, 0.0)
        if not 40 <= cc <= 10_000:
            self._ask(
                pieces,
                "no injector gives that: between 40 and 10,000 cc/min",
                [f"{cc:g} cc/min"] if cc > 0 else [],
            )
            return
        self._wish(
            pieces,
            "injectors",
            f"injectors of {cc:.0f} cc/min that you have",
            count=count,
            figure=cc,
            have=True,
        )

    def _tank(self, pieces: list[Token]) -> None:
        unit = self._of(pieces, "volume")
        noun = self._of(pieces, "tank", "cell")
        if unit is None:
            self._piece(pieces, "the tank as it came", "own")
            return
        at = pieces.index(noun) if noun is not None else 0
        sized = pieces[at:] if at < pieces.index(unit) else pieces  # two wings 60 L each
        value = self._si(sized, "volume", unit, "l")
        if value is None:
            return
        liters = value * 1000
        if not 0.5 <= liters <= 1000:
            self._ask(pieces, "a tank holds between half a liter and 1,000 L", [])
            return
        which = ": US gallons" if unit.text.lower() in ("gal", "gallon", "gallons") else ""
        kind = noun.kind if noun is not None else "tank"
        self._wish(
            pieces,
            "tank",
            f"a {'fuel cell' if kind == 'cell' else 'tank'} of {liters:.0f} L that you have{which}",
            figure=liters,
            value=kind,
            have=True,
        )

    def _tank_beside(self, pieces: list[Token]) -> str:
        """Whose a volume is by what stands beside it: "main" behind a tank (`two wing tanks of
        40 L`; past a comma only with `each` behind it), "other" by a header or a surge tank, or
        empty.
        """
        before, after = self.text[: pieces[0].start].lower(), self.text[pieces[-1].end :].lower()
        words, follow = before.replace(",", " ").split(), after.split()
        while words and words[-1] in ("of", "with", "at", "each"):
            words.pop()
        if follow and follow[0] in OTHER_TANKS:
            return "other"
        if before.rstrip().endswith(",") and follow[:1] != ["each"]:
            return ""
        if words and words[-1] in TANKS:
            small = words[-1] in POTS or (words[-2:-1] and words[-2] in OTHER_TANKS)
            return "other" if small else "main"
        return ""

    def _volume(self, pieces: list[Token]) -> None:
        unit = self._of(pieces, "volume")
        number = self._of(pieces, "number", "range")
        assert unit is not None
        assert number is not None
        value = self._si(pieces, "volume", unit, "l")
        if value is None:
            return
        beside = self._tank_beside(pieces)
        if "," in number.text and value * 1000 > MOST_L:
            written = number.text.replace(",", ".")
            self._ask(
                pieces,
                "a comma as in thousands, or as in 4,2?",
                [f"{float(written):g} {unit.text}"],
            )
        elif unit.value in ("usgal", "impgal") and beside != "other":
            self._wish(
                pieces,
                "tank",
                f"a tank of {value * 1000:.0f} L",
                figure=value * 1000,
                value="tank",
                have=True,
            )
        elif beside == "other":
            self._ask(pieces, "a header or a surge tank is chosen here: change it on Circuit", [])
        elif beside == "main":
            self._tank(pieces)
        elif not 0.02 <= value * 1000 <= MOST_L:
            self._ask(pieces, "an engine holds between 20 cc and 60 L", [])
        elif self.out.fields.get("displacement_l") is not None and value * 1000 > 12:
            self._wish(
                pieces,
                "tank",
                f"a tank of {value * 1000:.0f} L",
                figure=value * 1000,
                value="tank",
                have=True,
            )
        else:
            self._keep(
                "displacement_l",
                float(f"{value * 1000:.9g}"),
                pieces,
                "displacement",
                f"{number.value} {unit.value}"
                if "," in number.text or unit.text.lower() != unit.value
                else "",
            )

    def _lines(self, pieces: list[Token]) -> None:
        dash = self._of(pieces, "dash")
        assert dash is not None
        roles = [t for t in pieces if t.kind in ("feed", "back", "suction", "vent")]
        kinds = [{"back": "return"}.get(t.kind, t.kind) for t in roles] or ["feed", "return"]
        for kind in kinds:
            self.out.wishes.append(
                Wish(text=self._span(pieces), kind=kind, figure=float(dash.value), have=True)
            )
        self._piece(pieces, f"-{int(float(dash.value))} {' and '.join(kinds)}, kept")

    def _rails(self, pieces: list[Token]) -> None:
        count = self._count_of(pieces) or 1
        self._piece(pieces, f"{count} fuel rail{'s' if count > 1 else ''}")
        self.out.banks = self.out.banks or min(count, 2)

    def _bowls(self, pieces: list[Token]) -> None:
        self._keep(
            "feeding", "carburettor", [self._of(pieces, "bowl") or pieces[0]], "fed by a carburetor"
        )
        self._titled_as(pieces[-1])
        self._several_bowls(pieces)

    def _barrels(self, pieces: list[Token]) -> None:
        self._keep("feeding", "carburettor", pieces, "fed by a carburetor")
        for t in pieces:
            self._titled_as(t)
        if len([t for t in pieces if t.kind in ("count", "number")]) > 1:
            self._several_bowls(pieces)

    def _several_bowls(self, pieces: list[Token]) -> None:
        bowl = self._of(pieces, "bowl")
        named = int(bowl.value) if bowl is not None and bowl.value.isdigit() else None  # dual quads
        count = self._count_of(pieces) or named
        if count is not None and count > 1:
            each = "each with a line of its own" if count <= MOST_BOWLS else "their flow together"
            self._wish(
                pieces[:1], "carburetors", f"{count} carburetors, {each}", count=min(count, 48)
            )

    def _tanks(self, pieces: list[Token]) -> None:
        self._piece(pieces, f"{self._count_of(pieces) or 1} tanks", "own")

    def _fineness(self, pieces: list[Token]) -> None:
        self._piece(pieces, pieces[1].means, "own")

    def _cylinders(self, pieces: list[Token]) -> None:
        self._give_way()
        shape = self._of(pieces, "shape", "v twin")
        if shape is not None:
            self.out.banks = (
                2
                if shape.kind == "v twin" or shape.means in "vhw"
                else 1
                if shape.means in "il"
                else self.out.banks
            )
            self._keep("cylinders", int(shape.value), pieces, "cylinders")
            self._titled_as(shape)
            return
        bank, number = self._of(pieces, "banks", "radial"), self._of(pieces, "count", "number")
        assert number is not None
        if bank is not None and bank.kind == "banks":
            self.out.banks = int(bank.value)
        cylinders = float(number.value)
        if cylinders == int(cylinders) and 1 <= cylinders <= 48:
            self._keep("cylinders", int(cylinders), pieces, "cylinders")
            for t in pieces:
                if t.kind in ("banks", "radial", "count", "number", "cylinders"):
                    self._titled_as(t)
        else:
            self._ask(pieces, "an engine has between 1 and 48 cylinders", [])

    def _turbo_and_cylinders(self, pieces: list[Token]) -> None:
        self.boosted = True
        self._titled_as(pieces[0])
        self._piece(pieces[:1], "boosted")
        if pieces[1].value.isdigit() and 2 <= int(pieces[1].value) <= 16:
            self._keep("cylinders", int(float(pieces[1].value)), pieces[1:], "cylinders")
            self._titled_as(pieces[1])
        else:
            self.bare.append(pieces[1:])

    def _count(self, pieces: list[Token]) -> None:
        if "cylinders" in self.out.fields or (
            pieces[0].text.lower() in ("pair", "pair of", "double", "dual", "solo", "one")
        ):
            self._piece(pieces, "kept in your own words", "own")
            return
        self._keep("cylinders", int(pieces[0].value), pieces, "cylinders")
        self._titled_as(pieces[0])
        if pieces[0].value == "2":
            self.counted = pieces

    def _give_way(self) -> None:
        """A two of nothing was taken for the cylinders; what says them stands instead: of a twin V8
        the V8.
        """
        if self.counted:
            del self.out.fields["cylinders"], self.out.typed["cylinders"]
            begins = self.counted[0].start
            self.out.pieces = [p for p in self.out.pieces if p.start != begins]
            self._piece(self.counted, "kept in your own words", "own")
            self.counted = []
