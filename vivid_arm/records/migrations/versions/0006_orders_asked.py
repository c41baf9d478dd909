"""An order asked for and not answered has states of its own.

Revision ID: 0006
Revises: 0005
"""

from alembic import op

revision = "0006"
down_revision = "0005"

_BEFORE = "'draft', 'placed', 'received', 'trial', 'fitted', 'withdrawn'"


def upgrade() -> None:
    """A draft whose supplier was asked is now said to be unknown."""
    op.drop_constraint(op.f("ck_orders_state"), "orders")
    op.create_check_constraint(
        op.f("ck_orders_state"), "orders", f"state IN ({_BEFORE}, 'asked', 'unknown')"
    )
    op.execute("UPDATE orders SET state = 'unknown' WHERE state = 'draft' AND asked_at IS NOT NULL")


def downgrade() -> None:
    """Back to a draft that was asked for."""
    op.execute("UPDATE orders SET state = 'draft' WHERE state IN ('asked', 'unknown')")
    op.drop_constraint(op.f("ck_orders_state"), "orders")
    op.create_check_constraint(op.f("ck_orders_state"), "orders", f"state IN ({_BEFORE})")
