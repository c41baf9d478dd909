"""The job as a builder does it: by keyboard, by touch, interrupted, and with mistakes."""

import csv
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, Route, expect

from tests.builders import first_held, open_station, press_settled, web

Shop = Callable[..., dict[str, Any]]


def tab_to(page: Page, role: str, name: str) -> None:
    """Press Tab until the control has the focus, as a builder without a mouse would."""
    target = page.get_by_role(role, name=name, exact=True).first  # type: ignore[arg-type]
    for _ in range(140):
        page.keyboard.press("Tab")
        if target.evaluate("el => el === document.activeElement"):
            return
    raise AssertionError(f"no way to {role} {name!r} by Tab")


def fill(page: Page, name: str, text: str) -> None:
    tab_to(page, "textbox", name)
    page.keyboard.press("Control+a")
    page.keyboard.type(text)


def test_whole_job_by_keyboard(page: Page, live: str, errors: list[str]) -> None:
    """A new shop: build, checking rod, intake and exhaust to zero lash, order printed."""
    page.goto(live)
    expect(page.get_by_role("heading", name="Builds", exact=True)).to_be_visible()
    page.keyboard.press("n")
    expect(page.get_by_role("textbox", name="Name")).to_be_focused()
    page.keyboard.type("Keyboard engine")
    tab_to(page, "button", "Inline")
    page.keyboard.press("Enter")
    tab_to(page, "button", "6")
    page.keyboard.press("Enter")
    tab_to(page, "button", "Make the build")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Measured with")).to_be_visible()

    tab_to(page, "button", "Add…")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_be_visible()
    fill(page, "Closed length (maker's figure)", "6800")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("6800 looks like 6.8 in")
    tab_to(page, "button", "Use 6.8 in")
    page.keyboard.press("Enter")
    tab_to(page, "button", "Add it")
    page.keyboard.press("Enter")
    expect(page.get_by_role("dialog")).to_be_hidden()

    fill(page, "Most preload", "100 thou")
    fill(page, "Aim", ".070")
    fill(page, "Plunger travel", "5.08 mm")
    fill(page, "Least preload", "50 thou")
    page.keyboard.press("Tab")
    expect(page.get_by_text("50 thou", exact=True).first).to_be_visible()
    tab_to(page, "link", "Find zero lash")
    page.keyboard.press("Enter")

    dial = page.get_by_role("slider", name=re.compile("Checking rod at"))
    expect(dial).to_have_attribute("aria-label", "Checking rod at 0 turns from closed")
    for _ in range(10):
        page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator("[data-peg='1']")).to_be_visible()
    for _ in range(4):
        page.keyboard.press("ArrowRight")
    page.keyboard.press("t")
    expect(page.get_by_role("heading", name="About 7.3250 in so far.")).to_be_visible()
    page.keyboard.press("n")
    expect(dial).to_have_attribute("aria-label", "Checking rod at 10 1/2 turns from closed")
    page.keyboard.press("l")
    page.keyboard.press("n")
    expect(dial).to_have_attribute("aria-label", "Checking rod at 10 3/4 turns from closed")
    page.keyboard.press("z")
    expect(page.get_by_role("heading", name="Zero lash 7.3375 in.")).to_be_visible()
    page.keyboard.press("c")
    page.keyboard.type("10 3/4")
    page.keyboard.press("Enter")
    expect(page.get_by_text("the running count is right")).to_be_visible()

    page.keyboard.press("v")
    expect(page.get_by_text("Cylinder 1 exhaust")).to_be_visible()
    page.keyboard.press("ArrowRight")
    press_settled(page)
    expect(page.get_by_role("heading", name="Zero lash 7.3500 in.")).to_be_visible()

    tab_to(page, "link", "Order")
    page.keyboard.press("Enter")
    expect(page.get_by_text("7.4000 in", exact=True)).to_be_visible()
    expect(page.get_by_text("7.4250 in", exact=True)).to_be_visible()
    with page.context.expect_event("request", lambda r: "order.pdf" in r.url) as asked:
        page.keyboard.press("p")
    answer = asked.value.response()
    assert answer is not None
    assert answer.headers["content-type"] == "application/pdf"


def test_by_touch_on_a_tablet_with_an_interruption(
    browser: Browser, live: str, shop: Shop, tmp_path: Path
) -> None:
    """820 x 1180, fingers only, gaps read; the page is reloaded in the middle."""
    build = shop(layout="flat", cylinders=2)
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True)
    page = context.new_page()
    open_station(page, live, build)
    for _ in range(9):
        page.get_by_role("button", name="1 turn longer", exact=True).tap()
    page.get_by_label("Gap at the tip, when loose").tap()
    page.keyboard.type("0.130")
    page.get_by_role("button", name="Loose", exact=True).tap()
    expect(page.locator("[data-peg='1']")).to_be_visible()
    page.get_by_role("button", name=re.compile("Set the rod to")).tap()
    expect(page.get_by_role("button", name=re.compile("Rod is at the next"))).to_be_visible()
    reads = page.locator(".reads").inner_text()

    page.reload()
    expect(page.locator("[data-peg='1']")).to_be_visible()
    expect(page.locator(".reads")).to_have_text(reads)
    page.get_by_label("Gap at the tip, when loose").tap()
    page.keyboard.type("16 thou")
    page.get_by_role("button", name="Loose", exact=True).tap()
    expect(page.get_by_role("heading", name=re.compile(r"Zero lash 7\.\d{4} in\."))).to_be_visible()

    page.get_by_role("link", name="Cylinder 1 exhaust").tap()
    expect(page.get_by_text("No reading yet.")).to_be_visible()
    page.get_by_label("Gap at the tip, when loose").tap()
    page.keyboard.type("12 thou")
    page.get_by_role("button", name="Loose", exact=True).tap()
    expect(page.get_by_role("heading", name=re.compile(r"Zero lash 7\.\d{4} in\."))).to_be_visible()
    page.get_by_role("link", name="Order", exact=True).tap()
    with page.expect_download() as download:
        page.get_by_role("link", name="CSV").tap()
    target = tmp_path / "order.csv"
    download.value.save_as(target)
    with target.open() as file:
        assert sum(int(row["quantity"]) for row in csv.DictReader(file)) == 4
    for box in [b.bounding_box() for b in page.get_by_role("button").all() if b.is_visible()]:
        assert box is not None
        assert box["height"] >= 43.5
        assert box["width"] >= 43.5
    context.close()


def test_caliper_values_land_and_move_on(page: Page, live: str, shop: Shop) -> None:
    """Value and Enter, as a caliper with a cable types it; then gap and Enter."""
    build = shop(caliper=True)
    open_station(page, live, build)
    page.keyboard.press("r")
    page.keyboard.type("7.300")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Gap at the tip, when loose")).to_be_focused()
    page.keyboard.type(".024")
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name=re.compile("Zero lash 7.31"))).to_be_visible()
    station = web.get(f"{live}/api/builds/{build['id']}/valves/{build['valves'][0]['id']}").json()
    assert station["valve"]["estimate_in"] == pytest.approx(
        7.3 + 0.024 / station["ratio"], abs=1e-4
    )
    expect(page.get_by_label(re.compile("Caliper reads"))).to_be_focused()
    page.keyboard.type("7402")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("7402 looks like 7.402 in")
    expect(page.get_by_label(re.compile("Caliper reads"))).to_have_value("7402")
    page.get_by_role("button", name="Use 7.402 in").click()
    expect(page.get_by_role("alert")).to_be_hidden()
    expect(page.locator("[data-part='rod']")).to_have_attribute("data-length", "7.402")


def test_turns_are_typed_or_dragged(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    page.keyboard.press("r")
    page.keyboard.type("10.3")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not a whole number of eighths")
    page.get_by_role("button", name="Use 10 1/4").click()
    expect(page.get_by_label("Gap at the tip, when loose")).to_be_focused()
    expect(page.locator(".reads")).to_have_text("7.3125 in")
    dial = page.get_by_role("slider", name=re.compile("Checking rod at"))
    box = dial.bounding_box()
    assert box is not None
    x, y, r = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2, 60
    page.mouse.move(x + r, y)
    page.mouse.down()
    page.mouse.move(x + r * 0.7, y + r * 0.7, steps=4)
    page.mouse.move(x, y + r, steps=4)
    page.mouse.up()
    expect(page.locator(".reads")).to_have_text("7.3250 in")


def test_expected_length_gives_the_first_setting(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    box = page.get_by_label(re.compile("Expected length"))
    box.fill("7425")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("7425 looks like 7.425 in")
    expect(box).to_have_value("7425")
    page.get_by_role("button", name="Use 7.425 in").click()
    expect(page.get_by_text("10 1/2 turns · 7.3250 in")).to_be_visible()


def test_contradiction_is_named_and_struck_out(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop(gaps=False))
    for _ in range(11):
        page.keyboard.press("+")
    page.keyboard.press("l")
    expect(page.locator("[data-peg='1']")).to_be_visible()
    page.keyboard.press("-")
    page.keyboard.press("t")
    alert = page.get_by_role("alert")
    expect(alert).to_contain_text("Trials 1 and 2 contradict each other")
    expect(alert).to_contain_text("Trial 2 is tight but shorter than trial 1")
    page.keyboard.press("x")
    page.get_by_role("button", name="Misread").click()
    expect(page.get_by_role("heading", name="Longer than 7.3500 in.")).to_be_visible()
    struck = page.locator(".log li.struck")
    expect(struck).to_contain_text("tight")
    expect(struck).to_contain_text("Misread")
    page.reload()
    expect(page.locator(".log li.struck")).to_contain_text("Misread")


def test_second_tab_on_stale_data_sees_both_values(browser: Browser, live: str, shop: Shop) -> None:
    build = shop()
    context = browser.new_context()
    context.route("**/api/live", lambda route: route.abort())
    one, two = context.new_page(), context.new_page()
    for page in (one, two):
        page.goto(f"{live}/builds/{build['id']}/setup")
        expect(page.get_by_label("Plunger travel")).to_have_value("0.2000")
    one.get_by_label("Plunger travel").fill("0.180")
    one.keyboard.press("Enter")
    expect(one.get_by_text("180 thou", exact=True)).to_be_visible()
    two.get_by_label("Plunger travel").fill("0.160")
    two.keyboard.press("Enter")
    alert = two.get_by_role("alert")
    expect(alert).to_contain_text("yours 160 thou")
    expect(alert).to_contain_text("kept 180 thou")
    expect(two.get_by_label("Plunger travel")).to_have_value("0.160")
    two.keyboard.press("Enter")
    expect(alert).to_be_hidden()
    one.reload()
    expect(one.get_by_label("Plunger travel")).to_have_value("0.1600")
    context.close()


def opened(browser: Browser, address: str) -> Page:
    """A page in a browser of its own, as another person has it open."""
    page = browser.new_context().new_page()
    page.goto(address)
    return page


@pytest.mark.parametrize(
    ("label", "first", "theirs", "mine", "says"),
    [
        ("Plunger travel", "0.2000", "0.180", "0.160", ("yours 160 thou", "kept 180 thou")),
        ("Rocker ratio, intake", "1.6", "1.7", "1.5", ("yours 1.5", "kept 1.7")),
    ],
)
def test_what_is_typed_while_another_changes_it_is_not_lost(
    browser: Browser,
    live: str,
    shop: Shop,
    label: str,
    first: str,
    theirs: str,
    mine: str,
    says: tuple[str, str],
) -> None:
    """The other's change arrives in the middle of typing: Enter shows both, Enter again decides."""
    build = shop()
    # Two browsers: in one, a page that comes to the front takes the focus out of the other's field.
    one, two = (opened(browser, f"{live}/builds/{build['id']}/setup") for _ in range(2))
    for page in (one, two):
        expect(page.get_by_label(label)).to_have_value(first)
    two.get_by_label(label).press_sequentially(mine[:-1])
    two.get_by_label(label).fill(mine)
    one.get_by_label(label).fill(theirs)
    one.keyboard.press("Enter")
    # Once the next change is seen, so is this one: what is asked for besides tells nothing.
    one.get_by_role("switch", name="Feelers at hand").press("Space")
    expect(two.get_by_role("switch", name="Feelers at hand")).not_to_be_checked()
    expect(two.get_by_label(label)).to_be_focused()
    two.keyboard.press("Enter")
    alert = two.get_by_role("alert")
    for part in says:
        expect(alert).to_contain_text(part)
    expect(two.get_by_label(label)).to_have_value(mine)
    two.keyboard.press("Enter")
    expect(alert).to_be_hidden()
    expect(one.get_by_label(label)).to_have_value(re.compile(f"^{mine}0*$"))
    # What changed while nothing was typed is no difference to be asked about.
    for value in (theirs, first):
        one.get_by_label(label).fill(value)
        one.keyboard.press("Enter")
        expect(two.get_by_label(label)).to_have_value(re.compile(f"^{value}0*$"))
    two.get_by_label(label).fill(mine)
    two.keyboard.press("Enter")
    expect(one.get_by_label(label)).to_have_value(re.compile(f"^{mine}0*$"))
    expect(alert).to_be_hidden()
    for page in (one, two):
        page.context.close()


def test_what_changes_while_a_length_is_being_read_is_not_overwritten(
    browser: Browser, live: str, shop: Shop
) -> None:
    """Enter, and before the length is read the other's change comes: both are shown."""
    build = shop()
    one, two = (opened(browser, f"{live}/builds/{build['id']}/setup") for _ in range(2))
    for page in (one, two):
        expect(page.get_by_label("Plunger travel")).to_have_value("0.2000")
    held: list[Route] = []
    two.route("**/api/compute/length", lambda route: held.append(route))
    two.get_by_label("Plunger travel").fill("0.160")
    with two.expect_request("**/api/compute/length"):
        two.keyboard.press("Enter")
    one.get_by_label("Plunger travel").fill("0.180")
    one.keyboard.press("Enter")
    expect(two.get_by_text("180 thou", exact=True)).to_be_visible()
    first_held(two, held).continue_()
    alert = two.get_by_role("alert")
    expect(alert).to_contain_text("yours 160 thou")
    expect(alert).to_contain_text("kept 180 thou")
    expect(two.get_by_label("Plunger travel")).to_have_value("0.160")
    expect(one.get_by_label("Plunger travel")).to_have_value("0.180")
    two.unroute("**/api/compute/length")
    two.keyboard.press("Enter")
    expect(one.get_by_label("Plunger travel")).to_have_value("0.1600")
    for page in (one, two):
        page.context.close()


def test_what_is_refused_after_the_other_value_stood_there_comes_back(
    browser: Browser, live: str, shop: Shop
) -> None:
    """The other's value is shown while the own change is on its way, and the change is refused."""
    build = shop()
    address = f"{live}/api/builds/{build['id']}"
    one, two = (opened(browser, f"{live}/builds/{build['id']}/setup") for _ in range(2))
    for page in (one, two):
        expect(page.get_by_label("Rocker ratio, intake")).to_have_value("1.6")
    held: list[Route] = []
    two.route(
        address,
        lambda route: held.append(route) if route.request.method == "PATCH" else route.continue_(),
    )
    two.get_by_label("Rocker ratio, intake").fill("1.5")
    with two.expect_request(lambda asked: asked.method == "PATCH"):
        two.keyboard.press("Enter")
    one.get_by_label("Rocker ratio, intake").fill("1.7")
    one.keyboard.press("Enter")
    expect(two.get_by_label("Rocker ratio, intake")).to_have_value("1.7")
    first_held(two, held).continue_()
    alert = two.get_by_role("alert")
    expect(alert).to_contain_text("yours 1.5")
    expect(two.get_by_label("Rocker ratio, intake")).to_have_value("1.5")
    two.unroute(address)
    two.keyboard.press("Enter")
    expect(one.get_by_label("Rocker ratio, intake")).to_have_value("1.5")
    for page in (one, two):
        page.context.close()


def test_bad_gap_is_kept_as_typed_with_its_reason(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    page.keyboard.press("g")
    page.keyboard.type(".155 mm")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text(".155 mm would be 6.1 thou")
    expect(page.get_by_label("Gap at the tip, when loose")).to_have_value(".155 mm")
    page.get_by_role("button", name="Use .155 in").click()
    expect(page.locator(".log li")).to_contain_text("gap 155 thou")


# Where the words of an element stand, without what is kept free around them.
_TEXT_BOX = """(el) => {
  const words = document.createRange()
  words.selectNodeContents(el)
  return words.getBoundingClientRect().toJSON()
}"""


def test_a_gap_in_millimetres_does_not_lie_over_the_line_below(
    page: Page, live: str, shop: Shop
) -> None:
    page.set_viewport_size({"width": 1280, "height": 800})
    open_station(page, live, shop())
    page.keyboard.press("g")
    page.keyboard.type("0.155")
    page.keyboard.press("Enter")
    for unit in ("in", "mm"):
        line = page.locator(".log li")
        expect(line.locator(".gap")).to_contain_text("155 thou" if unit == "in" else "3.94 mm")
        gap, below = (line.locator(part).evaluate(_TEXT_BOX) for part in (".gap", ".quiet"))
        assert gap["bottom"] <= below["top"] + 1, unit
        page.get_by_role("button", name="Unit, switch").click()


def test_a_gap_on_a_tight_rod_is_refused_and_kept(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    page.keyboard.press("g")
    page.keyboard.type(".020")
    page.get_by_role("button", name="Tight").click()
    expect(page.get_by_role("alert")).to_contain_text(
        "A rod felt as tight leaves no gap at the tip"
    )
    expect(page.get_by_label("Gap at the tip, when loose")).to_have_value(".020")
    expect(page.get_by_text("No reading yet.")).to_be_visible()


def test_a_key_held_down_is_one_trial(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    for _ in range(5):
        page.keyboard.down("l")
    page.keyboard.up("l")
    for _ in range(3):
        page.keyboard.down("+")
    page.keyboard.up("+")
    expect(page.locator(".log li")).to_have_count(1)
    expect(page.locator(".reads")).to_have_text("6.9500 in")


def test_ladder_is_one_true_axis(page: Page, live: str, shop: Shop) -> None:
    """Every mark stands where its length says, to a tenth of a pixel, in both units."""
    page.emulate_media(reduced_motion="reduce")
    open_station(page, live, shop())
    for _ in range(9):
        page.keyboard.press("+")
    page.keyboard.press("g")
    page.keyboard.type("0.130")
    page.keyboard.press("Enter")
    expect(page.locator("[data-part='zero']")).to_be_attached()
    for _ in range(2):
        wrong = page.evaluate(
            """() => {
              const svg = document.querySelector('svg[data-low]')
              const low = Number(svg.dataset.low), high = Number(svg.dataset.high)
              const box = svg.getBoundingClientRect()
              const marks = [...svg.querySelectorAll('[data-peg],[data-notch],[data-part=zero]')]
              const off = marks.map((m) => {
                const b = m.getBoundingClientRect()
                const at = box.left + (Number(m.dataset.length) - low) / (high - low) * box.width
                return Math.abs((b.left + b.right) / 2 - at)
              })
              return { count: marks.length, worst: Math.max(...off) }
            }"""
        )
        assert wrong["count"] >= 5
        assert wrong["worst"] < 0.1
        page.keyboard.press("u")


def test_units_theme_keys_and_explanations(page: Page, live: str, shop: Shop) -> None:
    open_station(page, live, shop())
    page.keyboard.press("+")
    press_settled(page)
    expect(page.get_by_role("heading", name="Zero lash 6.8500 in.")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("heading", name="Zero lash 173.99 mm.")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Exact rod")).click()
    expect(page.get_by_text("173.99 mm + 1.78 mm = 175.77 mm")).to_be_visible()
    page.keyboard.press("d")
    expect(page.locator("html")).to_have_class(re.compile("dark"))
    page.keyboard.press("?")
    expect(page.get_by_role("dialog")).to_contain_text("Quarter turn longer")


def test_nothing_is_asked_of_any_other_host(page: Page, live: str, shop: Shop) -> None:
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))
    open_station(page, live, shop())
    expect(page.get_by_role("img", name=re.compile("Length ladder"))).to_be_visible()
    page.goto(live)
    expect(page.get_by_role("link", name="Test build")).to_be_visible()
    assert [url for url in asked if not url.startswith((live, "data:"))] == []
    assert any(url.endswith(".woff2") for url in asked)
