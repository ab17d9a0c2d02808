/** A document of the server as a page knows it: its state, and the edits on their way to it. */
import { Refused, Unreachable, getJson, postJson } from "moth/base/api.js";
import { notice, tell } from "moth/base/notices.js";
import { same } from "moth/base/same.js";

const RETRY = 1500;
const MOST_TRIES = 20;

/**
 * Edits go one after the other. Nothing is lost: a silent server is asked again, a stale revision is caught up with and
 * the edit repeated, a refusal is shown with the server's sentence.
 * @template {{ revision: number, undo: string, redo: string }} State
 * @template Operation
 */
export class DocumentModel extends EventTarget {
  /**
   * @param {string} url where the document is read and edited
   * @param {string} noun what it is called in sentences
   */
  constructor(url, noun) {
    super();
    this.url = url;
    this.noun = noun;
    /** @type {State} */
    this.state = /** @type {any} */ (null);
    this.queue = Promise.resolve();
    /** Requests and edits under way or queued. */
    this.waiting = 0;
    /** The edits among them. */
    this.unsaved = 0;
    /** What was last done to the document by somebody else, or in another tab. */
    this.elsewhere = "";
  }

  /**
   * What the page looks at, sent with every request.
   * @returns {Record<string, string>}
   */
  get view() {
    return {};
  }

  /**
   * Takes up an answer as the state there is now.
   * @param {State} state
   */
  take(state) {
    this.state = state;
    this.dispatchEvent(new Event("state"));
  }

  /** Called where an edit was refused: what was shown in advance does not hold. */
  dropped() {
    this.dispatchEvent(new Event("state"));
  }

  /**
   * @param {string} step
   * @param {Record<string, unknown>} body
   * @returns {Promise<State>}
   */
  send(step, body) {
    return postJson(`${this.url}/${step}`, { ...this.view, ...body, revision: this.state.revision });
  }

  /** Fetches the document as it is now, after the edits on their way: an answer from before them must not undo them here. */
  load() {
    return this.enqueue(() => this.fetch());
  }

  async fetch() {
    this.take(await getJson(`${this.url}?${new URLSearchParams(this.view)}`));
    return true;
  }

  /**
   * @param {Operation} operation
   * @returns {Promise<boolean>} whether the document took it
   */
  edit(operation) {
    return this.ask("operations", { operation });
  }

  undo() {
    return this.enqueue(async () => this.state.undo !== "" && this.#post("undo", {}), true);
  }

  redo() {
    return this.enqueue(async () => this.state.redo !== "" && this.#post("redo", {}), true);
  }

  /**
   * Posts what the server turns into an edit.
   * @param {string} step
   * @param {Record<string, unknown>} [body]
   */
  ask(step, body = {}) {
    return this.enqueue(() => this.#post(step, body), true);
  }

  /**
   * @param {() => Promise<boolean>} work
   * @param {boolean} [isEdit]
   * @returns {Promise<boolean>}
   */
  enqueue(work, isEdit = false) {
    this.waiting += 1;
    this.unsaved += Number(isEdit);
    const done = this.queue.then(async () => {
      try {
        return await work();
      } catch (error) {
        tell(error);
        this.dropped();
        return false;
      } finally {
        this.waiting -= 1;
        this.unsaved -= Number(isEdit);
        if (!this.waiting) this.dispatchEvent(new Event("idle"));
      }
    });
    this.queue = done.then(() => undefined);
    return done;
  }

  /**
   * @param {string} step
   * @param {Record<string, unknown>} body
   * @returns {Promise<boolean>}
   */
  async #post(step, body) {
    /** @type {(() => void) | null} */
    let closeNotice = null;
    for (let tries = 0; ; tries += 1) {
      try {
        const state = await this.send(step, body);
        closeNotice?.();
        this.elsewhere = "";
        this.take(state);
        return true;
      } catch (error) {
        if (error instanceof Unreachable) {
          const words = `${error.message} Your edit is kept and tried again.`;
          closeNotice ??= notice(words, { wrong: true, stay: true });
          await new Promise((resolve) => setTimeout(resolve, RETRY));
        } else if (error instanceof Refused && error.code === "stale-revision" && tries < MOST_TRIES) {
          const arrived = error.body.since.some((/** @type {any} */ c) => same(c.operation, body.operation));
          const news = error.body.since.map((/** @type {any} */ c) => c.words).join(", ");
          await this.fetch();
          // An answer lost on its way: the edit is in already.
          if (arrived && closeNotice) return (closeNotice(), true);
          notice(`Meanwhile elsewhere: ${news || `the ${this.noun} changed`}. Your edit was made on top of it.`);
        } else {
          closeNotice?.();
          throw error;
        }
      }
    }
  }
}
