"""A worked example of every stateless endpoint: what is asked, and what of the answer matters.

They stand in the OpenAPI document and are run by the tests. All figures are invented.
"""

from typing import Any

Example = tuple[dict[str, Any], Any]

_BALL = {"kind": "ball", "ball_in": 0.3125, "oil_hole_in": 0.1}
_LOBE = {
    "advertised_deg": 286.0, "advertised_at_in": 0.006, "duration_050_deg": 226.0,
    "lobe_lift_in": 0.347,
}  # fmt: skip

EXAMPLES: dict[str, Example] = {
    "length": (
        {"text": "218.34 mm", "field": "rod_length", "unit": "in"},
        {"inches": 8.596063, "in_words": "8.5961 in", "mm_words": "218.34 mm"},
    ),
    "turns": ({"text": "9 5/8"}, {"turns": 9.625, "words": "9 5/8"}),
    "firing-order": ({"text": "1-3-4-2"}, {"firing_order": [1, 3, 4, 2]}),
    "convention": (
        {"length_in": 8.6, "given": "theoretical", "wanted": "measured", "lifter": _BALL,
         "rocker": _BALL},
        {"length_in": 8.583568, "convention": "measured"},
    ),
    "checking-rod": (
        {"closed_in": 8.15, "pitch_in": 0.041667, "most_turns": 20.0, "turns": 9.625}, 8.551045,
    ),
    "bracket": (
        {"trials": [{"length_in": 8.54, "feel": "loose", "gap_in": 0.0176}], "ratio": 1.6,
         "closed_in": 8.15, "pitch_in": 0.041667},
        {"estimate_in": 8.551, "longest_loose_in": 8.54, "settled": True},
    ),
    "candidates": (
        {"zero_lash_in": [8.551], "preload_low_in": 0.03, "preload_high_in": 0.06,
         "preload_target_in": 0.045, "travel_in": 0.125, "stock_step_in": 0.025},
        {"exact_in": 8.596, "best_in": 8.6},
    ),
    "base_circle": (
        {"cam": {"intake": _LOBE, "exhaust": _LOBE, "icl_deg": 105.0, "lsa_deg": 109.0},
         "layout": "inline", "cylinders": 4},
        {"rotation": "clockwise", "guard_deg": 15.0},
    ),
    "lobe": (_LOBE, {"model": True}),
    "method": (
        {"method": "gap_short", "ratio": 1.6, "gap_in": 0.044, "rod_in": 8.525},
        {"zero_lash_in": 8.5525, "preload_in": None},
    ),
    "predict": (
        {"zero_lash_in": 8.5, "mount": "pedestal", "ratio": 1.6,
         "changes": {"base_circle": [-0.03, 0.0], "head": [0.008, 0.0]}},
        {"zero_lash_in": 8.507},
    ),
    "combine": (
        {"measures": [{"zero_lash_in": 8.6, "parts": [{"u_in": 0.001}]},
                      {"zero_lash_in": 8.603, "parts": [{"u_in": 0.002}]}]},
        {"estimate_in": 8.6006, "odd": None},
    ),
    "heads": (
        {"layout": "inline", "cylinders": 4, "valves": [
            {"cylinder": c, "kind": "intake", "zero_lash_in": 8.6 if c != 3 else 8.5}
            for c in (1, 2, 3, 4)]},
        {"spread_in": {"intake": 0.0, "exhaust": None}},
    ),
    "mechanism": (
        {"arm_in": 1.42, "cup_in": 0.86, "bend_deg": 13.0, "tip_radius_in": 0.27,
         "fulcrum_in": 1.4, "height_in": -0.015, "seat_x_in": -2.2, "seat_y_in": -7.6,
         "stem_in": 0.3415, "lobe_in": [0.331]},
        {"valve_in": [0.560953], "sweep_width_in": 0.028894},
    ),
    "marks": (
        {"rocker": "roller_stud", "catalogue_ratio": 1.6, "stem_in": 0.3415, "rod_in": 8.4,
         "net_lift_in": 0.55, "tries": [{"setting_in": 8.4, "inboard_in": 0.018,
                                        "outboard_in": 0.066, "closed_end": "inboard"}]},
        {"refused": ""},
    ),
    "ratio": (
        {"pairs": [[0.347, 0.59]], "light_in": 0.59, "real_in": 0.574}, {"lost_in": 0.016},
    ),
    "mid-lift": ({"net_lift_in": 0.59}, {"mid_lift_in": 0.295, "there": False}),
    "decide": (
        {"valves": [{"name": "1I", "zero_lash_in": 8.551}, {"name": "1E", "zero_lash_in": 8.576}],
         "preload_low_in": 0.03, "preload_high_in": 0.06, "preload_target_in": 0.045,
         "travel_in": 0.125},
        {"lengths_in": [8.6, 8.625], "outside": []},
    ),
    "rod": (
        {"diameter_in": 0.3125, "wall_in": 0.08, "length_in": 8.6, "spring_lbf": 310.0,
         "ratio": 1.6},
        {"load_lbf": 496.0},
    ),
}  # fmt: skip


_KEY = "5c1f0a8e-2f1d-4d6a-9b1c-7a3f6f2e8d01"
_VALVE = "/api/builds/{build_id}/valves/{valve_id}"
WRITES: dict[str, dict[str, Any]] = {
    "/api/builds": {"id": _KEY, "name": "Lock keeper's pump"},
    "/api/instruments": {
        "id": _KEY, "kind": "checking_rod", "name": "Checking rod C", "closed_in": 7.35,
        "pitch_in": 0.041667, "most_turns": 20.0,
    },
    _VALVE + "/trials": {"key": _KEY, "setting": "10 3/8", "feel": "loose", "gap": "0.012"},
    _VALVE + "/measures": {
        "key": _KEY, "method": "gap_short", "reading": "0.030 + 0.041", "rod": "7.575",
    },
    _VALVE + "/count-backs": {"key": _KEY, "turns": "10 3/8"},
    _VALVE + "/marks": {
        "key": _KEY, "inboard": "-0.018", "outboard": "0.024", "closed_end": "inboard",
    },
    "/api/builds/{build_id}/findings": {"key": _KEY, "name": "spins", "valve": "1I", "yes": True},
    "/api/builds/{build_id}/signatures": {"key": _KEY, "by": "Tess", "reason": "Mock-up only"},
    "/api/builds/{build_id}/orders": {"id": _KEY, "purpose": "set", "by": "Tess"},
}  # fmt: skip


def put_in(document: dict[str, Any]) -> None:
    """Put the examples into an OpenAPI document."""
    for name, (asked, given) in EXAMPLES.items():
        operation = document["paths"][f"/api/compute/{name}"]["post"]
        operation["x-worked-example"] = {"asked": asked, "answer": given}
        body = operation["requestBody"]["content"]["application/json"]
        body["example"] = asked
    for path, asked in WRITES.items():
        body = document["paths"][path]["post"]["requestBody"]["content"]["application/json"]
        body["example"] = asked
