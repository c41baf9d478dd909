"""What marks mean for the builder: the next reading in words, opened figures.

Source: what a mark means is common practice; the figures come from ``marks`` and ``correction``.
"""

from vivid_arm.core.rocker.correction import (
    MARK_SCHOOLS,
    Correction,
    MarkSchool,
    NextReading,
)
from vivid_arm.core.rocker.marks import MarksFit, correlations, drawn_error_u, outputs_at
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.sheet import DIMENSIONS
from vivid_arm.core.rocker.sweep import EDGE_CLEAR_IN
from vivid_arm.core.said.explanations import Explanation
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.core.words import Saying, figure, say, within_a_sentence


def reading_words(
    reading: NextReading | None, stud: bool
) -> tuple[str, dict[str, float], dict[str, float]]:
    """A reading to take, in words, with the figures to fill in: smalls, lengths (inches)."""
    if reading is None:
        return "", {}, {}
    if reading.kind == "mark" and reading.setting_in is not None:
        if stud:
            return (
                say("Make a mark with a rod of {m}, measure its edges."),
                {},
                {"m": reading.setting_in},
            )
        if reading.setting_in < 0:
            return (
                say("Make a mark with {m} less under the stand, measure its edges."),
                {"m": -reading.setting_in},
                {},
            )
        return (
            say("Make a mark with {m} of shim, measure its edges."),
            {"m": reading.setting_in},
            {},
        )
    if reading.kind == "dimension" and reading.dimension is not None:
        field = DIMENSIONS[reading.dimension]
        return (
            say("Measure: {words}. {how}.", words=within_a_sentence(field.words), how=field.how),
            {},
            {},
        )
    if reading.by == "heights":
        return say(_FINER), {}, {}
    return say(_READ[reading.kind]), {}, {}


def reading_ways(reading: NextReading | None) -> str:
    """What a reading can be taken with, where tools differ; empty where they do not."""
    if reading is None or reading.kind != "angle" or reading.by is not None:
        return ""
    return say("Inclinometer, or straight edge and two heights.")


_FINER = Saying("Read the arm's angle finer: a straight edge on it, two heights.")
_READ = {
    "angle": Saying("Read the arm's angle at half lift."),
    "lift": Saying("Read the net lift with light springs."),
    "again": Saying("Make the same mark once more, measure its edges."),
    "mark": Saying("Make a mark and measure its edges."),
    "closed_end": Saying("Look at which end of the mark the closed valve stands."),
}


ACROSS_WITHIN_IN = 0.020
"""How far a roller or shoe may run off the tip's middle sideways: common practice."""


def across_verdict(across_in: float | None, stem_in: float, *, by_design: bool) -> Verdict | None:
    """How a mark lies sideways on the tip; None where it was not read or lies well."""
    if across_in is None or abs(across_in) <= ACROSS_WITHIN_IN:
        return None
    smalls = {"a": abs(across_in)}
    if abs(across_in) > stem_in / 2 - EDGE_CLEAR_IN:
        return Verdict(
            "outside",
            say("The rocker runs {a} off the tip's middle sideways, close to its edge."),
            say("It side-loads the stem and may leave the tip."),
            say("Side shims, guide plate or stud; then mark again. Not to be run so."),
            {}, smalls,
        )  # fmt: skip
    if by_design:
        return Verdict(
            "settled", say("{a} off the middle sideways, by design as you said."),
            say("Some stock rockers turn the valve so."), "", {}, smalls,
        )  # fmt: skip
    return Verdict(
        "closing",
        say("The rocker runs {a} off the tip's middle sideways."),
        say("It wears guide and tip on one side."),
        say(
            "Shim it sideways, or set guide plate or stud; then check its end play. "
            "Where the maker meant it so, say so in the dimensions."
        ),
        {},
        smalls,
    )


OVER_SHARE, OVER_IN = 0.03, 0.010
"""A net lift is remarked from so much above the card's on: common practice."""


def over_lift_verdict(lift_in: float | None, card_in: float | None) -> Verdict | None:
    """A net lift read above the card's; None where none was read or it is not."""
    if lift_in is None or card_in is None:
        return None
    over = lift_in - card_in
    if over < max(OVER_SHARE * card_in, OVER_IN):
        return None
    return Verdict(
        "closing",
        say("Net lift {h} is {o} above the card's {c}."),
        say("The rocker gives more than its catalogue ratio, the lobe is another, or the indicator "
        "stood askew."),
        say("Check coils, retainer to seal and guide, and piston to valve at this lift."),
        {}, {"h": lift_in, "o": over, "c": card_in},
    )  # fmt: skip


def direction_words(found: MarksFit, setting_in: float) -> str:
    """Whether the trade's rule of direction holds for a mark made here, and what decides."""
    step = 0.010
    here, there = (
        float(outputs_at(found, setting_in + s, "middle")[0][0]) for s in (-step / 2, step / 2)
    )
    stud = found.sheet.stud
    longer = say("a longer rod") if stud else say("more shim")
    rule = (
        say("“Outboard: too long; inboard: too short”")
        if stud
        else say("“Outboard: too high; inboard: too low”")
    )
    if found.rivals:
        return say(
            "{rule} holds with the fulcrum too low and is the wrong way round with it too "
            "high: the closed end or the arm's angle decides.",
            rule=rule,
        )
    moved = there - here
    if abs(moved) < 0.0003:
        return say(
            "{rule} tells nothing here: {longer} hardly moves the middle. The angle decides.",
            rule=rule,
            longer=longer,
        )
    if moved > 0:
        return say("{rule} holds here: {longer} moves the mark outboard.", rule=rule, longer=longer)
    return say(
        "{rule} is the wrong way round here: {longer} moves this mark's middle inboard, "
        "since the arm already stands past level. The arm's angle decides.",
        rule=rule,
        longer=longer,
    )


def explain_error(found: MarksFit, lift_in: float) -> Explanation:
    """How far the fulcrum is off the mid-lift rule."""
    roller = found.sheet.tip == "roller"
    formula = "e = (r − k) − h/2" if roller else say("e = −k − h/2, contact level at half lift")
    notes = [
        say(
            "Least squares over {count} {tries} and the dimensions, each by its uncertainty.",
            count=len(found.tries),
            tries=say("try") if len(found.tries) == 1 else say("tries"),
        ),
        say("Above zero the fulcrum stands too low."),
        say("± {u} (k = 2) from the fit's Jacobian; 2,000 scattered fits give ± {m}.")
        if found.best.whole
        else say("± {u} (k = 2), of both sides of the exact mid-lift where the tries allow both."),
    ]
    if found.tries:
        tied = float(correlations(found, ("rise_in", "film_in"))[0, 1])
        notes.append(
            say(
                "Height and film width are tied by a correlation of {tied}.",
                tied=figure(tied, "+.2f"),
            )
        )
    return Explanation(
        say("Off mid-lift"),
        formula,
        "{s} − {h}/2 = {e}",
        "geometry",
        say("Mid-lift rule: common practice; JCGM 100:2008 (GUM), 5.1.2"),
        {},
        {
            "s": found.best.error_in + lift_in / 2,
            "h": lift_in,
            "e": found.best.error_in,
            "u": 2 * found.best.error_u_in,
            "m": 2 * drawn_error_u(found) if found.best.whole else 0.0,
        },
        tuple(notes),
    )


def explain_correction(found: MarksFit, correction: Correction) -> Explanation | None:
    """The rod or shim a school asks for."""
    if correction.exact_in is None or correction.rounded_in is None:
        return None
    now = float(correction.now.setting_in[0])
    ratio = float(correction.now.ratio[0])
    stud = found.sheet.stud
    rule = (
        say(
            "About e × (1 + 1/R0), R0 = {ratio}; worked out on the whole mechanism.",
            ratio=figure(ratio, ".3f"),
        )
        if stud
        else say(
            "About e; the zero-lash length then grows by shim × (1 + 1/R0), R0 = {ratio}.",
            ratio=figure(ratio, ".3f"),
        )
    )
    figures = {"n": now, "x": correction.exact_in, "r": correction.rounded_in}
    return Explanation(
        say("Rod") if stud else say("Shim"),
        say("the setting at which the arm is level at half lift")
        if correction.school == "mid_lift"
        else say("the setting at which the mark is central"),
        say("now {n}; exact {x}; to be had {r}"),
        "geometry",
        say("Rocker as a four-bar loop"),
        figures if stud else {},
        ({} if stud else figures) | {"u": 2 * correction.u_in},
        (rule, say("Exact one known to ± {u} (k = 2).")),
    )


def explain_r0(value: float, u: float, catalogue: float) -> Explanation:
    """The ratio near closed from the geometry."""
    return Explanation(
        say("R0, ratio near closed"),
        say("R0 = valve lift / lobe lift as both begin"),
        say(
            "{value} ± {within} (k = 2); catalogue {catalogue}",
            value=figure(value, ".3f"),
            within=figure(2 * u, ".3f"),
            catalogue=figure(catalogue, "g"),
        ),
        "geometry",
        say("Rocker as a four-bar loop"),
        {},
        {},
        (say("The ratio falls through the lift; the catalogue's is one figure for all of it."),),
    )


def school_words(school: MarkSchool, tip: Tip) -> str:
    """A school's name, with what it gains on this tip."""
    gains = {"roller": say("narrowest mark"), "shoe": say("least sliding")}[tip]
    name = say(MARK_SCHOOLS[school])
    return f"{name}, {gains}" if school == "mid_lift" else name
