"""What the shop has learned, in words.

Source: wording of the program; what to read in a crossed study, ISO/TR 12888:2011.
"""

from vivid_arm.core.shop.gauge_study import Component, GaugeStudy
from vivid_arm.core.shop.learned import LEAST_ENGINES, Held
from vivid_arm.core.words import Saying, figure, say

COMPONENT_WORDS: dict[Component, Saying] = {
    "repeat": Saying("The same hand again"),
    "person": Saying("From person to person"),
    "person_by_valve": Saying("A person on one valve and another"),
    "tool": Saying("From tool to tool"),
}
METHOD = Saying(
    "Crossed gauge study by variance components (restricted maximum likelihood, Patterson and "
    "Thompson 1971; layout of ISO/TR 12888). Lengths felt as zero, or opened to and read, "
    "on valves read more than once. A tool's step over root twelve is the least. Limits: 95 %."
)
_TOO_SURE = 1.5
_TOO_CAREFUL = 0.5


def held_words(held: Held | None) -> str:
    """What predictions were worth."""
    if held is None:
        return say("No engine was predicted and then measured.")
    if held.count < LEAST_ENGINES:
        return say("Too few to judge.")
    if held.in_u > _TOO_SURE:
        return say("Surer than they may be: state what changed with more room.")
    if held.in_u < _TOO_CAREFUL:
        return say("Better than they say.")
    return say("As good as they say.")


def open_words(study: GaugeStudy | None) -> str:
    """What to read so that the study can tell more; empty where it tells all."""
    if study is None:
        return say(
            "Feel zero twice on a valve: the second reading tells how well the hand repeats."
        )
    untold = {v.component for v in study.variances if not v.told}
    if "person" in untold:
        return say("Let two people feel zero on the same four valves, twice each.")
    if "tool" in untold:
        return say("Read the same four valves with two tools.")
    if "person_by_valve" in untold:
        return say("Let each feel zero twice on a valve that both read.")
    return ""


def factor_words(factor: float | None, u: float | None, engines: int) -> str:
    """What R0 a build starts from; empty where the shop cannot tell."""
    if factor is None or u is None:
        return ""
    return say(
        "R0 is {factor} × the catalogue's ratio ± {value} (k = 2), from {engines} engines.",
        factor=figure(factor, ".3f"),
        value=figure(2 * u, ".1%"),
        engines=engines,
    )


def hand_words(person: str, engines: int) -> str:
    """Whose hand a build starts from; empty where the shop cannot tell."""
    return (
        say("The hand of {person}, from {engines} engines.", person=person, engines=engines)
        if person
        else ""
    )
