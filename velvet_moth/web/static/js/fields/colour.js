/** Colours between linear light, which graphs use, and the sRGB hex that people type. */

/** Weights of red, green and blue in relative luminance (ITU-R BT.709). */
export const LUMINANCE = [0.2126, 0.7152, 0.0722];

/** The transfer function of sRGB (IEC 61966-2-1). @param {number} v linear light, 0..1 */
export const encode = (v) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055);

/** @param {number} e */
const decode = (e) => (e <= 0.04045 ? e / 12.92 : ((e + 0.055) / 1.055) ** 2.4);

/** @param {number} v */
const clamped = (v) => Math.min(1, Math.max(0, v));

/**
 * @param {number[]} linear
 * @returns {string} "#RRGGBB"
 */
export function toHex(linear) {
  const rgb = linear.length === 1 ? [linear[0], linear[0], linear[0]] : linear;
  const parts = rgb.slice(0, 3).map((v) =>
    Math.round(encode(clamped(v)) * 255)
      .toString(16)
      .padStart(2, "0"),
  );
  return `#${parts.join("")}`.toUpperCase();
}

/**
 * @param {string} text "#RRGGBB", "RRGGBB" or "#RGB"
 * @returns {number[] | null} linear red, green, blue
 */
export function fromHex(text) {
  let digits = text.trim().replace(/^#/, "");
  if (/^[0-9a-f]{3}$/i.test(digits)) digits = [...digits].map((d) => d + d).join("");
  if (!/^[0-9a-f]{6}$/i.test(digits)) return null;
  return [0, 2, 4].map((at) => Number(decode(parseInt(digits.slice(at, at + 2), 16) / 255).toFixed(5)));
}

/**
 * Hue 0..360, saturation and brightness 0..1 of the displayed colour.
 * @param {number[]} linear
 * @returns {[number, number, number]}
 */
export function toHsv(linear) {
  const [r, g, b] = linear.map((v) => encode(clamped(v)));
  const high = Math.max(r, g, b);
  const span = high - Math.min(r, g, b);
  let hue = 0;
  if (span > 0) {
    if (high === r) hue = ((g - b) / span + 6) % 6;
    else hue = high === g ? (b - r) / span + 2 : (r - g) / span + 4;
  }
  return [hue * 60, high ? span / high : 0, high];
}

/**
 * @param {number} hue
 * @param {number} saturation
 * @param {number} brightness
 * @returns {number[]} linear red, green, blue
 */
export function fromHsv(hue, saturation, brightness) {
  return [5, 3, 1].map((n) => {
    const k = (n + hue / 60) % 6;
    const e = brightness - brightness * saturation * Math.max(0, Math.min(k, 4 - k, 1));
    return Number(decode(e).toFixed(5));
  });
}
