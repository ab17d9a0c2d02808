/** A node's page: its example opens as a graph of the project. */
import { postJson } from "moth/base/api.js";
import { byId } from "moth/base/dom.js";
import { tell } from "moth/base/notices.js";

byId("open-example").disabled = false;
byId("open-example").addEventListener("click", () => {
  const { node } = byId("open-example").dataset;
  postJson(`/api/nodes/${node}/example`, {})
    .then((made) => location.assign(`/graphs/${made.id}`))
    .catch(tell);
});
