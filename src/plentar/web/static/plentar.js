"use strict";
// A text for the page, in the language that the page speaks.
function say(code, values = {}) {
  const text = JSON.parse(document.body.dataset.words)[code];
  return text.replace(/\{(\w+)\}/g, (_, name) => values[name]);
}
// What the pages need beyond htmx: keys of the pad, running clocks, focus. Everything works
// without this file, by links and forms.

// Links inside a drawing are SVG elements; htmx follows them but leaves the browser's own jump.
document.addEventListener("click", (event) => {
  const part = event.target.closest?.("svg a");
  if (!part) return;
  if (
    part.hasAttribute("data-hx-get") ||
    part.hasAttribute("data-hx-post") ||
    part.closest(".inert")
  )
    event.preventDefault();
});

document.addEventListener("click", (event) => {
  const key = event.target.closest("[data-key]");
  const setter = event.target.closest("[data-set]");
  if (key) press(key.form.elements.value, key.dataset.key);
  if (setter) type(document.getElementById(setter.dataset.set), setter.dataset.value);
  if (event.target.closest("[data-print]")) window.print();
});

function press(input, key) {
  const typed = input.value;
  if (key === "back") type(input, typed.slice(0, -1));
  else if (key === "OL") type(input, "OL");
  else type(input, typed + key);
}

function type(input, text) {
  input.value = text;
  input.dispatchEvent(new Event("input", { bubbles: true }));
}

// On a touch screen the pad's own keys replace the keyboard that would cover the drawing.
function settle() {
  if (!document.getElementById("drawing")?.dataset.now)
    shows(sessionStorage.getItem("side") ?? "line");
  const touch = matchMedia("(pointer: coarse)").matches;
  for (const input of document.querySelectorAll("[data-keys]")) {
    if (touch) input.inputMode = "none";
  }
  for (const zone of document.querySelectorAll("[data-own-zone]")) {
    zone.value ||= Intl.DateTimeFormat().resolvedOptions().timeZone;
  }
  for (const wait of document.querySelectorAll("[data-until]")) {
    if (Number(wait.dataset.until) > 0)
      wait.dataset.ends = String(Date.now() + 1000 * Number(wait.dataset.until));
    delete wait.dataset.until;
  }
  for (const timer of document.querySelectorAll("[data-since]:not([data-began])")) {
    timer.dataset.began = String(Date.now() - 1000 * Number(timer.dataset.since));
  }
}

setInterval(() => {
  for (const timer of document.querySelectorAll("[data-began]")) {
    const seconds = Math.round((Date.now() - Number(timer.dataset.began)) / 1000);
    timer.firstElementChild.textContent = clock(seconds);
  }
  for (const wait of document.querySelectorAll("[data-ends]")) {
    const left = Math.ceil((Number(wait.dataset.ends) - Date.now()) / 1000);
    if (left > 0) {
      wait.querySelector("b").textContent = clock(left);
    } else {
      wait.textContent = say("read-now");
      delete wait.dataset.ends;
    }
  }
}, 500);

function clock(seconds) {
  const two = (number) => String(number).padStart(2, "0");
  const hours = Math.floor(seconds / 3600);
  const minutes = Math.floor(seconds / 60) % 60;
  return hours
    ? `${hours}:${two(minutes)}:${two(seconds % 60)}`
    : `${minutes}:${two(seconds % 60)}`;
}

// After settling, not after swapping: only then does htmx listen to what was put in.
document.addEventListener("htmx:afterSettle", (event) => {
  settle();
  // What was refused stands until something else is done: the judge that comes late is no act.
  const act = event.detail.requestConfig?.verb !== "get";
  if (act && event.detail.target?.id !== "alert")
    document.getElementById("alert").replaceChildren();
  const stored = document.querySelector("#verdict[data-stored]");
  if (stored) {
    const form = document.querySelector("form.reading");
    stored.removeAttribute("data-stored");
    if (form.elements.value.id === "value") form.elements.value.value = ""; // a tone is two buttons
    form.dataset.stored = "yes";
  }
  propose();
  const place = event.detail.target; // none for what a stream puts in
  if (place?.id === "judge" && covered()) next_in_pad();
  if (place?.id === "bench") {
    mark(place.querySelector("#pad [data-point]")?.dataset.point);
    // What was set up and is not read yet goes on at the card.
    const set_up = event.detail.requestConfig?.path?.endsWith("/take");
    if (set_up && covered() && !place.querySelector("#pad.filled")) scrollTo(0, 0);
  }
  if (["pad", "panel"].includes(place?.id)) {
    if (!place.classList.contains("filled")) place.dataset.from = String(scrollY);
    place.classList.add("filled");
    mark(place.querySelector("[data-point]")?.dataset.point);
    place.querySelector("#value")?.focus({ preventScroll: true });
  }
});
document.addEventListener("DOMContentLoaded", settle);
// A refusal goes to the field that it names, else to the end of its form, where it is seen.
document.addEventListener("htmx:afterSettle", (event) => {
  const problem = document.querySelector("#alert > #problem");
  const form = event.detail.requestConfig?.elt?.closest("form:not(.reach form)");
  for (const old of document.querySelectorAll(".refused")) old.remove();
  if (!problem || event.detail.target?.id !== "alert" || !form?.isConnected) return;
  const named = form.elements.namedItem(problem.dataset.field);
  const field = named?.length && !named.options ? named[named.length - 1] : named;
  const said = document.createElement("p");
  said.className = "complaint refused";
  said.setAttribute("role", "alert");
  said.textContent = problem.dataset.reason;
  const shown = field && field.type !== "hidden" && field.type !== "submit";
  if (shown) (field.closest(".field, fieldset") ?? field.closest("label") ?? field).after(said);
  else form.append(said);
  document.getElementById("alert").replaceChildren();
  said.scrollIntoView({ block: "nearest" });
});
// What is stored goes before what is typed: no preview may overtake it, on the way or after.
document.addEventListener("htmx:beforeRequest", (event) => {
  const sender = event.detail.elt;
  const typed = document.getElementById("value");
  if (typed && sender.matches("form.reading")) htmx.trigger(typed, "htmx:abort");
  if (sender.id !== "value") return;
  const form = sender.form;
  if (form.dataset.stored || form.classList.contains("htmx-request")) event.preventDefault();
});
document.addEventListener("input", (event) => {
  if (event.target.id === "value") delete event.target.form.dataset.stored;
});
for (const name of ["htmx:sendError", "htmx:timeout"])
  document.addEventListener(name, (event) => {
    // What could not be sent is said by the queue, and not unsaid by a look that got no answer.
    const alert = document.getElementById("alert");
    if (event.detail.requestConfig?.verb !== "post" && !alert.textContent.trim())
      alert.textContent = say("no-answer");
  });

// Arrow keys go from part to part by where they lie on the drawing; Enter opens one to read it.
const ARROWS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
document.addEventListener("keydown", (event) => {
  const from = event.target.closest?.("svg.unit a");
  if (from && event.key === " ") {
    event.preventDefault();
    from.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true }));
  }
  const way = ARROWS[event.key];
  if (!from || !way) return;
  event.preventDefault();
  const here = centre(from);
  let nearest = null;
  let least = Infinity;
  for (const part of document.querySelectorAll("svg.unit a")) {
    if (part === from || !part.getClientRects().length) continue;
    const [x, y] = centre(part);
    const along = (x - here[0]) * way[0] + (y - here[1]) * way[1];
    const aside = Math.abs((x - here[0]) * way[1]) + Math.abs((y - here[1]) * way[0]);
    if (along > 8 && along + 3 * aside < least) [nearest, least] = [part, along + 3 * aside];
  }
  nearest?.focus();
});

function centre(part) {
  const box = part.getBoundingClientRect();
  return [box.x + box.width / 2, box.y + box.height / 2];
}

// On a phone the pad lies over the lower part: the chosen part moves above it.
function covered() {
  return matchMedia("(max-width: 820px)").matches;
}

// On a phone one side of the unit is drawn at a time; it stays as it was left.
function shows(side) {
  const drawing = document.querySelector("#drawing:has(.sides)");
  if (!drawing) return;
  drawing.dataset.now = side;
  drawing.firstElementChild.hidden = false;
  for (const button of drawing.querySelectorAll("[data-shows]"))
    button.setAttribute("aria-pressed", String(button.dataset.shows === side));
}
document.addEventListener("click", (event) => {
  const side = event.target.closest("[data-shows]")?.dataset.shows;
  if (!side) return;
  sessionStorage.setItem("side", side);
  shows(side);
});

// The pad lies over the page there: what comes after a reading stands in it, and it gives the page
// back as it was, by a touch or a swipe downward.
function next_in_pad() {
  const then = document.getElementById("then");
  const stored = document.querySelector("form.reading[data-stored]");
  if (!then || !stored || then.querySelector(".stop")) return;
  const shown = [".stop", ".clear-cut", ".next", ".hint"]
    .map((kind) => document.querySelector(`#judge > ${kind}`)?.cloneNode(true))
    .filter(Boolean);
  for (const one of shown) one.querySelector("form:has(input:not([type=hidden]))")?.remove();
  then.replaceChildren(...shown);
  htmx.process(then);
  const pad = document.getElementById("pad");
  pad.scrollTop += then.getBoundingClientRect().bottom - pad.getBoundingClientRect().bottom;
}
function shut() {
  const pad = document.getElementById("pad");
  pad.classList.remove("filled");
  pad.replaceChildren();
  mark("");
  scrollTo(0, Number(pad.dataset.from ?? scrollY));
}
document.addEventListener("click", (event) => {
  const again = event.target.closest("[data-again]");
  if (again) {
    delete again.form.dataset.stored;
    document.getElementById("then").replaceChildren();
  }
  const door = event.target.closest("#pad :is(.shut, [data-shut])");
  if (!door) return;
  event.preventDefault();
  shut();
  if (door.hash) document.querySelector(door.hash).scrollIntoView();
});
let touched = null;
document.addEventListener("touchstart", (event) => {
  const pad = event.target.closest("#pad.filled");
  touched = pad && !pad.scrollTop ? event.touches[0].clientY : null;
});
document.addEventListener("touchend", (event) => {
  if (touched !== null && covered() && event.changedTouches[0].clientY - touched > 90) shut();
  touched = null;
});

// What is to be read next is ringed on the drawing.
function propose() {
  const name = document.querySelector(".next.first")?.dataset.at;
  for (const part of document.querySelectorAll("svg.unit a.part")) {
    part.classList.toggle("proposed", Boolean(name) && part.id.endsWith(`-${name}`));
  }
}

function mark(name) {
  if (!name && !document.querySelector("svg.unit a.chosen")) return;
  for (const part of document.querySelectorAll("svg.unit a.part")) {
    const chosen = part.id.endsWith(`-${name}`);
    part.classList.toggle("chosen", chosen);
    if (!chosen || !covered()) continue;
    shows(part.closest("[data-drawn]")?.dataset.drawn ?? "line");
    if (part.getClientRects().length) part.scrollIntoView({ block: "start" });
  }
}

// On the relay bench what could not be sent says so where it was touched; sent again under the same
// id, it is stored once.
document.addEventListener("htmx:sendError", (event) => {
  const form = event.detail.elt.closest?.("form.move, form.back, form.pair-row");
  if (!form) return;
  const touched = event.detail.requestConfig?.triggeringEvent?.submitter;
  const button = touched ?? form.querySelector("button");
  form.classList.add("pending");
  button.dataset.said ??= button.textContent;
  button.textContent = say("not-sent", { said: button.dataset.said });
});
