"""One exception for input that cannot be right."""

from dataclasses import dataclass


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
            parts.append(f"{suggestion.why}: use {suggestion.text}?")
        elif remedy:
            parts.append(remedy.rstrip(".") + ".")
        super().__init__(" ".join(parts))
        self.field = field
        self.received = received
        self.expected = expected
        self.remedy = remedy
        self.suggestion = suggestion
        self.code = code
