"use strict";
// The next card by the plan that came along: it goes on with what the plan foresaw, and ends with anything else.
function planned() {
  const plan = Now.unit.visit?.id === Now.visit.id ? Now.unit.visit.plan : null;
  let step = plan;
  for (const { event, state } of Now.entries) {
    if (!step || !event || state === "refused" || "calls" in event || "power" in event) continue;
    const { card } = step;
    const read = event.read === card?.quantity && event.at === card?.at;
    const then = read
      ? step.then.find(({ low, high }) => low <= event.value && event.value <= (high ?? Infinity))
      : null;
    step = then?.step ?? null;
  }
  return step;
}
function show_next() {
  const step = planned();
  const made_ms = moment(Now.unit.made_ms);
  if (!step?.card) {
    const words = step?.advice.length ? step.advice : [say("next-with-signal")];
    $("next").replaceChildren(
      ...words.map((text) => made("p", { className: "hint", textContent: text })),
    );
    return;
  }
  const { card } = step;
  const barred = pocket_stops(Now.unit, events()).find((stop) => !stop.permit);
  if (barred) {
    $("next").replaceChildren(
      made("p", { className: "hint", textContent: say("barred", { stop: barred.text }) }),
    );
    return;
  }
  const box = made("article", { className: "next first" });
  box.append(
    made("p", {
      className: "kicker",
      textContent: `${say("planned", { when: made_ms })} ${card.minutes}`,
    }),
  );
  box.append(
    made("h3", { textContent: card.title }),
    made("p", { className: "setting", textContent: card.setting }),
  );
  const steps = made("p", { className: "steps" });
  steps.append(...card.steps.map((text) => made("span", { textContent: text })));
  box.append(steps, made("p", { className: "caution", textContent: card.caution }));
  const button = made("button", {
    type: "button",
    className: "main",
    textContent: say("open-pad"),
  });
  button.dataset.point = card.at;
  box.append(button);
  $("next").replaceChildren(box);
}
