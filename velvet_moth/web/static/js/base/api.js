/** Requests to the server. Failures arrive as Refused with the server's own sentence. */

/** @param {string} name */
const meta = (name) => /** @type {HTMLMetaElement} */ (document.querySelector(`meta[name=${name}]`));

/** The server answered, and the answer is a no. */
export class Refused extends Error {
  /**
   * @param {number} status
   * @param {any} body
   */
  constructor(status, body) {
    const error = body?.error ?? { code: "unknown", what: "The server gave no readable answer.", where: "", mend: "" };
    super(error.what);
    this.status = status;
    this.code = error.code;
    this.where = error.where;
    this.mend = error.mend;
    this.body = body;
  }
}

/** Nothing answered, or what stands behind the server does not answer it: asking again may help. */
export class Unreachable extends Error {}

/** @param {RequestInit} options */
const keyed = (options) => ({ ...options, headers: { ...options.headers, "X-CSRFToken": meta("csrf").content } });

/**
 * @param {string} url
 * @param {RequestInit} options
 */
async function answerTo(url, options) {
  try {
    return await fetch(url, keyed(options));
  } catch {
    throw new Unreachable("The server does not answer.");
  }
}

/**
 * @param {string} url
 * @param {RequestInit} [options]
 * @returns {Promise<Response>}
 */
export async function send(url, options = {}) {
  let response = await answerTo(url, options);
  if (response.status === 400) {
    const told = await response
      .clone()
      .json()
      .catch(() => null);
    if (told?.error?.code === "stale-page") {
      // The cookie is gone, or the clock was set: with a fresh key the same request is as good as before.
      const { key } = await (await answerTo("/api/key", {})).json();
      meta("csrf").content = key;
      response = await answerTo(url, options);
    }
  }
  if (response.ok) return response;
  const body = await response.json().catch(() => null);
  if (response.status === 503) throw new Unreachable(body?.error?.what ?? "The server has no time just now.");
  if (response.status === 413 && !body) throw new Refused(413, { error: tooLarge() });
  throw new Refused(response.status, body);
}

const tooLarge = () => ({
  code: "too-large",
  what: `That is more than is taken in one go: at most ${Math.floor(Number(meta("most-bytes").content) / 2 ** 20)} MB.`,
  where: "",
  mend: "Send a smaller file.",
});

/**
 * @param {string} url
 * @returns {Promise<any>}
 */
export const getJson = async (url) => (await send(url)).json();

/**
 * @param {string} url
 * @param {unknown} [body]
 * @param {string} [method]
 * @returns {Promise<any>}
 */
export async function postJson(url, body = {}, method = "POST") {
  const headers = { "Content-Type": "application/json" };
  return (await send(url, { method, headers, body: JSON.stringify(body) })).json();
}

/**
 * @param {string} url
 * @param {Record<string, string | Blob>} fields
 * @returns {Promise<any>}
 */
export const postForm = (url, fields) => postFields(url, Object.entries(fields));

/**
 * Sends files that belong together.
 * @param {string} url
 * @param {File[]} files
 * @returns {Promise<any>}
 */
export const postFiles = (url, files) =>
  postFields(
    url,
    files.map((file) => ["file", file]),
  );

/**
 * @param {string} url
 * @param {[string, string | Blob][]} fields
 */
async function postFields(url, fields) {
  const form = new FormData();
  const size = fields.reduce((sum, [, value]) => sum + (value instanceof Blob ? value.size : value.length), 0);
  // The server would end the connection in the middle of it.
  if (size > Number(meta("most-bytes").content) - 4096) throw new Refused(413, { error: tooLarge() });
  for (const [name, value] of fields) form.append(name, value);
  return (await send(url, { method: "POST", body: form })).json();
}
