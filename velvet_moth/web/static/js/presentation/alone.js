/** A presentation as one file: its scripts, styles and all that it asked of the server, packed into a page that needs nothing else. */

/** What was asked and answered, by address. @typedef {Map<string, { headers: Record<string, string>, bytes: Uint8Array }>} Answers */

/**
 * Keeps what the page asks of the server while something is done.
 * @param {Answers} answers
 * @param {() => Promise<void>} act
 */
export async function recorded(answers, act) {
  const plain = globalThis.fetch;
  globalThis.fetch = async (address, options) => {
    const response = await plain(address, options);
    const name = String(address);
    if (response.ok && name.startsWith("/api/") && name !== "/api/jobs" && (options?.method ?? "GET") === "GET") {
      const headers = Object.fromEntries([...response.headers].filter(([key]) => key.startsWith("x-")));
      answers.set(name, { headers, bytes: new Uint8Array(await response.clone().arrayBuffer()) });
    }
    return response;
  };
  try {
    await act();
  } finally {
    globalThis.fetch = plain;
  }
}

/** Where one module names another. */
const IMPORTED = /(\b(?:from|import)\s*\(?\s*)(["'])([^"'\n]+)\2/g;

/**
 * The text of a module and of all that it imports, by names of their own.
 * @param {string} first
 * @returns {Promise<Record<string, string>>}
 */
async function modules(first) {
  const map = JSON.parse(document.querySelector("script[type=importmap]")?.textContent ?? "{}").imports;
  const resolved = (/** @type {string} */ name, /** @type {string} */ from) => {
    if (name.startsWith(".")) return new URL(name, from).href;
    const key = Object.keys(map).find((one) => name === one || (one.endsWith("/") && name.startsWith(one)));
    if (!key) return null;
    return new URL(map[key] + name.slice(key.length), location.origin).href;
  };
  /** @type {Record<string, string>} */
  const texts = {};
  const inside = (/** @type {string} */ address) => `inside${new URL(address).pathname}`;
  const todo = [String(resolved(first, location.href))];
  while (todo.length) {
    const address = /** @type {string} */ (todo.pop());
    if (inside(address) in texts) continue;
    const text = await (await fetch(address)).text();
    texts[inside(address)] = text.replace(IMPORTED, (whole, before, quote, name) => {
      const found = resolved(name, address);
      // Comments name the files of types, which no script reads.
      if (!found || name.endsWith(".d.ts")) return whole;
      todo.push(found);
      return `${before}${quote}${inside(found)}${quote}`;
    });
  }
  return texts;
}

/** The styles of the page; fonts stay behind, and the system's stand in. */
async function styles() {
  const sheet = /** @type {HTMLLinkElement} */ (document.querySelector("link[rel=stylesheet]"));
  return (await (await fetch(sheet.href)).text()).replace(/@font-face\s*\{[^}]*\}/g, "");
}

/** @param {Uint8Array<ArrayBuffer>} bytes */
async function squeezed(bytes) {
  const stream = new Blob([bytes]).stream().pipeThrough(new CompressionStream("gzip"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** @param {Uint8Array} bytes */
function asText(bytes) {
  let text = "";
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(text);
}

/** What the page does first: unpacks itself, answers in the place of a server, and begins. */
const BEGIN = `
(async () => {
  const packed = Uint8Array.from(atob(document.getElementById("inside").textContent), (c) => c.charCodeAt(0));
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("gzip"));
  const plain = await new Response(stream).arrayBuffer();
  const length = new DataView(plain).getUint32(0, true);
  const { modules, first, style, answers } = JSON.parse(new TextDecoder().decode(new Uint8Array(plain, 4, length)));
  globalThis.fetch = async (address) => {
    const found = answers[String(address)];
    if (!found) throw new TypeError("This file does not hold " + address);
    return new Response(plain.slice(4 + length + found.at, 4 + length + found.at + found.size), { headers: found.headers });
  };
  const made = (kind, text) => document.head.append(Object.assign(document.createElement(kind), text));
  made("style", { textContent: style });
  const address = (text) => {
    const bytes = new TextEncoder().encode(text);
    let found = "";
    for (let at = 0; at < bytes.length; at += 8192) found += String.fromCharCode(...bytes.subarray(at, at + 8192));
    return "data:text/javascript;base64," + btoa(found);
  };
  const imports = Object.fromEntries(Object.entries(modules).map(([name, text]) => [name, address(text)]));
  made("script", { type: "importmap", textContent: JSON.stringify({ imports }) });
  await import(first);
})().catch((error) => document.body.append("This page does not begin: " + error.message));
`;

/** Text between tags of a page. @param {string} text */
const escaped = (text) => text.replace(/[&<>"]/g, (sign) => `&#${sign.charCodeAt(0)};`);

/**
 * A page of its own.
 * @param {{ title: string, graph: number, settings: unknown, variant: string, answers: Answers }} what
 * @returns {Promise<Blob>}
 */
export async function standingAlone({ title, graph, settings, variant, answers }) {
  const FIRST = "moth/presentation/main.js";
  const texts = await modules(FIRST);
  const first = /** @type {string} */ (Object.keys(texts).find((name) => name.endsWith("/presentation/main.js")));
  /** @type {Record<string, { at: number, size: number, headers: Record<string, string> }>} */
  const places = {};
  let at = 0;
  for (const [name, { headers, bytes }] of answers) {
    places[name] = { at, size: bytes.length, headers };
    at += bytes.length;
  }
  const index = new TextEncoder().encode(
    JSON.stringify({ modules: texts, first, style: await styles(), answers: places }),
  );
  const whole = new Uint8Array(4 + index.length + at);
  new DataView(whole.buffer).setUint32(0, index.length, true);
  whole.set(index, 4);
  let end = 4 + index.length;
  for (const { bytes } of answers.values()) {
    whole.set(bytes, end);
    end += bytes.length;
  }
  const inside = asText(await squeezed(whole));
  const plain = JSON.stringify({ graph, settings, variant }).replaceAll("<", "\\u003c");
  return new Blob(
    [
      `<!doctype html><html lang="en"><head><meta charset="utf-8">`,
      `<meta name="viewport" content="width=device-width, initial-scale=1"><meta name="csrf" content="">`,
      `<title>${escaped(title)}</title></head><body class="alone"><main id="presentation"></main>`,
      `<div id="notices" role="status" popover="manual"></div>`,
      `<script type="application/json" id="settings">${plain}</script>`,
      `<script type="text/plain" id="inside">${inside}</script><script>${BEGIN}</script></body></html>`,
    ],
    { type: "text/html" },
  );
}
