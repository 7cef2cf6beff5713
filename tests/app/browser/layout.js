/* What of a page's text is cut off or lies over other text, and whether the page is wider than its window. */
() => {
  const wrong = [];
  const width = document.documentElement.clientWidth;
  if (document.documentElement.scrollWidth > width)
    wrong.push(`page: ${document.documentElement.scrollWidth} wide`);
  const rects = [];
  const texts = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let node = texts.nextNode(); node; node = texts.nextNode()) {
    if (!node.data.trim()) continue;
    const of = node.parentElement;
    if (!of.checkVisibility({ opacityProperty: true, visibilityProperty: true })) continue;
    if (of.closest("script, style, option, datalist, noscript, title, desc, .sr-only, .skip"))
      continue;
    const range = document.createRange();
    range.selectNodeContents(node);
    for (const r of range.getClientRects())
      if (r.width > 2 && r.height > 2) rects.push({ r, of, text: node.data.trim().slice(0, 40) });
  }
  for (const { r, of, text } of rects) {
    for (let box = of; box && box !== document.body; box = box.parentElement) {
      const { overflowX } = getComputedStyle(box);
      if (overflowX === "auto" || overflowX === "scroll") break;
      const b = box.getBoundingClientRect();
      if (
        (overflowX === "hidden" || overflowX === "clip") &&
        (r.right > b.right + 2 || r.left < b.left - 2)
      ) {
        wrong.push(`cut: ${text}`);
        break;
      }
    }
  }
  const scrolled = (of) =>
    [
      ...(function* () {
        for (let b = of; b && b !== document.body; b = b.parentElement) yield b;
      })(),
    ].find(
      (b) =>
        ["auto", "scroll"].includes(getComputedStyle(b).overflowX) ||
        getComputedStyle(b).position === "sticky" ||
        getComputedStyle(b).position === "fixed",
    );
  const boxes = rects.map((one) => ({ ...one, in: scrolled(one.of) }));
  for (let i = 0; i < boxes.length; i++)
    for (let j = i + 1; j < boxes.length; j++) {
      const [a, b] = [boxes[i], boxes[j]];
      if (a.in !== b.in || a.of === b.of || (a.of.contains(b.of) && a.r.height > 30)) continue;
      const across = Math.min(a.r.right, b.r.right) - Math.max(a.r.left, b.r.left);
      const down = Math.min(a.r.bottom, b.r.bottom) - Math.max(a.r.top, b.r.top);
      if (across > 3 && down > 0.45 * Math.min(a.r.height, b.r.height))
        wrong.push(`over each other: ${a.text} | ${b.text}`);
    }
  return [...new Set(wrong)];
};
