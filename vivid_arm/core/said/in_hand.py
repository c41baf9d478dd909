"""Verdicts on the rods in hand: keep them, or which size.

Source: wording ours; what each state asks for is common practice.
"""

from vivid_arm.core.engine.layout import KIND_WORDS
from vivid_arm.core.rods.in_hand import RodsInHand, Size
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.core.said.verdicts import Verdict, percent
from vivid_arm.core.words import say

KEEP = 0.9
"""Rods are kept when all are inside with this chance: they need not be bought."""
NAMED = 0.5
"""A size is named when it is likelier right than not."""


def in_hand_verdict(found: RodsInHand, lifter: Lifter) -> Verdict:
    """Whether the rods in hand of a kind fit, in words."""
    keep = found.keep
    smalls = {
        "p": keep.low_in, "q": keep.high_in, "low": lifter.low_in, "high": lifter.high_in,
        "o": abs(found.off_bottom_in), "w": abs(found.wanted_in),
    }  # fmt: skip
    read = (
        say("{reads} of {quantity} read", reads=len(found.reads), quantity=found.quantity)
        if found.unread
        else say("all read")
    )
    spread = "{p}" if keep.high_in - keep.low_in < 5e-5 else say("{p} to {q}")
    bottom = say("{o} off the bottom") if found.off_bottom_in > 0 else say("on the bottom")
    why = say(
        "Preload {spread} in {{low}} to {{high}}, {bottom}; {read}.",
        spread=spread,
        bottom=bottom,
        read=read,
    )
    chance = say("all inside with {all_inside}", all_inside=percent(keep.all_inside))
    inside = lifter.low_in <= keep.low_in and keep.high_in <= lifter.high_in
    if keep.all_inside >= KEEP:
        return Verdict(
            "settled",
            say("Keep the {kind} rods: {chance}.", kind=KIND_WORDS[found.kind], chance=chance),
            why,
            _then(found),
            {},
            smalls,
        )
    other, said = _other(found)
    smalls |= said
    if inside or keep.all_inside >= NAMED / 5:
        return Verdict(
            "closing",
            say(
                "The {kind} rods are at the limit: {chance}.",
                kind=KIND_WORDS[found.kind],
                chance=chance,
            ),
            why,
            f"{_then(found)} {other}".strip(),
            {},
            smalls,
        )
    way = say("short") if found.wanted_in > 0 else say("long")
    return Verdict(
        "outside",
        say("The {kind} rods are about {{w}} too {way}.", kind=KIND_WORDS[found.kind], way=way),
        why,
        other,
        {},
        smalls,
    )


def _then(found: RodsInHand) -> str:
    if found.unread:
        return say("Read the others too, the corners first: one valve in 25 is odd.")
    return (
        say("Go to the sign-off: it takes these readings.") if found.keep.all_inside >= KEEP else ""
    )


def _other(found: RodsInHand) -> tuple[str, dict[str, float]]:
    """The size that serves better than the rods in hand, in words."""
    best: Size = found.best
    if best.by_in == 0 or best.all_inside < NAMED or best.all_inside <= found.keep.all_inside:
        way = say("longer") if found.wanted_in > 0 else say("shorter")
        return say("No size in steps does it: rods {{w}} {way} stand on the target.", way=way), {}
    way = say("longer") if best.by_in > 0 else say("shorter")
    smalls = {"b": abs(best.by_in), "r": best.low_in, "s": best.high_in}
    spread = "{r}" if best.high_in - best.low_in < 5e-5 else say("{r} to {s}")
    return say(
        "Rods {{b}} {way} give {spread}: {all_inside}.",
        way=way,
        spread=spread,
        all_inside=percent(best.all_inside),
    ), smalls
