"""A refused form without script: the page that it was sent from, with what was typed still in it and
the complaint at its field. With script the browser does the same (``plentar.js``)."""

from __future__ import annotations

from typing import TYPE_CHECKING
from urllib.parse import urlsplit

from flask import current_app, request
from werkzeug.test import EnvironBuilder

from plentar.web.database import database

if TYPE_CHECKING:
    from bs4 import BeautifulSoup, Tag

_OK = 200


def page_again(reason: str, field: str = "") -> str | None:
    """The page that the form of this request stands on, asked for anew and filled in; None where it
    is not known, or has no such form any more."""
    shown = _page_left()
    if shown is None:
        return None
    from bs4 import BeautifulSoup  # noqa: PLC0415  (a start does not wait for what few need)

    soup = BeautifulSoup(shown, "html.parser")
    form = _form_sent(soup)
    if form is None:
        return None
    for control in form.select("input[name], select[name], textarea[name]"):
        _fill(control, request.form.getlist(str(control["name"])))
    _complain(soup, form, reason, field)
    return str(soup)


def _page_left() -> str | None:
    """What the referring page shows this browser now."""
    left = urlsplit(request.referrer or "")
    if left.netloc != request.host or request.method != "POST":
        return None
    database().rollback()
    ask = EnvironBuilder(
        left.path,
        base_url=request.host_url,
        query_string=left.query,
        headers=[("Cookie", request.headers.get("Cookie", ""))],
        environ_overrides={"REMOTE_ADDR": request.remote_addr},
    )
    with current_app.request_context(ask.get_environ()):
        answer = current_app.full_dispatch_request()
    html = answer.status_code == _OK and answer.mimetype == "text/html"
    shown = answer.get_data(as_text=True) if html else None
    answer.close()  # a stream that nobody reads holds its place
    return shown


def _form_sent(soup: BeautifulSoup) -> Tag | None:
    """The form with this address; of several, the one whose fixed fields were sent."""
    here = {request.path, request.full_path.rstrip("?")}
    forms = [form for form in soup.select("form[action]") if str(form["action"]) in here]

    def as_sent(form: Tag) -> int:
        fixed = form.select("input[type=hidden], button[name]")
        return sum(1 for one in fixed if one.get("value") in request.form.getlist(str(one.get("name"))))

    return max(forms, key=as_sent, default=None)


def _fill(control: Tag, typed: list[str]) -> None:
    kind = control.get("type", control.name)
    if control.name == "select":
        for option in control.find_all("option"):
            option.attrs.pop("selected", None)
            if option.get("value", option.text) in typed:
                option["selected"] = ""
    elif kind in ("checkbox", "radio"):
        control.attrs.pop("checked", None)
        if control.get("value", "on") in typed:
            control["checked"] = ""
    elif kind in ("hidden", "password", "file") or not typed:
        return  # of its own making, or not to be said again
    elif control.name == "textarea":
        control.string = typed[0]
    else:
        control["value"] = typed[0]


def _complain(soup: BeautifulSoup, form: Tag, reason: str, field: str) -> None:
    """The complaint behind its field, else at the end of the form, and the page opens there."""
    named = [c for c in form.select("[name]") if c.get("name") == field and c.get("type") != "hidden"]
    said = soup.new_tag("p", id="refused", attrs={"class": "complaint", "role": "alert", "tabindex": "-1"})
    said.string = reason
    for other in soup.select("[autofocus]"):
        del other["autofocus"]
    if not named:
        said["autofocus"] = ""
        form.append(said)
        return
    named[0]["aria-invalid"] = "true"
    named[0]["aria-describedby"] = "refused"
    named[0]["autofocus"] = ""
    (named[-1].find_parent(class_="field") or named[-1].find_parent("fieldset") or named[-1]).insert_after(
        said
    )
