"use strict";
// The bench without signal, out of what was taken along and what is kept: nothing here asks the server.

const WORDS = JSON.parse(document.body.dataset.words);
function say(code, values = {}) {
  return WORDS[code].replace(/\{(\w+)\}/g, (_, name) => values[name]);
}
const GOOD_FOR_DAYS = Number(document.body.dataset.goodForDays);
const $ = (id) => document.getElementById(id);
function made(tag, values = {}, ...inside) {
  const one = Object.assign(document.createElement(tag), values);
  one.append(...inside);
  return one;
}
function clock(seconds) {
  const two = (number) => String(Math.floor(number)).padStart(2, "0");
  const hours = Math.floor(seconds / 3600);
  const rest = `${hours ? two((seconds / 60) % 60) : Math.floor(seconds / 60)}:${two(seconds % 60)}`;
  return hours ? `${hours}:${rest}` : rest;
}
const moment = (ms) =>
  new Date(ms).toLocaleString(document.documentElement.lang, {
    dateStyle: "medium",
    timeStyle: "short",
  });

// What the page shows: the unit in hand, its visit, the point whose pad is open.
const Now = {
  unit: null,
  along_ms: 0,
  visit: null,
  entries: [],
  offset_ms: 0,
  at: "",
  quantity: "",
};

// The visit that is open on the unit, on the server or begun here; null where there is none.
async function open_visit(unit) {
  const visits = await (await Outbox.db()).getAll("visits");
  const own = visits.filter((one) => one.unit === unit.unit && !one.closed).at(-1);
  if (own) return own;
  if (!unit.visit) return null;
  const known = {
    key: unit.visit.id,
    id: unit.visit.id,
    unit: unit.unit,
    started_ms: unit.visit.started_ms,
  };
  await (await Outbox.db()).put("visits", known);
  return known;
}
const seconds_now = () => Math.max(0, (Date.now() + Now.offset_ms - Now.visit.started_ms) / 1000);
const seconds_of = (entry) =>
  Math.max(0, (entry.taken_ms + (entry.offset_ms ?? Now.offset_ms) - Now.visit.started_ms) / 1000);

// Everything that was done, the server's and what is kept here, in order.
function events() {
  const before = Now.unit.visit?.id === Now.visit.id ? Now.unit.visit.events : [];
  const own = Now.entries.filter((one) => one.event && one.state !== "refused" && !one.late);
  const since = own.map((one) => ({ ...one.event, own: one.id, t: seconds_of(one) }));
  return [...before, ...since].sort((a, b) => a.t - b.t);
}

async function keep(path, fields, event, what, more = {}) {
  $("alert").replaceChildren();
  const entry = {
    id: fields.client_id ?? crypto.randomUUID(),
    visit: Now.visit?.key,
    unit: Now.unit.unit,
    path,
  };
  fields.client_id = entry.id;
  const pairs = Object.entries(fields).flatMap(([name, value]) =>
    [value].flat().map((one) => [name, one instanceof Blob ? one : String(one)]),
  );
  await Outbox.keep({ ...entry, fields: pairs, event, what, ...more });
  Outbox.send();
}

// --- power and calls -------------------------------------------------------------------------------------------
// Of every circuit, or of one.
async function set_power(state, more = {}) {
  const { circuit } = more;
  const loose = state === "on" ? pocket_loose(events()) : "";
  const refused = loose
    ? say("swap-open", { device: loose })
    : Stops.switch_barred({ power: state, circuit });
  if (refused) return complain(refused);
  const said = say(`power.${state}`);
  const what = circuit ? `${circuit}: ${said}` : said;
  await keep("power", { state, ...more }, { power: state, ...(circuit ? { circuit } : {}) }, what);
  await show();
}
async function touch_call(call) {
  const stand = pocket_stand(Now.unit, events(), seconds_now());
  const on = stand.calls.includes(call);
  const calls = on ? stand.calls.filter((one) => one !== call) : [...stand.calls, call];
  const refused = Stops.switch_barred({ calls });
  if (refused) return complain(refused);
  await keep(
    "calls",
    { [on ? "ended" : "raised"]: call },
    { calls },
    say("calls", { calls: calls.join(" + ") || say("nothing") }),
  );
  await show();
}

// --- the page --------------------------------------------------------------------------------------------------
async function show() {
  Now.offset_ms = (await Outbox.meta("offset_ms")) ?? 0;
  Now.entries = await Outbox.unsent();
  const all = await (await Outbox.db()).getAll("units");
  const asked = /unit=([^&]+)/.exec(location.hash)?.[1];
  const path = /^\/visits\/([^/]+)/.exec(location.pathname)?.[1];
  const unit_path = /^\/units\/([^/]+)/.exec(location.pathname)?.[1];
  const row = all.find((one) => one.unit === (asked ?? unit_path) || (path && one.visit === path));
  if (row?.made_ms !== Now.unit?.made_ms || row?.unit !== Now.unit?.unit)
    Now.unit = row ? await Outbox.unpacked(row) : null;
  Now.along_ms = row?.along_ms ?? 0;
  $("board").hidden = Boolean(Now.unit);
  $("unit").hidden = !Now.unit;
  show_board(all);
  if (Now.unit) await show_unit();
}
function show_board(all) {
  const from_ms = Math.min(...all.map((unit) => unit.made_ms));
  $("along").textContent = all.length
    ? say("along", { n: all.length, when: moment(from_ms), days: GOOD_FOR_DAYS })
    : say("nothing-along");
  $("units").replaceChildren(
    ...all.map((unit) => {
      const link = made(
        "a",
        { className: "line", href: `#unit=${unit.unit}` },
        made("b", { textContent: unit.label }),
      );
      link.append(` ${unit.place} ${unit.visit ? say("visit-open") : ""}`);
      return made("li", {}, link);
    }),
  );
  const waits = Now.entries;
  $("queue-title").hidden = !waits.length;
  $("queue").replaceChildren(...waits.map((entry) => row_of_entry(entry, all)));
}
function row_of_entry(entry, all = []) {
  const row = made("li", { className: `event-row is-${entry.state}` });
  const label = all.find((unit) => unit.unit === entry.unit)?.label;
  row.append(
    made("span", {
      className: "at",
      textContent: Now.visit && !label ? clock(seconds_of(entry)) : moment(entry.taken_ms),
    }),
  );
  if (label) row.append(made("b", { textContent: label }));
  row.append(made("span", { className: "what", textContent: entry.what ?? entry.path }));
  if (entry.value) row.append(made("b", { className: "num", textContent: entry.value }));
  if (entry.due) row.append(made("span", { className: "duecell", textContent: entry.due }));
  if (entry.verdict) row.append(made("span", { className: "state", textContent: entry.verdict }));
  const state = entry.late ? "late" : entry.state;
  row.append(
    made("span", { className: `kept-state ${state}`, textContent: say(`state.${state}`) }),
  );
  if (entry.state === "refused") {
    row.append(made("span", { className: "reason", textContent: entry.reason }));
    for (const [act, words] of [
      ["again", say("try-again")],
      ...(entry.other ? [["join", say("into-open-visit")]] : []),
      ["leave", say("leave-out")],
    ]) {
      const button = made("button", { type: "button", textContent: words });
      Object.assign(button.dataset, { act, entry: entry.id });
      row.append(button);
    }
  }
  return row;
}
async function show_unit() {
  const { unit } = Now;
  $("label").textContent = unit.label;
  $("from").textContent = say("on-board-from", { when: moment(unit.made_ms) });
  Now.visit = await open_visit(unit);
  $("begin").hidden = Boolean(Now.visit);
  $("visit").hidden = !Now.visit;
  if (!Now.visit) return;
  // What was stored before this came along, came along.
  const came_along = ({ state, stored_ms }) => state === "stored" && stored_ms <= Now.along_ms;
  Now.entries = (await Outbox.of_visit(Now.visit.key)).filter((one) => !came_along(one));
  draw(unit);
  show_stand();
  const before = unit.visit?.id === Now.visit.id ? unit.visit.rows : [];
  const rows = [...Now.entries].reverse().map((entry) => row_of_entry(entry));
  for (const { when, what, value, due, struck } of before) {
    const row = made("li", { className: struck ? "event-row struck" : "event-row" });
    row.append(
      made("span", { className: "at", textContent: when }),
      made("span", { className: "what", textContent: what }),
    );
    if (value)
      row.append(
        made("b", { className: "num", textContent: value }),
        made("span", { className: "duecell", textContent: due }),
      );
    rows.push(row);
  }
  $("rows").replaceChildren(...rows);
}
function draw(unit) {
  if ($("drawing").dataset.unit === unit.unit) return;
  $("drawing").dataset.unit = unit.unit;
  for (const [side, svg] of Object.entries(unit.drawing))
    document.querySelector(`#drawing [data-drawn=${side}]`).innerHTML = svg;
  shows("line");
  $("points").replaceChildren(
    ...unit.points.map((point) => {
      const button = made("button", {
        type: "button",
        className: "quiet",
        textContent: point.title,
      });
      button.dataset.point = point.name;
      return made("li", {}, button);
    }),
  );
  $("part").replaceChildren(
    ...unit.parts.map((name) => made("option", { value: name, textContent: name })),
  );
}
function show_stand() {
  const stand = pocket_stand(Now.unit, events(), seconds_now());
  const powers = [...new Set(Object.values(stand.power))];
  const state = powers.length === 1 ? powers[0] : "some";
  const called = stand.calls.length && stand.changed_s > -Infinity;
  $("stands").replaceChildren(
    made("span", { className: `power ${state}`, textContent: say(`power.${state}`) }),
  );
  if (called) {
    const timer = made(
      "span",
      { className: "timer" },
      made("span", { id: "since", textContent: clock(seconds_now() - stand.changed_s) }),
    );
    $("stands").append(timer, ` ${say("since-call")}`);
  }
  const every =
    state === "on" ? [["off", "", say("breakers-off")]] : [["on", "", say("power-back")]];
  const circuits = Object.entries(stand.power);
  const each = circuits.map(([id, now]) =>
    now === "on" ? ["off", id, say("open-one", { id })] : ["on", id, say("close-one", { id })],
  );
  const buttons = [...every, ...(circuits.length > 1 ? each : [])];
  $("power").replaceChildren(
    ...buttons.map(([to, circuit, words]) => {
      const button = made("button", { type: "button", textContent: words });
      Object.assign(button.dataset, { power: to, circuit });
      return button;
    }),
  );
  $("calls").replaceChildren(
    ...Now.unit.calls.map((call) => {
      const button = made("button", { type: "button", textContent: call });
      button.dataset.call = call;
      button.setAttribute("aria-pressed", String(stand.calls.includes(call)));
      return button;
    }),
  );
  Stops.show();
  show_next();
  show_windows();
  show_wires();
  show_retest();
}
function shows(side) {
  const drawing = $("drawing");
  drawing.dataset.now = side;
  for (const button of drawing.querySelectorAll("[data-shows]"))
    button.setAttribute("aria-pressed", String(button.dataset.shows === side));
}
async function begin() {
  const key = crypto.randomUUID();
  const started_ms = await Outbox.now_ms();
  await (await Outbox.db()).put("visits", { key, id: null, unit: Now.unit.unit, started_ms });
  Now.visit = { key };
  const complaint = $("complaint").value;
  await keep(
    "start",
    { client_id: key, complaint },
    null,
    say("begun", { complaint: $("complaint").selectedOptions[0].textContent }),
  );
  await show();
}
async function answer(act, id) {
  const entry = (await Outbox.unsent()).find((one) => one.id === id);
  if (act === "leave" && confirm(say("sure-leave-out"))) await Outbox.drop(id);
  if (act === "again") await Outbox.mark(id, { state: "kept", reason: "" });
  if (act === "join") {
    await Outbox.begun(entry.visit, entry.other);
    await Outbox.drop(id);
  }
  await Outbox.send();
  await show();
}

const one_circuit = ({ circuit }) => (circuit ? { circuit } : {});
// What sets the unit is done one touch after the other: each stands on what the one before it has set.
let set_before = Promise.resolve();
function in_turn(set) {
  set_before = set_before.then(set, set);
}
document.addEventListener("click", (event) => {
  const { target } = event;
  const part = target.closest("svg a");
  const button = target.closest("button")?.dataset ?? {};
  if (part) {
    event.preventDefault();
    open_pad(decodeURIComponent(part.getAttribute("href").replace("#at=", "")));
  } else if (button.key) press(button.key);
  else if (button.shows) shows(button.shows);
  else if (button.reads) open_pad(Now.at, button.reads);
  else if (button.point) open_pad(button.point, button.of);
  else if (button.saw) keep_saw(button.saw, button.part);
  else if (button.wire) in_turn(() => touch_wire(button));
  else if (button.swaps) in_turn(() => touch_swap(button));
  else if (button.power) in_turn(() => set_power(button.power, one_circuit(button)));
  else if (button.call) in_turn(() => touch_call(button.call));
  else if (button.acts) keep_seen(button.acts);
  else if (button.act) answer(button.act, button.entry);
  else if ("begin" in button) begin();
  else if ("shut" in button) shut_pad();
});
function press(key) {
  const input = $("value");
  if (key === "back") input.value = input.value.slice(0, -1);
  else input.value = key === "OL" ? "OL" : input.value + key;
  judge_typed();
}
document.addEventListener("input", (event) => event.target.id === "value" && judge_typed());
document.addEventListener("change", (event) => event.target.id === "device" && show_wires());
document.addEventListener("submit", async (event) => {
  event.preventDefault();
  $("alert").replaceChildren();
  const form = event.target;
  if (form.matches(".reading")) await keep_reading(event.submitter?.value || $("value").value);
  else if (form.matches(".gate")) {
    const { at, quantity } = Now;
    await set_power("proved-dead", { proof: new FormData(form).getAll("proof") });
    open_pad(at, quantity);
  } else if (form.matches(".made-safe")) {
    const { code, component } = form.dataset;
    const how = form.querySelector("input").value;
    await keep(
      "answer",
      { code, component, how },
      { answered: `${code} ${component}` },
      say("was-made-safe", { how }),
    );
  } else if (form.id === "did") {
    const part = $("part").value;
    await keep(
      "did",
      { verb: "replaced", parts: part },
      { replaced: part },
      say("replaced", { part }),
    );
  } else if (form.id === "photo") {
    const [photo] = form.querySelector("[type=file]").files;
    const shows_what = form.querySelector("select");
    const what = say("photo", { shows: shows_what.selectedOptions[0].textContent });
    await keep("photos", { shows: shows_what.value, photo }, null, what);
    form.reset();
  } else if (form.id === "note") {
    await keep("note", { text: $("said").value }, null, $("said").value);
    form.reset();
  } else if (form.id === "close") {
    const { outcome, left_note } = Object.fromEntries(new FormData(form));
    await keep("close", { outcome, left_note }, null, say("closed"));
    const db = await Outbox.db();
    await db.put("visits", { ...(await db.get("visits", Now.visit.key)), closed: true });
    location.hash = "";
  }
  await show();
});
addEventListener("hashchange", () => {
  shut_pad();
  show();
});
addEventListener("outbox", async () => {
  await signal();
  if (!$("pad").contains(document.activeElement)) await show();
});
addEventListener("online", signal);
addEventListener("offline", signal);
setInterval(() => {
  if (!Now.visit || $("unit").hidden) return;
  const stand = pocket_stand(Now.unit, events(), seconds_now());
  if ($("since")) $("since").textContent = clock(seconds_now() - stand.changed_s);
  if (!$("windows").contains(document.activeElement)) show_windows();
  judge_typed();
}, 1000);
async function signal() {
  const count = (await Outbox.unsent()).length;
  const words = navigator.onLine ? "with-signal" : "without-signal";
  $("signal").textContent = count
    ? `${say(words)} · ${say("kept-here", { n: count })}`
    : say(words);
}
document.addEventListener("DOMContentLoaded", async () => {
  await Outbox.expire(GOOD_FOR_DAYS);
  await show();
  await signal();
});
