"use strict";
// What hands do, without signal: the windows of a call, the wires of a swap, what is read again after the work.

// --- windows of the call ---------------------------------------------------------------------------------------
const TIMING_TONES = {
  "in-window": "good",
  shown: "good",
  late: "bad",
  early: "low",
  "not-seen": "high",
};
const TIMING_MARKS = { good: "●", bad: "▲", low: "▼", high: "◇" };
function show_windows() {
  const now = seconds_now();
  const moves = pocket_windows(Now.unit, events(), now);
  const called = pocket_stand(Now.unit, events(), now).calls.length > 0;
  $("windows-of-call").hidden = !moves?.length && !called;
  if (!moves?.length) {
    const words = moves ? "nothing-to-wait-for" : "windows-with-signal";
    return $("windows").replaceChildren(made("li", { className: "hint", textContent: say(words) }));
  }
  $("windows").replaceChildren(...moves.map(row_of_move));
}
function row_of_move(move) {
  const { part, action, word, due, start, seen, calls } = move;
  const title = point_named(part)?.title ?? part;
  const [low, high] = due.map((at) => clock(Math.max(0, at - start)));
  const cause = say(action === "on" ? "window-after" : "window-after-end", {
    low,
    high,
    call: calls[0],
  });
  const tone = TIMING_TONES[word] ?? "plain";
  const row = made("li", { className: "told-row" }, made("b", { textContent: title }));
  const typical = move.typical ? ` ${say("window-typical")}` : "";
  row.append(made("span", { className: "what", textContent: `${cause}${typical}` }));
  const mark = TIMING_MARKS[tone] ?? "○";
  const told = say(`timing.${word}`) + (move.provisional ? say("provisional") : "");
  if (seen !== null) row.append(made("b", { className: "num", textContent: clock(seen - start) }));
  row.append(made("span", { className: `state tone-${tone}`, textContent: `${mark} ${told}` }));
  if (seen === null) {
    const button = made("button", {
      type: "button",
      textContent: say(`acts-${action}`, { part: title }),
    });
    Object.assign(button.dataset, { saw: action, part });
    row.append(button);
  }
  return row;
}
async function keep_saw(action, part) {
  const what = say(`seen-${action}`, { part: point_named(part)?.title ?? part });
  await keep("tape/seen", { part, action }, { observe: action, part }, what);
  await show();
}

// --- wires of a swap -------------------------------------------------------------------------------------------
// Every swap as it stands: by device its part and where each wire is, old, hand or new.
function pocket_sheets(events) {
  const sheets = {};
  for (const event of events) {
    if ("swap" in event)
      sheets[event.swap] = {
        part: event.part,
        wires: event.sheet.map((wire) => ({ ...wire, where: "old", at: "" })),
      };
    const wire = sheets[event.of]?.wires.find(({ id }) => id === event.wire);
    if (wire) {
      wire.where = { off: "hand", on: "new", back: "old" }[event.is];
      wire.at = event.is === "on" ? event.at : "";
    }
    if (sheets[event.replaced]?.wires.every(landed)) delete sheets[event.replaced];
  }
  return sheets;
}
const landed = ({ where, at, new: planned }) => where === "new" && at === planned;
// The device of a swap that is under way: no power before it is through. Empty where there is none.
function pocket_loose(events) {
  const under_way = Object.entries(pocket_sheets(events)).find(
    ([, { wires }]) => wires.some(({ where }) => where !== "old") && !wires.every(landed),
  );
  return under_way ? under_way[0] : "";
}
function show_wires() {
  const sheets = pocket_sheets(events());
  const asked = $("device").value || Object.keys(sheets)[0] || Now.unit.wires[0]?.device;
  $("wires-of-device").hidden = !Now.unit.wires.length;
  $("device").replaceChildren(
    ...Now.unit.wires.map(({ device, title }) =>
      made("option", {
        value: device,
        textContent: `${device} · ${title}`,
        selected: device === asked,
      }),
    ),
  );
  const planned = Now.unit.wires.find(({ device }) => device === asked);
  if (!planned) return;
  const said = Object.fromEntries(planned.sheet.map(({ id, said: words }) => [id, words]));
  const sheet = sheets[asked];
  const wires = sheet?.wires ?? planned.sheet.map((wire) => ({ ...wire, where: "old" }));
  const rows = wires.map((wire) =>
    row_of_wire(asked, wire, said[wire.id] ?? wire.to, Boolean(sheet)),
  );
  $("wires").replaceChildren(...rows);
  const button = made("button", { type: "button", className: "main" });
  const through = sheet?.wires.every(landed);
  const on = wires.filter(({ where }) => where === "new").length;
  $("wires-on").textContent = sheet ? say("wires-on", { on, n: wires.length }) : "";
  if (sheet && !through) return $("swap").replaceChildren();
  button.textContent = say(through ? "swap-through" : "swap-begin", { device: asked });
  Object.assign(button.dataset, { swaps: through ? "finish" : "begin", device: asked });
  $("swap").replaceChildren(button);
}
function row_of_wire(device, { id, old, new: planned, where }, said, begun) {
  const row = made("li", { className: `at-${where}` });
  row.append(
    made(
      "span",
      { className: "ends" },
      made("b", { textContent: old }),
      " → ",
      made("b", { textContent: planned }),
    ),
    made("span", { className: "what" }, made("b", { textContent: said })),
  );
  const acts = !begun ? [] : { old: ["off"], hand: ["on", "back"], new: ["back"] }[where];
  for (const act of acts) {
    const words = { off: ["wire-off", old], on: ["wire-on", planned], back: ["wire-back", old] }[
      act
    ];
    const button = made("button", { type: "button", textContent: say(words[0], { at: words[1] }) });
    if (act !== "back") button.className = "main";
    const undo = act === "back" && where === "new";
    Object.assign(button.dataset, {
      wire: id,
      actOfWire: undo ? "off" : act,
      device,
      to: planned,
    });
    if (undo) button.textContent = say("wire-off", { at: planned });
    row.append(button);
  }
  return row;
}
async function touch_wire({ wire, actOfWire: act, device, to }) {
  const { power } = pocket_stand(Now.unit, events(), seconds_now());
  if (Object.values(power).some((one) => one !== "proved-dead"))
    return complain(say("wires-dead-first"));
  const barred = Stops.reading_barred("ohms");
  if (barred) return complain(barred);
  const loose = pocket_sheets(events())[device].wires.find(({ where }) => where === "hand");
  if (loose && loose.id !== wire) return complain(say("one-wire", { others: loose.id }));
  const at = act === "on" ? to : "";
  const fields = { wire, act, ...(at ? { at } : {}) };
  const what = say(`wire-did-${act}`, { device, wire, at });
  await keep(`devices/${device}/wire`, fields, { wire, of: device, is: act, at }, what);
  await show();
}
async function touch_swap({ swaps, device }) {
  const { part, sheet } = Now.unit.wires.find((one) => one.device === device);
  if (swaps === "begin") {
    const fields = { part, wire: sheet.map(({ id }) => id), new: sheet.map((wire) => wire.new) };
    await keep(
      `devices/${device}/swap`,
      fields,
      { swap: device, part, sheet },
      say("swap-begun", { device }),
    );
  } else {
    const event = { replaced: device, by: part };
    await keep(`devices/${device}/finish`, {}, event, say("replaced", { part: device }));
  }
  await show();
}

// --- read again ------------------------------------------------------------------------------------------------
// The lines that the work asks for, each with its newest reading since.
function pocket_retest(unit, events) {
  const worked = events.filter((event) => event.replaced || event.did);
  const own = worked.filter((event) => event.own && event.replaced);
  const { lines, logged, of_part } = unit.retest;
  const since = worked.length ? worked.at(-1).t : Infinity;
  const numbers = new Set([...logged, ...own.flatMap(({ replaced }) => of_part[replaced] ?? [])]);
  return [...numbers].map((number) => {
    const line = lines[number];
    const taken = events.findLast((event) => {
      if (event.read !== line.quantity || event.at !== line.at || event.t < since) return false;
      const { calls, power, changed_s } = pocket_stand(unit, events, event.t);
      if (event.t - changed_s < line.after_s) return false;
      const dead = Object.values(power).every((one) => one === "proved-dead");
      const asked = [...line.calls, ...line.free];
      const called = calls.every((call) => asked.includes(call));
      return line.dead === dead && called && line.calls.every((call) => calls.includes(call));
    });
    return { ...line, taken };
  });
}
function show_retest() {
  const lines = pocket_retest(Now.unit, events());
  $("read-again").hidden = !lines.length;
  $("retest").replaceChildren(
    ...lines.map(({ title, under, because, due, at, quantity, taken }) => {
      const button = made("button", { type: "button", className: "quiet", textContent: title });
      Object.assign(button.dataset, { point: at, of: quantity ?? "" });
      const row = made(
        "li",
        { className: "told-row" },
        quantity ? button : made("b", { textContent: title }),
      );
      row.append(made("span", { className: "what", textContent: `${under} · ${because}` }));
      const expected = quantity ? say("should-read", { due }) : due;
      row.append(made("span", { className: "duecell", textContent: expected }));
      const entry = taken && Now.entries.find(({ id }) => id === taken.own);
      const value = entry?.value ?? (taken ? figure(taken.value) : "");
      row.append(
        made("b", { className: "num", textContent: taken ? value : say("not-read-again") }),
        made("span", { className: "state", textContent: entry?.verdict ?? "" }),
      );
      return row;
    }),
  );
}
