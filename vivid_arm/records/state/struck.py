"""Which lines of a log are struck out: a strike can be struck out itself, and so on.

A line of kind "void" strikes out the one it refers to, or the strike it refers to; another kind
takes the place of what it refers to.
"""

from collections.abc import Mapping, Sequence
from typing import TypeVar

from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.tables import Reading

One = TypeVar("One", KeptLine, Reading)


def struck_by(rows: Sequence[One]) -> dict[int, One]:
    """For each line that does not count: the line that struck it out, or stands in its place."""
    refers = {r.replaces_id: r for r in rows if r.replaces_id is not None}
    if not refers:
        return {}
    found = {}
    for row in rows:
        chain = chain_of(row, refers) if row.kind != "void" else []
        if chain and (chain[-1].kind != "void" or len(chain) % 2):
            found[row.id] = chain[-1]
    return found


def chain_of(row: One, refers: Mapping[int, One]) -> list[One]:
    """The strikes of a line, each of the one before it, up to the one that took its place."""
    chain: list[One] = []
    at = refers.get(row.id)
    while at is not None:
        chain.append(at)
        at = refers.get(at.id) if at.kind == "void" else None
    return chain
