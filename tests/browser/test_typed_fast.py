"""What is typed before what was typed last is answered: all of it is kept, as one hand's."""

import re
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.builders import first_held, settle_by_web, station_url, web

Json = dict[str, Any]
Shop = Callable[..., Json]


@contextmanager
def held(page: Page, url: str, method: str) -> Iterator[list[Route]]:
    """What is asked so waits on its way until the end."""
    routes: list[Route] = []
    over: list[bool] = []

    def hold(route: Route) -> None:
        if route.request.method == method and not over:
            routes.append(route)
        else:
            route.continue_()

    page.route(url, hold)
    yield routes
    first_held(page, routes)
    over.append(True)
    for route in routes:
        route.continue_()


def type_all(page: Page, entries: dict[str, str]) -> None:
    """One figure after the other, each left with Tab."""
    for label, text in entries.items():
        page.get_by_label(label, exact=True).fill(text)
        page.keyboard.press("Tab")


def expect_kept(page: Page, live: str, build: Json, as_typed: Callable[[Json], bool]) -> None:
    """It is kept as typed, and no entry was refused or asked about."""
    until = time.monotonic() + 30
    while not (found := has(live, build, as_typed)) and time.monotonic() < until:
        page.wait_for_timeout(50)
    assert found
    expect(page.get_by_role("alert")).to_have_count(0)


def has(live: str, build: Json, as_typed: Callable[[Json], bool]) -> bool:
    """Parts of a build that nobody has entered are not there."""
    try:
        return as_typed(web.get(f"{live}/api/builds/{build['id']}").json())
    except (KeyError, TypeError):
        return False


def open_page(page: Page, live: str, build: Json, name: str) -> None:
    rocker = station_url(live, build).replace("zero_lash", "rocker")
    page.goto(rocker if name == "rocker" else f"{live}/builds/{build['id']}/{name}")


def changed(live: str, build: Json, **values: Any) -> None:
    body = {"version": build["version"], **values}
    web.patch(f"{live}/api/builds/{build['id']}", json=body).raise_for_status()


def iron_and_aluminium(live: str, shop: Shop) -> Json:
    """A build with a valve read, so that its growth is worked out."""
    build = shop()
    settle_by_web(live, build, build["valves"][0], "10 3/4")
    changed(live, build, plan={"block": "iron", "head": "aluminium"})
    return build


MILLED = "Final engine: Head, milled by"
BLOCK, HEAD = "Block, cam axis to deck", "Head, deck to fulcrum"
CASES: dict[str, tuple[str, str, dict[str, str], Callable[[Json], bool]]] = {
    "final engine": (
        "setup",
        "",
        {
            f"{MILLED} intake": "0.010",
            f"{MILLED} within": "0.001",
            "Final engine: Gasket, thinner by intake": "0.005",
        },
        lambda b: (
            b["final"]["changes"]["head"]
            == {"intake_in": 0.01, "exhaust_in": 0.01, "within_in": 0.001}
            and b["final"]["changes"]["gasket"]["intake_in"] == 0.005
        ),
    ),
    "last rods": (
        "setup",
        "",
        {"Last intake rod": "7.800", "Last exhaust rod": "7.900"},
        lambda b: (b["prior"]["intake"]["rod_in"], b["prior"]["exhaust"]["rod_in"]) == (7.8, 7.9),
    ),
    "hot engine": (
        "decide",
        "Hot engine",
        {f"{BLOCK} height": "9.0", f"{HEAD} height": "4.5", f"{BLOCK} rise": "60"},
        lambda b: (
            (b["plan"]["parts"]["block"]["height_in"], b["plan"]["parts"]["block"]["rise_k"])
            == (9.0, 60)
            and b["plan"]["parts"]["head"]["height_in"] == 4.5
        ),
    ),
    "rod": (
        "decide",
        "The rod",
        {
            "Rod tried, diameter": "0.375",
            "Least gap beside it, whole turn": "0.040",
            "Spring force at full lift": "350",
        },
        lambda b: (
            (b["rod"]["trial_diameter_in"], b["rod"]["clearance_in"], b["rod"]["spring_lbf"])
            == (0.375, 0.04, 350)
        ),
    ),
    "dimension sheet": (
        "rocker",
        "Dimensions",
        {"Valve tip’s diameter": "0.310", "Net lift, without a cam card": "0.480"},
        lambda b: (
            (b["geometry"]["intake"]["stem_in"], b["geometry"]["intake"]["net_lift_in"])
            == (0.31, 0.48)
        ),
    ),
}


@pytest.mark.parametrize("name", CASES)
def test_each_figure_of_a_table_is_kept(page: Page, live: str, shop: Shop, name: str) -> None:
    """All are typed before the first is answered: none takes another away again."""
    where, view, entries, as_typed = CASES[name]
    build = iron_and_aluminium(live, shop)
    open_page(page, live, build, where)
    if view:
        page.get_by_role("button", name=view, exact=True).click()
    with held(page, f"**/api/builds/{build['id']}", "PATCH"):
        type_all(page, entries)
    expect_kept(page, live, build, as_typed)


def test_fasteners_added_and_dropped_in_one_go(page: Page, live: str, shop: Shop) -> None:
    """Two are added and one is dropped, with a second touch, before the first is answered."""
    build = shop()
    bolt = {"name": "Head bolt", "stages": [{"value": 22, "unit": "lbf_ft"}]}
    changed(live, build, torque={"fasteners": [bolt]})
    open_page(page, live, build, "sign_off")
    torque = page.get_by_role("region", name="Torque card")
    with held(page, f"**/api/builds/{build['id']}", "PATCH"):
        for name in ("Rocker bolt", "Stand bolt"):
            torque.get_by_label("Fastener", exact=True).fill(name)
            torque.get_by_label("Stages", exact=True).fill("15; 90°")
            page.keyboard.press("Enter")
        torque.get_by_role("button", name="Drop Head bolt").dblclick()
    expect_kept(
        page, live, build,
        lambda b: [f["name"] for f in b["torque"]["fasteners"]] == ["Rocker bolt", "Stand bolt"],
    )  # fmt: skip


def test_what_goes_with_another_figure_is_nobody_elses_change(
    page: Page, live: str, shop: Shop
) -> None:
    """The exhaust takes its intake's figure while another is being typed there."""
    build = shop()
    open_page(page, live, build, "setup")
    exhaust = page.get_by_label(f"{MILLED} exhaust", exact=True)
    with (
        page.expect_response(lambda answer: answer.request.method == "PATCH"),
        held(page, f"**/api/builds/{build['id']}", "PATCH"),
    ):
        type_all(page, {f"{MILLED} intake": "0.010"})
        exhaust.fill("0.020")
    page.evaluate("new Promise((shown) => setTimeout(() => requestAnimationFrame(shown)))")
    expect(exhaust).to_have_value("0.020")
    page.keyboard.press("Enter")
    head = {"intake_in": 0.01, "exhaust_in": 0.02, "within_in": 0}
    expect_kept(page, live, build, lambda b: b["final"]["changes"]["head"] == head)


def test_a_lobe_is_taken_over_with_the_length_that_is_still_being_read(
    page: Page, live: str, shop: Shop
) -> None:
    build = shop()
    open_page(page, live, build, "setup")
    lobe = page.get_by_role("group", name="intake lobe")
    lobe.get_by_label("Advertised duration", exact=True).fill("290")
    lobe.get_by_label("Duration at 0.050", exact=True).fill("230")
    with held(page, "**/api/compute/length", "POST"):
        lobe.get_by_label("Lobe lift", exact=True).fill(".353")
        page.get_by_role("button", name="Exhaust as intake").click()
    expect(page.get_by_text("2 figures still to enter")).to_be_visible()
    other = page.get_by_role("group", name="exhaust lobe")
    expect(other.get_by_label("Lobe lift", exact=True)).to_have_value("0.3530")


def test_a_length_that_is_being_read_is_kept_when_its_field_goes(
    page: Page, live: str, shop: Shop
) -> None:
    """The view is changed, and then the page is left, before the server has read the length."""
    build = iron_and_aluminium(live, shop)
    open_page(page, live, build, "decide")
    page.get_by_role("button", name="Hot engine", exact=True).click()
    with held(page, "**/api/compute/length", "POST"):
        page.get_by_label(f"{BLOCK} height", exact=True).fill("9.1")
        page.get_by_role("button", name="The rod", exact=True).click()
        page.get_by_label("Rod tried, diameter", exact=True).fill("0.375")
        page.get_by_role("link", name="Order", exact=True).click()
        expect(page.get_by_label("Spring force at full lift")).to_be_visible()
    expect(page.get_by_role("region", name="Order lines")).to_be_visible()
    expect_kept(
        page, live, build,
        lambda b: (b["plan"]["parts"]["block"]["height_in"], b["rod"]["trial_diameter_in"])
        == (9.1, 0.375),
    )  # fmt: skip


@pytest.mark.parametrize(
    ("label", "text", "hurried"),
    [
        ("Plunger travel", "wide", False),
        ("Plunger travel", "wide", True),
        ("Rocker ratio, exhaust", "big", False),
    ],
)
def test_a_page_is_left_with_what_cannot_be_read_in_sight_once(
    page: Page, live: str, shop: Shop, label: str, text: str, hurried: bool
) -> None:
    """On a phone too, where the steps stand far above it.

    A finger is off the link before the server has read the entry, or it is not.
    """
    page.set_viewport_size({"width": 390, "height": 844})
    build = shop()
    open_page(page, live, build, "setup")
    field = page.get_by_label(label, exact=True)
    order = page.get_by_role("link", name="Order", exact=True)
    field.fill(text)
    if hurried:
        with held(page, "**/api/compute/length", "POST"):
            order.click()
    else:
        order.hover()
        page.mouse.down()
        expect(field).to_have_attribute("aria-invalid", "true")
        page.mouse.up()
    expect(page.get_by_role("alert")).to_contain_text(f"“{text}” is not a")
    expect(field).to_have_value(text)
    expect(field).to_be_in_viewport()
    order.click()
    expect(page.get_by_role("region", name="Order lines")).to_be_visible()


@pytest.mark.parametrize("name", ["One", "The long one from the yard"])
def test_a_build_renamed_under_a_press_moves_no_step_away_from_it(
    page: Page, live: str, shop: Shop, name: str
) -> None:
    """Its name stands before the steps, and may be shorter or longer than the old one."""
    page.set_viewport_size({"width": 1280, "height": 800})
    build = shop()
    open_page(page, live, build, "setup")
    title, order = page.get_by_role("heading", level=1), page.get_by_role("link", name="Order")
    stood = order.bounding_box()
    page.get_by_label("Name", exact=True).fill(name)
    order.hover()
    page.mouse.down()
    expect_kept(page, live, build, lambda b: bool(b["name"] == name))
    expect(page).to_have_title(re.compile(name))
    expect(title).to_have_text("Test build")
    assert order.bounding_box() == stood
    page.mouse.up()
    expect(page.get_by_role("region", name="Order lines")).to_be_visible()
    expect(title).to_have_text(name)


@pytest.mark.parametrize(
    ("label", "text", "kept"),
    [
        ("Plunger travel", "0.160", {"travel_in": 0.16}),
        ("Rocker ratio, exhaust", "1.7", {"ratio_exhaust": 1.7}),
        ("Plunger travel", "wide", None),
        ("Rocker ratio, exhaust", "big", None),
    ],
)
def test_going_back_ends_what_is_being_typed(
    page: Page, live: str, shop: Shop, label: str, text: str, kept: Json | None
) -> None:
    """By the browser's own button, which takes the field away without leaving it."""
    build = shop()
    open_page(page, live, build, "heads")
    page.get_by_role("link", name="Set-up", exact=True).click()
    field = page.get_by_label(label, exact=True)
    field.click()
    field.press("Control+a")
    page.keyboard.type(text)
    if kept:
        page.go_back()
        expect(page).to_have_url(re.compile("/heads$"))
        expect_kept(page, live, build, lambda b: {k: b[k] for k in kept} == kept)
    else:
        page.evaluate("history.back()")
        expect(page.get_by_role("alert")).to_contain_text(f"“{text}” is not a")
        expect(page).to_have_url(re.compile("/setup$"))
        expect(field).to_have_value(text)
        expect(field).to_be_focused()
