"""What marks mean for the builder: the verdict, the next reading in words, opened figures.

Source: what a mark means is common practice; the figures come from ``marks`` and ``correction``.
"""

from vivid_arm.core.rocker.correction import (
    MARK_SCHOOLS,
    Correction,
    MarkSchool,
    NextReading,
    SchoolsConflict,
)
from vivid_arm.core.rocker.marks import MarksFit, correlations, drawn_error_u
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.sheet import DIMENSIONS
from vivid_arm.core.said.explanations import Explanation
from vivid_arm.core.said.verdicts import Verdict

WORTH_DECIDING = 1.0
_SIDE = {True: "too low", False: "too high"}


def rocker_verdict(
    found: MarksFit,
    correction: Correction,
    clash: SchoolsConflict | None,
    following: NextReading | None,
    step_in: float,
) -> Verdict:
    """Whether the rocker sits right, why, and what to do next."""
    then, smalls, lengths = reading_words(following, found.sheet.stud)
    smalls |= {"e": abs(found.best.error_in), "u": 2 * found.best.error_u_in}
    if not found.tries:
        return Verdict(
            "waiting",
            "Nothing seen on this rocker yet.",
            "From the dimensions alone the fulcrum's height is known to ± {u} (k = 2).",
            "Marker on the tip, zero lash, light springs, solid lifter; turn two full turns; "
            "enter the mark.",
            {},
            smalls,
        )
    if found.rivals:
        other = found.rivals[0]
        smalls |= {"f": abs(other.error_in)}
        return Verdict(
            "closing",
            f"Fulcrum {{e}} {_SIDE[found.best.error_in > 0]} or {{f}} {_SIDE[other.error_in > 0]}.",
            "A mark's width tells how far it is off, not which way."
            if found.best.error_in * other.error_in < 0
            else "The tries can be understood in two ways.",
            then,
            lengths,
            smalls,
        )
    if correction.exact_in is None or correction.rounded_in is None:
        return Verdict("outside", f"{correction.refused}.", _why(found), _OTHER_PARTS, {}, smalls)
    change = correction.change_in or 0.0
    smalls |= {"c": abs(change), "x": 2 * correction.u_in}
    lengths |= {"l": correction.rounded_in}
    if correction.refused:
        return Verdict(
            "outside",
            f"{correction.refused}.",
            f"With {_set_words(found.sheet.stud, correction)} the arm is right, the mark is not.",
            _OTHER_PARTS,
            lengths,
            smalls,
        )
    unsure = correction.u_in > WORTH_DECIDING * max(step_in, abs(change) / 2)
    if abs(change) <= step_in / 2 + 1e-9:
        sure = "" if correction.u_in <= step_in else " As far as it is known: ± {x} (k = 2)."
        return Verdict(
            "settled" if not sure else "closing",
            "The rocker sits right.",
            _why(found) + sure,
            then if sure else _agreement(clash),
            lengths,
            smalls,
        )
    if 2 * correction.u_in >= abs(change):
        known = 2 * correction.u_in <= _TELLING_IN
        read = then or "Make a mark with another setting."
        return Verdict(
            "closing",
            f"Not settled: {read[0].lower()}{read[1:]}",
            f"{_why(found)} The change would be {{c}}, ± {{x}} (k = 2)."
            if known
            else "The tries do not tell how far yet.",
            f"Only then change the {'rod' if found.sheet.stud else 'shim'}.",
            lengths,
            smalls,
        )
    return Verdict(
        "closing",
        _do_words(found.sheet.stud, change),
        f"{_why(found)} The change is known to ± {{x}} (k = 2).",
        f"First {then[0].lower()}{then[1:]}"
        if unsure and then
        else f"Then mark again. {_agreement(clash)}".strip(),
        lengths,
        smalls,
    )


_TELLING_IN = 0.25
"""A change known no better than this tells a builder nothing."""

_OTHER_PARTS = (
    "Move the stand, take an offset or another rocker; ask a licensed machinist before cutting."
)


def _why(found: MarksFit) -> str:
    return f"Fulcrum {{e}} {_SIDE[found.best.error_in > 0]}, ± {{u}}."


def _agreement(clash: SchoolsConflict | None) -> str:
    if clash is None:
        return ""
    side = "outboard" if clash.off_in > 0 else "inboard"
    return f"The mark then stands {side} of the middle: that is the stand's or the rocker's."


def _do_words(stud: bool, change_in: float) -> str:
    if stud:
        return f"Take a rod {{c}} {'longer' if change_in > 0 else 'shorter'}."
    if change_in > 0:
        return "Add {c} of shim under the stand."
    return "Take {c} out from under the stand: shims, or machining."


def _set_words(stud: bool, correction: Correction) -> str:
    return "this rod" if stud else "this shim"


def reading_words(
    reading: NextReading | None, stud: bool
) -> tuple[str, dict[str, float], dict[str, float]]:
    """A reading to take, in words, with the figures to fill in: smalls, lengths (inches)."""
    if reading is None:
        return "", {}, {}
    if reading.kind == "mark" and reading.setting_in is not None:
        if stud:
            return "Make a mark with a rod of {m}.", {}, {"m": reading.setting_in}
        if reading.setting_in < 0:
            return "Make a mark with {m} less under the stand.", {"m": -reading.setting_in}, {}
        return "Make a mark with {m} of shim.", {"m": reading.setting_in}, {}
    if reading.kind == "dimension" and reading.dimension is not None:
        field = DIMENSIONS[reading.dimension]
        return f"Measure: {field.words.lower()}. {field.how}.", {}, {}
    return _READ[reading.kind], {}, {}


_READ = {
    "angle": "Read the arm's angle at half lift with an inclinometer.",
    "lift": "Read the net lift with light springs.",
    "again": "Make the same mark once more.",
    "mark": "Make a mark.",
    "closed_end": "Look at which end of the mark the closed valve stands.",
}


def explain_error(found: MarksFit, lift_in: float) -> Explanation:
    """How far the fulcrum is off the mid-lift rule."""
    roller = found.sheet.tip == "roller"
    formula = "e = (r − k) − h/2" if roller else "e = −k − h/2, contact level at half lift"
    notes = [
        f"Least squares over {len(found.tries)} "
        f"{'try' if len(found.tries) == 1 else 'tries'} and the dimensions, each by its "
        "uncertainty.",
        "Above zero the fulcrum stands too low.",
        "± {u} (k = 2) from the fit's Jacobian; 2,000 scattered fits give ± {m}.",
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
            "m": 2 * drawn_error_u(found),
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
