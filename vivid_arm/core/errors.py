"""One exception for input that cannot be right, and one check of a range."""

from dataclasses import dataclass

from vivid_arm.core.words import Saying, figure, language, say


@dataclass(frozen=True)
class Suggestion:
    """A likely reading of a mistyped figure: text to type instead, and why."""

    text: str
    why: str


class InputError(ValueError):
    """A value outside what its field can hold.

    ``field`` is the machine name, ``received`` what was given, ``expected`` the
    limit in words, ``remedy`` what to do; ``suggestion`` is set when the value
    looks like a common slip.
    """

    def __init__(
        self,
        field: str,
        message: str,
        *,
        received: object = None,
        expected: str = "",
        remedy: str = "",
        suggestion: Suggestion | None = None,
        code: str = "bad_input",
    ) -> None:
        parts = [message.rstrip(".") + "."]
        if suggestion:
            parts.append(say("{why}: use {typed}?", why=suggestion.why, typed=suggestion.text))
        elif remedy:
            parts.append(remedy.rstrip(".") + ".")
        super().__init__(" ".join(parts))
        self.field = field
        self.received = received
        self.expected = expected
        self.remedy = remedy
        self.suggestion = suggestion
        self.code = code

    def __reduce__(self) -> tuple[object, ...]:
        """So that it comes whole out of another process."""
        return _again, (type(self), str(self), self.__dict__.copy())


def _again(kind: type[InputError], message: str, values: dict[str, object]) -> InputError:
    made = kind.__new__(kind, message)
    made.args = (message,)
    made.__dict__.update(values)
    return made


_CHECK_IT = Saying("Check the figure and its unit")


def within(
    field: str,
    label: str,
    value: float,
    low: float,
    high: float,
    unit: str = "",
    *,
    remedy: str | Saying = _CHECK_IT,
    suggestion: Suggestion | None = None,
) -> float:
    """Return a value in the closed range, else raise InputError in the one wording for it.

    ``label`` is what the trade calls it; ``unit`` stands behind each figure, with its blank
    where one is wanted (" in", "°"); inches are told in millimetres to whoever works in them.

    >>> within("guard_deg", "Guard", 15.0, 0, 60, "°")
    15.0
    >>> within("guard_deg", "Guard", 75.0, 0, 60, "°", remedy="Measure again")
    Traceback (most recent call last):
        ...
    vivid_arm.core.errors.InputError: Guard: 75° is outside 0° to 60°. Measure again.
    """
    if low <= value <= high:
        return value
    shown = [figure(x, "g") for x in (value, low, high)]
    if unit == " in" and language.get().unit == "mm":
        unit, shown = " mm", [figure(round(x * 25.4, 2), "g") for x in (value, low, high)]
    raise InputError(
        field,
        say(
            "{label}: {value}{unit} is outside {low}{low_unit} to {high}{unit}",
            label=label,
            value=shown[0],
            unit=unit,
            low_unit=unit if unit == "°" else "",
            low=shown[1],
            high=shown[2],
        ),
        received=value,
        expected=say("{low} to {high}", low=shown[1], high=shown[2]),
        remedy=str(remedy),
        suggestion=suggestion,
        code="out_of_range",
    )
