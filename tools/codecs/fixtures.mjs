// Packs a ring by both codecs, as files for the tests of the importer. Run it where
// draco3d and meshoptimizer are installed, see extract.mjs:
//
//   node fixtures.mjs FOLDER-OF-core/importer/testdata
//
// The ring lies around the z axis, 1 m from it, 0.25 m thick: 24 x 12 corners, with
// normals and texture coordinates.
import fs from "node:fs";
import path from "node:path";
import { createRequire } from "node:module";
import { MeshoptEncoder } from "meshoptimizer/encoder";

const require = createRequire(path.resolve("node_modules/"));
const to = process.argv[2];
const [around, across] = [24, 12];
const position = [], normal = [], uv = [], faces = [];
for (let i = 0; i <= around; i++)
  for (let k = 0; k <= across; k++) {
    const a = (2 * Math.PI * i) / around, b = (2 * Math.PI * k) / across;
    const n = [Math.cos(a) * Math.cos(b), Math.sin(a) * Math.cos(b), Math.sin(b)];
    position.push(Math.cos(a) + 0.25 * n[0], Math.sin(a) + 0.25 * n[1], 0.25 * n[2]);
    normal.push(...n);
    uv.push(i / around, k / across);
  }
for (let i = 0; i < around; i++)
  for (let k = 0; k < across; k++) {
    const p = i * (across + 1) + k, q = p + across + 1;
    faces.push(p, q, q + 1, p, q + 1, p + 1);
  }
const points = position.length / 3;

/** glb packs a document and its bytes. */
function glb(doc, bin) {
  const pad = (b, with_) => Buffer.concat([b, Buffer.alloc((4 - (b.length % 4)) % 4, with_)]);
  const json = pad(Buffer.from(JSON.stringify(doc)), 0x20), data = pad(bin, 0);
  const head = Buffer.alloc(12), j = Buffer.alloc(8), d = Buffer.alloc(8);
  head.write("glTF", 0); head.writeUInt32LE(2, 4); head.writeUInt32LE(28 + json.length + data.length, 8);
  j.writeUInt32LE(json.length, 0); j.write("JSON", 4);
  d.writeUInt32LE(data.length, 0); d.write("BIN\0", 4, "latin1");
  return Buffer.concat([head, j, json, d, data]);
}
const base = (extension) => ({
  asset: { version: "2.0" }, extensionsUsed: extension, extensionsRequired: extension,
  scene: 0, scenes: [{ nodes: [0] }], nodes: [{ name: "Ring", mesh: 0 }], materials: [{ name: "Paint" }],
});
const bounds = { min: [-1.25, -1.25, -0.25], max: [1.25, 1.25, 0.25] };

// Draco: quantised positions, normals and coordinates.
const draco = await require("draco3d").createEncoderModule({});
{
  const encoder = new draco.Encoder(), builder = new draco.MeshBuilder(), mesh = new draco.Mesh();
  builder.AddFacesToMesh(mesh, faces.length / 3, new Uint32Array(faces));
  const ids = {
    POSITION: builder.AddFloatAttributeToMesh(mesh, draco.POSITION, points, 3, new Float32Array(position)),
    NORMAL: builder.AddFloatAttributeToMesh(mesh, draco.NORMAL, points, 3, new Float32Array(normal)),
    TEXCOORD_0: builder.AddFloatAttributeToMesh(mesh, draco.TEX_COORD, points, 2, new Float32Array(uv)),
  };
  encoder.SetAttributeQuantization(draco.POSITION, 14);
  encoder.SetAttributeQuantization(draco.NORMAL, 10);
  encoder.SetAttributeQuantization(draco.TEX_COORD, 12);
  encoder.SetEncodingMethod(draco.MESH_EDGEBREAKER_ENCODING);
  encoder.SetTrackEncodedProperties(true);
  const out = new draco.DracoInt8Array(), n = encoder.EncodeMeshToDracoBuffer(mesh, out);
  const packed = Buffer.from(Array.from({ length: n }, (_, i) => out.GetValue(i) & 255));
  const count = encoder.GetNumberOfEncodedPoints(), corners = encoder.GetNumberOfEncodedFaces() * 3;
  fs.writeFileSync(path.join(to, "ring-draco.glb"), glb({
    ...base(["KHR_draco_mesh_compression"]),
    meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1, TEXCOORD_0: 2 }, indices: 3, material: 0,
      extensions: { KHR_draco_mesh_compression: { bufferView: 0, attributes: ids } } }] }],
    accessors: [
      { componentType: 5126, count, type: "VEC3", ...bounds }, { componentType: 5126, count, type: "VEC3" },
      { componentType: 5126, count, type: "VEC2" }, { componentType: 5125, count: corners, type: "SCALAR" },
    ],
    buffers: [{ byteLength: packed.length }], bufferViews: [{ buffer: 0, byteLength: packed.length }],
  }, packed));
}

// The other: positions as they are, normals by the octahedral filter, coordinates of 16 bits.
{
  await MeshoptEncoder.ready;
  const views = [], parts = [];
  let at = 0, plain = 0;
  const put = (packed, count, byteStride, mode, filter) => {
    views.push({ buffer: 1, byteOffset: plain, byteLength: count * byteStride, ...(mode === "ATTRIBUTES" && { byteStride }),
      extensions: { EXT_meshopt_compression: { buffer: 0, byteOffset: at, byteLength: packed.length, byteStride, count, mode, ...(filter && { filter }) } } });
    parts.push(Buffer.from(packed)); at += packed.length; plain += count * byteStride + (4 - ((count * byteStride) % 4)) % 4;
    if (at % 4) { const n = 4 - (at % 4); parts.push(Buffer.alloc(n)); at += n; }
  };
  const bytes = (a) => new Uint8Array(a.buffer, a.byteOffset, a.byteLength);
  put(MeshoptEncoder.encodeGltfBuffer(bytes(new Float32Array(position)), points, 12, "ATTRIBUTES", 0), points, 12, "ATTRIBUTES");
  const four = new Float32Array(points * 4);
  for (let i = 0; i < points; i++) four.set(normal.slice(3 * i, 3 * i + 3), 4 * i);
  put(MeshoptEncoder.encodeGltfBuffer(MeshoptEncoder.encodeFilterOct(four, points, 4, 8), points, 4, "ATTRIBUTES", 0), points, 4, "ATTRIBUTES", "OCTAHEDRAL");
  put(MeshoptEncoder.encodeGltfBuffer(bytes(new Uint16Array(uv.map((v) => Math.round(v * 65535)))), points, 4, "ATTRIBUTES", 0), points, 4, "ATTRIBUTES");
  put(MeshoptEncoder.encodeGltfBuffer(bytes(new Uint32Array(faces)), faces.length, 4, "TRIANGLES", 0), faces.length, 4, "TRIANGLES");
  fs.writeFileSync(path.join(to, "ring-meshopt.glb"), glb({
    ...base(["EXT_meshopt_compression", "KHR_mesh_quantization"]),
    meshes: [{ primitives: [{ attributes: { POSITION: 0, NORMAL: 1, TEXCOORD_0: 2 }, indices: 3, material: 0 }] }],
    accessors: [
      { bufferView: 0, componentType: 5126, count: points, type: "VEC3", ...bounds }, { bufferView: 1, componentType: 5120, normalized: true, count: points, type: "VEC3" },
      { bufferView: 2, componentType: 5123, normalized: true, count: points, type: "VEC2" }, { bufferView: 3, componentType: 5125, count: faces.length, type: "SCALAR" },
    ],
    buffers: [{ byteLength: at }, { byteLength: plain, extensions: { EXT_meshopt_compression: { fallback: true } } }], bufferViews: views,
  }, Buffer.concat(parts)));
}
