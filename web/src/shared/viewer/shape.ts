import * as THREE from "three";
import type { Schemas } from "../../api/http";

type Run = { at: number; n: number };
type Head = {
  meshes: { positions: Run; normals: Run | null; indices: Run }[];
  /** The mesh of each part. */
  parts: number[];
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

/** loadShape fetches a scene's shape, as imported. */
export async function loadShape(scene: Schemas["SceneBody"], signal: AbortSignal): Promise<THREE.Group> {
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
  const group = new THREE.Group();
  head.parts.forEach((m, i) => {
    const mesh = new THREE.Mesh(geometries[m]);
    mesh.matrixAutoUpdate = false;
    mesh.userData["part"] = i;
    group.add(mesh);
  });
  return group;
}

/** drawnAs is how the turnable view draws a finish. */
export function drawnAs(f: Schemas["FinishBody"]): THREE.Material {
  const m = new THREE.MeshStandardMaterial({
    color: new THREE.Color(...(f.drawn as [number, number, number])),
    metalness: f.metal * 0.6,
    roughness: Math.max(f.roughness, 0.3),
    transparent: f.seenThrough,
    opacity: f.seenThrough ? 0.25 : 1,
    depthWrite: !f.seenThrough,
    emissive: new THREE.Color(...(f.hue as [number, number, number])),
    side: THREE.DoubleSide,
  });
  if (f.hatched) hatch(m);
  return m;
}

/** hatch draws stripes, as wide on the screen wherever they lie, on what has no finish. */
function hatch(m: THREE.MeshStandardMaterial) {
  m.onBeforeCompile = (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <color_fragment>",
      "#include <color_fragment>\n  if (fract((gl_FragCoord.x + gl_FragCoord.y) / 14.0) < 0.5) diffuseColor.rgb *= 0.25;",
    );
  };
}
