"""What never reaches a page: hosts and paths of unusual shape, words of those who are no proxy."""

from __future__ import annotations

import pytest
from sqlalchemy import select

from plentar.store.models import SignInTry
from plentar.web.config import Config
from plentar.web.factory import create_app


@pytest.fixture(scope="module")
def behind(database_url):
    made = create_app(
        Config(database_url, "x" * 40, secure_cookies=True, hosts=("plentar.example",), proxies=("10.0.0.9",))
    )
    made.config.update(TESTING=True, WTF_CSRF_ENABLED=False)
    yield made
    made.extensions["plentar_sessions"].kw["bind"].dispose()


@pytest.mark.parametrize(
    ("host", "code"),
    [
        ("localhost", 200),
        ("127.0.0.1:8000", 200),
        ("evil.example", 400),
        ("", 400),
        ("localhost.evil.example", 400),
        ("localhost, evil.example", 400),
        ("a b", 400),
        ("@localhost", 400),
        ("localhost:80:80", 400),
        ("x" * 5000, 400),
    ],
)
def test_only_the_names_that_it_is_called_by(app, host, code):
    answer = app.test_client().get("/quick", headers={"Host": host})
    assert answer.status_code == code


@pytest.mark.parametrize("path", ["//evil.example/", "/quick//", "/a\\b", "/\r\nX: y", "/visits//x"])
def test_paths_of_unusual_shape_are_refused(app, path):
    answer = app.test_client().open("/", environ_overrides={"PATH_INFO": path})
    assert answer.status_code == 400
    assert "Location" not in answer.headers


def test_no_prefix(app):
    answer = app.test_client().get("/quick", environ_overrides={"SCRIPT_NAME": "/evil"})
    assert answer.status_code == 400


@pytest.mark.parametrize(("address", "code"), [("10.0.0.9", 200), ("10.0.0.8", 400)])
def test_forwarded_headers_count_from_the_proxy_alone(behind, address, code):
    headers = {
        "Host": "127.0.0.1:8000",
        "X-Forwarded-Host": "plentar.example",
        "X-Forwarded-For": "203.0.113.5",
        "X-Forwarded-Proto": "https",
    }
    answer = behind.test_client().get("/quick", headers=headers, environ_overrides={"REMOTE_ADDR": address})
    assert answer.status_code == code
    if code == 200:
        assert "max-age" in answer.headers["Strict-Transport-Security"]


def test_the_address_behind_the_proxy_is_the_one_that_is_counted(behind, somebody, session):
    me = somebody()
    headers = {"Host": "plentar.example", "X-Forwarded-For": "198.51.100.7"}
    for address in ("10.0.0.9", "10.0.0.8"):
        behind.test_client().post(
            "/sign-in",
            data={"login": me.account.login, "password": "wrong wrong"},
            headers=headers,
            environ_overrides={"REMOTE_ADDR": address},
        )
    session.rollback()
    seen = session.scalars(select(SignInTry.address).where(SignInTry.login == me.account.login))
    assert sorted(seen) == ["10.0.0.8", "198.51.100.7"]


def test_cookies_are_secure_where_the_session_is(behind):
    answer = behind.test_client().post("/theme", data={"theme": "dark"}, headers={"Host": "plentar.example"})
    assert all("Secure" in cookie for cookie in answer.headers.getlist("Set-Cookie"))
