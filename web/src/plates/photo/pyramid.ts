import type { Px } from '@wellmorph/core/photo/match';
import type { Strip } from '@wellmorph/core/photo/snap';

/** Side of a tile, px. */
const TILE = 1024;
/** Tiles kept, about 4 MB each. */
const MOST_TILES = 96;

interface Level {
  width: number;
  height: number;
  bitmap: ImageBitmap;
}

/** What of a photograph is looked at: px of it at the plate’s corner, and plate px for each of its px. */
export interface PhotoView {
  x: number;
  y: number;
  scale: number;
}

/**
 * A photograph as the plate draws it: unpacked once by the browser, with smaller levels, cut into tiles as they come into view. Nothing of it
 * is drawn finer than the screen is, so one of 48 megapixels slides as one of one does.
 */
export class PhotoPyramid {
  private readonly tiles = new Map<string, ImageBitmap | 'coming'>();
  private closed = false;

  private constructor(
    private readonly levels: Level[],
    /** Called when a tile that was missing is there. */
    private readonly onTile: () => void,
  ) {}

  /** @throws where the browser can’t read it */
  static async open(url: string, onTile: () => void): Promise<PhotoPyramid> {
    const response = await fetch(url);
    if (!response.ok) throw new Error('The photograph is no longer stored.');
    const whole = await createImageBitmap(await response.blob());
    const levels: Level[] = [{ width: whole.width, height: whole.height, bitmap: whole }];
    const made = new PhotoPyramid(levels, onTile);
    void made.build();
    return made;
  }

  /** Smaller levels, each half the one before, made one after the other while the whole is looked at already. */
  private async build(): Promise<void> {
    for (let last = this.levels[0]; Math.max(last.width, last.height) > TILE; last = this.levels[this.levels.length - 1]) {
      const [width, height] = [Math.max(1, last.width >> 1), Math.max(1, last.height >> 1)];
      const bitmap = await createImageBitmap(last.bitmap, { resizeWidth: width, resizeHeight: height, resizeQuality: 'medium' });
      if (this.closed) return bitmap.close();
      this.levels.push({ width, height, bitmap });
      this.onTile();
    }
  }

  get width(): number {
    return this.levels[0].width;
  }
  get height(): number {
    return this.levels[0].height;
  }

  /** Draws what is in view from the level that is just fine enough. */
  draw(context: CanvasRenderingContext2D, { x, y, scale }: PhotoView, width: number, height: number): void {
    const wanted = Math.max(0, Math.floor(Math.log2(1 / scale) + 1e-6));
    const number = Math.min(wanted, this.levels.length - 1);
    const level = this.levels[number];
    const each = this.width / level.width;
    context.imageSmoothingEnabled = scale * each < 4;
    const from = (v: number) => Math.max(0, Math.floor(v / each / TILE));
    const to = (v: number, most: number) => Math.min(Math.ceil(most / TILE) - 1, Math.floor(v / each / TILE));
    for (let j = from(y); j <= to(y + height / scale, level.height); j++)
      for (let i = from(x); i <= to(x + width / scale, level.width); i++) {
        const [sx, sy] = [i * TILE, j * TILE];
        const [w, h] = [Math.min(TILE, level.width - sx), Math.min(TILE, level.height - sy)];
        // Up to whole px, so that no line of paper shows between tiles.
        const [dx, dy] = [Math.floor((sx * each - x) * scale), Math.floor((sy * each - y) * scale)];
        const [dw, dh] = [Math.floor(((sx + w) * each - x) * scale) - dx, Math.floor(((sy + h) * each - y) * scale) - dy];
        const tile = this.tile(number, i, j, w, h);
        if (tile) context.drawImage(tile, dx, dy, dw, dh);
        else context.drawImage(level.bitmap, sx, sy, w, h, dx, dy, dw, dh);
      }
  }

  private tile(level: number, i: number, j: number, w: number, h: number): ImageBitmap | null {
    const key = `${level} ${i} ${j}`;
    const known = this.tiles.get(key);
    if (known === 'coming') return null;
    if (known) {
      this.tiles.delete(key);
      this.tiles.set(key, known);
      return known;
    }
    this.tiles.set(key, 'coming');
    createImageBitmap(this.levels[level].bitmap, i * TILE, j * TILE, w, h).then(
      (bitmap) => {
        if (this.closed) return bitmap.close();
        this.tiles.set(key, bitmap);
        for (const [old, t] of this.tiles) {
          if (this.tiles.size <= MOST_TILES) break;
          if (t === 'coming') continue;
          t.close();
          this.tiles.delete(old);
        }
        this.onTile();
      },
      () => this.tiles.delete(key),
    );
    return null;
  }

  /** The light along a line and so many px to both sides of it, at full size. */
  strip(a: Px, b: Px, reach: number): Strip | null {
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
    const [width, height] = [Math.min(8192, Math.round(length)), 2 * reach + 1];
    if (width < 8) return null;
    const canvas = new OffscreenCanvas(width, height);
    const context = canvas.getContext('2d', { willReadFrequently: true });
    if (!context) return null;
    const [ux, uy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
    // Along the line to the right, across it down; the line lies in the middle of its row.
    context.transform(width / length, 0, 0, 1, 0, height / 2);
    context.transform(ux, -uy, uy, ux, -(ux * a[0] + uy * a[1]), uy * a[0] - ux * a[1]);
    // Only what lies round the line is handed over.
    const pad = reach + 2;
    const [x0, y0] = [Math.max(0, Math.floor(Math.min(a[0], b[0]) - pad)), Math.max(0, Math.floor(Math.min(a[1], b[1]) - pad))];
    const [x1, y1] = [
      Math.min(this.width, Math.ceil(Math.max(a[0], b[0]) + pad)),
      Math.min(this.height, Math.ceil(Math.max(a[1], b[1]) + pad)),
    ];
    if (x1 <= x0 || y1 <= y0) return null;
    context.drawImage(this.levels[0].bitmap, x0, y0, x1 - x0, y1 - y0, x0, y0, x1 - x0, y1 - y0);
    const { data } = context.getImageData(0, 0, width, height);
    const grey = new Float32Array(width * height);
    for (let i = 0; i < grey.length; i++) grey[i] = 0.299 * data[4 * i] + 0.587 * data[4 * i + 1] + 0.114 * data[4 * i + 2];
    return { width, height, grey };
  }

  close(): void {
    this.closed = true;
    for (const t of this.tiles.values()) if (t !== 'coming') t.close();
    this.tiles.clear();
    for (const l of this.levels) l.bitmap.close();
  }
}
