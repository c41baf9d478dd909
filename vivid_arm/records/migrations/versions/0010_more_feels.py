"""Degrees of loose, and "no lash" that may be tight, beside loose, zero and tight.

Revision ID: 0010
Revises: 0009
"""

from alembic import op

revision = "0010"
down_revision = "0009"

_BEFORE = "'loose', 'zero', 'tight'"


def _check(feels: str) -> str:
    return f"kind <> 'trial' OR (feel IN ({feels}) AND length_in IS NOT NULL)"


def upgrade() -> None:
    """Nothing kept so far changes."""
    op.drop_constraint(op.f("ck_readings_trial_complete"), "readings")
    op.create_check_constraint(
        op.f("ck_readings_trial_complete"),
        "readings",
        _check(f"{_BEFORE}, 'no_lash', 'barely', 'quite'"),
    )


def downgrade() -> None:
    """Lines of the log stay as they are; no new ones of these feels."""
    op.drop_constraint(op.f("ck_readings_trial_complete"), "readings")
    op.create_check_constraint(
        op.f("ck_readings_trial_complete"),
        "readings",
        _check(_BEFORE),
        postgresql_not_valid=True,
    )
