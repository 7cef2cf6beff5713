"""What a page is told to do to the queue: a network that fails by turns, entries in between, and the rest sent."""

from __future__ import annotations

#: A network that does each of these by a seeded turn, until it is told to behave.
NETWORK = """(seed) => {
  let state = seed * 2654435761 % 4294967296 || 1;
  window.turn = (n) => {
    state = (state * 1664525 + 1013904223) % 4294967296;
    return Math.floor(state / 4294967296 * n);
  };
  window.real ??= window.fetch.bind(window);
  window.fetch = async (...asked) => {
    switch (turn(7)) {
      case 0: throw new TypeError("cut on the way there");
      case 1: await real(...asked); throw new TypeError("cut on the way back");
      case 2: await real(...asked); return real(...asked);
      case 3:
        setTimeout(() => real(...asked).catch(() => 0), 30 + turn(100));
        throw new TypeError("given up, and it arrives all the same");
      default: return real(...asked);
    }
  };
}"""
#: Entries are kept in between sendings; what was kept is told.
SCHEDULE = """async ([unit, count, began_ms]) => {
  const key = crypto.randomUUID();
  await (await Outbox.db()).put("visits", { key, id: null, unit, started_ms: began_ms });
  const keep = (path, values, s) => Outbox.keep({
    id: values.client_id ?? crypto.randomUUID(), visit: key, unit, path, taken_ms: began_ms + 1000 * s, offset_ms: 0,
    fields: Object.entries(values).map(([name, value]) => [name, String(value)]),
  });
  const told = [];
  await keep("start", { client_id: key, complaint: "check-up" }, 0);
  for (let n = 1; n <= count; n++) {
    const client_id = crypto.randomUUID();
    const values = { client_id, at: "E1", quantity: "amps", value: n };
    await keep("readings", values, 10 * n);
    if (turn(4) === 0) await keep("readings", values, 10 * n);
    told.push(client_id);
    if (turn(2) === 0) await Outbox.send();
  }
  return told;
}"""
DRAIN = """async () => {
  window.fetch = window.real ?? window.fetch;
  await new Promise((done) => setTimeout(done, 150));
  for (let n = 0; n < 40; n++) {
    await Outbox.send({ ifAvailable: false });
    const left = await Outbox.unsent();
    if (!left.length) return [];
    if (left.some((one) => one.state === "refused")) return left;
    await new Promise((done) => setTimeout(done, 100));
  }
  return Outbox.unsent();
}"""
