"""A practice engine played in the browser from the first turn to the score: by keys, by touch."""

import re
from typing import Any
from uuid import uuid4

import pytest
from playwright.sync_api import Browser, Page, Response, expect

from tests.browser.test_job import tab_to
from tests.builders import at_rest, wait_for, web

FELT = {"rattles": "l", "swings": "l", "drag": "z", "tight": "t", "solid": "t"}
BUTTON = {"l": "Loose", "z": "Zero", "t": "Tight"}


def heel(live: str, build_id: str, valve: str) -> int:
    """The middle of a valve's heel by its card, as the crank wheel shows it."""
    answer = web.get(f"{live}/api/builds/{build_id}/base_circle", params={"selection": "all"})
    window = next(w for w in answer.json()["windows"] if w["name"] == valve)
    return round((window["from_deg"] + window["to_deg"]) / 2) % 720


def wanted_turns(page: Page) -> float | None:
    """What the station's red bar asks the rod to be set to."""
    bar = page.get_by_role("button", name=re.compile("^Set the rod to"))
    if not bar.count():
        return None
    words = bar.inner_text().replace("\n", " ")
    found = re.search(r"to (?:(\d+)\s*)?(?:(\d)/(\d))? ?turns?", words)
    assert found is not None, words
    whole, top, bottom = found.groups()
    return float(whole or 0) + (int(top) / int(bottom) if top else 0.0)


def what_is_felt(page: Page) -> str:
    said = page.get_by_label("Practice bench").get_by_role("status")
    expect(said).to_contain_text(re.compile("|".join(FELT)))
    words = said.inner_text()
    return next(key for sign, key in FELT.items() if sign in words)


def readings_of(live: str, build_id: str, valve: str) -> int:
    valves = web.get(f"{live}/api/builds/{build_id}").json()["valves"]
    return int(next(v for v in valves if v["name"] == valve)["readings"])


class Player:
    """Two ways of doing what the bench asks: keys alone, or touches alone."""

    def __init__(self, page: Page, live: str, build_id: str, touch: bool) -> None:
        self.page, self.live, self.build_id, self.touch = page, live, build_id, touch
        self.turned = 2.0

    def press(self, name: str) -> None:
        button = self.page.get_by_role("button", name=name, exact=True)
        if self.touch:
            button.tap()
            return
        tab_to(self.page, "button", name)
        self.page.keyboard.press("Enter")

    def answered(self, path: str, act: Any) -> None:
        with self.page.expect_response(lambda r: path in r.url and r.request.method == "POST"):
            act()

    def crank(self, deg: int) -> None:
        slider = self.page.get_by_role("slider", name="Crank, degrees")
        if self.touch:
            box = slider.bounding_box()
            assert box is not None
            at = {"x": 8 + (box["width"] - 16) * deg / 719, "y": box["height"] / 2}
            self.answered("/deeds", lambda: slider.tap(position=at))
            return
        tab_to(self.page, "slider", "Crank, degrees")

        def by_keys() -> None:
            for key, times in (("Home", 1), ("PageUp", deg // 72), ("ArrowRight", deg % 72)):
                for _ in range(times):
                    self.page.keyboard.press(key)

        self.answered("/deeds", by_keys)
        expect(slider).to_have_value(str(deg))
        at_rest(self.page)

    def turn_to(self, turns: float) -> None:
        steps = [(8, "1", "full"), (2, "¼", "quarter"), (1, "⅛", "eighth")]
        left = round((turns - self.turned) * 8)
        sign, way = ("+", "longer") if left > 0 else ("−", "shorter")
        for size, shown, words in steps:
            name = f"{sign}{shown}: {'an' if words == 'eighth' else 'a'} {words} turn {way}"
            for _ in range(abs(left) // size):
                self.answered("/deeds", lambda n=name: self.press(n))
            left = (abs(left) % size) * (1 if left > 0 else -1)
        self.turned = turns

    def dial_shows(self, turns: float) -> None:
        """The station's own record of the rod stands where the real one does."""
        whole, eighths = divmod(round(turns * 8), 8)
        part = {1: "1/8", 2: "1/4", 3: "3/8", 4: "1/2", 5: "5/8", 6: "3/4", 7: "7/8"}.get(
            eighths, ""
        )
        words = f"{whole} {part}".strip() if whole else part or "0"
        dial = self.page.get_by_role("slider", name=f"Checking rod at {words} turns", exact=False)
        expect(dial).to_be_visible()

    def measure(self, valve: str) -> None:
        self.crank(heel(self.live, self.build_id, valve))
        self.answered("/deeds", lambda: self.press(f"Rod into {valve}"))
        for _ in range(14):
            turns = wanted_turns(self.page)
            if turns is None:
                return
            self.turn_to(turns)
            self.answered("/deeds", lambda: self.press("Feel it") if self.touch
                          else self.page.keyboard.press("j"))  # fmt: skip
            key = what_is_felt(self.page)
            before = readings_of(self.live, self.build_id, valve)
            if self.touch:
                self.page.get_by_role("button", name=re.compile("^Set the rod to")).tap()
                self.dial_shows(turns)
                self.answered("/trials", lambda k=key: self.page.get_by_role(
                    "button", name=re.compile(f"^{BUTTON[k]}")).first.tap())  # fmt: skip
            else:
                self.page.keyboard.press("n")
                self.dial_shows(turns)
                self.answered("/trials", lambda k=key: self.page.keyboard.press(k))
            assert readings_of(self.live, self.build_id, valve) == before + 1
            lines = self.page.get_by_label("Readings", exact=True).get_by_role("listitem")
            expect(lines).to_have_count(before + 1)
            at_rest(self.page)


@pytest.mark.parametrize("touch", [False, True], ids=["by keyboard", "by touch"])
def test_an_engine_is_played_to_its_score(browser: Browser, live: str, touch: bool) -> None:
    context = browser.new_context(
        viewport={"width": 820 if touch else 1280, "height": 1180 if touch else 800},
        has_touch=touch,
    )
    page = context.new_page()
    thrown: list[str] = []
    page.on("pageerror", lambda error: thrown.append(str(error)))
    page.goto(f"{live}/practice?scenario=pump&seed=7")
    if touch:
        page.get_by_role("button", name="Start The pump engine").tap()
    else:
        tab_to(page, "button", "Start The pump engine")
        page.keyboard.press("Enter")
    expect(page.get_by_label("Practice bench")).to_be_visible()
    build_id = page.url.split("/builds/")[1].split("/")[0]
    player = Player(page, live, build_id, touch)
    for valve in ("1I", "1E"):
        if valve == "1E":
            (page.get_by_role("link", name="Cylinder 1 exhaust").tap() if touch
             else page.keyboard.press("v"))  # fmt: skip
            expect(page.get_by_role("button", name="Rod into 1E")).to_be_visible()
        player.measure(valve)
        expect(page.get_by_role("button", name=re.compile("^Set the rod to"))).to_have_count(0)
    player.press("Buy what is decided")
    expect(page.get_by_role("button", name="Run it", exact=True)).to_be_enabled()
    player.press("Run it")
    expect(page.get_by_role("heading", name="The pump engine runs")).to_be_visible()
    expect(page.get_by_text("All 2 valves run inside their window.")).to_be_visible()
    expect(page.get_by_role("img", name="Preload of every valve, cold and hot")).to_be_visible()
    expect(page.get_by_text(re.compile(r"trials \d+ \(4 would do\)"))).to_be_visible()
    expect(page.get_by_role("columnheader", name="To the edge")).to_be_visible()
    assert thrown == []
    context.close()


def test_the_bench_stands_beside_every_station_without_scrolling(page: Page, live: str) -> None:
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(f"{live}/practice?scenario=corners&seed=3")
    page.get_by_role("button", name="Start Four corners").click()
    bench = page.get_by_label("Practice bench")
    for step in ("Zero lash", "Rocker", "Base circle", "Heads", "Decide", "Set-up"):
        page.get_by_role("link", name=step, exact=True).click()
        expect(bench).to_be_visible()
        run = bench.get_by_role("button", name="Run it", exact=True)
        box = run.bounding_box()
        assert box is not None
        assert box["y"] + box["height"] <= 800, f"{step}: the bench ends below the screen"
        assert page.evaluate("document.documentElement.scrollWidth") <= 1280, step
        at_rest(page)
        room = "(() => { const h = document.querySelector('.here');"
        assert page.evaluate(room + "return h.scrollWidth - h.clientWidth })()") <= 0, step
    for button in bench.get_by_role("button").all():
        size = button.bounding_box()
        assert size is None or min(size["width"], size["height"]) >= 44, button.inner_text()


def test_the_tour_leads_through_the_real_stations(page: Page, live: str) -> None:
    """Offered on an empty shop and from the help; it stands where it was after a reload."""
    page.set_viewport_size({"width": 1280, "height": 800})
    page.goto(live)
    expect(page.get_by_role("heading", name="Builds", exact=True)).to_be_visible()
    page.keyboard.press("?")
    dialog = page.get_by_role("dialog")
    expect(dialog.get_by_role("button", name="Tour: five minutes")).to_be_visible()
    page.keyboard.press("Escape")
    expect(dialog).to_be_hidden()
    page.get_by_role("main").get_by_role("button", name="Tour: five minutes").click()
    tour = page.get_by_role("region", name="Tour")
    expect(page.get_by_label("Practice bench")).to_be_visible()
    seen = []
    for station in ("base-circle", "zero-lash", "zero-lash", "heads", "decide", "decide"):
        expect(tour).to_contain_text(f"{len(seen) + 1} of 7")
        expect(page).to_have_url(re.compile(station.replace("-", "[-_]")))
        expect(page.get_by_text("Practice", exact=True).first).to_be_visible()
        seen.append(tour.get_by_role("strong").inner_text())
        if station == "zero-lash":
            for feel in ("Loose", "Zero", "Tight"):
                button = page.get_by_role("button", name=feel).first
                expect(button).to_be_in_viewport(ratio=1)
        tour.get_by_role("button", name="Next").click()
    expect(tour).to_contain_text("7 of 7")
    assert len(set(seen)) == 6
    page.reload()
    expect(tour).to_contain_text("7 of 7")
    tour.get_by_role("button", name="Done").click()
    expect(tour).to_be_hidden()
    page.reload()
    expect(page.get_by_label("Practice bench")).to_be_visible()
    expect(tour).to_be_hidden()


def test_the_crank_is_dragged_round_in_the_drawing(page: Page, live: str) -> None:
    """Half a turn of the cam is a whole one of the crank; the engine stands where it is left."""
    page.goto(f"{live}/practice?scenario=pump&seed=7")
    page.get_by_role("button", name="Start The pump engine").click()
    grip = page.locator(".train .grip")
    box = grip.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    kept: list[Response] = []
    page.on("response", lambda r: kept.append(r) if "/deeds" in r.url else None)
    page.mouse.move(x, y - 18)
    page.mouse.down()
    for at in ((x + 13, y - 13), (x + 18, y), (x + 13, y + 13), (x, y + 18)):
        page.mouse.move(*at)
    page.mouse.up()

    def stands() -> bool:
        """A hand that halts on its way leaves the crank there for that while."""
        page.evaluate("true")
        crank = kept[-1].json()["exercise"]["crank_deg"] if kept else 0
        return bool(crank == pytest.approx(360, abs=2))

    wait_for(stands)
    expect(page.get_by_text(re.compile("Crank (359|360|361)°"))).to_be_visible()


def test_sound_and_the_other_tools(page: Page, live: str) -> None:
    thrown: list[str] = []
    page.on("pageerror", lambda error: thrown.append(str(error)))
    page.goto(f"{live}/practice?scenario=shims&seed=4")
    page.get_by_role("button", name="Start Stands too low").click()
    bench = page.get_by_label("Practice bench")
    said = bench.get_by_role("status")
    sounds = bench.get_by_role("button", name="Sound")
    expect(sounds).to_have_attribute("aria-pressed", "false")
    sounds.click()
    expect(sounds).to_have_attribute("aria-pressed", "true")
    bench.get_by_role("button", name="Rod into 1I").click()
    bench.get_by_role("button", name="Feel it").click()
    expect(said).to_contain_text("It rattles")
    bench.get_by_text("More tools").click()
    for name, words in [
        ("Read it at 1I", "needle stands"), ("Turn 1I down to its piston", "touches the piston|"
         "further than"), ("Clay under 1I", "clay is cut"), ("Angle of the arm", "square to"),
    ]:  # fmt: skip
        bench.get_by_role("button", name=name).click()
        expect(said).to_contain_text(re.compile(words))
    bench.get_by_label("Shims, thou").fill("95")
    bench.get_by_role("button", name="Under the stands").click()
    expect(said).to_contain_text("down on their shims")
    expect(bench.get_by_role("button", name="Rod into 1I")).to_be_enabled()
    bench.get_by_label("What the indicator stands on").select_option("rod")
    bench.get_by_role("button", name="Read it at 1I").click()
    expect(bench.get_by_role("alert")).to_contain_text("No rod 1I has come")
    assert thrown == []


def test_a_vernier_is_read_where_two_lines_meet(page: Page, live: str) -> None:
    """Twenty-five lines over twenty-four fortieths: the line that meets one tells thousandths."""
    page.goto(f"{live}/practice?scenario=pump&seed=4")
    page.get_by_role("button", name="Start The pump engine").click()
    bench = page.get_by_label("Practice bench")
    bench.get_by_text("More tools").click()
    bench.get_by_label("with a vernier").check()
    with page.expect_response(lambda r: r.url.endswith("/deeds")) as kept:
        bench.get_by_role("button", name="Caliper", exact=True).click()
    true_thou = kept.value.json()["got"]["read_in"] * 1000
    loupe = page.get_by_label("Loupe along the slide")
    meets = round(true_thou % 25) % 25
    loupe.fill(str(meets))
    drawn = page.get_by_role("img", name=f"Vernier, the loupe over line {meets}")
    rule = [float(x) for x in drawn.evaluate(
        "svg => [...svg.querySelectorAll('line[y1=\"0\"]')]"
        ".filter(l => Number(l.getAttribute('y2')) < 0).map(l => l.getAttribute('x1'))"
    )]  # fmt: skip
    thou_px = 1.6
    assert min(abs(x) for x in rule) <= 0.5 * thou_px + 1e-6
    assert sorted(abs(x) for x in rule)[1] > 20 * thou_px
    # Two lines away nothing meets so well.
    loupe.fill(str(meets - 3 if meets > 3 else meets + 3))
    drawn = page.get_by_role("img", name=re.compile("Vernier"))
    xs = drawn.locator("line").evaluate_all(
        "all => all.filter(l => Number(l.getAttribute('y2')) < 0)"
        ".map(l => Number(l.getAttribute('x1')))"
    )
    assert min(abs(x) for x in xs) > 2 * thou_px


def test_progress_is_drawn_a_line_a_person(page: Page, live: str) -> None:
    for person, seed in (("Ada", 1), ("Ben", 2), ("Ada", 3)):
        body = {"id": str(uuid4()), "scenario": "pump", "seed": seed}
        made = web.post(f"{live}/api/practice", json=body, headers={"X-By": person}).json()
        url = f"{live}/api/practice/{made['id']}"
        rods = {"1I": 6.9 + seed / 50, "1E": 6.95}
        assert web.put(f"{url}/rods", json={"rods": rods}).status_code == 200
        assert web.post(f"{url}/ending").status_code == 201
    page.goto(f"{live}/practice")
    drawn = page.get_by_role("img", name="Points over time")
    expect(drawn).to_be_visible()
    expect(drawn.locator("circle")).to_have_count(3)
    expect(drawn.locator("polyline")).to_have_count(2)
    expect(drawn).to_contain_text("Ben")
    # Drawn where they ended in time: what Ada did last stands furthest right.
    across = [float(c.get_attribute("cx") or 0) for c in drawn.locator("circle").all()]
    assert max(across) == across[1] > across[2] > across[0]
