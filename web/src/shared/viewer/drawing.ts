import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Schemas } from "../../api/http";
import { drawing, tones } from "../tones";
import { drawnAs, matrixOf, rowsOf } from "./shape";

type Vector = [number, number, number];

/** How strongly what is picked is tinted in a traced picture, and for how many milliseconds. */
const tinted = 0.45;
const tintedFor = 1400;

/** How strongly what keeps its finish among clay glows, by the amber of what is picked. */
const keptGlow = 0.22;

/** Drawing owns the WebGL side of the turnable view and draws on demand only. */
export class Drawing {
  private renderer: THREE.WebGLRenderer;
  private scene = new THREE.Scene();
  private view = new THREE.PerspectiveCamera(20, 1, 0.01, 100);
  private controls: OrbitControls;
  private group: THREE.Group | null = null;
  private yfov = 0.3;
  private shift = { x: 0, y: 0 }; // of the frame against the lens, percent of it
  private frame = { w: 1, h: 1, fw: 1, fh: 1 };
  private due = 0;
  private lit = new THREE.MeshStandardMaterial({ color: tones.amber, roughness: 0.5, side: THREE.DoubleSide });
  private finishes: THREE.Material[] = [];
  private wears: number[] = [];
  private lamps = new Set<number>(); // of the stage: they stand before the product
  private picked = new Set<number>();
  private clay = new Map<number, number>(); // display grey of the clay that parts wear
  private clays = new Map<number, THREE.Material>();
  private kept = new Map<number, THREE.MeshStandardMaterial>(); // by finish
  private through = false;
  private hidden = new Set<number>();
  private end: () => void;
  private drawn: () => void;
  private veil = new THREE.MeshStandardMaterial({
    color: tones.ink,
    transparent: true,
    opacity: 0.07,
    depthWrite: false,
    side: THREE.DoubleSide,
  });

  // Over a traced picture: what is picked tints it, the rest only hides that.
  private traced = false;
  private fading = 0;
  private tint = new THREE.MeshBasicMaterial({
    color: tones.amber,
    transparent: true,
    opacity: 0,
    side: THREE.DoubleSide,
  });
  private unseen = new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide });
  private nothing = new THREE.MeshBasicMaterial({ colorWrite: false, depthWrite: false });

  constructor(box: HTMLElement, turns: { start: () => void; end: () => void; drawn: () => void }) {
    this.renderer = new THREE.WebGLRenderer({ antialias: !navigator.webdriver, alpha: true });
    this.renderer.setPixelRatio(Math.min(2, window.devicePixelRatio));
    this.renderer.toneMapping = THREE.NeutralToneMapping;
    box.prepend(this.renderer.domElement);
    this.scene.background = new THREE.Color(tones.wall);
    this.scene.add(new THREE.HemisphereLight(drawing.light, drawing.shade, 1.6));
    const key = new THREE.DirectionalLight(drawing.light, 1.8);
    key.position.set(-2, 3, 3);
    this.scene.add(key);
    this.controls = new OrbitControls(this.view, this.renderer.domElement);
    this.controls.addEventListener("change", () => this.draw());
    this.controls.addEventListener("start", turns.start);
    this.controls.addEventListener("end", turns.end);
    this.end = turns.end;
    this.drawn = turns.drawn;
  }

  show(group: THREE.Group, radius: number) {
    if (this.group) this.scene.remove(this.group);
    this.group?.traverse((o) => (o as THREE.Mesh).geometry?.dispose());
    this.group = group;
    this.scene.add(group);
    this.view.near = radius / 50;
    this.view.far = radius * 200;
    this.fit();
  }

  /** furnish puts what stands on the stage beside the product. */
  furnish(stands: Schemas["StandBody"][]) {
    if (!this.group) return;
    for (const o of this.group.children.filter((o) => o.userData["stage"])) {
      (o as THREE.Mesh).geometry.dispose();
      this.group.remove(o);
    }
    for (const s of stands) {
      const g = new THREE.BufferGeometry();
      g.setAttribute("position", new THREE.Float32BufferAttribute(s.positions, 3));
      g.setIndex(s.indices);
      if (s.normals.length > 0) g.setAttribute("normal", new THREE.Float32BufferAttribute(s.normals, 3));
      else g.computeVertexNormals();
      const mesh = new THREE.Mesh(g);
      mesh.matrixAutoUpdate = false;
      mesh.userData = { part: s.part, stage: true };
      this.group.add(mesh);
    }
  }

  look(c: Schemas["Camera"], s: Schemas["SceneBody"]) {
    const m = matrixOf(c.matrix);
    m.decompose(this.view.position, this.view.quaternion, this.view.scale);
    this.view.scale.set(1, 1, 1);
    this.view.up.set(0, 1, 0).applyQuaternion(this.view.quaternion); // a rolled view stays rolled
    this.yfov = c.yfov || 0.3;
    this.shift = { x: c.shiftX ?? 0, y: c.shiftY ?? 0 };
    // The turning point: on the line of sight, as far away as the product.
    const forward = new THREE.Vector3(0, 0, -1).applyQuaternion(this.view.quaternion);
    const centre = new THREE.Vector3(...(s.centre as [number, number, number]));
    const d = Math.max(s.radius * 0.2, centre.sub(this.view.position).dot(forward));
    this.controls.target.copy(this.view.position).addScaledVector(forward, d);
    this.controls.update();
    this.fit();
  }

  resize(w: number, h: number, frame: { w: number; h: number }) {
    this.frame = { w, h, fw: frame.w, fh: frame.h };
    this.renderer.setSize(w, h);
    this.fit();
  }

  private fit() {
    // The frame, not the window, spans the view's field.
    const t = Math.tan(this.yfov / 2) * (this.frame.h / this.frame.fh);
    this.view.fov = (2 * Math.atan(t) * 180) / Math.PI;
    const { w, h, fh } = this.frame;
    this.view.aspect = w / h;
    this.view.setViewOffset(w, h, (this.shift.x / 100) * this.frame.fw, (-this.shift.y / 100) * fh, w, h);
    this.draw();
  }

  camera(): Schemas["Camera"] {
    this.view.updateMatrixWorld();
    return {
      matrix: rowsOf(this.view.matrixWorld),
      yfov: this.yfov,
      ymag: 0,
      ...(this.shift.x !== 0 && { shiftX: this.shift.x }),
      ...(this.shift.y !== 0 && { shiftY: this.shift.y }),
    };
  }

  /** hit is what lies under a point of the view, from -1 to 1 to the right and up; lights of the stage are looked through. */
  hit(x: number, y: number): { part: number; point: Vector } | null {
    if (!this.group) return null;
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2(x, y), this.view);
    const seen = this.group.children.filter((o) => o.visible && !this.lamps.has(o.userData["part"] as number));
    const hit = ray.intersectObjects(seen, false)[0];
    return hit ? { part: hit.object.userData["part"] as number, point: hit.point.toArray() } : null;
  }

  /** at is where a point of the world is in the view, pixels; null behind the camera. */
  at(p: number[]): { x: number; y: number } | null {
    const v = new THREE.Vector3(...(p as Vector)).applyMatrix4(this.view.matrixWorldInverse);
    if (v.z > -1e-6) return null;
    v.applyMatrix4(this.view.projectionMatrix);
    return { x: ((v.x + 1) / 2) * this.frame.w, y: ((1 - v.y) / 2) * this.frame.h };
  }

  /**
   * onto is the point of a sphere that lies under a point of the view, pixels, on its near
   * or its far side; beside the sphere, the nearest of its outline.
   */
  onto(x: number, y: number, middle: number[], radius: number, near: boolean): Vector {
    const ray = new THREE.Raycaster();
    ray.setFromCamera(new THREE.Vector2((x / this.frame.w) * 2 - 1, 1 - (y / this.frame.h) * 2), this.view);
    const { origin: o, direction: d } = ray.ray;
    const c = new THREE.Vector3(...(middle as Vector));
    const along = c.clone().sub(o).dot(d);
    const beside = o.clone().addScaledVector(d, along).sub(c);
    const half = radius ** 2 - beside.lengthSq();
    if (half <= 0) return c.addScaledVector(beside.normalize(), radius).toArray();
    const first = along - Math.sqrt(half);
    const t = near && first > 0 ? first : along + Math.sqrt(half);
    return o.clone().addScaledVector(d, t).toArray();
  }

  /** middleOf is the middle of the box around parts, metres; null without any. */
  middleOf(parts: number[]): Vector | null {
    const box = new THREE.Box3();
    const want = new Set(parts);
    this.group?.updateMatrixWorld();
    this.group?.children.forEach((o) => {
      if (want.has(o.userData["part"] as number)) box.expandByObject(o);
    });
    return box.isEmpty() ? null : box.getCenter(new THREE.Vector3()).toArray();
  }

  /** pixelsAMetre is how many pixels of the view a metre takes across the line of sight at a point. */
  pixelsAMetre(p: number[]): number {
    const depth = -new THREE.Vector3(...(p as Vector)).applyMatrix4(this.view.matrixWorldInverse).z;
    return this.frame.h / 2 / Math.tan((this.view.fov * Math.PI) / 360) / depth;
  }

  /** isNear tells whether a point is on the camera's side of another. */
  isNear(p: number[], middle: number[]): boolean {
    const depth = (q: number[]) => new THREE.Vector3(...(q as Vector)).applyMatrix4(this.view.matrixWorldInverse).z;
    return depth(p) > depth(middle);
  }

  highlight(parts: number[], through: boolean) {
    this.picked = new Set(parts);
    this.through = through && parts.length > 0;
    // For a moment only: a tint that stays would be in the way of judging the finish.
    this.tint.opacity = tinted;
    window.clearTimeout(this.fading);
    this.fading = window.setTimeout(() => {
      this.tint.opacity = 0;
      this.draw();
    }, tintedFor);
    this.dress();
  }

  /** dress has every part wear its finish, amber where it is picked, or a veil. */
  private dress() {
    this.group?.children.forEach((o) => {
      const i = o.userData["part"] as number;
      const own = this.finishes[this.wears[i] ?? 0];
      if (!own) return;
      const picked = this.picked.has(i);
      o.renderOrder = picked ? 1 : 0; // tints over what hides it
      if (this.lamps.has(i)) (o as THREE.Mesh).material = this.traced ? this.nothing : this.veil;
      else if (this.traced)
        (o as THREE.Mesh).material = picked ? this.tint : own.transparent ? this.nothing : this.unseen;
      else if (picked || this.through) (o as THREE.Mesh).material = picked ? this.lit : this.veil;
      else (o as THREE.Mesh).material = this.clayOf(i) ?? (this.clay.size > 0 ? this.keptOf(this.wears[i] ?? 0) : own);
    });
    this.draw();
  }

  /** clad has parts drawn in clay, by its display grey; all others are drawn in their finishes. */
  clad(greys: Map<number, number>) {
    this.clay = greys;
    this.dress();
  }

  private clayOf(part: number): THREE.Material | undefined {
    const grey = this.clay.get(part);
    if (grey === undefined) return undefined;
    let m = this.clays.get(grey);
    if (!m) {
      m = new THREE.MeshStandardMaterial({ roughness: 1, side: THREE.DoubleSide });
      (m as THREE.MeshStandardMaterial).color.setRGB(grey / 255, grey / 255, grey / 255, THREE.SRGBColorSpace);
      this.clays.set(grey, m);
    }
    return m;
  }

  /** keptOf is a finish as it is drawn among clay: marked by a glow of amber. */
  private keptOf(finish: number): THREE.Material {
    let m = this.kept.get(finish);
    if (!m) {
      const of = this.finishes[finish] as THREE.MeshStandardMaterial;
      m = of.clone();
      m.emissive = of.emissive.clone().add(new THREE.Color(tones.amber).multiplyScalar(keptGlow));
      this.kept.set(finish, m);
    }
    return m;
  }

  /** wearing has the finishes drawn as they are now. */
  wearing(finishes: Schemas["FinishBody"][]) {
    [...this.finishes, ...this.kept.values()].forEach((m) => m.dispose());
    this.kept.clear();
    this.finishes = finishes.map(drawnAs);
    this.dress();
  }

  /** hide has parts not drawn, from the next stand on. */
  hide(parts: number[]) {
    this.hidden = new Set(parts);
  }

  /** stand puts the parts where the set-up, or a moment of an animation, has them, in what they wear. */
  stand(parts: Schemas["PartBody"][], places: (number[] | null)[] | undefined) {
    this.wears = parts.map((p) => p.wears);
    this.lamps = new Set(parts.flatMap((p, i) => (p.staged && p.lamp ? [i] : [])));
    this.group?.children.forEach((o) => {
      const i = o.userData["part"] as number;
      const part = parts[i];
      if (!part) return;
      o.visible = !part.out && !this.hidden.has(i);
      o.matrix.copy(matrixOf(places?.[i] ?? part.world));
      o.matrixWorldNeedsUpdate = true;
    });
    this.dress();
  }

  /** approach goes straight towards a place until it fills half of the frame. */
  approach(centre: number[], radius: number) {
    const c = new THREE.Vector3(...(centre as [number, number, number]));
    // Back along the line of sight to the middle of the frame.
    const t = Math.tan(this.yfov / 2);
    const { fw, fh } = this.frame;
    const back = new THREE.Vector3((-this.shift.x / 50) * t * (fw / fh), (-this.shift.y / 50) * t, 1);
    this.view.position.copy(c).addScaledVector(back.applyQuaternion(this.view.quaternion), (2 * radius) / t);
    this.controls.target.copy(c);
    this.controls.update();
    this.draw();
    this.end();
  }

  /** over has the view lie over a traced picture, or show the scene by itself. */
  over(traced: boolean) {
    this.traced = traced;
    this.scene.background = traced ? null : new THREE.Color(tones.wall);
    this.dress();
  }

  private draw() {
    if (this.due) return;
    this.due = requestAnimationFrame(() => {
      this.due = 0;
      this.renderer.render(this.scene, this.view);
      this.drawn();
    });
  }

  dispose() {
    cancelAnimationFrame(this.due);
    window.clearTimeout(this.fading);
    this.controls.dispose();
    this.group?.traverse((o) => (o as THREE.Mesh).geometry?.dispose());
    this.renderer.dispose();
    this.renderer.domElement.remove();
  }
}
