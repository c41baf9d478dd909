"""The zero-lash bracket: trials with a checking rod, what they say, which comes next.

A trial sets a rod and feels it: loose (quite or barely), zero, tight, or no lash, which
may be zero or tight. A loose trial may carry the gap measured at the valve tip. The true
zero-lash length lies between the longest loose and the shortest tight; a gap g measures
what is missing, g/R0, because the rocker multiplies the rod's motion by its ratio near
closed, R0.

The estimate weighs every trial by how likely its feel is at each possible length and for
each hand that may have felt it (Bayes' rule on a grid, flat prior). Figures of feel are
common practice and can be replaced; the seeded simulation in ``benchmarks`` shows what
they give.

Source: the feel at zero lash and gap / R0 are common practice; Bayes' rule.
"""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import exp, inf, sqrt
from operator import mul
from typing import Literal

import numpy as np
from propcache.api import cached_property
from scipy.special import ndtr

from vivid_arm.core.arrays import Floats, Indices
from vivid_arm.core.entry.instruments import Adjuster
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, remembered_as_said, say
from vivid_arm.core.zero_lash.hand import (
    USUAL_HANDS,
    Hand,
    Weights,
    reach_in,
    spread_in,
    unweighed,
    weights_of,
)

Feel = Literal["loose", "zero", "tight", "no_lash", "barely", "quite"]
LOOSE: tuple[Feel, ...] = ("loose", "barely", "quite")

SETTLED_WITHIN_IN = (0.003, 0.004, 0.005, 0.006)
"""What a settled length may be off, inches: the narrowest that holds; common practice."""
SETTLED_PROBABILITY = 0.96
START_SHORT_TURNS = 2.0
NEAR_SHORT_IN = 0.025
"""So far short of what other valves read a rod leaves a gap that tells the rest by itself."""
PAST_EXPECTED_IN = 0.004
"""So far past the expected length the other side of zero is looked for: common practice."""
NEAR_GAP_IN = 0.060
"""Up to this gap at the tip the ratio is the one near closed: common practice."""
LONG_GAP_IN = 0.100
"""A gap over this at the tip never settles alone: common practice."""
LOOSE_BELOW_IN = 0.0255
"""Without gaps a length is settled only by a loose rod within half a turn of it."""
ROUGH_GAPS: dict[Feel, tuple[float, float]] = {"barely": (0.004, 0.7), "quite": (0.040, 0.8)}
"""What such a feel leaves missing, inches, and the spread of its logarithm; common practice."""
CAUGHT_SIGMA = 3.0
_MOST_AGAIN = 5
_GRID_IN = 0.0002
_MARGIN_IN = 0.15
_MOST_CONTRADICTIONS = 100
_IMPOSSIBLE = 200.0
"""A length is not weighed where its gaps are less likely by this logarithm."""


FEELS: dict[Feel, Saying] = {
    "loose": Saying("loose"),
    "zero": Saying("zero"),
    "tight": Saying("tight"),
    "no_lash": Saying("no lash"),
    "barely": Saying("barely loose"),
    "quite": Saying("quite loose"),
}


@dataclass(frozen=True)
class Feeling:
    """How well a hand tells loose from tight, and a feeler reads a gap.

    ``hands``: those that may feel. ``learned``: how likely each is by what is known of it
    elsewhere; empty where each hand's own weight counts. ``gap_sd_in``: scatter of a gap at
    the tip, scaled like a feeler that drags lightly with the next thou refusing.
    ``ratio_half_width``: the ratio near closed is known within this share. ``fade`` and
    ``fade_sd``: by how much the ratio falls over an inch of rod as the valve opens, as a
    share, and its standard uncertainty. All common practice.
    """

    hands: tuple[Hand, ...] = USUAL_HANDS
    gap_sd_in: float = 0.0015
    ratio_half_width: float = 0.10
    fade: float = 0.15
    fade_sd: float = 0.12
    learned: Weights = ()

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.learned, self.ratio_half_width, self.gap_sd_in, len(self.hands)))

    @property
    def weights(self) -> Weights:
        """How likely each of the hands is."""
        return self.learned or weights_of(self.hands)

    @property
    def ratio_sd(self) -> float:
        """Relative standard uncertainty of R0: half-width / sqrt(3) (GUM 4.3.7)."""
        return self.ratio_half_width / sqrt(3)

    def missing_in(self, gap_in: float, ratio: float) -> tuple[float, float]:
        """What a gap leaves missing of the rod, and how well the fade knows it, inches.

        Up to 0.060 it is gap / R0. Beyond, g = R0 m (1 - fade m): the ratio falls as the valve
        opens, so that a long gap stands for more rod.
        """
        plain = gap_in / ratio
        second = plain * max(gap_in - NEAR_GAP_IN, 0.0) / ratio
        return plain + self.fade * second, second * self.fade_sd

    @property
    def zero_reach_in(self) -> float:
        """Half-width of what one zero can mean, inches."""
        return reach_in(self.hands, self.weights)

    @property
    def zero_u_in(self) -> float:
        """Standard uncertainty of one zero, inches."""
        return spread_in(self.hands, self.weights)


USUAL_FEELING = Feeling()


@dataclass(frozen=True)
class Trial:
    """One setting and its feel. ``gap_in`` (at the tip) only goes with loose.

    Raises InputError for a gap on a zero or tight trial.
    """

    number: int
    length_in: float
    feel: Feel
    gap_in: float | None = None

    def __post_init__(self) -> None:
        if self.gap_in is not None and self.feel not in LOOSE:
            raise InputError(
                "gap",
                say("A rod felt as {feels} leaves no gap at the tip", feels=FEELS[self.feel]),
                received=self.gap_in,
                expected=say("a gap only on a loose trial"),
                remedy=say("Record it as loose, or leave the gap empty"),
                code="gap_not_loose",
            )

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.number, self.length_in, self.feel, self.gap_in))


@dataclass(frozen=True)
class Contradiction:
    """Two trials that cannot both be right: which asks for the longer rod, which allows less."""

    says_longer: Trial
    says_shorter: Trial

    @property
    def first(self) -> int:
        """The number of the earlier one."""
        return min(self.says_longer.number, self.says_shorter.number)

    @property
    def second(self) -> int:
        """The number of the later one."""
        return max(self.says_longer.number, self.says_shorter.number)

    @property
    def sentence(self) -> str:
        """Why not both."""
        return _conflict_words(self.says_longer, self.says_shorter)


@dataclass(frozen=True)
class NextTrial:
    """The next setting to make, why, and what kind of step it is."""

    step: Literal["first", "longer", "shorter", "gap", "split", "repeat"]
    length_in: float
    reason: str


@dataclass(frozen=True)
class Bracket:
    """What the trials say so far; lengths in inches.

    ``estimate_in`` and ``u_in`` (standard uncertainty) are None until the
    trials close on a length, and while two of them contradict each other.
    ``shortest_tight`` may be one felt as no lash. ``low_in``..``high_in`` holds the length
    with 95 % probability. ``within_in``: the narrowest of the limits of "settled" that holds
    with 95 % (else 0.003), with its probability. ``loose_below``: a rod within half a turn
    below the zero, or the estimate, felt loose.
    """

    longest_loose: Trial | None
    shortest_tight: Trial | None
    zeros: tuple[Trial, ...]
    gaps: tuple[Trial, ...]
    estimate_in: float | None
    u_in: float | None
    low_in: float | None
    high_in: float | None
    within_in: float
    within_probability: float
    loose_below: bool
    contradictions: tuple[Contradiction, ...]

    @property
    def only_long_gaps(self) -> bool:
        """Whether nothing but gaps too long to settle by says where zero lash is."""
        near = any((t.gap_in or 0.0) <= LONG_GAP_IN for t in self.gaps)
        return bool(self.gaps) and not (near or self.loose_below or self.shortest_tight)

    @property
    def settled(self) -> bool:
        sure = self.within_probability >= SETTLED_PROBABILITY and not self.only_long_gaps
        return self.estimate_in is not None and sure and bool(self.gaps or self.loose_below)


def read_bracket(
    trials: Sequence[Trial], ratio: float, feeling: Feeling = USUAL_FEELING
) -> Bracket:
    """Longest loose, shortest tight, estimate, uncertainty and contradictions.

    ``ratio`` is R0, or the catalogue ratio while R0 is not known. For a plain
    bracket the result approaches the rectangular distribution of GUM 4.3.7.
    Raises InputError for a ratio that no rocker has.
    """
    check_ratio(ratio)
    return _read_bracket(tuple(trials), ratio, feeling)


@remembered_as_said(2048)
def _read_bracket(trials: tuple[Trial, ...], ratio: float, feeling: Feeling) -> Bracket:
    loose = [t for t in trials if t.feel in LOOSE]
    tight = [t for t in trials if t.feel in ("tight", "no_lash")]
    zeros = tuple(t for t in trials if t.feel == "zero")
    gaps = tuple(t for t in loose if t.gap_in is not None)
    rough = any(t.feel in ROUGH_GAPS for t in trials)
    contradictions = find_contradictions(trials, ratio, feeling)
    closed = bool(zeros or gaps or rough or (loose and tight))
    estimate = u = low = high = None
    within, sure = SETTLED_WITHIN_IN[0], 0.0
    if closed and not contradictions:
        estimate, u, low, high, within, sure = _summarise(trials, ratio, feeling)
    zero = min((t.length_in for t in zeros), default=estimate)
    nearest = None if estimate is None or zero is None else min(estimate, zero)
    below = [t for t in loose if nearest and nearest - t.length_in <= LOOSE_BELOW_IN]
    return Bracket(
        max(loose, key=lambda t: t.length_in, default=None),
        min(tight, key=lambda t: (t.length_in, t.feel), default=None),
        zeros,
        gaps,
        estimate,
        u,
        low,
        high,
        within,
        sure,
        bool(below),
        contradictions,
    )


def check_ratio(ratio: float) -> float:
    """Return a rocker ratio between 1.0 and 2.5, else raise InputError."""
    remedy = say("Most rockers are between 1.4 and 1.9")
    return within("ratio", say("Rocker ratio"), ratio, 1.0, 2.5, remedy=remedy)


def posterior(
    trials: Sequence[Trial], ratio: float, feeling: Feeling = USUAL_FEELING
) -> tuple[Floats, Floats]:
    """Possible lengths (n,) in inches and their probabilities (n,), summing to 1.

    Loose, zero and tight follow a probit model of the feel; the lengths that gaps
    point to are jointly normal, the error of the ratio being common to all of them.
    """
    return _posterior(tuple(trials), ratio, feeling)


def evidence(trials: Sequence[Trial], ratio: float, feeling: Feeling = USUAL_FEELING) -> Floats:
    """Logarithm (n,) of how likely the trials are by each of the hands, less a common amount."""
    return _evidence(tuple(trials), ratio, feeling)


@lru_cache(maxsize=1024)
def _evidence(trials: tuple[Trial, ...], ratio: float, feeling: Feeling) -> Floats:
    _, likely, log_most = _by_hand(trials, ratio, feeling)
    found: Floats = log_most + np.log(np.maximum(likely.sum(axis=1), 1e-300))
    found.flags.writeable = False
    return found


@lru_cache(maxsize=256)
def _posterior(trials: tuple[Trial, ...], ratio: float, feeling: Feeling) -> tuple[Floats, Floats]:
    grid, likely, _ = _by_hand(trials, ratio, feeling)
    weights = np.array(feeling.weights) @ likely
    weights /= weights.sum()
    weights.flags.writeable = False
    return grid, weights


def _by_hand(
    trials: tuple[Trial, ...], ratio: float, feeling: Feeling
) -> tuple[Floats, Floats, float]:
    """Lengths (t,), the likelihood (n, t) of the trials for each of n hands, and its scale.

    The likelihood is 1 at the most; the scale is the logarithm of what that stands for.
    It hangs on what the hands are, not on how likely each is; without a gap not on the ratio.
    """
    hands = unweighed(feeling.hands)
    if not _has_gap(trials):
        return _likelihood(trials, 1.0, Feeling(hands))
    known = feeling.gap_sd_in, feeling.ratio_half_width, feeling.fade, feeling.fade_sd
    return _likelihood(trials, ratio, Feeling(hands, *known))


@lru_cache(maxsize=512)
def _likelihood(
    trials: tuple[Trial, ...], ratio: float, feeling: Feeling
) -> tuple[Floats, Floats, float]:
    low, high = _support(trials, ratio, feeling)
    bands, scatters, alike, off = _laid_out(feeling.hands)
    shift = int(np.abs(off).max())
    count = max(int((high - low) / _GRID_IN), 1)
    first = 0
    gaps = [t for t in trials if t.gap_in is not None]
    common = np.zeros(count)
    if gaps:
        every: Floats = low + np.arange(count, dtype=np.float64) * _GRID_IN
        common = _log_gaps(gaps, every, ratio, feeling)
        possible = np.flatnonzero(common > common.max() - _IMPOSSIBLE)
        first, count = int(possible[0]), int(possible[-1] - possible[0]) + 1
        common = common[first : first + count]
    cells = np.arange(first - shift, first + count + shift, dtype=np.float64)
    wide: Floats = low + cells * _GRID_IN
    grid = wide[shift : shift + count]
    felt = Counter((t.feel, t.length_in) for t in trials if t.gap_in is None)
    without_bias = _log_feels(felt, wide, bands, scatters)
    beginnings = alike * len(wide) + shift + off
    log_p: Floats = without_bias.take(beginnings + np.arange(count)) + common
    log_most = float(log_p.max())
    likely: Floats = np.exp(log_p - log_most)
    grid.flags.writeable = likely.flags.writeable = False
    return grid, likely, log_most


@lru_cache(maxsize=64)
def _laid_out(hands: tuple[Hand, ...]) -> tuple[Floats, Floats, Indices, Indices]:
    """Bands and scatters (k, 1) that differ; of each hand which (n, 1), its bias in grid steps."""
    alike = list(dict.fromkeys((h.band_in, h.sd_in) for h in hands))
    bands, scatters = np.array(alike).T[:, :, None]
    which = np.array([[alike.index((h.band_in, h.sd_in))] for h in hands])
    return bands, scatters, which, np.array([[round(h.bias_in / _GRID_IN)] for h in hands])


def _log_feels(
    felt: Mapping[tuple[Feel, float], int], grid: Floats, bands_in: Floats, sds_in: Floats
) -> Floats:
    """Log likelihood (k, t) of lengths felt without a gap, each as often as it was felt.

    By each of k hands without bias, given by bands and scatters (k, 1).
    """
    log_p = np.zeros((len(bands_in), len(grid)))
    for (feel, length_in), count in felt.items():
        log_p += count * np.log(_feel_probability(feel, grid - length_in, bands_in, sds_in))
    return log_p


def _support(trials: Sequence[Trial], ratio: float, feeling: Feeling) -> tuple[float, float]:
    """Lengths beyond which no trial leaves any probability worth counting."""
    lengths = [t.length_in for t in trials]
    slack = _slack_in(feeling.hands)
    low, high = min(lengths) - _MARGIN_IN, max(lengths) + _MARGIN_IN
    for trial in trials:
        x = trial.length_in
        if trial.feel in (*LOOSE, "zero"):
            low = max(low, x - slack)
        if trial.feel in ("tight", "no_lash", "zero"):
            high = min(high, x + slack)
    if all(t.feel in LOOSE for t in trials):
        far = max(t.length_in + (t.gap_in or 0.0) / ratio * 1.7 for t in trials)
        high = max(high, far + _MARGIN_IN)
    return low, high if high > low else low + _MARGIN_IN


@lru_cache(maxsize=64)
def _slack_in(hands: tuple[Hand, ...]) -> float:
    """How far beyond a length the feel of it can still tell anything."""
    return max(h.band_in + 6 * h.sd_in + abs(h.bias_in) for h in hands)


def _feel_probability(feel: Feel, lash: Floats, band_in: Floats, sd_in: Floats) -> Floats:
    """How likely a feel is at each lash (t,), by hands of bands and scatters (k, 1); above 0."""
    if feel == "tight":
        return np.asarray(ndtr((-lash - band_in) / sd_in) + 1e-300, dtype=np.float64)
    loose = ndtr((lash - band_in) / sd_in)
    if feel in LOOSE:
        found = loose * _rough(feel, lash)
    elif feel == "no_lash":
        found = 1 - loose
    else:
        found = np.clip(1 - loose - ndtr((-lash - band_in) / sd_in), 0, 1)
    return np.asarray(found + 1e-300, dtype=np.float64)


def _rough(feel: Feel, lash: Floats) -> Floats | float:
    """How likely so much lash is called by this degree of loose, up to a common factor."""
    if feel not in ROUGH_GAPS:
        return 1.0
    usual, spread = ROUGH_GAPS[feel]
    off = np.log(np.maximum(lash, 1e-4) / usual) / spread
    return np.asarray(np.exp(-0.5 * off**2), dtype=np.float64)


def _log_gaps(gaps: Sequence[Trial], grid: Floats, ratio: float, feeling: Feeling) -> Floats:
    """Log likelihood (n,) of the lengths x + m: covariance s²·I + u²·m·mᵀ + f·fᵀ.

    m is what a gap leaves missing; the ratio's relative error u and what its fade leaves open,
    f, are common to all gaps (GUM 5.2.2); a loose rod is shorter than zero lash.
    """
    missing = [feeling.missing_in(t.gap_in or 0.0, ratio) for t in gaps]
    said = [t.length_in + m for t, (m, _) in zip(gaps, missing, strict=True)]
    middle = sum(said) / len(said)
    shared = [(feeling.ratio_sd * m, fade_u) for m, fade_u in missing]
    each = [(1.0, s - middle) for s in said]
    whole, across, rest = _weighed(each, shared, (feeling.gap_sd_in / ratio) ** 2)
    off = grid - middle
    square = (whole * off - 2 * across) * off + rest
    longest = max(t.length_in for t in gaps)
    return np.asarray(np.where(grid < longest, -1e9, -0.5 * square), dtype=np.float64)


def _weighed(
    each: Sequence[tuple[float, float]], shared: Sequence[tuple[float, float]], own: float
) -> tuple[float, float, float]:
    """a·C⁻¹·a, a·C⁻¹·b and b·C⁻¹·b of the columns a, b of ``each``; C = own·I + S·Sᵀ.

    S has the columns of ``shared``. By Woodbury's identity with the two of them, whatever the
    number of rows: C⁻¹ = (I - S·(own·I + Sᵀ·S)⁻¹·Sᵀ) / own.
    """
    a, b = zip(*each, strict=True)
    s, t = zip(*shared, strict=True)
    ss, tt, st = own + _dot(s, s), own + _dot(t, t), _dot(s, t)
    among = ss * tt - st * st
    as_, at, bs, bt = _dot(a, s), _dot(a, t), _dot(b, s), _dot(b, t)

    def left(ps: float, pt: float, qs: float, qt: float) -> float:
        return (ps * (tt * qs - st * qt) + pt * (ss * qt - st * qs)) / among

    return (
        (_dot(a, a) - left(as_, at, as_, at)) / own,
        (_dot(a, b) - left(as_, at, bs, bt)) / own,
        (_dot(b, b) - left(bs, bt, bs, bt)) / own,
    )


def _dot(x: Sequence[float], y: Sequence[float]) -> float:
    return float(sum(map(mul, x, y)))


def _summarise(
    trials: Sequence[Trial], ratio: float, feeling: Feeling
) -> tuple[float, float, float, float, float, float]:
    grid, p = posterior(trials, ratio, feeling)
    mean = float(grid @ p)
    off = np.abs(grid - mean)
    u = sqrt((off**2) @ p)
    low, high = np.interp((0.025, 0.975), np.cumsum(p), grid).tolist()
    limits = SETTLED_WITHIN_IN[:1] if _has_gap(trials) else SETTLED_WITHIN_IN
    chances = [(w, float(p[off <= w + 1e-9].sum())) for w in limits]
    sure = [c for c in chances if c[1] >= SETTLED_PROBABILITY]
    return mean, u, low, high, *(sure or chances)[0]


def _has_gap(trials: Sequence[Trial]) -> bool:
    return any(t.gap_in is not None for t in trials)


def quantile(grid: Floats, p: Floats, share: float) -> float:
    """The length below which ``share`` of the probability lies, inches."""
    return float(np.interp(share, np.cumsum(p), grid))


def find_contradictions(
    trials: Sequence[Trial], ratio: float, feeling: Feeling = USUAL_FEELING
) -> tuple[Contradiction, ...]:
    """Pairs of trials that cannot both be right, the latest hundred, the last one first."""
    return _find_contradictions(tuple(trials), ratio, feeling) if trials else ()


@remembered_as_said(1024)
def _find_contradictions(
    trials: tuple[Trial, ...], ratio: float, feeling: Feeling
) -> tuple[Contradiction, ...]:
    reach = feeling.zero_reach_in
    lowest, highest = zip(*(_implied(t, ratio, feeling, reach) for t in trials), strict=True)
    if max(lowest) < min(highest):
        return ()
    lows, highs = np.array(lowest), np.array(highest)
    longer = lows[:, None] >= highs[None, :]
    found = []
    pairs = np.argwhere(longer | longer.T)
    for j, i in pairs[pairs[:, 0] > pairs[:, 1]][-_MOST_CONTRADICTIONS:].tolist():
        earlier, later = trials[i], trials[j]
        pair = (earlier, later) if longer[i, j] else (later, earlier)
        found.append(Contradiction(*pair))
    return tuple(reversed(found))


def _implied(trial: Trial, ratio: float, feeling: Feeling, reach: float) -> tuple[float, float]:
    """The interval of zero-lash lengths a trial allows."""
    if trial.feel == "tight":
        return -inf, trial.length_in
    if trial.feel == "no_lash":
        return -inf, trial.length_in + reach
    if trial.feel == "zero":
        return trial.length_in - reach, trial.length_in + reach
    if trial.gap_in is None:
        usual, spread = ROUGH_GAPS.get(trial.feel, (inf, 0.0))
        return trial.length_in, trial.length_in + usual * exp(CAUGHT_SIGMA * spread)
    missing, fade_u = feeling.missing_in(trial.gap_in, ratio)
    slack = CAUGHT_SIGMA * (feeling.gap_sd_in / ratio + fade_u)
    share = min(CAUGHT_SIGMA * feeling.ratio_sd, 0.5)
    shortest = missing / (1 + share) - slack
    longest = missing / (1 - share) + slack
    return trial.length_in + max(shortest, 0.0), trial.length_in + longest


def _conflict_words(says_longer: Trial, says_shorter: Trial) -> str:
    a, b = says_longer, says_shorter
    if a.gap_in is None and a.feel in LOOSE and b.feel == "tight":
        if a.length_in == b.length_in:
            return say(
                "Trials {first} and {second} felt loose and tight at the same length.",
                first=a.number,
                second=b.number,
            )
        return say(
            "Trial {number} is tight but shorter than trial {loose}, which is loose.",
            number=b.number,
            loose=a.number,
        )
    if a.feel == "zero" and b.feel == "zero":
        return say(
            "Trials {first} and {second} both say zero, too far apart to be one length.",
            first=a.number,
            second=b.number,
        )
    said = say("its gap") if a.gap_in is not None else FEELS[a.feel]
    by_gap = a.gap_in is not None or b.gap_in is not None
    other = say("its gap") if b.gap_in is not None else FEELS[b.feel]
    cause = say(" The ratio near closed may be another than thought.") if by_gap else ""
    return say(
        "Trial {number} ({said}) asks for a longer rod than trial {other_number} ({other}) "
        "allows.{cause}",
        number=a.number,
        said=said,
        other_number=b.number,
        other=other,
        cause=cause,
    )


def next_trial(
    trials: Sequence[Trial],
    bracket: Bracket,
    adjuster: Adjuster,
    ratio: float,
    *,
    gaps: bool,
    expected_in: float | None = None,
    known: bool = False,
    feeling: Feeling = USUAL_FEELING,
) -> NextTrial | None:
    """The next setting to make, or None when no setting would tell more.

    ``gaps``: the builder reads the gap at the tip of a loose rod. ``known``: the length expected
    is what other valves of the kind were found to have. None is also returned before the first
    trial when nothing is expected.
    """
    if not trials:
        return _first(adjuster, expected_in, gaps, known)
    if bracket.contradictions:
        return _repeat(trials, bracket.contradictions[0])
    if bracket.settled:
        return None
    if bracket.gaps:
        return _after_gap(trials, bracket, adjuster, ratio, feeling)
    if bracket.estimate_in is None:
        return _open_ended(bracket, adjuster, gaps, expected_in)
    if bracket.zeros and not bracket.loose_below:
        return _below_zero(bracket, adjuster)
    return _split(trials, bracket, adjuster, ratio, feeling)


def _below_zero(bracket: Bracket, adjuster: Adjuster) -> NextTrial | None:
    """A zero without lash close below it may be a rod that is tight already."""
    zero = min(t.length_in for t in bracket.zeros)
    length = adjuster.snap(zero - LOOSE_BELOW_IN, 1)
    by = adjuster.said(say("half a turn"), 0.5)
    reason = say("Felt as zero: {by} shorter must feel loose, or it may be tight already.", by=by)
    return NextTrial("shorter", length, reason) if length < zero - 1e-9 else None


def _first(
    adjuster: Adjuster, expected_in: float | None, gaps: bool, known: bool
) -> NextTrial | None:
    if expected_in is None:
        return None
    if gaps and known:
        length = adjuster.snap(expected_in - NEAR_SHORT_IN, -1)
        return NextTrial("first", length, say("Start just short: a small gap tells the rest."))
    if gaps:
        length = adjuster.snap(expected_in - START_SHORT_TURNS * adjuster.turn_in, -1)
        return NextTrial(
            "first", length, say("Start short, so that the gap tells what is missing.")
        )
    length = adjuster.snap(expected_in - adjuster.resolution_in, -1)
    return NextTrial("first", length, say("Start a little short of the expected length."))


def _repeat(trials: Sequence[Trial], conflict: Contradiction) -> NextTrial:
    earlier = next(t for t in trials if t.number == conflict.first)
    return NextTrial(
        "repeat",
        earlier.length_in,
        say(
            "Repeat trial {first}, then strike out whichever of {first} and {second} was wrong.",
            first=conflict.first,
            second=conflict.second,
        ),
    )


def _open_ended(
    bracket: Bracket, adjuster: Adjuster, gaps: bool, expected_in: float | None
) -> NextTrial | None:
    loose, tight = bracket.longest_loose, bracket.shortest_tight
    one, two = say("one full turn"), say("two turns")
    if loose is not None:
        full = loose.length_in + adjuster.turn_in
        near = None if gaps else _past(expected_in, loose.length_in, adjuster, 1)
        length = adjuster.snap(full) if near is None else near
        words = (
            say("Loose: {value} longer.", value=adjuster.said(one))
            if near is None
            else (say("Loose: just past the expected length."))
        )
        step = NextTrial("longer", length, words)
        return step if length > loose.length_in + 1e-9 else None
    assert tight is not None
    turns = START_SHORT_TURNS if gaps else 1.0
    near = None if gaps else _past(expected_in, tight.length_in, adjuster, -1)
    length = adjuster.snap(tight.length_in - turns * adjuster.turn_in) if near is None else near
    reason = (
        say(
            "Tight: back {value} until it is loose, then read the gap.",
            value=adjuster.said(two, 2),
        )
        if gaps
        else say("Tight: {value} shorter.", value=adjuster.said(one))
        if near is None
        else say("Tight: just short of the expected length.")
    )
    return NextTrial("shorter", length, reason) if length < tight.length_in - 1e-9 else None


def _past(
    expected_in: float | None, tried_in: float, adjuster: Adjuster, way: Literal[-1, 1]
) -> float | None:
    """The setting just past what is expected, seen from one tried before it, less than a turn on.

    None where nothing is expected, or it was passed, or lies a turn away.
    """
    if expected_in is None:
        return None
    ahead = way * (expected_in - tried_in)
    length = adjuster.snap(expected_in + way * PAST_EXPECTED_IN, way)
    on = way * (length - tried_in)
    if ahead < -1e-9 or on > adjuster.turn_in or on < adjuster.resolution_in / 2:
        return None
    return length


def _after_gap(
    trials: Sequence[Trial],
    bracket: Bracket,
    adjuster: Adjuster,
    ratio: float,
    feeling: Feeling,
) -> NextTrial | None:
    """Aim just short of the estimate, so that a small gap, which is exact, is left."""
    grid, p = posterior(trials, ratio, feeling)
    assert bracket.longest_loose is not None
    short = adjuster.snap(quantile(grid, p, 0.05), -1)
    if short > bracket.longest_loose.length_in + 1e-9:
        reason = say("The gap tells what is missing; stay a trace short and read the gap again.")
        return NextTrial("gap", short, reason)
    return _split(trials, bracket, adjuster, ratio, feeling)


def _split(
    trials: Sequence[Trial],
    bracket: Bracket,
    adjuster: Adjuster,
    ratio: float,
    feeling: Feeling,
) -> NextTrial | None:
    grid, p = posterior(trials, ratio, feeling)
    length = adjuster.snap(quantile(grid, p, 0.5))
    if any(abs(t.length_in - length) < adjuster.resolution_in / 2 for t in trials):
        untried = _untried(trials, bracket, adjuster)
        if untried is None:
            return _zero_again(trials, length)
        length = untried
    return NextTrial("split", length, say("Split what is left between loose and tight."))


def _zero_again(trials: Sequence[Trial], length_in: float) -> NextTrial | None:
    """The same setting once more: what one feel leaves open, several narrow down."""
    if sum(abs(t.length_in - length_in) < 1e-6 for t in trials) >= _MOST_AGAIN:
        return None
    reason = say(
        "Turn away, come back to this setting and feel it again: your hand is not known yet."
    )
    return NextTrial("repeat", length_in, reason)


def _untried(trials: Sequence[Trial], bracket: Bracket, adjuster: Adjuster) -> float | None:
    """The setting next to the estimate that no trial has used, inside the bracket."""
    assert bracket.estimate_in is not None
    tried = [t.length_in for t in trials]
    for k in (1, -1):
        length = adjuster.snap(bracket.estimate_in, k)
        inside_low = bracket.longest_loose is None or length > bracket.longest_loose.length_in
        inside_high = bracket.shortest_tight is None or length < bracket.shortest_tight.length_in
        free = all(abs(length - x) > adjuster.resolution_in / 2 for x in tried)
        if inside_low and inside_high and free:
            return length
    return None
