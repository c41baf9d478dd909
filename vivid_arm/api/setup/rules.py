"""What the set-up offers: layouts, presets, threads and the trade's habits."""

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter

from vivid_arm.api.setup.schemas import (
    LayoutOut,
    MethodRuleOut,
    OptionOut,
    PitchOut,
    PreloadSchoolOut,
    PresetOut,
    RulesOut,
    SizeOut,
    StationHelpOut,
)
from vivid_arm.api.setup.views import engine_figures
from vivid_arm.core.engine.base_circle import CLOSINGS
from vivid_arm.core.engine.layout import LAYOUTS, PRESETS, engine_from
from vivid_arm.core.rods.preload import PRELOAD_SCHOOLS
from vivid_arm.core.rods.strength import DIAMETERS_IN, FORMS, WALLS_IN
from vivid_arm.core.said.station_help import CAUTIONS, STEPS
from vivid_arm.core.words import Saying, figure, say, say_all
from vivid_arm.core.zero_lash.methods import PITCHES
from vivid_arm.core.zero_lash.predict import CHANGES, MOUNTS
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS

router = APIRouter(prefix="/api/rules", tags=["setup"])


@router.get("")
def read_rules() -> RulesOut:
    """Layouts with their cylinder counts, engine presets, threads, preload habits."""
    return RulesOut(
        layouts=[
            LayoutOut(layout=layout, name=say(name), cylinders=list(counts))
            for layout, (name, counts) in LAYOUTS.items()
        ],
        schools=[
            PreloadSchoolOut(
                code=s.code,
                name=say(s.name),
                preload_low_in=s.low_in,
                preload_high_in=s.high_in,
                preload_target_in=s.target_in,
                travel_in=s.travel_in,
                counted_from=s.of,
            )
            for s in PRELOAD_SCHOOLS
        ],
        presets=[
            PresetOut(
                words=p.words,
                layout=p.layout,
                cylinders=p.cylinders,
                engine=engine_figures(engine_from(p)),
            )
            for p in PRESETS
        ],
        pitches=[PitchOut(name=n, pitch_in=p, source=say(s)) for n, p, s in PITCHES],
        mounts=_choices(MOUNTS),
        changes=_choices(CHANGES),
        methods=[
            MethodRuleOut(
                code=way.code,
                tab=say(way.tab),
                words=say(way.words),
                ask=say(way.ask),
                how=say(way.how),
                reads=way.reads,
                tool=way.tool,
                rod=way.rod,
            )
            for way in MEASURING_WAYS.values()
        ],
        closings=_choices(CLOSINGS),
        forms=_choices(FORMS),
        diameters=[SizeOut(size_in=size, words=words) for words, size in DIAMETERS_IN.items()],
        walls=[SizeOut(size_in=wall, words=figure(wall, ".3f")) for wall in WALLS_IN],
        help=[
            StationHelpOut(
                station=station, steps=say_all(steps), cautions=say_all(CAUTIONS.get(station, ()))
            )
            for station, steps in STEPS.items()
        ],
    )


def _choices(words: Mapping[Any, Saying]) -> list[OptionOut]:
    return [OptionOut(value=value, words=say(text)) for value, text in words.items()]
