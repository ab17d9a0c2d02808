/** How a field asks for a texture: of the one list of them, which is a panel of the page. */

/**
 * @typedef {object} Choice
 * @property {string} title what it is for, in words
 * @property {string} key of the field, which has the keyboard again after
 * @property {string} chosen the id of the texture it has now
 * @property {boolean} canBeNone
 * @property {(id: string) => void} choose
 */

/** Set by the panel. @type {{ ask: (choice: Choice) => void }} */
export const textureChoice = { ask: () => {} };
