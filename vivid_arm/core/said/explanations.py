"""A figure that can be opened: formula, numbers put in, source.

Source: each explanation names its own.
"""

from dataclasses import dataclass, field
from typing import Literal

from vivid_arm.core.entry.conventions import CONVENTIONS, Convention, RodEnds, convert
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.core.rods.preload import RodFit, exact_length_in
from vivid_arm.core.words import Saying, figure, say, within_a_sentence
from vivid_arm.core.zero_lash.bracket import (
    FEELS,
    SETTLED_WITHIN_IN,
    USUAL_FEELING,
    Bracket,
    Feeling,
)
from vivid_arm.core.zero_lash.combine import Combined
from vivid_arm.core.zero_lash.methods import Measure
from vivid_arm.core.zero_lash.predict import CHANGES, Prediction
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, Figures

SourceKind = Literal["published", "common practice", "from memory", "geometry", "measured"]


@dataclass(frozen=True)
class Explanation:
    """How one figure came about.

    ``formula`` is in words; ``numbers`` repeats it with ``{name}`` placeholders
    that ``lengths`` (inches, rod-sized), ``smalls`` (inches, small) and ``pitches``
    (inches a turn) fill, so that it can be shown in either unit. ``notes`` are
    sentences that may hold the same placeholders.
    """

    title: str
    formula: str
    numbers: str
    source_kind: SourceKind
    source: str
    lengths: dict[str, float] = field(default_factory=dict)
    smalls: dict[str, float] = field(default_factory=dict)
    notes: tuple[str, ...] = ()
    pitches: dict[str, float] = field(default_factory=dict)


def explain_setting(rod: CheckingRod, turns: float) -> Explanation:
    """The length of a checking rod from its turns."""
    return Explanation(
        say("Rod set"),
        say("closed length + turns × pitch"),
        f"{{c}} + {format_turns(turns)} × {{p}} = {{l}}",
        "common practice",
        say("The checking rod maker's closed length and thread"),
        {"c": rod.closed_in, "l": rod.length_in(turns)},
        pitches={"p": rod.pitch_in},
    )


def explain_zero_lash(
    bracket: Bracket,
    ratio: float,
    feeling: Feeling = USUAL_FEELING,
    ratio_words: str = "",
) -> Explanation | None:
    """Where the estimate comes from; None while there is none.

    ``ratio_words`` say how the ratio is known when it is not the catalogue's.
    """
    if bracket.estimate_in is None:
        return None
    lengths = {"z": bracket.estimate_in}
    smalls = {"reach": feeling.zero_reach_in, "gsd": feeling.gap_sd_in}
    notes = [
        say(
            "Every trial is weighed by how likely its feel is at each possible length, for each "
            "hand that may have felt it. Your feel, as far as the other valves tell: zero is "
            "called within ± {reach}."
        )
    ]
    numbers = "{z}"
    if bracket.zeros:
        felt = ", ".join(str(t.number) for t in bracket.zeros)
        numbers = say("trial {numbers} felt zero → {{z}}", numbers=felt)
    elif bracket.longest_loose and bracket.shortest_tight:
        lengths |= {"a": bracket.longest_loose.length_in, "b": bracket.shortest_tight.length_in}
        end = FEELS[bracket.shortest_tight.feel]
        numbers = say("loose {{a}} < zero lash < {end} {{b}} → {{z}}", end=end)
    for trial in bracket.gaps:
        assert trial.gap_in is not None
        n = trial.number
        lengths |= {f"x{n}": trial.length_in, f"s{n}": trial.length_in + trial.gap_in / ratio}
        smalls |= {f"g{n}": trial.gap_in, f"m{n}": trial.gap_in / ratio}
        notes.append(
            say(
                "Trial {n}: {{x{n}}} + gap {{g{n}}} / {ratio} = {{x{n}}} + {{m{n}}} = {{s{n}}}.",
                n=n,
                ratio=figure(ratio, ".4g"),
            )
        )
    if bracket.gaps:
        notes.append(ratio_words or _catalogue_words(ratio, feeling))
        notes.append(say("A gap scatters by {gsd} at the tip."))
        if not bracket.zeros:
            read = ", ".join(str(t.number) for t in bracket.gaps)
            numbers = say("gaps read at trial {numbers} → {{z}}", numbers=read)
    return Explanation(
        say("Zero lash"),
        say("longest loose < zero lash < shortest tight; missing = gap / ratio"),
        numbers,
        "common practice",
        say("Figures of feel: common practice, no published source"),
        lengths,
        smalls,
        tuple(notes),
    )


def _catalogue_words(ratio: float, feeling: Feeling) -> str:
    return say(
        "{ratio} is the catalogue ratio, as R0 is not known; near closed it can differ "
        "by up to {ratio_half_width}.",
        ratio=figure(ratio, "g"),
        ratio_half_width=figure(feeling.ratio_half_width, ".0%"),
    )


def explain_uncertainty(bracket: Bracket, instrument_u_in: float) -> Explanation | None:
    """The standard uncertainty of zero lash, from feel and instrument."""
    if bracket.u_in is None:
        return None
    total = (bracket.u_in**2 + instrument_u_in**2) ** 0.5
    note = (
        say("The instrument's stated accuracy, ± a, counts as a / √3 (rectangular).")
        if instrument_u_in
        else say("No accuracy is stated for the instrument, so none is counted.")
    )
    return Explanation(
        "± (k = 2)",
        say("2 × √(u feel² + u instrument²)"),
        "2 × √({f}² + {i}²) = {U}",
        "published",
        say("JCGM 100:2008 (GUM), 4.3.7 and 5.1.2"),
        {},
        {
            "f": bracket.u_in,
            "i": instrument_u_in,
            "U": 2 * total,
            "w": bracket.within_in,
            "g": SETTLED_WITHIN_IN[0],
            "h": SETTLED_WITHIN_IN[-1],
        },
        (
            note,
            say(
                "The chance within {w} is the share of the lengths, as the trials weigh them, "
                "that lie within {w} of the estimate; 96% settles a valve. Gaps settle it within "
                "{g}; feel alone within what your hand can tell, {h} at most, and only "
                "with a loose rod half a turn below."
            ),
        ),
    )


def explain_exact(zero_lash_in: float, target_in: float) -> Explanation:
    """The exact rod length."""
    return Explanation(
        say("Exact rod"),
        say("zero lash + target preload"),
        "{z} + {t} = {e}",
        "common practice",
        say("The lifter maker's sheet sets the preload"),
        {"z": zero_lash_in, "e": exact_length_in(zero_lash_in, target_in)},
        {"t": target_in},
    )


def explain_order_length(
    length_in: float, given: Convention, wanted: Convention, ends: RodEnds
) -> Explanation:
    """A length carried from the measuring convention into the order's."""
    return Explanation(
        say("In the order's convention"),
        say(
            "{given} − its ends + the ends of {wanted}",
            given=CONVENTIONS[given],
            wanted=CONVENTIONS[wanted],
        ),
        "{l} − {a} + {b} = {r}",
        "geometry",
        say("Chords on the end balls"),
        {"l": length_in, "r": convert(length_in, given, wanted, ends)},
        {"a": ends.added_in(given), "b": ends.added_in(wanted)},
    )


def explain_lash_rod(zero_lash_in: float, lash_in: float, ratio: float) -> Explanation:
    """The exact rod length of a solid lifter: its lash is slack on the rod's side."""
    return Explanation(
        say("Exact rod"),
        say("zero lash − lash / R0"),
        f"{{z}} − {{l}} / {figure(ratio, '.4g')} = {{e}}",
        "common practice",
        say("The cam maker's sheet sets the lash"),
        {"z": zero_lash_in, "e": exact_length_in(zero_lash_in, -lash_in / ratio)},
        {"l": lash_in},
    )


def explain_fit(
    length_in: float, zero_lash_in: float, found: RodFit, travel_in: float
) -> Explanation:
    """Preload and off-bottom of one rod on one valve (lengths in one convention)."""
    return Explanation(
        say("Preload"),
        say("rod − zero lash; off-bottom = travel − preload"),
        say("{l} − {z} = {p}; {t} − {p} = {o} off the bottom"),
        "common practice",
        say("The lifter maker's sheet sets the window"),
        {"l": length_in, "z": zero_lash_in},
        {"p": found.preload_in, "t": travel_in, "o": found.off_bottom_in},
    )


def explain_measure(measure: Measure, read: Figures, ratio_words: str = "") -> Explanation:
    """One measurement by a method beside the bracket; its components stand in the notes."""
    way = MEASURING_WAYS[measure.method]
    lengths = {f"r{i}": x for i, x in enumerate(read.repeats, 1) if measure.method == "extend"}
    smalls = {"g": read.gap_in or 0.0, "T": read.travel_in}
    smalls["u"] = 2 * measure.u_in
    for name, value in (("rod", read.rod_in), ("z", measure.zero_lash_in)):
        if value is not None:
            lengths[name] = value
    for name, value in (("p", measure.preload_in), ("plain", measure.plain_in)):
        if value is not None:
            smalls[name] = value
    repeats = ", ".join(f"{{r{i}}}" for i in range(1, len(read.repeats) + 1))
    turns = format_turns(read.turns or 0.0)
    text = say(way.numbers, turns=turns, R=figure(read.ratio, ".4g"), read=repeats)
    if measure.zero_lash_in is None:
        text = text.split("; ")[0]
    formula = say(way.formula)
    notes = [say(_PLAIN)] if measure.plain_in is not None else []
    if measure.method == "turns" and read.plain_rule:
        formula, notes = say(_BY_PLAIN_RULE), [say(_HELD_IN_TURNS)]
        text = f"{turns} × {{t}} = {{p}}"
    if any(c.key == "ratio" for c in measure.components):
        notes.append(ratio_words or _catalogue_words(read.ratio, USUAL_FEELING))
    if measure.method == "gap_bottomed":
        notes.append(say("The travel is taken as stated; its tolerance is not counted."))
    for i, part in enumerate(measure.components):
        smalls[f"c{i}"] = abs(part.u_in)
        notes.append(f"u {part.words}: {{c{i}}}.")
    notes.append(
        say("Together ± {u} (k = 2); GUM 4.3.7 and 5.1.2. What is not stated is not counted.")
    )
    return Explanation(
        way.name, formula, text, "geometry", say("Lever about the valve tip"),
        lengths, smalls, tuple(notes), {"t": read.pitch_in},
    )  # fmt: skip


_BY_PLAIN_RULE = Saying("preload = turns × pitch, as the window is held")
_HELD_IN_TURNS = Saying(
    "The rod is pushed further, by turns × pitch × (1 + 1/R0): zero lash counts that."
)
_PLAIN = Saying("The plain rule, turns × pitch, gives {plain}: it leaves the lever out.")


def explain_combined(combined: Combined) -> Explanation | None:
    """One length from several measurements; None while they disagree."""
    if combined.estimate_in is None or combined.u_in is None:
        return None
    lengths = {"z": combined.estimate_in}
    smalls = {"u": 2 * combined.u_in}
    notes = []
    for i, (measure, weight) in enumerate(zip(combined.used, combined.weights, strict=True)):
        lengths[f"z{i}"] = measure.zero_lash_in or 0.0
        smalls[f"u{i}"] = 2 * measure.u_in
        notes.append(
            say(
                "{name}: {{z{i}}} ± {{u{i}}}, weight {weight}.",
                name=measure.name,
                i=i,
                weight=figure(weight, ".0%"),
            )
        )
    chance = f"{combined.probability:.0%}" if combined.probability >= 0.01 else say("under 1%")
    if len(combined.used) > 1 or combined.odd:
        notes.append(
            say("Chance that measurements which agree differ as much: {chance}.", chance=chance)
        )
    if combined.odd is not None:
        lengths["odd"] = combined.odd.zero_lash_in or 0.0
        notes.append(say("{name}, {{odd}}, is left out.", name=combined.odd.name))
    notes.append(say("What they share, such as ratio or caliper, is counted once."))
    return Explanation(
        say("Zero lash, from all measurements"),
        say("Σ weight × zero lash, weights by generalised least squares"),
        "{z} ± {u} (k = 2)",
        "published",
        say("JCGM 100:2008 (GUM), 5.2.2; chi-squared test at 1 %"),
        lengths,
        smalls,
        tuple(notes),
    )


def explain_prediction(prediction: Prediction, mount_words: str) -> Explanation:
    """Zero lash to expect from the last known rod and what changed."""
    before = prediction.zero_lash_in - sum(t.effect_in for t in prediction.terms)
    smalls = {"u": 2 * prediction.u_in}
    notes = []
    for i, term in enumerate(prediction.terms):
        smalls |= {f"b{i}": term.by_in, f"e{i}": term.effect_in}
        notes.append(f"{CHANGES[term.change]} {{b{i}}} × {figure(term.factor, '+.3f')} = {{e{i}}}.")
    notes.append(say("± {u} (k = 2) from what is stated; what is not stated is not counted."))
    return Explanation(
        say("Predicted, {mount_words}", mount_words=within_a_sentence(mount_words)),
        say("last zero lash + Σ factor × change"),
        say("{b} + changes = {z}"),
        "common practice",
        say("Along the pushrod; its angle is neglected"),
        {"b": before, "z": prediction.zero_lash_in},
        smalls,
        tuple(notes),
    )
