// What of the texts on a page cannot be read: two that lie on each other, one that is cut, one that leaves the page.
const CLIPS = /(auto|scroll|hidden|clip)/;

const clips = new Map(); // of an element, what it and its ancestors let through; null where nothing of it is seen

function clip(element) {
  if (!element || element === document.documentElement) return { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
  if (clips.has(element)) return clips.get(element);
  const style = getComputedStyle(element);
  let found = style.position === "fixed" ? clip(null) : clip(element.parentElement);
  if (style.visibility === "hidden" || style.display === "none" || Number(style.opacity) === 0) found = null;
  if (found && element.ownerSVGElement === undefined) {
    const box = element.getBoundingClientRect();
    const [x, y] = [CLIPS.test(style.overflowX), CLIPS.test(style.overflowY)];
    found = {
      left: x ? Math.max(found.left, box.left) : found.left,
      right: x ? Math.min(found.right, box.right) : found.right,
      top: y ? Math.max(found.top, box.top) : found.top,
      bottom: y ? Math.min(found.bottom, box.bottom) : found.bottom,
    };
  }
  clips.set(element, found);
  return found;
}

// The part of a box that its ancestors let through.
function shown(element, box) {
  const through = clip(element);
  if (!through) return null;
  const [left, right] = [Math.max(through.left, box.left), Math.min(through.right, box.right)];
  const [top, bottom] = [Math.max(through.top, box.top), Math.min(through.bottom, box.bottom)];
  return right - left > 1 && bottom - top > 1 ? { left, top, right, bottom } : null;
}

const layer = (element) => element.closest(".opened, .tray-box, .menu-box, .tray-drawer, .doings-box, dialog, #frag-begin, .toast, .why, .phone-bar, .strip, .is-side .side")?.className ?? "";

function texts(roots) {
  const found = [];
  for (const root of document.querySelectorAll(roots)) {
    const walk = document.createTreeWalker(root, NodeFilter.SHOW_TEXT);
    while (walk.nextNode()) {
      const node = walk.currentNode;
      const element = node.parentElement;
      if (!node.textContent.trim() || element.closest(".visually-hidden, option, title, script, [aria-hidden=true] svg") || !element.checkVisibility()) continue;
      const range = document.createRange();
      range.selectNodeContents(node);
      for (const box of range.getClientRects()) {
        const part = shown(element, box);
        if (part) found.push({ element, text: node.textContent.trim().slice(0, 40), ...part, over: layer(element) });
      }
    }
  }
  return found;
}

export function unreadable(roots) {
  clips.clear();
  const all = texts(roots).sort((a, b) => a.top - b.top);
  const said = [];
  for (let place = 0; place < all.length; place += 1) {
    const one = all[place];
    for (let next = place + 1; next < all.length && all[next].top < one.bottom; next += 1) {
      const two = all[next];
      if (one.element === two.element || one.over !== two.over) continue;
      const wide = Math.min(one.right, two.right) - Math.max(one.left, two.left);
      const high = Math.min(one.bottom, two.bottom) - Math.max(one.top, two.top);
      if (wide > 2 && high > 4) said.push(`“${one.text}” lies on “${two.text}”`);
    }
  }
  for (const root of document.querySelectorAll(roots)) {
    for (const one of root.querySelectorAll("*")) {
      if (!(one instanceof HTMLElement) || !one.checkVisibility() || one.closest(".visually-hidden")) continue;
      const style = getComputedStyle(one);
      if (one.matches("select")) {
        const probe = document.createElement("span");
        probe.style.cssText = `position:absolute;visibility:hidden;white-space:pre;font:${style.fontWeight} ${style.fontSize} ${style.fontFamily}`;
        probe.textContent = one.selectedOptions[0]?.textContent.trim() ?? "";
        document.body.append(probe);
        const wide = probe.offsetWidth + parseFloat(style.paddingLeft) + parseFloat(style.paddingRight);
        if (wide > one.clientWidth + 1) said.push(`“${probe.textContent}” is cut in its menu`);
        probe.remove();
      }
      const field = one.matches("input:not([type=checkbox], [type=file])");
      const text = field ? one.value : [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim()) && one.textContent.trim();
      if (!text) continue;
      if ((field || CLIPS.test(style.overflowX)) && !/(auto|scroll)/.test(style.overflowX) && one.scrollWidth > one.clientWidth + 1) said.push(`“${String(text).slice(0, 50)}” is cut`);
    }
  }
  return [...new Set(said)];
}
