"""What the rocker's judgement is worth: simulated rockers, measured, judged, ordered, looked at.

Every rocker's dimensions are drawn wider than the sheet's starting values; tools scatter as real
ones do. A builder does what he is told until a setting is settled or six readings are taken.
Both errors count: settled though the true mark is not acceptable, and not settled though a
setting that can be had leaves an acceptable one. The trade's own rule (mark, eye, 50 thou) works
on the same rockers.
"""

import argparse
from collections import Counter
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.correction import MarkSchool, NextReading, correct, next_readings
from vivid_arm.core.rocker.judged import RockerJudgement, judged
from vivid_arm.core.rocker.marks import fit_marks, view
from vivid_arm.core.rocker.seen import ANGLE_U_DEG, AngleTool, End, EyePlace, SeenMark
from vivid_arm.core.rocker.sheet import (
    DIMENSIONS,
    ROCKERS,
    UNKNOWNS,
    Sheet,
    starting_sheet,
    with_measured,
)
from vivid_arm.core.rocker.sweep import least_width

WIDER = 1.5
MOST_READINGS = 6
STEM_IN = 0.3415


@dataclass(frozen=True)
class Engine:
    """One true rocker, what its builder knows of it, and his hand."""

    sheet: Sheet
    truth: np.ndarray
    school: MarkSchool
    step_in: float
    tool: AngleTool
    edge_u_in: float
    by_eye: bool
    sees_end: bool
    flat: bool
    rng: np.random.Generator

    def at(self, setting_in: float) -> Any:
        """What is true at a setting."""
        return view(self.sheet, self.truth[None], np.array([setting_in]))

    def acceptable(self, setting_in: float) -> bool:
        """Middle within 10 thou or square within 1 degree, ends clear, width within 10 thou."""
        seen = self.at(setting_in)
        inboard, outboard, width, angle, lift = (
            float(getattr(seen, n)[0, 0]) for n in ("inboard", "outboard", "width", "angle", "lift")
        )
        if not np.isfinite([inboard, outboard, angle]).all():
            return False
        film = self.truth[UNKNOWNS.index("film_in")]
        edge = STEM_IN / 2 - 0.040
        near = abs(inboard + outboard) / 2 <= 0.010 or abs(angle) <= 1.0
        return near and -edge <= inboard and outboard <= edge and width <= self.least(
            lift) + film + 0.010  # fmt: skip

    def least(self, lift_in: float) -> float:
        """The narrowest sweep of a roller; of a shoe that of its own mid-lift rule."""
        arm = float(self.truth[UNKNOWNS.index("arm_in")])
        if self.sheet.tip == "roller":
            return float(least_width(np.asarray(arm), np.asarray(lift_in)))
        radius = float(self.truth[UNKNOWNS.index("tip_radius_in")])
        first, last = radius + lift_in / 2, radius - lift_in / 2
        return float(np.sqrt(arm**2 - last**2) - np.sqrt(arm**2 - first**2))

    def had(self, setting_in: float) -> float:
        """The nearest setting that can be had."""
        return round(setting_in / self.step_in) * self.step_in

    def servable(self) -> bool:
        """Whether any setting that can be had leaves an acceptable mark."""
        base = self.had(self.sheet.rod_in if self.sheet.stud else 0.0)
        steps = np.arange(-0.3, 0.3001, self.step_in)
        return any(self.acceptable(base + s) for s in steps)

    def mark(self, setting_in: float, told: bool = False) -> SeenMark | None:
        """A mark made and read at a setting; measured, not only looked at, where so ``told``."""
        seen = self.at(setting_in)
        inboard, outboard = float(seen.inboard[0, 0]), float(seen.outboard[0, 0])
        if not np.isfinite([inboard, outboard]).all():
            return None
        edge = STEM_IN / 2
        end = self.end(setting_in) if self.sees_end else None
        if outboard > edge or inboard < -edge:
            off: End = "outboard" if outboard > edge else "inboard"
            read = inboard if off == "outboard" else outboard
            if abs(read) > edge:
                return SeenMark(setting_in, place=f"off_{off}")  # type: ignore[arg-type]
            read = self._read(read)
            if off == "outboard":
                return SeenMark(setting_in, inboard_in=read, off=off)
            return SeenMark(setting_in, outboard_in=read, off=off)
        if self.by_eye and not told:
            place = self._place((inboard + outboard) / 2)
            if self.sheet.tip == "shoe":
                return SeenMark(setting_in, place=place)
            return SeenMark(setting_in, place=place, wide=self._wide(outboard - inboard))
        low, high = self._read(inboard), self._read(outboard)
        return SeenMark(setting_in, low, high, closed_end=end) if low < high else None

    def _read(self, edge_in: float) -> float:
        return float(edge_in + self.rng.normal() * self.edge_u_in)

    def _place(self, middle_in: float) -> EyePlace:
        felt = middle_in + self.rng.normal() * 0.012
        if abs(felt) < 0.025:
            return "centred"
        return "outboard" if felt > 0 else "inboard"

    def _wide(self, width_in: float) -> Any:
        felt = width_in + self.rng.normal() * 0.008
        return "narrow" if felt < 0.052 else "usual" if felt < 0.082 else "wide"

    def end(self, setting_in: float) -> End:
        """Which end the closed valve seems to stand at."""
        seen = self.at(setting_in)
        apart = float(seen.open[0, 0] - seen.closed[0, 0]) + self.rng.normal() * 0.004
        return "inboard" if apart > 0 else "outboard"

    def angle(self, setting_in: float) -> SeenMark:
        """By his own tool, or by the two heights he is told of where they read finer and fit."""
        heights = ANGLE_U_DEG["heights"] if self.flat else np.inf
        u = min(ANGLE_U_DEG[self.tool], heights)
        angle = float(self.at(setting_in).angle[0, 0]) + self.rng.normal() * u
        return SeenMark(setting_in, angle_deg=angle, angle_u_deg=u)

    def lift(self, setting_in: float) -> SeenMark:
        lift = float(self.at(setting_in).lift[0, 0]) + self.rng.normal() * 0.002
        return SeenMark(setting_in, lift_in=lift)


def engine(seed: int) -> Engine:
    """A rocker drawn wider than the program assumes, and a builder."""
    rng = np.random.default_rng(seed)
    rocker = sorted(ROCKERS)[seed % 4]
    ratio, lobe = rng.choice([1.5, 1.6, 1.7]), rng.uniform(0.28, 0.40)
    card = rng.random() < 0.6
    while True:
        sheet = starting_sheet(
            rocker, float(ratio), stem_in=STEM_IN, rod_in=7.5, lobe_lift_in=lobe if card else None,
            net_lift_in=None if card else round(lobe * ratio, 2),
        )  # fmt: skip
        mean, sd = sheet.prior
        truth = mean + rng.standard_normal(len(mean)) * sd * WIDER
        at = UNKNOWNS.index
        truth[at("film_in")] = rng.uniform(0.002, 0.011)
        truth[at("lobe_lift_in")] = lobe + rng.normal() * 0.003
        base = np.array([7.5 if sheet.stud else 0.0])
        off, aside = rng.normal() * 0.060, rng.normal() * 0.025
        for _ in range(4):
            seen = view(sheet, truth[None], base)
            truth[0] += off - float(seen.error[0, 0])
            truth[1] += aside - float(seen.middle[0, 0])
        if np.isfinite(truth).all() and seen.lift[0, 0] > 0.25:
            break
    step = (0.025 if rng.random() < 0.7 else 0.050) if sheet.stud else 0.005
    tools: list[AngleTool] = ["square", "inclinometer", "inclinometer", "laser", "phone"]
    return Engine(
        sheet, truth, "mid_lift" if rng.random() < 0.75 else "centred", step,
        tools[int(rng.integers(len(tools)))], float(rng.uniform(0.002, 0.004)),
        bool(rng.random() < 0.2), bool(rng.random() < 0.5), bool(rng.random() < 0.6), rng,
    )  # fmt: skip


@dataclass
class Done:
    """How one rocker ended."""

    settled_in: float | None
    readings: int
    finding: str


def follow(own: Engine) -> Done:
    """Do what the program says until it settles, refuses, or six readings are taken."""
    sheet = own.sheet
    now = own.had(7.5) if sheet.stud else 0.0
    tries: list[SeenMark] = []
    first = own.mark(now)
    tries += [first] if first else []
    count, last = 1, "nothing"
    while True:
        try:
            found = fit_marks(sheet, tries, now)
        except InputError:
            return Done(None, count, "impossible")
        done = correct(found, own.school, now, own.step_in)
        offered = next_readings(found, now)
        said = judged(found, done, offered[0] if offered else None, own.step_in)
        last = said.finding
        if said.settled is not None:
            return Done(own.had(said.settled.setting_in), count, last)
        if count >= MOST_READINGS or last == "refused":
            return Done(None, count, last)
        count += 1
        sheet, tries, now = _next(own, sheet, tries, now, said)


def _next(
    own: Engine, sheet: Sheet, tries: list[SeenMark], now: float, said: RockerJudgement,
) -> tuple[Sheet, list[SeenMark], float]:  # fmt: skip
    reading = said.reading
    if said.finding == "try" and said.setting_in is not None:
        seen = own.mark(own.had(said.setting_in), told=True)
        return sheet, [*tries, seen] if seen else tries, own.had(said.setting_in)
    if said.finding == "off":
        outward = (tries[-1].read_middle_in or (0.1 if tries[-1].off == "outboard" else -0.1)) > 0
        now = own.had(now + (0.3 if own.sheet.stud else 0.06) * (-1 if outward else 1))
        reading = None
    elif said.finding in ("narrow", "conflict", "nothing", "sinks", "trend"):
        tries, reading = tries[:-1], None
    return _take(own, sheet, tries, now, reading)


def _take(
    own: Engine, sheet: Sheet, tries: list[SeenMark], now: float, reading: NextReading | None
) -> tuple[Sheet, list[SeenMark], float]:
    kind = "look" if reading is None else reading.kind
    if reading is not None and reading.kind == "mark" and reading.setting_in is not None:
        now = own.had(reading.setting_in)
    if kind == "angle":
        return sheet, [*tries, own.angle(now)], now
    if kind == "lift":
        return sheet, [*tries, own.lift(now)], now
    if kind == "closed_end":
        marks = [i for i, t in enumerate(tries) if t.sweeps and t.setting_in == now]
        at = marks[-1] if marks else len(tries) - 1
        seen = replace(tries[at], closed_end=own.end(tries[at].setting_in))
        return sheet, [*tries[:at], seen, *tries[at + 1 :]], now
    if reading is not None and reading.dimension is not None:
        name = reading.dimension
        u = DIMENSIONS[name].measured_u
        value = float(own.truth[UNKNOWNS.index(name)] + own.rng.normal() * u)
        return with_measured(sheet, {name: (value, u)}), tries, now
    made = own.mark(now, told=kind in ("again", "mark"))
    return sheet, [*tries, made] if made else tries, now


def trade(own: Engine) -> Done:
    """The trade's rule: mark, look, outboard 50 thou shorter, inboard 50 longer; 30 of shim."""
    now = own.had(7.5) if own.sheet.stud else 0.0
    for count in range(1, MOST_READINGS + 1):
        seen = own.at(now)
        inboard, outboard = float(seen.inboard[0, 0]), float(seen.outboard[0, 0])
        if not np.isfinite([inboard, outboard]).all():
            return Done(None, count, "stuck")
        middle = (inboard + outboard) / 2 + own.rng.normal() * 0.012
        if abs(middle) < 0.025:
            return Done(now, count, "centred")
        now = own.had(now - np.sign(middle) * (0.050 if own.sheet.stud else 0.030))
    return Done(None, MOST_READINGS, "given up")


def report(name: str, engines: list[Engine], ends: list[Done]) -> None:
    """Print the shares of one way."""
    settled = [(e, end) for e, end in zip(engines, ends, strict=True) if end.settled_in is not None]
    wrong = [end for e, end in settled if not e.acceptable(end.settled_in or 0.0)]
    open_ = [(e, end) for e, end in zip(engines, ends, strict=True) if end.settled_in is None]
    servable = [e for e in engines if e.servable()]
    refused = [end for e, end in open_ if e.servable()]
    print(
        f"{name}: settled {len(settled)} of {len(engines)}, of these acceptable "
        f"{100 * (1 - len(wrong) / max(1, len(settled))):.1f} %; refused though acceptable "
        f"{len(refused)} of {len(servable)} ({100 * len(refused) / len(servable):.1f} %); "
        f"readings {np.mean([end.readings for end in ends]):.2f}"
    )
    print("  settled wrongly by:", dict(Counter(end.finding for end in wrong)))
    print("  refused by:", dict(Counter(end.finding for end in refused)))


def main() -> None:
    """Print both ways on the same rockers."""
    options = argparse.ArgumentParser()
    options.add_argument("--rockers", type=int, default=400)
    options.add_argument("--seed", type=int, default=0)
    asked = options.parse_args()
    seeds = range(asked.seed, asked.seed + asked.rockers)
    report("followed", [engine(s) for s in seeds], [follow(engine(s)) for s in seeds])
    report("trade", [engine(s) for s in seeds], [trade(engine(s)) for s in seeds])


if __name__ == "__main__":
    main()
