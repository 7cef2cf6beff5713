"use strict";
// The windows of the newest run of calls, by what starts each clock (core/pocket/windows) and what was seen. Times in
// seconds of the visit.

// From when to when any of these calls stood, since a time; the end null while it does.
function pocket_spells(events, calls, from_s) {
  const spells = [];
  for (const event of events) {
    if (!("calls" in event) || event.t < from_s) continue;
    const last = spells.at(-1);
    const open = last && last.end === null;
    const called = event.calls.some((call) => calls.includes(call));
    if (called && !open) spells.push({ start: event.t, end: null });
    if (!called && open) last.end = event.t;
  }
  return spells;
}
// When the newest run began, a call after nothing was called. Null where there is none, or where what came between
// (breakers, wires, work) is the program's to tell.
function pocket_run(unit, events) {
  let began = null;
  let calls = [];
  let odd = "";
  for (const event of events) {
    if ("calls" in event) {
      if (!calls.length && event.calls.length) [began, odd] = [event.t, ""];
      calls = event.calls;
      if (event.lifted || event.lead_s) odd = "wires";
    } else if ("power" in event || "wires" in event || "swap" in event || "wire" in event)
      odd = "work";
  }
  const stand = pocket_stand(unit, events, Infinity);
  return began === null || odd || stand.odd ? null : began;
}

// Every move that is known: {part, action, word, due, start, seen, provisional, typical}.
function pocket_windows(unit, events, t_s) {
  const began = pocket_run(unit, events);
  if (began === null) return null;
  const { moves, error_s } = unit.windows;
  const known = new Map();
  const spells = (calls) => pocket_spells(events, calls, began);
  const find = (part, action) => moves.find((row) => row.part === part && row.action === action);

  function seen_at(row, from_s, to_s) {
    return events.find(
      ({ observe, part, t }) =>
        observe === row.action && part === row.part && t >= from_s - error_s && t < to_s,
    )?.t;
  }
  // The ways in which it is made to act in this run, the soonest first.
  function ways_of(row) {
    const found = row.ways.flatMap(({ calls, after, low, high }) => {
      const every = pocket_spells(events, calls, -Infinity);
      const spell = every.at(-1)?.start >= began ? every.at(-1) : null;
      const begins = row.action === "on" ? spell?.start : spell?.end;
      if (!spell || begins === null) return spell ? [{ open: true }] : [];
      const before = after ? move_of(find(after, row.action)) : null;
      if (after && !before) return [];
      const acted = before && (before.seen === null ? before.due : [before.seen, before.seen]);
      const starts = acted ?? [begins, begins];
      const due = [starts[0] + low, starts[1] + high];
      // The blower acts with the switch that feeds it, and its clock is that switch's.
      const clock = row.part === "blower" && before?.seen === null ? before.clock : starts;
      const earlier = every.length > 1 ? every.at(-2).end + error_s : -Infinity;
      return [{ calls, spell, start: begins, clock, due, from: Math.max(clock[0], earlier) }];
    });
    return found.sort((a, b) => a.due?.[0] - b.due?.[0]);
  }
  function move_of(row) {
    const key = `${row.part} ${row.action}`;
    if (!known.has(key)) known.set(key, row.action === "on" ? on(row) : off(row));
    return known.get(key);
  }
  function on(row) {
    const ways = ways_of(row);
    if (!ways.length || slow(row, ways[0])) return null;
    const ended =
      row.part === "blower" ? move_of(find(row.part, "off"))?.due[0] : ways[0].spell.end;
    const until = ended ?? Infinity;
    const seen = seen_at(row, ways[0].from, until) ?? null;
    if (seen === null && ways[0].due[0] > until) return null;
    const fits = ways.filter(
      ({ clock, due }) => clock[0] - error_s <= seen && seen <= due[1] + error_s,
    );
    return told(row, (seen === null ? null : fits.at(-1)) ?? ways[0], seen);
  }
  function off(row) {
    const ways = ways_of(row);
    if (!ways.length || ways.some(({ open }) => open)) return null;
    // What had no time to close need not open.
    if (row.part !== "blower" && !move_of(find(row.part, "on"))) return null;
    const way = ways.reduce((late, one) => (one.due[1] > late.due[1] ? one : late));
    return told(row, way, seen_at(row, way.clock[0], Infinity) ?? null);
  }
  // A heater whose volts were read is slower where they are low.
  function slow(row, { spell }) {
    return (
      row.thermal &&
      events.some(
        ({ read, at, t }) => read === "volts" && unit.slow_coils.includes(at) && t >= spell.start,
      )
    );
  }
  function told(row, way, seen) {
    const { due, start, clock, spell } = way;
    const energised = row.thermal && row.action === "off" ? spell.end - spell.start : Infinity;
    const provisional = energised < unit.windows.off_test_s;
    const word = word_of(row, due, clock, seen);
    return { ...row, word, due, clock, start, seen, provisional, calls: way.calls };
  }
  function word_of(row, due, clock, seen) {
    if (seen !== null) {
      if (seen > due[1] + error_s) return "late";
      return seen < due[0] - error_s ? "early" : "in-window";
    }
    const clamped = events.some(({ read, at, t, value }) => {
      const floor = read === "amps" && t <= t_s ? row.drawn_at[at] : undefined;
      if (floor === undefined || t < clock[0]) return false;
      return row.action === "on" ? value >= floor && t >= due[0] : value < floor;
    });
    if (clamped) return "shown";
    if (t_s < due[0]) return "waiting";
    return t_s <= due[1] ? "due" : "not-seen";
  }
  // The blower runs on, and several calls hold it: told where each began at rest, all of a run ended together, and nothing
  // was seen of it in a run before.
  function plain({ part, ways }) {
    if (part !== "blower") return true;
    const each = ways.map(({ calls }) => calls);
    const rested = [...each, each.flat()].every((calls) =>
      pocket_spells(events, calls, -Infinity).every(
        (one, n, some) => n === 0 || one.start - some[n - 1].end >= unit.verdicts.rest_s,
      ),
    );
    const now = ways.flatMap(({ calls }) => spells(calls));
    const ends = new Set(now.map(({ end }) => end));
    const before = events.some(
      (event) =>
        event.observe &&
        (event.part === "blower" ? event.t < began : ways.some((way) => stray(way, event))),
    );
    return rested && ends.size < 2 && !before;
  }
  // A switch was seen to act that nothing of this run has fed yet.
  const stray = ({ after, calls }, { part, t }) =>
    part === after && t < (spells(calls)[0]?.start ?? Infinity);
  return moves
    .filter(plain)
    .map(move_of)
    .filter((move) => move && move.clock[0] >= began);
}
