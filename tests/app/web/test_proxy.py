"""The server as it is installed: behind the proxy that ships, and alone before slow clients."""

from __future__ import annotations

import http.client
import os
import re
import shutil
import signal
import socket
import ssl
import subprocess
import time
import uuid
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import closing, contextmanager
from pathlib import Path
from urllib.parse import urlencode

import pytest
from sqlalchemy import select

from plentar.operate.proxy import configuration
from plentar.store.cluster import free_port
from plentar.store.models import SignIn
from plentar.web.server import gunicorn_command
from plentar.web.worker import PATIENCE_S
from tests.app.conftest import PASSWORD

pytestmark = pytest.mark.slow
NAME = "plentar.example"


def proxy_conf(folder: Path, port: int, plain: int, app: int) -> str:
    """The configuration that the program prints, with this machine's ports and folders in it."""
    text = configuration(NAME, app, f"{folder}/certificate.pem", f"{folder}/key.pem")
    temp = "".join(
        f"    {kind}_temp_path {folder}/{kind};\n"
        for kind in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    for old, new in (
        ("listen 443", f"listen 127.0.0.1:{port}"),
        ("listen 80", f"listen 127.0.0.1:{plain}"),
        ("/run/nginx.pid", f"{folder}/pid"),
        ("/var/log/nginx", str(folder)),
        ("http {\n", f"http {{\n{temp}"),
    ):
        assert old in text, old
        text = text.replace(old, new)
    return text


@pytest.fixture(scope="module")
def folder(tmp_path_factory) -> Path:
    """Of an nginx, with a certificate."""
    made = tmp_path_factory.mktemp("nginx")
    made.chmod(0o777)  # its workers are nobody, and put large bodies there
    asked = ["req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2"]
    named = ["-subj", f"/CN={NAME}", "-addext", f"subjectAltName=DNS:{NAME}"]
    to = ["-keyout", str(made / "key.pem"), "-out", str(made / "certificate.pem")]
    subprocess.run(["openssl", *asked, *named, *to], check=True, capture_output=True)
    return made


@contextmanager
def proxying(folder: Path, app_port: int) -> Iterator[int]:
    """An nginx before whatever listens at this port; its own port."""
    port, plain = free_port(), free_port()
    conf = folder / "nginx.conf"
    conf.write_text(proxy_conf(folder, port, plain, app_port))
    nginx = shutil.which("nginx") or "/usr/sbin/nginx"
    run = [nginx, "-p", str(folder), "-c", str(conf), "-e", f"{folder}/error.log"]
    checked = subprocess.run([*run, "-t"], check=False, capture_output=True, text=True)
    assert checked.returncode == 0, checked.stderr
    started = subprocess.Popen([*run, "-g", "daemon off;"])
    try:
        wait_for(lambda: ask(port, "GET", "/static/plentar.css")[0].status == 200)
        yield port
    finally:
        started.terminate()
        started.wait()


@pytest.fixture(scope="module")
def proxy(database_url, folder) -> Iterator[int]:
    """The port of an nginx with the application behind it."""
    app_port = free_port()
    env = {"PLENTAR_HOSTS": NAME, "PLENTAR_PROXIES": "127.0.0.1", "PLENTAR_SECURE_COOKIES": "1"}
    with served(database_url, app_port, env), proxying(folder, app_port) as port:
        yield port


@contextmanager
def served(database_url: str, port: int, env: dict[str, str]) -> Iterator[None]:
    given = os.environ | {"PLENTAR_DATABASE_URL": database_url, "PLENTAR_SECRET_KEY": "x" * 40} | env
    process = subprocess.Popen(gunicorn_command(port), env=given, start_new_session=True)
    try:
        wait_for(lambda: plain_ask(port, "/health/live") == 200)
        yield
    finally:
        os.killpg(process.pid, signal.SIGTERM)
        process.wait()


def wait_for(done) -> None:
    until_s = time.monotonic() + 60
    while True:
        try:
            if done():
                return
        except OSError:
            pass
        assert time.monotonic() < until_s
        time.sleep(0.1)


def plain_ask(port: int, path: str) -> int:
    with closing(http.client.HTTPConnection("127.0.0.1", port, timeout=30)) as asked:
        asked.request("GET", path)
        return asked.getresponse().status


def ask(port, method, path, body="", host=NAME, **headers):
    """One request over TLS; the certificate is the test's own."""
    with closing(tls(port)) as asked:
        form = {"Content-Type": "application/x-www-form-urlencoded"} if body else {}
        asked.request(method, path, body or None, {"Host": host} | form | headers)
        answer = asked.getresponse()
        return answer, answer.read().decode()


def tls(port: int) -> http.client.HTTPSConnection:
    trusting = ssl.create_default_context()
    trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE
    return http.client.HTTPSConnection("127.0.0.1", port, timeout=30, context=trusting)


def sign_in(port, login, host=NAME, **headers):
    """The session's cookie and a token for forms."""
    answer, page = ask(port, "GET", "/sign-in", host=host, **headers)
    cookie = answer.headers["Set-Cookie"].split(";")[0]
    form = {"csrf_token": token(page), "login": login, "password": PASSWORD}
    headers |= {"Referer": f"https://{host}/sign-in"}
    for _ in range(3):
        answer, _ = ask(port, "POST", "/sign-in", urlencode(form), host=host, Cookie=cookie, **headers)
        if answer.status != 503:
            break
        time.sleep(float(answer.headers["Retry-After"]))  # the machine is busy, and says when to come again
    assert answer.status == 302 and answer.headers["Location"] == "/"
    assert "Secure" in answer.headers["Set-Cookie"]
    cookie = answer.headers["Set-Cookie"].split(";")[0]
    answer, page = ask(port, "GET", "/account", host=host, Cookie=cookie)
    return answer.headers["Set-Cookie"].split(";")[0], token(page)


def token(page: str) -> str:
    return re.search(r'name="csrf_token" value="([^"]+)"', page)[1]


def test_a_reading_goes_through_and_who_sent_it_is_not_who_it_says(proxy, somebody, session, stored):
    me = somebody()
    bench = me.start_visit()
    cookie, csrf = sign_in(proxy, me.account.login, **{"X-Forwarded-For": "203.0.113.9"})
    form = {
        "csrf_token": csrf,
        "client_id": str(uuid.uuid4()),
        "at": "C1",
        "quantity": "volts",
        "value": "240",
    }
    answer, _ = ask(
        proxy,
        "POST",
        f"{bench}/readings",
        urlencode(form),
        Cookie=cookie,
        Referer=f"https://{NAME}{bench}",
        **{"HX-Request": "true"},
    )
    assert answer.status == 200
    assert [e.body["value"] for e in stored(bench)] == [240]
    assert "max-age" in answer.headers["Strict-Transport-Security"]
    addresses = session.scalars(select(SignIn.address).where(SignIn.account_id == me.account.id))
    assert "203.0.113.9" not in set(addresses)


def test_the_proxy_serves_what_never_changes_and_no_other_name(proxy):
    answer, page = ask(proxy, "GET", "/static/plentar.css")
    assert answer.status == 200 and len(page) > 1000
    assert "gunicorn" not in (answer.headers["Server"] or "")
    answer, page = ask(proxy, "GET", "/", host="evil.example")
    assert answer.status == 421 and "not one that Plentar is called by" in page
    assert ask(proxy, "GET", "/quick?kw=5&volts=240&measured=208")[0].status == 200


def test_fifteen_people_behind_one_address_sign_in_at_once(proxy, somebody):
    """By its name and its port, as a browser sends them where the port is not the usual one."""
    people = [somebody().account.login for _ in range(15)]
    with ThreadPoolExecutor(len(people)) as pool:
        signed = list(pool.map(lambda login: sign_in(proxy, login, host=f"{NAME}:{proxy}"), people))
    assert len({cookie for cookie, _ in signed}) == len(people)


def test_what_the_proxy_refuses_is_said_in_our_words_and_what_we_take_it_lets_through(proxy):
    answer, page = ask(proxy, "POST", "/sign-in", "x" * 27_000_000)
    assert answer.status == 413 and "Too large" in page and "Demasiado grande" in page
    assert answer.headers["X-Content-Type-Options"] == "nosniff"
    answer, page = ask(proxy, "POST", "/shop/archive", "x" * 27_000_000)
    assert answer.status != 413 and "Too large" not in page, "an archive may be that large"
    with ThreadPoolExecutor(40) as pool:
        posts = list(pool.map(lambda _: ask(proxy, "POST", "/sign-in", "login=x"), range(160)))
    refused = [(answer, page) for answer, page in posts if answer.status == 429]
    assert refused, "a flood is told to wait"
    for answer, page in refused:
        assert "Not just now" in page and answer.headers["Retry-After"]
    assert all(ask(proxy, "GET", "/quick")[0].status == 200 for _ in range(80)), "reading is not counted"


def test_without_plentar_behind_it_the_proxy_says_so(folder):
    with proxying(folder, free_port()) as port:
        answer, page = ask(port, "GET", "/")
    assert answer.status == 502 and "Plentar does not answer" in page and "Plentar no" in page


def test_static_files_have_the_headers_of_pages_and_come_compressed(proxy):
    static, _ = ask(proxy, "GET", "/static/plentar.css")
    page, _ = ask(proxy, "GET", "/quick")
    for name in (
        "Content-Security-Policy",
        "X-Content-Type-Options",
        "Referrer-Policy",
        "Cross-Origin-Opener-Policy",
        "Permissions-Policy",
        "Strict-Transport-Security",
    ):
        assert static.headers[name] == page.headers[name], name
    with closing(tls(proxy)) as asked:
        asked.request("GET", "/static/plentar.css", headers={"Host": NAME, "Accept-Encoding": "gzip"})
        assert asked.getresponse().headers["Content-Encoding"] == "gzip"


def test_slow_clients_keep_the_proxy_waiting_and_nobody_else(proxy):
    """Far more half-sent requests and idle connections than the server has threads."""
    trusting = ssl.create_default_context()
    trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE
    held = []
    try:
        for number in range(55):
            wire = trusting.wrap_socket(socket.create_connection(("127.0.0.1", proxy)))
            if number % 2:
                wire.sendall(
                    b"POST /sign-in HTTP/1.1\r\nHost: plentar.example\r\nContent-Length: 900\r\n\r\nx"
                )
            held.append(wire)
        held += [socket.create_connection(("127.0.0.1", proxy)) for _ in range(600)]
        began_s = time.monotonic()
        for _ in range(5):
            assert ask(proxy, "GET", "/health/ready")[0].status in (200, 429)
        assert time.monotonic() - began_s < 10
    finally:
        for wire in held:
            wire.close()


def test_alone_the_server_gives_slow_clients_up(database_url):
    port = free_port()
    with served(database_url, port, {}):
        half = b"POST /sign-in HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 900\r\n\r\nx"
        held = []
        for number in range(1200):
            wire = socket.create_connection(("127.0.0.1", port))
            if number < 40:  # more than all workers have threads
                wire.sendall(half)
            held.append(wire)
        try:
            began_s = time.monotonic()
            assert plain_ask(port, "/health/live") == 200
            assert time.monotonic() - began_s < 2 * PATIENCE_S + 5
        finally:
            for wire in held:
                wire.close()


def test_a_stream_comes_as_it_goes(proxy, somebody):
    me = somebody()
    bench = me.start_visit()
    cookie, _ = sign_in(proxy, me.account.login)
    trusting = ssl.create_default_context()
    trusting.check_hostname, trusting.verify_mode = False, ssl.CERT_NONE
    with trusting.wrap_socket(socket.create_connection(("127.0.0.1", proxy))) as wire:
        wire.settimeout(20)
        wire.sendall(f"GET {bench}/clamp HTTP/1.1\r\nHost: {NAME}\r\nCookie: {cookie}\r\n\r\n".encode())
        got = b""
        while got.count(b"data:") < 4:
            got += wire.recv(4096)
    assert b"text/event-stream" in got
