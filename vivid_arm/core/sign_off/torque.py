"""Fastener figures as the maker's sheet gives them, in every usual unit.

1 lbf·ft = 1.3558179483314004 N·m and 12 lbf·in (NIST SP 811, appendix B.8).

Source: as above; the figures themselves are the maker's.
"""

from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.errors import within
from vivid_arm.core.words import say

TorqueUnit = Literal["lbf_ft", "lbf_in", "N_m"]
NEWTON_METRE_PER_LBF_FT = 1.3558179483314004
UNITS: dict[TorqueUnit, tuple[str, float]] = {
    "lbf_ft": ("lbf·ft", 1.0),
    "lbf_in": ("lbf·in", 1 / 12),
    "N_m": ("N·m", 1 / NEWTON_METRE_PER_LBF_FT),
}
_LOWEST_LBF_FT, _HIGHEST_LBF_FT = 0.1, 250.0


@dataclass(frozen=True)
class Torque:
    """One stage's figure as entered. Raises InputError outside 0 to 250 lbf·ft."""

    value: float
    unit: TorqueUnit

    def __post_init__(self) -> None:
        words, factor = UNITS[self.unit]
        remedy = say("Check the unit on the maker's sheet")
        low, high = _LOWEST_LBF_FT / factor, round(_HIGHEST_LBF_FT / factor)
        within("value", say("Torque"), self.value, low, high, f" {words}", remedy=remedy)

    def to(self, unit: TorqueUnit) -> float:
        """The same torque in another unit.

        >>> round(Torque(22, "lbf_ft").to("N_m"), 2), Torque(22, "lbf_ft").to("lbf_in")
        (29.83, 264.0)
        """
        return round(self.value * UNITS[self.unit][1] / UNITS[unit][1], 9)
