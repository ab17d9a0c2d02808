/** A file that stands alone: what it carries takes the place of a server. */
import { byId } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";
import { Presentation } from "moth/presentation/presentation.js";

const { graph, settings, variant } = JSON.parse(byId("settings").textContent ?? "{}");
const presentation = new Presentation(byId("presentation"), graph, settings);
presentation.show(variant).catch(tell);
// For tests and the curious: the page's own objects.
Object.assign(window, { presentation });
