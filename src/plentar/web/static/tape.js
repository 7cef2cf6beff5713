"use strict";
// The tape while it runs: the line of now, times to go, presses stamped when they are made.
// The times themselves are the visit's events; this file only shows where now is.

const ahead = { ms: Number.NEGATIVE_INFINITY }; // of the visit's time over this clock
let held = false;
let alarm = null;
const LONGEST_PRESS_S = 2;
const finger = { down: false, at: 0, missed: false }; // on the screen, since when by the visit's time

function visitNow() {
  return (Date.now() + ahead.ms) / 1000;
}

// An answer is as old as its way here was long: of all, the one that is furthest ahead is best,
// and none may set the clock back.
function synchronise() {
  const tape = document.querySelector(".tape[data-live]");
  if (!tape) return;
  const found = 1000 * Number(tape.dataset.elapsed) - Date.now();
  ahead.ms = Math.max(ahead.ms, found);
  for (const [name, on] of [
    ["hold", held],
    ["alarm", Boolean(alarm)],
  ]) {
    tape.querySelector(`[data-${name}]`)?.setAttribute("aria-pressed", String(on));
  }
  show();
}

function place(pieces, t) {
  for (const [t0, t1, x0, x1] of pieces) {
    if (t <= t1) return x0 + (x1 - x0) * Math.min(Math.max((t - t0) / (t1 - t0), 0), 1);
  }
  return 1;
}

function show() {
  const tape = document.querySelector(".tape[data-live]");
  if (!tape) return;
  const t = visitNow();
  for (const timer of tape.querySelectorAll("[data-zero]"))
    timer.textContent = clock(Math.max(0, Math.round(t - Number(timer.dataset.zero))));
  if (held) return;
  const x = place(JSON.parse(tape.dataset.pieces), t);
  for (const line of tape.querySelectorAll(".lanes .now")) {
    line.setAttribute("x1", `${100 * x}%`);
    line.setAttribute("x2", `${100 * x}%`);
  }
  for (const grows of tape.querySelectorAll(".lanes [data-from]")) {
    if (grows.tagName === "rect")
      grows.setAttribute("width", `${100 * Math.max(0, x - Number(grows.dataset.from))}%`);
    else grows.setAttribute("x2", `${100 * Math.max(x, Number(grows.dataset.from))}%`);
  }
  for (const left of tape.querySelectorAll(".waits .left")) {
    const [low, high] = [Number(left.dataset.low), Number(left.dataset.high)];
    if (t < low) left.textContent = say("in", { time: clock(Math.ceil(low - t)) });
    else if (t <= high) left.textContent = say("left", { time: clock(Math.ceil(high - t)) });
    else left.textContent = say("over");
  }
  turn(tape, t);
}

// Words change where a window begins or ends: then the page is asked for again.
function turn(tape, t) {
  const turns = tape.dataset.turns ? tape.dataset.turns.split(",").map(Number) : [];
  const passed = turns.filter((at) => at <= t);
  if (!passed.length || finger.down || document.querySelector(".press.pending")) return;
  tape.dataset.turns = turns.slice(passed.length).join(",");
  alarm?.();
  refresh();
}

// Nothing is swapped away from under a finger; a press counts from when it began.
document.addEventListener("pointerdown", () =>
  Object.assign(finger, { down: true, at: visitNow() }),
);
for (const end of ["pointerup", "pointercancel"]) {
  document.addEventListener(end, () => {
    finger.down = false;
    if (finger.missed) setTimeout(refresh, 100);
    finger.missed = false;
  });
}
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target.id !== "tape") return;
  const asked = Number(
    /data-elapsed="([\d.]+)"/.exec(event.detail.xhr.responseText)?.[1] ?? Infinity,
  );
  const shown = Number(document.querySelector(".tape")?.dataset.elapsed ?? 0);
  // Answers may overtake each other: an older one shows nothing new. Nor may one take away a
  // press that is on its way or could not be sent.
  const looked = event.detail.requestConfig.verb === "get";
  const unsent = document.querySelector(".press.pending, .press.htmx-request");
  if (finger.down || asked < shown || (looked && unsent)) event.detail.shouldSwap = false;
  finger.missed ||= finger.down;
});

function refresh() {
  const { url } = document.querySelector(".tape").dataset;
  // What does not come is said by the page's alert, and asked for again at the next turn.
  htmx.ajax("GET", url, { target: "#tape", swap: "innerHTML" }).catch(() => {});
}

document.addEventListener("click", (event) => {
  const button = event.target.closest?.("button");
  if (!button) return;
  if (button.matches("[data-press]")) stamp(button.form);
  if (button.matches("[data-hold]")) {
    held = !held;
    button.setAttribute("aria-pressed", String(held));
    if (!held) refresh();
  }
  if (button.matches("[data-alarm]")) {
    alarm = alarm ? null : bell();
    button.setAttribute("aria-pressed", String(Boolean(alarm)));
  }
});

// The time of the press, not of its arrival. What could not be sent keeps its time.
function stamp(form) {
  const field = form.elements.t;
  if (form.classList.contains("pending")) return;
  const now = visitNow();
  field.disabled = false;
  field.value = Math.max(0, now - finger.at < LONGEST_PRESS_S ? finger.at : now).toFixed(1);
}

document.addEventListener("htmx:sendError", (event) => {
  const form = event.detail.elt.closest?.("form.press");
  if (!form) return;
  form.classList.add("pending");
  form.querySelector("button span").textContent = say("send-again");
});

function bell() {
  const sound = new AudioContext();
  return () => {
    navigator.vibrate?.([200, 100, 200]);
    const tone = sound.createOscillator();
    tone.frequency.value = 880;
    tone.connect(sound.destination);
    tone.start();
    tone.stop(sound.currentTime + 0.35);
  };
}

document.addEventListener("keydown", (event) => {
  if (event.repeat || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.closest?.("input, select, textarea")) return;
  if (!/^[1-9]$/.test(event.key)) return;
  document.querySelector(`[data-press="${event.key}"]`)?.click();
});

document.addEventListener("DOMContentLoaded", synchronise);
document.addEventListener("htmx:afterSettle", synchronise);
document.addEventListener("visibilitychange", () => {
  if (!document.hidden) show();
});
setInterval(show, 200);

// Drag over a curve to look closer.
let grip = null;
document.addEventListener("pointerdown", (event) => {
  const plot = event.target.closest?.("#plot svg[data-plot]");
  grip = plot ? { plot, x: event.clientX } : null;
});
document.addEventListener("pointerup", (event) => {
  if (!grip || Math.abs(event.clientX - grip.x) < 12) return;
  const box = grip.plot.getBoundingClientRect();
  const [from, to] = [Number(grip.plot.dataset.from), Number(grip.plot.dataset.to)];
  const [a, b] = [grip.x, event.clientX]
    .map((x) => from + ((to - from) * (x - box.left)) / box.width)
    .sort((p, q) => p - q);
  const url = grip.plot.closest(".plotted").dataset.url;
  grip = null;
  htmx.ajax("GET", `${url}&from=${a.toFixed(1)}&to=${b.toFixed(1)}`, {
    target: "#plot",
    swap: "innerHTML",
  });
});
