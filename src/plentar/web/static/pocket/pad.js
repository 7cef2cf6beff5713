"use strict";
// The pad of the bench without signal: what should be read, what was typed, what it would mean.

function typed_value(typed) {
  const text = typed.trim().replace("−", "-").replace(",", ".");
  if (/^o\.?l\.?$/i.test(text)) return Infinity;
  const found = /^(-?\d+(?:\.\d*)?|-?\.\d+)\s*([kM]?)$/.exec(text);
  return found ? Number(found[1]) * { "": 1, k: 1e3, M: 1e6 }[found[2]] : NaN;
}
const figure = (value) => {
  const size = Math.abs(value);
  if (size >= 1e6) return `${Number((value / 1e6).toPrecision(3))} M`;
  if (size >= 1e4) return `${Number((value / 1e3).toPrecision(3))} k`;
  return String(size >= 100 ? Math.round(value) : Number(value.toPrecision(3)));
};
function due_words(due, read) {
  if (!due) return say("verdict-with-signal");
  if (!due.spans.length) return say("nothing-due");
  let least = 0;
  const good = [];
  for (const { end, good: fits } of due.spans) {
    const span = end === Infinity ? `≥ ${figure(least)}` : `${figure(least)} … ${figure(end)}`;
    if (fits) good.push(`${span} ${read.sign}`);
    least = end;
  }
  if (good.length) return say("should-read", { due: good.join(", ") });
  const [first, second] = due.spans;
  const bounded = first.good === null && second?.good === false;
  return bounded
    ? say("at-most", { due: `${figure(first.end)} ${read.sign}` })
    : say("not-decided-here");
}
function verdict_words(due, value) {
  const found = due?.spans.length ? pocket_verdict(due, value) : null;
  if (!found) return { text: "", mark: "" };
  const mark = found.good === true ? "●" : found.good === false ? "▲" : "◇";
  const text = `${mark} ${say(`word.${found.word}`)}${due.provisional ? say("provisional") : ""}`;
  return { text, mark: found.good === true ? "good" : found.good === false ? "bad" : "open" };
}

function point_named(name) {
  return Now.unit.points.find((point) => point.name === name);
}
function open_pad(name, quantity = "") {
  const point = point_named(name);
  if (!point) return;
  const stand = pocket_stand(Now.unit, events(), seconds_now());
  const dead = Object.values(stand.power).every((one) => one === "proved-dead");
  const usual = point.reads.find((read) => read.dead_only === dead) ?? point.reads[0];
  const read = point.reads.find((one) => one.quantity === quantity) ?? usual;
  Object.assign(Now, { at: name, quantity: read.quantity });
  const pad = $("pad-of-point").content.cloneNode(true);
  pad.querySelector("h2").textContent = point.title;
  for (const one of point.reads) {
    const tab = made("button", { type: "button", textContent: one.said });
    tab.dataset.reads = one.quantity;
    if (one === read) tab.setAttribute("aria-current", "true");
    pad.querySelector(".tabs").append(tab);
  }
  const gated = read.dead_only && !dead;
  pad.querySelector(".gate").hidden = !gated;
  pad.querySelector(".reading").hidden = gated;
  for (const [check, said] of Object.entries(Now.unit.proof)) {
    const box = made("input", { type: "checkbox", name: "proof", value: check, required: true });
    pad.querySelector(".gate ul").append(made("li", {}, made("label", {}, box, ` ${said}`)));
  }
  const tone = read.quantity === "tone";
  pad.querySelector(".entry").hidden = tone;
  for (const keys of pad.querySelectorAll(".keys"))
    keys.hidden = keys.classList.contains("tone") !== tone;
  for (const key of pad.querySelectorAll("[data-ohms]")) key.hidden = read.quantity !== "ohms";
  const heated = !read.dead_only && stand.calls.some((call) => Now.unit.heat_calls.includes(call));
  pad.querySelector(".past").textContent =
    Now.unit.past[`${name} ${read.quantity} ${heated}`] ?? "";
  pad.querySelector(".sign").textContent = read.sign;
  pad.querySelector(".caution-line").textContent = read.caution;
  pad.querySelector(".acts").hidden = !point.acts;
  for (const button of pad.querySelectorAll("[data-acts]"))
    button.textContent = say(`acts-${button.dataset.acts}`, { part: point.title });
  $("pad").classList.add("filled");
  $("pad").replaceChildren(pad);
  judge_typed();
  if (!matchMedia("(pointer: coarse)").matches) $("value")?.focus({ preventScroll: true });
  for (const part of document.querySelectorAll("svg.unit a.part"))
    part.classList.toggle("chosen", part.getAttribute("href") === `#at=${name}`);
}
function shut_pad() {
  Now.at = "";
  $("pad").classList.remove("filled");
  $("pad").replaceChildren(made("p", { className: "hint", textContent: say("touch-part") }));
}
function read_now() {
  return point_named(Now.at)?.reads.find((one) => one.quantity === Now.quantity);
}
function judge_typed() {
  const read = read_now();
  if (!read || !$("verdict")) return;
  const due = pocket_due(Now.unit, events(), seconds_now(), Now.at, Now.quantity);
  $("verdict").querySelector(".due").textContent = due_words(due, read);
  const value = typed_value($("value").value);
  const { text, mark } = Number.isNaN(value) ? { text: "", mark: "" } : verdict_words(due, value);
  $("verdict").querySelector(".word").textContent = text;
  $("verdict").dataset.mark = mark;
}
async function keep_reading(typed) {
  const value = typed_value(typed);
  if (Number.isNaN(value)) return complain(say("no-number"));
  const { at, quantity } = Now;
  const read = read_now();
  const due = pocket_due(Now.unit, events(), seconds_now(), at, quantity);
  const barred = Stops.reading_barred(quantity);
  if (barred) return complain(barred);
  const shown =
    quantity === "tone"
      ? say(value ? "tone" : "no-tone")
      : `${value === Infinity ? "OL" : typed.trim()} ${read.sign}`;
  const told = due_words(due, read);
  const stops = open_stops().length;
  const event = { read: quantity, at, value: quantity === "temp_f" ? NaN : value };
  const { text } = verdict_words(due, value);
  await keep("readings", { at, quantity, value: typed.trim() }, event, point_named(at).title, {
    value: shown,
    due: told,
    verdict: text,
  });
  await show();
  if (open_stops().length === stops) return open_pad(at, quantity);
  shut_pad();
  $("stops").scrollIntoView({ block: "start" });
}
async function keep_seen(action) {
  const { at } = Now;
  const what = say(`seen-${action}`, { part: point_named(at).title });
  await keep("tape/seen", { part: at, action }, { observe: action, part: at }, what);
  await show();
  open_pad(at, Now.quantity);
}
const open_stops = () => pocket_stops(Now.unit, events()).filter((stop) => !stop.answered);
function complain(text) {
  $("alert").textContent = text;
  $("alert").scrollIntoView({ block: "nearest" });
}
