/** Mesh files on their way into the project. */
import { Refused, getJson, postFiles } from "moth/base/api.js";
import { byId } from "moth/base/dom.js";
import { jobs } from "moth/base/jobs.js";
import { notice, tell } from "moth/base/notices.js";

/** @typedef {import("../types.d.ts").MeshInfo} MeshInfo */

const MESH = /\.(glb|gltf|obj|ply)$/i;

/**
 * Each mesh with the files that it may refer to: those that came with it and are no mesh themselves.
 * @param {File[]} files
 * @returns {File[][]}
 */
export function together(files) {
  const meshes = files.filter(({ name }) => MESH.test(name));
  const others = files.filter(({ name }) => !MESH.test(name));
  if (!meshes.length) return files.map((file) => [file]);
  return meshes.map((mesh) => (/\.gltf$/i.test(mesh.name) ? [mesh, ...others] : [mesh]));
}

/**
 * The mesh of files that were sent, once they are read: large ones are read by a job.
 * @param {{ mesh: MeshInfo | null, job: import("../types.d.ts").JobState | null }} answer
 * @returns {Promise<MeshInfo>}
 */
export async function arrived({ mesh, job }) {
  if (mesh) return mesh;
  if (!job) throw new Refused(500, null);
  byId("progress").textContent = "";
  const { state, words, title, subject } = await jobs.ended(job);
  const what = { failed: words, cancelled: `${title} was cancelled.` }[state];
  if (what) throw new Refused(422, { error: { code: state, what, where: title, mend: "" } });
  return (await getJson(`/api/meshes/${subject}`)).mesh;
}

/**
 * Brings meshes in one after the other; a file that is refused is reported, and the next one follows.
 * @param {File[]} files
 * @param {() => Promise<void>} came is called after each that has come
 * @returns {Promise<string>} the mesh that came last; empty where all were refused
 */
export async function bringIn(files, came) {
  /** @type {MeshInfo[]} */
  const come = [];
  const groups = together(files);
  for (const [at, group] of groups.entries()) {
    byId("progress").textContent = `bringing in ${at + 1} of ${groups.length}: ${group[0].name} …`;
    try {
      come.push(await arrived(await postFiles("/api/meshes", group)));
      await came();
    } catch (error) {
      tell(error);
    }
  }
  byId("progress").textContent = "";
  const [first] = come;
  if (come.length > 1) notice(`${come.length} meshes are here: ${come.map(({ name }) => name).join(", ")}.`);
  else if (first) notice(`${first.name} is here: ${first.triangles.toLocaleString("en")} triangles.`);
  return come.at(-1)?.id ?? "";
}
