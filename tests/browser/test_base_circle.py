"""The whole engine in Chromium: crank wheel, sampling plans, methods, mistakes, lobe tables."""

import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from tests.builders import open_station, press_settled, settle_by_web, station_url, web

Shop = Callable[..., dict[str, Any]]
LOBE = {
    "advertised_deg": 290.0, "advertised_at_in": 0.006, "duration_050_deg": 230.0,
    "lobe_lift_in": 0.353,
}  # fmt: skip
CAM = {"intake": LOBE, "exhaust": LOBE, "icl_deg": 106.0, "lsa_deg": 110.0}
CORNERS = {"1I", "1E", "7I", "7E", "2I", "2E", "8I", "8E"}


def read(live: str, build: dict[str, Any], part: str = "") -> Any:
    return web.get(f"{live}/api/builds/{build['id']}{part}").json()


def test_a_v8_by_its_four_corners_on_the_keyboard(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    """Fewest stops, eight valves, each to zero lash, then the head map says what they say."""
    build = shop(cam=CAM)
    page.goto(f"{live}/builds/{build['id']}/base_circle")
    expect(page.get_by_text("Every valve at least")).to_be_visible()
    page.keyboard.press("c")
    expect(page.get_by_role("button", name="Four corners")).to_have_attribute(
        "aria-pressed", "true"
    )
    stops = page.get_by_role("list", name="Stops").get_by_role("listitem")
    expect(stops).to_have_count(2)
    seen = []
    for _ in range(8):
        # The plan must have heard of the valve before: it stands beside its stops as measured.
        expect(page.locator(".stops .valve.measured")).to_have_count(len(seen))
        page.keyboard.press("n")
        valves = page.locator(".current .valve")
        expect(valves.first).to_be_visible()
        if page.locator(".current .valve:not(.measured)").count() == 0:
            page.keyboard.press("n")
        page.keyboard.press("Enter")
        expect(page.get_by_text("No reading yet.")).to_be_visible()
        seen.append(page.locator(".valves [aria-current=true]").inner_text().strip())
        if len(seen) == 1:
            page.keyboard.press("r")
            page.keyboard.type("11")
            page.keyboard.press("Enter")
        expect(page.locator(".reads")).to_have_text("7.3500 in")
        press_settled(page)
        expect(page.get_by_role("heading", name="Zero lash 7.3500 in.")).to_be_visible()
        if len(seen) == 8:
            done = page.get_by_role("link", name="Every valve of the plan measured: Rocker")
            expect(done).to_be_visible()
        page.go_back()
        expect(page.get_by_text("Every valve at least")).to_be_visible()
        corners = page.get_by_role("button", name="Four corners")
        expect(corners).to_have_attribute("aria-pressed", "true")
        expect(stops).to_have_count(2)
    assert set(seen) == CORNERS
    expect(page.locator(".stops .done")).to_have_count(2)
    done = page.get_by_role("link", name="Every valve of the plan measured: Rocker")
    expect(done).to_have_attribute("href", re.compile(f"/rocker/{build['valves'][0]['id']}$"))
    assert not errors

    page.get_by_role("link", name="Heads").click()
    expect(page.get_by_text("8 of 16 left to measure")).to_be_visible()
    page.keyboard.press("c")
    expect(page.get_by_text("All 8 measured")).to_be_visible()
    expect(page.get_by_text("The valves agree within 0 thou.")).to_be_visible()
    assert read(live, build, "/heads")["measured"] == 8


def test_crank_wheel_by_touch(browser: Browser, live: str, shop: Shop) -> None:
    """Drag the arm a quarter round the ring: 180 of 720 degrees; the heels follow the crank."""
    build = shop(cam=CAM)
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True)
    page = context.new_page()
    page.goto(f"{live}/builds/{build['id']}/base_circle")
    wheel = page.get_by_role("slider", name="Crank")
    box = wheel.bounding_box()
    assert box is not None
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.touchscreen.tap(middle[0] + box["width"] * 0.4, middle[1])
    expect(wheel).to_have_attribute("aria-valuenow", re.compile("^(179|180|181)$"))
    windows = {
        w["name"]: (w["from_deg"], w["to_deg"])
        for w in read(live, build, "/base_circle")["windows"]
    }
    crank = float(wheel.get_attribute("aria-valuenow") or 0)
    on = {n for n, (a, b) in windows.items() if any(a <= crank + k <= b for k in (0, 720))}
    shown = page.locator(".now li .name").all_inner_texts()
    assert set(shown) == on
    page.get_by_role("button", name="TDC, firing stroke").tap()
    page.get_by_role("button", name=re.compile("90°")).first.tap()
    expect(wheel).to_have_attribute("aria-valuenow", "90")
    page.get_by_role("button", name="Measure 8I").first.tap()
    expect(page.get_by_text("Cylinder 8 intake")).to_be_attached()
    context.close()


def test_without_a_cam_card_the_hand_schools_still_work(page: Page, live: str, shop: Shop) -> None:
    page.goto(f"{live}/builds/{shop()['id']}/base_circle")
    expect(page.get_by_text("No cam card, so the margin is not known.")).to_be_visible()
    page.get_by_role("button", name="Exhaust opening, intake closing").click()
    expect(page.get_by_text("Cylinder 1 exhaust just starting to open")).to_be_visible()
    page.get_by_role("button", name="Fewest stops").click()
    expect(page.get_by_text("Needs the cam card")).to_be_visible()


def test_a_faulty_reading_is_caught_and_struck_out(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    build = shop()
    for valve in build["valves"]:
        settle_by_web(live, build, valve, "9" if valve["name"] == "5E" else "11")
    page.goto(f"{live}/builds/{build['id']}/heads")
    expect(page.get_by_role("heading", name=re.compile("Cylinder 5 exhaust"))).to_be_visible()
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("5E reads 100 thou shorter than its neighbours.")
    expect(alert).to_contain_text("Not on the base circle")
    page.keyboard.press("Enter")
    expect(page.locator(".log li")).to_have_count(3)
    expect(page.get_by_role("alert")).to_contain_text("5E reads 100 thou shorter")
    for struck in range(1, 4):
        page.keyboard.press("x")
        page.get_by_role("button", name="Not on the base circle").click()
        expect(page.locator(".log .struck")).to_have_count(struck)
        expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("r")
    page.keyboard.type("11")
    page.keyboard.press("Enter")
    expect(page.locator(".reads")).to_have_text("7.3500 in")
    press_settled(page)
    expect(page.get_by_role("heading", name="Zero lash 7.3500 in.")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("link", name="Heads").click()
    expect(page.get_by_text("All 16 measured")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)


def test_a_broken_lobe_table_names_its_line_and_keeps_the_card(
    page: Page, live: str, shop: Shop, tmp_path: Path
) -> None:
    build = shop(cam=CAM)
    good = web.get(f"{live}/api/builds/{build['id']}/cam/intake.csv").text
    lines = good.splitlines()
    (tmp_path / "good.csv").write_text(good)
    (tmp_path / "broken.csv").write_text("\n".join([*lines[:30], "oops,0.1", *lines[30:]]))
    page.goto(f"{live}/builds/{build['id']}/setup#cam")
    box = page.get_by_label("intake lobe from CSV")
    box.set_input_files(tmp_path / "broken.csv")
    expect(page.get_by_role("alert")).to_contain_text("Line 31: crank_deg “oops” is not a number")
    expect(page.get_by_text("Intake lobe: from the card")).to_be_visible()
    box.set_input_files(tmp_path / "good.csv")
    expect(page.get_by_text("Intake lobe: measured table")).to_be_visible()
    expect(page.get_by_role("alert")).to_have_count(0)
    page.get_by_role("button", name="Use the card").click()
    expect(page.get_by_text("Intake lobe: from the card")).to_be_visible()


def test_ways_of_measuring_stand_beside_the_ladder(
    page: Page, live: str, shop: Shop, errors: list[str]
) -> None:
    """Turns with lever and plain rule, a stacked gap, an indicator: one log, one length."""
    build = shop(fastener_pitch_in=0.0492126)
    open_station(page, live, build)
    page.get_by_role("button", name="Turns", exact=True).click()
    page.get_by_label("Turns, first drag to seated").fill("1")
    page.keyboard.press("Enter")
    ratio = read(live, build, f"/valves/{build['valves'][0]['id']}")["ratio"]
    lever = f"{49.2126 * (1 + 1 / ratio):.1f} thou"
    expect(page.get_by_text(f"lever {lever}")).to_be_visible()
    expect(page.get_by_text("plain rule 49.2 thou")).to_be_visible()
    page.get_by_label("Rod in place").fill("7.480")
    page.keyboard.press("Enter")
    expect(page.locator("[data-measure='1']")).to_be_attached()
    expect(page.locator(".log")).to_contain_text(f"preload {lever} (plain 49.2 thou)")

    page.get_by_role("button", name="Gap", exact=True).click()
    page.get_by_label("Gap at the tip").fill("0.020 + 0.018")
    page.get_by_label("Rod in place").fill("7375")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("7375 looks like 7.375 in")
    page.get_by_role("button", name="Use 7.375 in").click()
    expect(page.locator("[data-measure='2']")).to_be_attached()
    expect(
        page.get_by_role("heading", name=re.compile("Zero lash 7.39|Zero lash 7.40"))
    ).to_be_visible()
    expect(page.get_by_text("From 2 measurements that agree")).to_be_visible()

    page.get_by_role("button", name="Indicator", exact=True).click()
    page.get_by_label("Rod pushed").fill("0.020")
    page.get_by_label("Rod in place").fill("7.480")
    page.keyboard.press("Enter")
    expect(
        page.get_by_role(
            "heading", name=re.compile("Indicator on the rod .3. does not fit|disagree")
        )
    ).to_be_visible()
    page.keyboard.press("Escape")
    page.locator("body").click(position={"x": 5, "y": 5})
    page.keyboard.press("x")
    page.get_by_role("button", name="Misread").click()
    expect(page.get_by_text("From 2 measurements that agree")).to_be_visible()


def test_what_changed_predicts_and_shows_on_the_ladder(page: Page, live: str, shop: Shop) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_label("Last intake rod").fill("7.400")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Intake zero lash predicted")).to_be_visible()
    page.get_by_label("Base circle diameter, greater by intake", exact=True).fill("-0.040")
    page.keyboard.press("Enter")
    expect(page.get_by_text("predicted 7.3500 in")).to_be_visible()
    page.goto(station_url(live, build))
    expect(page.locator(".tag.predicted")).to_be_visible()
    page.keyboard.press("n")
    expect(page.locator(".reads")).to_have_text("7.2500 in")


@pytest.mark.parametrize("preset", ["Inline 6, 1-5-3-6-2-4", "V2 45°, 1-2, odd firing"])
def test_an_engine_is_set_up_from_its_description(
    page: Page, live: str, shop: Shop, preset: str
) -> None:
    build = shop()
    page.goto(f"{live}/builds/{build['id']}/setup")
    page.get_by_role("combobox", name="Engine preset").select_option(preset)
    order = preset.split(", ")[1]
    expect(page.get_by_label("Firing order")).to_have_value(order)
    page.get_by_label("Firing order").fill(order.replace("-", ""))
    page.keyboard.press("Enter")
    if len(order) > 3:
        expect(page.get_by_role("alert")).to_contain_text("The dashes are missing")
    assert read(live, build)["engine"]["firing_order"] == [int(c) for c in order.split("-")]


def test_readings_and_builds_come_in_from_files(
    page: Page, live: str, shop: Shop, tmp_path: Path
) -> None:
    build = shop()
    head = "valve,kind,reading,feel\n"
    (tmp_path / "broken.csv").write_text(head + "1I,trial,11,zero\n2I,trial,11,damp\n")
    felt = [("10.5 turns", "loose"), ("11", "zero"), ("11", "zero")]
    lines = [f"{valve},trial,{at},{feel}\n" for valve in ("1I", "2I") for at, feel in felt]
    (tmp_path / "good.csv").write_text(head + "".join(lines))
    page.goto(f"{live}/builds/{build['id']}/heads")
    box = page.get_by_label("Readings from CSV")
    box.set_input_files(tmp_path / "broken.csv")
    expect(page.get_by_role("alert")).to_contain_text(
        "Line 3: feel: expected loose, zero, tight, no_lash, barely or quite"
    )
    assert read(live, build, "/heads")["measured"] == 0
    for _ in range(2):
        box.set_input_files(tmp_path / "good.csv")
        expect(page.get_by_text("6 lines read")).to_be_visible()
    expect(page.get_by_text("14 of 16 left to measure")).to_be_visible()
    assert read(live, build, "/heads")["measured"] == 2

    file = web.get(f"{live}/api/builds/{build['id']}/file.json").text
    (tmp_path / "build.json").write_text(file)
    (tmp_path / "spoilt.json").write_text(file.replace("vivid-arm/build/1", "something/else"))
    page.goto(live)
    box = page.get_by_label("From a build file")
    box.set_input_files(tmp_path / "spoilt.json")
    expect(page.get_by_role("alert")).to_contain_text("expected vivid-arm/build/1")
    box.set_input_files(tmp_path / "build.json")
    expect(page.get_by_text("14 of 16 left to measure")).to_be_visible()


def test_another_engine_under_readings_is_asked_about(page: Page, live: str, shop: Shop) -> None:
    build = shop(cam=CAM)
    settle_by_web(live, build, build["valves"][0], "11")
    page.goto(f"{live}/builds/{build['id']}/setup")
    asked = page.get_by_role("dialog", name="Readings stand on this engine")
    for answer, kept in (("Leave it", 8), ("Change the engine", 10)):
        page.get_by_role("group", name="Cylinders").get_by_role("button", name="10").click()
        asked.get_by_role("button", name=answer).click()
        expect(asked).to_be_hidden()
        expect(
            page.get_by_role("group", name="Cylinders").get_by_role("button", name=str(kept))
        ).to_have_attribute("aria-pressed", "true")
        assert read(live, build)["cylinders"] == kept


def test_the_station_goes_on_in_the_order_of_the_plan(page: Page, live: str, shop: Shop) -> None:
    """Valves of one stop after the other, then how far to turn; V never leaves the heel."""
    build = shop(cam=CAM)
    fewest = read(live, build, "/base_circle")["plans"][0]
    names = [[v["name"] for v in stop["valves"]] for stop in fewest["stops"]]
    page.goto(f"{live}/builds/{build['id']}/base_circle")
    expect(page.get_by_text("Every valve at least")).to_be_visible()
    page.keyboard.press("n")
    page.keyboard.press("Enter")
    current = page.locator(".valves [aria-current=true]")
    for name in names[0]:
        expect(current).to_have_text(name)
        expect(page.get_by_text("Stop 1 of 2")).to_be_visible()
        last = name == names[0][-1]
        expected = f"Next: turn on 360°, then {names[1][0]}" if last else "Next: "
        expect(page.get_by_role("button", name=re.compile(expected))).to_be_visible()
        page.keyboard.press("v")
    expect(current).to_have_text(names[1][0])
    expect(page.get_by_text("Stop 2 of 2")).to_be_visible()
    for name in names[1][1:]:
        page.keyboard.press("v")
        expect(current).to_have_text(name)
    across = f"Next: turn on 360°, then {names[0][0]}"
    expect(page.get_by_role("button", name=re.compile(across))).to_be_visible()
    page.get_by_role("link", name="Base circle").click()
    crank = page.get_by_role("slider", name="Crank")
    expect(crank).to_have_attribute("aria-valuenow", f"{fewest['stops'][1]['crank_deg']:g}")
    page.go_back()
    page.get_by_role("button", name="Leave the plan").click()
    page.keyboard.press("b")
    expect(current).not_to_have_text(names[0][-1])
