"""Take docs/screenshots from a fresh demo shop: .venv/bin/python -m scripts.screenshots."""

import subprocess
import tempfile
from pathlib import Path
from uuid import uuid4

import cv2
import httpx
from playwright.sync_api import Browser, Page, sync_playwright

from benchmarks.serving import ASKED_TODAY, BROWSER, ROOT, started
from vivid_arm.demo.tip_photos import Scene
from vivid_arm.demo.tip_photos import take as take_photo
from vivid_arm.records import accounts, database
from vivid_arm.records.cluster import url_of_running

TARGET = ROOT / "docs" / "screenshots"
DESK = {"width": 1280, "height": 800}
TABLET = {"width": 820, "height": 1180}
PHONE = {"width": 390, "height": 844}
WALL = {"width": 1180, "height": 820}


def take(page: Page, url: str, name: str, *keys: str) -> None:
    """Open, press keys, and keep the picture once everything stands still."""
    page.goto(url)
    page.wait_for_load_state("load")
    page.wait_for_timeout(900)
    for key in keys:
        page.keyboard.press(key)
    page.wait_for_timeout(700)
    page.screenshot(path=TARGET / f"{name}.png")


def paper(url: str, name: str, page: int = 1) -> None:
    """A page of a printed sheet as a picture."""
    with tempfile.NamedTemporaryFile(suffix=".pdf") as pdf:
        pdf.write(httpx.get(url, trust_env=False, timeout=30).content)
        pdf.flush()
        subprocess.run(
            [
                "pdftoppm",
                "-png",
                "-r",
                "80",
                "-f",
                str(page),
                "-singlefile",
                pdf.name,
                TARGET / name,
            ],
            check=True,
        )


def mark_photo(page: Page, url: str, file: Path) -> None:
    """A made photo of a tip with the first guess on it."""
    scene = Scene(-0.007, 0.031, turn_deg=12, glare=0.4, tilt_deg=8, blur_px=1.5, radius_px=140)
    cv2.imwrite(str(file), take_photo(scene))
    page.goto(url)
    page.get_by_label("Photo of the tip").set_input_files(file)
    page.get_by_role("button", name="Record this mark").wait_for()
    page.wait_for_timeout(700)
    page.screenshot(path=TARGET / "photo.png")


def practice(page: Page, url: str) -> None:
    """A practice engine: its bench beside the station."""
    page.goto(f"{url}/practice?scenario=comeback&seed=8")
    page.get_by_label("Start The comeback").click()
    page.get_by_role("button", name="Rod into 1I").click()
    page.get_by_text("The rod stands in 1I").wait_for()
    for _ in range(20):
        page.keyboard.press("]")
    page.get_by_label("Crank, degrees").fill("270")
    page.get_by_label("Crank, degrees").dispatch_event("input")
    page.get_by_text("The crank stands there").wait_for()
    page.get_by_role("button", name="Feel it").click()
    page.wait_for_timeout(1500)
    page.screenshot(path=TARGET / "practice.png")


def people(browser: Browser) -> None:
    """A shop with accounts: its people, a device being paired, the tablet on the wall."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-shots-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        data = Path(name) / "data"
        with started(data, "--people") as (url, _):
            engine = database.connect(url_of_running(data) or "")
            with database.sessions(engine).begin() as session:
                code = accounts.first_code(session)
            engine.dispose()
            page, phone, wall = (
                browser.new_context(viewport=size).new_page()  # type: ignore[arg-type]
                for size in (DESK, PHONE, WALL)
            )
            page.goto(url)
            page.get_by_label("Code").fill(code or "")
            page.get_by_label("Name").fill("Tess")
            page.get_by_label("Password", exact=True).fill("three words apart")
            page.get_by_label("The same again").fill("three words apart")
            page.get_by_role("button", name="Set it and go in").click()
            page.get_by_role("link", name="Signed in as Tess").click()
            for who, role in (("Jory", "apprentice"), ("Front desk", "viewer"), ("Olm", "builder")):
                body = {"id": str(uuid4()), "name": who, "role": role}
                page.request.post(f"{url}/api/accounts", data=body)
            for device, label in ((phone, "Phone"), (wall, "Wall")):
                pairing = page.request.post(f"{url}/api/pairings").json()
                device.goto(f"{url}/pair#{pairing['code']}")
                device.get_by_label("What it is called").fill(label)
                device.get_by_role("button", name="Pair", exact=True).click()
                device.get_by_role("heading", name="Builds").wait_for()
            van = page.request.get(f"{url}/api/builds?search=Courier").json()["builds"][0]["id"]
            valves = page.request.get(f"{url}/api/builds/{van}").json()["valves"]
            for device, valve in ((phone, valves[2]), (wall, valves[0])):
                device.goto(f"{url}/builds/{van}/zero_lash/{valve['id']}")
            wall.get_by_role("button", name="Bench mode").click()
            wall.get_by_label("Follows").select_option(label="Tess, Phone")
            phone.get_by_role("textbox", name="Turns from closed").fill("11 1/2")
            phone.locator(".feel", has_text="Loose").first.click()
            wall.get_by_role("status").get_by_text("1: loose").wait_for()
            wall.wait_for_timeout(700)
            wall.screenshot(path=TARGET / "wall.png")
            page.reload()
            page.get_by_text("Tess, Wall").wait_for()
            page.get_by_label("Somebody new").fill("Brand")
            page.get_by_role("button", name="Add").click()
            page.get_by_text("Tell Brand this code").wait_for()
            page.wait_for_timeout(700)
            page.screenshot(path=TARGET / "people.png")
            page.reload()
            page.get_by_role("button", name="Pair a phone or tablet").click()
            page.get_by_role("img", name="QR code that pairs a device").wait_for()
            page.evaluate("scrollTo(0, 0)")
            page.wait_for_timeout(700)
            page.screenshot(path=TARGET / "pairing.png")


def main() -> None:
    """Every main view, from demo data."""
    with tempfile.TemporaryDirectory(prefix="vivid-arm-shots-", dir="/var/tmp") as name:
        Path(name).chmod(0o755)
        with (
            started(Path(name) / "data", standins=True) as (url, _),
            sync_playwright() as playwright,
        ):
            http = httpx.Client(base_url=url, trust_env=False)
            board = http.get("/api/builds").json()["builds"]
            builds = {b["name"]: http.get(f"/api/builds/{b['id']}").json() for b in board}

            def at(name: str, step: str) -> str:
                return f"{url}/builds/{builds[name]['id']}/{step}"

            def station(name: str, valve: str) -> str:
                valves = builds[name]["valves"]
                valve_id = next(v["id"] for v in valves if v["name"] == valve)
                return at(name, f"zero_lash/{valve_id}")

            browser = playwright.chromium.launch(**BROWSER)  # type: ignore[arg-type]
            page = browser.new_page(viewport=DESK)  # type: ignore[arg-type]
            page.add_init_script(ASKED_TODAY)
            loader, quarry = "Dockside loader V8", "Quarry crusher V8"
            take(page, url, "board")
            take(page, at("Orchard sprayer flat four", "setup"), "setup")
            take(page, at(loader, "base_circle"), "base_circle", "n")
            take(page, station(loader, "1E"), "zero_lash")
            take(page, at(quarry, "heads"), "heads")
            take(page, at(quarry, "order"), "order")
            take(page, at("Sawmill tractor inline six", "sign_off"), "sign_off")
            take(page, at(quarry, "decide"), "decide")
            take(page, f"{url}/learned", "learned")
            tablet = browser.new_page(viewport=TABLET, has_touch=True)  # type: ignore[arg-type]
            tablet.add_init_script(ASKED_TODAY)
            take(tablet, station("Courier van inline six", "1E"), "tablet")
            noted = {"key": str(uuid4()), "by": "Tess", "valve_id": None,
                     "text": "Heads were off for the new gaskets; 6I has a new guide."}  # fmt: skip
            quarry_url = f"/api/builds/{builds[quarry]['id']}"
            http.post(f"{quarry_url}/notes", json=noted).raise_for_status()
            now = http.get(quarry_url).json()
            change = {"version": now["version"], "guard_deg": 12.0}
            http.patch(quarry_url, json=change, headers={"X-By": "Tess"}).raise_for_status()
            german = browser.new_page(viewport=DESK, locale="de-DE")  # type: ignore[arg-type]
            german.add_init_script(ASKED_TODAY)
            take(german, at(quarry, "history"), "history", "d")
            tug = at("Towpath tug V8", f"rocker/{builds['Towpath tug V8']['valves'][0]['id']}")
            desk = browser.new_page(viewport=DESK)  # type: ignore[arg-type]
            desk.add_init_script(ASKED_TODAY)
            take(desk, tug, "rocker")
            mark_photo(desk, tug, Path(name) / "tip.png")
            people(browser)
            paper(at(quarry, "order.pdf").replace("/builds/", "/api/builds/"), "order-sheet")
            bench = browser.new_page(viewport=DESK)  # type: ignore[arg-type]
            bench.add_init_script(ASKED_TODAY)
            practice(bench, url)
            report = at("Sawmill tractor inline six", "report.pdf")
            paper(report.replace("/builds/", "/api/builds/"), "report")
            browser.close()


if __name__ == "__main__":
    main()
