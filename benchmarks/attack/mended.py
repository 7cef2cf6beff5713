"""What an operator would hit in the first week, once more: rights in the database, a whole shop behind one
address, links, days, archives, photos, roles, uploads."""

from __future__ import annotations

import base64
import http.client
import io
import json
import re
import uuid
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from random import Random

from PIL import Image
from sqlalchemy import create_engine, delete, select, text
from sqlalchemy.exc import DBAPIError

from benchmarks.attack.place import Counted, Place, new_visit
from benchmarks.browser import PASSWORD, Browser
from plentar.store.accounts import make_account
from plentar.store.models import Account, Shop, SignInTry
from plentar.web.config import Config
from plentar.web.factory import create_app
from plentar.web.roles import LEADS

STATEMENTS = (
    "copy shop to program 'true'",
    "copy shop to '/tmp/shop'",
    "select pg_read_file('/etc/passwd')",
    "create table own (id int)",
    "drop table visit_event",
    "truncate visit_event",
    "alter role current_user superuser",
    "update alembic_version set version_num = '0001'",
    "create function own() returns int language sql as 'select 1'",
)
DAYS = ("0026-01-01", "1969-12-31", "2300-01-01", "9999-12-31")
PEOPLE, FLIPPED, BITS, HIDDEN = 15, 60, 20, b"hidden in a segment"
_OK, _FOUND, _FORBIDDEN, _UNFIT, _TOO_LARGE, _CRASH = 200, 302, 403, 422, 413, 500


def mended(there: Place, seed: int) -> Counted:
    """Each by itself; what passes that should not is wrong."""
    result = Counted()
    lead = _lead(there)
    parts: tuple[tuple[str, Callable[[], Iterator[tuple[bool, str]]]], ...] = (
        ("rights in the database refused", lambda: _rights(there)),
        ("sign-ins of one shop at once", lambda: _sign_ins(there)),
        ("older and deactivated links that open nothing", lambda: _links(there, lead)),
        ("days and numbers of no use complained of", lambda: _days(lead)),
        ("archives with flipped bits", lambda: _archives(lead, Random(seed))),
        ("bytes beside a photo's pixels gone", lambda: _photos(there)),
        ("leads' routes closed to a technician", lambda: _roles(there)),
        ("uploads over their limit answered", lambda: _uploads(lead)),
    )
    for name, part in parts:
        found = list(part())
        result.wrong += [f"{name}: {what}" for held, what in found if not held]
        result.lines.append(f"{name}: {sum(held for held, _ in found)} of {len(found)}")
    return result


def _lead(there: Place) -> Browser:
    browser, _ = there.somebody("lead")
    with there.sessions() as session:
        account = session.scalars(select(Account).where(Account.login == browser.login)).one()
        account.role = "lead"
        session.commit()
    return browser


def _rights(there: Place) -> Iterator[tuple[bool, str]]:
    engine = create_engine(there.url)
    for statement in STATEMENTS:
        with engine.connect() as connection:
            try:
                connection.execute(text(statement))
                yield False, statement
            except DBAPIError as error:
                yield "permission denied" in str(error) or "must be" in str(error), f"{statement}: {error}"
    engine.dispose()


def _sign_ins(there: Place) -> Iterator[tuple[bool, str]]:
    logins = [there.somebody(f"early{n}", 1)[0].login for n in range(PEOPLE)]

    def sign_in(login: str) -> tuple[bool, str]:
        browser = Browser(there.port)
        browser.token_from("/sign-in")
        answer = browser.post("/sign-in", login=login, password=PASSWORD)
        return answer.status == _FOUND, f"{login}: {answer.status}"

    with ThreadPoolExecutor(PEOPLE) as pool:
        yield from pool.map(sign_in, logins)


def _links(there: Place, lead: Browser) -> Iterator[tuple[bool, str]]:
    def change(account: uuid.UUID, what: str) -> str:
        body = f"csrf_token={lead.token}&what={what}&again={PASSWORD.replace(' ', '+')}"
        _, page = lead.ask("POST", f"/shop/people/{account}", body)
        found = re.search(r"/password/[^\s<\"]+", page)
        return found[0] if found else ""

    def opens(link: str) -> bool:
        return 'autocomplete="new-password"' in Browser(there.port).get(link)

    with there.sessions() as session:
        shop = session.scalars(select(Shop).join(Account).where(Account.login == lead.login)).one()
        person = make_account(session, shop, f"new-{uuid.uuid4().hex[:8]}", "New", None)
        session.execute(delete(SignInTry))
        session.commit()
        account = person.id
    first, second = change(account, "link"), change(account, "link")
    yield bool(first and second) and not opens(first), "the older of two links"
    yield opens(second), "the newer of two links"
    change(account, "let-go")
    yield not opens(second), "the link of somebody who was let go"
    change(account, "let-in")
    yield not opens(second), "the same once they are back"


def _days(lead: Browser) -> Iterator[tuple[bool, str]]:
    for day in DAYS:
        for path in (
            f"/search?until={day}",
            f"/search?since={day}",
            f"/search.csv?until={day}",
            f"/board?before={day}",
        ):
            status = lead.ask("GET", path)[0].status
            yield status < _CRASH, f"{path}: {status}"
        status = lead.post("/rounds", title=f"r{day}", due_on=day).status
        yield status == _UNFIT, f"/rounds {day}: {status}"
    for number in ("inf", "nan", "1e999", "-1"):
        status = lead.ask("GET", f"/search?more={number}&after={number}")[0].status
        yield status < _CRASH, f"after={number}: {status}"


def _form(name: str, file: str, raw: bytes, **fields: str) -> tuple[bytes, dict[str, str]]:
    mark = uuid.uuid4().hex
    said = b"".join(
        f'--{mark}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode()
        for key, value in fields.items()
    )
    head = f'--{mark}\r\nContent-Disposition: form-data; name="{name}"; filename="{file}"\r\n\r\n'.encode()
    return said + head + raw + f"\r\n--{mark}--\r\n".encode(), {
        "Content-Type": f"multipart/form-data; boundary={mark}"
    }


def _archives(lead: Browser, draw: Random) -> Iterator[tuple[bool, str]]:
    whole = _raw(lead, "/shop/archive.zip")
    for number in range(FLIPPED):
        bent = bytearray(whole)
        for _ in range(BITS):
            bent[draw.randrange(len(bent))] ^= 1 << draw.randrange(8)
        body, headers = _form("archive", "a.zip", bytes(bent), csrf_token=lead.token, dry="yes")
        status = lead.ask("POST", "/shop/archive", body, headers)[0].status
        yield status in (_OK, _FOUND, _UNFIT), f"archive {number}: {status}"


def _raw(browser: Browser, path: str) -> bytes:
    connection = http.client.HTTPConnection("127.0.0.1", browser._port, timeout=60)
    connection.request("GET", path, headers={"Cookie": browser._cookie})
    raw = connection.getresponse().read()
    connection.close()
    return raw


def _photos(there: Place) -> Iterator[tuple[bool, str]]:
    browser, units = there.somebody("photos", 2)
    bench = new_visit(browser, units[0])
    made = io.BytesIO()
    Image.new("RGB", (320, 240), "teal").save(made, "JPEG", comment=HIDDEN)
    assert HIDDEN in made.getvalue()
    body, headers = _form(
        "photo",
        "a.jpg",
        made.getvalue(),
        csrf_token=browser.token,
        client_id=str(uuid.uuid4()),
        shows="before",
    )
    status = browser.ask("POST", f"{bench}/photos", body, headers)[0].status
    yield status == _FOUND, f"photo: {status}"
    file = json.loads(browser.get(f"{bench}/visit.json"))
    (photo,) = file["visit"]["photos"]
    yield HIDDEN not in base64.b64decode(photo["jpeg"]), "hidden bytes of an upload"
    photo |= {"jpeg": base64.b64encode(made.getvalue()).decode(), "key": "0" * 64}
    body, headers = _form("file", "v.json", json.dumps(file).encode(), csrf_token=browser.token)
    answer = browser.ask("POST", f"/units/{units[1]}/import", body, headers)[0]
    taken = re.search(r"/visits/[0-9a-f-]+", answer.headers["Location"] or "")
    yield taken is not None, f"visit file: {answer.status}"
    if taken:
        (again,) = json.loads(browser.get(f"{taken[0]}/visit.json"))["visit"]["photos"]
        yield HIDDEN not in base64.b64decode(again["jpeg"]), "hidden bytes of a visit file"
        yield again["key"] != "0" * 64, "a key of a file's own choosing"


def _roles(there: Place) -> Iterator[tuple[bool, str]]:
    browser, _ = there.somebody("technician")
    app = create_app(Config(there.url, "x" * 40))
    for rule in app.url_map.iter_rules():
        if rule.endpoint in LEADS:
            values = {name: str(uuid.uuid4()) for name in rule.arguments}
            path = app.url_map.bind("localhost").build(rule.endpoint, values)
            for method in sorted((rule.methods or set()) & {"GET", "POST"}):
                status = browser.ask(method, path, f"csrf_token={browser.token}" if method == "POST" else "")[
                    0
                ].status
                yield status == _FORBIDDEN, f"{method} {path}: {status}"


def _uploads(lead: Browser) -> Iterator[tuple[bool, str]]:
    for path, name in (("/units/import", "file"), ("/shop/units", "units"), ("/sign-in", "login")):
        body, headers = _form(name, "big", b"x" * 30_000_000, csrf_token=lead.token)
        try:
            status = lead.ask("POST", path, body, headers)[0].status
        except (OSError, http.client.HTTPException) as error:
            yield False, f"{path}: {error}"
            continue
        yield status in (_TOO_LARGE, _UNFIT), f"{path}: {status}"
