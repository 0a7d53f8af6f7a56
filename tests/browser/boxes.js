// What of the texts on a page cannot be read: two that lie on each other, one that is cut, one that leaves the page.
const CLIPS = /(auto|scroll|hidden|clip)/;

// The part of a box that its ancestors let through.
function shown(element, box) {
  let { left, top, right, bottom } = box;
  for (let one = element; one && one !== document.documentElement; one = one.parentElement) {
    const style = getComputedStyle(one);
    if (style.visibility === "hidden" || style.display === "none" || Number(style.opacity) === 0) return null;
    if (one !== element || one.ownerSVGElement === undefined) {
      const clip = one.getBoundingClientRect();
      if (CLIPS.test(style.overflowX)) [left, right] = [Math.max(left, clip.left), Math.min(right, clip.right)];
      if (CLIPS.test(style.overflowY)) [top, bottom] = [Math.max(top, clip.top), Math.min(bottom, clip.bottom)];
    }
    if (style.position === "fixed") break;
  }
  [left, right] = [Math.max(left, 0), Math.min(right, innerWidth)];
  [top, bottom] = [Math.max(top, 0), Math.min(bottom, innerHeight)];
  return right - left > 1 && bottom - top > 1 ? { left, top, right, bottom } : null;
}

const layer = (element) => element.closest(".opened, .menu-box, .tray-drawer, .doings-box, dialog, #frag-begin, .toast, .why, .phone-bar, .strip, .is-side .side")?.className ?? "";

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
  const all = texts(roots);
  const said = [];
  for (const [place, one] of all.entries()) {
    for (const two of all.slice(place + 1)) {
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
