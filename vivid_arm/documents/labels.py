"""Labels for the rods of an order: a sheet of stickers, one a rod.

Stickers of 70 by 37 mm (A4, three by eight) or 2 5/8 by 1 in (Letter, three by ten), as they
are commonly sold.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from vivid_arm.core.words import Unit, figure, say
from vivid_arm.documents.paper import Paper, page_of, pdf_of
from vivid_arm.documents.pictures import qr_svg


@dataclass(frozen=True)
class Stickers:
    """A sheet of stickers: margins and the size of one, millimetres."""

    top: float
    side: float
    wide: float
    high: float


SHEETS: dict[Paper, Stickers] = {
    "A4": Stickers(0.4, 0.0, 69.99, 36.99),
    "Letter": Stickers(12.6, 4.8, 68.7, 25.39),
}


@dataclass(frozen=True)
class Label:
    """What stands on one: the valve (empty for a rod of none), its length, the QR code."""

    valve: str
    length_in: float
    qr: str


def labels_of(rods: Sequence[tuple[str, float]], convention: str, link: str) -> list[Label]:
    """A label a rod, in the order of the rods: (valve, length in inches).

    The code holds the valve, the length with its convention, and where the build is found.
    """
    return [
        Label(
            valve,
            length,
            qr_svg(
                say(
                    "{valve} {length} in {convention} {link}",
                    valve=valve or say("rod"),
                    length=figure(length, ".4f"),
                    convention=convention,
                    link=link,
                )
            ),
        )
        for valve, length in rods
    ]


def to_html(
    labels: Sequence[Label],
    name: str,
    number: int,
    convention: str,
    unit: Unit = "in",
    paper: Paper = "A4",
) -> str:
    """The sheet as a page."""
    return page_of(
        "labels.html", unit, paper, labels=labels, name=name, number=number,
        convention=convention, sheet=SHEETS[paper],
    )  # fmt: skip


def to_pdf(
    labels: Sequence[Label],
    name: str,
    number: int,
    convention: str,
    unit: Unit = "in",
    paper: Paper = "A4",
) -> bytes:
    """The sheet on paper (see ``to_html``)."""
    return pdf_of(to_html(labels, name, number, convention, unit, paper))
