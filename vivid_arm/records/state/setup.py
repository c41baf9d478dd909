"""A build's set-up rows as the core's things."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import cast

from propcache.api import cached_property

from vivid_arm.core.engine.cam import CamCard, Lobe
from vivid_arm.core.engine.layout import KINDS, Engine, Layout, ValveKind, usual_engine
from vivid_arm.core.entry.conventions import Convention, EndKind, RodEnd, RodEnds, convert
from vivid_arm.core.entry.instruments import Caliper, CheckingRod, Indicator
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.core.words import figure, say
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING, Feeling, Trial, check_ratio
from vivid_arm.core.zero_lash.hand import USUAL_HANDS, Hand, Weights
from vivid_arm.core.zero_lash.methods import Source
from vivid_arm.core.zero_lash.near_closed import learned_ratio, learned_ratios
from vivid_arm.core.zero_lash.predict import Amount, Mount, Prediction, predict
from vivid_arm.records.shapes import EngineFigures, LobeFigures, LobeTable
from vivid_arm.records.tables import Build, Instrument

Tool = CheckingRod | Caliper | Indicator


def rod_of(row: Instrument) -> Tool:
    """The core's instrument for a row."""
    if row.kind == "indicator":
        return Indicator()
    if row.kind == "checking_rod":
        assert row.closed_in is not None
        assert row.pitch_in is not None
        assert row.most_turns is not None
        return CheckingRod(float(row.closed_in), float(row.pitch_in), float(row.most_turns))
    assert row.low_in is not None
    assert row.high_in is not None
    return Caliper(float(row.low_in), float(row.high_in))


def source_of(row: Instrument | None) -> Source:
    """What an instrument's maker states; nothing where nothing is stated."""
    if row is None:
        return Source()
    return Source(str(row.id), float(row.accuracy_in or 0), float(row.resolution_in or 0))


def ends_of(build: Build) -> RodEnds:
    return RodEnds(
        RodEnd(
            cast(EndKind, build.lifter_end),
            float(build.lifter_ball_in),
            float(build.lifter_hole_in),
        ),
        RodEnd(
            cast(EndKind, build.rocker_end),
            float(build.rocker_ball_in),
            float(build.rocker_hole_in),
        ),
        float(build.gauge_circle_in),
    )


def lifter_of(build: Build) -> Lifter:
    return Lifter(
        float(build.preload_low_in),
        float(build.preload_high_in),
        float(build.preload_target_in),
        float(build.travel_in),
    )


@dataclass(frozen=True)
class Ratio:
    """R0 as it is known: as measured, from the geometry where that knows it, else a usual one."""

    value: float
    half_width: float
    geometry: bool
    measured: bool = False
    engines: int = 0

    @cached_property
    def feeling(self) -> Feeling:
        """The usual figures of feel, with how well this ratio is known."""
        return Feeling(ratio_half_width=self.half_width)

    def felt_by(self, hands: tuple[Hand, ...], learned: Weights) -> Feeling:
        """The same by these hands, each as likely as is known of it."""
        return Feeling(hands, ratio_half_width=self.half_width, learned=learned)

    def learned(self, valves: Sequence[Sequence[Trial]]) -> "Ratio":
        """The same with what pairs of gaps tell of it; a spoilt ratio stays as it is."""
        if not self.value * self.half_width > 0:
            return self
        return self._told(*learned_ratio(valves, self.value, self._sd))

    def learned_apart(self, valves: Sequence[Sequence[Trial]]) -> tuple["Ratio", list["Ratio"]]:
        """As ``learned``, and for each valve with what the pairs of all the others tell."""
        if not self.value * self.half_width > 0:
            return self, [self] * len(valves)
        by_all, by_others = learned_ratios(valves, self.value, self._sd)
        return self._told(*by_all), [self._told(*told) for told in by_others]

    @property
    def _sd(self) -> float:
        return self.value * self.half_width / 3**0.5

    def _told(self, value: float, sd: float) -> "Ratio":
        half_width = sd / value * 3**0.5
        return Ratio(value, half_width, self.geometry, self.measured, self.engines)

    @property
    def words(self) -> str:
        """How it is known."""
        if self.measured:
            return say(
                "{value} is R0 as you measured it, taken as known within 1 % (k = 1).",
                value=figure(self.value, ".4g"),
            )
        if not self.geometry:
            within = f"{2 * self.half_width / 3**0.5:.0%} (k = 2)"
            if self.engines:
                return say(
                    "R0, near closed, is taken as {value} ± {within}: as {engines} engines of this "
                    "shop have it, and what pairs of gaps tell.",
                    value=figure(self.value, ".3g"),
                    within=within,
                    engines=self.engines,
                )
            return say(
                "R0, near closed, is taken as {value} ± {within}: a usual rocker's, above its "
                "catalogue ratio, and what pairs of gaps tell.",
                value=figure(self.value, ".3g"),
                within=within,
            )
        return say(
            "{value} is R0 from the rocker's geometry, within {half_width}; the catalogue "
            "ratio is no longer used.",
            value=figure(self.value, ".4g"),
            half_width=figure(self.half_width, ".1%"),
        )


R0_MEASURED_SD = 0.01
"""Relative standard uncertainty of a ratio near closed that was measured: common practice."""


def measured_ratio(build: Build, kind: ValveKind) -> Ratio | None:
    """The ratio near closed as the builder measured it; None where he did not."""
    own = build.r0_intake if kind == "intake" else build.r0_exhaust
    if own is None:
        return None
    return Ratio(float(own), R0_MEASURED_SD * 3**0.5, geometry=True, measured=True)


def catalogue_ratio(build: Build, kind: ValveKind) -> Ratio:
    """The catalogue's ratio of a kind standing in for R0."""
    value = float(build.ratio_intake if kind == "intake" else build.ratio_exhaust)
    return Ratio(value, USUAL_FEELING.ratio_half_width, geometry=False)


def starting_ratio(build: Build, kind: ValveKind) -> Ratio | None:
    """The catalogue's ratio times the shop's factor; None where the build does not start so."""
    own = build.starting
    if own is None or own.factor is None or own.factor_u is None:
        return None
    value = catalogue_ratio(build, kind).value * own.factor
    if not 1.0 <= value <= 2.5:
        return None
    share = own.factor_u / own.factor * 3**0.5
    return Ratio(value, share, geometry=False, engines=own.engines)


def starting_hands(build: Build) -> tuple[Hand, ...]:
    """The hands that may feel before a build's own readings tell: the usual, or the shop's."""
    if build.starting is None or build.starting.hands is None:
        return USUAL_HANDS
    return tuple(
        Hand(h.band_in, h.sd_in, h.bias_in, w)
        for h, w in zip(USUAL_HANDS, build.starting.hands, strict=True)
    )


def measuring_convention(build: Build) -> Convention:
    """The convention the build's instrument reads in (the order's, while none is chosen)."""
    name = build.instrument.convention if build.instrument else build.order_convention
    return cast(Convention, name)


def engine_of(build: Build) -> Engine:
    """The engine as entered, or the usual one of its layout and count. Raises InputError."""
    return engine_given(cast(Layout, build.layout), build.cylinders, build.engine)


def engine_given(layout: Layout, cylinders: int, given: EngineFigures | None) -> Engine:
    """An engine from its figures, or the usual one without. Raises InputError."""
    if given is None:
        return usual_engine(layout, cylinders)
    return Engine(
        layout,
        cylinders,
        given.bank_angle_deg,
        given.numbering,
        given.first_bank,
        given.rotation,
        tuple(given.firing_order),
        tuple(given.intervals_deg),
        tuple(given.valve_orders),
    )


def cam_of(build: Build) -> CamCard | None:
    """The cam card with its measured lobes, None while there is none. Raises InputError."""
    if build.cam is None:
        return None
    tables = build.lobe_tables or {}
    intake, exhaust = (lobe_of(build.cam.lobe(kind), tables.get(kind)) for kind in KINDS)
    return CamCard(intake, exhaust, build.cam.icl_deg, build.cam.lsa_deg)


def lobe_of(card: LobeFigures, table: LobeTable | None = None) -> Lobe:
    """A lobe from its card and the table measured of it. Raises InputError."""
    return Lobe(**card.model_dump(), table=None if table is None else tuple(table))


def carried_over(build: Build, kind: ValveKind, ratio: Ratio) -> Prediction:
    """What the final engine adds to zero lash as measured, by the rules of "what changed".

    Raises InputError.
    """
    changes = build.final.changes if build.final else {}
    amounts = {name: Amount(c.by_in(kind), c.within_in) for name, c in changes.items()}
    mount = cast(Mount, build.mount)
    return predict(0.0, amounts, mount, check_ratio(ratio.value), 0.0, ratio.feeling)


def predictions_of(
    build: Build, ratios: Mapping[ValveKind, Ratio] | None = None
) -> dict[ValveKind, Prediction]:
    """What each kind's zero lash should be after what changed, in the measuring convention.

    Empty while no known rod is entered. Raises InputError.
    """
    prior = build.prior
    if prior is None:
        return {}
    found: dict[ValveKind, Prediction] = {}
    for kind in KINDS:
        known = prior.rod(kind)
        if known is None:
            continue
        wanted = measuring_convention(build)
        before = convert(known.rod_in, prior.convention, wanted, ends_of(build))
        changes = {name: Amount(c.by_in(kind), c.within_in) for name, c in prior.changes.items()}
        ratio = ratios[kind] if ratios else catalogue_ratio(build, kind)
        found[kind] = predict(
            before - known.preload_in,
            changes,
            cast(Mount, build.mount),
            check_ratio(ratio.value),
            known.within_in,
            ratio.feeling,
        )
    return found
