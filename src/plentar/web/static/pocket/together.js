"use strict";
// Stops that readings raise together (core/pocket/pairs): a joint's volts and amps, a feed's two ends, its two legs.
// Each function says whether its row is raised by the newest of these readings.

function pocket_together(unit, events, reads) {
  const { together } = unit.stop_table;
  if (reads.at(-1).stand.odd) return [];
  const rules = { joints: pocket_joint, feeds: pocket_feed, legs: pocket_legs };
  return Object.entries(rules).flatMap(([name, raised]) =>
    together[name]
      .filter((row) => raised(row, together, reads, events, unit))
      .map(({ kind }) => kind),
  );
}
// Every reading with how the unit stood; `known` where nothing of an earlier setting may linger in it.
function pocket_reads(unit, events) {
  return events
    .filter((event) => "read" in event)
    .map((event) => {
      const stand = pocket_stand(unit, events, event.t);
      const set = JSON.stringify([stand.power, stand.calls, String(stand.changed_s)]);
      const known = pocket_setting(unit, stand, event.t) !== null;
      return { event, value: event.value, stand, set, known };
    });
}
const pocket_newest = (reads, at, quantity) =>
  reads.findLast(({ event }) => event.at === at && event.read === quantity);
// Nothing was switched between two readings.
const pocket_same = (one, other) => one.set === other.set;

function pocket_joint(row, figures, reads) {
  const across = pocket_newest(reads, row.point, "volts");
  if (!across) return false;
  const own = pocket_newest(reads, row.point, "amps");
  const clamped = own
    ? [own]
    : Object.keys(row.through).flatMap((at) => pocket_newest(reads, at, "amps") ?? []);
  const least = (one) => row.through[one.event.at] ?? Math.min(...Object.values(row.through));
  const carries = clamped.some((one) => one.value >= least(one));
  const volts = across.value;
  if (!carries || volts > row.most_volts) return false;
  const live = Object.values(across.stand.power).every((one) => one === "on");
  if (!live || ![across, ...clamped].every((one) => one.known && pocket_same(one, across)))
    return false;
  const amps = clamped.reduce((sum, one) => sum + one.value, 0);
  const surely = volts < figures.coarse_below ? Math.max(0, volts - figures.coarse_volts) : volts;
  const sound = figures.sound_ohms * amps ** 2;
  return (
    surely * amps >= Math.max(row.watts, row.ohms * amps ** 2) &&
    surely * amps > sound &&
    (volts - figures.low_range) * amps > sound
  );
}

function pocket_feed(row, figures, reads) {
  const at = (name) => reads.filter(({ event }) => event.at === name && event.read === "volts");
  const lines = at(row.line);
  const paired = (lug) =>
    lines.find(
      (line) => Math.abs(line.event.t - lug.event.t) <= figures.pair_s && pocket_same(line, lug),
    );
  const lug = at(row.lugs).findLast(
    (one) => one.stand.power[row.lugs] === "on" && one.value > row.least_lug_volts && paired(one),
  );
  if (!lug) return false;
  const beside = reads.filter((one) => pocket_same(one, lug));
  const clamp = beside.findLast(
    ({ event }) => row.clamps.includes(event.at) && event.read === "amps",
  );
  const clamped = clamp
    ? [clamp]
    : row.elements.flatMap((name) => pocket_newest(beside, name, "amps") ?? []);
  if (![lug, ...clamped].every(({ known }) => known)) return false;
  const amps = clamped.reduce((sum, one) => sum + one.value, 0);
  if (amps < 1) return false;
  const left =
    row.per_line * paired(lug).value + row.per_lug * lug.value + row.per_amp * amps + row.fixed;
  return left * amps >= row.watts;
}

function pocket_legs(row, figures, reads, events, unit) {
  const [circuit] = row.ones;
  const clamped = (names) =>
    reads.filter(({ event, stand }) => {
      const still = event.t - stand.changed_s >= figures.still_s;
      return still && names.includes(event.at) && event.read === "amps";
    });
  const twos = clamped([row.two]).filter(({ stand }) => stand.power[circuit] === "on");
  const pairs = clamped(row.ones).flatMap((one) =>
    twos
      .filter((two) => Math.abs(one.event.t - two.event.t) <= figures.leg_pair_s)
      .filter((two) => pocket_same(one, two))
      .map((two) => [one, two].sort((a, b) => b.event.t - a.event.t)),
  );
  pairs.sort((a, b) => a[0].event.t - b[0].event.t || a[1].event.t - b[1].event.t);
  if (!pairs.length) return false;
  const t_s = reads.at(-1).event.t;
  const so_far = events.filter(({ t }) => t <= t_s);
  if (so_far.some((event) => event.observe === "cycling")) return false;
  if (pocket_share(unit, circuit, pocket_volts(unit, so_far, circuit, t_s)) === null) return false;
  const [one, two] = pairs.at(-1);
  const larger = Math.max(one.value, two.value);
  const heats = one.stand.heats || Math.min(one.value, two.value) > figures.heat_from;
  const most = heats ? Math.max(figures.heat_amps, figures.heat_share * larger) : figures.idle_amps;
  const apart = Math.abs(one.value - two.value);
  const missed = row.rungs.some(([low, high]) => low <= apart && apart <= high);
  return !missed && apart - row.spanned > most;
}
