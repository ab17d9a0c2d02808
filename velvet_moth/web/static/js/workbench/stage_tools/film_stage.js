/** A film drawn by the stage: each frame at its exact moment, smooth, sent to the server as it is done. */
import { Unreachable, getJson, postForm, postJson } from "moth/base/api.js";
import { done, jobs } from "moth/base/jobs.js";
import { notice } from "moth/base/notices.js";

/** @typedef {import("../../stage/stage.js").Stage} Stage */
/** @typedef {import("../../types.d.ts").Film} Film */
/** @typedef {import("../../types.d.ts").FilmState} FilmState */

const RETRY = 1500;
const MOST_TRIES = 20;

/**
 * Draws a frame: RGBA bytes, row 0 at the bottom.
 * @typedef {(variant: string, width: number, height: number, isClear: boolean) => Promise<Uint8Array | null>} Draw
 */

/**
 * Pictures of one size side by side, in rows from the top.
 * @param {Uint8Array[]} pictures
 * @param {number} width
 * @param {number} height
 * @param {number} across
 */
export function beside(pictures, width, height, across) {
  if (pictures.length === 1) return pictures[0];
  const rows = Math.ceil(pictures.length / across);
  const whole = new Uint8Array(width * across * height * rows * 4);
  pictures.forEach((picture, at) => {
    const [row, column] = [rows - 1 - Math.floor(at / across), at % across];
    for (let y = 0; y < height; y += 1) {
      const from = picture.subarray(y * width * 4, (y + 1) * width * 4);
      whole.set(from, ((row * height + y) * across + column) * width * 4);
    }
  });
  return whole;
}

/**
 * Draws a film and has the server keep it; null where it was cancelled.
 * @param {string} url of the graph
 * @param {Stage} stage
 * @param {{ film: Film, name: string }} asked
 * @param {Draw} draw
 * @returns {Promise<FilmState | null>}
 */
export async function filmStage(url, stage, { film, name }, draw) {
  const { key, frames } = await postJson(`${url}/films/coming`, { film, name });
  const before = { time: stage.time, isPlaying: stage.isPlaying };
  const row = jobs.own(`Film of ${name}`);
  const variants = film.variants ?? [""];
  const across = Math.ceil(Math.sqrt(variants.length));
  const { width = 512, height = 512, first = 0, rate = 30, is_clear: isClear = false } = film;
  stage.isPlaying = false;
  try {
    for (let number = 0; number < frames; number += 1) {
      stage.setTime((first + number) / rate);
      const pictures = [];
      for (const variant of variants) {
        const drawn = await draw(variant, width, height, isClear);
        if (!drawn) throw new Error("A frame could not be drawn.");
        pictures.push(drawn);
      }
      const whole = beside(pictures, width, height, across);
      await sendFrame(`/api/films/coming/${key}/frame/${number}`, whole);
      if (row.isCancelled) break;
      row.tell((number + 1) / frames);
    }
    if (row.isCancelled) {
      await postJson(`/api/films/coming/${key}`, {}, "DELETE");
      notice(`${row.title} was cancelled.`);
      return null;
    }
    return await postJson(`/api/films/coming/${key}/finish`, { name });
  } catch (error) {
    await postJson(`/api/films/coming/${key}`, {}, "DELETE").catch(() => {});
    throw error;
  } finally {
    row.end();
    stage.setTime(before.time);
    stage.setPlaying(before.isPlaying);
  }
}

/**
 * Sends a frame; a silent server is asked again, which knows a frame that has come already.
 * @param {string} url
 * @param {Uint8Array} pixels
 */
async function sendFrame(url, pixels) {
  for (let tries = 0; ; tries += 1) {
    try {
      return void (await postForm(url, { file: new Blob([/** @type {any} */ (pixels)]) }));
    } catch (error) {
      if (!(error instanceof Unreachable) || tries === MOST_TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, RETRY));
    }
  }
}

/**
 * A film drawn by the reference, as a job; null where it was cancelled or failed.
 * @param {string} url of the graph
 * @param {{ film: Film, name: string }} asked
 * @returns {Promise<FilmState | null>}
 */
export async function filmReference(url, asked) {
  const job = await done(await postJson(`${url}/films`, asked));
  return job && getJson(`/api/films/${job.subject}`);
}
