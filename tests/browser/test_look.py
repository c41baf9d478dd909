"""What can be measured of the look: contrast, overflow, targets, motion, at three sizes."""

import io
import json
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any
from uuid import uuid4

import pytest
from PIL import Image
from playwright.sync_api import Browser, Page, Route, expect
from sqlalchemy import Engine

from benchmarks.serving import BROWSER, quiet
from tests.builders import at_rest, demo_builds, station_url, web

SIZES = [(1280, 800), (820, 1180), (390, 844)]

# WCAG 2.1, 1.4.3: relative luminance and contrast ratio of every text a reader sees.
_LOW_CONTRAST = """() => {
  const parse = (c) => (c.match(/[\\d.]+/g) ?? []).map(Number)
  const lum = ([r, g, b]) => [r, g, b]
    .map((v) => v / 255)
    .map((v) => (v <= 0.03928 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4))
    .reduce((sum, v, i) => sum + v * [0.2126, 0.7152, 0.0722][i], 0)
  const ratio = (a, b) => {
    const [x, y] = [lum(a), lum(b)].sort((p, q) => q - p)
    return (x + 0.05) / (y + 0.05)
  }
  const ground = (el) => {
    for (let e = el; e; e = e.parentElement) {
      const c = parse(getComputedStyle(e).backgroundColor)
      if (c.length === 3 || c[3] > 0.99) return c
    }
    return [255, 255, 255]
  }
  const low = []
  for (const el of document.querySelectorAll('body *')) {
    if (el.closest('svg, [disabled]') || !el.checkVisibility()) continue
    const own = [...el.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim())
    if (!own) continue
    const style = getComputedStyle(el)
    const size = parseFloat(style.fontSize)
    const needed = size >= 24 || (size >= 18.66 && style.fontWeight >= 600) ? 3 : 4.5
    const found = ratio(parse(style.color), ground(el))
    if (found < needed) low.push(`${el.textContent.trim().slice(0, 30)}: ${found.toFixed(2)}`)
  }
  return low
}"""


# WCAG 2.1, 2.5.5: everything to press is at least 44 by 44, less half a pixel of rounding.
_SMALL_TARGETS = """() => {
  const small = []
  for (const el of document.querySelectorAll('button, main a, nav a')) {
    const box = el.getBoundingClientRect()
    if (!el.checkVisibility() || !box.width) continue
    const words = el.innerText.trim()
    if (box.height < 43.5 || (words && box.width < 43.5)) {
      small.push(`${words}: ${box.width.toFixed(1)} by ${box.height.toFixed(1)}`)
    }
  }
  return small
}"""


@pytest.fixture
def shop_pages(live: str, empty: Engine) -> dict[str, str]:
    """Addresses of the main views of the demo shop."""
    by_name = {b["name"]: b for b in demo_builds(live, empty)}
    v8 = by_name["Dockside loader V8"]
    return {
        "board": live,
        "set-up": f"{live}/builds/{by_name['Courier van inline six']['id']}/setup",
        "station": station_url(live, v8, 1),
        "conflict": station_url(live, by_name["Fairground organ V-twin"], 1),
        "caliper": station_url(live, by_name["Orchard sprayer flat four"], 2),
        "decide": f"{live}/builds/{v8['id']}/decide",
        "order": f"{live}/builds/{v8['id']}/order",
        "sign-off": f"{live}/builds/{v8['id']}/sign_off",
        "wheel": f"{live}/builds/{v8['id']}/base_circle",
        "no card": f"{live}/builds/{by_name['Mill pump single']['id']}/base_circle",
        "heads": f"{live}/builds/{by_name['Quarry crusher V8']['id']}/heads",
        "six": f"{live}/builds/{by_name['Sawmill tractor inline six']['id']}/heads",
        "methods": station_url(live, by_name["Quarry crusher V8"], 10),
        "history": f"{live}/builds/{v8['id']}/history",
        "box and tools": f"{live}/history",
        "learned": f"{live}/learned",
        **{
            name: station_url(live, by_name[name]).replace("zero_lash", "rocker")
            for name in ("Towpath tug V8", "Harbour dredger V8", "Hop picker inline four")
        },
    }


def settle(page: Page, address: str) -> None:
    page.goto(address)
    quiet(page)


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_every_text_has_enough_contrast(page: Page, shop_pages: dict[str, str], theme: str) -> None:
    """WCAG 2.1 AA, in both themes, on every main view."""
    page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
    for name, address in shop_pages.items():
        settle(page, address)
        assert page.evaluate(_LOW_CONTRAST) == [], name


# Letters of a drawing that stand upright, with their colour and where they are on the page.
_LETTERS = """() => [...document.querySelectorAll('svg text')]
  .filter((t) => t.checkVisibility() && t.textContent.trim())
  .filter((t) => Math.abs(t.getScreenCTM().b) < 1e-3)
  .map((t) => {
    const { x, y, width, height } = t.getBoundingClientRect()
    const style = getComputedStyle(t)
    const colour = (c) => c.match(/[\\d.]+/g).map(Number)
    const halo = style.paintOrder.startsWith('stroke') && parseFloat(style.strokeWidth) > 2
    return {
      words: t.textContent.trim(),
      ink: colour(style.fill),
      halo: halo ? colour(style.stroke) : null,
      box: [x + scrollX, y + scrollY, width, height],
    }
  })"""


def _luminance(colour: tuple[float, ...]) -> float:
    """WCAG 2.1, relative luminance of sRGB."""
    parts = [v / 255 for v in colour[:3]]
    linear = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def _ground(picture: Image.Image, box: list[float]) -> tuple[int, ...] | None:
    """The colour that most of a box of the picture has; None off the picture."""
    left, top, width, height = (int(v) for v in box)
    if width < 1 or left + width > picture.width or top + height > picture.height:
        return None
    letter = picture.crop((left, top, left + width + 1, top + height + 1))
    return max(letter.getcolors(letter.width * letter.height))[1]


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_letters_in_drawings_have_enough_contrast(
    browser: Browser, shop_pages: dict[str, str], theme: str
) -> None:
    """As painted: the ink of each letter against the colour most of its box has."""
    page = browser.new_page(color_scheme=theme, reduced_motion="reduce")  # type: ignore[arg-type]
    told, low = 0, []
    for name, address in shop_pages.items():
        settle(page, address)
        letters = page.evaluate(_LETTERS)
        if not letters:
            continue
        picture = Image.open(io.BytesIO(page.screenshot(full_page=True))).convert("RGB")
        for letter in letters:
            ground = letter["halo"] or _ground(picture, letter["box"])
            if ground is None:
                continue
            told += 1
            ends = sorted((_luminance(letter["ink"]), _luminance(ground)))
            found = (ends[1] + 0.05) / (ends[0] + 0.05)
            if found < 4.5:
                low.append(f"{name}, {letter['words']}: {found:.2f}")
    assert low == []
    assert told > 300
    page.close()


def test_forced_colours_leave_every_state(browser: Browser, shop_pages: dict[str, str]) -> None:
    """A drawing keeps ground and lines; what is chosen and every field stay marked."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, forced_colors="active", color_scheme="dark"
    )
    page = context.new_page()
    settle(page, shop_pages["station"])
    ground = "(e) => getComputedStyle(e).backgroundColor"
    plate = page.locator(".plate").first.evaluate(ground)
    assert plate not in ("rgb(0, 0, 0)", "rgba(0, 0, 0, 0)")
    chosen = page.locator(".token.current").first.evaluate(ground)
    other = page.locator(".token:not(.current)").first.evaluate(ground)
    assert chosen != other
    frame = page.locator("main .el-input__wrapper").first
    assert frame.evaluate("(e) => getComputedStyle(e).outlineStyle") == "solid"
    settle(page, shop_pages["decide"])
    way = page.locator("[aria-checked=true], [aria-pressed=true]").first.evaluate(ground)
    rest = page.locator("[aria-checked=false], [aria-pressed=false]").first.evaluate(ground)
    assert way != rest
    context.close()


@pytest.mark.parametrize(("width", "height"), SIZES)
def test_nothing_runs_off_the_page_and_fingers_hit(
    browser: Browser, shop_pages: dict[str, str], width: int, height: int
) -> None:
    """No sideways scrolling; everything to press is at least 44 by 44."""
    context = browser.new_context(viewport={"width": width, "height": height}, has_touch=True)
    page = context.new_page()
    for name, address in shop_pages.items():
        settle(page, address)
        wide = page.evaluate("document.documentElement.scrollWidth")
        assert wide <= width, name
        assert page.evaluate(_SMALL_TARGETS) == [], name
    context.close()


def test_marks_stay_inside_the_plate(page: Page, shop_pages: dict[str, str]) -> None:
    """Nothing that is drawn on the whole ladder is cut off at its edge."""
    page.emulate_media(reduced_motion="reduce")
    for name in ("station", "conflict", "caliper"):
        settle(page, shop_pages[name])
        at_rest(page)
        outside = page.evaluate(
            """() => {
              const plate = document.querySelector('svg[data-low]').getBoundingClientRect()
              const marks = document.querySelectorAll('svg[data-low] text, .tag rect, [data-notch]')
              return [...marks]
                .map((m) => [m.textContent, m.getBoundingClientRect()])
                .filter(([, b]) => b.width && (b.left < plate.left - 1 || b.right > plate.right + 1
                  || b.top < plate.top - 1 || b.bottom > plate.bottom + 1))
                .map(([text]) => text)
            }"""
        )
        assert outside == [], name


def test_ladder_glides_unless_motion_is_unwanted(
    page: Page, live: str, shop: Callable[..., dict[str, Any]]
) -> None:
    """A change of the span is animated; with reduced motion it is there at once."""
    spans = """() => new Promise((done) => {
      const svg = document.querySelector('svg[data-low]')
      const seen = new Set()
      new MutationObserver(() => seen.add(svg.dataset.low)).observe(svg, { attributes: true })
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: 'f', bubbles: true }))
      setTimeout(() => done(seen.size), 600)
    })"""
    build = shop()
    page.goto(station_url(live, build))
    page.get_by_text("No reading yet.").wait_for()
    page.keyboard.press("z")
    expect(page.locator("[data-peg='1']")).to_be_attached()
    at_rest(page)
    assert page.evaluate(spans) > 1, "a busy machine may draw few frames of it, never one"
    page.emulate_media(reduced_motion="reduce")
    page.reload()
    expect(page.locator("[data-peg='1']")).to_be_attached()
    at_rest(page)
    assert page.evaluate(spans) == 1


def test_intake_and_exhaust_differ_by_letter_and_shape(
    page: Page, shop_pages: dict[str, str]
) -> None:
    settle(page, shop_pages["station"])
    shapes = page.locator(".token").evaluate_all(
        "els => els.map((e) => [e.firstChild.textContent.trim(), getComputedStyle(e).borderRadius])"
    )
    round_, square = ({r for n, r in shapes if n.endswith(letter)} for letter in "IE")
    assert round_ == {"50%"}
    assert square == {"3px"}
    expect(page.get_by_title("1 intake: zero lash known")).to_be_visible()


def test_board_says_what_each_build_waits_for(page: Page, shop_pages: dict[str, str]) -> None:
    settle(page, shop_pages["board"])
    rows = page.locator(".board li")
    expect(rows).to_have_count(12)
    for name, words, verb in (
        ("Dockside loader V8", "Order sheet is ready", "Order"),
        ("Fairground organ V-twin", "Readings contradict on 1E", "Measure"),
        ("Mill pump single", "Choose what measures it", "Set up"),
    ):
        row = rows.filter(has_text=name)
        expect(row).to_contain_text(words)
        expect(row.get_by_role("link", name=verb, exact=True)).to_be_visible()
    rows.filter(has_text="Fairground").get_by_role("link", name="Measure").click()
    expect(page).to_have_url(re.compile("/zero_lash/"))
    expect(page.get_by_text("Cylinder 1 exhaust")).to_be_visible()


_FIELDS = """() => [...document.querySelectorAll('main input, main textarea')]
  .filter((e) => !['checkbox', 'radio', 'file', 'range'].includes(e.type))
  .filter((e) => !e.disabled && !e.readOnly)
  .filter((e) => e.checkVisibility())
  .map((e, i) => ((e.dataset.probe = i), i))"""
_NAME = "e => e.ariaLabel || e.labels?.[0]?.innerText || e.id"
MORE = ("Hot engine", "The rod", "Rod box", "Extend", "Turns", "Indicator", "Gap", "Half lift",
        "More readings…")  # fmt: skip


def deaf_fields(page: Page) -> list[str]:
    """The fields in sight that do not hold what is typed into them, key by key."""
    deaf = []
    for probe in page.evaluate(_FIELDS):
        field = page.locator(f"[data-probe='{probe}']")
        if not field.count():
            continue
        field.focus()
        page.keyboard.press("Control+a")
        page.keyboard.type("3.45")
        if field.input_value() != "3.45":
            deaf.append(field.evaluate(_NAME))
        page.keyboard.press("Control+z")
    return deaf


def test_every_field_takes_what_is_typed(page: Page, live: str, empty: Engine) -> None:
    """Nothing typed goes to the server: what it would answer is another matter."""
    builds = {b["name"]: b for b in demo_builds(live, empty)}
    writes = ("POST", "PATCH", "PUT")
    page.route("**/api/**", lambda r: r.abort() if r.request.method in writes else r.continue_())
    stations = ("setup", "base_circle", "zero_lash", "rocker", "heads", "decide", "order",
                "sign_off", "history")  # fmt: skip
    asked = 0
    for name, shown in (("Quarry crusher V8", stations), ("Harbour dredger V8", ("rocker",))):
        for station in shown:
            of_a_valve = station in ("zero_lash", "rocker")
            valve = f"/{builds[name]['valves'][0]['id']}" if of_a_valve else ""
            settle(page, f"{live}/builds/{builds[name]['id']}/{station}{valve}")
            expect(page).to_have_url(re.compile(station))
            assert deaf_fields(page) == [], f"{name}, {station}"
            asked += page.locator("[data-probe]").count()
            for more in MORE:
                opens = page.get_by_role("button", name=more, exact=True)
                if opens.count() and opens.first.is_visible():
                    opens.first.click()
                    quiet(page)
                    assert deaf_fields(page) == [], f"{name}, {station}, {more}"
    assert asked > 60


def test_keys_belong_to_what_has_the_focus(page: Page, shop_pages: dict[str, str]) -> None:
    """WCAG 2.1.4 and 2.4.1: Enter on a link follows it, single keys can be switched off."""
    settle(page, shop_pages["heads"])
    expect(page).to_have_title("Heads · Quarry crusher V8 · Vivid Arm")
    page.keyboard.press("Tab")
    skip = page.get_by_role("link", name="Skip to the station")
    expect(skip).to_be_focused()
    page.keyboard.press("Enter")
    expect(page.locator("#station")).to_be_focused()
    page.get_by_role("link", name="Order", exact=True).focus()
    page.keyboard.press("Enter")
    expect(page).to_have_url(re.compile("/order$"))
    page.get_by_role("link", name="Zero lash", exact=True).click()
    expect(page).to_have_title(re.compile("^Zero lash [0-9]+[IE] · Quarry crusher V8"))
    field = page.get_by_role("textbox", name="Turns from closed")
    expect(field).to_be_visible()
    skip.focus()
    page.keyboard.press("Enter")
    expect(field).to_be_focused()
    strip = page.get_by_role("navigation", name="Valves").get_by_role("link")
    here = page.locator(".valves [aria-current=true]")
    here.focus()
    page.keyboard.press("ArrowRight")
    expect(here).not_to_be_focused()
    assert strip.evaluate_all("links => links.filter(a => a.tabIndex === 0).length") == 1
    field.fill("3")
    page.keyboard.press("Escape")
    expect(field).not_to_be_focused()
    expect(field).to_have_value("3")
    figure = page.get_by_role("button", name=re.compile("how it comes about")).first
    for _ in range(2):
        figure.press("Enter")
        expect(page.locator(".explain")).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.locator(".explain")).to_be_hidden()
        expect(figure).to_be_focused()
    page.get_by_role("button", name="Keys").click()
    page.get_by_label("Single keys work outside fields").uncheck()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_be_hidden()
    page.keyboard.press("d")
    expect(page.get_by_role("button", name="Dark", exact=True)).to_be_visible()


def test_every_station_tells_its_steps_and_its_cautions(
    page: Page, live: str, shop_pages: dict[str, str]
) -> None:
    told = {h["station"]: h for h in web.get(f"{live}/api/rules").json()["help"]}
    v8 = shop_pages["order"].removesuffix("/order")
    valve = web.get(v8.replace("/builds/", "/api/builds/")).json()["valves"][0]["id"]
    for station in told:
        tail = f"/{valve}" if station in ("zero_lash", "rocker") else ""
        settle(page, f"{v8}/{station}{tail}")
        page.keyboard.press("?")
        dialog = page.get_by_role("dialog")
        steps = dialog.get_by_role("list", name="Steps").get_by_role("listitem")
        expect(steps).to_have_text(told[station]["steps"])
        cautions = dialog.get_by_role("list", name="Cautions").get_by_role("listitem")
        expect(cautions).to_have_text(told[station]["cautions"])
        page.keyboard.press("Escape")
        expect(dialog).to_be_hidden()


def test_a_page_opens_without_being_styled_twice_or_compiled_piece_by_piece(
    page: Page, shop_pages: dict[str, str]
) -> None:
    """The theme stops no transitions at opening; a browser compiles each of the files at once."""
    page.add_init_script(
        """
        window.restyled = 0
        const asked = window.getComputedStyle
        window.getComputedStyle = (el, ...more) => {
          if (el.tagName === 'STYLE') window.restyled += 1
          return asked.call(window, el, ...more)
        }
        """
    )
    asked: list[str] = []
    page.on("request", lambda r: asked.append(r.url))
    settle(page, shop_pages["heads"])
    assert page.evaluate("window.restyled") == 0
    ours = [url for url in asked if url.endswith(".js") and "/loader-" not in url]
    programs = [page.request.get(url).text() for url in ours]
    assert len(programs) >= 3
    assert all(p.startswith("//# allFunctionsCalledOnLoad\n") for p in programs)


def test_what_was_compiled_is_taken_again(
    browser: Browser, shop_pages: dict[str, str], tmp_path: Path
) -> None:
    """The browser's own record: at a later opening it takes the programs as they were compiled."""
    programs, taken = {"app", "stations", "HeadsPage"}, set[str]()
    keeping = browser.browser_type.launch_persistent_context(tmp_path, **BROWSER)  # type: ignore[arg-type]
    assert keeping.browser is not None
    for _ in range(10):  # it puts them away when it has time
        page = keeping.new_page()
        keeping.browser.start_tracing(page=page, categories=["v8", "devtools.timeline"])
        settle(page, shop_pages["heads"])
        told = json.loads(keeping.browser.stop_tracing())["traceEvents"]
        page.close()
        compiled = [e["args"] for e in told if e["name"] == "v8.compile"]
        names = {c.get("fileName", ""): c["data"].get("consumedCacheSize", 0) for c in compiled}
        taken = {n.rsplit("/")[-1].split("-")[0] for n, size in names.items() if size}
        if programs <= taken:
            break
    keeping.close()
    assert programs <= taken


def test_a_page_asks_for_its_figures_before_its_program_is_there(
    page: Page, shop_pages: dict[str, str]
) -> None:
    """By the browser's own record; once each, in a browser that has never been here too.

    Its own program and styles are asked for as early, and taken as they come.
    """
    devtools = page.context.new_cdp_session(page)
    devtools.send("Network.enable")
    told: list[dict[str, Any]] = []
    devtools.on("Network.requestWillBeSent", lambda sent: told.append(sent))

    def asked(by: str = "") -> list[str]:
        calls = [
            (t["request"]["url"], t["initiator"].get("stack", {}))
            for t in told
            if t["documentURL"] == page.url
        ]
        return [
            url.split("/api/", 1)[1]
            for url, stack in calls
            if "/api/" in url and by in json.dumps(stack.get("callFrames", ""))
        ]

    wanted = {"Towpath tug V8": {"rocker", "motion"}, "station": {"rules"}, "order": {"orders"}}
    for name, last in wanted.items():
        told.clear()
        settle(page, shop_pages[name])
        early = asked("/early-")
        assert last <= {address.rsplit("/", 1)[-1] for address in early}
        before_it_is_made = asked()[: asked().index("me")]
        assert sorted(before_it_is_made) == sorted(early)
    early_files = page.locator("link[rel=preload][href*=OrderPage]")
    assert early_files.evaluate_all("all => all.map((l) => l.as).sort()") == ["script", "style"]
    fetched = page.evaluate("performance.getEntriesByType('resource').map((r) => r.name)")
    files = [name for name in fetched if "/assets/" in name]
    assert len(files) == len(set(files))


AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"


@pytest.mark.slow
@pytest.mark.parametrize("theme", ["light", "dark"])
def test_no_page_breaks_a_rule_of_accessibility(
    browser: Browser, shop_pages: dict[str, str], live: str, theme: str
) -> None:
    """Independent: axe-core, every rule of every impact, on every view; and its own control."""
    context = browser.new_context(
        viewport={"width": 1280, "height": 800}, color_scheme=theme,  # type: ignore[arg-type]
        bypass_csp=True,
    )  # fmt: skip
    page = context.new_page()
    body = {"id": str(uuid4()), "scenario": "corners", "seed": 3}
    made = web.post(f"{live}/api/practice", json=body).json()
    more = {"course": f"{live}/practice", "bench": f"{live}/builds/{made['build_id']}/setup"}
    found = {}
    for name, address in (shop_pages | more).items():
        settle(page, address)
        page.evaluate(AXE.read_text())
        broken = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
        told = [f"{v['id']} ({v['impact']}): {v['nodes'][0]['html'][:150]}" for v in broken]
        if told:
            found[name] = told
    assert found == {}
    page.evaluate("document.querySelector('h1').remove()")
    again = page.evaluate("axe.run(document, {resultTypes: ['violations']})")["violations"]
    assert [v["id"] for v in again] == ["page-has-heading-one"]
    context.close()


def test_what_takes_longer_says_so_and_a_page_comes_at_once(
    page: Page, shop_pages: dict[str, str]
) -> None:
    """A sign after 300 ms, none before; nothing that comes late pushes down what is there."""

    def late(route: Route) -> None:
        page.wait_for_timeout(1500)
        route.continue_()

    sign = page.get_by_text("Working…")
    settle(page, shop_pages["heads"])
    expect(sign).to_be_hidden()
    page.add_init_script(
        """
        window.moved = 0
        new PerformanceObserver((list) => {
          for (const e of list.getEntries()) if (!e.hadRecentInput) window.moved += e.value
        }).observe({ type: 'layout-shift', buffered: true })
        """
    )
    page.route("**/api/builds/*/decide", late)
    page.goto(shop_pages["decide"])
    expect(sign).to_be_visible()
    expect(page.get_by_role("button", name="Fewest lengths")).to_be_visible()
    expect(sign).to_be_hidden()
    assert page.evaluate("window.moved") <= 0.02


def test_on_a_phone_one_scroll_shows_all_that_a_trial_needs(
    browser: Browser, live: str, empty: Engine
) -> None:
    """From the dial's buttons to the next setting in one view; the valves are the way back."""
    build = next(b for b in demo_builds(live, empty) if b["name"] == "Courier van inline six")
    context = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    page = context.new_page()
    settle(page, station_url(live, build, 1))
    first = page.get_by_role("button", name="1 turn longer", exact=True).bounding_box()
    last = page.get_by_role("button", name=re.compile("^Set the rod to")).bounding_box()
    assert first is not None
    assert last is not None
    assert last["y"] + last["height"] - first["y"] <= 844
    context.close()
