"""What may be wrong with a practice engine: each fault's words and what shows it.

Source: the usual slips and faults of the bench, common practice; their sizes are ours.
"""

from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.words import Saying

FaultKind = Literal[
    "cup", "soft_plunger", "rod_label", "thread", "tall_stem", "sunk_seat", "not_square", "bank",
    "loose_shaft", "gauge_rods", "bent_rod", "lobes_swapped", "springs", "card",
]  # fmt: skip


@dataclass(frozen=True)
class FaultWords:
    """A fault in words: what it is, what it does, and three hints, each plainer than the last."""

    name: Saying
    effect: Saying
    hints: tuple[Saying, Saying, Saying]


FAULTS: dict[FaultKind, FaultWords] = {
    "cup": FaultWords(
        Saying("A tip out of its cup"),
        Saying("The rod stands on the rim until it is spun home: the valve reads short."),
        (
            Saying("Do you trust how every rod sits?"),
            Saying("Spin a rod before you feel it."),
            Saying("One rod stands on the rim of its cup."),
        ),
    ),
    "soft_plunger": FaultWords(
        Saying("A plunger that goes down under the hand"),
        Saying("Each feel of a tight rod pushes the lifter down a little: the valve reads long."),
        (
            Saying("Does every lifter hold still as you feel?"),
            Saying("Let the lifters come up, then feel again."),
            Saying("One lifter's plunger goes down as you push."),
        ),
    ),
    "rod_label": FaultWords(
        Saying("The checking rod is not as long as its label says"),
        Saying("Every reading by turns is off by the same."),
        (
            Saying("What do all sixteen readings share?"),
            Saying("Put a caliper over the checking rod."),
            Saying("The closed length on the label is wrong."),
        ),
    ),
    "thread": FaultWords(
        Saying("The checking rod's thread is not what its label says"),
        Saying("Readings are off by more the further the rod is open."),
        (
            Saying("Is a turn of the rod what you think it is?"),
            Saying("Caliper at two settings, ten turns apart."),
            Saying("The thread has 24 turns to the inch."),
        ),
    ),
    "tall_stem": FaultWords(
        Saying("A stem that stands tall"),
        Saying("That valve's tip is higher than the others', and wants a rod of its own."),
        (
            Saying("Do all tips stand alike?"),
            Saying("Lay a straight-edge over the tips of a head."),
            Saying("One tip stands well over its neighbours."),
        ),
    ),
    "sunk_seat": FaultWords(
        Saying("A sunk seat"),
        Saying("That valve stands deeper in its seat, its tip higher."),
        (
            Saying("Was every seat cut alike?"),
            Saying("Lay a straight-edge over the tips of a head."),
            Saying("One valve has sunk into its seat."),
        ),
    ),
    "not_square": FaultWords(
        Saying("A head that is not square"),
        Saying("Rods get longer from one end of the head to the other."),
        (
            Saying("Do the ends of a head agree?"),
            Saying("Compare front and rear, intakes with exhausts."),
            Saying("One head stands higher at its rear."),
        ),
    ),
    "bank": FaultWords(
        Saying("One bank was milled"),
        Saying("All its rods are shorter than the other bank's."),
        (
            Saying("Are both banks alike?"),
            Saying("Compare the same kind on both banks."),
            Saying("One head was milled more than the other."),
        ),
    ),
    "loose_shaft": FaultWords(
        Saying("The rockers of one head are not pulled down"),
        Saying("Until the fasteners are torqued its valves read long."),
        (
            Saying("Is everything tight that should be?"),
            Saying("Put the wrench on the rockers' fasteners."),
            Saying("One head's rockers were never torqued."),
        ),
    ),
    "gauge_rods": FaultWords(
        Saying("The supplier's lengths are gauge lengths"),
        Saying("Rods ordered by overall length come longer than meant."),
        (
            Saying("Does your supplier measure as you do?"),
            Saying("Put a caliper over a rod that came."),
            Saying("His figure is to a gauge circle, not over the balls."),
        ),
    ),
    "bent_rod": FaultWords(
        Saying("One of the rods that came is bent"),
        Saying("It stands shorter than its length."),
        (
            Saying("Did you look at every rod?"),
            Saying("Roll the rods on the plate."),
            Saying("One rod does not run true."),
        ),
    ),
    "lobes_swapped": FaultWords(
        Saying("The lobes of one cylinder are not where the card has them"),
        Saying("Its intake is on the heel when its exhaust should be."),
        (
            Saying("Does every lifter stand still at its stop?"),
            Saying("Watch the lifters as you turn."),
            Saying("One cylinder's lobes are exchanged."),
        ),
    ),
    "springs": FaultWords(
        Saying("The running springs are still in"),
        Saying("The plunger gives before the valve does: every zero is vague, and reads long."),
        (
            Saying("Should a rod feel so vague?"),
            Saying("Press a valve down by hand."),
            Saying("The running springs are in; checking springs belong there."),
        ),
    ),
    "card": FaultWords(
        Saying("The cam is not the one on the card"),
        Saying("It is longer: a stop the card calls safe may not be on the heel."),
        (
            Saying("Does the cam do what its card says?"),
            Saying("Set the indicator on a lifter at a stop."),
            Saying("The lobes are longer than the card says."),
        ),
    ),
}


@dataclass(frozen=True)
class Fault:
    """One fault of an engine: ``where`` is a valve, a bank, or nothing where it is everywhere."""

    kind: FaultKind
    where: str
    size_in: float
