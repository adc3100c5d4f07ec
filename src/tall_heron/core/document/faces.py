"""A face is one half of a joint: a sort and a size, as `flare -8`, `port -10`, `pipe 1/4`. What
screws onto what, and what only looks as if it did.
"""

import re
from dataclasses import dataclass
from functools import cache, cached_property
from typing import Annotated

from pydantic import AfterValidator, Field

from tall_heron.core.base.catalogue import Row, table

LOOSE = ("open", "weld")  # no joint: it opens into a tank, or is welded to its part
NEAR_MM = 1.0  # threads nearer than this in diameter are forced into one another
INCH_SORTS = ("pipe", "taper", "flare45", "nut45", "spigot", "quick")


@dataclass(frozen=True)
class Face:
    """One half of a joint."""

    sort: str
    size: str = ""

    @property
    def text(self) -> str:
        """As it stands in data and documents."""
        return f"{self.sort} {self.size}".strip()

    @cached_property
    def words(self) -> str:
        """As a builder says it."""
        if self.sort in LOOSE:
            return {"open": "opens into the tank", "weld": "welded"}[self.sort]
        name = next(
            (
                str(r[w])
                for r in table("mates")
                for s, w in (("sort", "word"), ("mate", "mate_word"))
                if r[s] == self.sort
            ),
            {"tube": "plain tube"}.get(self.sort, self.sort),
        )
        size = (
            f"{self.size} in"
            if self.sort in INCH_SORTS
            else self.size.replace("-", "−")
            if self.size.startswith("-")
            else self.size
        )
        return f"{size} {name}".strip()

    @cached_property
    def row(self) -> Row | None:
        """Its thread or diameter, of itself or of what it mates with."""
        return next(
            (
                r
                for r in table("threads")
                if r["sort"] in (self.sort, partner_sort(self.sort))
                and _text(r["size"]) == self.size
            ),
            None,
        )

    @property
    def thread(self) -> str:
        """Its thread, where it has one."""
        return str(self.row["thread"]) if self.row is not None and self.row["thread"] else ""

    @property
    def major_mm(self) -> float:
        """The outside diameter of its thread, or of its tube [mm]; 0 where no data says."""
        return float(self.row["major_mm"]) if self.row is not None else 0.0


def _text(size: object) -> str:
    """A size as text: tables read -8 and 1 as numbers."""
    return f"{size:g}" if isinstance(size, float) else str(size)


@cache
def face(text: str) -> Face:
    """A face of its text. Raises ValueError for one that no data knows."""
    sort, _, size = text.strip().partition(" ")
    if sort in LOOSE and not size:
        return Face(sort)
    parsed = Face(sort, size.strip())
    if parsed.row is None:
        raise ValueError(
            f"“{text}” is no thread that is known here; write one such as {', '.join(f.text for f in every_face()[:40:9])}"
        )
    return parsed


def read_face(text: str) -> Face:
    """A face as a builder writes it: `-10 ORB`, `AN-8`, `3/8 NPT`, `M14x1.5`, or as data do. Raises
    ValueError.
    """
    low = re.sub(r"\s*([/x×])\s*", r"\1", text.lower().strip()[:60]).replace("×", "x")
    match = (
        re.search(r"m(\d{1,2}x\d(?:[.,]\d{1,2})?)", low)
        or re.search(r"(\d{1,2}/\d{1,2})", low)
        or re.search(
            r"(?:^|[^\d/])-?\s?(\d{1,2})(?![\d/°])", low.replace("45°", "").replace("37°", "")
        )
    )
    words = max(
        (
            r
            for r in table("face_words")
            if re.search(rf"(?<![a-z]){re.escape(str(r['words']))}(?![a-z])", low)
        ),
        key=lambda r: len(str(r["words"])),
        default=None,
    )
    if match is None or (words is None and not low.startswith("m")):
        return face(text)
    sort = str(words["sort"]) if words is not None else "metric"
    size = f"M{match[1]}".replace(",", ".") if "x" in match[1] else match[1]
    return face(f"{sort} {size if 'x' in match[1] or sort in INCH_SORTS else f'-{size}'}")


def known_face(text: str) -> str:
    """The text of a face that data know, or an empty one, as a document holds it. Raises
    ValueError.
    """
    return face(text).text if text.strip() else ""


FaceText = Annotated[str, Field(max_length=30), AfterValidator(known_face)]


@cache
def every_face() -> tuple[Face, ...]:
    """Every face of the data, with those that mate with them."""
    known = [Face(str(r["sort"]), _text(r["size"])) for r in table("threads")]
    mates = [Face(other, f.size) for f in known if (other := partner_sort(f.sort))]
    return tuple(dict.fromkeys([*known, *mates]))


@cache
def partner_sort(sort: str) -> str:
    """The sort that a sort mates with; empty for one that mates with nothing."""
    for r in table("mates"):
        if r["sort"] == sort:
            return str(r["mate"])
        if r["mate"] == sort:
            return str(r["sort"])
    return ""


def joins(a: Face, b: Face) -> bool:
    """Whether two faces screw together and seal."""
    return a.size == b.size and any(
        {a.sort, b.sort} == {r["sort"], r["mate"]} for r in table("mates")
    )


def seal(a: Face, b: Face) -> str:
    """What seals a pair that joins."""
    return next(
        (str(r["seal"]) for r in table("mates") if {a.sort, b.sort} == {r["sort"], r["mate"]}), ""
    )


def false_pair(a: Face, b: Face) -> Row | None:
    """The row that says why a pair that goes together must not be put together; None for any other
    pair.
    """
    for r in table("false_pairs"):
        if (a.sort, b.sort) not in ((r["a"], r["b"]), (r["b"], r["a"])):
            continue
        goes = {
            "always": True,
            "size": a.size == b.size,
            "thread": bool(a.thread) and a.thread == b.thread,
            "near": bool(a.major_mm) and abs(a.major_mm - b.major_mm) <= NEAR_MM,
        }
        if goes[str(r["same"])]:
            return r
    return None
