"""Verdicts: what, why, and what to do next, in that order.

Source: wording ours; what each state asks for is common practice.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from vivid_arm.core.engine.layout import KIND_WORDS, ValveKind
from vivid_arm.core.entry.instruments import CountBack
from vivid_arm.core.entry.lengths import format_length, format_small, format_turns
from vivid_arm.core.rods.decide import SURE_SET, DecidedValve, Decision
from vivid_arm.core.rods.groups import GroupOrder
from vivid_arm.core.rods.preload import Candidate, Choice, Lifter
from vivid_arm.core.words import Saying, Unit, figure, say
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
    unit: Unit | None = None,
) -> str:
    """Put figures into a sentence, without ``unit`` in that of whoever is answered.

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
    to_count: bool = True,
    accuracy_stated: bool = True,
) -> Verdict:
    """Where a valve's trials stand.

    ``u_in`` is the whole standard uncertainty, inches; ``to_count`` whether the turns of a
    checking rod are still to be counted back (a caliper has none); ``accuracy_stated``
    whether anybody stated the instrument's.
    """
    loose, tight = bracket.longest_loose, bracket.shortest_tight
    then = following.reason if following else ""
    if bracket.contradictions:
        worst = bracket.contradictions[0]
        return Verdict(
            "conflict",
            say(
                "Trials {first} and {second} contradict each other.",
                first=worst.first,
                second=worst.second,
            ),
            say(
                "{sentence} Usual causes: lifter not on the base circle, a tip out of its cup, "
                "stand nuts loose, the plunger pushed.",
                sentence=worst.sentence,
            ),
            then,
        )
    if bracket.estimate_in is not None and bracket.u_in is not None:
        whole = u_in or bracket.u_in
        return _closed_verdict(bracket, bracket.estimate_in, whole, then, to_count, accuracy_stated)
    if loose is not None:
        return Verdict(
            "closing",
            say("Longer than {l}."),
            say("No tight rod yet, so there is no upper end."),
            then or say("This rod opens no further: take a longer one."),
            {"l": loose.length_in},
        )
    if tight is not None:
        return Verdict(
            "closing",
            say("{t} or shorter.") if tight.feel == "no_lash" else say("Shorter than {t}."),
            say("No loose rod yet, so there is no lower end."),
            then or say("This rod closes no further: take a shorter one."),
            {"t": tight.length_in},
        )
    return Verdict(
        "waiting",
        say("No trial on this valve yet."),
        say("The length is known only once a rod was felt on the base circle."),
        then or say("Set the rod a little short, seat rocker and fastener, and feel it."),
    )


_UNSTATED = Saying(" The instrument's accuracy is not stated and not counted.")


def count_verdict(count: CountBack) -> Verdict:
    """A count-back that does not agree: every trial since the slip is off by it."""
    ran, counted = format_turns(count.running_turns), format_turns(count.counted_turns)
    way = say("longer") if count.error_in > 0 else say("shorter")
    return Verdict(
        "conflict",
        say(
            "Counted back {counted} turns, the running count says {ran}.", counted=counted, ran=ran
        ),
        say(
            "Trials since the slip were {{d}} {way} than written down: nothing is settled by them.",
            way=way,
        ),
        say(
            "If {counted} was right, say since which trial; in doubt set the rod again from "
            "closed. If it was miscounted, strike the count-back out.",
            counted=counted,
        ),
        {},
        {"d": abs(count.error_in)},
    )


def recount_words(count: CountBack, since: int) -> str:
    """What working trials out again by a count-back would do, as a button says it."""
    counted, by = format_turns(count.counted_turns), format_turns(abs(count.missing_turns))
    way = say("longer") if count.missing_turns > 0 else say("shorter")
    turns = say("turn") if abs(count.missing_turns) <= 1 else say("turns")
    return say(
        "{counted} was right: {by} {turns} {way} since trial {since}",
        counted=counted,
        by=by,
        turns=turns,
        way=way,
        since=since,
    )


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
            say("{used} disagree.", used=_listed([m.name for m in combined.used])),
            say("They differ by {d}, more than their uncertainties allow."),
            say("Measure it a third way: that tells which one is wrong, then strike it out."),
            {},
            {"d": max(spread) - min(spread)},
        )
    lengths, smalls = {"z": combined.estimate_in}, {"u": 2 * combined.u_in}
    beyond = _beyond(combined.estimate_in, combined.u_in, bracket)
    if beyond:
        return Verdict(
            "conflict", say("Measured {{z}}, but {beyond}.", beyond=beyond),
            say("The trials and the measurement cannot both be right."),
            say("Repeat the trial, then strike out the wrong one."), lengths, smalls,
        )  # fmt: skip
    if combined.odd is not None:
        lengths["o"] = combined.odd.zero_lash_in or 0.0
        return Verdict(
            "conflict",
            say("Zero lash {{z}}; {name} does not fit.", name=combined.odd.name),
            say("It says {o}; the others agree. It is left out."),
            say("Strike it out, or repeat it."),
            lengths,
            smalls,
        )
    count = len(combined.used)
    why = say("Known to ± {u} (k = 2).")
    if count > 1:
        why = say("From {count} measurements that agree; known to ± {{u}} (k = 2).", count=count)
    for i, one in enumerate(combined.set_aside):
        lengths[f"a{i}"] = one.zero_lash_in or 0.0
        why += say(
            " {name} says {{a{i}}}: no count of turns overturns trials counted back.",
            name=one.name,
            i=i,
        )
    return Verdict(
        "settled", say("Zero lash {z}."), why, say("Go to the next valve."), lengths, smalls
    )


def _listed(names: Sequence[str]) -> str:
    return say(" and ").join([", ".join(names[:-1]), names[-1]] if len(names) > 1 else names)


def _beyond(estimate_in: float, u_in: float, bracket: Bracket) -> str:
    """What an open bracket says against a length, in words; empty when nothing."""
    slack = 3 * u_in + USUAL_FEELING.zero_reach_in
    loose, tight = bracket.longest_loose, bracket.shortest_tight
    if loose is not None and estimate_in < loose.length_in - slack:
        return say("trial {number} is longer and felt loose", number=loose.number)
    if tight is not None and estimate_in > tight.length_in + slack:
        return say("trial {number} is shorter and felt tight", number=tight.number)
    return ""


def _preload_verdict(measure: Measure, lifter: Lifter) -> Verdict:
    preload = measure.preload_in or 0.0
    smalls = {"p": preload, "u": 2 * measure.u_in, "low": lifter.low_in, "high": lifter.high_in}
    inside = lifter.low_in <= preload <= lifter.high_in
    return Verdict(
        "closing" if inside else "outside",
        say("Preload {p} with this rod."),
        say(
            "Known to ± {{u}} (k = 2); {inside} the window {{low}} to {{high}}.",
            inside=say("inside") if inside else say("outside"),
        ),
        say("Give the rod's length as well, and zero lash follows."),
        {},
        smalls,
    )


def solid_verdict(kind: ValveKind) -> Verdict:
    """A group on solid lifters: the adjuster sets the lash, so no preload is chosen."""
    return Verdict(
        "waiting",
        say("Solid lifters: no preload on the {kind} side.", kind=KIND_WORDS[kind]),
        say("The adjuster sets the lash; the rod's length sets the rocker's geometry."),
        say("Set lash valve by valve on the base circle; the maker's figure rules."),
    )


def _closed_verdict(
    bracket: Bracket,
    estimate_in: float,
    u_in: float,
    then: str,
    to_count: bool,
    accuracy_stated: bool,
) -> Verdict:
    lengths, smalls = {"z": estimate_in}, {"u": 2 * u_in, "w": bracket.within_in}
    chance = (
        f"{bracket.within_probability:.0%}"
        if bracket.within_probability < 0.99
        else say("over 99%")
    )
    why = say(
        "Known to ± {{u}} (k = 2). Chance that the trials are within {{w}}: {chance}.",
        chance=chance,
    )
    if not accuracy_stated:
        why += say(_UNSTATED)
    if bracket.settled:
        return Verdict(
            "settled",
            say("Zero lash {z}."),
            why,
            say("Count the turns back to closed as a check, then go to the next valve.")
            if to_count
            else say("Go to the next valve."),
            lengths,
            smalls,
        )
    return Verdict(
        "closing",
        say("About {z} so far."),
        why,
        then or say("A finer setting tells no more; repeat a trial to be surer."),
        lengths,
        smalls,
    )


def group_verdict(group: GroupOrder, lifter: Lifter, step_in: float) -> Verdict:
    """What the chosen length of a group does."""
    window = {"low": lifter.low_in, "high": lifter.high_in, "step": step_in}
    if group.choice is None:
        return Verdict(
            "waiting",
            say("No {kind} valve is measured to zero lash.", kind=KIND_WORDS[group.kind]),
            say("The rod length follows from the zero-lash length."),
            say("Measure one {kind} valve first.", kind=KIND_WORDS[group.kind]),
        )
    if group.taken is None:
        return _nothing_fits(group.choice, window)
    return _taken_verdict(group, group.taken, window, lifter)


def _nothing_fits(choice: Choice, window: dict[str, float]) -> Verdict:
    preload = choice.nearest.fits[0].preload_in
    gives = say("gives {p}") if preload >= 0 else say("stays loose by {p}")
    return Verdict(
        "outside",
        say("No stock length fits."),
        say(
            "In steps of {{step}} the nearest, {{n}}, {gives}; the window is {{low}} to {{high}}.",
            gives=gives,
        ),
        say("Order a made-to-order length near {e}, or take a finer step."),
        {"n": choice.nearest.length_in, "e": choice.exact_in},
        window | {"p": abs(preload)},
    )


def _taken_verdict(
    group: GroupOrder, taken: Candidate, window: dict[str, float], lifter: Lifter
) -> Verdict:
    preloads = [f.preload_in for f in taken.fits]
    spread = "{p}" if len(preloads) == 1 else say("{p} to {q}")
    lengths = {"l": taken.length_in}
    smalls = window | {"p": min(preloads), "q": max(preloads), "m": abs(taken.miss_in)}
    if group.at_limit(lifter):
        known = {"b": taken.beyond_in(lifter), "u": 2 * max(v.u_in for v in group.measured)}
        return Verdict(
            "closing",
            say("{l} is at the limit of the window."),
            say(
                "Preload {spread} misses {{low}} to {{high}} by {{b}}; zero lash is known to ± "
                "{{u}}.",
                spread=spread,
            ),
            say("Measure it more exactly, or pick another length."),
            lengths,
            smalls | known,
        )
    if not taken.inside:
        return Verdict(
            "outside",
            say("{l} is outside the window."),
            say("Preload {spread}; the window is {{low}} to {{high}}.", spread=spread),
            say("Pick another length, or measure again."),
            lengths,
            smalls,
        )
    errs = {"exact": say("on the target"), "long": say("{m} long"), "short": say("{m} short")}[
        taken.errs
    ]
    then = say("Try one rod before the full set.")
    if group.short_of_measured:
        others = (
            say("the four corners")
            if group.corners_left and group.quantity > 4
            else say("the others")
        )
        measured = say(
            "{measured} of {quantity} valves measured",
            measured=len(group.measured),
            quantity=group.quantity,
        )
        then = say(
            "{measured}: measure {others} before the full set.", measured=measured, others=others
        )
    return Verdict(
        "settled",
        say("Order {l}."),
        say("Preload {spread}, inside {{low}} to {{high}}; {errs}.", spread=spread, errs=errs),
        then,
        lengths,
        smalls,
    )


def decision_verdict(found: Decision) -> Verdict:
    """What the rods of the whole engine do, in the way that is chosen."""
    chosen, lines = found.chosen, found.lines
    lengths = say("One length") if len(lines) == 1 else say("{lines} lengths", lines=len(lines))
    smalls = {"m": chosen.worst_miss_in}
    if found.aim.mode != "length":
        return _set_by_adjuster(found, lengths, smalls)
    worst = min(found.rows, key=lambda row: row.chances.cold)
    if worst.standing == "outside" or found.fewest.infeasible:
        return _outside_verdict(found, smalls)
    if worst.standing == "at the limit":
        return _unsure_verdict(found, worst, smalls)
    if found.all_inside < SURE_SET:
        return _unsure_set(found, lengths, smalls)
    why = say(
        "Worst miss of the target {{m}}; all are inside with {all_inside}.",
        all_inside=percent(found.all_inside),
    )
    put = (
        say("One length puts every valve inside.")
        if len(lines) == 1
        else say("{lines} lengths put every valve inside.", lines=len(lines))
    )
    return Verdict("settled", put, why, _inferred_words(found), {}, smalls)


def _set_by_adjuster(found: Decision, lengths: str, smalls: dict[str, float]) -> Verdict:
    if found.beyond_reach:
        far = max((abs(row.turns or 0.0) for row in found.rows), default=0.0)
        return _beyond_reach(found, far)
    if found.chosen.outside:
        return _outside_verdict(found, smalls)
    far = max((abs(row.turns or 0.0) for row in found.rows), default=0.0)
    why = say(
        "No adjuster moves more than {far} turns from where it was measured.",
        far=figure(far, ".2f"),
    )
    what = say("{lengths} for {valves} valves.", lengths=lengths, valves=len(found.valves))
    return Verdict("settled", what, why, _inferred_words(found))


def _inferred_words(found: Decision) -> str:
    """What to do next where all is right: the valves nobody measured, or a trial rod."""
    guessed = [v.name for v in found.valves if v.inferred]
    if not guessed:
        return say("Try one rod of each length before the full set.")
    more = say(" and {guessed} more", guessed=len(guessed) - 3) if len(guessed) > 3 else ""
    return say(
        "Inferred, not measured: {guessed}{more}. Measure them first.",
        guessed=", ".join(guessed[:3]),
        more=more,
    )


def percent(chance: float) -> str:
    """A chance in words, never surer than two figures can say."""
    return (
        say("over 99%") if chance > 0.99 else say("under 1%") if chance < 0.01 else f"{chance:.0%}"
    )


def _unsure_set(found: Decision, lengths: str, smalls: dict[str, float]) -> Verdict:
    """Each valve is likely inside, all of them together are not sure enough."""
    what = say(
        "{lengths}: all {valves} valves are inside with {all_inside}.",
        lengths=lengths,
        valves=len(found.valves),
        all_inside=percent(found.all_inside),
    )
    more = found.measuring_more
    if more is None:
        then = say("Measure the worst ones more exactly, or take more lengths.")
        return Verdict("closing", what, say("Worst miss of the target {m}."), then, {}, smalls)
    guessed = sum(v.inferred for v in found.valves)
    odd = say("one in {odd_one} of those is odd", odd_one=found.aim.odd_one_in)
    why = say(
        "Worst miss of the target {{m}}; {guessed} are inferred, and {odd}.",
        guessed=guessed,
        odd=odd,
    )
    valves = say("one valve") if more[0] == 1 else say("{more} valves", more=more[0])
    then = say(
        "Measure {valves} more: {more}, if they read alike.", valves=valves, more=percent(more[1])
    )
    return Verdict("closing", what, why, then, {}, smalls)


def _beyond_reach(found: Decision, far: float) -> Verdict:
    """Common practice: threads are engaged and the oil path open only near where it was set."""
    names = (
        f"{_listed(found.beyond_reach[:4])}{say(' and others') if found.beyond_reach[4:] else ''}"
    )
    own = say("nut") if found.aim.stud else say("adjuster")
    return Verdict(
        "outside",
        say(
            "{names}: the {own} would stand {far} turns from where it was measured.",
            names=names,
            own=own,
            far=figure(far, ".2f"),
        ),
        say(
            "It may move {reach_turns} either way.", reach_turns=figure(found.aim.reach_turns, "g")
        ),
        say(
            "Measure zero lash again with the {own} where it will stand, or take a rod "
            "nearer to it.",
            own=own,
        ),
    )


def _unsure_verdict(found: Decision, worst: DecidedValve, smalls: dict[str, float]) -> Verdict:
    name, chance = worst.valve.name, percent(worst.chances.cold)
    gains = [n for n, _ in found.fewest.worst_by_count if n > len(found.lines)]
    then = say("Measure it more exactly, or take a finer step.")
    if gains:
        then = say(
            "{gains} different lengths would be surer; or measure it more exactly.", gains=gains[0]
        )
    return Verdict(
        "closing",
        say("{name} is at the limit of its window.", name=name),
        say(
            "Worst miss of the target {{m}}; {name} is inside with {chance}, for all that is "
            "uncertain.",
            name=name,
            chance=chance,
        ),
        then,
        {},
        smalls,
    )


def _outside_verdict(found: Decision, smalls: dict[str, float]) -> Verdict:
    stuck = found.fewest.infeasible
    out = [r.valve.name for r in found.rows if r.standing == "outside"] or found.chosen.outside
    what = say(
        "{names}{others}: outside the window.",
        names=_listed(out[:4]),
        others=say(" and others") if len(out) > 4 else "",
    )
    if stuck:
        return Verdict(
            "outside",
            what,
            say("No length that can be bought serves {stuck}.", stuck=_listed(stuck[:4])),
            say("See the remedies below: a length made to order, a shim, or the stem."),
            {},
            smalls,
        )
    count = len(found.fewest.chosen_in)
    return Verdict(
        "outside",
        what,
        say(
            "{count} different length{puts} every valve inside.",
            count=count,
            puts=say("s put") if count > 1 else say(" puts"),
        ),
        say("Take the fewest lengths, or measure those valves again."),
        {},
        smalls,
    )
