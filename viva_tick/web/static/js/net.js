// Requests. A refusal is an answer with a sentence; only a server that cannot be reached throws.
const token = () => document.querySelector("meta[name=csrf-token]").content;

export async function ask(url, body, signal) {
  const options = { headers: { Accept: "application/json" }, signal };
  if (body !== undefined) {
    options.method = "POST";
    options.headers["X-CSRFToken"] = token();
    if (body instanceof FormData) options.body = body;
    else {
      options.headers["Content-Type"] = "application/json";
      options.body = JSON.stringify(body);
    }
  }
  const response = await fetch(url, options);
  let data;
  try {
    data = await response.json();
  } catch {
    data = { error: "The server's answer could not be read.", next: "Reload the page." };
  }
  return { ok: response.ok, status: response.status, data };
}

// Bytes, as they are.
export async function send(url, blob) {
  const headers = { Accept: "application/json", "Content-Type": "application/octet-stream", "X-CSRFToken": token() };
  const response = await fetch(url, { method: "POST", headers, body: blob });
  return { ok: response.ok, status: response.status, data: await response.json() };
}

// A file on its way: `progress` is told the share that has gone, then null while the server reads it; the request is
// handed out so that it can be stopped.
export function upload(url, form, progress, started) {
  return new Promise((settle, fail) => {
    const request = new XMLHttpRequest();
    request.open("POST", url);
    request.setRequestHeader("Accept", "application/json");
    request.setRequestHeader("X-CSRFToken", token());
    request.responseType = "json";
    request.upload.addEventListener("progress", ({ loaded, total }) => progress(loaded < total ? loaded / total : null));
    request.addEventListener("load", () => {
      const data = request.response ?? { error: "The server's answer could not be read.", next: "Reload the page." };
      settle({ ok: request.status < 400, status: request.status, data });
    });
    request.addEventListener("abort", () => settle({ ok: false, status: 0, data: { error: "Stopped.", next: "Nothing was imported." } }));
    request.addEventListener("error", () => fail(new Error("unreachable")));
    request.send(form);
    started(request);
  });
}
