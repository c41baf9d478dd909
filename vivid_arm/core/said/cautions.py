"""Cautions shown where they apply.

Source: all common practice; the makers' sheets rule.
"""

from vivid_arm.core.words import Saying

MEASURING: tuple[Saying, ...] = (
    Saying("Turn the engine by hand, plugs out. Keep fingers clear of rocker and spring."),
    Saying("Lifter on the base circle of its lobe, all the way down on the cam."),
    Saying(
        "With a hydraulic lifter feel with light fingers: any push moves the plunger "
        "and reads long."
    ),
    Saying("A checking rod bends under real springs: light checking springs only."),
    Saying("Run no rocker fastener down while its lifter stands on the lobe."),
)
LIFTER_FOOT: dict[str, Saying] = {
    "flat": Saying("A flat lifter goes back on its own lobe, and must turn in its bore."),
    "roller": Saying(
        "Keep the roller square to the cam: its guide or tie bar stays on while measuring."
    ),
}
ADJUSTABLE_SHAFT = Saying(
    "Set the rocker's adjuster first: one turn in from fully out is common practice."
)
SHAFT = Saying("Draw the shaft's bolts down evenly: tightening one side tilts it.")
TURNING: tuple[Saying, ...] = (
    Saying("Turn the engine by hand, plugs out, in its own direction only."),
    Saying("Keep fingers clear of rocker and spring while it turns."),
    Saying("Light finger pressure on the rod shows whether the lifter rises."),
    Saying("The cam maker's card rules; a degree wheel needs a true TDC."),
)
ORDERING: tuple[Saying, ...] = (
    Saying("The lifter, rocker and fastener makers' sheets rule over any figure here."),
    Saying("Buy one rod a size up and one a size down and try them before the full set."),
    Saying("Check preload again with the rods that will run. In doubt ask a licensed machinist."),
)
MARKING: tuple[Saying, ...] = (
    Saying(
        "Light checking springs and a solid lifter: a plunger that gives way makes "
        "the wrong rod look right."
    ),
    Saying("Turn the engine by hand, plugs out; keep fingers clear of rocker and spring."),
    Saying("Marker, dye, solvent: gloves and fresh air."),
    Saying(
        "The rocker and valve makers' sheets rule. In doubt ask a licensed machinist "
        "before cutting."
    ),
)
FITTING: tuple[Saying, ...] = (
    Saying(
        "Run rocker fasteners down only with both lifters on the heel: small bolts bend or snap."
    ),
    Saying("Turn the engine by hand, plugs out. Nothing between rocker and spring while it turns."),
    Saying("Valve springs store energy: eye protection and a proper compressor."),
    Saying(
        "The makers' sheets for lifter, rocker and fastener rule. In doubt ask a "
        "licensed machinist."
    ),
)
TORQUE = Saying(
    "Figures as entered from the maker's sheet. Both lifters on the heel before a fastener is run "
    "down; threads clean, lubricant as the sheet says."
)
