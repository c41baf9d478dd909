"""Verdicts: what, why, and what to do next, in that order."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from .bracket import SETTLED_WITHIN_IN, Bracket, NextTrial
from .engine import KINDS, ValveKind
from .lengths import Unit, format_length, format_small
from .order import GroupOrder
from .preload import Candidate, Choice, Lifter

State = Literal["waiting", "closing", "settled", "conflict", "outside"]


@dataclass(frozen=True)
class Verdict:
    """Three sentences whose ``{names}`` are filled from ``lengths`` and ``smalls`` (inches)."""

    state: State
    what: str
    why: str
    then: str
    lengths: Mapping[str, float] = field(default_factory=dict)
    smalls: Mapping[str, float] = field(default_factory=dict)


def fill(
    text: str,
    lengths: Mapping[str, float],
    smalls: Mapping[str, float],
    unit: Unit = "in",
) -> str:
    """Put figures into a sentence.

    >>> fill("Zero lash {z}", {"z": 7.3125}, {})
    'Zero lash 7.3125 in'
    """
    values = {k: format_length(v, unit) for k, v in lengths.items()}
    values |= {k: format_small(v, unit) for k, v in smalls.items()}
    return text.format(**values)


def zero_lash_verdict(
    bracket: Bracket,
    following: NextTrial | None,
    u_in: float | None = None,
    *,
    counts_turns: bool = True,
) -> Verdict:
    """Where a valve's trials stand.

    ``u_in`` is the whole standard uncertainty, inches; ``counts_turns`` whether
    a checking rod is counted (a caliper is not counted back).
    """
    loose, tight = bracket.longest_loose, bracket.shortest_tight
    then = following.reason if following else ""
    if bracket.contradictions:
        worst = bracket.contradictions[0]
        return Verdict(
            "conflict",
            f"Trials {worst.first} and {worst.second} contradict each other.",
            f"{worst.sentence} Usual causes: lifter not on the base circle, a tip out of its "
            "cup, stand nuts loose, the plunger pushed.",
            then,
        )
    if bracket.estimate_in is not None and bracket.u_in is not None:
        return _closed_verdict(
            bracket, bracket.estimate_in, u_in or bracket.u_in, then, counts_turns
        )
    if loose is not None:
        return Verdict(
            "closing",
            "Longer than {l}.",
            "No tight rod yet, so there is no upper end.",
            then or "This rod opens no further: take a longer one.",
            {"l": loose.length_in},
        )
    if tight is not None:
        return Verdict(
            "closing",
            "Shorter than {t}.",
            "No loose rod yet, so there is no lower end.",
            then or "This rod closes no further: take a shorter one.",
            {"t": tight.length_in},
        )
    return Verdict(
        "waiting",
        "No trial on this valve yet.",
        "The length is known only once a rod was felt on the base circle.",
        then or "Set the rod a little short, seat rocker and fastener, and feel it.",
    )


def _closed_verdict(
    bracket: Bracket, estimate_in: float, u_in: float, then: str, counts_turns: bool
) -> Verdict:
    lengths, smalls = {"z": estimate_in}, {"u": 2 * u_in, "w": SETTLED_WITHIN_IN}
    chance = (
        f"{bracket.within_probability:.0%}" if bracket.within_probability < 0.99 else "over 99%"
    )
    if bracket.settled:
        return Verdict(
            "settled",
            "Zero lash {z}.",
            f"Known to ± {{u}} (k = 2). Chance that the trials are within {{w}}: {chance}.",
            "Count the turns back to closed as a check, then go to the next valve."
            if counts_turns
            else "Go to the next valve.",
            lengths,
            smalls,
        )
    return Verdict(
        "closing",
        "About {z} so far.",
        f"Known to ± {{u}} (k = 2). Chance that the trials are within {{w}}: {chance}.",
        then or "A finer setting tells no more; repeat a trial to be surer.",
        lengths,
        smalls,
    )


def group_verdict(group: GroupOrder, lifter: Lifter, step_in: float) -> Verdict:
    """What the chosen length of a group does."""
    window = {"low": lifter.low_in, "high": lifter.high_in, "step": step_in}
    if group.choice is None:
        return Verdict(
            "waiting",
            f"No {group.kind} valve is measured to zero lash.",
            "The rod length follows from the zero-lash length.",
            f"Measure one {group.kind} valve first.",
        )
    if group.taken is None:
        return _nothing_fits(group.choice, window)
    return _taken_verdict(group, group.taken, window)


def _nothing_fits(choice: Choice, window: dict[str, float]) -> Verdict:
    preload = choice.nearest.fits[0].preload_in
    gives = "gives {p}" if preload >= 0 else "stays loose by {p}"
    return Verdict(
        "outside",
        "No stock length fits.",
        f"In steps of {{step}} the nearest, {{n}}, {gives}; the window is {{low}} to {{high}}.",
        "Order a made-to-order length near {e}, or take a finer step.",
        {"n": choice.nearest.length_in, "e": choice.exact_in},
        window | {"p": abs(preload)},
    )


def _taken_verdict(group: GroupOrder, taken: Candidate, window: dict[str, float]) -> Verdict:
    preloads = [f.preload_in for f in taken.fits]
    spread = "{p}" if len(preloads) == 1 else "{p} to {q}"
    lengths = {"l": taken.length_in}
    smalls = window | {"p": min(preloads), "q": max(preloads), "m": abs(taken.miss_in)}
    if not taken.inside:
        return Verdict(
            "outside",
            "{l} is outside the window.",
            f"Preload {spread}; the window is {{low}} to {{high}}.",
            "Pick another length, or measure again.",
            lengths,
            smalls,
        )
    errs = {"exact": "on the target", "long": "{m} long", "short": "{m} short"}[taken.errs]
    then = "Try one rod before the full set."
    if group.short_of_measured:
        others = "the four corners" if group.quantity > 4 else "the others"
        measured = f"{len(group.measured)} of {group.quantity} valves measured"
        then = f"{measured}: measure {others} before the full set."
    return Verdict(
        "settled",
        "Order {l}.",
        f"Preload {spread}, inside {{low}} to {{high}}; {errs}.",
        then,
        lengths,
        smalls,
    )


@dataclass(frozen=True)
class NextStep:
    """What a build waits for: which station, and the sentence on the board."""

    station: Literal["setup", "zero-lash", "order"]
    kind: ValveKind | None
    sentence: str


def next_step(
    *,
    has_instrument: bool,
    trials: Mapping[ValveKind, int],
    settled: Mapping[ValveKind, int],
    conflicts: Sequence[str],
    groups: Sequence[GroupOrder],
) -> NextStep:
    """The next thing to do on a build. ``conflicts`` name valves with contradicting trials."""
    if not has_instrument:
        return NextStep("setup", None, "Choose what measures it: a checking rod or a caliper")
    if conflicts:
        kind: ValveKind = "intake" if conflicts[0].endswith("I") else "exhaust"
        return NextStep("zero-lash", kind, f"Trials contradict on {conflicts[0]}: repeat one")
    for kind in KINDS:
        if not settled.get(kind):
            verb = "Go on with" if trials.get(kind) else "Find zero lash on"
            return NextStep("zero-lash", kind, f"{verb} an {kind} valve")
    stuck = [g.kind for g in groups if g.taken is None or not g.taken.inside]
    if stuck:
        return NextStep("order", stuck[0], f"Pick a length that fits the {stuck[0]} window")
    return NextStep("order", None, "Order sheet is ready: try one rod first")
