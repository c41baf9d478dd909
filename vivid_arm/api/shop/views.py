"""What the shop has learned, put together from its engines."""

import csv
import io
from collections.abc import Iterator, Sequence
from dataclasses import asdict

import numpy as np

from vivid_arm.api.shop.schemas import (
    FactorOut,
    HandOut,
    HeldOut,
    KindOut,
    LearnedOut,
    OwnOut,
    PooledOut,
    StudyOut,
    VarianceOut,
)
from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.said.learned import COMPONENT_WORDS, METHOD, held_words, open_words
from vivid_arm.core.shop.gauge_study import GaugeStudy, Own, StudyReading, gauge_study
from vivid_arm.core.shop.learned import (
    hand_figures,
    pooled_spread,
    predictions_held,
    shop_hand,
)
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.predict import MOUNTS
from vivid_arm.documents.order_sheet import safe_cell
from vivid_arm.records.learned import Taught, factor_of, hands_felt


def learned_out(
    engines: Sequence[Taught], missing: int, readings: Sequence[StudyReading]
) -> LearnedOut:
    study = gauge_study(readings)
    factors = [(mount, factor_of(engines, mount)) for mount in MOUNTS]
    return LearnedOut(
        engines=len(engines),
        missing=missing,
        kinds=[_kind_out(engines, kind) for kind in KINDS],
        factors=[
            FactorOut(mount=mount, words=say(MOUNTS[mount]), **asdict(found))
            for mount, found in factors
            if found is not None
        ],
        hands=[_hand_out(who, felt) for who, felt in sorted(hands_felt(engines).items())],
        study=_study_out(study) if study else None,
        method=say(METHOD) if study else open_words(None),
    )


def _kind_out(engines: Sequence[Taught], kind: ValveKind) -> KindOut:
    lessons = [engine.of(kind) for engine in engines]
    spread = pooled_spread([lesson.lengths_in for lesson in lessons])
    within = spread.sd_in if spread else 0.0
    held = predictions_held(
        [
            (
                float(np.mean(one.lengths_in)) - one.predicted_in,
                float(np.hypot(one.predicted_u_in, within / len(one.lengths_in) ** 0.5)),
            )
            for one in lessons
            if one.lengths_in and one.predicted_in is not None and one.predicted_u_in
        ]
    )
    return KindOut(
        kind=kind,
        spread=PooledOut(**asdict(spread)) if spread else None,
        predicted=HeldOut(**asdict(held)) if held else None,
        verdict=held_words(held),
    )


def _hand_out(person: str, felt: Sequence[Sequence[float]]) -> HandOut:
    scatter, short, u = hand_figures(shop_hand([np.array(one) for one in felt]))
    return HandOut(
        person=person, engines=len(felt), scatter_in=scatter, short_in=short, short_u_in=u
    )


def _study_out(study: GaugeStudy) -> StudyOut:
    return StudyOut(
        readings=study.readings,
        valves=study.valves,
        gauge_in=study.gauge_in,
        variances=[
            VarianceOut(words=say(COMPONENT_WORDS[v.component]), **asdict(v))
            for v in study.variances
        ],
        persons=[_own_out(own) for own in study.persons],
        tools=[_own_out(own) for own in study.tools],
        open=open_words(study),
    )


def _own_out(own: Own) -> OwnOut:
    return OwnOut(**{name: getattr(own, name) for name in OwnOut.model_fields})


def to_csv(found: LearnedOut) -> str:
    """A line for each figure: what, whose, of how many, the figure and its limits."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["what", "whose", "count", "value", "low", "high", "unit"])
    table.writerow(["engines", "", found.engines, "", "", "", ""])
    table.writerow(["engines not worked out yet", "", found.missing, "", "", "", ""])
    for kind in found.kinds:
        if (s := kind.spread) is not None:
            table.writerow(["spread", kind.kind, s.groups, s.sd_in, s.low_in, s.high_in, "in"])
        if (p := kind.predicted) is not None:
            table.writerow(["found less predicted", kind.kind, p.count, p.mean_in, "", "", "in"])
            table.writerow(["its root mean square", kind.kind, p.count, p.rms_in, "", "", "in"])
    for f in found.factors:
        low, high = f.mean - 2 * f.mean_u, f.mean + 2 * f.mean_u
        table.writerow(["R0 over catalogue", f.mount, f.engines, f.mean, low, high, ""])
    for h in found.hands:
        low, high = h.short_in - 2 * h.short_u_in, h.short_in + 2 * h.short_u_in
        who = safe_cell(h.person)
        table.writerow(["scatter of one feel", who, h.engines, h.scatter_in, "", "", "in"])
        table.writerow(["zero felt short by", who, h.engines, h.short_in, low, high, "in"])
    if found.study is not None:
        table.writerows(_study_rows(found.study))
    return out.getvalue()


def _study_rows(study: StudyOut) -> Iterator[list[object]]:
    for v in study.variances:
        if v.told:
            most = "" if v.most_in is None else v.most_in
            yield [
                COMPONENT_WORDS[v.component].text.lower(),
                "",
                study.readings,
                v.sd_in,
                "",
                most,
                "in",
            ]
    for own in (*study.persons, *study.tools):
        who = safe_cell(own.name)
        if own.repeat_in is not None:
            limits = [own.repeat_low_in, own.repeat_high_in]
            yield ["repeats", who, own.readings, own.repeat_in, *limits, "in"]
        if own.offset_in is not None and own.offset_u_in is not None:
            within = 2 * own.offset_u_in
            limits = [own.offset_in - within, own.offset_in + within]
            yield ["reads longer by", who, own.readings, own.offset_in, *limits, "in"]
