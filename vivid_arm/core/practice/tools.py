"""What hands and tools get from a practice engine: never a figure that nobody could read there.

``Bench`` is how everything stands: the crank, which rod stands in which valve, what is tight.
Every deed gives the bench as it stands afterwards and what is ``Got``: words for what is felt,
a gauge's reading as it is drawn, or a rod's motion. Chance follows the engine's seed and the count
of deeds, so that the same deeds give the same readings on every machine.

Source: how finger, feeler, caliper and straight-edge read, common practice put in figures by us.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import degrees
from random import Random
from typing import Literal

from vivid_arm.core.errors import InputError, within
from vivid_arm.core.practice.train import Train
from vivid_arm.core.practice.truth import ENDS, Truth, ValveTruth
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.methods import USUAL_FASTENER_PITCH_IN

Felt = Literal["rattles", "swings", "drags", "springs", "solid", "nothing"]
DragsLike = Literal["free", "drags", "will not go"]

FELT: dict[Felt, Saying] = {
    "rattles": Saying("It rattles: up and down, and freely round."),
    "swings": Saying("It swings a trace up and down, and turns freely."),
    "drags": Saying("No play up or down; it turns with a light drag."),
    "springs": Saying("It is tight, and gives as if on a spring."),
    "solid": Saying("It is solid: it hardly turns."),
    "nothing": Saying("There is no rod in this valve."),
}
BLADE: dict[DragsLike, Saying] = {
    "free": Saying("It goes in freely."),
    "drags": Saying("It goes in and drags."),
    "will not go": Saying("It will not go in."),
}
MOST_TURNS = 20.0
_FEEL_SD_IN, _BAND_IN, _SWING_IN = 0.0008, 0.0015, 0.012
_BLADE_SD_IN, _BLADE_DRAGS_IN = 0.0004, 0.0010
_CALIPER_SD_IN, _EDGE_SD_IN = 0.0005, 0.0010
_VAGUE = 3.0
_BACKED_IN = 0.25
_WIDE_IN = 1.0
_FILM_IN, _SWEPT = 0.003, 40
_TIGHT, _LOOSE, _WRENCH_SD = 1.05, 0.4, 0.04
_ANGLES = {"inclinometer": (0.3, 0.1), "square": (0.8, 0.5), "laser": (0.15, 0.1)}
"""How each tool scatters, and what it can be read to, degrees: common practice."""
BLADES_THOU = (*range(1, 26), 30, 35, 40, 50, 60, 80, 100)
"""The feelers of the set, thousandths."""


@dataclass(frozen=True)
class Bench:
    """How the bench stands. ``turned``: of the checking rod in turns, ``rod_in`` where it stands.

    ``seated``, ``wrenched``: valves whose rod was spun home, banks whose fasteners were torqued.
    ``pushed``: how far a hand has pushed plungers down, inches. ``bought``: rods that came, by
    name, with the length ordered; ``again``: those bought a second time. ``checking_springs``: put
    in in place of running ones.
    """

    crank_deg: float = 0.0
    rod_in: str = ""
    turned: float = 2.0
    seated: tuple[str, ...] = ()
    wrenched: tuple[str, ...] = ()
    checking_springs: bool = False
    pushed: tuple[tuple[str, float], ...] = ()
    bought: tuple[tuple[str, float], ...] = ()
    again: tuple[str, ...] = ()
    mark: tuple[float, float] | None = None
    nut: tuple[str, float] | None = None
    shims_in: float = 0.0
    count: int = 0

    def pushed_in(self, valve: str) -> float:
        """How far a valve's plunger stands pushed down."""
        return dict(self.pushed).get(valve, 0.0)


@dataclass(frozen=True)
class Got:
    """What a deed gives: words, and what is drawn.

    ``motion_in``: how far the rod is seen to move, rounded as an eye sees it. ``read_in``: a
    gauge's reading, inches, ``read_deg`` an angle's, ``read_lbf_ft`` a wrench's. ``blade``: how a
    feeler goes. ``telling``: a fault that showed in it.
    """

    words: str
    felt: Felt | None = None
    motion_in: float = 0.0
    read_in: float | None = None
    read_deg: float | None = None
    read_lbf_ft: float | None = None
    blade: DragsLike | None = None
    telling: tuple[str, ...] = ()


def valve_of(truth: Truth, name: str) -> ValveTruth:
    """A valve by its name. Raises InputError for one the engine has not."""
    found = truth.valves.get(name)
    if found is None:
        raise InputError(
            "valve", say("This engine has no valve {name}", name=name[:10]), code="no_valve"
        )
    return found


def lobe_in(truth: Truth, valve: ValveTruth, crank_deg: float) -> float:
    """How far a valve's lobe lifts at a crank angle."""
    overlap = truth.engine.firing_tdc_deg[valve.cylinder] + 360.0
    return valve.lobe.lift_at(crank_deg - overlap)


def heel_deg(truth: Truth, valve: ValveTruth) -> float:
    """The crank angle opposite a lobe's nose."""
    overlap = truth.engine.firing_tdc_deg[valve.cylinder] + 360.0
    return (overlap + valve.lobe.centre_deg + 360.0) % 720.0


def train_of(bench: Bench, valve: ValveTruth) -> Train:
    """A valve's train on the shims that lie under its stand."""
    return valve.train.lowered(-bench.shims_in)


def asks_for_in(truth: Truth, bench: Bench, valve: ValveTruth) -> float:
    """The rod that has no lash as everything stands now, overall length, inches.

    On a stud that is the rod that stands there: the nut is run down on it to zero lash.
    """
    if truth.scenario.mount == "stud" and bench.rod_in == valve.name:
        return checking_rod_in(truth, bench)
    train = train_of(bench, valve)
    loose = truth.fault("loose_shaft", valve.bank)
    if loose is not None and valve.bank not in bench.wrenched:
        train = train.lowered(-loose.size_in)
    wanted = train.zero_lash(lobe_in(truth, valve, bench.crank_deg)) + ENDS.added_in("theoretical")
    springs = truth.fault("springs")
    if springs is not None and not bench.checking_springs:
        wanted += springs.size_in
    return wanted + bench.pushed_in(valve.name)


def stands_in(truth: Truth, bench: Bench, valve: ValveTruth) -> float:
    """The checking rod's length as it stands in a valve, overall, inches."""
    rim = truth.fault("cup", valve.name)
    off = rim.size_in if rim is not None and valve.name not in bench.seated else 0.0
    return checking_rod_in(truth, bench) + off


def checking_rod_in(truth: Truth, bench: Bench) -> float:
    """The checking rod's true length, overall, inches."""
    return truth.closed_in + bench.turned * truth.pitch_in


def turn_crank(truth: Truth, bench: Bench, to_deg: float) -> tuple[Bench, Got]:
    """Turn the crank on, never back. Raises InputError outside 0 to 720."""
    within("to_deg", say("Crank"), to_deg, 0.0, 720.0, "°")
    return replace(bench, crank_deg=to_deg % 720.0, pushed=()), Got(say("The crank stands there."))


def fit(truth: Truth, bench: Bench, valve: str) -> tuple[Bench, Got]:
    """Put the checking rod into a valve. Raises InputError."""
    found = valve_of(truth, valve)
    seated = tuple(v for v in bench.seated if v != valve)
    if truth.fault("cup", found.name) is None:
        seated = (*seated, valve)
    return replace(bench, rod_in=valve, seated=seated), Got(
        say("The rod stands in {valve}.", valve=valve)
    )


def turn_rod(truth: Truth, bench: Bench, eighths: int) -> tuple[Bench, Got]:
    """Turn the checking rod by eighths of a turn, longer above zero; at its ends it stops."""
    turned = bench.turned + eighths / 8
    if not -1e-9 <= turned <= MOST_TURNS + 1e-9:
        end = say("closed") if turned < 0 else say("open to its mark")
        stop = min(max(turned, 0.0), MOST_TURNS)
        return replace(bench, turned=stop), Got(
            say("The rod is {end} and turns no further.", end=end)
        )
    return replace(bench, turned=turned), Got(say("The rod is turned."))


def spin(truth: Truth, bench: Bench) -> tuple[Bench, Got]:
    """Spin the rod, so that both its tips find their cups. Raises InputError without a rod."""
    valve = _fitted(truth, bench)
    if valve.name in bench.seated:
        return bench, Got(say("It spins true."))
    bench = replace(bench, seated=(*bench.seated, valve.name))
    return bench, Got(say("It drops with a click: a tip had stood on its rim."), telling=("cup",))


def feel(truth: Truth, bench: Bench) -> tuple[Bench, Got]:
    """Take the rod between two fingers. Raises InputError without a rod."""
    valve = _fitted(truth, bench)
    rng = truth.rng(bench.count)
    lash = asks_for_in(truth, bench, valve) - stands_in(truth, bench, valve)
    vague = truth.fault("springs") is not None and not bench.checking_springs
    sd = _FEEL_SD_IN * (_VAGUE if vague else 1.0)
    felt = _felt(truth, lash + rng.gauss(0, sd))
    soft = truth.fault("soft_plunger", valve.name)
    telling: tuple[str, ...] = ("springs",) if vague else ()
    if soft is not None and felt in ("drags", "springs"):
        down = min(bench.pushed_in(valve.name) + soft.size_in, truth.scenario.travel_in)
        bench = replace(bench, pushed=tuple({**dict(bench.pushed), valve.name: down}.items()))
        telling = (*telling, "soft_plunger")
    motion = round(max(lash, 0.0), 2)
    return bench, Got(say(FELT[felt]), felt, motion, telling=telling)


def _felt(truth: Truth, lash_in: float) -> Felt:
    if lash_in > _SWING_IN:
        return "rattles"
    if lash_in > _BAND_IN:
        return "swings"
    if lash_in >= -_BAND_IN:
        return "drags"
    gives = truth.scenario.lifter == "hydraulic" and -lash_in < truth.scenario.travel_in
    return "springs" if gives else "solid"


def feeler(truth: Truth, bench: Bench, blade_in: float) -> tuple[Bench, Got]:
    """Put feelers between the arm's tip and the stem. Raises InputError."""
    within("blade_in", say("Feelers"), blade_in, 0.001, 0.300, " in")
    valve = _fitted(truth, bench)
    rng = truth.rng(bench.count)
    open_in = _gap_in(truth, bench, valve) + rng.gauss(0, _BLADE_SD_IN)
    blade: DragsLike = (
        "will not go" if blade_in > open_in + _BLADE_DRAGS_IN / 2
        else "drags" if blade_in > open_in - _BLADE_DRAGS_IN / 2
        else "free"
    )  # fmt: skip
    return bench, Got(say(BLADE[blade]), blade=blade)


def _gap_in(truth: Truth, bench: Bench, valve: ValveTruth) -> float:
    """What stands open at the tip with the rod short, inches; 0 where it is not short."""
    lash = asks_for_in(truth, bench, valve) - stands_in(truth, bench, valve)
    if lash <= 0:
        return 0.0
    return gap_of_lash_in(train_of(bench, valve), lobe_in(truth, valve, bench.crank_deg), lash)


def gap_of_lash_in(train: Train, lobe: float, lash_in: float) -> float:
    """What stands open at the tip with a rod short by so much; wide where no arm reaches it."""
    try:
        return max(train.gap(train.zero_lash(lobe) - lash_in, lobe), 0.0)
    except InputError:
        return _WIDE_IN


def caliper(
    truth: Truth, bench: Bench, over: str = "checking rod", square: bool = True
) -> tuple[Bench, Got]:
    """A caliper over the checking rod, or over a rod that came. Raises InputError.

    Held out of square it reads long.
    """
    rng = truth.rng(bench.count)
    if over == "checking rod":
        length = checking_rod_in(truth, bench)
    else:
        length = came_in(truth, bench, over)
    tilted = 0.0 if square else rng.uniform(0.002, 0.008)
    read = length + tilted + rng.gauss(0, _CALIPER_SD_IN)
    shown = ("rod_label", "thread") if over == "checking rod" else ("gauge_rods",)
    telling = tuple(f.kind for f in truth.faults if f.kind in shown or f.where == over)
    return bench, Got(
        say("The caliper shows it."), read_in=round(read * 2000) / 2000, telling=telling
    )


def came_in(truth: Truth, bench: Bench, rod: str) -> float:
    """The true overall length of a rod that came. Raises InputError for none of that name."""
    ordered = dict(bench.bought).get(rod)
    if ordered is None:
        raise InputError("over", say("No rod {rod} has come", rod=rod[:20]), code="no_rod")
    off = Random(
        say("{code}/{seed}/rod {rod}", code=truth.scenario.code, seed=truth.seed, rod=rod)
    ).uniform(-0.0015, 0.0015)
    bent = None if rod in bench.again else truth.fault("bent_rod", rod)
    gauge = ENDS.added_in("theoretical") - ENDS.added_in("gauge")
    off -= bent.size_in if bent is not None else 0.0
    return ordered + off + (gauge if truth.fault("gauge_rods") else 0.0)


def with_rods(bench: Bench, rods: Mapping[str, float]) -> Bench:
    """The bench with rods that came, by the valve they are for; a later one takes the place."""
    known = dict(bench.bought)
    again = tuple({*bench.again, *(known.keys() & rods.keys())})
    return replace(bench, bought=tuple((known | dict(rods)).items()), again=again)


def straight_edge(truth: Truth, bench: Bench, valve: str) -> tuple[Bench, Got]:
    """A straight-edge over the tips of a head: how far one stands over the middle one."""
    own = valve_of(truth, valve)
    alike = sorted(v.proud_in for v in truth.valves.values() if v.bank == own.bank)
    off = own.proud_in - alike[len(alike) // 2] + truth.rng(bench.count).gauss(0, _EDGE_SD_IN)
    telling = tuple(f.kind for f in truth.faults if f.where == valve and own.proud_in)
    return bench, Got(
        say("Feelers under the edge say how far."), read_in=round(off, 3), telling=telling
    )


def wrench(truth: Truth, bench: Bench, bank: str) -> tuple[Bench, Got]:
    """Torque the rockers' fasteners of a head: where the first of them moves on, then to the card.

    Raises InputError for a head there is not.
    """
    if bank not in {v.bank for v in truth.valves.values()}:
        raise InputError("bank", say("This engine has no {bank}", bank=bank[:20]), code="no_bank")
    loose = truth.fault("loose_shaft", bank) is not None and bank not in bench.wrenched
    bench = replace(bench, wrenched=tuple({*bench.wrenched, bank}))
    card = truth.scenario.torque_lbf_ft
    part = (_LOOSE if loose else _TIGHT) * (1 + truth.rng(bench.count).gauss(0, _WRENCH_SD))
    return bench, Got(
        say(
            "So much moved the first of them on; all stand at the card's {card} lbf·ft now.",
            card=card,
        ),
        read_lbf_ft=round(2 * part * card) / 2,
        telling=("loose_shaft",) if loose else (),
    )


def springs(truth: Truth, bench: Bench) -> tuple[Bench, Got]:
    """Press a valve down by hand, and put checking springs in where running ones are."""
    heavy = truth.fault("springs") is not None and not bench.checking_springs
    bench = replace(bench, checking_springs=True)
    if heavy:
        return bench, Got(
            say("No thumb opens that valve: running springs. Checking springs go in."),
            telling=("springs",),
        )
    return bench, Got(say("The valve opens under the thumb: checking springs are in."))


def standing(truth: Truth, bench: Bench, valve: ValveTruth, rod_in: float) -> Train:
    """A valve's train with the nut run down to zero lash on a rod (overall); else on its shims.

    Raises InputError where no nut reaches.
    """
    if truth.scenario.mount != "stud":
        return train_of(bench, valve)
    return valve.train.lowered(valve.train.nut_for(rod_in - ENDS.added_in("theoretical")))


def swept(truth: Truth, train: Train) -> tuple[float, float]:
    """Where the arm's tip sweeps over the stem's in a whole lift: inboard, outboard, inches."""
    rod = train.zero_lash()
    over = [train.contact(rod, truth.lobe_lift_in * k / _SWEPT) for k in range(_SWEPT + 1)]
    return min(over), max(over)


def half_lift_deg(truth: Truth, train: Train) -> float:
    """The arm over the perpendicular to the stem with the valve half open, degrees."""
    rod, whole = train.zero_lash(), truth.lobe_lift_in
    half = -train.gap(rod, whole) / 2
    low, high = 0.0, whole
    for _ in range(40):
        middle = (low + high) / 2
        low, high = (middle, high) if -train.gap(rod, middle) < half else (low, middle)
    return degrees(train.angle_of(rod, (low + high) / 2))


def shim(truth: Truth, bench: Bench, thick_in: float) -> tuple[Bench, Got]:
    """Put shims of a thickness under the rockers' stands in place of those there; all torqued.

    Raises InputError outside 0 to 0.150, or where the rockers have no stands.
    """
    if truth.scenario.mount not in ("shaft", "shaft_adjustable"):
        raise InputError("deed", say("These rockers stand on no stands"), code="no_stands")
    within("thick_in", say("Shims"), thick_in, 0.0, 0.150, " in")
    after = replace(bench, shims_in=thick_in, rod_in="", mark=None)
    return after, Got(say("The stands are down on their shims."))


def back_off(truth: Truth, bench: Bench, valve: str) -> tuple[Bench, Got]:
    """Run a rocker's fasteners out, its own rod under it, until the arm is free.

    Raises InputError for a valve there is not, or without a rod of its own.
    """
    found = valve_of(truth, valve)
    came_in(truth, bench, found.name)
    return replace(bench, nut=(valve, _BACKED_IN), rod_in=""), Got(say("The rocker is free."))


def draw_down(truth: Truth, bench: Bench, eighths: int) -> tuple[Bench, Got]:
    """Draw the fasteners down by eighths of a turn. Raises InputError where none is backed off."""
    if bench.nut is None:
        raise InputError("deed", say("No fastener is backed off"), code="no_nut")
    name, lifted = bench.nut
    valve = valve_of(truth, name)
    lifted = max(lifted - eighths / 8 * USUAL_FASTENER_PITCH_IN, 0.0)
    bench = replace(bench, nut=(name, lifted))
    train = train_of(bench, valve).lowered(-lifted)
    wanted = train.zero_lash(lobe_in(truth, valve, bench.crank_deg)) + ENDS.added_in("theoretical")
    lash = wanted - came_in(truth, bench, name) + truth.rng(bench.count).gauss(0, _FEEL_SD_IN)
    if lifted == 0.0:
        return bench, Got(say("The wrench stops: it is down."))
    if lash > _BAND_IN:
        return bench, Got(say("The rod has play."))
    if lash >= -_BAND_IN - USUAL_FASTENER_PITCH_IN / 16:
        return bench, Got(say("The play is just gone: the rod drags."))
    return bench, Got(say("The rod is held; the plunger goes down."))


def mark(truth: Truth, bench: Bench) -> tuple[Bench, Got]:
    """Paint the tip, run the rocker down, turn the engine twice, take it off and look.

    Raises InputError without a rod, or where no nut reaches.
    """
    valve = _fitted(truth, bench)
    train = standing(truth, bench, valve, checking_rod_in(truth, bench))
    inboard, outboard = swept(truth, train)
    rng = truth.rng(bench.count)
    film = [abs(rng.gauss(_FILM_IN, 0.001)) for _ in range(2)]
    left = (round(inboard - film[0], 5), round(outboard + film[1], 5))
    return replace(bench, mark=left), Got(say("The roller has wiped its mark into the dye."))


def angle(truth: Truth, bench: Bench, by: str = "inclinometer") -> tuple[Bench, Got]:
    """The arm at half lift against the stem, by inclinometer, square or laser.

    A square tells half a degree at best. Raises InputError for another tool, or without a rod.
    """
    if by not in _ANGLES:
        raise InputError("by", say("No angle is read by {by}", by=by[:20]), code="no_tool")
    valve, (sd, step) = _fitted(truth, bench), _ANGLES[by]
    train = standing(truth, bench, valve, checking_rod_in(truth, bench))
    read = half_lift_deg(truth, train) + truth.rng(bench.count).gauss(0, sd)
    shown = round(round(read / step) * step, 1)
    return bench, Got(say("The arm over square to the stem, at half lift."), read_deg=shown)


def roll(truth: Truth, bench: Bench, rod: str) -> tuple[Bench, Got]:
    """Roll a rod that came on a flat plate. Raises InputError for none of that name."""
    came_in(truth, bench, rod)
    bent = None if rod in bench.again else truth.fault("bent_rod", rod)
    if bent is not None:
        return bench, Got(say("Light comes and goes under it: it is bent."), telling=("bent_rod",))
    return bench, Got(say("It rolls true."))


def _fitted(truth: Truth, bench: Bench) -> ValveTruth:
    if not bench.rod_in:
        raise InputError(
            "valve", say("No rod is in a valve"), remedy=say("Fit it first"), code="no_rod"
        )
    return valve_of(truth, bench.rod_in)
