"""Eighteen kinds of call, from an empty list of units to the closed visit: what is read, found,
done, and read again. Written for any hands."""

from __future__ import annotations

from bs4 import BeautifulSoup

from tests.app.hands import Hands

LOCKED = "breaker off, locked and tagged"


def sound(report: BeautifulSoup, *said: str) -> None:
    """The report says these, every element was read again and is as due, and nothing is left."""
    text = " ".join(report.text.split())
    for words in said:
        assert words in text, (words, text[:3000])
    assert "in service" in text
    verdicts = [row.text for row in report.select("table tbody tr .verdict")]
    assert verdicts
    left = [li.text for li in report.select(".findings .level-stop-now, .findings .level-repair")]
    assert not left, left


def low_rise(hands: Hands) -> None:
    """Low rise: the second strip is dead, its stage does not close."""
    hands.kit("1 Saltmarsh Lane, attic", control="stacked-sequencer")
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 241)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.read("return-air", "temp_f", 68)
    hands.read("supply-air", "temp_f", 81)
    hands.amps(E1=20.6, E2=0.0)
    hands.read("S1.coil", "volts", 25)
    hands.read("S1.2", "volts", 241)
    hands.dead()
    hands.did("replaced", "S1", note="second switch does not close")
    hands.on()
    hands.heat(E1=20.5, E2=20.7)
    sound(hands.close(note="Second stage works again."), "S1 replaced: second switch does not close")


def welded_two_of_three(hands: Hands) -> None:
    """Two sequencers of three welded, all three replaced."""
    hands.kit("2 Saltmarsh Lane, closet", elements="3")
    hands.begin("heat-will-not-stop")
    hands.read("C1", "volts", 239)
    hands.amps(E1=20.4, E2=0.0, E3=20.2)
    hands.off()
    assert hands.made_safe(LOCKED) == 2
    hands.dead()
    for switch, ohms in (("S1.1", 0.1), ("S2.1", "OL"), ("S3.1", 0.2)):
        hands.read(switch, "ohms", ohms)
    hands.did("replaced", "S1", "S2", "S3", note="two welded, the third as old")
    hands.on()
    hands.amps(E1=0.0, E3=0.0)
    hands.heat(E1=20.4, E2=20.5, E3=20.3)
    sound(hands.close(note="All three are new."), "S2 replaced: two welded, the third as old", LOCKED)


def blank_thermostat(hands: Hands) -> None:
    """No power: the breaker was off, and further on the relays are burnt. Strips disabled until
    the parts come."""
    hands.kit("3 Saltmarsh Lane, attic", control="relays-ac")
    hands.begin("no-power")
    hands.read("C1", "volts", 0)
    hands.read("C1.line", "volts", 242)
    hands.did("switched-on", "C1", note="was off at the panel")
    hands.read("C1", "volts", 241)
    hands.read("R", "volts", 26)
    hands.calls("W1", "G")
    hands.wait(60)
    hands.amps(E1=20.5, E2=0.0)
    hands.dead()
    hands.read_driven("K2.1", "ohms", "OL")
    hands.note("K1", "brown at its spade too")
    hands.did("stage-off", "E1", "E2", note="strips disabled until relays come")
    report = hands.close("heat-disabled", "Heat pump only.", "two heat relays on order")
    assert "E1 left off: strips disabled until relays come" in report.text
    assert "brown at its spade too" in report.text
    hands.begin("no-heat")
    log = hands.log()
    assert "E2 left off: as the last visit left it: Heat pump only." in log
    assert "two heat relays on order" in hands.seen(hands.bench).select_one(".left-open").text
    hands.off()
    hands.did("replaced", "K1", "K2", note="both relays new")
    hands.did("stage-on", "E1", "E2")
    hands.on()
    hands.read("C1", "volts", 241)
    hands.heat(E1=20.5, E2=20.4)
    sound(hands.close(note="Heat is back."), "K2 replaced: both relays new", "E1 connected again")


def dead_rectifier(hands: Hands) -> None:
    """DC relays with rectifiers, one dead; a contactor takes its place."""
    hands.kit("4 Saltmarsh Lane, attic", control="relays-dc")
    hands.begin("not-enough-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(60)
    hands.amps(E1=20.7, E2=0.0)
    hands.read("K2.rectifier", "volts", 26)
    hands.read("K2.coil", "volts_dc", 0)
    hands.off()
    hands.did("replaced", "K2", by="contactor", note="adapters made up")
    hands.on()
    hands.read("K2.coil", "volts", 26)
    hands.heat(E1=20.6, E2=20.5)
    sound(hands.close(note="K2 is a contactor now."), "K2 replaced by contactor: adapters made up")
    kinds = {device["id"]: device["type"] for device in hands.plate()["controls"]}
    assert kinds == {"K1": "relay-dc", "K2": "contactor"}
    file = hands.file()
    assert file["unit"]["controls"][1]["type"] == "relay-dc", "the file begins with the old one"
    assert any("by" in event for event in file["visit"]["events"])


def clicking_limits(hands: Hands) -> None:
    """Limits click on a dirty filter."""
    hands.kit("5 Saltmarsh Lane, crawl space")
    hands.begin("clicking")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.amps(E1=20.4, E2=20.6)
    hands.saw("TL1", "cycling")
    hands.look("filter", "poor")
    assert "limit cycles" in hands.seen(hands.bench).select_one("#noted").text
    hands.did("cleaned", "airflow", note="filter changed")
    hands.look("filter", "fine")
    hands.wait(700)
    hands.saw("TL1", "steady")
    hands.heat(E1=20.5, E2=20.4)
    sound(hands.close(note="New filter."), "Airflow cleaned: filter changed")


def blower_never_stops(hands: Hands) -> None:
    """The blower never stops: a strip feeds it, and the tap is on the second switch."""
    hands.kit("6 Saltmarsh Lane, attic", control="stacked-sequencer")
    hands.part("BR.nc", interlock__kind="nc-contact", interlock__tap="S1.2")
    hands.part("S1.1", **{"off_s[0]": "1", "off_s[1]": "25"})
    hands.part("S1.2", **{"off_s[0]": "40", "off_s[1]": "110"})
    hands.begin("blower-will-not-stop")
    hands.read("C1", "volts", 240)
    hands.amps(blower=2.3, E1=0.0, E2=20.4)
    hands.off()
    assert hands.made_safe(LOCKED) >= 1
    hands.dead()
    hands.read("S1.2", "tone", 1)
    hands.did("replaced", "S1", note="second switch welded")
    hands.on()
    hands.amps(E2=0.0, blower=0.0)
    hands.heat(E1=20.3, E2=20.4, blower=2.3)
    sound(hands.close(note="Blower stops."), "S1 replaced: second switch welded")


def melted_lug(hands: Hands) -> None:
    """A package unit with a breaker for its heater: a melted lug, one contactor for two strips."""
    hands.kit("7 Saltmarsh Lane, roof", kind="package-unit", control="one-contactor", circuits="apart")
    hands.begin("breaker-trips-or-burnt")
    hands.off()
    hands.look("lugs", "burnt")
    assert hands.made_safe(LOCKED) == 1
    hands.did("remade", "C1.l1", note="new lug, wire cut back")
    hands.look("lugs", "fine")
    hands.on()
    hands.read("C1", "volts", 241)
    hands.read("C2", "volts", 242)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.read("C2.line", "volts", 240.5)
    hands.read("C2", "volts", 239.5)
    hands.read("C2", "amps", 41.1)
    hands.calls()
    hands.wait(400)
    hands.heat(E1=20.6, E2=20.5)
    sound(hands.close(note="Lug is new."), "Heater lug L1 of circuit C1 remade: new lug, wire cut back")


def ten_minutes_late(hands: Hands) -> None:
    """A sequencer that closes ten minutes after the call; the watch was started two minutes late."""
    hands.kit("8 Saltmarsh Lane, closet", elements="1")
    hands.begin("slow-to-start")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.lead(30.0)
    hands.wait(570)
    hands.saw("S1.1", "on")
    hands.off()
    hands.did("replaced", "S1", note="ten minutes to close")
    hands.on()
    hands.calls("W1", "G")
    hands.wait(14)
    hands.saw("S1.1", "on")
    hands.wait(400)
    hands.amps(E1=20.4)
    hands.calls()
    hands.wait(400)
    hands.amps(E1=0.0)
    sound(hands.close(note="It closes in time."), "S1 replaced: ten minutes to close")


def welded_with_wires_lifted(hands: Hands) -> None:
    """A relay is welded: it draws with the wires lifted. Both of the pair are changed, and a burnt
    end of the feed is remade."""
    hands.kit("9 Saltmarsh Lane, attic", control="relays-ac")
    hands.begin("heat-will-not-stop")
    hands.read("C1", "volts", 240)
    hands.amps(E1=20.5, E2=0.0)
    hands.dead()
    hands.wires("lifted")
    hands.on()  # the one step before a repair, a hand on the disconnect
    hands.amps(E1=20.4)
    log = hands.log()
    assert "thermostat wires lifted" in log
    assert "thermostat asks" not in log
    assert "wires lifted" in log.split("element E1")[1]
    hands.off()
    assert hands.made_safe(LOCKED) >= 1
    hands.did("replaced", "K1", "K2", note="welded, and its fellow")
    hands.did("remade", "C1.l2", note="burnt end cut back")
    hands.wires("restored")
    hands.on()
    hands.read("C1", "volts", 240)
    hands.amps(E1=0.0)
    hands.heat(E1=20.4, E2=20.4)
    sound(
        hands.close(note="Both new."),
        "K2 replaced: welded, and its fellow",
        "Heater lug L2 of circuit C1 remade",
    )


def strips_in_cooling(hands: Hands) -> None:
    """In cooling the fan's call feeds a strip through the blower's relay; the capacitor is weak."""
    hands.kit("10 Saltmarsh Lane, closet")
    hands.act("unit", "add-load")
    hands.part("capacitor", capacitor_uf="7.5")
    hands.begin("heat-in-cooling")
    hands.read("C1", "volts", 240)
    hands.calls("G", "Y")
    hands.wait(200)
    hands.amps(E1=20.3)
    hands.off()
    assert hands.made_safe(LOCKED) >= 1
    hands.dead()
    hands.read("capacitor", "uf", 5.6)
    hands.did("moved", "BR", note="tie's wire was on normally open")
    hands.did("replaced", "capacitor", note="5.6 of 7.5")
    hands.dead()
    hands.read("capacitor", "uf", 7.5)
    hands.on()
    hands.calls("G", "Y")
    hands.wait(200)
    hands.amps(E1=0.0)
    hands.heat(E1=20.4, E2=20.5)
    sound(hands.close(note="Cooling cools."), "Blower relay moved", "capacitor replaced: 5.6 of 7.5")


def erratic_relay(hands: Hands) -> None:
    """A time-delay relay that starts the blower or does not."""
    hands.kit("11 Saltmarsh Lane, attic", relay="time-delay", tie="g-with-w")
    hands.begin("blower-will-not-run")
    hands.read("C1", "volts", 240)
    for amps in (2.2, 0.0, 2.2, 0.0):
        hands.calls("G")
        hands.wait(20)
        hands.amps(blower=amps)
        hands.calls()
        hands.wait(200)
    hands.note("BR", "two of four starts failed")
    hands.off()
    hands.did("replaced", "BR", note="erratic")
    hands.on()
    for _ in range(2):
        hands.calls("G")
        hands.wait(20)
        hands.amps(blower=2.2)
        hands.calls()
        hands.wait(200)
        hands.amps(blower=0.0)
    hands.heat(E1=20.4, E2=20.4)
    sound(hands.close(note="It starts."), "Blower relay replaced: erratic", "two of four starts failed")


def fuse_on_w1(hands: Hands) -> None:
    """The fuse blows when heat is called: a contactor's coil of 0.8 Ω."""
    hands.kit("12 Saltmarsh Lane, attic", control="contactors")
    hands.begin("control-fuse-blows")
    hands.dead()
    hands.read("K1.coil", "ohms", 0.8)
    hands.read("K2.coil", "ohms", 13)
    hands.read("W1:ground", "ohms", "OL")
    hands.did("replaced", "K1", note="coil shorted")
    hands.did("renewed", "control-fuse")
    hands.on()
    hands.read("C1", "volts", 240)
    hands.read("R", "volts", 26)
    hands.heat(E1=20.4, E2=20.4)
    sound(hands.close(note="Fuse holds."), "K1 replaced: coil shorted", "Control fuse renewed")


def not_the_motor(hands: Hands) -> None:
    """One strip; the motor was guessed at first, and its link is open."""
    hands.kit("13 Saltmarsh Lane, closet", elements="1")
    hands.begin("no-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.amps(blower=2.2, E1=0.0)
    hands.read("S1.coil", "volts", 25)
    hands.read("S1.1", "volts", 0.2)
    hands.read("FL1", "volts", 240)
    hands.dead()
    hands.read("FL1", "tone", 0)
    hands.did("replaced", "FL1", note="open; the motor is well")
    hands.on()
    hands.heat(E1=20.5, blower=2.2)
    sound(hands.close(note="Heats."), "FL1 replaced: open; the motor is well")


def two_dead_at_once(hands: Hands) -> None:
    """Two sequencers dead at once."""
    hands.kit("14 Saltmarsh Lane, attic")
    hands.begin("no-heat")
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.amps(E1=0.0, E2=0.0)
    for at, volts in (("S1.coil", 25), ("S2.coil", 25), ("S1.1", 240), ("S2.1", 240)):
        hands.read(at, "volts", volts)
    hands.dead()
    hands.did("replaced", "S1", "S2", note="neither closes")
    hands.on()
    hands.heat(E1=20.4, E2=20.5)
    sound(hands.close(note="Both stages heat."), "S1 replaced: neither closes", "S2 replaced")


def wire_too_thin(hands: Hands) -> None:
    """A wire too thin for its breaker: a stage is left off until the electrician has been; and a
    bridge from Y to W is taken out."""
    hands.kit("15 Saltmarsh Lane, annex")
    hands.part(
        "C1",
        breaker_amps="60",
        conductor__awg="10",
        conductor__material="copper",
        conductor__termination_c="75",
        conductor__insulation_c="90",
        conductor__cable="other",
        conductor__ambient_c="30",
    )
    hands.begin("breaker-trips-or-burnt")
    hands.off()
    assert hands.made_safe("stage E2 left off, electrician called") >= 1
    hands.did("stage-off", "E2", note="10 AWG carries one strip")
    hands.did("unbridged", "W1", note="Y was bridged to W")
    hands.on()
    hands.read("C1", "volts", 240)
    hands.calls("W1", "G")
    hands.wait(400)
    hands.amps(E1=20.4, E2=0.0)
    hands.calls()
    hands.wait(400)
    hands.amps(E1=0.0)
    report = hands.close("in-service", "One stage off.", "electrician: 6 AWG to the kit")
    assert "E2 left off: 10 AWG carries one strip" in report.text
    assert "W1 bridge removed: Y was bridged to W" in report.text
    hands.part("C1", conductor__awg="6")
    hands.begin("check-up")
    assert "E2 left off" in hands.log(), "a stage that was left off is off on the next visit too"
    hands.off()
    hands.did("stage-on", "E2", note="6 AWG is in")
    hands.on()
    hands.read("C1", "volts", 240)
    hands.heat(E1=20.4, E2=20.5)
    sound(hands.close(note="Both stages on."), "E2 connected again: 6 AWG is in")


def never_lets_go(hands: Hands) -> None:
    """A stack of five switches never lets go; after the swap a strip was left unwired."""
    hands.kit(
        "16 Saltmarsh Lane, trailer",
        kind="electric-furnace",
        elements="4",
        kw="3.5",
        control="stacked-sequencer",
        tie="sequencer-switch",
    )
    hands.part("C1", subdivided="yes")
    strips = {f"E{n}": 14.4 for n in range(1, 5)}
    hands.begin("heat-will-not-stop")
    hands.read("C1", "volts", 240)
    hands.amps(**strips)
    hands.off()
    assert hands.made_safe(LOCKED) >= 4
    hands.did("replaced", "S1", note="stack never lets go")
    hands.on()
    hands.amps(**dict.fromkeys(strips, 0.0))
    hands.heat(**strips | {"E4": 0.0})
    hands.off()
    hands.did("remade", "E4.wire", note="left off in the swap")
    hands.on()
    hands.heat(**strips)
    sound(
        hands.close(note="Four strips heat."),
        "S1 replaced",
        "Element E4, wiring remade: left off in the swap",
    )


def both_sets_bad(hands: Hands) -> None:
    """A DPDT relay with both sets bad."""
    hands.kit("17 Saltmarsh Lane, attic", elements="1", relay="dpdt")
    hands.begin("blower-will-not-run")
    hands.read("C1", "volts", 240)
    hands.calls("G")
    hands.wait(30)
    hands.amps(blower=0.0)
    hands.dead()
    hands.read("BR.coil", "ohms", 30)
    hands.read_driven("BR.no", "ohms", "OL")
    hands.read("BR.nc", "ohms", "OL")
    hands.did("replaced", "BR", note="both sets burnt")
    hands.on()
    hands.calls("G")
    hands.wait(30)
    hands.amps(blower=2.2)
    hands.calls()
    hands.wait(400)
    hands.amps(blower=0.0)
    hands.heat(E1=20.4, blower=2.2)
    sound(hands.close(note="Blower runs."), "Blower relay replaced: both sets burnt")


def tie_wired_wrong(hands: Hands) -> None:
    """The tie wired three wrong ways, and then the right one."""
    hands.kit("18 Saltmarsh Lane, closet", elements="1")
    hands.begin("blower-will-not-run")
    hands.read("C1", "volts", 240)
    for way in ("common on L1", "tap on the wrong side", "normally closed on L2"):
        hands.on()
        hands.calls("W1")
        hands.wait(400)
        hands.amps(E1=20.4, blower=0.0)
        hands.calls()
        hands.off()
        assert hands.made_safe(f"{LOCKED}: {way}") >= 1
        hands.did("moved", "BR", note=f"not {way}")
    hands.part(
        "BR.nc",
        relay__wires__common="blower",
        relay__wires__no="L1",
        relay__wires__nc="heat",
        interlock__kind="nc-contact",
        interlock__tap="S1.1",
    )
    hands.use_plate()
    hands.on()
    hands.calls("W1")
    hands.wait(400)
    hands.amps(blower=2.2, E1=20.4)
    hands.calls()
    hands.wait(400)
    hands.amps(E1=0.0, blower=0.0)
    report = hands.close(note="Heat has air.")
    sound(report, "Blower relay moved: not common on L1", "Blower relay moved: not normally closed on L2")
    assert "was wrong" in report.text


#: By turns on a desk and on a phone.
IN_BROWSER = (dead_rectifier, both_sets_bad, ten_minutes_late, not_the_motor, welded_two_of_three, low_rise)
OVER_HTTP = (
    blank_thermostat,
    clicking_limits,
    blower_never_stops,
    melted_lug,
    strips_in_cooling,
    erratic_relay,
    fuse_on_w1,
    two_dead_at_once,
    wire_too_thin,
    never_lets_go,
    tie_wired_wrong,
    welded_with_wires_lifted,
)
EVERY = (*IN_BROWSER, *OVER_HTTP)
#: Touches at most beside digits and words: of each reading with its calls and its power, and of all else of a
#: visit, which is the kit, the work, what is answered and the hand-over.
EACH_TOUCHES, OTHER_TOUCHES = 4, 30


def in_few_touches(hands: Hands) -> bool:
    """Whether a call went through by few of them."""
    return hands.readings <= hands.touches <= EACH_TOUCHES * hands.readings + OTHER_TOUCHES * hands.visits


def read_back(hands: Hands) -> None:
    """The owner's sheet: what was done stands on it, nothing twice, no danger beside *in service*."""
    page = hands.seen(f"{hands.bench}/owner")
    said = " ".join(page.text.split())
    found = [" ".join(row.text.split()) for row in page.select(".found li")]
    done = [" ".join(row.text.split()) for row in page.select("section ul:not(.found) li")]
    assert not ("The unit is in service." in said and any(row.startswith("Danger") for row in found)), found
    bare = [row.split(maxsplit=2)[-1] for row in found]
    assert len(bare) == len(set(bare)), bare
    worked = {event.get("replaced") for event in hands.file()["visit"]["events"]} - {None}
    for part in worked:
        assert any(part.lower() in row.lower() for row in done), (part, done)
