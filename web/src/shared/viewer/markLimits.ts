/** Width of the stripes over what is clipped and distance of the dots over what is crushed, pixels. */
const stripe = 4;
const dots = 5;

/**
 * markLimits marks what is at the limits of the display by pattern, not by hue: stripes
 * of black where a channel is at its most, white dots where all are at their least. The
 * shown pixels are spread over a picture of a size.
 */
export function markLimits(
  pen: CanvasRenderingContext2D,
  shown: Uint8ClampedArray,
  pixels: number,
  rows: number,
  width: number,
  height: number,
) {
  const image = pen.getImageData(0, 0, width, height);
  for (let y = 0; y < height; y++) {
    const from = Math.min(rows - 1, Math.floor((y * rows) / height)) * pixels;
    for (let x = 0; x < width; x++) {
      const i = 4 * (from + Math.min(pixels - 1, Math.floor((x * pixels) / width)));
      if (shown[i + 3] === 0) continue;
      const most = Math.max(shown[i]!, shown[i + 1]!, shown[i + 2]!);
      const striped = most === 255 && (x + y) % (2 * stripe) < stripe;
      const dotted = most === 0 && x % dots < 2 && y % dots < 2;
      if (!striped && !dotted) continue;
      const tone = striped ? 0 : 255;
      image.data.fill(tone, 4 * (y * width + x), 4 * (y * width + x) + 3);
    }
  }
  pen.putImageData(image, 0, 0);
}
