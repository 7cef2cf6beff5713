"""Run by an environment that holds the installed program alone: serve, make a shop, print a report."""

from __future__ import annotations

import http.cookiejar
import re
import subprocess
import sys
import urllib.parse
import urllib.request
import uuid

program, password = sys.argv[1:]
serving = subprocess.Popen([program, "serve", "--port", "0"], stdout=subprocess.PIPE, text=True)
browser = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(http.cookiejar.CookieJar()))


def get(path: str) -> bytes:
    return browser.open(address + path, timeout=30).read()


def post(path: str, on: str, **form: str) -> str:
    token = re.search(rb'name="csrf_token" value="([^"]+)"', get(on))[1].decode()
    body = urllib.parse.urlencode({"csrf_token": token, "client_id": str(uuid.uuid4())} | form).encode()
    asked = urllib.request.Request(address + path, body, {"Referer": address + on})
    return browser.open(asked, timeout=30).geturl().removeprefix(address)


try:
    assert serving.stdout is not None
    address = next(found[0] for line in serving.stdout if (found := re.search(r"http://[0-9.:]+", line)))
    made = [program, "shop", "Example Heating", "--login", "sam", "--person", "Sam Example"]
    subprocess.run(made, input=password + "\n", text=True, check=True)
    post("/sign-in", "/sign-in", login="sam", password=password)
    assert b"three questions" in get("/"), "a new shop is asked first"
    post("/shop/begin", "/shop/begin", timezone="America/Denver", altitude="5200", length="ft", screens="en")
    kit = {"elements": "2", "kw": "5", "volts": "240", "control": "double-sequencers", "tie": "nc-contact"}
    unit = post("/units", "/units/new", label="Sample 1", **kit)
    bench = post(f"{unit}/visits", unit, complaint="check-up")
    report = get(f"{bench}/report.pdf")
    print("report:", report[:4].decode())
finally:
    serving.terminate()
    print("stopped:", serving.wait(30))
