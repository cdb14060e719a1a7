import type { NoiseMap } from "../api/noise";
import { pictureURL, type RunDetail } from "../api/runs";
import { tones, typefaces } from "../shared/tones";
import { cells, said, strength } from "./tiles";

/** Longest side of the saved picture, and least side of a square with a number, pixels. */
const longest = 1600;
const room = 40;

/** savePicture saves the map over the picture as a PNG. */
export async function savePicture(run: RunDetail, pass: string, version: string, map: NoiseMap, reference: number) {
  const img = new Image();
  img.src = pictureURL(run.run.id, pass, longest, version);
  await img.decode();
  const [left, top, right, bottom] = run.window as [number, number, number, number];
  const canvas = document.createElement("canvas");
  canvas.width = img.naturalWidth;
  canvas.height = img.naturalHeight;
  const k = canvas.width / (right - left);
  const g = canvas.getContext("2d")!;
  g.drawImage(img, 0, 0);
  g.font = `600 13px ${typefaces.narrow}`;
  g.textAlign = "center";
  g.textBaseline = "middle";
  for (const c of cells(map, Math.max(1, Math.ceil(room / (map.side * k))), [left, top, right, bottom])) {
    const [x, y, w, h] = [c.area[0] - left, c.area[1] - top, c.area[2] - c.area[0], c.area[3] - c.area[1]].map(
      (v) => v * k,
    ) as [number, number, number, number];
    const s = strength(c.noise, reference);
    if (s > 0) {
      g.globalAlpha = 0.16 + 0.44 * s;
      g.fillStyle = tones.amber;
      g.fillRect(x, y, w, h);
    }
    g.globalAlpha = s > 0 ? 1 : 0.75;
    g.lineWidth = 3;
    g.strokeStyle = tones.hairline;
    g.fillStyle = tones.ink;
    g.strokeText(said(c.noise), x + w / 2, y + h / 2);
    g.fillText(said(c.noise), x + w / 2, y + h / 2);
  }
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, "image/png"));
  if (!blob) throw new Error("The browser could not make the picture; make its window smaller and try again");
  const a = document.createElement("a");
  a.href = URL.createObjectURL(blob);
  a.download = `noise-run-${run.run.id}.png`;
  a.click();
  URL.revokeObjectURL(a.href);
}
