"use strict";
// What a reading means without signal: by the table that the program made of the unit (core/pocket). Nothing here
// knows a figure; it knows how a table is read. Times in seconds of the visit, volts at the lugs.

const POCKET_HARMLESS = new Set(["remade", "tightened", "renewed", "reset", "cleaned"]);

// How the unit stands by what was done: power by circuit, calls, since when, whether it came from rest.
function pocket_stand(unit, events, t_s) {
  const course = pocket_course(unit, events);
  let last = course.length - 1;
  while (last > 0 && course[last].t > t_s) last--;
  return course[last].stand;
}
// The same at the beginning and after each event; worked out once for each list of events.
const POCKET_COURSES = new WeakMap();
function pocket_course(unit, events) {
  if (!POCKET_COURSES.has(events)) POCKET_COURSES.set(events, [...pocket_steps(unit, events)]);
  return POCKET_COURSES.get(events);
}
function* pocket_steps(unit, events) {
  const rest_s = unit.verdicts.rest_s;
  const power = Object.fromEntries(Object.keys(unit.circuits).map((id) => [id, "on"]));
  const stand = { calls: [], changed_s: -Infinity, ended_s: -Infinity, from_rest: true, odd: "" };
  const now = () => ({
    ...stand,
    power: { ...power },
    heats: stand.calls.some((call) => unit.heat_calls.includes(call)),
  });
  yield { t: -Infinity, stand: now() };
  for (const event of events) {
    const before = JSON.stringify([power, stand.calls]);
    const called = stand.calls.length > 0;
    if ("power" in event) {
      for (const id of event.circuit ? [event.circuit] : Object.keys(power))
        power[id] = event.power;
    } else if ("calls" in event) {
      stand.calls = [...event.calls].sort();
      if (event.lifted || event.lead_s) stand.odd = "wires";
    } else if ("read" in event) {
      // A reading that shows it live takes the proof away.
      const void_from = unit.void[`${event.at} ${event.read}`];
      if (Object.values(power).every((one) => one !== "on") && event.value >= void_from)
        for (const id of Object.keys(power)) power[id] = "off";
    } else if (
      "wires" in event ||
      "swap" in event ||
      "wire" in event ||
      ("replaced" in event && event.by) ||
      ("did" in event && !POCKET_HARMLESS.has(event.did))
    ) {
      stand.odd = "work";
    }
    if (JSON.stringify([power, stand.calls]) !== before) {
      const all_on = Object.values(power).every((one) => one === "on");
      const rested = event.t - stand.ended_s >= rest_s;
      stand.from_rest = all_on && !called && rested && "calls" in event;
      if (called) stand.ended_s = event.t;
      if (!("read" in event)) stand.changed_s = event.t;
    }
    yield { t: event.t, stand: now() };
  }
}

// The setting that the table knows, and how long it has stood; null where the program is to be asked.
function pocket_setting(unit, stand, t_s) {
  const { rest_s, settled_s } = unit.verdicts;
  const powers = [...new Set(Object.values(stand.power))];
  if (powers.length !== 1 || stand.odd) return null;
  const key = `${powers[0]}:${stand.calls.join("+")}`;
  if (!(key in unit.verdicts.settings)) return null;
  const since_s = t_s - stand.changed_s;
  if (powers[0] !== "on") return { key, elapsed_s: 0 };
  if (since_s >= settled_s) return { key, elapsed_s: settled_s };
  if (!stand.calls.length) {
    const never = stand.changed_s === -Infinity;
    return never || t_s - stand.ended_s >= rest_s ? { key, elapsed_s: settled_s } : null;
  }
  return stand.from_rest ? { key, elapsed_s: since_s } : null;
}

// The lug volts that a reading at this time is judged by; null where none were read.
function pocket_volts(unit, events, circuit, t_s) {
  const live = events.filter(
    (event) =>
      event.read === "volts" &&
      event.at === circuit &&
      event.value > unit.circuits[circuit].lost_below &&
      pocket_stand(unit, events, event.t).power[circuit] === "on",
  );
  const heated = live.filter((event) =>
    pocket_stand(unit, events, event.t).calls.some((call) => unit.heat_calls.includes(call)),
  );
  const chosen = heated.length ? heated : live;
  const after = chosen.findIndex((event) => event.t >= t_s);
  const beside = after < 0 ? chosen.slice(-1) : chosen.slice(Math.max(0, after - 1), after + 1);
  let best = null;
  for (const event of beside)
    if (!best || Math.abs(event.t - t_s) < Math.abs(best.t - t_s)) best = event;
  return best ? best.value : null;
}

// The volts as a share of the rated, 1 where none were read; null where the tables know no such volts.
function pocket_share(unit, circuit, volts) {
  const { low_share, high_share } = unit.verdicts;
  const share = volts === null ? 1 : volts / unit.circuits[circuit].rated;
  return share < low_share || share > high_share ? null : share;
}

// A coil that was read in this call may get less than it is made for, and then its windows are longer.
function pocket_slow(unit, stand, events) {
  return events.some(
    (event) =>
      event.read === "volts" && unit.slow_coils.includes(event.at) && event.t >= stand.changed_s,
  );
}

// What is due: {provisional, spans: [{end, within, word, good}]}, or null where the program is to be asked.
function pocket_due(unit, events, t_s, point, quantity) {
  const stand = pocket_stand(unit, events, t_s);
  const setting = pocket_setting(unit, stand, t_s);
  const row = setting && unit.verdicts.settings[setting.key][`${point} ${quantity}`];
  if (!row) return null;
  if (stand.calls.length && pocket_slow(unit, stand, events)) return null;
  const [circuit, by_volts, unread] = row;
  const volts = pocket_volts(unit, events, circuit, t_s);
  if (pocket_share(unit, circuit, volts) === null) return null;
  const number = volts === null ? unread : by_volts;
  if (number === null) return null;
  const course = unit.verdicts.courses[number];
  const [, provisional, spans] = course.findLast(([from_s]) => from_s <= setting.elapsed_s);
  return {
    provisional,
    spans: spans.map((n) => {
      const [at, per_volt, within, word, good] = unit.verdicts.spans[n];
      return { end: at === null ? Infinity : at + per_volt * (volts ?? 0), within, word, good };
    }),
  };
}

function pocket_verdict(due, value) {
  return due.spans.find(
    ({ end, within }) => value < end || end === Infinity || (within && value === end),
  );
}
