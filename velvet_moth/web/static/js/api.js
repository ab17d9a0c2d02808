/** Requests to the server. Failures arrive as Refused with the server's own sentence. */

/** @returns {string} */
const token = () => /** @type {HTMLMetaElement} */ (document.querySelector("meta[name=csrf]")).content;

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

/** Nothing answered at all. */
export class Unreachable extends Error {}

/**
 * @param {string} url
 * @param {RequestInit} [options]
 * @returns {Promise<Response>}
 */
export async function send(url, options = {}) {
  let response;
  try {
    response = await fetch(url, { ...options, headers: { ...options.headers, "X-CSRFToken": token() } });
  } catch {
    throw new Unreachable("The server does not answer.");
  }
  if (!response.ok) {
    throw new Refused(response.status, await response.json().catch(() => null));
  }
  return response;
}

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
export async function postForm(url, fields) {
  const form = new FormData();
  for (const [name, value] of Object.entries(fields)) form.append(name, value);
  return (await send(url, { method: "POST", body: form })).json();
}
