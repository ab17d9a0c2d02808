/** What the standards' own programs say: findings about a GLB, or tangents of corners. Asks as JSON on standard input. */
import { readFileSync } from "node:fs";
import validator from "gltf-validator";
import mikktspace from "mikktspace";

const asked = JSON.parse(readFileSync(0, "utf8"));
const floats = (/** @type {string} */ text) => new Float32Array(Uint8Array.from(Buffer.from(text, "base64")).buffer);
if (asked.glb) {
  const { issues } = await validator.validateBytes(new Uint8Array(Buffer.from(asked.glb, "base64")));
  process.stdout.write(JSON.stringify(issues));
} else {
  const [positions, normals, uvs] = asked.corners.map(floats);
  const tangents = mikktspace.generateTangents(positions, normals, uvs);
  process.stdout.write(JSON.stringify([...tangents]));
}
