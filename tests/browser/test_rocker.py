"""The rocker's station in Chromium: marks to a correction, photo, shims, schools, true to scale."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import cv2
import httpx
import numpy as np
import pytest
from playwright.sync_api import Browser, Locator, Page, expect
from sqlalchemy import Engine

from tests.builders import demo_builds, web
from vivid_arm.demo.tip_photos import Scene, take

Shop = Callable[..., dict[str, Any]]
SHEET = {"tip": "roller", "stem_in": 0.3415, "net_lift_in": 0.55}


def open_rocker(page: Page, live: str, build: dict[str, Any]) -> None:
    page.goto(f"{live}/builds/{build['id']}/rocker/{build['valves'][0]['id']}")
    expect(page.locator(".arm-view")).to_be_visible()


def asked(live: str, build: dict[str, Any], tail: str = "") -> dict[str, Any]:
    valve = build["valves"][0]["id"]
    with httpx.Client(base_url=live, trust_env=False, timeout=30) as http:
        found: dict[str, Any] = http.get(
            f"/api/builds/{build['id']}/valves/{valve}/rocker{tail}"
        ).json()
        return found


@pytest.fixture
def demo(live: str, empty: Engine) -> dict[str, dict[str, Any]]:
    return {b["name"]: b for b in demo_builds(live, empty)}


def tries(page: Page) -> Locator:
    """The tries, opened beside the drawings."""
    page.get_by_role("button", name="Tries").click()
    return page.get_by_role("group", name="Tries").locator("li")


def test_two_marks_to_a_correction_by_keyboard(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    """One mark leaves the side open, the second rod decides it, and says what to fit."""
    build = shop(mount="stud", geometry={"intake": SHEET})
    open_rocker(page, live, build)
    verdict = page.locator(".entries .verdict h2")
    expect(verdict).to_have_text("Nothing seen on this rocker yet.")
    page.keyboard.press("m")
    page.keyboard.type("-0.039")
    page.keyboard.press("Enter")
    page.keyboard.type("0.018")
    page.keyboard.press("Enter")
    expect(page.get_by_text("needs the rod it was made with")).to_be_visible()
    page.get_by_label("Rod, theoretical overall").fill("7.8125")
    page.get_by_label("Rod, theoretical overall").press("Enter")
    for _ in range(2):
        page.keyboard.press("Enter")
    expect(verdict).to_contain_text(re.compile("too low or .* too high|too high or .* too low"))
    expect(page.locator(".next li").first).to_contain_text("tells too low from too high")
    page.get_by_label("Rod, theoretical overall").focus()
    page.keyboard.type("7.550")
    page.keyboard.press("Enter")
    page.keyboard.type("-0.028")
    page.keyboard.press("Enter")
    page.keyboard.type("0.021")
    page.keyboard.press("Enter")
    expect(verdict).to_have_text(re.compile(r"Try a rod of 7\.6\d+ in, and mark it\."))
    expect(tries(page)).to_have_count(2)
    expect(tries(page).first).to_contain_text("expected")
    page.locator("body").click(position={"x": 5, "y": 5})
    page.keyboard.press("a")
    expect(page.get_by_role("heading", name=re.compile("Explore: 7\\.6"))).to_be_visible()
    found = asked(live, build)["corrections"][0]
    expect(page.locator(".beside table")).to_contain_text(f"{found['rounded_in']:.4f} in")


def test_a_mark_is_read_off_a_photo(
    page: Page, live: str, shop: Shop, tmp_path: Path, errors: list[str]
) -> None:
    """The first guess finds circle and mark; a line is put right by hand; the try is kept."""
    build = shop(mount="shaft", geometry={"intake": SHEET})
    file = tmp_path / "tip.png"
    cv2.imwrite(str(file), take(Scene(-0.015, 0.033, turn_deg=12, glare=0.4, tilt_deg=6)))
    open_rocker(page, live, build)
    page.get_by_label("Photo of the tip").set_input_files(file)
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Check circle and lines before keeping.")
    expect(dialog.locator(".figures")).to_contain_text("48")
    line = dialog.get_by_role("slider", name="Outboard edge")
    before = dialog.locator(".figures b").nth(1).inner_text()
    line.focus()
    for _ in range(4):
        page.keyboard.press("Shift+ArrowRight")
    expect(dialog.locator(".figures b").nth(1)).not_to_have_text(before)
    dialog.get_by_role("button", name="Record this mark").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(tries(page)).to_contain_text("from a photo")
    kept = asked(live, build)["marks"][0]
    assert kept["inboard_in"] == pytest.approx(-0.015, abs=0.001)
    assert kept["outboard_in"] > 0.045


def test_the_drawn_tips_edges_can_be_dragged(browser: Browser, live: str, shop: Shop) -> None:
    """By touch: both handles, the figures follow, the try is kept."""
    build = shop(mount="shaft", geometry={"intake": SHEET})
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True)
    page = context.new_page()
    open_rocker(page, live, build)
    tip = page.locator("svg.tip")
    box = tip.bounding_box()
    assert box is not None
    for name, to in (("Inboard edge", 0.40), ("Outboard edge", 0.62)):
        handle = page.get_by_role("slider", name=name).locator("path").bounding_box()
        assert handle is not None
        page.mouse.move(handle["x"] + handle["width"] / 2, handle["y"] + handle["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] + box["width"] * to, handle["y"] + 5, steps=4)
        page.mouse.up()
    low = float(page.locator("#mark-low").input_value())
    high = float(page.locator("#mark-high").input_value())
    scale = 0.3415 / 2 / 128 * 300
    assert (low, high) == pytest.approx((-0.10 * scale, 0.12 * scale), abs=0.002)
    page.get_by_role("button", name="Record the try").tap()
    expect(tries(page)).to_have_count(1)
    kept = asked(live, build)["marks"][0]
    assert (kept["inboard_in"], kept["outboard_in"]) == (low, high)
    context.close()


def test_a_shaft_engine_is_told_its_shims(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    build = demo["Harbour dredger V8"]
    open_rocker(page, live, build)
    expect(page.locator(".entries .verdict h2")).to_have_text(
        "Add 40 thou of shim under the stand."
    )
    page.get_by_role("button", name="Schools").click()
    card = page.locator("article.chosen")
    expect(card).to_contain_text("+40 thou")
    expect(card).to_contain_text("zero lash +6")
    card.get_by_role("button", name="Look").click()
    table = page.locator(".beside table")
    expect(table).to_contain_text("Shown")
    moved = asked(live, build)["corrections"][0]["rod_change_in"]
    expect(table.locator("tr", has_text="zero lash moves").locator("td").nth(1)).to_have_text(
        f"{moved * 1000:.1f} thou"
    )
    page.get_by_label("Shim under the stand").fill("0.040")
    page.get_by_label("Angle at half lift").fill("0.1")
    page.get_by_label("Angle at half lift").press("Enter")
    expect(page.locator(".entries .verdict h2")).to_have_text("The rocker sits right.")
    expect(tries(page).first).to_contain_text("expected")


def test_where_the_schools_differ_both_are_shown(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    """The conflict names the distance; choosing the other school changes the verdict."""
    build = demo["Harbour dredger V8"]
    open_rocker(page, live, build)
    clash = asked(live, build)["conflict"]
    page.get_by_role("button", name="Schools").click()
    expect(page.locator(".clash")).to_contain_text(f"{clash['off_in'] * 1000:.1f} thou outboard")
    page.get_by_role("button", name="Centred mark").click()
    expect(page.locator("article.chosen")).to_contain_text("Centred mark")
    expect(page.locator(".entries .verdict h2")).to_have_text(
        "Add 30 thou of shim under the stand."
    )
    page.reload()
    page.get_by_role("button", name="Schools").click()
    expect(page.locator("article.chosen")).to_contain_text("Centred mark")


# Where a shape's own point is drawn in the arm view, in the view's own units.
DRAWN_AT = """(shape, [x, y]) => {
  const view = shape.ownerSVGElement.getScreenCTM().inverse().multiply(shape.getScreenCTM())
  const at = new DOMPoint(x, y).matrixTransform(view)
  return [at.x, at.y]
}"""


def test_the_drawing_is_true_to_scale(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    """Roller on the tip, pins an arm apart, the cup where the rod ends, at three lifts."""
    build = demo["Towpath tug V8"]
    batch = asked(live, build, "/motion")
    now = asked(live, build)["now_in"]
    open_rocker(page, live, build)
    k = int(np.argmin(np.abs(np.array(batch["settings"]["setting_in"]) - now)))
    lift = page.get_by_role("slider", name="Lift")
    svg = page.locator(".arm-view")
    page.get_by_role("button", name="Whole").click()

    def figure(shape: Locator, name: str) -> float:
        return float(shape.get_attribute(name) or 0)

    def drawn(shape: Locator, x: float | None = None, y: float | None = None) -> Any:
        """A circle's middle, or another of the shape's own points."""
        own = [figure(shape, "cx") if x is None else x, figure(shape, "cy") if y is None else y]
        return np.array(shape.evaluate(DRAWN_AT, own))

    for share in (0.0, 0.5, 1.0):
        lift.fill(str(share))
        valve = abs(batch["valve_in"][k][round(share * 60)])
        expect(page.locator(".move output")).to_have_text(f"{valve:.4f} in")
        bar = float((svg.locator("path.bar").get_attribute("d") or "").split("H")[1].split()[0])
        scale = bar / 1.0
        fulcrum, roller_pin = (drawn(c) for c in svg.locator(".pins circle").all())
        apart = float(np.hypot(*(fulcrum - roller_pin))) / scale
        assert apart == pytest.approx(batch["arm_in"], abs=1e-3)
        roller, tip = svg.locator("circle.roller"), svg.locator(".valve rect").first
        assert drawn(roller) == pytest.approx(roller_pin, abs=0.05)
        low = drawn(roller)[1] + figure(roller, "r")
        assert low == pytest.approx(drawn(tip, 0.0, figure(tip, "y"))[1], abs=0.05)
        wide = figure(tip, "width") / scale
        assert wide == pytest.approx(batch["stem_in"], abs=1e-3)
        contact = svg.locator("circle.contact")
        axis = figure(svg.locator("line.axis"), "x1")
        assert (drawn(contact)[0] - axis) / scale == pytest.approx(
            batch["contact_in"][k][round(share * 60)], abs=1e-4
        )
        seat, cup = (drawn(ball) for ball in svg.locator("circle.ball").all())
        assert drawn(svg.locator("path.rod"), 0.0, 0.0) == pytest.approx(cup, abs=0.05)
        cup_arm = float(np.hypot(*(fulcrum - cup))) / scale
        assert cup_arm == pytest.approx(batch["cup_in"], abs=1e-3)
        lobe = batch["lobe_in"][round(share * 60)]
        way = np.radians(batch["lifter_deg"])
        stands = [
            batch["seat_x_in"] + lobe * np.sin(way),
            batch["seat_y_in"] + lobe * np.cos(way),
        ]
        level = drawn(tip, 0.0, 0.0)[1] - valve * scale
        assert seat == pytest.approx(
            [axis + stands[0] * scale, level - stands[1] * scale], abs=0.05
        )
        lifter = drawn(svg.locator("path.lifter"), 0.0, 0.0)
        assert lifter == pytest.approx(seat, abs=0.05)


def test_mistakes_are_told_and_nothing_typed_is_lost(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    build = shop(mount="shaft", geometry={"intake": SHEET})
    open_rocker(page, live, build)
    page.get_by_role("button", name="Record the try").click()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("Nothing was seen at this try")
    page.locator("#mark-low").fill("0.6")
    page.locator("#mark-high").fill("0.05")
    page.locator("#mark-high").press("Enter")
    expect(alert).to_contain_text("0.6 looks like")
    expect(page.locator("#mark-high")).to_have_value("0.05")
    alert.get_by_role("button").click()
    expect(tries(page)).to_have_count(1)
    page.locator("body").click(position={"x": 5, "y": 5})
    page.keyboard.press("x")
    page.get_by_role("button", name="Mark smeared").click()
    expect(page.locator(".beside li.struck")).to_contain_text("struck: Mark smeared")
    expect(page.locator(".entries .verdict h2")).to_have_text("Nothing seen on this rocker yet.")


def test_half_lift_and_dimensions(page: Page, live: str, shop: Shop, errors: list[str]) -> None:
    """The gauge says how far to go; a measured dimension is kept and makes the shim surer."""
    build = shop(mount="shaft", geometry={"intake": SHEET | {"net_lift_in": 0.722}})
    open_rocker(page, live, build)
    page.get_by_role("button", name="Half lift").click()
    half = page.get_by_label("Half lift", exact=True)
    expect(half).to_contain_text("0.3610 in")
    page.get_by_label("Gauge on the retainer reads").fill("0.300")
    expect(half).to_contain_text("61 thou to go: turn the engine on to open the valve.")
    expect(page.locator(".move output")).to_have_text("0.3000 in")
    page.get_by_label("Gauge on the retainer reads").fill("0.361")
    expect(half).to_contain_text("look square across fulcrum and axle now")
    page.get_by_label("Angle, tip high +").fill("1.5")
    page.get_by_label("Angle, tip high +").press("Enter")
    expect(tries(page)).to_contain_text("1.5°")
    before = asked(live, build)["ratio_u"]
    page.get_by_role("button", name="Dimensions").click()
    bend = page.get_by_label("Bend, cup line under arm line")
    bend.fill("14")
    bend.press("Enter")
    expect(page.locator(".sheet .measured")).to_have_text("measured")
    assert asked(live, build)["ratio_u"] < before
    page.get_by_role("button", name="Ratio", exact=True).click()
    page.get_by_label(re.compile("Lobe and valve lift")).fill("0.100 0.178; 0.200 0.350")
    page.get_by_label(re.compile("Lobe and valve lift")).press("Enter")
    expect(page.locator(".ratio table")).to_contain_text("1.750")


def test_two_pinned_settings_stand_side_by_side(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    """Arrow keys step through what can be had; both pins keep their figures; one is taken away."""
    build = demo["Towpath tug V8"]
    batch = asked(live, build, "/motion")
    open_rocker(page, live, build)
    heads = page.locator(".beside thead .setting")
    for key in ("+", "p", "+", "p", "o"):
        page.keyboard.press(key)
    expect(heads).to_have_text(["7.8000 in", "7.8250 in", "7.8500 in"])
    row = page.locator(".beside tr", has_text="sweep").locator("td")
    list_ = np.array(batch["settings"]["setting_in"])
    for k, rod in enumerate((7.800, 7.825, 7.850)):
        width = np.interp(rod, list_, batch["settings"]["width_in"]) * 1000
        assert float(row.nth(k).inner_text().split()[0]) == pytest.approx(width, abs=0.06)
    page.get_by_role("button", name="Take A away").click()
    expect(heads).to_have_text(["7.8000 in", "7.8500 in"])


def test_the_lift_plays_and_one_cursor_runs_through_all(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    build = demo["Harbour dredger V8"]
    open_rocker(page, live, build)
    page.keyboard.press(" ")
    page.wait_for_function(
        """() => {
          const seen = (window.seenContacts ??= new Set())
          const said = (window.saidLifts ??= new Set())
          seen.add(document.querySelector('.arm-view circle.contact').getAttribute('cy'))
          said.add(document.querySelector('.move output').textContent)
          return seen.size > 6 && said.size > 3
        }"""
    )
    page.keyboard.press(" ")
    # Stopped, the figure says what is drawn, though while it plays it may lag a little.
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    bar = page.locator(".arm-view path.bar").get_attribute("d") or ""
    scale = float(bar.split("H")[1].split()[0]) / 0.5
    shown = float(page.locator(".arm-view circle.contact").get_attribute("cy") or 0)
    said = float(page.locator(".move output").inner_text().split()[0])
    page.get_by_role("slider", name="Lift").fill("0")
    closed = float(page.locator(".arm-view circle.contact").get_attribute("cy") or 0)
    assert said == pytest.approx((shown - closed) / scale, abs=1e-4)
    page.locator("body").click(position={"x": 5, "y": 5})
    page.keyboard.press("h")
    half = asked(live, build)["lift_in"] / 2
    expect(page.locator(".move output")).to_have_text(f"{half:.4f} in")
    expect(page.locator(".arm-view .half")).to_have_text("half lift")
    page.get_by_role("button", name="Over lift").click()
    curves = page.locator("svg.curves")
    cursor = float(curves.locator(".cursor").get_attribute("x1") or 0)
    assert {round(float(c.get_attribute("cx") or 0), 3) for c in curves.locator(".dot").all()} == {
        round(cursor, 3)
    }
    assert cursor == pytest.approx(float(curves.locator(".half").get_attribute("x1") or 0), abs=0.5)


def test_the_setting_curve_is_true_to_its_axes(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    """Notches stand where they can be had; the exact line and its band where they were answered."""
    build = demo["Harbour dredger V8"]
    batch, arm = asked(live, build, "/motion"), asked(live, build)
    open_rocker(page, live, build)
    svg = page.locator("svg.setting")
    axis = svg.locator("line.axis")
    left, right = (float(axis.get_attribute(a) or 0) for a in ("x1", "x2"))
    low, high = batch["settings"]["setting_in"][0], batch["settings"]["setting_in"][-1]

    def place(setting: float) -> float:
        return left + (setting - low) / (high - low) * (right - left)

    wanted = arm["corrections"][0]
    exact = float(svg.locator(".exact line").get_attribute("x1") or 0)
    assert exact == pytest.approx(place(wanted["exact_in"]), abs=0.5)
    band = svg.locator(".spread")
    wide = float(band.get_attribute("width") or 0)
    assert wide == pytest.approx(4 * wanted["u_in"] / (high - low) * (right - left), rel=0.02)
    first = svg.locator(".notch path").first.get_attribute("d") or ""
    assert float(first[1:].split()[0]) + 5 == pytest.approx(place(batch["stocked_in"][0]), abs=0.5)
    assert svg.locator(".notch").count() == len(batch["stocked_in"])


def test_every_curve_has_its_values_as_a_table(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    """Opened on request, from the keyboard too; the figures are those of the drawing."""
    build = shop(mount="stud", geometry={"intake": SHEET})
    open_rocker(page, live, build)
    valve = f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}"
    settings = web.get(f"{valve}/rocker/motion").json()["settings"]
    page.get_by_role("button", name="Values: Sweep over the rod").press("Enter")
    rows = page.get_by_role("dialog", name="Sweep over the rod").get_by_role("row")
    expect(rows).to_have_count(len(settings["setting_in"]) + 1)
    shown = rows.nth(1).get_by_role("cell").all_inner_texts()
    assert float(shown[0].split()[0]) == pytest.approx(settings["setting_in"][0], abs=5e-5)
    assert float(shown[1].split()[0]) == pytest.approx(1000 * settings["width_in"][0], abs=0.06)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Over lift").click()
    page.get_by_role("button", name="Values: Contact, ratio").click()
    table = page.get_by_role("dialog", name="Contact, ratio and arm over the lift")
    assert table.get_by_role("row").count() > 10
    assert not errors


def test_the_rocker_in_millimetres(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    build = demo["Harbour dredger V8"]
    open_rocker(page, live, build)
    page.keyboard.press("u")
    expect(page.locator(".entries .verdict h2")).to_have_text(
        "Add 1.02 mm of shim under the stand."
    )
    page.keyboard.press("m")
    page.locator("#mark-low").fill("-0.25")
    page.locator("#mark-high").fill("0.81")
    page.locator("#mark-high").press("Enter")
    expect(tries(page)).to_have_count(3)
    kept = asked(live, build)["marks"][-1]
    seen = (kept["inboard_in"], kept["outboard_in"])
    assert seen == pytest.approx((-0.25 / 25.4, 0.81 / 25.4), abs=1e-6)


def test_the_board_leads_to_the_rocker(
    page: Page, live: str, demo: dict[str, dict[str, Any]], errors: list[str]
) -> None:
    page.goto(live)
    row = page.locator(".board li").filter(has_text="Towpath tug V8")
    expect(row).to_contain_text("Rocker of 1I: not settled: read the arm's angle")
    row.get_by_role("link", name="Rocker").click()
    expect(page.locator(".arm-view")).to_be_visible()
    page.keyboard.press("v")
    expect(page.locator(".valves a[aria-current=true]")).to_have_text("1E")
    expect(page.locator(".entries .verdict h2")).to_have_text("Nothing seen on this rocker yet.")
