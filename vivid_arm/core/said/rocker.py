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


def reading_words(
    reading: NextReading | None, stud: bool
) -> tuple[str, dict[str, float], dict[str, float]]:
    """A reading to take, in words, with the figures to fill in: smalls, lengths (inches)."""
    if reading is None:
        return "", {}, {}
    if reading.kind == "mark" and reading.setting_in is not None:
        if stud:
            return (
                "Make a mark with a rod of {m}, measure its edges.",
                {},
                {"m": reading.setting_in},
            )
        if reading.setting_in < 0:
            return (
                "Make a mark with {m} less under the stand, measure its edges.",
                {"m": -reading.setting_in},
                {},
            )
        return "Make a mark with {m} of shim, measure its edges.", {"m": reading.setting_in}, {}
    if reading.kind == "dimension" and reading.dimension is not None:
        field = DIMENSIONS[reading.dimension]
        return f"Measure: {field.words.lower()}. {field.how}.", {}, {}
    if reading.by == "heights":
        return _FINER, {}, {}
    return _READ[reading.kind], {}, {}


def reading_ways(reading: NextReading | None) -> str:
    """What a reading can be taken with, where tools differ; empty where they do not."""
    if reading is None or reading.kind != "angle" or reading.by is not None:
        return ""
    return "Inclinometer, or straight edge and two heights."


_FINER = "Read the arm's angle finer: a straight edge on it, two heights."
_READ = {
    "angle": "Read the arm's angle at half lift.",
    "lift": "Read the net lift with light springs.",
    "again": "Make the same mark once more, measure its edges.",
    "mark": "Make a mark and measure its edges.",
    "closed_end": "Look at which end of the mark the closed valve stands.",
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
            "The rocker runs {a} off the tip's middle sideways, close to its edge.",
            "It side-loads the stem and may leave the tip.",
            "Side shims, guide plate or stud; then mark again. Not to be run so.",
            {}, smalls,
        )  # fmt: skip
    if by_design:
        return Verdict(
            "settled", "{a} off the middle sideways, by design as you said.",
            "Some stock rockers turn the valve so.", "", {}, smalls,
        )  # fmt: skip
    return Verdict(
        "closing",
        "The rocker runs {a} off the tip's middle sideways.",
        "It wears guide and tip on one side.",
        "Shim it sideways, or set guide plate or stud; then check its end play. Where the maker "
        "meant it so, say so in the dimensions.",
        {}, smalls,
    )  # fmt: skip


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
        "Net lift {h} is {o} above the card's {c}.",
        "The rocker gives more than its catalogue ratio, the lobe is another, or the indicator "
        "stood askew.",
        "Check coils, retainer to seal and guide, and piston to valve at this lift.",
        {}, {"h": lift_in, "o": over, "c": card_in},
    )  # fmt: skip


def direction_words(found: MarksFit, setting_in: float) -> str:
    """Whether the trade's rule of direction holds for a mark made here, and what decides."""
    step = 0.010
    here, there = (
        float(outputs_at(found, setting_in + s, "middle")[0][0]) for s in (-step / 2, step / 2)
    )
    stud = found.sheet.stud
    longer = "a longer rod" if stud else "more shim"
    rule = (
        "“Outboard: too long; inboard: too short”"
        if stud
        else "“Outboard: too high; inboard: too low”"
    )
    if found.rivals:
        return (
            f"{rule} holds with the fulcrum too low and is the wrong way round with it too high: "
            "the closed end or the arm's angle decides."
        )
    moved = there - here
    if abs(moved) < 0.0003:
        return f"{rule} tells nothing here: {longer} hardly moves the middle. The angle decides."
    if moved > 0:
        return f"{rule} holds here: {longer} moves the mark outboard."
    return (
        f"{rule} is the wrong way round here: {longer} moves this mark's middle inboard, "
        "since the arm already stands past level. The arm's angle decides."
    )


def explain_error(found: MarksFit, lift_in: float) -> Explanation:
    """How far the fulcrum is off the mid-lift rule."""
    roller = found.sheet.tip == "roller"
    formula = "e = (r − k) − h/2" if roller else "e = −k − h/2, contact level at half lift"
    notes = [
        f"Least squares over {len(found.tries)} "
        f"{'try' if len(found.tries) == 1 else 'tries'} and the dimensions, each by its "
        "uncertainty.",
        "Above zero the fulcrum stands too low.",
        "± {u} (k = 2) from the fit's Jacobian; 2,000 scattered fits give ± {m}."
        if found.best.whole
        else "± {u} (k = 2), of both sides of the exact mid-lift where the tries allow both.",
    ]
    if found.tries:
        tied = float(correlations(found, ("rise_in", "film_in"))[0, 1])
        notes.append(f"Height and film width are tied by a correlation of {tied:+.2f}.")
    return Explanation(
        "Off mid-lift",
        formula,
        "{s} − {h}/2 = {e}",
        "geometry",
        "Mid-lift rule: common practice; JCGM 100:2008 (GUM), 5.1.2",
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
        f"About e × (1 + 1/R0), R0 = {ratio:.3f}; worked out on the whole mechanism."
        if stud
        else f"About e; the zero-lash length then grows by shim × (1 + 1/R0), R0 = {ratio:.3f}."
    )
    figures = {"n": now, "x": correction.exact_in, "r": correction.rounded_in}
    return Explanation(
        "Rod" if stud else "Shim",
        "the setting at which the arm is level at half lift"
        if correction.school == "mid_lift"
        else "the setting at which the mark is central",
        "now {n}; exact {x}; to be had {r}",
        "geometry",
        "Rocker as a four-bar loop",
        figures if stud else {},
        ({} if stud else figures) | {"u": 2 * correction.u_in},
        (rule, "Exact one known to ± {u} (k = 2)."),
    )


def explain_r0(value: float, u: float, catalogue: float) -> Explanation:
    """The ratio near closed from the geometry."""
    return Explanation(
        "R0, ratio near closed",
        "R0 = valve lift / lobe lift as both begin",
        f"{value:.3f} ± {2 * u:.3f} (k = 2); catalogue {catalogue:g}",
        "geometry",
        "Rocker as a four-bar loop",
        {},
        {},
        ("The ratio falls through the lift; the catalogue's is one figure for all of it.",),
    )


def school_words(school: MarkSchool, tip: Tip) -> str:
    """A school's name, with what it gains on this tip."""
    gains = {"roller": "narrowest mark", "shoe": "least sliding"}[tip]
    return f"{MARK_SCHOOLS[school]}, {gains}" if school == "mid_lift" else MARK_SCHOOLS[school]
