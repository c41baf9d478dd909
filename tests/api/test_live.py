"""What happens is told to every page, across processes, and found again after it was not heard."""

import asyncio
import contextlib
import gc
import os
import subprocess
import sys
import time
from collections.abc import AsyncGenerator, AsyncIterator, Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from types import SimpleNamespace
from typing import Any, cast
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import Engine, text

from tests.builders import web
from tests.hearing import hearing
from tests.standins import own_port, serving
from vivid_arm.api.app import make_app
from vivid_arm.api.live import _Together, live
from vivid_arm.demo import shop
from vivid_arm.records import database
from vivid_arm.records.cluster import running_cluster
from vivid_arm.records.happenings import ALL, BEAT, Happenings, Notice, read_notice

Json = dict[str, Any]


@contextlib.contextmanager
def own_process(url: str, **env: str) -> Iterator[str]:
    """The application as a process of its own on a database; its address."""
    port = own_port()
    command = [sys.executable, "-m", "vivid_arm", "serve", "--data", "/nonexistent", "--port",
               str(port), "--no-standins", "--no-demo"]  # fmt: skip
    process = subprocess.Popen(command, env=os.environ | {"DATABASE_URL": url} | env)
    here = f"http://127.0.0.1:{port}"
    try:
        for _ in range(600):
            with contextlib.suppress(httpx.HTTPError):
                if web.get(f"{here}/api/health").status_code == 200:
                    break
            time.sleep(0.05)
        yield here
    finally:
        process.terminate()
        process.wait(timeout=30)


def a_valve(url: str) -> str:
    """Where a valve of the demo takes trials."""
    build = web.get(f"{url}/api/builds").json()["builds"][0]["id"]
    valve = web.get(f"{url}/api/builds/{build}").json()["valves"][-1]["id"]
    return f"{url}/api/builds/{build}/valves/{valve}/trials"


def feel(where: str, turns: str = "9", **headers: str) -> httpx.Response:
    body = {"key": str(uuid4()), "setting": turns, "feel": "loose"}
    answer = web.post(where, json=body, headers=headers)
    assert answer.status_code == 201, answer.text
    return answer


@pytest.mark.slow
def test_two_processes_are_one_shop(cluster_url: str, empty: Engine) -> None:
    with database.sessions(empty).begin() as session:
        shop.load(session)
    with own_process(cluster_url) as one, own_process(cluster_url) as other:
        where = a_valve(one)
        build = where.split("/builds/")[1].split("/")[0]
        with hearing(other) as ear:
            kept = feel(where, **{"x-page": "page-7"}).json()
            told = ear.until(lambda t: t["what"] == "build")[-1]
            assert (told["id"], told["page"], told["written"]) == (build, "page-7", "")
            seen = web.get(where.replace(one, other).removesuffix("/trials")).json()
            assert seen["log"] == kept["log"]
            web.put(f"{one}/api/box/{uuid4()}", json={})
            # A page's name that could be something else is none.
            feel(where, "9 1/8", **{"x-page": "x' OR 1; --"})
            assert ear.until(lambda t: t["what"] == "build")[-1]["page"] == ""


def test_a_shelf_and_a_set_up_are_told_too(live: str) -> None:
    with hearing(live) as ear:
        rod = {"id": str(uuid4()), "kind": "caliper", "name": "Long one", "low_in": 0.0,
               "high_in": 12.0}  # fmt: skip
        web.post(f"{live}/api/instruments", json=rod).raise_for_status()
        assert ear.until(lambda t: t["what"] == "shop")[-1]["id"] == ""
        build = {
            "id": str(uuid4()), "name": "Told", "instrument_id": rod["id"], "travel_in": 0.2,
            "preload_low_in": 0.05, "preload_high_in": 0.1, "preload_target_in": 0.07,
        }  # fmt: skip
        web.post(f"{live}/api/builds", json=build).raise_for_status()
        mine = (("what", "build"), ("id", build["id"]))
        ear.until(lambda t: t.items() >= dict(mine).items())
        note = {"key": str(uuid4()), "text": "Heads are at the machinist's", "by": "Orla"}
        web.post(f"{live}/api/builds/{build['id']}/notes", json=note).raise_for_status()
        ear.until(lambda t: t.items() >= dict(mine).items())
        # What is refused is told to nobody; what comes next is.
        assert web.post(f"{live}/api/builds", json=build | {"name": ""}).status_code == 422
        web.post(f"{live}/api/instruments", json=rod | {"id": str(uuid4())})
        assert [t["what"] for t in ear.until(lambda t: t["what"] == "shop")] == ["shop"]


def test_what_happened_while_a_page_was_loading_is_told(live: str) -> None:
    rod = {"id": str(uuid4()), "kind": "caliper", "name": "Long one", "low_in": 0.0, "high_in": 9.0}
    with hearing(live) as first:
        web.post(f"{live}/api/instruments", json=rod).raise_for_status()
        first.until(lambda t: t["what"] == "shop")
        with hearing(live) as late:
            late.until(lambda t: t["what"] == "shop")


@pytest.mark.slow
def test_after_the_database_was_away_everything_is_asked_for_again(scratch: Path) -> None:
    data = scratch / "data"
    with running_cluster(data) as url:
        engine = database.connect(url)
        database.migrate(engine)
        with serving(make_app(url)) as here, hearing(here) as ear:
            with engine.begin() as connection:
                connection.execute(text("SELECT tell('shop -')"))
            ear.until(lambda t: t["what"] == "shop")
            with engine.connect() as connection:
                connection.execute(
                    text(
                        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity"
                        " WHERE query LIKE 'LISTEN%' OR query LIKE '%pg_notify%'"
                        " AND pid <> pg_backend_pid()"
                    )
                )
            ear.until(lambda t: t["what"] == "all")
            with engine.begin() as connection:
                connection.execute(text("SELECT tell('shop -')"))
            ear.until(lambda t: t["what"] == "shop")
        engine.dispose()


async def _heard(happenings: Happenings, count: int) -> list[Notice]:
    found: list[Notice] = []
    happenings.tell(BEAT)
    async for told in happenings.listen():
        found.append(told)
        if len(found) == 1:
            for n in range(count):
                happenings.tell(Notice("build", str(n)))
            happenings.tell(BEAT)
        elif told == BEAT:
            break
    return found


def heard(count: int) -> list[Notice]:
    """In a thread of its own: a browser's test may have left its loop running in this one."""
    with ThreadPoolExecutor(1) as pool:
        return pool.submit(asyncio.run, _heard(Happenings("postgresql://nowhere"), count)).result()


def test_a_page_that_lags_asks_for_everything() -> None:
    few = heard(50)
    assert [t.id for t in few if t.what == "build"] == [str(n) for n in range(50)]
    many = heard(350)
    assert ALL in many
    # All that came after it is told one by one.
    last = [t.id for t in many[many.index(ALL) :] if t.what == "build"]
    assert last == [str(n) for n in range(350 - len(last), 350)]


async def _breaks() -> AsyncIterator[int]:
    yield 1
    raise OSError("the database went away")


async def _goes_on() -> AsyncIterator[int]:
    while True:
        await asyncio.sleep(30)
        yield 2


async def _told(*sources: AsyncIterator[int]) -> list[int]:
    async with asyncio.timeout(20):
        async with _Together(*sources) as both:
            return [told async for told in both]


def test_a_stream_ends_when_one_of_its_sources_fails() -> None:
    """The page comes again and asks for everything: a stream that stays mute would leave it old."""
    with ThreadPoolExecutor(1) as pool:
        assert pool.submit(asyncio.run, _told(_breaks(), _goes_on())).result() == [1]


async def _tells() -> AsyncIterator[Notice]:
    while True:
        yield Notice("build", "1")
        await asyncio.sleep(30)


def _stream(tells: Callable[[], AsyncIterator[Notice]] = _tells) -> AsyncGenerator[Any]:
    """What a page is told, on a shop that has gauges."""
    happenings, gauges = SimpleNamespace(listen=tells), SimpleNamespace(listen=tells)
    shop = SimpleNamespace(happenings=happenings, gauges=gauges, accounts=False)
    request = SimpleNamespace(app=SimpleNamespace(state=shop))
    return cast(AsyncGenerator[Any], live(cast(Any, request)))


async def _left_behind() -> list[str]:
    """What still runs after a page has gone while it was being told something."""
    stream = _stream()
    await anext(stream)
    await stream.aclose()
    return [str(t) for t in asyncio.all_tasks() if t is not asyncio.current_task()]


def test_a_page_that_goes_leaves_nothing_running() -> None:
    with ThreadPoolExecutor(1) as pool:
        assert pool.submit(asyncio.run, _left_behind()).result() == []


def test_a_server_that_ends_while_a_page_is_told_something_ends_in_peace() -> None:
    """The loop closes what is still open by itself, all at once."""
    complaints: list[dict[str, Any]] = []
    told = []

    async def ends() -> None:
        asyncio.get_running_loop().set_exception_handler(lambda _, what: complaints.append(what))
        told.append(_stream())
        await anext(told[0])

    with ThreadPoolExecutor(1) as pool:
        pool.submit(asyncio.run, ends()).result()
    assert complaints == []


async def _tells_once() -> AsyncIterator[Notice]:
    """Waits for what nobody else holds, as a page's queue does."""
    yield Notice("build", "1")
    await asyncio.get_running_loop().create_future()


async def _forgotten() -> tuple[list[str], list[str]]:
    """What is complained of and what still runs once nobody holds a stream any more."""
    complaints: list[str] = []
    asyncio.get_running_loop().set_exception_handler(
        lambda _, what: complaints.append(what["message"])
    )
    held: list[Any] = [_stream(_tells_once)]
    await anext(held[0])
    held.append(held)  # as what answers a page does: it is let go of all at once
    del held
    gc.collect()
    async with asyncio.timeout(20):
        while len(asyncio.all_tasks()) > 1:
            await asyncio.sleep(0)
    gc.collect()
    return complaints, [str(t) for t in asyncio.all_tasks() if t is not asyncio.current_task()]


def test_a_page_that_is_forgotten_is_let_go_of_in_peace() -> None:
    with ThreadPoolExecutor(1) as pool:
        assert pool.submit(asyncio.run, _forgotten()).result() == ([], [])


async def _stopped(url: str) -> Happenings:
    happenings = Happenings(url)
    running = asyncio.create_task(happenings.run())
    async with asyncio.timeout(30):
        while not happenings.hears:
            await asyncio.sleep(0.01)
    running.cancel()
    await asyncio.gather(running, return_exceptions=True)
    return happenings


def test_what_was_stopped_does_not_say_that_it_hears(cluster_url: str) -> None:
    """Nor when it starts again, before it does: what happened then would be told to nobody."""
    with ThreadPoolExecutor(1) as pool:
        assert not pool.submit(asyncio.run, _stopped(cluster_url)).result().hears


@pytest.mark.parametrize("payload", ["", "beat 7", "drop table", "build", "people - x y z"])
def test_a_notice_that_says_nothing_harms_nobody(payload: str) -> None:
    told = read_notice(payload)
    assert told is None or told.what in ("build", "people")
