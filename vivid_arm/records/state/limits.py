"""The limits of the checks and the torque card of a build, as the core's things."""

from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.sign_off.checks import BY_NAME, Check, Limit, usual_limit
from vivid_arm.core.sign_off.torque import Torque
from vivid_arm.core.words import say
from vivid_arm.records.tables import Build


def limit_of(build: Build, check: Check, kind: ValveKind) -> Limit | None:
    """The least a check must find: the builder's own figure, else the trade's."""
    given = (build.limits or {}).get(check.name)
    own = given.of(kind) if given else None
    if own is not None:
        return Limit(own, None, say("own limit"), own=True)
    return usual_limit(check, kind)


def check_limits(build: Build) -> None:
    """Raises InputError for a limit that cannot be."""
    for name in build.limits or {}:
        if name not in BY_NAME or BY_NAME[name].least_in is None:
            raise InputError(
                "limits",
                say("There is no limit to set for {name}", name=name),
                received=name,
                code="unknown",
            )
        for kind in KINDS:
            limit_of(build, BY_NAME[name], kind)


def check_torque(build: Build) -> None:
    """Raises InputError for a torque figure that cannot be."""
    for fastener in build.torque.fasteners if build.torque else ():
        for stage in fastener.stages:
            if stage.value is not None:
                Torque(stage.value, stage.unit)
