// Takes the WebAssembly builds of the open geometry codecs out of their npm packages, as
// core/importer/codec ships them. Run it where these are installed:
//
//   npm install draco3d@1.5.9 meshoptimizer@1.3.0
//   node extract.mjs FOLDER-OF-core/importer/codec
import fs from "node:fs";
import path from "node:path";

const to = process.argv[2];
const of = (name) => path.join("node_modules", name);

fs.copyFileSync(of("draco3d/draco_decoder.wasm"), path.join(to, "draco.wasm"));
// Its names are cut short; those that are needed are read off the script that goes with it.
const glue = fs.readFileSync(of("draco3d/draco_decoder_nodejs.js"), "utf8");
const names = {};
for (const [, long, short] of glue.matchAll(/c\._(\w+)\s*=\s*e\.([\w$]+)/g)) names[long] = short;
const wanted = [
  "malloc",
  "free",
  ..."Decoder_Decoder_0 Decoder_DecodeArrayToMesh_3 Decoder_GetTrianglesUInt32Array_3 Decoder_GetAttributeByUniqueId_2 Decoder_GetAttributeDataArrayForAllPoints_5 Mesh_Mesh_0 Mesh_num_faces_0 Mesh_num_points_0 PointAttribute_num_components_0 Status_ok_0"
    .split(" ")
    .map((n) => `emscripten_bind_${n}`),
];
const table = Object.fromEntries(wanted.map((n) => [n.replace("emscripten_bind_", ""), names[n]]));
if (Object.values(table).some((v) => !v)) throw new Error(JSON.stringify(table));
fs.writeFileSync(path.join(to, "draco.json"), JSON.stringify(table, null, 1) + "\n");

const script = fs.readFileSync(of("meshoptimizer/meshopt_decoder.mjs"), "utf8");
const packed = /wasm_base\s*=\s*'([^']+)'/.exec(script)[1];
const table2 = /wasmpack\s*=\s*new Uint8Array\(\[([^\]]+)\]/.exec(script)[1].split(",").map(Number);
const digits = [...packed].map((c) => {
  const ch = c.charCodeAt(0);
  return ch > 96 ? ch - 97 : ch > 64 ? ch - 39 : ch + 4;
});
const out = [];
for (let i = 0; i < digits.length; i++)
  out.push(digits[i] < 60 ? table2[digits[i]] : (digits[i] - 60) * 64 + digits[++i]);
fs.writeFileSync(path.join(to, "meshopt.wasm"), Uint8Array.from(out));
