"""What to change so that the rocker sits right: rod length on a stud, shim under a fixed fulcrum.

Two schools. *Mid-lift*: the narrowest mark, arm level at half lift, is set and
the mark's place is left to the stand; the default. *Centred*: the mark's
middle is brought to the tip's middle. They agree only where the fulcrum stands
at the right distance.

Source: both schools are common practice; the exact settings are roots of the closed forms in
``sweep``.
"""

from dataclasses import dataclass, replace
from math import inf
from typing import Literal

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.rocker.chance import chance_knowing
from vivid_arm.core.rocker.marks import END_U_IN, MarksFit, Output, SeenAt, jacobian, view
from vivid_arm.core.rocker.mechanism import Linkage, move, why_not
from vivid_arm.core.rocker.seen import ANGLE_U_DEG, EDGE_U_IN, LIFT_U_IN, AngleTool
from vivid_arm.core.rocker.sheet import DIMENSIONS, UNKNOWNS, Dimension, Sheet
from vivid_arm.core.rocker.sweep import least_width, on_tip, sweep
from vivid_arm.core.words import Saying, remembered_as_said, say

MarkSchool = Literal["mid_lift", "centred"]
MARK_SCHOOLS: dict[MarkSchool, Saying] = {
    "mid_lift": Saying("Mid-lift"),
    "centred": Saying("Centred mark"),
}
REACH_IN = 0.500
"""How far from the present setting another is looked for."""
BIG_STEP_IN = 0.300
"""What to change about by, where no setting within reach serves: common practice."""
TOLD_IN = 0.250
"""A setting known no better than this (k = 2) tells a builder nothing."""
_GRID = 201
_TOUCH_IN = 0.010
_AGREE_IN = 0.010
_TELLS_SIGMA = 2.5


@dataclass(frozen=True)
class SettingsRow:
    """Settings side by side; every array has the shape (t). ``refused`` is empty where it runs.

    ``setting_in`` rod or shim, ``rod_in`` centre length at zero lash, mark ends
    with the marker's film, sweep width without it; inches and degrees.
    """

    setting_in: Floats
    rod_in: Floats
    inboard_in: Floats
    outboard_in: Floats
    width_in: Floats
    error_in: Floats
    angle_deg: Floats
    lift_in: Floats
    ratio: Floats
    roll_in: Floats
    slide_in: Floats
    side_load: Floats
    refused: tuple[str, ...]

    @property
    def centre_in(self) -> Floats:
        return (self.inboard_in + self.outboard_in) / 2


def settings_row(found: MarksFit, setting_in: Floats) -> SettingsRow:
    """What settings give on the best understanding of the rocker."""
    seen = view(found.sheet, found.unknowns[None], setting_in)
    shape = seen.lift.shape
    link = Linkage(*(np.broadcast_to(v, shape)[0] for v in vars(seen.linkage).values()))
    sheet = found.sheet
    lobe = found.unknowns[UNKNOWNS.index("lobe_lift_in")]
    motion = move(link, np.linspace(0.0, lobe, 31), seen.rod[0])
    swept = sweep(link, seen.lift[0], sheet.tip, sheet.stem_in)
    refused = [
        why or str(_TIP[int(place)])
        for why, place in zip(
            why_not(link, motion, sheet.stem_in),
            on_tip(seen.inboard[0], seen.outboard[0], sheet.stem_in),
            strict=True,
        )
    ]
    return SettingsRow(
        setting_in, seen.rod[0], seen.inboard[0], seen.outboard[0], swept.width_in, seen.error[0],
        seen.angle[0], seen.lift[0], seen.ratio[0], swept.roll_in, swept.slide_in,
        swept.side_load, tuple(refused),
    )  # fmt: skip


def rods_longer_in(found: MarksFit, from_in: float, to_in: float) -> float:
    """How much longer rods at zero lash get as shims go from one thickness to another, inches.

    About the shim times 1 + 1 / R0: common practice; here by the whole mechanism.
    """
    rods = settings_row(found, np.array([from_in, to_in])).rod_in
    return float(rods[1] - rods[0])


_TIP = (
    "",
    Saying("The mark leaves the middle third of the tip"),
    Saying("The mark comes within 0.040 of the edge"),
)


@dataclass(frozen=True)
class Correction:
    """One school's answer; None figures where no setting serves.

    ``exact_in`` and its standard uncertainty, ``rounded_in`` what can be had,
    ``at`` and ``now`` what it and the present setting give (one row each), with
    the standard uncertainties of mark ends and angle at the rounded setting.
    Where there is no setting, ``toward`` is the way that comes nearer (+1 more, -1 less).
    """

    school: MarkSchool
    exact_in: float | None
    u_in: float
    rounded_in: float | None
    now: SettingsRow
    at: SettingsRow | None
    end_u_in: tuple[float, float]
    angle_u_deg: float
    refused: str
    toward: int = 0

    @property
    def told(self) -> bool:
        """Whether there is a setting, and the tries tell where it is."""
        return self.exact_in is not None and 2 * self.u_in <= TOLD_IN

    @property
    def wins_in(self) -> float:
        """How much narrower the mark gets, inches."""
        if self.at is None:
            return 0.0
        return float(self.now.width_in[0] - self.at.width_in[0])

    @property
    def change_in(self) -> float | None:
        """From the present setting to the rounded one."""
        return None if self.rounded_in is None else self.rounded_in - float(self.now.setting_in[0])


@dataclass(frozen=True)
class _Miss(Output):
    """How far a setting misses a school's aim, and the mark and angle there."""

    sheet: Sheet
    setting_in: float
    school: MarkSchool

    def __call__(self, rows: Floats) -> Floats:
        seen = view(self.sheet, rows, np.array([self.setting_in]))
        middle = (seen.inboard + seen.outboard) / 2
        aim = seen.error if self.school == "mid_lift" else middle
        return np.stack([x[:, 0] for x in (aim, seen.inboard, seen.outboard, seen.angle)], axis=1)


@remembered_as_said(256)
def correct(
    found: MarksFit, school: MarkSchool, now_in: float, step_in: float, offset_in: float = 0.0
) -> Correction:
    """The setting a school asks for, from the present one.

    ``step_in`` is the step of what can be bought, counted from zero in a length
    that is ``offset_in`` more than the centre length (0 for shims). A shim below
    zero means machining the stand and is given as it is.
    """
    now = settings_row(found, np.array([now_in]))
    exact, toward = _root(found, school, now_in)
    if exact is None:
        return Correction(
            school, None, inf, None, now, None, (inf, inf), inf, say(_NO_ROOT[school]), toward
        )
    _, slopes = jacobian(found.sheet, found.unknowns, _Miss(found.sheet, exact, school))
    gain = _gain(found, school, exact)
    aim_u = float(found.spread(slopes)[0])
    rounded = _rounded(exact, step_in, offset_in)
    at = settings_row(found, np.array([rounded]))
    _, slopes = jacobian(found.sheet, found.unknowns, _Miss(found.sheet, rounded, school))
    _, inboard_u, outboard_u, angle_u = found.spread(slopes)
    return Correction(
        school, exact, aim_u / max(abs(gain), 1e-9), rounded, now, at,
        (float(inboard_u), float(outboard_u)), float(angle_u), at.refused[0],
    )  # fmt: skip


_NO_ROOT: dict[MarkSchool, Saying] = {
    "mid_lift": Saying("No setting within half an inch levels the arm at half lift"),
    "centred": Saying("No setting within half an inch centres the mark"),
}


def _rounded(exact_in: float, step_in: float, offset_in: float) -> float:
    return float(round((exact_in + offset_in) / step_in) * step_in - offset_in)


def _root(found: MarksFit, school: MarkSchool, now_in: float) -> tuple[float | None, int]:
    """The setting nearest to the present one that meets a school's aim; else which way is nearer.

    A mark's middle moves out, stands, and moves in again as the fulcrum rises: where it only
    touches the tip's middle, a setting within 0.010 of it meets the aim too, the present one
    before all.
    """
    grid = now_in + np.linspace(-REACH_IN, REACH_IN, _GRID)
    seen = view(found.sheet, found.unknowns[None], grid)
    if school == "centred" and abs(seen.middle[0, _GRID // 2]) <= _TOUCH_IN / 2:
        return now_in, 0
    aim = (seen.error if school == "mid_lift" else seen.middle)[0]
    crossings = np.flatnonzero(np.isfinite(aim[:-1] * aim[1:]) & (aim[:-1] * aim[1:] <= 0))
    if not crossings.size:
        return _touching(grid, np.abs(aim), school, now_in)
    starts = [grid[i] + (grid[i + 1] - grid[i]) * aim[i] / (aim[i] - aim[i + 1]) for i in crossings]
    exact = float(min(starts, key=lambda x: abs(x - now_in)))
    for _ in range(3):
        gain = _gain(found, school, exact)
        exact -= float(_Miss(found.sheet, exact, school)(found.unknowns[None])[0, 0]) / gain
    return exact, 0


def _touching(
    grid: Floats, off: Floats, school: MarkSchool, now_in: float
) -> tuple[float | None, int]:
    off = np.where(np.isfinite(off), off, inf)
    least = float(off.min())
    if school == "centred" and least <= _TOUCH_IN:
        near = grid[off <= least + _TOUCH_IN / 3]
        return float(near[np.argmin(np.abs(near - now_in))]), 0
    best = float(grid[int(np.argmin(off))])
    return None, int(np.sign(best - now_in))


def _gain(found: MarksFit, school: MarkSchool, setting_in: float) -> float:
    """How a school's aim moves with the setting."""
    step = 1e-4
    low, high = (
        float(_Miss(found.sheet, setting_in + s, school)(found.unknowns[None])[0, 0])
        for s in (-step, step)
    )
    return (high - low) / (2 * step)


@dataclass(frozen=True)
class SchoolsConflict:
    """How the two schools differ: the mid-lift mark stands ``off_in`` from the middle.

    ``move_in`` is how far stand, offset or another rocker would have to bring the
    contact, outboard positive, for both to be met; ``fulcrum_in`` the distance from
    the stem's axis at which the fulcrum would then stand.
    """

    off_in: float
    u_in: float
    move_in: float
    fulcrum_in: float


def conflict(found: MarksFit, mid_lift: Correction) -> SchoolsConflict | None:
    """The conflict of the schools at the mid-lift setting; None where they agree within 0.010."""
    if mid_lift.at is None:
        return None
    off = float(mid_lift.at.centre_in[0])
    if abs(off) <= _AGREE_IN and not mid_lift.refused:
        return None
    u = float(np.hypot(*mid_lift.end_u_in)) / 2
    arm = float(found.unknowns[UNKNOWNS.index("arm_in")])
    return SchoolsConflict(off, u, -off, ideal_fulcrum_in(arm, float(mid_lift.at.lift_in[0])))


def stocked(exact_in: float, step_in: float, offset_in: float, count: int = 3) -> tuple[float, ...]:
    """Settings that can be had next to an exact one, rising.

    >>> stocked(7.61, 0.05, 0.0)
    (7.55, 7.6, 7.65)
    """
    nearest = round((exact_in + offset_in) / step_in)
    return tuple(
        round((nearest + k) * step_in - offset_in, 6) for k in range(-(count // 2), count // 2 + 1)
    )


@dataclass(frozen=True)
class NextReading:
    """A reading that could be taken next and what it would do.

    ``u_after_in`` the standard uncertainty of the setting that levels the arm after it (the
    same as before for one that only decides the side), ``chance`` how likely the setting then
    asked for leaves a good mark, ``decides`` whether it tells the rival understandings apart.
    ``by`` is a tool that reads finer than the one used before, where such a one is wanted.
    """

    kind: Literal["closed_end", "angle", "mark", "again", "lift", "dimension"]
    setting_in: float | None
    dimension: Dimension | None
    u_after_in: float
    decides: bool
    chance: float = 0.0
    by: AngleTool | None = None


def mark_step_in(sheet: Sheet) -> float:
    """How far off a second mark is made, of rod or shim, inches: common practice."""
    return 0.050 if sheet.stud else 0.030


@remembered_as_said(256)
def next_readings(found: MarksFit, now_in: float) -> tuple[NextReading, ...]:
    """Readings worth taking next, the best first.

    One that decides between rival understandings comes before one that only tightens the
    figure, then the one after which a setting is likeliest to be good; each reading counts
    with the uncertainty it usually has.
    """
    aim, _ = _root(found, "mid_lift", now_in)
    at = now_in if aim is None else aim
    _, slopes = jacobian(found.sheet, found.unknowns, _Miss(found.sheet, at, "mid_lift"))
    look = _Look(found, at, slopes[0] / max(abs(_gain(found, "mid_lift", at)), 1e-9))
    step = mark_step_in(found.sheet)
    offered = [
        _offer(look, "angle", now_in),
        _offer(look, "lift", now_in),
        _offer(look, "again" if found.tries else "mark", now_in),
        *(_offer(look, "mark", now_in + s) for s in (-step, step)),
        *(_dimension(look, name) for name in DIMENSIONS),
    ]
    if found.rivals:
        empty = np.empty((0, len(UNKNOWNS)))
        decides = _end_tells(found, now_in)
        offered.append(look.after("closed_end", now_in, None, empty, decides))
    useful = [o for o in offered if o is not None]
    return tuple(sorted(useful, key=lambda o: (not o.decides, -round(o.chance, 2), o.u_after_in)))


@dataclass(frozen=True)
class _Look:
    """What a reading is asked for: the setting that levels the arm, and how it moves (10)."""

    found: MarksFit
    setting_in: float
    target: Floats

    def after(
        self,
        kind: Literal["closed_end", "angle", "mark", "again", "lift", "dimension"],
        setting_in: float | None,
        dimension: Dimension | None,
        rows: Floats,
        decides: bool,
    ) -> NextReading:
        """A reading of rows (k, 10), scaled by their own uncertainty, once it is known too."""
        cov = self.found.covariance
        middle = np.linalg.inv(np.eye(len(rows)) + rows @ cov @ rows.T)
        after = cov - cov @ rows.T @ middle @ rows @ cov
        u = float(np.sqrt(max(float(self.target @ after @ self.target), 0.0)))
        near = self.setting_in + np.array([-0.01, 0.0, 0.01])
        chance = chance_knowing(self.found, after, near)
        return NextReading(kind, setting_in, dimension, u, decides, chance)


def _end_tells(found: MarksFit, setting_in: float) -> bool:
    seen = view(found.sheet, found.unknowns[None], np.array([setting_in]))
    return bool(abs(seen.open[0, 0] - seen.closed[0, 0]) > 2 * END_U_IN)


_SEEN = {
    "angle": (("angle",), ANGLE_U_DEG["inclinometer"]),
    "lift": (("lift",), LIFT_U_IN),
    "again": (("inboard", "outboard"), EDGE_U_IN),
    "mark": (("inboard", "outboard"), EDGE_U_IN),
}


def _offer(
    look: _Look, kind: Literal["angle", "lift", "again", "mark"], setting_in: float
) -> NextReading | None:
    found = look.found
    names, u = _SEEN[kind]
    by: AngleTool | None = None
    if kind == "angle":
        u = next((t.angle_u_deg for t in found.tries[::-1] if t.angle_deg is not None), u)
        if u > ANGLE_U_DEG["heights"]:
            by, u = "heights", ANGLE_U_DEG["heights"]
    output = SeenAt(found.sheet, setting_in, names)
    shown, rows = jacobian(found.sheet, found.unknowns, output)
    if not np.isfinite(rows).all():
        return None
    rivals = [output(b.unknowns[None])[0] for b in found.rivals]
    scatter = np.hypot(found.spread(rows), u)
    decides = any((np.abs(r - shown) / scatter).max() > _TELLS_SIGMA for r in rivals)
    return replace(look.after(kind, setting_in, None, rows / u, decides), by=by)


def _dimension(look: _Look, name: Dimension) -> NextReading | None:
    u = DIMENSIONS[name].measured_u
    at = UNKNOWNS.index(name)
    if look.found.sheet.prior[1][at] <= u:
        return None
    row = np.zeros((1, len(UNKNOWNS)))
    row[0, at] = 1 / u
    return look.after("dimension", None, name, row, False)


def ideal_fulcrum_in(arm_in: float, net_lift_in: float) -> float:
    """The fulcrum's distance at which both schools agree, (A + sqrt(A² - h²/4)) / 2, inches."""
    return arm_in - float(least_width(np.asarray(arm_in), np.asarray(net_lift_in))) / 2
