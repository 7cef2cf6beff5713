"use strict";
// Stops without signal: raised by the table that the stops' own automaton has filled (core/pocket/stops), latched, and
// barring what they bar there. Only signal, or what ends them by the table, takes one away.

// What stands after these events: the stops that came along, and those that readings have raised since.
function pocket_stops(unit, events) {
  const stops = unit.stops.map((stop) => ({ ...stop }));
  const table = unit.stop_table;
  const raise = (number, event) => {
    const kind = table.kinds[number];
    const known = stops.find((one) => one.code === kind.code && one.component === kind.component);
    if (known) Object.assign(known, { answered: false, permit: false, t: event.t, kind: number });
    else stops.push({ ...kind, answered: false, permit: false, used: false, t: event.t });
  };
  const from_t = unit.visit ? (unit.visit.events.at(-1)?.t ?? -1) : -1;
  const reads = pocket_reads(unit, events);
  let seen = [];
  for (const event of events) {
    const before = pocket_stand(unit, events, event.t - 1e-6);
    const stand = pocket_stand(unit, events, event.t);
    const fresh = event.t > from_t || event.own;
    if (!fresh) continue;
    if ("power" in event || "calls" in event) {
      seen = [];
      for (const stop of stops) pocket_switched(unit, stop, before, stand);
      if (event.power === "proved-dead" && !event.circuit)
        pocket_end(stops, (stop) => stop.code === "live-when-off" && stop.t < event.t);
    }
    if ("replaced" in event)
      for (const stop of stops) if (stop.mended_by.includes(event.replaced)) stop.permit = true;
    if ("answered" in event)
      for (const stop of stops)
        if (`${stop.code} ${stop.component}` === event.answered)
          Object.assign(stop, { answered: true, permit: stop.code !== "live-when-off" });
    if ("observe" in event && event.part === "blower")
      seen.push({
        ...event,
        read: "amps",
        at: "blower",
        value: event.observe === "off" ? 0 : Infinity,
      });
    else if ("read" in event) seen.push(event);
    else continue;
    const row =
      table.settings[pocket_stop_key(unit, events, stand, event)]?.[`${event.at} ${event.read}`];
    for (const [least, below, kinds] of row ? [row] : [])
      if ((least !== null && event.value >= least) || (below !== null && event.value < below))
        for (const number of kinds) raise(number, event);
    const without = table.without_blower;
    if (without && pocket_without_blower(unit, without, stand, seen, event))
      raise(without.kind, event);
    const newest = reads.findIndex((one) => one.event === event);
    if (newest < 0) continue;
    for (const number of pocket_together(unit, events, reads.slice(0, newest + 1)))
      raise(number, event);
  }
  return stops;
}
// What is live behind breakers that are off is a stop whatever is called and whatever else is on, and what is drawn
// without a call for heat once heat has let go; else the setting is to be known.
function pocket_stop_key(unit, events, stand, { at, t: t_s }) {
  const powers = [...new Set(Object.values(stand.power))];
  if (!powers.includes("on")) return `${powers.length === 1 ? powers[0] : "off"}:`;
  const fed_by = unit.fed_by[at] ?? [];
  const fed = fed_by.filter((id) => stand.power[id] === "on");
  if (fed_by.length && !fed.length) return "off:";
  const rests = t_s - pocket_heat_ended(unit, events, t_s) >= unit.verdicts.rest_s;
  const on = powers.length === 1 || (fed_by.length && fed.length === fed_by.length);
  if (on && !stand.heats && rests && !stand.odd) return `on:${stand.calls.join("+")}`;
  return pocket_setting(unit, stand, t_s)?.key;
}
function pocket_end(stops, over) {
  for (let n = stops.length - 1; n >= 0; n--) if (over(stops[n])) stops.splice(n, 1);
}
// Heat drawn and the blower still in one setting, when the blower was due.
function pocket_without_blower(unit, without, stand, seen, event) {
  const heated = stand.calls.some((call) => unit.heat_calls.includes(call));
  const drawn = seen.some(
    ({ read, at, value }) => read === "amps" && value >= (without.draws[at] ?? Infinity),
  );
  const still = seen.filter(({ read, at }) => read === "amps" && at === "blower").at(-1);
  if (!drawn || !still || still.value >= without.still_below) return false;
  if (heated) return stand.from_rest && still.t - stand.changed_s >= without.due_s;
  return pocket_setting(unit, stand, event.t) !== null;
}
// What it bars is so, or was: the one step that an answer or a repair permits is over once it is so no more.
function pocket_switched(unit, stop, before, after) {
  const used = pocket_in_force(unit, stop, before);
  if (stop.permit && used && !pocket_in_force(unit, stop, after))
    Object.assign(stop, { permit: false, answered: false });
}
function pocket_in_force(unit, stop, stand) {
  const live = Object.keys(stand.power).filter((id) => stand.power[id] === "on");
  const heats = stand.calls.some((call) => unit.heat_calls.includes(call));
  if (stop.bars.includes("heat")) return heats && unit.strips.some((id) => live.includes(id));
  if (stop.bars.includes("breaker")) return stop.circuits.some((id) => live.includes(id));
  return live.length > 0;
}

// Why this must not be switched now, or empty: {power} of every circuit or of one, or {calls} from now on.
function pocket_barred(unit, events, t_s, { power, circuit, calls }) {
  const stand = pocket_stand(unit, events, t_s);
  const closing =
    power === "on"
      ? Object.keys(stand.power).filter((id) => stand.power[id] !== "on" && (circuit ?? id) === id)
      : [];
  const newly = calls ? calls.filter((call) => !stand.calls.includes(call)) : [];
  const heats = (calls ?? stand.calls).some((call) => unit.heat_calls.includes(call));
  const meets = (some, others) => some.some((one) => others.includes(one));
  const rules = {
    heat: () => meets(newly, unit.heat_calls) || (heats && meets(closing, unit.strips)),
    breaker: (stop) => meets(closing, stop.circuits),
    closing: () => closing.length > 0,
    loads: (stop) => meets(newly, stop.loads),
    "other-calls": () => newly.length > 0,
    "all-but-volts": () => closing.length > 0 || newly.length > 0,
    "dead-work": () => false,
    "only-with-fan": () => Boolean(calls) && pocket_without_fan(unit, events, t_s, stand, calls),
  };
  return (
    pocket_stops(unit, events).find(
      (stop) => !stop.permit && stop.bars.some((bar) => rules[bar](stop)),
    ) ?? null
  );
}

// Heat with the fan alone: it is not called without, it ends before the fan, and the fan stays on for its time.
function pocket_without_fan(unit, events, t_s, stand, calls) {
  const fan = unit.fan_call;
  const heats = (some) => some.some((call) => unit.heat_calls.includes(call));
  const begins = heats(calls.filter((call) => !stand.calls.includes(call)));
  if (!fan) return begins;
  const had = stand.calls.includes(fan);
  const drops = had && !calls.includes(fan);
  if (heats(calls) && !calls.includes(fan) && (begins || had)) return true;
  if (heats(stand.calls) && !heats(calls) && drops) return true;
  const ended = pocket_heat_ended(unit, events, t_s);
  return drops && t_s - ended < unit.stop_table.fan_after_heat_s;
}
// When a call for heat ended last, s.
function pocket_heat_ended(unit, events, t_s) {
  let ended_s = -Infinity;
  let stood = [];
  for (const { calls, t } of events) {
    if (!calls || t > t_s) continue;
    if (unit.heat_calls.some((call) => stood.includes(call) && !calls.includes(call))) ended_s = t;
    stood = calls;
  }
  return ended_s;
}

const Stops = {
  switch_barred(wanted) {
    const stop = pocket_barred(Now.unit, events(), seconds_now(), wanted);
    return stop ? say("barred", { stop: stop.text }) : "";
  },
  reading_barred(quantity) {
    const dead_only = Now.unit.dead_only.includes(quantity);
    const stop = pocket_stops(Now.unit, events()).find(
      ({ bars }) =>
        (dead_only && bars.includes("dead-work")) ||
        (bars.includes("all-but-volts") && !quantity.startsWith("volts")),
    );
    return stop ? say("barred", { stop: stop.text }) : "";
  },
  show() {
    const open = open_stops();
    $("stops").replaceChildren(
      ...open.map((stop) => {
        const how = made("input", { required: true, minLength: 3, maxLength: 500 });
        const label = made("label", { textContent: say("made-safe-how") }, how);
        const form = made(
          "form",
          { className: "made-safe" },
          label,
          made("button", { textContent: say("made-safe") }),
        );
        Object.assign(form.dataset, { code: stop.code, component: stop.component });
        const box = made(
          "section",
          { className: "stop" },
          made("h2", { textContent: `■ ${say("stop")}` }),
        );
        box.setAttribute("role", "alert");
        box.append(
          made("p", { textContent: stop.text }),
          made("p", { textContent: stop.acts }),
          form,
        );
        return box;
      }),
    );
  },
};
