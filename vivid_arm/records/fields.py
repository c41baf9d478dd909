"""What every schema and shape is made of: texts, figures, versions, strict bodies."""

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field


def no_nul(text: str) -> str:
    """Refuse characters that the database cannot keep."""
    if "\x00" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise ValueError("text holds a character that cannot be stored")
    return text


Text = Annotated[str, AfterValidator(no_nul)]
Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(no_nul)]
Figure = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-9999, le=9999)]
InstrumentKind = Literal["checking_rod", "caliper", "indicator"]
Cylinder = Annotated[int, Field(strict=True, ge=1, le=16)]
Version = Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)]


class Strict(BaseModel):
    """A request body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")
