"""Labels that find their own place: each takes the first spot where it touches no other."""

from dataclasses import dataclass, field

WIDTH_OF_EM = 0.5  # a condensed figure or letter at most, measured in the browser test


@dataclass(frozen=True)
class PlacedLabel:
    """A text at (x, y) of its baseline; `anchor` start, middle or end; `style` a class of the style
    sheet.
    """

    text: str
    x: float
    y: float
    anchor: str
    style: str
    size: float


Box = tuple[float, float, float, float]


def box_of(text: str, x: float, y: float, anchor: str, size: float) -> Box:
    """The box a text may fill."""
    width = len(text) * size * WIDTH_OF_EM
    left = x - {"start": 0.0, "middle": width / 2, "end": width}[anchor]
    return left, y - 0.8 * size, left + width, y + 0.25 * size


FAR = 1e5  # px, beyond any drawing
CELL = 48.0  # px, of the squares by which boxes are found again


@dataclass
class Placer:
    """Keeps the boxes that are taken, within an area; they are found by the squares they lie in."""

    area: Box
    labels: list[PlacedLabel] = field(default_factory=list)
    taken: dict[tuple[int, int], list[Box]] = field(default_factory=dict)

    def keep_clear(self, box: Box) -> None:
        """Take a box without a label: a line or an arrow."""
        for cell in _cells(box):
            self.taken.setdefault(cell, []).append(box)

    def free(self, box: Box) -> bool:
        """Whether a box lies within the area and touches none that is taken."""
        inside = (
            box[0] >= self.area[0]
            and box[1] >= self.area[1]
            and box[2] <= self.area[2]
            and box[3] <= self.area[3]
        )
        return inside and not any(
            _touch(box, other) for cell in _cells(box) for other in self.taken.get(cell, ())
        )

    def place(
        self, text: str, spots: list[tuple[float, float, str]], style: str, size: float = 17.0
    ) -> bool:
        """Put a text at the first spot (x, y, anchor) that is free; False where none is."""
        for x, y, anchor in spots:
            box = box_of(text, x, y, anchor, size)
            if self.free(box):
                self.keep_clear(box)
                self.labels.append(PlacedLabel(text, x, y, anchor, style, size))
                return True
        return False


def _cells(box: Box) -> list[tuple[int, int]]:
    """The squares that a box lies in; those of one that has no end are cut off."""
    if box[0] < -FAR or box[1] < -FAR or box[2] > FAR or box[3] > FAR:
        box = (max(box[0], -FAR), max(box[1], -FAR), min(box[2], FAR), min(box[3], FAR))
    x0, y0, x1, y1 = (
        int(box[0] // CELL),
        int(box[1] // CELL),
        int(box[2] // CELL),
        int(box[3] // CELL),
    )
    if x0 == x1 and y0 == y1:
        return [(x0, y0)]
    return [(x, y) for x in range(x0, x1 + 1) for y in range(y0, y1 + 1)]


def _touch(a: Box, b: Box) -> bool:
    return a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3]
