/** A well-known mesh as another maker's writers save it: JSON of files in base64, by name, with its counts and corners. */
import { BufferAttribute, Mesh, MeshBasicMaterial } from "three";
import { GLTFExporter } from "three/examples/jsm/exporters/GLTFExporter.js";
import { OBJExporter } from "three/examples/jsm/exporters/OBJExporter.js";
import { PLYExporter } from "three/examples/jsm/exporters/PLYExporter.js";
import { TeapotGeometry } from "three/examples/jsm/geometries/TeapotGeometry.js";

// The writer of GLB is made for pages, which read pieces of files this way.
globalThis.FileReader = /** @type {any} */ (
  class {
    /** @param {Blob} blob */
    async readAsArrayBuffer(blob) {
      this.result = await blob.arrayBuffer();
      this.onloadend?.();
    }
    /** @param {Blob} blob */
    async readAsDataURL(blob) {
      this.result = `data:${blob.type};base64,${Buffer.from(await blob.arrayBuffer()).toString("base64")}`;
      this.onloadend?.();
    }
    onloadend = /** @type {(() => void) | null} */ (null);
  }
);

const geometry = new TeapotGeometry(1, 8);
const { position, normal, uv } = geometry.attributes;
const colours = Float32Array.from(normal.array, (value) => Math.fround(value * 0.5 + 0.5));
geometry.setAttribute("color", new BufferAttribute(colours, 3));
const mesh = new Mesh(geometry, new MeshBasicMaterial({ vertexColors: true }));
mesh.name = "teapot";
const text = (/** @type {string} */ content) => Buffer.from(content).toString("base64");
const bytes = (/** @type {ArrayBuffer} */ content) => Buffer.from(content).toString("base64");
const NOTHING = /** @type {any} */ (null);
const ply = new PLYExporter();
const files = {
  "teapot.obj": text(new OBJExporter().parse(mesh)),
  "text.ply": text(/** @type {any} */ (ply.parse(mesh, NOTHING, {}))),
  "small.ply": bytes(/** @type {any} */ (ply.parse(mesh, NOTHING, { binary: true, littleEndian: true }))),
  "big.ply": bytes(/** @type {any} */ (ply.parse(mesh, NOTHING, { binary: true }))),
  "teapot.glb": bytes(/** @type {any} */ (await new GLTFExporter().parseAsync(mesh, { binary: true }))),
  "teapot.gltf": text(JSON.stringify(await new GLTFExporter().parseAsync(mesh, {}))),
};
const corners = (/** @type {any} */ attribute) =>
  Array.from(geometry.index?.array ?? [], (at) =>
    Array.from({ length: attribute.itemSize }, (_, i) => attribute.array[at * attribute.itemSize + i]),
  );
process.stdout.write(
  JSON.stringify({ files, corners: { positions: corners(position), normals: corners(normal), uvs: corners(uv) } }),
);
