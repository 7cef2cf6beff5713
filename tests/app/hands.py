"""One technician's hands on the screens, and the same over HTTP; those in a browser are in ``touching``."""

from __future__ import annotations

import json
import uuid
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from bs4 import BeautifulSoup
from flask.testing import FlaskClient

NOTHING: tuple[str, ...] = ()
KIT = {
    "kind": "air-handler",
    "elements": "2",
    "kw": "5",
    "volts": "240",
    "circuits": "1",
    "control": "single-sequencers",
    "relay": "spdt",
    "tie": "nc-contact",
}


@dataclass
class Hands:
    """What both kinds of hands share: the visit so far. ``wait`` lets time go by."""

    earlier: Callable[[str, float], None]
    unit: str = ""
    bench: str = ""
    called: tuple[str, ...] = NOTHING
    #: What was touched and what was read so far; digits and words typed are no touches.
    touches: int = 0
    readings: int = 0
    visits: int = 0

    def wait(self, seconds: float) -> None:
        self.earlier(self.bench, seconds)

    def dead(self) -> None:
        """Breakers off, and proved dead."""
        raise NotImplementedError

    def amps(self, **read: float) -> None:
        """Clamp some elements, or the blower."""
        for at, value in read.items():
            self.read(at, "amps", value)

    def heat(self, **read: float) -> None:
        """Heat with the fan, past every window; clamp; end it, and past every window again."""
        self.calls("W1", "G")
        self.wait(700)
        self.amps(**read)
        self.calls()
        self.wait(700)
        self.amps(**dict.fromkeys(read, 0.0))

    def open_lines(self) -> list[str]:
        """The lines of the retest that are not through."""
        raise NotImplementedError

    def retest(self, values: dict[str, float | str]) -> None:
        """Read every line that is open, in its order, each in the state that it asks for."""
        dead, called = True, None
        for line in self.open_lines():
            what, at, *under = line.split()
            if what in ("timed", "watched"):
                continue
            driven, calls = "driven" in under, [w for w in under if w not in ("with", "driven")]
            if what in ("ohms", "uf", "tone"):
                self.read_driven(at, what, values[line]) if driven else self.read(at, what, values[line])
                continue
            if dead:
                self.on()
                dead = False
            if called != calls:
                self.calls(*calls)
                self.wait(700)
                called = calls
            self.read(at, what, values[line])
        self.calls()

    def read_driven(self, at: str, quantity: str, value: float | str) -> None:
        """Calls ended, both wires of the coil off, read, and back on."""
        self.calls()
        self.coil_wires(at, "lifted")
        self.read(at, quantity, value, driven="yes")
        self.coil_wires(at, "restored")

    def seen(self, path: str) -> BeautifulSoup:
        """A page as it is now."""
        raise NotImplementedError

    def coil_wires(self, at: str, state: str) -> None:
        raise NotImplementedError

    def read(self, at: str, quantity: str, value: float | str, **more: str) -> None:
        raise NotImplementedError

    def calls(self, *asked: str) -> None:
        raise NotImplementedError


@dataclass
class Posting(Hands):
    """Forms posted as a browser without script does, and pages read."""

    client: FlaskClient = field(kw_only=True)
    shop_id: uuid.UUID | None = None

    def post(self, path: str, expected: tuple[int, ...] = (200, 302), **form: Any):
        form = {"client_id": str(uuid.uuid4())} | form
        self.touches += 1
        answer = self.client.post(path, data=form)
        assert answer.status_code in expected, BeautifulSoup(answer.text, "html.parser").main
        return answer

    def soup(self, answer: Any) -> BeautifulSoup:
        return BeautifulSoup(answer.text, "html.parser")

    def seen(self, path: str) -> BeautifulSoup:
        return self.page(path)

    def page(self, path: str) -> BeautifulSoup:
        answer = self.client.get(path)
        assert answer.status_code == 200, answer.text
        return BeautifulSoup(answer.text, "html.parser")

    def kit(self, label: str, **chosen: str) -> None:
        assert "No units yet" in self.page("/").text
        self.unit = self.post("/units", label=label, **KIT | chosen).location

    def part(self, part: str, **values: str) -> None:
        """A part's panel, some of its values typed."""
        number = self.page(self.unit).select_one("#plate-bar .text-soft").text.split()[-1]
        values = {name.replace("__", "."): value for name, value in values.items()}
        self.post(f"{self.unit}/plate/{part}", seen=number, **values)

    def act(self, part: str, act: str, chosen: str = "") -> None:
        self.post(f"{self.unit}/plate/{part}/act", act=act, chosen=chosen)

    def begin(self, complaint: str) -> None:
        self.bench = self.post(f"{self.unit}/visits", complaint=complaint).location
        self.called = NOTHING
        self.visits += 1

    def calls(self, *asked: str) -> None:
        self.post(f"{self.bench}/calls", calls=",".join(asked))

    def read(self, at: str, quantity: str, value: float | str, **more: str) -> None:
        form = {"at": at, "quantity": quantity, "value": str(value)}
        self.readings += 1
        self.post(f"{self.bench}/readings", **form | more)

    def coil_wires(self, at: str, state: str) -> None:
        self.post(f"{self.bench}/wires", state=state, part=f"{at.split('.', maxsplit=1)[0]}.coil", at=at)

    def off(self) -> None:
        self.post(f"{self.bench}/power", state="off")

    def on(self) -> None:
        self.post(f"{self.bench}/power", state="on")

    def dead(self) -> None:
        self.off()
        gate = self.page(f"{self.bench}?at=E1&quantity=ohms").select(".gate [name=proof]")
        self.post(f"{self.bench}/power", state="proved-dead", proof=[c["value"] for c in gate])

    def wires(self, state: str) -> None:
        self.post(f"{self.bench}/wires", state=state)

    def saw(self, part: str, action: str) -> None:
        if action in ("cycling", "steady"):
            self.post(f"{self.bench}/take", at=part, observe=action)
        else:
            self.post(f"{self.bench}/tape/seen", part=part, action=action)

    def lead(self, seconds: float) -> None:
        self.post(f"{self.bench}/tape/lead", lead_s=str(seconds))

    def look(self, item: str, state: str) -> None:
        self.post(f"{self.bench}/look", seen=f"{item}:{state}")

    def did(self, verb: str, *parts: str, by: str = "", note: str = "") -> None:
        """Done with the power off, whatever the record says of it."""
        form = {"verb": verb, "parts": list(parts), "by": by, "note": note}
        self.post(f"{self.bench}/did", **form, was_off="yes")

    def note(self, part: str, text: str) -> None:
        self.post(f"{self.bench}/note", part=part, text=text)

    def use_plate(self) -> None:
        assert self.page(self.bench).select_one(f'form[action="{self.bench}/plate"]')
        self.post(f"{self.bench}/plate")

    def made_safe(self, how: str) -> int:
        """Answer every stop that stands; how many there were."""
        stops = self.page(self.bench).select(f'form[action="{self.bench}/answer"]')
        for form in stops:
            hidden = {i["name"]: i.get("value", "") for i in form.select("input[type=hidden]")}
            self.post(f"{self.bench}/answer", **hidden | {"how": how})
        return len(stops)

    def log(self) -> str:
        return self.page(f"{self.bench}/log").text

    def close(self, outcome: str = "in-service", note: str = "", follow_up: str = "") -> BeautifulSoup:
        self.leave_out()
        form = {"outcome": outcome, "left_note": note, "follow_up": follow_up}
        return self.page(self.post(f"{self.bench}/close", **form).location)

    def open_lines(self) -> list[str]:
        ending = self.page(f"{self.bench}/close")
        return [box["value"] for box in ending.select("#retest input[name=line]")]

    def leave_out(self, why: str = "read by hand before") -> list[str]:
        """Answer every line of the retest that is not through; which they were."""
        lines = self.open_lines()
        if lines:
            self.post(f"{self.bench}/leave-out", line=lines, reason=why)
        return lines

    def file(self) -> dict[str, Any]:
        return json.loads(self.client.get(f"{self.bench}/visit.json").text)

    def plate(self) -> dict[str, Any]:
        return json.loads(self.client.get(f"{self.unit}/unit.json").text)["unit"]
