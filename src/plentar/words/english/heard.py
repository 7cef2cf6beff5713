"""What a screen reader says of units and ranges."""

from __future__ import annotations

from collections.abc import Mapping

TEXTS: Mapping[str, str | tuple[str, str]] = {
    "heard.range": "{low} to {high}",
    "heard.amps": ("{number} amp", "{number} amps"),
    "heard.volts": ("{number} volt", "{number} volts"),
    "heard.volts-dc": ("{number} volt DC", "{number} volts DC"),
    "heard.ohms": ("{number} ohm", "{number} ohms"),
    "heard.kilohms": ("{number} kilohm", "{number} kilohms"),
    "heard.megohms": ("{number} megohm", "{number} megohms"),
    "heard.watts": ("{number} watt", "{number} watts"),
    "heard.kilowatts": ("{number} kilowatt", "{number} kilowatts"),
    "heard.volt-amperes": ("{number} volt-ampere", "{number} volt-amperes"),
    "heard.microfarads": ("{number} microfarad", "{number} microfarads"),
    "heard.fahrenheit": ("{number} degree Fahrenheit", "{number} degrees Fahrenheit"),
    "heard.celsius": ("{number} degree Celsius", "{number} degrees Celsius"),
    "heard.cfm": ("{number} cubic foot per minute", "{number} cubic feet per minute"),
    "heard.litres-per-second": ("{number} liter per second", "{number} liters per second"),
    "heard.feet": ("{number} foot", "{number} feet"),
    "heard.metres": ("{number} meter", "{number} meters"),
    "heard.seconds": ("{number} second", "{number} seconds"),
}
