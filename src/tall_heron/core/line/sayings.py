"""Words of a line that say something by themselves: fuel, use, craft, layout, how it is fed."""

from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.line.heard import FLYING, Heard
from tall_heron.core.line.tokens import Token

TITLED = {
    "own",
    "use",
    "boosted",
    "plain",
    "banks",
    "radial",
    "rotary",
    "shape",
    "v twin",
    "bowl",
    "injection",
    "cylinders",
    "craft",
    "engines",
}  # what tells what the thing is
HEADERS = {"A4", "A5"}  # layouts whose wings fall to a header


class Sayings(Heard):
    """What words say."""

    def _word(self, pieces: list[Token]) -> None:
        t = pieces[0]
        if t.kind in TITLED:
            self._titled_as(t)
        say = getattr(self, "_say_" + t.kind.replace(" ", "_"), None)
        if say is not None:
            say(pieces, t)
        elif t.kind == "own":
            self._piece(pieces, "kept in your own words", "own")
        elif t.kind == "unknown":
            volts = (
                [f"{t.text[:-1]} V"] if t.text[-1:].lower() == "v" and t.text[:-1].isdigit() else []
            )
            self._ask(
                pieces,
                "not understood; a name goes before a colon",
                volts or (["E85"] if t.text[:1].lower() == "e" else []),
            )
        elif t.kind in ("comma", "filler", "plus", "at", "times"):
            return
        else:
            self._piece(pieces, t.means or "kept in your own words", "own")

    def _say_rotary(self, pieces: list[Token], t: Token) -> None:
        """Rotors fire once a turn, cylinders every other: each counts as two, and has an injector
        for its leading and one for its trailing half, all on one rail. Common practice.
        """
        self.rotors = int(t.value)
        self.out.banks = 1
        means = f"{t.means}: it fires as {2 * self.rotors} cylinders do"
        self._keep("cylinders", 2 * self.rotors, pieces, means)

    def _say_engines(self, pieces: list[Token], t: Token) -> None:
        self._piece(pieces, t.means)
        self._question(pieces, "the power is taken as one engine's; the others are built alike", [])

    def _say_fuel(self, pieces: list[Token], t: Token) -> None:
        self._keep("fuel", t.value, pieces, t.means if t.means != "fuel" else f"fuel {t.value}")

    def _say_alcohol(self, pieces: list[Token], t: Token) -> None:
        self._keep("fuel", t.value, pieces, t.means)
        self._question(
            pieces,
            "taken as methanol, as racers say it; press if ethanol is meant",
            ["E100", "E85"],
        )

    def _say_blend(self, pieces: list[Token], t: Token) -> None:
        self._keep("ethanol_range", t.value, pieces, t.means)

    def _say_diesel(self, pieces: list[Token], t: Token) -> None:
        self._ask(
            pieces, f"{t.means}: only gasoline, its blends with ethanol, methanol and avgas are", []
        )

    _say_hydrogen = _say_diesel

    def _say_other_engine(self, pieces: list[Token], t: Token) -> None:
        self._ask(pieces, f"{t.means}: only engines that burn fuel in cylinders or rotors are", [])

    def _say_second_fluid(self, pieces: list[Token], t: Token) -> None:
        self._piece(pieces, t.means, "own")
        self._question(pieces, t.means, [])

    def _say_several_regulators(self, pieces: list[Token], t: Token) -> None:
        self._piece(pieces, t.means, "asked")
        self._question(pieces, t.means, [])

    def _say_two_stroke(self, pieces: list[Token], t: Token) -> None:
        self._piece(pieces, t.means)
        self._question(
            pieces, "counted as a four-stroke: say what it consumes, such as 0.6 lb/hp/h", []
        )

    def _say_use(self, pieces: list[Token], t: Token) -> None:
        self._keep("use", t.value, pieces, t.means)

    def _say_craft(self, pieces: list[Token], t: Token) -> None:
        flies = t.value in FLYING
        if flies and self.out.fields.get("use", "flight") == "flight":
            self.out.fields["use"], self.out.typed["use"] = "flight", t.text
        if t.value == "low wing" and not self.out.layout:
            self.out.layout = "A2"
        if not self.out.outline or self.out.outline == "high wing":
            self.out.outline = t.value
        self._piece(pieces, t.means)

    def _say_layout(self, pieces: list[Token], t: Token) -> None:
        if self.out.layout in ("", "A2", "C1", "C11"):
            self.out.layout = t.value
        elif {self.out.layout, t.value} & HEADERS and "A1" in (
            self.out.layout,
            t.value,
        ):  # the wings fall to the header, and pumps draw from it
            self.out.layout = next(iter({self.out.layout, t.value} & HEADERS))
            self._piece(pieces, "the wings feed the header by gravity")
            return
        elif self.out.layout != t.value:
            self._ask(
                pieces,
                f"{t.means} beside {LAYOUTS[self.out.layout].title.lower()}: one layout is laid out first",
                [t.text],
            )
            return
        if LAYOUTS[t.value].craft == "air":
            self.out.fields["use"], self.out.typed["use"] = "flight", t.text
        self._wish(pieces, "layout", t.means, value=t.value)

    def _say_external(self, pieces: list[Token], t: Token) -> None:
        self.out.layout = self.out.layout or t.value
        self._wish(pieces, "layout", t.means, value=t.value)

    _say_in_tank = _say_external

    def _say_rails(self, pieces: list[Token], t: Token) -> None:
        self.out.rails = t.value
        self._wish(pieces, "rails", t.means, value=t.value)

    def _say_bypassed(self, pieces: list[Token], t: Token) -> None:
        self._wish(pieces, "layout", t.means, value="return")

    def _say_mat(self, pieces: list[Token], t: Token) -> None:
        self._wish(pieces, "mat", t.means)

    def _say_stock_lines(self, pieces: list[Token], t: Token) -> None:
        self._wish(pieces, "lines", t.means, have=True)
        self._question(
            pieces,
            "what size are they? Until it is said, new lines are drawn",
            ["-6 feed and return", "-8 feed -6 return", "-8 feed and return"],
        )

    def _say_injection(self, pieces: list[Token], t: Token) -> None:
        self._keep("feeding", "injection", pieces, t.means)

    _say_to_injection = _say_injection

    def _say_bowl(self, pieces: list[Token], t: Token) -> None:
        self._keep("feeding", "carburettor", pieces, t.means)
        self.boosted |= "through" in t.text.lower()

    def _say_boosted(self, pieces: list[Token], t: Token) -> None:
        self.boosted = True
        self._piece(pieces, "boosted")

    def _say_banks(self, pieces: list[Token], t: Token) -> None:
        self.out.banks = int(t.value)
        self._piece(pieces, t.means)
