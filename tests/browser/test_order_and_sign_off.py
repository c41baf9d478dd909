"""From a measured head map to a placed order, received rods and a signed build."""

import re
from collections.abc import Callable, Iterator
from typing import Any
from uuid import uuid4

import httpx
import pytest
from playwright.sync_api import Browser, Locator, Page, expect
from sqlalchemy import Engine

from tests.builders import settle_by_web, web
from tests.standins import GaugeCable, SupplierStandIn, gauge_standin, serving, supplier_standin
from vivid_arm.api.app import make_app
from vivid_arm.outside.supplier import HttpSupplier

Json = dict[str, Any]
Shop = Callable[..., Json]


@pytest.fixture
def standin() -> Iterator[SupplierStandIn]:
    with supplier_standin() as found:
        yield found


@pytest.fixture
def cable() -> Iterator[GaugeCable]:
    with gauge_standin() as found:
        yield found


@pytest.fixture
def live(working: str, empty: Engine, standin: SupplierStandIn, cable: GaugeCable) -> Iterator[str]:
    """The application with supplier and gauges, as the start command runs it."""
    app = make_app(working, standin.url, ("127.0.0.1", cable.port))
    app.state.supplier = HttpSupplier(standin.url, timeout_s=0.7)
    with serving(app) as url:
        yield url


def measured(live: str, shop: Shop, **settings: Any) -> Json:
    """An inline four with every valve measured; 3I stands apart and two ways agree on it."""
    build = shop(layout="inline", cylinders=4, preload_low_in=0.055, preload_high_in=0.08,
                 **settings)  # fmt: skip
    turns = {"1I": "10 3/4", "2I": "10 3/4", "3I": "10 3/8", "4I": "10 3/4"}
    with httpx.Client(base_url=live, trust_env=False, timeout=30) as http:
        for valve in build["valves"]:
            url = f"/api/builds/{build['id']}/valves/{valve['id']}"
            setting = turns.get(valve["name"], "12")
            settle_by_web(live, build, valve, setting)
            if valve["name"] == "3I":
                gap = {"key": str(uuid4()), "method": "gap_short", "reading": "0.0325",
                       "rod": "7.300"}  # fmt: skip
                http.post(f"{url}/measures", json=gap).raise_for_status()
    return build


def write_and_come_back(page: Page, field: Locator, text: str) -> None:
    """What was begun in a field still stands there after another page."""
    field.fill(text)
    page.get_by_role("link", name="Decide", exact=True).click()
    expect(field).to_have_count(0)
    page.go_back()
    expect(field).to_have_value(text)


def kept(live: str, build: Json, what: str) -> Json:
    url = f"{live}/api/builds/{build['id']}/{what}"
    return web.get(url).json()  # type: ignore[no-any-return]


def test_from_the_head_map_to_a_signed_build(
    page: Page, live: str, shop: Shop, errors: list[str], standin: SupplierStandIn
) -> None:
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/heads")
    expect(page.get_by_text("All 8 measured")).to_be_visible()
    page.get_by_role("link", name="Decide").click()

    # Decide: 3I stands at the limit whichever way; nothing is called outside that may be inside.
    limit = page.get_by_role("heading", name="3I is at the limit of its window.")
    expect(limit).to_be_visible()
    page.keyboard.press("1")
    fewest = page.get_by_role("button", name=re.compile("Fewest lengths"))
    expect(fewest).to_have_attribute("aria-pressed", "true")
    expect(limit).to_be_visible()
    cold = page.locator("[data-cold='3I']")
    assert float(cold.get_attribute("data-preload") or 0) == pytest.approx(
        7.375 - 7.31875, abs=2e-4
    )
    page.get_by_role("button", name="Hot engine").click()
    page.get_by_role("group", name="Block").get_by_role("button", name="Aluminium").click()
    expect(page.get_by_text("Preload moves from cold to hot by")).to_be_visible()
    page.get_by_role("button", name="Every valve").click()
    expect(page.locator("[data-hot='3I']")).to_be_visible()

    # Order: in the supplier's own convention, through a lost answer.
    page.get_by_role("link", name="Go to the order").click()
    page.get_by_role("button", name="Decide in gauge length").click()
    expect(page.get_by_text("off the shelf").first).to_be_visible()
    page.get_by_role("button", name="Draft the set for the supplier").click()
    card = page.get_by_role("article", name="Set, order 1")
    standin.simulate("lost_answer")
    card.get_by_role("button", name="Place with the supplier").click()
    # Once before it goes: what, to whom, for how much.
    going = page.get_by_role("dialog", name="This goes out")
    expect(going).to_contain_text("8 rods")
    expect(going).to_contain_text(re.compile(r"gauge length, \d+\.\d\d credits, \d+ days"))
    assert standin.keys == []
    going.get_by_role("button", name="Send it").press("Enter")
    expect(page.get_by_text(re.compile("never placed twice"))).to_be_visible()
    expect(card.get_by_role("alert")).to_contain_text("gave no answer")
    card.get_by_role("button", name="Place it again").click()
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    assert len(standin.keys) == 1
    order = kept(live, build, "orders")["orders"][0]

    # Receive: measured, one reject, sorted onto the valves.
    expect(page.locator(".plain.strong:visible")).to_have_text(["Receive"])
    lengths = [x["length_in"] for x in order["lines"] for _ in range(x["quantity"])]
    lengths[0] += 0.1
    card.get_by_role("textbox", name="Measured lengths").fill(" ".join(f"{x:.4f}" for x in lengths))
    card.get_by_role("textbox", name="Measured lengths").press("Enter")
    expect(page.get_by_text(re.compile("has not sent order 1"))).to_be_visible()
    expect(card.get_by_role("button", name="They are here all the same")).to_be_visible()
    standin.simulate("none", 0, pace_s=0.001)
    expect(card.locator(".answer")).to_contain_text("delivered")
    card.get_by_role("button", name="Receive", exact=True).click()
    expect(card.get_by_text(re.compile("1 of 8 rods serve no valve"))).to_be_visible()
    card.get_by_role("textbox", name="Measured lengths").fill(
        ", ".join(f"{x + 0.0005:.4f}" for x in (lengths[0] - 0.1, *lengths[1:]))
    )
    card.get_by_role("button", name="Measure again").click()
    expect(card.get_by_text("reject")).to_be_hidden()
    card.get_by_role("button", name="They are fitted").click()
    card.get_by_role("link", name="Check and sign off").click()

    # Sign-off: nothing is signed while checks are open, but with a reason.
    expect(page.get_by_role("heading", name=re.compile("checks to make"))).to_be_visible()
    page.get_by_role("button", name="Rod spins before preload").click()
    for _ in range(8):
        token = page.locator(".ask .valve").inner_text()
        page.keyboard.press("y")
        expect(page.get_by_role("row", name=re.compile(f"^{token} yes"))).to_be_visible()
    page.get_by_role("button", name=re.compile("^Preload")).click()
    page.get_by_role("button", name="gap, lifter bottomed").click()
    page.get_by_label("Gap at the tip, lifter bottomed").fill("0.2336")
    page.keyboard.press("Enter")
    expect(page.get_by_text("65 thou")).to_be_visible()
    page.get_by_label("Signed by").fill("Tess")
    page.get_by_role("button", name="Sign with this reason").click()
    expect(page.get_by_role("alert").last).to_contain_text("Not signed")
    reason = page.get_by_role("textbox", name="Reason")
    write_and_come_back(page, reason, "Run-in on the stand first, the rest after")
    page.get_by_role("button", name="Sign with this reason").click()
    expect(page.get_by_role("heading", name="Signed by Tess.")).to_be_visible()
    expect(page.get_by_role("button", name="Sign again")).to_be_visible()
    with page.expect_download(timeout=30000) as download:
        page.get_by_role("button", name="Build report (PDF)").click()
    assert download.value.suggested_filename == "build-report.pdf"
    page.goto(live)
    expect(page.get_by_text("Signed off by Tess")).to_be_visible()


def test_the_gauge_is_taken_by_key_by_touch_and_by_its_button(
    browser: Browser, live: str, shop: Shop, cable: GaugeCable
) -> None:
    build = measured(live, shop)
    context = browser.new_context(viewport={"width": 820, "height": 1180}, has_touch=True)
    page = context.new_page()
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    strip = page.get_by_role("complementary", name="Gauges")
    expect(strip).to_be_hidden()
    page.get_by_role("button", name="Spring coil clearance").click()
    cable.say("move indicator 0.072")
    shown = strip.locator("[data-gauge-value=indicator]")
    expect(shown).to_have_text("0.0720 in")
    page.get_by_role("textbox", name="Clearance").click()
    page.keyboard.press("F9")
    expect(page.get_by_role("row", name=re.compile("^1I 72 thou"))).to_be_visible()
    cable.say("unit indicator mm", "move indicator 0.081")
    expect(shown).to_have_text("0.0810 in")
    strip.get_by_role("button", name=re.compile("Take indicator")).tap()
    expect(page.get_by_role("row", name=re.compile("^1E 81 thou"))).to_be_visible()
    page.get_by_role("button", name="Retainer to seal").click()
    page.get_by_role("textbox", name="Clearance").click()
    cable.say("garble 6", "move caliper 0.066", "press caliper")
    expect(page.get_by_role("row", name=re.compile("^1I 66 thou"))).to_be_visible()
    cable.say("unplug 2")
    expect(strip).to_be_hidden()
    page.get_by_role("textbox", name="Clearance").fill("0.064")
    page.get_by_role("textbox", name="Clearance").press("Enter")
    expect(page.get_by_role("row", name=re.compile("^1E 64 thou"))).to_be_visible()
    expect(strip).to_be_visible()
    context.close()


def test_ten_tabs_share_one_stream(
    browser: Browser, live: str, shop: Shop, cable: GaugeCable
) -> None:
    """A browser allows six connections: a stream a tab would leave none for the work."""
    build = measured(live, shop)
    context = browser.new_context()
    streams: list[str] = []
    context.on("request", lambda r: streams.append(r.url) if r.url.endswith("/live") else None)
    tabs = [context.new_page() for _ in range(10)]
    for tab in tabs:
        tab.goto(f"{live}/builds/{build['id']}/sign_off")
        expect(tab.get_by_role("heading", name="Sign off")).to_be_visible()
    tabs[-1].get_by_role("button", name="Spring coil clearance").click()
    tabs[0].get_by_role("button", name="Spring coil clearance").click()
    cable.say("move indicator 0.072")
    for tab in (tabs[0], tabs[-1]):
        expect(tab.locator("[data-gauge-value=indicator]")).to_have_text("0.0720 in")
    assert len(streams) == 1
    for tab in tabs[:-1]:
        tab.close()
    cable.say("move indicator 0.068")
    expect(tabs[-1].locator("[data-gauge-value=indicator]")).to_have_text("0.0680 in")
    context.close()


def test_later_readings_warn_on_the_order(page: Page, live: str, shop: Shop) -> None:
    build = measured(live, shop, plan={"strategy": "fewest"})
    page.goto(f"{live}/builds/{build['id']}/order")
    page.get_by_role("button", name="Draft the set, ordered by hand").click()
    card = page.get_by_role("article", name="Set, order 1")
    card.get_by_role("button", name="It is sent").click()
    page.get_by_role("button", name="Yes, it is sent").click()
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    valve = next(v for v in build["valves"] if v["name"] == "2E")
    url = f"{live}/api/builds/{build['id']}/valves/{valve['id']}/measures"
    for _ in range(2):
        gap = {"key": str(uuid4()), "method": "gap_short", "reading": "0.0325", "rod": "7.340"}
        web.post(url, json=gap)
    log = web.get(url.replace("/measures", "")).json()["log"]
    for line in log[:3]:
        void = {"key": str(uuid4()), "reading_id": line["id"], "reason": "on the lobe"}
        web.post(url.replace("/measures", "/voids"), json=void).raise_for_status()
    page.reload()
    expect(card.get_by_role("alert")).to_contain_text("Readings since would change this order: 2E")


def test_trial_rods_come_first_and_say_how_they_were(page: Page, live: str, shop: Shop) -> None:
    """The red button follows the advice; what each rod showed is asked, and kept."""
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/order")
    trial = page.get_by_role("button", name=re.compile("Draft trial rods"))
    expect(trial).to_have_class(re.compile("strong"))
    expect(page.locator(".out .strong")).to_have_count(1)
    page.keyboard.press("t")
    card = page.get_by_role("article", name="Trial rods, order 1")
    place = card.get_by_role("button", name=re.compile("Place with|It is sent"))
    expect(place).to_have_class(re.compile("strong"))
    expect(page.locator(".out .strong")).to_have_count(0)
    page.keyboard.press("t")
    again = page.get_by_role("article", name="Trial rods, order 2")
    expect(again.get_by_role("button", name="Withdraw")).to_be_visible()
    expect(page.locator(".do .strong")).to_have_count(1)
    again.get_by_role("button", name="Withdraw").click()
    expect(again).to_have_count(0)
    place.click()
    page.get_by_role("button", name=re.compile("Send it|Yes, it is sent")).click()
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    expect(page.locator(".out .strong")).to_have_count(0)
    typed = card.get_by_role("textbox", name="Measured lengths")
    read_in = card.get_by_label("Convention of the measured lengths")
    ordered_in = read_in.input_value()
    read_in.select_option("centre")
    write_and_come_back(page, typed, "7.3750\n7 13/32")
    expect(read_in).to_have_value("centre")
    read_in.select_option(ordered_in)
    card.get_by_role("button", name="Receive").click()
    sure = card.get_by_role("button", name="They are here all the same")
    expect(sure.or_(card.get_by_role("button", name="They are on the engine"))).to_be_visible()
    if sure.is_visible():
        sure.click()
    expect(typed).to_have_value("")
    card.get_by_role("button", name="They are on the engine").click()
    expect(page.locator(".out .strong")).to_contain_text(["Draft the set"])
    card.get_by_label("Tried on").select_option("2I")
    card.get_by_placeholder("mark, sound").fill("mark square")
    card.get_by_role("button", name="Rod 1 fits").click()
    row = card.get_by_role("row").nth(1)
    expect(row).to_contain_text("on 2I mark square")
    page.reload()
    expect(row).to_contain_text("on 2I mark square")
    expect(card.get_by_role("button", name="Rod 1 fits")).to_have_attribute("aria-pressed", "true")


def test_rods_that_all_lie_in_the_box_are_taken_and_the_set_waits_for_them(
    page: Page, live: str, shop: Shop, standin: SupplierStandIn
) -> None:
    """Nothing goes to the supplier for them; of two drafts the trial rods have the red button."""
    build = measured(live, shop)
    orders = f"{live}/api/builds/{build['id']}/orders"
    for purpose, supplier in (("set", False), ("trial", True)):
        body = {"id": str(uuid4()), "purpose": purpose, "supplier": supplier, "by": "Tess"}
        drafted = web.post(orders, json=body).raise_for_status().json()["orders"]
    page.goto(f"{live}/builds/{build['id']}/order")
    by_hand = page.get_by_role("button", name="It is sent")
    place = page.get_by_role("button", name="Place with the supplier")
    expect(place).to_have_class(re.compile("strong"))
    expect(by_hand).not_to_have_class(re.compile("strong"))
    trial = next(o for o in drafted if o["purpose"] == "trial")
    for line in trial["lines"]:
        rod = {"id": str(uuid4()), "length": f"{line['length_in']:.4f}", "count": 2,
               "convention": trial["convention"]}  # fmt: skip
        web.post(f"{live}/api/box", json=rod).raise_for_status()
    web.post(orders, json={**body, "id": str(uuid4())}).raise_for_status()
    page.reload()
    card = page.get_by_role("article", name="Trial rods, order 3")
    card.get_by_role("button", name="Take them from the box").click()
    out = page.get_by_role("dialog")
    expect(out).to_contain_text("From the box")
    expect(out).not_to_contain_text("supplier")
    out.get_by_role("button", name="Take them from the box").click()
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    assert standin.keys == []


def test_by_keyboard_the_focus_goes_on_with_the_order(page: Page, live: str, shop: Shop) -> None:
    """Drafted, sent, received, fitted: what had the focus goes, and what follows has it."""
    build = measured(live, shop, plan={"strategy": "fewest"})
    page.goto(f"{live}/builds/{build['id']}/order")

    def on(*words: str) -> None:
        page.wait_for_function(
            "() => document.activeElement?.closest('main') !== null", timeout=30_000
        )
        focus = page.evaluate("() => document.activeElement.closest('article')?.ariaLabel ?? ''")
        assert focus in words, focus

    page.get_by_role("button", name="Draft the set, ordered by hand").press("Enter")
    card = page.get_by_role("article", name="Set, order 1")
    expect(card).to_be_visible()
    card.get_by_role("button", name="It is sent").press("Enter")
    page.get_by_role("button", name="Yes, it is sent").press("Enter")
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    on("Set, order 1")
    order = kept(live, build, "orders")["orders"][0]
    lengths = [f"{x['length_in']:.4f}" for x in order["lines"] for _ in range(x["quantity"])]
    card.get_by_role("textbox", name="Measured lengths").fill(" ".join(lengths))
    card.get_by_role("textbox", name="Measured lengths").press("Enter")
    fitted = card.get_by_role("button", name="They are fitted")
    sure = card.get_by_role("button", name="They are here all the same")
    expect(sure.or_(fitted)).to_be_visible()
    if sure.is_visible():
        sure.press("Enter")
    expect(fitted).to_be_visible()
    on("Set, order 1")
    fitted.press("Enter")
    expect(card.locator("[aria-current=step]")).to_have_text("Fitted")
    on("Set, order 1")


def test_an_order_says_what_he_makes_of_it_and_mends_a_slip(
    page: Page, live: str, shop: Shop, standin: SupplierStandIn
) -> None:
    """His gauge length and what it is off, before it goes out; a slip is put right where it is."""
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/order")
    page.get_by_role("button", name="Draft the set for the supplier").click()
    card = page.get_by_role("article", name="Set, order 1")
    card.get_by_role("button", name="Place with the supplier").click()
    going = page.get_by_role("dialog")
    lines = kept(live, build, "offers")["lines"]
    for line in lines:
        expect(going).to_contain_text(f"sold as {line['offered_in']:.4f} in gauge length")
    going.get_by_role("button", name="Send it").click()
    expect(card.locator("[aria-current=step]")).to_have_text("Placed")
    standin.simulate("none", 0, pace_s=0.001)
    expect(card.locator(".answer")).to_contain_text(re.compile(r"delivered, \d+\.\d\d credits"))
    came = [f"{x['length_in']:.4f}" for x in lines for _ in range(x["quantity"])]
    typed = card.get_by_role("textbox", name="Measured lengths")
    typed.fill(" ".join([*came[:-1], came[-1].replace(".", "")[:4]]))
    typed.press("Enter")
    expect(typed).to_have_attribute("aria-invalid", "true")
    card.get_by_role("alert").get_by_role("button", name=re.compile("^Use")).click()
    expect(card.locator("[aria-current=step]")).to_have_text("Received")
    expect(card.get_by_role("button", name="They are fitted")).to_be_focused()


def test_mistakes_stand_beside_their_field(page: Page, live: str, shop: Shop) -> None:
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/decide")
    page.get_by_role("button", name="Rod box").click()
    page.get_by_label("Length of the rods").fill("7402")
    page.get_by_role("button", name="Put in the box").click()
    expect(page.get_by_role("alert").last).to_contain_text("use 7.402")
    page.get_by_label("Length of the rods").fill("7.402")
    page.get_by_role("button", name="Put in the box").click()
    expect(page.get_by_role("row", name=re.compile("7.4020 in"))).to_be_visible()
    page.get_by_role("button", name="The rod").click()
    page.get_by_label("Spring force at full lift").fill("3")
    page.keyboard.press("Tab")
    expect(page.get_by_role("alert").last).to_contain_text("outside 20 to 2000 lbf")
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    page.get_by_role("button", name="Piston to valve, axial").click()
    page.get_by_role("button", name="indicator table").click()
    page.get_by_label(re.compile("Crank degrees")).fill("-5 0.1; 0 0.09; 5 0.08")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert").first).to_contain_text("at the end of the table")
    expect(page.get_by_label(re.compile("Crank degrees"))).to_have_value("-5 0.1; 0 0.09; 5 0.08")


def test_an_order_without_an_answer_and_a_second_set(
    page: Page, live: str, shop: Shop, standin: SupplierStandIn
) -> None:
    """What the supplier did is not known: the card says so, and what makes it certain."""
    build = measured(live, shop)
    for _ in range(2):
        body = {"id": str(uuid4()), "purpose": "set", "supplier": True, "by": "Tess"}
        web.post(f"{live}/api/builds/{build['id']}/orders", json=body).raise_for_status()
    standin.simulate("error")
    page.goto(f"{live}/builds/{build['id']}/order")
    first = page.get_by_role("article", name="Set, order 1")
    first.get_by_role("button", name="Place with the supplier").click()
    page.get_by_role("button", name="Send it").click()
    expect(first).to_contain_text("asked and gave no answer")
    first.get_by_role("button", name="Place it again").click()
    expect(first.get_by_text("accepted")).to_be_visible()
    second = page.get_by_role("article", name="Set, order 2")
    expect(second).to_contain_text("Order 1 for a set stands already")
    second.get_by_role("button", name="Withdraw").click()
    expect(second).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(second).to_contain_text("Order 1 for a set stands already")
    second.get_by_role("button", name="Withdraw").click()
    expect(second).to_have_count(0)
    assert len(standin.keys) == 1


def test_the_gauges_never_cover_what_has_the_focus(
    page: Page, live: str, shop: Shop, cable: GaugeCable
) -> None:
    """By Tab through the checks: each focused thing stands clear of the gauges."""
    build = measured(live, shop)
    page.goto(f"{live}/builds/{build['id']}/sign_off")
    page.get_by_role("button", name="Spring coil clearance").click()
    cable.say("move indicator 0.072")
    strip = page.get_by_role("complementary", name="Gauges")
    expect(strip).to_be_visible()
    for _ in range(60):
        page.keyboard.press("Tab")
        low = page.evaluate(
            "() => document.activeElement.closest('main')"
            "? document.activeElement.getBoundingClientRect().bottom : null"
        )
        box = strip.bounding_box()
        assert box is not None
        assert low is None or low <= box["y"] + 1
