"""The shop's own rods on the shelf."""

from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.records.tables import BoxRod


def list_box(session: Session) -> list[BoxRod]:
    """Every kind of rod on the shelf, shortest first."""
    return list(session.scalars(select(BoxRod).order_by(BoxRod.length_in, BoxRod.id)))
