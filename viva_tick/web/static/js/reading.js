// Read my program: what is typed, pasted or dropped is read; a mend changes the text, and it is read again.
import { ask } from "./net.js";

const at = (id) => document.getElementById(id);
let asked = 0;

function listed(show) {
  const old = document.querySelector(".listing");
  old?.remove();
  at("read-text").hidden = show;
  if (!show) return;
  document.querySelector(".brought").append(at("listing").content.cloneNode(true));
}

function said(answer) {
  if (!answer.ok) {
    listed(false);
    at("read-said").textContent = [answer.data.error, answer.data.next].filter(Boolean).join(" ");
    return;
  }
  const { html, text, name } = answer.data;
  at("read-text").value = text;
  at("read-name").value = name;
  at("read-said").innerHTML = html;
  const form = at("draft-form");
  form.elements.text.value = text;
  form.elements.name.value = name;
  listed(true);
  at("read-it").textContent = "Change it";
}

async function read(body) {
  const mine = ++asked;
  at("read-said").setAttribute("aria-busy", "true");
  const away = { ok: false, data: { error: "The server cannot be reached.", next: "Your program is still here; read it again when it is back." } };
  const answer = await ask("/api/read", body ?? { text: at("read-text").value, name: at("read-name").value }).catch(() => away);
  at("read-said").removeAttribute("aria-busy");
  if (mine === asked) said(answer);
}

function change() {
  listed(false);
  at("read-it").textContent = "Read it";
  at("read-text").focus();
}

function file(one) {
  if (!one) return;
  const form = new FormData();
  form.set("file", one);
  read(form);
}

function mend(edits) {
  let text = at("read-text").value;
  for (const [start, stop, put] of [...edits].sort((a, b) => b[0] - a[0])) text = [...text].slice(0, start).join("") + put + [...text].slice(stop).join("");
  at("read-text").value = text;
  read();
}

function look(number) {
  if (!document.querySelector(".listing")) listed(true);
  const line = at(`line-${number}`);
  document.querySelector(".listing .is-shown")?.classList.remove("is-shown");
  line?.classList.add("is-shown");
  line?.scrollIntoView({ block: "center" });
}

export function listenReading() {
  if (!at("reading")) return;
  document.addEventListener("click", ({ target }) => {
    if (target.closest("#read-it")) return at("read-text").hidden ? change() : read();
    if (target.closest("#read-example")) {
      at("read-text").value = at("example").content.textContent;
      at("read-name").value = "lamp.cpp";
      return read();
    }
    const line = target.closest("[data-read-line]");
    if (line) return look(line.dataset.readLine);
    const edits = target.closest("[data-read-mend]");
    return edits && mend(JSON.parse(edits.dataset.readMend));
  });
  at("read-file").addEventListener("change", ({ target }) => {
    file(target.files[0]);
    target.value = "";
  });
  // Pasted, it is read at once.
  at("read-text").addEventListener("paste", () => setTimeout(read, 0));
  at("read-text").addEventListener("keydown", (event) => {
    if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) read();
  });
  document.addEventListener("dragover", (event) => event.preventDefault());
  document.addEventListener("drop", (event) => {
    event.preventDefault();
    file(event.dataTransfer.files[0]);
  });
}
