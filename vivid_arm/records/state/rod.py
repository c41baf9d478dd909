"""A build's rod, its strength and its cut list, as the core's things."""

from typing import Any

from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.cutting import Tips
from vivid_arm.core.rods.strength import Duty, Strength, Tube, largest_diameter, strength
from vivid_arm.records.tables import Build

USUAL_ROD: dict[str, Any] = {
    "diameter_in": 0.3125, "wall_in": 0.080, "form": "one_piece", "hardened": False,
    "spring_lbf": None, "others": [], "trial_diameter_in": None, "clearance_in": None,
    "wanted_clearance_in": 0.030, "sample_overall_in": None, "sample_tube_in": None,
    "bar_in": 72.0, "kerf_in": 0.060, "cut_tolerance_in": 0.005,
}  # fmt: skip


_MOST_OTHERS = 3


def rod_figures(build: Build) -> dict[str, Any]:
    """The rod as entered, usual figures for the rest."""
    return USUAL_ROD | (build.rod or {})


def tube_of(figures: dict[str, Any], length_in: float) -> Tube:
    """A rod's tube of a centre length. Raises InputError."""
    return Tube(
        figures["diameter_in"], figures["wall_in"], length_in, figures.get("form") or "one_piece"
    )


def strengths(build: Build, length_in: float, ratio: float) -> list[Strength]:
    """The rod and those compared with it under the springs; empty without a spring force."""
    rod = rod_figures(build)
    if rod["spring_lbf"] is None:
        return []
    duty = Duty(rod["spring_lbf"], ratio)
    return [strength(tube_of(r, length_in), duty) for r in (rod, *rod["others"])]


def tips_of(build: Build) -> Tips | None:
    """What pressed tips add, once a sample is measured. Raises InputError."""
    rod = rod_figures(build)
    if rod["sample_overall_in"] is None or rod["sample_tube_in"] is None:
        return None
    return Tips(rod["sample_overall_in"], rod["sample_tube_in"])


def check_rod(build: Build) -> None:
    """Raises InputError for a rod that cannot be."""
    if build.rod is None:
        return
    rod = rod_figures(build)
    if len(rod["others"]) > _MOST_OTHERS:
        raise InputError(
            "others", "At most four rods are compared", expected=f"{_MOST_OTHERS} beside the own"
        )
    for figures in (rod, *rod["others"]):
        tube_of(figures, 7.4)
    if rod["spring_lbf"] is not None:
        Duty(rod["spring_lbf"], 1.6)
    tips_of(build)
    if rod["trial_diameter_in"] is not None and rod["clearance_in"] is not None:
        largest_diameter(rod["trial_diameter_in"], rod["clearance_in"], rod["wanted_clearance_in"])
    for name, low, high in (
        ("bar_in", 6.0, 480.0), ("kerf_in", 0.0, 0.5), ("cut_tolerance_in", 0.0005, 0.1),
    ):  # fmt: skip
        if not low <= rod[name] <= high:
            raise InputError(
                name, f"{name} {rod[name]:g} is outside {low:g} to {high:g} in",
                received=rod[name], expected=f"{low:g} to {high:g} in",
                remedy="Check the figure and its unit", code="out_of_range",
            )  # fmt: skip
