"""What a build waits for, and the sentence on the board.

Source: the order of the work is common practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, get_args

from vivid_arm.core.engine.layout import KIND_WORDS, KINDS, ValveKind
from vivid_arm.core.heads.spread import Remark
from vivid_arm.core.words import Saying, say

Station = Literal["setup", "zero_lash", "rocker", "heads", "decide", "order", "sign_off"]
STATIONS: tuple[Station, ...] = get_args(Station)
"""Where a build can wait, in the order of the work."""


@dataclass(frozen=True)
class NextStep:
    """What a build waits for: which station, and the sentence on the board.

    ``valve`` names the one it is about, where it is about one.
    """

    station: Station
    kind: ValveKind | None
    sentence: str
    valve: str | None = None


def _kind(name: str) -> ValveKind:
    return "intake" if name.endswith("I") else "exhaust"


def next_step(
    *,
    has_instrument: bool,
    trials: Mapping[ValveKind, int],
    settled: Mapping[ValveKind, int],
    conflicts: Sequence[str],
    stuck: Sequence[ValveKind] = (),
    suspicious: Sequence[str] = (),
    remarks: Sequence[Remark] = (),
    lash_missing: bool = False,
    in_hand: str = "",
    rocker: tuple[str, str] | None = None,
    rocker_first: bool = False,
) -> NextStep:
    """The next thing to do on a build.

    ``conflicts`` name valves whose readings contradict each other,
    ``suspicious`` those whose reading is not believable, the worst first.
    ``stuck``: kinds that no rod of the decision serves; ``lash_missing`` where solid lifters
    have none entered; ``in_hand``: what the rods on the engine do, where their preload was
    read. ``rocker`` is a valve whose marks ask for something, and what;
    ``rocker_first`` where the rod's length sets the geometry (studs).
    """
    if rocker and rocker_first:
        return NextStep("rocker", None, rocker[1], rocker[0])
    if in_hand and not any(settled.values()):
        return NextStep("decide", None, in_hand)
    if not has_instrument and not any(settled.values()):
        return NextStep("setup", None, say("Choose what measures it: a checking rod or a caliper"))
    if conflicts:
        name = conflicts[0]
        return NextStep(
            "zero_lash",
            _kind(name),
            say("Readings contradict on {name}: repeat one", name=name),
            name,
        )
    if suspicious:
        name = suspicious[0]
        return NextStep(
            "zero_lash", _kind(name), say("{name} does not look right: check it", name=name), name
        )
    for kind in KINDS:
        if not settled.get(kind):
            verb = say("Go on with") if trials.get(kind) else say("Find zero lash on")
            return NextStep(
                "zero_lash", kind, say("{verb} an {kind} valve", verb=verb, kind=KIND_WORDS[kind])
            )
    if rocker:
        return NextStep("rocker", None, rocker[1], rocker[0])
    if lash_missing:
        return NextStep(
            "setup", None, say("Zero lash is known: enter the lash of the solid lifters")
        )
    if stuck:
        return NextStep(
            "decide", stuck[0], say("Pick a length that fits the {stuck} window", stuck=stuck[0])
        )
    remark = next((_REMARKS[f.about] for f in remarks if f.about in _REMARKS), None)
    if remark:
        return NextStep(
            "order", None, say("Order sheet is ready, but {remark}: see Heads", remark=remark)
        )
    return NextStep("order", None, say("Order sheet is ready: try one rod first"))


_AFTER: dict[tuple[str, str], tuple[Literal["order", "sign_off"], Saying]] = {
    ("set", "fitted"): ("sign_off", Saying("Rods are fitted: make the checks")),
    ("set", "received"): ("order", Saying("The rods are here: fit them")),
    ("set", "placed"): ("order", Saying("Order is placed: the rods are on their way")),
    ("set", "asked"): ("order", Saying("The supplier is being asked")),
    ("set", "unknown"): ("order", Saying("The supplier gave no answer: ask him again")),
    ("set", "draft"): ("order", Saying("An order is drafted: place it")),
    ("trial", "trial"): ("order", Saying("Trial rods are on the engine: try them")),
    ("trial", "received"): ("order", Saying("Trial rods are here: try them")),
    ("trial", "placed"): ("order", Saying("Trial rods are on their way")),
    ("trial", "asked"): ("order", Saying("The supplier is being asked")),
    ("trial", "unknown"): ("order", Saying("The supplier gave no answer: ask him again")),
    ("trial", "draft"): ("order", Saying("Trial rods are drafted: order them")),
}


def after_ordering(
    orders: Sequence[tuple[str, str, bool]], signed_by: str | None
) -> NextStep | None:
    """The next thing once orders exist: (purpose, state, closed), the newest first.

    None while no order says anything: what is measured decides then.
    """
    for purpose, state, closed in orders:
        found = _AFTER.get((purpose, state))
        if found is None or (purpose == "trial" and closed):
            continue
        if signed_by is not None and found[0] == "sign_off":
            return NextStep("sign_off", None, say("Signed off by {signed_by}", signed_by=signed_by))
        return NextStep(found[0], None, say(found[1]))
    return None


_REMARKS = {
    "shared": Saying("the set is off what was predicted"),
    "odd": Saying("one valve is odd"),
    "slope": Saying("a head is not square"),
    "bank": Saying("the banks differ"),
}
