"""What the set-up offers: layouts and the trade's preload habits."""

from fastapi import APIRouter

from vivid_arm.core.engine import LAYOUTS
from vivid_arm.core.preload import SCHOOLS

from ..schemas import LayoutOut, RulesOut, SchoolOut

router = APIRouter(prefix="/api/rules", tags=["rules"])


@router.get("")
def read_rules() -> RulesOut:
    """Layouts with the cylinder counts they take, and preload habits (common practice)."""
    return RulesOut(
        layouts=[
            LayoutOut(layout=layout, name=name, cylinders=list(counts))
            for layout, (name, counts) in LAYOUTS.items()
        ],
        schools=[
            SchoolOut(
                name=s.name,
                preload_low_in=s.low_in,
                preload_high_in=s.high_in,
                preload_target_in=s.target_in,
                travel_in=s.travel_in,
            )
            for s in SCHOOLS
        ],
    )
