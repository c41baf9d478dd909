"""The start command for real: side by side, refusals, and nothing left running."""

import multiprocessing
import os
import shutil
import signal
import ssl
import subprocess
import sys
import time
from collections.abc import Iterator
from hashlib import sha256
from pathlib import Path
from uuid import uuid4

import httpx
import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import OperationalError

from tests.builders import at_revision, wait_for, web
from tests.conftest import scratch_folder
from tests.standins import own_port
from vivid_arm import __main__ as command
from vivid_arm.records import archive, database
from vivid_arm.records.backup import manifest_of
from vivid_arm.records.cluster import running_cluster, url_of_running

ROOT = Path(__file__).parents[2]
pytestmark = pytest.mark.slow


_SERVED: dict[str, subprocess.Popen[str]] = {}
"""By its port, what was last started on it."""


def serve(*options: str) -> subprocess.Popen[str]:
    env = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    process = subprocess.Popen(
        [sys.executable, "-m", "vivid_arm", "serve", *options],
        cwd=ROOT, env=env, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip
    if "--port" in options:
        _SERVED[options[options.index("--port") + 1]] = process
    return process


def wait_healthy(port: int) -> None:
    """Raises AssertionError with what the process has said, where it has ended."""
    process, last = _SERVED.get(str(port)), "no answer"
    for _ in range(300):
        try:
            answer = web.get(f"http://127.0.0.1:{port}/api/health")
            if answer.status_code == 200:
                return
            last = f"{answer.status_code}: {answer.text}"
        except httpx.TransportError as error:
            last = repr(error)
        if process is not None and process.poll() is not None:
            raise AssertionError(f"ended: {process.stdout.read() if process.stdout else ''}")
        time.sleep(0.2)
    raise AssertionError(f"never healthy: {last}")


def line_of(pid: int | str) -> str:
    """The command line of a process; empty where it has ended."""
    try:
        return Path(f"/proc/{pid}/cmdline").read_text().replace("\0", " ")
    except OSError:
        return ""


def children_of(pid: int) -> list[int]:
    return [int(x) for x in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]


def holders(folder: Path) -> list[str]:
    """Command lines of processes that name a folder."""
    others = [p.name for p in Path("/proc").glob("[0-9]*") if p.name != str(os.getpid())]
    return [line for line in map(line_of, others) if str(folder) in line]


@pytest.fixture(scope="module")
def made() -> Iterator[Path]:
    """The folder of a demo shop, made once by the command."""
    with scratch_folder() as folder:
        code, said = outcome("demo", data=folder / "d")
        assert code == 0, said
        yield folder / "d"


@pytest.fixture
def demo_shop(made: Path, scratch: Path) -> Path:
    """A copy of it for one test; nothing of it has been opened since it was made."""
    subprocess.run(["cp", "-a", str(made), str(scratch / "d")], check=True)
    return scratch / "d"


@pytest.mark.parametrize("stop", [signal.SIGINT, signal.SIGTERM, signal.SIGHUP])
def test_two_copies_side_by_side_and_a_clean_stop(scratch: Path, stop: signal.Signals) -> None:
    ports = [own_port(), own_port()]
    running = [
        serve("--data", str(scratch / str(n)), "--port", str(port), *extra)
        for n, (port, extra) in enumerate(zip(ports, ([], ["--no-demo"]), strict=True))
    ]
    try:
        for port in ports:
            wait_healthy(port)
        counts = [web.get(f"http://127.0.0.1:{p}/api/builds").json()["total"] for p in ports]
        assert counts == [12, 0]
    finally:
        for process in running:
            process.send_signal(stop)
        for process in running:
            process.wait(timeout=30)
    assert holders(scratch) == []


def run_command(url: str, *options: str) -> None:
    os.environ["DATABASE_URL"] = url
    sys.argv = ["vivid_arm", *options]
    command.main()


def test_twenty_stops_in_a_row_all_end(scratch: Path, cluster_url: str, engine: Engine) -> None:
    """Every signal takes the server's own way out, whatever the event loop is at."""
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload([__name__, "vivid_arm.api.app"])
    signals = [signal.SIGHUP, signal.SIGTERM, signal.SIGHUP, signal.SIGINT, signal.SIGHUP]
    for round_ in range(4):
        ports = [own_port() for _ in signals]
        running = [
            context.Process(
                target=run_command,
                args=(cluster_url, "serve", "--data", str(scratch / "d"), "--port", str(port),
                      "--no-demo", "--no-standins"),
            )
            for port in ports
        ]  # fmt: skip
        try:
            for process in running:
                process.start()
            for port in ports:
                wait_healthy(port)
            for process, stop in zip(running, signals, strict=True):
                os.kill(process.pid or 0, stop)
            for process in running:
                process.join(timeout=30)
            codes = [process.exitcode for process in running]
        finally:
            for process in running:
                process.kill()
        assert codes == [129, 143, 129, 0, 129], f"round {round_}"


def postgres_of(folder: Path) -> list[int]:
    """The private server's processes."""
    first = int((folder / "postgres" / "postmaster.pid").read_text().splitlines()[0])
    return [first, *children_of(first)]


@pytest.mark.parametrize(("workers", "code"), [("1", 143), ("2", 0)])
def test_a_database_that_stands_still_hangs_nobody(
    scratch: Path, demo_shop: Path, workers: str, code: int
) -> None:
    """Pages answer, requests are told to come back, and the stop ends all the same."""
    port, data = own_port(), demo_shop
    process = serve("--data", str(data), "--port", str(port), "--no-standins", "--workers", workers)
    url = f"http://127.0.0.1:{port}"
    try:
        wait_healthy(port)
        for pid in postgres_of(data):
            os.kill(pid, signal.SIGSTOP)
        with httpx.Client(base_url=url, trust_env=False, timeout=30) as http:
            for address in ("/api/builds", "/api/health", "/api/instruments"):
                began = time.monotonic()
                answer = http.get(address)
                assert answer.status_code == 503, address
                assert time.monotonic() - began < 20, address
            assert http.get("/api/builds").headers["retry-after"] == "3"
            began = time.monotonic()
            assert '<div id="app">' in http.get("/builds/x/order").text
            assert time.monotonic() - began < 5
        process.send_signal(signal.SIGTERM)
        assert process.wait(timeout=30) == code
        assert holders(scratch) == []
    finally:
        process.kill()
    again = serve("--data", str(data), "--port", str(port), "--no-standins")
    try:
        wait_healthy(port)
        assert web.get(f"{url}/api/builds").json()["total"] == 12
    finally:
        again.send_signal(signal.SIGTERM)
        again.wait(timeout=30)


def workers_of(parent: int) -> list[int]:
    """The processes that answer for a shop."""
    return [pid for pid in children_of(parent) if "spawn_main" in line_of(pid)]


def gone(pid: int) -> bool:
    """Ended, or waiting only for someone to notice."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] == "Z"
    except OSError:
        return True


def test_after_an_update_the_board_is_worked_out_anew_unasked(scratch: Path) -> None:
    data = scratch / "d"
    assert outcome("seed", "--builds", "30", data=data)[0] == 0
    with running_cluster(data) as url:
        engine = database.connect(url)
        with engine.begin() as connection:
            connection.execute(text("UPDATE summaries SET stamp = 'of another program'"))
        engine.dispose()
    parent = serve("--data", str(data), "--port", str(own_port()), "--no-standins")
    try:
        wait_for(lambda: _stale(data) == 0)
    finally:
        parent.send_signal(signal.SIGTERM)
        parent.wait(timeout=15)


def _stale(data: Path) -> int | None:
    """How many rows of the board another program left; None while the database is not up."""
    engine = database.connect(url_of_running(data) or "postgresql+psycopg://127.0.0.1:1/none")
    query = "SELECT count(*) FROM summaries WHERE stamp = 'of another program'"
    try:
        with engine.begin() as connection:
            return connection.execute(text(query)).scalar_one()
    except OperationalError:
        return None
    finally:
        engine.dispose()


@pytest.mark.parametrize("stop", [signal.SIGHUP, signal.SIGKILL])
def test_several_processes_are_one_shop(demo_shop: Path, stop: signal.Signals) -> None:
    """A reading kept by one is seen by the other; one killed comes again; all leave together."""
    port, data = own_port(), demo_shop
    parent = serve("--data", str(data), "--port", str(port), "--no-standins", "--workers", "2")
    url, held = f"http://127.0.0.1:{port}", [httpx.Client(trust_env=False) for _ in range(12)]
    try:
        wait_healthy(port)
        wait_for(lambda: len(workers_of(parent.pid)) == 2)
        build = web.get(f"{url}/api/builds").json()["builds"][0]["id"]
        valve = web.get(f"{url}/api/builds/{build}").json()["valves"][0]["id"]
        station = f"{url}/api/builds/{build}/valves/{valve}"
        for n, client in enumerate(held, 1):
            trial = {"key": str(uuid4()), "setting": "9", "feel": "loose"}
            kept = client.post(f"{station}/trials", json=trial, timeout=30).json()
            seen = [c.get(station, timeout=30).json()["log"] for c in held]
            assert all(log == kept["log"] for log in seen), n
        before = workers_of(parent.pid)
        os.kill(before[0], signal.SIGKILL)
        wait_for(lambda: len(set(workers_of(parent.pid)) - set(before)) == 1)
        wait_healthy(port)
        assert len(web.get(station, timeout=30).json()["log"]) == len(kept["log"])
        last = workers_of(parent.pid)
    finally:
        parent.send_signal(stop)
        parent.wait(timeout=15)
    wait_for(lambda: all(gone(pid) for pid in last))


@pytest.mark.parametrize("host", ["0.0.0.0", "192.168.1.5", "::", "bench.example"])
def test_open_addresses_are_refused(scratch: Path, host: str) -> None:
    out, _ = (process := serve("--data", str(scratch), "--host", host)).communicate(timeout=30)
    assert process.returncode == 2
    assert "not a loopback address" in out
    assert "Start with --people" in out


@pytest.mark.parametrize(
    ("options", "said"),
    [
        (("--cert", "/etc/hostname"), "go together"),
        (("--cert", "/no/such", "--key", "/no/such"), "/no/such cannot be read"),
        (("--people", "--behind-proxy", "--host", "0.0.0.0"), "leave --host out"),
    ],
)
def test_half_a_door_is_refused(scratch: Path, options: tuple[str, ...], said: str) -> None:
    out, _ = (process := serve("--data", str(scratch / "d"), *options)).communicate(timeout=30)
    assert (process.returncode, said in out) == (2, True)
    assert holders(scratch) == []


def lines_until(process: "subprocess.Popen[str]", wanted: str) -> list[str]:
    """What a start says, up to the line that holds some words."""
    said: list[str] = []
    for line in process.stdout or ():
        said.append(line.strip())
        if wanted in line:
            return said
    raise AssertionError(said)


def test_off_loopback_the_shop_is_open_over_tls_to_whoever_has_the_code(scratch: Path) -> None:
    """Its fingerprint is that of the certificate it shows; the next start keeps both."""
    data, port = scratch / "d", own_port()
    options = ("--data", str(data), "--port", str(port), "--host", "0.0.0.0", "--no-standins")
    start = serve(*options, "--people", "--no-demo", "--name", "shop.example")
    try:
        said = lines_until(start, "no owner yet")
        code = said[-1].rsplit(" ", 1)[1]
        shown = next(s for s in said if "SHA-256" in s).rsplit(" ", 1)[1]
        context = ssl.create_default_context(cafile=data / "certificate" / "cert.pem")
        with httpx.Client(
            base_url=f"https://127.0.0.1:{port}", verify=context, trust_env=False, timeout=30
        ) as http:
            wait_for(lambda: _answers(http))
            assert http.get("/api/builds").status_code == 401
            body = {"code": code, "name": "Orla", "password": "three words apart"}
            told = http.post("/api/join", json=body).headers["set-cookie"]
            assert told.startswith("__Host-vivid-arm=")
            assert "Secure" in told
            assert http.get("/api/builds").status_code == 200
            strange = {"host": f"shop.example:{port}"}
            assert http.get("/api/me", headers=strange).status_code == 200
            assert http.get("/api/me", headers={"host": "else.example"}).status_code == 400
            # No proxy was told of: what says that it comes from one is not believed.
            forged = {"x-forwarded-proto": "http", "x-forwarded-for": "10.0.0.9"}
            http.post("/api/sign-out", json={})
            body = {"name": "Orla", "password": "three words apart"}
            again = http.post("/api/sign-in", json=body, headers=forged)
            assert again.headers["set-cookie"].startswith("__Host-vivid-arm=")
            assert http.get("/api/accounts").json()[0]["devices"][0]["address"] == "127.0.0.1"
        der = ssl.PEM_cert_to_DER_cert(ssl.get_server_certificate(("127.0.0.1", port)))
        assert shown.replace(":", "").lower() == sha256(der).hexdigest()
        assert (data / "certificate" / "key.pem").stat().st_mode & 0o77 == 0
    finally:
        start.send_signal(signal.SIGTERM)
        start.wait(timeout=15)
    code_again, said_again = outcome("code", "orla", data=data)
    assert (code_again, "Code for Orla" in said_again) == (0, True)
    assert outcome("code", "Nobody", data=data) == (
        1,
        "There is no account Nobody. There is: Orla\n",
    )
    second = serve(*options, "--people")
    try:
        said = lines_until(second, "SHA-256")
        assert said[-1].endswith(shown)
    finally:
        second.send_signal(signal.SIGTERM)
        second.wait(timeout=15)


def _answers(http: httpx.Client) -> bool:
    try:
        return http.get("/api/health").status_code == 200
    except httpx.TransportError:
        return False


def test_behind_a_proxy_its_word_counts(scratch: Path) -> None:
    """The cookie is one of TLS, and a sign-in comes from where the proxy says."""
    port = own_port()
    start = serve(
        "--data", str(scratch / "d"), "--port", str(port), "--no-standins", "--no-demo",
        "--people", "--behind-proxy", "--name", "shop.example",
    )  # fmt: skip
    try:
        code = lines_until(start, "no owner yet")[-1].rsplit(" ", 1)[1]
        forwarded = {
            "host": "shop.example", "x-forwarded-proto": "https", "x-forwarded-for": "10.0.0.9",
        }  # fmt: skip
        with httpx.Client(
            base_url=f"http://127.0.0.1:{port}", headers=forwarded, trust_env=False, timeout=30
        ) as http:
            wait_for(lambda: _answers(http))
            body = {"code": code, "name": "Orla", "password": "three words apart"}
            told = http.post(
                "/api/join", json=body, headers={"origin": "https://shop.example"}
            ).headers["set-cookie"]
            assert told.startswith("__Host-vivid-arm=")
            carried = {"cookie": told.split(";")[0]}
            (me,) = http.get("/api/accounts", headers=carried).json()
            assert [one["address"] for one in me["devices"]] == ["10.0.0.9"]
    finally:
        start.send_signal(signal.SIGTERM)
        start.wait(timeout=15)


def test_taken_port_is_said(live: str, scratch: Path) -> None:
    port = live.rsplit(":", 1)[1]
    out, _ = (process := serve("--data", str(scratch), "--port", port)).communicate(timeout=30)
    assert process.returncode == 1
    assert f"Port {port} is taken" in out
    assert holders(scratch) == []


def test_a_shops_own_database_is_used(scratch: Path, cluster_url: str, live: str) -> None:
    """With DATABASE_URL no private cluster is made."""
    port = own_port()
    env = os.environ | {"DATABASE_URL": cluster_url}
    process = subprocess.Popen(
        [sys.executable, "-m", "vivid_arm", "serve", "--data", str(scratch / "d"),
         "--port", str(port), "--no-demo"],
        cwd=ROOT, env=env,
    )  # fmt: skip
    try:
        wait_healthy(port)
        body = {"id": "00000000-0000-4000-8000-000000000001", "name": "Shared"}
        web.post(f"{live}/api/builds", json=body).raise_for_status()
        seen = web.get(f"http://127.0.0.1:{port}/api/builds").json()["builds"]
        assert [b["name"] for b in seen] == ["Shared"]
        assert not (scratch / "d").exists()
    finally:
        process.send_signal(signal.SIGINT)
        process.wait(timeout=30)


def test_a_step_is_due_when_its_inputs_change(scratch: Path) -> None:
    """The preparation runs a step once, and again when an input or the result changes."""
    script = f"""
        set -euo pipefail
        cd {scratch}; . {ROOT}/scripts/prepare.sh; mkdir -p .cache in; echo 1 >in/a
        run() {{ echo due; touch out; done_with step in; }}
        ask() {{ if due step out in; then run; else echo no; fi; }}
        ask; ask; echo 2 >in/a; ask; ask; rm out; ask; touch in/b; ask; mv in/b in/c; ask; ask
    """
    done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=True)
    assert done.stdout.split() == ["due", "no", "due", "no", "due", "due", "due", "no"]


def test_an_environment_is_made_with_debians_python_or_else_with_what_can_make_one() -> None:
    """A ``python3.11`` that cannot make environments is passed over wherever it stands."""
    script = f". {ROOT}/scripts/prepare.sh; python311"
    done = subprocess.run(["bash", "-c", script], capture_output=True, text=True, check=True)
    script = "/usr/bin/python3.11 -c 'import ensurepip' 2>/dev/null"
    debians = subprocess.run(["bash", "-c", script], check=False)
    assert done.stdout == ("python3.11" if debians.returncode else "/usr/bin/python3.11")
    subprocess.run([done.stdout, "-c", "import ensurepip"], check=True)


def test_start_names_the_one_line_a_normal_user_must_run(scratch: Path) -> None:
    """With dpkg knowing no package and no sudo, the script stops with the line to run."""
    fake = scratch / "bin"
    fake.mkdir()
    for name in ("dpkg-query", "sudo"):
        (fake / name).write_text("#!/bin/sh\nexit 1\n")
        (fake / name).chmod(0o755)
    (fake / "id").write_text("#!/bin/sh\necho 1000\n")
    (fake / "id").chmod(0o755)
    env = os.environ | {"PATH": f"{fake}:{os.environ['PATH']}"}
    done = subprocess.run(
        ["./start"], cwd=ROOT, env=env, capture_output=True, text=True, check=False
    )
    assert done.returncode == 1
    assert "sudo apt-get update && sudo apt-get install" in done.stdout
    assert "postgresql" in done.stdout


def outcome(*words: str, data: Path) -> tuple[int, str]:
    """A command of the program run to its end: code and what it said."""
    env = {k: v for k, v in os.environ.items() if k != "DATABASE_URL"}
    done = subprocess.run(
        [sys.executable, "-m", "vivid_arm", *words, "--data", str(data)],
        cwd=ROOT, env=env, capture_output=True, text=True, check=False, timeout=300,
    )  # fmt: skip
    return done.returncode, done.stdout + done.stderr


def names(port: int) -> list[str]:
    board = web.get(f"http://127.0.0.1:{port}/api/builds").json()
    return sorted(build["name"] for build in board["builds"])


def test_an_open_shop_is_backed_up_restored_and_proved(scratch: Path, demo_shop: Path) -> None:
    """By the commands as they are typed, beside the open shop and into another folder."""
    ports, file = [own_port(), own_port()], scratch / "kept.vivid-arm.zip"
    first = serve("--data", str(demo_shop), "--port", str(ports[0]), "--no-standins")
    second = None
    try:
        wait_healthy(ports[0])
        before = names(ports[0])
        code, said = outcome("backup", str(file), data=demo_shop)
        assert code == 0, said
        listed = web.get(f"http://127.0.0.1:{ports[0]}/api/backups").json()
        assert [b["name"][:4] for b in listed] == ["day-"]
        taken = web.get(f"http://127.0.0.1:{ports[0]}/api/backups/{listed[0]['name']}")
        assert taken.content[:2] == b"PK"
        assert outcome("verify", data=demo_shop)[0] == 0
        code, said = outcome("restore", str(file), data=demo_shop)
        assert (code, "in use" in said) == (1, True)
        assert outcome("verify", str(file), data=demo_shop)[0] == 0
        code, said = outcome("restore", str(file), data=scratch / "b")
        assert (code, "proved" in said) == (0, True), said
        second = serve("--data", str(scratch / "b"), "--port", str(ports[1]), "--no-standins")
        wait_healthy(ports[1])
        assert names(ports[1]) == before
    finally:
        for process in (first, second):
            if process is not None:
                process.send_signal(signal.SIGTERM)
                process.wait(timeout=30)
    assert outcome("restore", str(file), data=scratch / "b")[1].startswith("This shop is not empty")


def test_a_shop_whose_disk_is_lost_is_recovered_from_its_archive(scratch: Path) -> None:
    """By the commands as they are typed: everything killed, the data gone, the archive there."""
    port, data, kept = own_port(), scratch / "d", scratch / "archive"
    process = serve("--data", str(data), "--port", str(port), "--no-demo", "--no-standins",
                    "--archive", str(kept))  # fmt: skip
    try:
        wait_healthy(port)
        wait_for((kept / "base" / "backup_label").exists)
        body = {"id": "00000000-0000-4000-8000-000000000001", "name": "Last thing done"}
        web.post(f"http://127.0.0.1:{port}/api/builds", json=body).raise_for_status()
        url = url_of_running(data)
        assert url is not None
        wait_for(lambda: archive.behind_bytes(url) == 0)
    finally:
        process.kill()
        process.wait(timeout=30)
        for left in postgres_of(data):
            os.kill(left, signal.SIGKILL)
    shutil.rmtree(data)
    code, said = outcome("recover", str(kept), data=scratch / "again")
    assert (code, said.splitlines()[-1]) == (
        0,
        f"Recovered from {kept}: the shop to its last write",
    )
    assert outcome("recover", str(kept), data=scratch / "again")[0] == 1
    again = serve("--data", str(scratch / "again"), "--port", str(port), "--no-demo",
                  "--no-standins")  # fmt: skip
    try:
        wait_healthy(port)
        assert names(port) == ["Last thing done"]
    finally:
        again.send_signal(signal.SIGTERM)
        again.wait(timeout=30)
    assert holders(scratch) == []


def test_a_killed_database_stands_again_and_standins_leave_with_a_killed_shop(
    scratch: Path,
) -> None:
    port, data = own_port(), scratch / "d"
    process = serve("--data", str(data), "--port", str(port), "--no-demo")
    url = f"http://127.0.0.1:{port}"
    try:
        wait_healthy(port)
        body = {"id": "00000000-0000-4000-8000-000000000001", "name": "Before"}
        web.post(f"{url}/api/builds", json=body).raise_for_status()
        for victim in postgres_of(data):
            os.kill(victim, signal.SIGKILL)
        began = time.monotonic()
        wait_healthy(port)
        assert time.monotonic() - began < 20
        assert names(port) == ["Before"]
        standins = [p for p in children_of(process.pid) if "vivid_arm.standins" in line_of(p)]
        assert len(standins) == 2
        process.kill()
        process.wait(timeout=30)
        wait_for(lambda: not any(map(line_of, standins)))
    finally:
        process.kill()
    again = serve("--data", str(data), "--port", str(port), "--no-demo", "--no-standins")
    try:
        wait_healthy(port)
        assert names(port) == ["Before"]
    finally:
        again.send_signal(signal.SIGTERM)
        again.wait(timeout=30)
    assert holders(scratch) == []


def test_an_older_shop_is_backed_up_before_it_moves_and_a_newer_one_refused(
    demo_shop: Path,
) -> None:
    data = demo_shop
    with running_cluster(data) as url:
        engine = database.connect(url)
        at_revision(engine, "0005", down=True)
        engine.dispose()
    assert outcome("migrate", data=data)[0] == 0
    kept = list((data / "backups").iterdir())
    assert [f.name.startswith(f"before-{database.head()}-") for f in kept] == [True]
    assert manifest_of(kept[0]).migration == "0005"
    with running_cluster(data) as url:
        engine = database.connect(url)
        with engine.begin() as connection:
            connection.execute(text("UPDATE alembic_version SET version_num = '9999'"))
        engine.dispose()
    code, said = outcome("migrate", data=data)
    assert (code, "newer Vivid Arm" in said) == (1, True)


def test_a_clock_that_went_back_is_said(demo_shop: Path) -> None:
    data = demo_shop
    assert "Set the clock" not in outcome("migrate", data=data)[1]
    with running_cluster(data) as url:
        engine = database.connect(url)
        with engine.begin() as connection:
            connection.execute(text("UPDATE pulse SET at = at + interval '3 days'"))
        engine.dispose()
    assert "Set the clock" in outcome("migrate", data=data)[1]
