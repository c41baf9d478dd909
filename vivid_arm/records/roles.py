"""The role the application works as: it can add to the log and never change or empty it.

The owner migrates and backs up. Who gives the program a database of his own (DATABASE_URL)
decides on its role himself.
"""

import secrets

from sqlalchemy import Engine, text
from sqlalchemy.engine import make_url

WORKING = "vivid_arm_working"
_ADD_ONLY = ("readings", "findings", "signatures", "notes", "nods")
_CHANGED = (
    "builds", "valves", "instruments", "box_rods", "orders", "photos", "pulse", "summaries",
    "exercises", "deeds", "accounts", "invitations", "sign_ins", "sign_in_tries",
)  # fmt: skip
_READ_ONLY = ("alembic_version", "evidence", "changes")


def working_url(owner: Engine) -> str:
    """Make or renew the working role in a migrated database; its URL, with a password of now."""
    password = secrets.token_hex(24)
    with owner.begin() as connection:
        connection.execute(text("SELECT pg_advisory_xact_lock(hashtext('working role'))"))
        there = connection.scalar(text(f"SELECT 1 FROM pg_roles WHERE rolname = '{WORKING}'"))
        verb = "ALTER" if there else "CREATE"
        connection.execute(text(f"{verb} ROLE {WORKING} LOGIN PASSWORD '{password}'"))
        for tables, rights in (
            (_ADD_ONLY, "SELECT, INSERT"),
            (_CHANGED, "SELECT, INSERT, UPDATE"),
            (("valves", "invitations", "sign_in_tries"), "DELETE"),
            (_READ_ONLY, "SELECT"),
        ):
            connection.execute(text(f"GRANT {rights} ON {', '.join(tables)} TO {WORKING}"))
        connection.execute(text(f"GRANT USAGE ON SCHEMA public TO {WORKING}"))
        connection.execute(text(f"GRANT USAGE ON ALL SEQUENCES IN SCHEMA public TO {WORKING}"))
        connection.execute(text("REVOKE EXECUTE ON FUNCTION link FROM PUBLIC"))
    return make_url(owner.url).set(username=WORKING, password=password).render_as_string(False)
