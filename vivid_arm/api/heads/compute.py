"""Stateless: what measured valves say together."""

from fastapi import APIRouter

from vivid_arm.api.heads.schemas import DoubtOut, RemarkOut, SpreadIn, SpreadOut
from vivid_arm.core.engine.layout import valve_name
from vivid_arm.core.errors import InputError
from vivid_arm.core.heads.mistakes import Circumstances, catch
from vivid_arm.core.heads.spread import placed, read_spread
from vivid_arm.core.words import say
from vivid_arm.records.state.setup import engine_given

router = APIRouter(prefix="/api/compute", tags=["compute"])


@router.post("/heads")
def heads(body: SpreadIn) -> SpreadOut:
    """What measured valves say together, and which are not believable.

    Example: eight intakes at 8.600 but one at 8.500: that one is doubted.
    """
    engine = engine_given(body.layout, body.cylinders, body.engine)
    given = [(v.cylinder, v.kind) for v in body.valves]
    for valve in given:
        if valve[0] not in engine.firing_order or given.count(valve) > 1:
            raise InputError(
                "valves",
                say(
                    "Valve {valve} is given twice or is not on this engine",
                    valve=valve_name(*valve),
                ),
                expected=say(
                    "each valve of {cylinders} cylinders once", cylinders=engine.cylinders
                ),
                code="unknown",
            )
    known = placed(engine, [(v.cylinder, v.kind, v.zero_lash_in, v.u_in) for v in body.valves])
    found = catch(known, Circumstances(body.travel_in, body.pitch_in))
    doubted = {one.name for one in found}
    spread = read_spread([v for v in known if v.name not in doubted])
    return SpreadOut(
        spread_in=spread.by_kind,
        remarks=[RemarkOut.model_validate(f, from_attributes=True) for f in spread.remarks],
        doubts=[DoubtOut.model_validate(one, from_attributes=True) for one in found],
    )
