import * as THREE from "three";
import type { Schemas } from "../api/http";

type Run = { at: number; n: number };
type Head = {
  meshes: { positions: Run; normals: Run | null; indices: Run }[];
  parts: { mesh: number; world: number[]; finish: number }[];
  finishes: {
    colour: [number, number, number];
    metallic: number;
    roughness: number;
    clear: boolean;
    glow: [number, number, number];
  }[];
};

/** matrixOf turns the server's three rows into three's matrix. */
export function matrixOf(m: readonly number[]): THREE.Matrix4 {
  const r = m as number[];
  return new THREE.Matrix4().set(
    r[0]!,
    r[1]!,
    r[2]!,
    r[3]!,
    r[4]!,
    r[5]!,
    r[6]!,
    r[7]!,
    r[8]!,
    r[9]!,
    r[10]!,
    r[11]!,
    0,
    0,
    0,
    1, // prettier-ignore
  );
}

export function rowsOf(m: THREE.Matrix4): number[] {
  const e = m.elements;
  return [e[0], e[4], e[8], e[12], e[1], e[5], e[9], e[13], e[2], e[6], e[10], e[14]] as number[];
}

/** Shape is a scene for the turnable view: one mesh per part, named by its index, and what parts can wear. */
export type Shape = { group: THREE.Group; finishes: THREE.Material[] };

/** loadShape fetches a scene's shape, as imported. */
export async function loadShape(scene: Schemas["SceneBody"], signal: AbortSignal): Promise<Shape> {
  const answer = await fetch(`/api/scenes/${scene.scene.id}/shape`, { signal });
  if (!answer.ok) throw new Error("The scene cannot be shown; reload the page.");
  const data = await answer.arrayBuffer();
  const length = new DataView(data).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length))) as Head;
  const start = 4 + length;
  const geometries = head.meshes.map((m) => {
    const g = new THREE.BufferGeometry();
    g.setAttribute(
      "position",
      new THREE.BufferAttribute(new Float32Array(data, start + m.positions.at, m.positions.n), 3),
    );
    g.setIndex(new THREE.BufferAttribute(new Uint32Array(data, start + m.indices.at, m.indices.n), 1));
    if (m.normals)
      g.setAttribute("normal", new THREE.BufferAttribute(new Float32Array(data, start + m.normals.at, m.normals.n), 3));
    else g.computeVertexNormals();
    return g;
  });
  const materials = head.finishes.map((f) => {
    const glowing = Math.max(...f.glow) > 0;
    const top = Math.max(...f.glow, 1e-6);
    return new THREE.MeshStandardMaterial({
      color: new THREE.Color(...f.colour),
      metalness: f.metallic * 0.6,
      roughness: Math.max(f.roughness, 0.3),
      transparent: f.clear,
      opacity: f.clear ? 0.25 : 1,
      depthWrite: !f.clear,
      emissive: glowing ? new THREE.Color(f.glow[0] / top, f.glow[1] / top, f.glow[2] / top) : new THREE.Color(0),
      side: THREE.DoubleSide,
    });
  });
  const group = new THREE.Group();
  head.parts.forEach((p, i) => {
    const mesh = new THREE.Mesh(geometries[p.mesh], materials[p.finish]);
    mesh.matrixAutoUpdate = false;
    mesh.matrix.copy(matrixOf(p.world));
    mesh.userData["part"] = i;
    group.add(mesh);
  });
  return { group, finishes: materials };
}
