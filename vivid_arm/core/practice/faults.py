"""What may be wrong with a practice engine: each fault's words and what shows it.

Source: the usual slips and faults of the bench, common practice; their sizes are ours.
"""

from dataclasses import dataclass
from typing import Literal

FaultKind = Literal[
    "cup", "soft_plunger", "rod_label", "thread", "tall_stem", "sunk_seat", "not_square", "bank",
    "loose_shaft", "gauge_rods", "bent_rod", "lobes_swapped", "springs", "card",
]  # fmt: skip


@dataclass(frozen=True)
class FaultWords:
    """A fault in words: what it is, what it does, and three hints, each plainer than the last."""

    name: str
    effect: str
    hints: tuple[str, str, str]


FAULTS: dict[FaultKind, FaultWords] = {
    "cup": FaultWords(
        "A tip out of its cup",
        "The rod stands on the rim until it is spun home: the valve reads short.",
        ("Do you trust how every rod sits?", "Spin a rod before you feel it.",
         "One rod stands on the rim of its cup."),
    ),
    "soft_plunger": FaultWords(
        "A plunger that goes down under the hand",
        "Each feel of a tight rod pushes the lifter down a little: the valve reads long.",
        ("Does every lifter hold still as you feel?", "Let the lifters come up, then feel again.",
         "One lifter's plunger goes down as you push."),
    ),
    "rod_label": FaultWords(
        "The checking rod is not as long as its label says",
        "Every reading by turns is off by the same.",
        ("What do all sixteen readings share?", "Put a caliper over the checking rod.",
         "The closed length on the label is wrong."),
    ),
    "thread": FaultWords(
        "The checking rod's thread is not what its label says",
        "Readings are off by more the further the rod is open.",
        ("Is a turn of the rod what you think it is?", "Caliper at two settings, ten turns apart.",
         "The thread has 24 turns to the inch."),
    ),
    "tall_stem": FaultWords(
        "A stem that stands tall",
        "That valve's tip is higher than the others', and wants a rod of its own.",
        ("Do all tips stand alike?", "Lay a straight-edge over the tips of a head.",
         "One tip stands well over its neighbours."),
    ),
    "sunk_seat": FaultWords(
        "A sunk seat",
        "That valve stands deeper in its seat, its tip higher.",
        ("Was every seat cut alike?", "Lay a straight-edge over the tips of a head.",
         "One valve has sunk into its seat."),
    ),
    "not_square": FaultWords(
        "A head that is not square",
        "Rods get longer from one end of the head to the other.",
        ("Do the ends of a head agree?", "Compare front and rear, intakes with exhausts.",
         "One head stands higher at its rear."),
    ),
    "bank": FaultWords(
        "One bank was milled",
        "All its rods are shorter than the other bank's.",
        ("Are both banks alike?", "Compare the same kind on both banks.",
         "One head was milled more than the other."),
    ),
    "loose_shaft": FaultWords(
        "The rockers of one head are not pulled down",
        "Until the fasteners are torqued its valves read long.",
        ("Is everything tight that should be?", "Put the wrench on the rockers' fasteners.",
         "One head's rockers were never torqued."),
    ),
    "gauge_rods": FaultWords(
        "The supplier's lengths are gauge lengths",
        "Rods ordered by overall length come longer than meant.",
        ("Does your supplier measure as you do?", "Put a caliper over a rod that came.",
         "His figure is to a gauge circle, not over the balls."),
    ),
    "bent_rod": FaultWords(
        "One of the rods that came is bent",
        "It stands shorter than its length.",
        ("Did you look at every rod?", "Roll the rods on the plate.", "One rod does not run true."),
    ),
    "lobes_swapped": FaultWords(
        "The lobes of one cylinder are not where the card has them",
        "Its intake is on the heel when its exhaust should be.",
        ("Does every lifter stand still at its stop?", "Watch the lifters as you turn.",
         "One cylinder's lobes are exchanged."),
    ),
    "springs": FaultWords(
        "The running springs are still in",
        "The plunger gives before the valve does: every zero is vague, and reads long.",
        ("Should a rod feel so vague?", "Press a valve down by hand.",
         "The running springs are in; checking springs belong there."),
    ),
    "card": FaultWords(
        "The cam is not the one on the card",
        "It is longer: a stop the card calls safe may not be on the heel.",
        ("Does the cam do what its card says?", "Set the indicator on a lifter at a stop.",
         "The lobes are longer than the card says."),
    ),
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """One fault of an engine: ``where`` is a valve, a bank, or nothing where it is everywhere."""

    kind: FaultKind
    where: str
    size_in: float
