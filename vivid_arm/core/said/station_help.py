"""What is done at each station, step by step, and what to be careful of there.

Source: common practice; wording ours.
"""

from vivid_arm.core.said.cautions import FITTING, MARKING, MEASURING, ORDERING, TURNING
from vivid_arm.core.words import Saying

STEPS: dict[str, tuple[Saying, ...]] = {
    "setup": (
        Saying("Layout, ratio and window of preload or lash: the maker's sheet rules."),
        Saying("What measures: a checking rod with its closed length and thread, or a caliper."),
        Saying("The cam card, the last known rods and what changed since, where they are at hand."),
    ),
    "base_circle": (
        Saying("Choose which valves are measured, and a school of stops."),
        Saying("Turn the crank to the stop; look whether the lifter is down."),
        Saying("Measure the valves of the stop, then turn on."),
    ),
    "zero_lash": (
        Saying("Set the rod to what the red bar says."),
        Saying(
            "Spin it home, then feel it up and down: loose, zero or tight. With "
            "feelers read the gap."
        ),
        Saying("Go on until it says settled; count the turns back once."),
    ),
    "rocker": (
        Saying("Marker on the tip, zero lash, two full turns; enter both edges of the mark."),
        Saying("Read the arm's angle at half lift where it is asked for."),
        Saying("Change rod or shim as it says, then mark again."),
    ),
    "heads": (
        Saying(
            "See whether the valves agree; read again what is doubted, by the check that is named."
        ),
        Saying("Measure what is left, or go on with what the corners tell."),
    ),
    "decide": (
        Saying(
            "Choose how lengths are bought: one a kind, each valve its own, or what is in the box."
        ),
        Saying("See how far inside its window every valve comes, and with what chance."),
        Saying("Look at the engine hot, and at the rod's diameter and wall."),
    ),
    "order": (
        Saying("Try one rod a size up and one a size down before the full set."),
        Saying("Give ends, convention and oil holes; place it, or send the sheet."),
        Saying("Measure every rod that comes; what is not as ordered is named."),
    ),
    "sign_off": (
        Saying("Check every line with the rods that run: preload or lash, clearances, marks."),
        Saying("Say why where something stays open; then sign."),
        Saying("Print the report and the torque card."),
    ),
}
"""By station, in the order of the work."""
CAUTIONS: dict[str, tuple[Saying, ...]] = {
    "base_circle": TURNING,
    "zero_lash": MEASURING,
    "rocker": MARKING,
    "order": ORDERING,
    "sign_off": FITTING,
}
