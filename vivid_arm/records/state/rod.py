"""A build's rod, its strength and its cut list, as the core's things."""

from vivid_arm.core.rods.cutting import Tips
from vivid_arm.core.rods.strength import Duty, Strength, Tube, largest_diameter, strength
from vivid_arm.records.shapes import RodFigures, TubeFigures
from vivid_arm.records.tables import Build


def rod_figures(build: Build) -> RodFigures:
    """The rod as entered, else the usual one."""
    return build.rod or RodFigures()


def tube_of(figures: TubeFigures, length_in: float) -> Tube:
    """A rod's tube of a centre length. Raises InputError."""
    return Tube(figures.diameter_in, figures.wall_in, length_in, figures.form)


def strengths(build: Build, length_in: float, ratio: float) -> list[Strength]:
    """The rod and those compared with it under the springs; empty without a spring force."""
    rod = rod_figures(build)
    if rod.spring_lbf is None:
        return []
    duty = Duty(rod.spring_lbf, ratio)
    return [strength(tube_of(r, length_in), duty) for r in (rod, *rod.others)]


def tips_of(build: Build) -> Tips | None:
    """What pressed tips add, once a sample is measured. Raises InputError."""
    rod = rod_figures(build)
    if rod.sample_overall_in is None or rod.sample_tube_in is None:
        return None
    return Tips(rod.sample_overall_in, rod.sample_tube_in)


def check_rod(build: Build) -> None:
    """Raises InputError for a rod that cannot be."""
    if build.rod is None:
        return
    rod = build.rod
    for figures in (rod, *rod.others):
        tube_of(figures, 7.4)
    if rod.spring_lbf is not None:
        Duty(rod.spring_lbf, 1.6)
    tips_of(build)
    if rod.trial_diameter_in is not None and rod.clearance_in is not None:
        largest_diameter(rod.trial_diameter_in, rod.clearance_in, rod.wanted_clearance_in)
