"""What is done at each station, step by step, and what to be careful of there.

Source: common practice; wording ours.
"""

from vivid_arm.core.said.cautions import FITTING, MARKING, MEASURING, ORDERING, TURNING

STEPS: dict[str, tuple[str, ...]] = {
    "setup": (
        "Layout, ratio and window of preload or lash: the maker's sheet rules.",
        "What measures: a checking rod with its closed length and thread, or a caliper.",
        "The cam card, the last known rods and what changed since, where they are at hand.",
    ),
    "base_circle": (
        "Choose which valves are measured, and a school of stops.",
        "Turn the crank to the stop; look whether the lifter is down.",
        "Measure the valves of the stop, then turn on.",
    ),
    "zero_lash": (
        "Set the rod to what the red bar says.",
        "Spin it home, then feel it up and down: loose, zero or tight. With feelers read the gap.",
        "Go on until it says settled; count the turns back once.",
    ),
    "rocker": (
        "Marker on the tip, zero lash, two full turns; enter both edges of the mark.",
        "Read the arm's angle at half lift where it is asked for.",
        "Change rod or shim as it says, then mark again.",
    ),
    "heads": (
        "See whether the valves agree; read again what is doubted, by the check that is named.",
        "Measure what is left, or go on with what the corners tell.",
    ),
    "decide": (
        "Choose how lengths are bought: one a kind, each valve its own, or what is in the box.",
        "See how far inside its window every valve comes, and with what chance.",
        "Look at the engine hot, and at the rod's diameter and wall.",
    ),
    "order": (
        "Try one rod a size up and one a size down before the full set.",
        "Give ends, convention and oil holes; place it, or send the sheet.",
        "Measure every rod that comes; what is not as ordered is named.",
    ),
    "sign_off": (
        "Check every line with the rods that run: preload or lash, clearances, marks.",
        "Say why where something stays open; then sign.",
        "Print the report and the torque card.",
    ),
}  # fmt: skip
"""By station, in the order of the work."""
CAUTIONS: dict[str, tuple[str, ...]] = {
    "base_circle": TURNING,
    "zero_lash": MEASURING,
    "rocker": MARKING,
    "order": ORDERING,
    "sign_off": FITTING,
}
