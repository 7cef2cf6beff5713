"use strict";
// One queue for what is written here. An entry is *kept* when the phone has it and *stored* when the server has
// committed it; it is sent in order, once, after reload, crash or a week. docs/outbox.md has the rules.

const Outbox = {
  GIVE_UP_MS: 15_000,
  KEEP_STORED_MS: 14 * 86_400_000,
  // Entries that the page in front is sending by itself just now.
  flying: new Map(),
  // Nothing answered when it was asked last, whatever the browser says of its network.
  unanswered: false,
  // By visit what waits and no page is sending.
  waiting: new Map(),
  // These set how the unit stands: refused, what was done after them waits.
  SWITCHES: new Set(["start", "power", "calls", "wires", "take"]),

  db() {
    this.opened ??= idb.openDB("plentar", 1, {
      upgrade(db) {
        const entries = db.createObjectStore("entries", { keyPath: "seq", autoIncrement: true });
        entries.createIndex("id", "id", { unique: true });
        entries.createIndex("state", "state");
        entries.createIndex("visit", "visit");
        db.createObjectStore("units", { keyPath: "unit" });
        db.createObjectStore("visits", { keyPath: "key" });
        db.createObjectStore("meta", { keyPath: "name" });
      },
    });
    return this.opened;
  },
  async meta(name) {
    return (await (await this.db()).get("meta", name))?.value;
  },
  async set_meta(name, value) {
    await (await this.db()).put("meta", { name, value });
  },
  // Now by the server's clock, as far as it was ever asked.
  async now_ms() {
    return Date.now() + ((await this.meta("offset_ms")) ?? 0);
  },
  // What is kept or refused, in order.
  async unsent() {
    const db = await this.db();
    const found = [
      ...(await db.getAllFromIndex("entries", "state", "kept")),
      ...(await db.getAllFromIndex("entries", "state", "refused")),
    ];
    return found.sort((a, b) => a.seq - b.seq);
  },
  async find(id) {
    return (await this.db()).getFromIndex("entries", "id", id);
  },
  async of_visit(key) {
    return (await this.db()).getAllFromIndex("entries", "visit", key);
  },
  // Keep one: on the disk when this is done. The same id again is the same entry.
  async keep(entry) {
    const db = await this.db();
    const offset_ms = await this.meta("offset_ms");
    const account = document.body.dataset.account ?? (await this.meta("account"));
    const made = {
      taken_ms: Date.now(),
      offset_ms: offset_ms ?? null,
      account,
      ...entry,
      state: "kept",
      reason: "",
    };
    const work = db.transaction("entries", "readwrite", { durability: "strict" });
    if (!(await work.store.index("id").get(entry.id))) await work.store.add(made);
    await work.done;
    this.changed();
  },
  async mark(id, values) {
    const work = (await this.db()).transaction("entries", "readwrite");
    const known = await work.store.index("id").get(id);
    if (known) await work.store.put({ ...known, ...values });
    await work.done;
    this.changed();
  },
  async drop(id) {
    const work = (await this.db()).transaction("entries", "readwrite");
    const key = await work.store.index("id").getKey(id);
    if (key !== undefined) await work.store.delete(key);
    await work.done;
    this.changed();
  },
  // Told once for what changes together: with hundreds unsent each telling reads them all.
  changed() {
    this.telling ??= setTimeout(() => {
      this.telling = null;
      dispatchEvent(new Event("outbox"));
    }, 20);
  },

  // Who is signed in and what the server's clock says; null without signal, false where nobody is signed in.
  async contact() {
    const account = (await this.meta("account")) ?? "";
    const asked_ms = Date.now();
    let told;
    try {
      const answer = await fetch(`/outbox?account=${account}`, {
        signal: AbortSignal.timeout(this.GIVE_UP_MS),
      });
      told = await answer.json();
      this.unanswered = false;
    } catch {
      this.unanswered = true;
      return null;
    }
    const back_ms = Date.now();
    await this.set_meta("offset_ms", told.now_ms - (asked_ms + back_ms) / 2);
    if (told.gone) await this.forget();
    if (!told.account) return false;
    await this.belongs_to(told.account);
    return told;
  },
  // Whoever is signed in: what another account took along goes.
  async belongs_to(account) {
    const before = await this.meta("account");
    if (before === account) return;
    if (before) await this.forget();
    await this.set_meta("account", account);
  },
  // What was taken along goes; what was not sent stays.
  async forget() {
    await (await this.db()).clear("units");
    this.changed();
  },

  // Send what is kept, in order. One page at a time does it. "sent", "waits", or why nothing can be sent.
  send(how = { ifAvailable: true }) {
    return navigator.locks.request("plentar-outbox", how, async (lock) => {
      if (!lock) return "elsewhere";
      if (!(await this.unsent()).length) return "sent";
      const contact = await this.contact();
      if (contact === null) return "no-signal";
      if (contact === false) return "signed-out";
      const blocked = new Set();
      for (const entry of await this.unsent()) {
        if (entry.state === "refused" && this.SWITCHES.has(entry.path)) blocked.add(entry.visit);
        if (this.flying.has(entry.id)) blocked.add(entry.visit);
        if (entry.state !== "kept" || blocked.has(entry.visit)) continue;
        if (entry.account && entry.account !== contact.account) continue;
        const done = await this.send_one(entry, contact);
        if (!done) return "waits";
        if (done === "refused" && this.SWITCHES.has(entry.path)) blocked.add(entry.visit);
      }
      await this.tidy();
      return "sent";
    });
  },
  async address(entry) {
    if (entry.url) return entry.url;
    if (entry.path === "start") return `/units/${entry.unit}/visits`;
    const visit = await (await this.db()).get("visits", entry.visit);
    return visit?.id ? `/visits/${visit.id}/${entry.path}` : null;
  },
  // "stored", "refused", or null where it is to be tried again.
  async send_one(entry, contact) {
    const address = await this.address(entry);
    if (!address) return "waits for its visit";
    const form = new FormData();
    for (const [name, value] of entry.fields) if (name !== "csrf_token") form.append(name, value);
    const plain = [...form.values()].every((value) => typeof value === "string");
    // By the server's clock: with the offset of then, which holds also where this clock was set since.
    const offset_ms = entry.offset_ms ?? (await this.meta("offset_ms")) ?? 0;
    let answer, told;
    try {
      answer = await fetch(address, {
        method: "POST",
        body: plain ? new URLSearchParams(form) : form,
        headers: {
          "X-CSRFToken": contact.token,
          "Plentar-Taken": String(Math.round(entry.taken_ms + offset_ms)),
          "Plentar-Outbox": "1",
        },
        signal: AbortSignal.timeout(this.GIVE_UP_MS),
      });
      told = await answer.json();
    } catch {
      return null;
    }
    if (answer.ok) {
      if (entry.path === "start" && told.visit) await this.begun(entry.visit, told.visit);
      await this.mark(entry.id, {
        state: "stored",
        late: told.state === "late",
        to: told.to ?? null,
        stored_ms: Date.now(),
      });
      return "stored";
    }
    if (answer.status === 401 || answer.status === 429 || answer.status >= 500) return null;
    await this.mark(entry.id, { state: "refused", reason: told.reason, other: told.visit ?? null });
    return "refused";
  },
  // A visit that was begun here is this one on the server.
  async begun(key, id) {
    const work = (await this.db()).transaction("visits", "readwrite");
    const visit = await work.store.get(key);
    if (visit) await work.store.put({ ...visit, id });
    await work.done;
  },
  async tidy() {
    const work = (await this.db()).transaction("entries", "readwrite");
    for await (const cursor of work.store) {
      const { state, stored_ms } = cursor.value;
      if (state === "stored" && Date.now() - stored_ms > this.KEEP_STORED_MS) await cursor.delete();
    }
    await work.done;
  },

  // What was taken along is good for so long, and is gone at the next opening after it.
  async expire(good_for_days) {
    const work = (await this.db()).transaction("units", "readwrite");
    const now_ms = await Promise.resolve(Date.now());
    for await (const cursor of work.store)
      if (now_ms - cursor.value.along_ms > good_for_days * 86_400_000) await cursor.delete();
    await work.done;
  },
  // Units on board: those of the route and of today's visits, or one more at its address. How many; null without
  // signal.
  async take_along(one = "") {
    if (!(await this.contact())) return null;
    const asked = one
      ? [one]
      : await this.fetched("/pocket/route.json").then((told) => told?.units.map(({ at }) => at));
    if (!asked) return null;
    const found = [];
    for (const at of asked) {
      const unit = await this.fetched(at);
      if (unit) found.push(await this.packed(unit));
    }
    const work = (await this.db()).transaction("units", "readwrite");
    if (!one) await work.store.clear();
    for (const unit of found) await work.store.put(unit);
    const count = await work.store.count();
    await work.done;
    await this.closed_elsewhere(found);
    this.changed();
    return count;
  },
  // A visit that is open here and no more on the server is over, once all that was done in it is sent.
  async closed_elsewhere(units) {
    const waits = new Set((await this.unsent()).map((entry) => entry.visit));
    const work = (await this.db()).transaction("visits", "readwrite");
    for await (const cursor of work.store) {
      const { key, id, unit } = cursor.value;
      const along = units.find((one) => one.unit === unit);
      if (along && id && id !== along.visit && !waits.has(key)) await cursor.delete();
    }
    await work.done;
  },
  // As it is kept: what the list of units shows, and the rest packed.
  async packed(unit) {
    const { made_ms, label, place } = unit;
    const stream = new Blob([JSON.stringify(unit)])
      .stream()
      .pipeThrough(new CompressionStream("gzip"));
    const body = await new Response(stream).blob();
    const visit = unit.visit?.id ?? null;
    return { unit: unit.unit, made_ms, along_ms: Date.now(), label, place, visit, body };
  },
  async unpacked({ body }) {
    return new Response(body.stream().pipeThrough(new DecompressionStream("gzip"))).json();
  },
  async fetched(address) {
    try {
      const answer = await fetch(address);
      return answer.ok ? await answer.json() : null;
    } catch {
      return null;
    }
  },
};

if ("serviceWorker" in navigator) navigator.serviceWorker.register("/worker.js");
navigator.storage?.persist?.();

async function outbox_said() {
  const place = document.getElementById("unsent");
  const waits = (await Outbox.unsent()).filter((entry) => !Outbox.flying.has(entry.id));
  Outbox.waiting = new Map();
  for (const { id, visit } of waits)
    Outbox.waiting.set(visit, [...(Outbox.waiting.get(visit) ?? []), id]);
  const count = waits.length;
  if (place) {
    place.hidden = !count;
    place.querySelector("b").textContent = String(count);
  }
  document.body.dataset.unsent = String(count);
}
addEventListener("outbox", outbox_said);
addEventListener("online", () => Outbox.send());
document.addEventListener("DOMContentLoaded", async () => {
  const { account } = document.body.dataset;
  if (account) await Outbox.belongs_to(account);
  await outbox_said();
  await Outbox.send();
});
setInterval(async () => {
  if (document.body.dataset.unsent !== "0") await Outbox.send();
}, 10_000);

// A form of a page with signal goes through the same queue: it is kept while the page sends it, and stays kept where
// that fails. What was kept before it goes before it.
document.addEventListener("htmx:beforeRequest", (event) => {
  const { requestConfig } = event.detail;
  const id = requestConfig.verb === "post" ? requestConfig.parameters.client_id : null;
  if (!id || requestConfig.path.startsWith("/practice")) return;
  const [, visit, path] = requestConfig.path.match(/^\/visits\/([^/]+)\/(.*)$/) ?? [];
  const fields = [...requestConfig.formData].filter(([name]) => name !== "csrf_token");
  const kept = Outbox.keep({ id, url: requestConfig.path, visit, path, fields });
  if ((Outbox.waiting.get(visit) ?? []).some((other) => other !== id)) {
    event.preventDefault();
    kept
      .then(() => Outbox.send({ ifAvailable: false }))
      .then((done) => (done === "sent" ? location.reload() : outbox_told(id)));
  } else {
    Outbox.flying.set(id, kept);
  }
});
document.addEventListener("htmx:afterRequest", async (event) => {
  const id = event.detail.requestConfig?.parameters?.client_id;
  if (event.detail.requestConfig?.verb !== "post" || !Outbox.flying.has(id)) return;
  const status = event.detail.xhr?.status ?? 0;
  await Outbox.flying.get(id);
  // Stored, or refused to somebody who stands before it.
  const over = status >= 200 && status < 500 && status !== 429;
  if (over) await Outbox.drop(id);
  Outbox.flying.delete(id);
  Outbox.unanswered = status === 0;
  if (!over) outbox_told(id);
});
// It waits, and is said so; what is typed next in the same form is another entry.
function outbox_told(id) {
  Outbox.changed();
  document.getElementById("alert").textContent = say("kept");
  for (const input of document.querySelectorAll(`[name=client_id][value="${id}"]`))
    input.value = crypto.randomUUID();
}
// A form that leads to another page goes plainly where there is signal. Else it goes the same way: kept, sent, and on to
// where it leads; where it is refused the page of the form says why, beside the field.
document.addEventListener("submit", async (event) => {
  const { target: form, submitter } = event;
  const id = form.elements.client_id?.value;
  const url = form.getAttribute("action");
  const [, visit, path] = url?.match(/^\/visits\/([^/]+)\/(.*)$/) ?? [];
  if (!id || !path || form.dataset.hxPost || "plainly" in form.dataset) return;
  if (navigator.onLine && !Outbox.unanswered && !Outbox.waiting.get(visit)?.length) return;
  event.preventDefault();
  const fields = [...new FormData(form, submitter)].filter(([name]) => name !== "csrf_token");
  await Outbox.keep({ id, url, visit, path, fields });
  await Outbox.send({ ifAvailable: false });
  const sent = await Outbox.find(id);
  if (sent?.state === "stored") return outbox_leads(sent.to);
  if (sent?.state !== "refused") return outbox_told(id);
  await Outbox.drop(id);
  form.dataset.plainly = "";
  form.requestSubmit(submitter);
});
// On to a page, also where it is another place of this one.
function outbox_leads(to) {
  const page = new URL(to ?? "", location);
  const here = page.pathname === location.pathname && page.search === location.search;
  if (!here || !page.hash) return location.assign(page);
  history.replaceState(null, "", page);
  location.reload();
}
// Nobody leaves with something unsent and does not know it.
document.addEventListener("submit", (event) => {
  const unsent = Number(document.body.dataset.unsent ?? 0);
  if (!event.target.matches("[data-leaves]") || !unsent) return;
  if (!confirm(say("unsent-at-leaving", { n: unsent }))) event.preventDefault();
});
// What the drive takes along: said on the button itself.
document.addEventListener("click", async (event) => {
  const button = event.target.closest("[data-along]");
  if (!button) return;
  button.disabled = true;
  const count = await Outbox.take_along(button.dataset.along);
  button.disabled = false;
  button.textContent = count === null ? say("no-answer") : say("along", { n: count });
});
// A unit that is on board, and whose visit is in front with signal, is brought up to date when nothing happens.
let outbox_fresh = 0;
document.addEventListener("htmx:afterSettle", (event) => {
  if (event.detail.target?.id !== "judge") return;
  clearTimeout(outbox_fresh);
  outbox_fresh = setTimeout(async () => {
    const [, visit] = location.pathname.match(/^\/visits\/([^/]+)/) ?? [];
    const units = await (await Outbox.db()).getAll("units");
    const on_board = units.find((unit) => unit.visit === visit);
    if (on_board) await Outbox.take_along(`/pocket/units/${on_board.unit}.json`);
  }, 4000);
});
