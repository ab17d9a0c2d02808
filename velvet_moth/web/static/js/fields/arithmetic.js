/** Typed numbers: plain, or worked out from what was typed, such as 1/12 or 30deg. */

/** What a unit behind a number stands for, in the units graphs use: metres, seconds, turns, parts of one. @type {Record<string, number>} */
const UNITS = {
  m: 1,
  cm: 0.01,
  mm: 0.001,
  km: 1000,
  s: 1,
  ms: 0.001,
  min: 60,
  turn: 1,
  turns: 1,
  deg: 1 / 360,
  "°": 1 / 360,
  rad: 1 / (2 * Math.PI),
  "%": 0.01,
};
/** @type {Record<string, number>} */
const NAMES = { pi: Math.PI, π: Math.PI, tau: 2 * Math.PI, e: Math.E };

/** @typedef {{ text: string, value?: number, isSpaced: boolean }} Token */

/**
 * @param {string} text
 * @returns {Token[] | null} null where something in it is no part of a number
 */
function tokens(text) {
  const pattern = /(\s*)(?:(\d+(?:[.,]\d*)?(?:e[+-]?\d+)?|[.,]\d+(?:e[+-]?\d+)?)|([a-zπ°%×;]+)|([-−+*/^()·÷]))/giy;
  const found = [];
  const trimmed = text.trim();
  let at = 0;
  while (at < trimmed.length) {
    pattern.lastIndex = at;
    const match = pattern.exec(trimmed);
    if (!match) return null;
    const [, space, number, word, sign] = match;
    const value = number === undefined ? undefined : Number(number.replace(",", "."));
    const text = number ?? word?.toLowerCase() ?? { "−": "-", "·": "*", "÷": "/" }[sign] ?? sign;
    found.push({ text, value, isSpaced: space !== "" });
    at = pattern.lastIndex;
  }
  return found;
}

/** Works out one expression after another; a sign close to its number but not to what is before it begins anew. */
class Reader {
  /** @param {Token[]} list */
  constructor(list) {
    this.list = list;
    this.at = 0;
  }

  get next() {
    return this.list[this.at];
  }

  /** @param {string} texts */
  #isSign(texts) {
    const [now, after] = [this.next, this.list[this.at + 1]];
    if (!now || now.value !== undefined || !texts.includes(now.text)) return false;
    const beginsAnew = now.text === "-" && now.isSpaced && after !== undefined && !after.isSpaced;
    return !beginsAnew;
  }

  /** @returns {number} */
  sum() {
    let value = this.product();
    while (this.#isSign("+-")) value += this.list[this.at++].text === "+" ? this.product() : -this.product();
    return value;
  }

  /** @returns {number} */
  product() {
    let value = this.signed();
    while (this.#isSign("*/"))
      value = this.list[this.at++].text === "*" ? value * this.signed() : value / this.signed();
    return value;
  }

  /** @returns {number} */
  signed() {
    if (this.next?.text === "-") return ((this.at += 1), -this.signed());
    if (this.next?.text === "+") return ((this.at += 1), this.signed());
    const base = this.atom();
    if (!this.#isSign("^")) return base;
    this.at += 1;
    return base ** this.signed();
  }

  /** @returns {number} */
  atom() {
    const token = this.next;
    if (!token) return NaN;
    this.at += 1;
    let value = token.value ?? NAMES[token.text] ?? NaN;
    if (token.text === "(") {
      value = this.sum();
      if (this.next?.text !== ")") return NaN;
      this.at += 1;
    }
    const isPer = this.next?.text === "per";
    const unit = UNITS[this.list[this.at + Number(isPer)]?.text ?? ""];
    if (unit === undefined) return value;
    this.at += 1 + Number(isPer);
    return isPer ? value / unit : value * unit;
  }
}

/**
 * The numbers that a text stands for; one stands for all that are needed.
 * @param {string} text
 * @param {number} width how many numbers are needed
 * @returns {number[] | null}
 */
export function parseNumbers(text, width) {
  const list = tokens(text);
  if (!list?.length) return null;
  const reader = new Reader(list);
  const numbers = [];
  while (reader.next) {
    if (numbers.length && ["×", "x", ";"].includes(reader.next.text)) reader.at += 1;
    numbers.push(reader.sum());
    if (!Number.isFinite(numbers.at(-1)) || numbers.length > width) return null;
  }
  if (numbers.some((n) => Math.abs(n) > 1e6)) return null;
  if (numbers.length === 1) return Array(width).fill(numbers[0]);
  return numbers.length === width ? numbers : null;
}
