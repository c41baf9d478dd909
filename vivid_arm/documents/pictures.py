"""Drawings for paper: the length ladder to scale in black and white, a QR code."""

import io
from collections.abc import Callable
from math import ceil, floor

import segno

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.entry.lengths import format_length, format_small
from vivid_arm.core.rods.grouping import Need
from vivid_arm.core.words import Unit, say
from vivid_arm.documents.order_data import OrderLine, OrderSheet
from vivid_arm.records.state.build import BuildState

_WIDTH, _HEIGHT = 680.0, 104.0
_LEFT, _RIGHT = 8.0, 8.0


def qr_svg(text: str) -> str:
    """A QR code as an inline SVG (ISO/IEC 18004, error correction M)."""
    out = io.BytesIO()
    segno.make(text, error="m", micro=False).save(
        out, kind="svg", border=2, xmldecl=False, svgns=True, omitsize=True
    )
    return out.getvalue().decode()


def ladder_svg(line: OrderLine, sheet: OrderSheet, unit: Unit) -> str | None:
    """One length and its measured valves on the axis of rod length, to scale.

    Zero lash of each valve as a tick, the window from the longest to the shortest valve
    hatched, the rod as a wedge, the plunger's bottom as a wall. None without a measured valve,
    or where the rod stands so far off that nothing could be read.
    """
    rows = [r for r in sheet.evidence if r.valve in line.valves]
    if not rows:
        return None
    zeros = [r.zero_lash_in for r in rows]
    rod = rows[0].axis_in
    bottom = min(zeros) + sheet.travel_in
    low, high = min([*zeros, rod]) - 0.012, max(bottom, rod) + 0.012
    if high - low > _WIDEST_IN:
        return None
    scale = (_WIDTH - _LEFT - _RIGHT) / (high - low)

    def x(inches: float) -> float:
        return round(_LEFT + (inches - low) * scale, 2)

    hatch = f"h{round(line.length_in * 10000)}"
    window = (max(zeros) + sheet.preload_low_in, min(zeros) + sheet.preload_high_in)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {_WIDTH:g} {_HEIGHT:g}" '
        'font-family="Bench" font-size="11">',
        f'<defs><pattern id="{hatch}" width="5" height="5" patternUnits="userSpaceOnUse" '
        'patternTransform="rotate(45)"><path d="M0 0V5" stroke="#000" stroke-width="1"/>'
        "</pattern></defs>",
        _ticks(low, high, x, unit),
    ]
    if window[1] > window[0]:
        parts.append(
            f'<rect x="{x(window[0])}" y="48" width="{x(window[1]) - x(window[0])}" height="26" '
            f'fill="url(#{hatch})" stroke="#000" stroke-width="0.8" data-part="window"/>'
        )
    parts += [
        f'<path d="M{x(z)} 34V80" stroke="#000" stroke-width="1.2" data-zero="{r.valve}"/>'
        for r, z in zip(rows, zeros, strict=True)
    ]
    parts.append(f'<path d="M{x(bottom)} 42V80" stroke="#000" stroke-width="3.5"/>')
    parts.append(
        f'<path d="M{x(rod)} 46l-8 -14h16z" fill="#000" data-rod="{rod:.6f}" data-x="{x(rod)}"/>'
        f'<path d="M{x(rod)} 46V80" stroke="#000" stroke-width="1.6" stroke-dasharray="4 2"/>'
    )
    spread = format_length(min(zeros), unit)
    if max(zeros) - min(zeros) > 5e-5:
        spread = say("{spread} to {zeros}", spread=spread, zeros=format_length(max(zeros), unit))
    preload = [r.preload_in for r in rows]
    said = format_small(min(preload), unit)
    if max(preload) - min(preload) > 5e-5:
        said = say("{said} to {preload}", said=said, preload=format_small(max(preload), unit))
    parts += [
        f'<text x="{x(min(zeros))}" y="96">zero lash {spread}</text>',
        f'<text x="{x(bottom)}" y="96" text-anchor="end">bottom</text>',
        f'<text x="{x(rod)}" y="28" text-anchor="middle" font-weight="600">preload {said}</text>',
        "</svg>",
    ]
    return "".join(parts)


_CELL, _BAR = 40.0, 74.0
_WIDEST_IN = 2.0


def heads_svg(state: BuildState, unit: Unit) -> str:
    """The heads in plan, front to the left: every valve's window against its rod, to one scale.

    The line across a cell is the rod; hatched is where the valve wants it. A circle is an
    intake, a square an exhaust; a dashed outline was not measured.
    """
    rods, decision = state.rods_in, None
    if rods:
        decision = state.decision
    needs = {n.name: n for n in decision.needs} if decision else {}
    inferred = {v.name for v in decision.valves if v.inferred} if decision else set()
    off = [max(abs(n.low_in - rods[k]), abs(n.high_in - rods[k])) for k, n in needs.items()
           if k in rods]  # fmt: skip
    scale = (_BAR / 2) / (max(off, default=0.05) * 1.1)
    heads = state.engine.heads[::-1]
    widest = max(len(h.valves) for h in heads)
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {widest * _CELL + 8:g} '
        f'{len(heads) * 150:g}" font-family="Bench" font-size="11" text-anchor="middle">',
        '<defs><pattern id="w" width="5" height="5" patternUnits="userSpaceOnUse" '
        'patternTransform="rotate(45)"><path d="M0 0V5" stroke="#000" stroke-width="0.9"/>'
        "</pattern></defs>",
    ]
    for i, head in enumerate(heads):
        top = i * 150 + 14
        parts.append(
            f'<text x="4" y="{top}" text-anchor="start" font-weight="600">{head.bank}</text>'
        )
        for j, (cylinder, kind) in enumerate(head.valves):
            name = valve_name(cylinder, kind)
            x, y = 4 + j * _CELL, top + 8
            parts.append(_cell(x, y, name, kind, needs.get(name), rods.get(name), scale,
                               measured=name in needs and name not in inferred))  # fmt: skip
            if name in rods and name in needs:
                zero = state.lifter.low_in if not state.solid else 0.0
                preload = rods[name] - needs[name].low_in + zero
                shown = format_small(preload, unit) if _by_length(state) else ""
                parts.append(
                    f'<text x="{x + _CELL / 2}" y="{y + 120}" font-size="9">{shown}</text>'
                )
    return "".join([*parts, "</svg>"])


def _by_length(state: BuildState) -> bool:
    return state.decision is not None and state.decision.aim.mode == "length"


def _cell(
    x: float, y: float, name: str, kind: ValveKind, need: Need | None, rod: float | None,
    scale: float, *, measured: bool,
) -> str:  # fmt: skip
    """One valve: its bar with window and rod, its token below."""
    middle, left = y + _BAR / 2, x + 10
    found = [
        f'<rect x="{left}" y="{y}" width="{_CELL - 20}" height="{_BAR}" fill="none" stroke="#000"/>'
    ]
    if need is not None and rod is not None:
        top = middle - (need.high_in - rod) * scale
        height = (need.high_in - need.low_in) * scale
        found.append(
            f'<rect x="{left}" y="{top:.2f}" width="{_CELL - 20}" height="{height:.2f}" '
            f'fill="url(#w)" stroke="#000" stroke-width="0.6" data-window="{name}"/>'
        )
        found.append(
            f'<path d="M{x + 3} {middle}H{x + _CELL - 3}" stroke="#000" stroke-width="2.6"/>'
        )
    dash = "" if measured else ' stroke-dasharray="3 2"'
    token = y + _BAR + 18
    if kind == "intake":
        found.append(
            f'<circle cx="{x + _CELL / 2}" cy="{token}" r="12" fill="none" stroke="#000"{dash}/>'
        )
    else:
        found.append(
            f'<rect x="{x + _CELL / 2 - 12}" y="{token - 12}" width="24" height="24" fill="none" '
            f'stroke="#000"{dash}/>'
        )
    found.append(f'<text x="{x + _CELL / 2}" y="{token + 4}" font-weight="600">{name}</text>')
    return "".join(found)


def _ticks(low: float, high: float, x: Callable[[float], float], unit: Unit) -> str:
    """A rule of even steps along the top, labelled."""
    per = 25.4 if unit == "mm" else 1.0
    step = (0.5 if unit == "mm" else 0.02) / per
    found = []
    for k in range(ceil(low / step), floor(high / step) + 1):
        at = x(k * step)
        found.append(f'<path d="M{at} 0v6" stroke="#000" stroke-width="0.7"/>')
        if k % 2 == 0:
            label = f"{k * step * per:.{1 if unit == 'mm' else 2}f}"
            found.append(f'<text x="{at}" y="16" text-anchor="middle" font-size="9">{label}</text>')
    return "".join(found)
