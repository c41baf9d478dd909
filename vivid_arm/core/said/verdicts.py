"""Verdicts: what, why, and what to do next, in that order.

Source: wording ours; what each state asks for is common practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.instruments import CountBack
from vivid_arm.core.entry.lengths import Unit, format_length, format_small, format_turns
from vivid_arm.core.rods.decide import SURE_SET, DecidedValve, Decision
from vivid_arm.core.rods.groups import GroupOrder
from vivid_arm.core.rods.preload import Candidate, Choice, Lifter
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING, Bracket, NextTrial
from vivid_arm.core.zero_lash.combine import Combined
from vivid_arm.core.zero_lash.methods import Measure

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

    >>> fill("Zero lash {z}", {"z": 8.551}, {})
    'Zero lash 8.5510 in'
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
    accuracy_stated: bool = True,
) -> Verdict:
    """Where a valve's trials stand.

    ``u_in`` is the whole standard uncertainty, inches; ``counts_turns`` whether
    a checking rod is counted (a caliper is not counted back); ``accuracy_stated``
    whether anybody stated the instrument's.
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
        whole = u_in or bracket.u_in
        return _closed_verdict(
            bracket, bracket.estimate_in, whole, then, counts_turns, accuracy_stated
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
            "{t} or shorter." if tight.feel == "no_lash" else "Shorter than {t}.",
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


_UNSTATED = " The instrument's accuracy is not stated and not counted."


def count_verdict(count: CountBack) -> Verdict:
    """A count-back that does not agree: every trial since the slip is off by it."""
    ran, counted = format_turns(count.running_turns), format_turns(count.counted_turns)
    way = "longer" if count.error_in > 0 else "shorter"
    return Verdict(
        "conflict",
        f"Counted back {counted} turns, the running count says {ran}.",
        f"Trials since the slip were {{d}} {way} than written down: nothing is settled by them.",
        f"If {counted} was right, say since which trial; in doubt set the rod again from closed. "
        "If it was miscounted, strike the count-back out.",
        {},
        {"d": abs(count.error_in)},
    )


def recount_words(count: CountBack, since: int) -> str:
    """What working trials out again by a count-back would do, as a button says it."""
    counted, by = format_turns(count.counted_turns), format_turns(abs(count.missing_turns))
    way = "longer" if count.missing_turns > 0 else "shorter"
    turns = "turn" if abs(count.missing_turns) <= 1 else "turns"
    return f"{counted} was right: {by} {turns} {way} since trial {since}"


def measured_verdict(
    combined: Combined | None,
    measures: Sequence[Measure],
    bracket: Bracket,
    lifter: Lifter,
) -> Verdict:
    """Where a valve stands that was measured by other methods, alone or beside a bracket.

    ``measures`` are all that count, in the order of the log.
    """
    if combined is None:
        return _preload_verdict(measures[-1], lifter)
    if combined.estimate_in is None or combined.u_in is None:
        spread = [m.zero_lash_in for m in combined.used if m.zero_lash_in is not None]
        return Verdict(
            "conflict",
            f"{_listed([m.name for m in combined.used])} disagree.",
            "They differ by {d}, more than their uncertainties allow.",
            "Measure it a third way: that tells which one is wrong, then strike it out.",
            {},
            {"d": max(spread) - min(spread)},
        )
    lengths, smalls = {"z": combined.estimate_in}, {"u": 2 * combined.u_in}
    beyond = _beyond(combined.estimate_in, combined.u_in, bracket)
    if beyond:
        return Verdict(
            "conflict", f"Measured {{z}}, but {beyond}.",
            "The trials and the measurement cannot both be right.",
            "Repeat the trial, then strike out the wrong one.", lengths, smalls,
        )  # fmt: skip
    if combined.odd is not None:
        lengths["o"] = combined.odd.zero_lash_in or 0.0
        return Verdict(
            "conflict",
            f"Zero lash {{z}}; {combined.odd.name} does not fit.",
            "It says {o}; the others agree. It is left out.",
            "Strike it out, or repeat it.",
            lengths,
            smalls,
        )
    count = len(combined.used)
    why = "Known to ± {u} (k = 2)."
    if count > 1:
        why = f"From {count} measurements that agree; known to ± {{u}} (k = 2)."
    for i, one in enumerate(combined.set_aside):
        lengths[f"a{i}"] = one.zero_lash_in or 0.0
        why += f" {one.name} says {{a{i}}}: no count of turns overturns trials counted back."
    return Verdict("settled", "Zero lash {z}.", why, "Go to the next valve.", lengths, smalls)


def _listed(names: Sequence[str]) -> str:
    return " and ".join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _beyond(estimate_in: float, u_in: float, bracket: Bracket) -> str:
    """What an open bracket says against a length, in words; empty when nothing."""
    slack = 3 * u_in + USUAL_FEELING.zero_reach_in
    loose, tight = bracket.longest_loose, bracket.shortest_tight
    if loose is not None and estimate_in < loose.length_in - slack:
        return f"trial {loose.number} is longer and felt loose"
    if tight is not None and estimate_in > tight.length_in + slack:
        return f"trial {tight.number} is shorter and felt tight"
    return ""


def _preload_verdict(measure: Measure, lifter: Lifter) -> Verdict:
    preload = measure.preload_in or 0.0
    smalls = {"p": preload, "u": 2 * measure.u_in, "low": lifter.low_in, "high": lifter.high_in}
    inside = lifter.low_in <= preload <= lifter.high_in
    return Verdict(
        "closing" if inside else "outside",
        "Preload {p} with this rod.",
        f"Known to ± {{u}} (k = 2); {'inside' if inside else 'outside'} the window "
        "{low} to {high}.",
        "Give the rod's length as well, and zero lash follows.",
        {},
        smalls,
    )


def solid_verdict(kind: ValveKind) -> Verdict:
    """A group on solid lifters: the adjuster sets the lash, so no preload is chosen."""
    return Verdict(
        "waiting",
        f"Solid lifters: no preload on the {kind} side.",
        "The adjuster sets the lash; the rod's length sets the rocker's geometry.",
        "Set lash valve by valve on the base circle; the maker's figure rules.",
    )


def _closed_verdict(
    bracket: Bracket,
    estimate_in: float,
    u_in: float,
    then: str,
    counts_turns: bool,
    accuracy_stated: bool,
) -> Verdict:
    lengths, smalls = {"z": estimate_in}, {"u": 2 * u_in, "w": bracket.within_in}
    chance = (
        f"{bracket.within_probability:.0%}" if bracket.within_probability < 0.99 else "over 99%"
    )
    why = f"Known to ± {{u}} (k = 2). Chance that the trials are within {{w}}: {chance}."
    if not accuracy_stated:
        why += _UNSTATED
    if bracket.settled:
        return Verdict(
            "settled",
            "Zero lash {z}.",
            why,
            "Count the turns back to closed as a check, then go to the next valve."
            if counts_turns
            else "Go to the next valve.",
            lengths,
            smalls,
        )
    return Verdict(
        "closing",
        "About {z} so far.",
        why,
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
    return _taken_verdict(group, group.taken, window, lifter)


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


def _taken_verdict(
    group: GroupOrder, taken: Candidate, window: dict[str, float], lifter: Lifter
) -> Verdict:
    preloads = [f.preload_in for f in taken.fits]
    spread = "{p}" if len(preloads) == 1 else "{p} to {q}"
    lengths = {"l": taken.length_in}
    smalls = window | {"p": min(preloads), "q": max(preloads), "m": abs(taken.miss_in)}
    if group.at_limit(lifter):
        known = {"b": taken.beyond_in(lifter), "u": 2 * max(v.u_in for v in group.measured)}
        return Verdict(
            "closing",
            "{l} is at the limit of the window.",
            f"Preload {spread} misses {{low}} to {{high}} by {{b}}; zero lash is known to ± {{u}}.",
            "Measure it more exactly, or pick another length.",
            lengths,
            smalls | known,
        )
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
        others = "the four corners" if group.corners_left and group.quantity > 4 else "the others"
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


def decision_verdict(found: Decision) -> Verdict:
    """What the rods of the whole engine do, in the way that is chosen."""
    chosen, lines = found.chosen, found.lines
    lengths = "One length" if len(lines) == 1 else f"{len(lines)} lengths"
    smalls = {"m": chosen.worst_miss_in}
    if found.aim.mode != "length":
        return _set_by_adjuster(found, lengths, smalls)
    worst = min(found.rows, key=lambda row: row.chances.cold)
    if worst.standing == "outside" or found.fewest.infeasible:
        return _outside_verdict(found, smalls)
    if worst.standing == "at the limit":
        return _unsure_verdict(found, worst, smalls)
    put = f"{lengths} put{'s' if len(lines) == 1 else ''} every valve inside"
    if found.all_inside < SURE_SET:
        return _unsure_set(found, lengths, smalls)
    why = f"Worst miss of the target {{m}}; all are inside with {percent(found.all_inside)}."
    return Verdict("settled", f"{put}.", why, _inferred_words(found), {}, smalls)


def _set_by_adjuster(found: Decision, lengths: str, smalls: dict[str, float]) -> Verdict:
    if found.beyond_reach:
        far = max((abs(row.turns or 0.0) for row in found.rows), default=0.0)
        return _beyond_reach(found, far)
    if found.chosen.outside:
        return _outside_verdict(found, smalls)
    far = max((abs(row.turns or 0.0) for row in found.rows), default=0.0)
    why = f"No adjuster moves more than {far:.2f} turns from where it was measured."
    what = f"{lengths} for {len(found.valves)} valves."
    return Verdict("settled", what, why, _inferred_words(found))


def _inferred_words(found: Decision) -> str:
    """What to do next where all is right: the valves nobody measured, or a trial rod."""
    guessed = [v.name for v in found.valves if v.inferred]
    if not guessed:
        return "Try one rod of each length before the full set."
    more = f" and {len(guessed) - 3} more" if len(guessed) > 3 else ""
    return f"Inferred, not measured: {', '.join(guessed[:3])}{more}. Measure them first."


def percent(chance: float) -> str:
    """A chance in words, never surer than two figures can say."""
    return "over 99%" if chance > 0.99 else "under 1%" if chance < 0.01 else f"{chance:.0%}"


def _unsure_set(found: Decision, lengths: str, smalls: dict[str, float]) -> Verdict:
    """Each valve is likely inside, all of them together are not sure enough."""
    what = f"{lengths}: all {len(found.valves)} valves are inside with {percent(found.all_inside)}."
    more = found.measuring_more
    if more is None:
        then = "Measure the worst ones more exactly, or take more lengths."
        return Verdict("closing", what, "Worst miss of the target {m}.", then, {}, smalls)
    guessed = sum(v.inferred for v in found.valves)
    odd = f"one in {found.aim.odd_one_in} of those is odd"
    why = f"Worst miss of the target {{m}}; {guessed} are inferred, and {odd}."
    valves = "one valve" if more[0] == 1 else f"{more[0]} valves"
    then = f"Measure {valves} more: {percent(more[1])}, if they read alike."
    return Verdict("closing", what, why, then, {}, smalls)


def _beyond_reach(found: Decision, far: float) -> Verdict:
    """Common practice: threads are engaged and the oil path open only near where it was set."""
    names = f"{_listed(found.beyond_reach[:4])}{' and others' if found.beyond_reach[4:] else ''}"
    own = "nut" if found.aim.stud else "adjuster"
    return Verdict(
        "outside",
        f"{names}: the {own} would stand {far:.2f} turns from where it was measured.",
        f"It may move {found.aim.reach_turns:g} either way.",
        f"Measure zero lash again with the {own} where it will stand, or take a rod nearer to it.",
    )


def _unsure_verdict(found: Decision, worst: DecidedValve, smalls: dict[str, float]) -> Verdict:
    name, chance = worst.valve.name, percent(worst.chances.cold)
    gains = [n for n, _ in found.fewest.worst_by_count if n > len(found.lines)]
    then = "Measure it more exactly, or take a finer step."
    if gains:
        then = f"{gains[0]} different lengths would be surer; or measure it more exactly."
    return Verdict(
        "closing",
        f"{name} is at the limit of its window.",
        f"Worst miss of the target {{m}}; {name} is inside with {chance}, for all that is "
        "uncertain.",
        then,
        {},
        smalls,
    )


def _outside_verdict(found: Decision, smalls: dict[str, float]) -> Verdict:
    stuck = found.fewest.infeasible
    out = [r.valve.name for r in found.rows if r.standing == "outside"] or found.chosen.outside
    what = f"{_listed(out[:4])}{' and others' if len(out) > 4 else ''}: outside the window."
    if stuck:
        return Verdict(
            "outside", what, f"No length that can be bought serves {_listed(stuck[:4])}.",
            "See the remedies below: a length made to order, a shim, or the stem.", {}, smalls,
        )  # fmt: skip
    count = len(found.fewest.chosen_in)
    return Verdict(
        "outside",
        what,
        f"{count} different length{'s put' if count > 1 else ' puts'} every valve inside.",
        "Take the fewest lengths, or measure those valves again.",
        {},
        smalls,
    )
