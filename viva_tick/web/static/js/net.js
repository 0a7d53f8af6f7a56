// Requests. A refusal is an answer with a sentence; only a server that cannot be reached throws.
const token = () => document.querySelector("meta[name=csrf-token]").content;

export async function ask(url, body) {
  const options = { headers: { Accept: "application/json" } };
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
