import { linearToSrgb, srgbToLinear } from '@wellmorph/core/image/srgb';
import { hash32 } from '@wellmorph/core/maths/random';
import { makeMesh, type PolyMesh } from '@wellmorph/core/mesh/polymesh';
import type { SceneTexture } from '@wellmorph/core/render/scene';
import { NOTICE_BOX } from './notice-box';

/** What the notice box looks like: a picture of its six sides, and the box with each side on its own place in it. Nothing but sums. */

type Colour = readonly [number, number, number];
const hex = (s: string): Colour => [1, 3, 5].map((i) => srgbToLinear(Number.parseInt(s.slice(i, i + 2), 16) / 255)) as unknown as Colour;
const mix = (a: Colour, b: Colour, t: number): Colour => [0, 1, 2].map((k) => a[k] + (b[k] - a[k]) * t) as unknown as Colour;
const noise = (x: number, y: number, seed: number): number => {
  const at = (i: number, j: number) => hash32(Math.imul(i, 73856093) ^ Math.imul(j, 19349663) ^ seed) / 4294967296;
  const [i, j] = [Math.floor(x), Math.floor(y)];
  const [u, v] = [x - i, y - j].map((t) => t * t * (3 - 2 * t));
  const mixed = (a: number, b: number, t: number) => a + (b - a) * t;
  return mixed(mixed(at(i, j), at(i + 1, j), u), mixed(at(i, j + 1), at(i + 1, j + 1), u), v);
};

const PAINT = hex('#3F7D6E');
const BOARD = hex('#A98F63');
const PAPER = hex('#EFE9D6');
const INK = hex('#27303A');
const RED = hex('#A8402F');
const BLUE = hex('#2F5D86');
const GREY = hex('#8C8578');

/** Boards side by side, with the gaps between them and the grain along them. */
function boards(colour: Colour, x: number, y: number, width: number, seed: number): Colour {
  const board = Math.floor(x / width);
  const inside = x / width - board;
  const grain = noise(x / 3, y / 70, seed + board) * 0.6 + noise(x / 0.9, y / 25, seed + 9 + board) * 0.4;
  const gap = Math.min(inside, 1 - inside) * width < 1.6 ? 0.45 : 1;
  const tone = (0.82 + 0.36 * (grain - 0.5) + 0.12 * (hash32(board + seed) / 4294967296 - 0.5)) * gap;
  return mix(INK, colour, Math.max(0.1, Math.min(1.1, tone)));
}

/** A sheet pinned up: a heading, lines of writing, a mark. Null beside it. */
function sheet(x: number, y: number, [x0, y0, w, h]: readonly number[], mark: 'band' | 'star' | 'wave'): Colour | null {
  const [u, v] = [x - x0, y - y0];
  if (u < 0 || v < 0 || u > w || v > h) return null;
  if (Math.hypot(u - w / 2, v - 7) < 3.2) return RED;
  const tint = mix(PAPER, GREY, 0.08 * noise(u / 20, v / 20, 77));
  if (mark === 'band' && v > 16 && v < 34) return u > 10 && u < w - 10 ? RED : tint;
  if (mark === 'star') {
    const [a, b] = [u - w / 2, v - 0.36 * h];
    const r = Math.hypot(a, b);
    const points = 0.55 + 0.45 * Math.cos(4 * Math.atan2(b, a));
    if (r < 0.3 * w * points) return BLUE;
    if (r < 0.34 * w && r > 0.32 * w) return INK;
    if (v < 0.72 * h) return tint;
  }
  if (mark === 'wave' && v > 0.58 * h && v < 0.9 * h) {
    const wave = 0.74 * h + 0.05 * h * Math.sin(u / 9);
    return v > wave ? BLUE : tint;
  }
  const line = v % 11;
  const written = line > 4 && line < 7.5 && u > 12 && u < w - 12 - 40 * noise(Math.floor(v / 11), w, 5);
  return written && noise(u / 2.2, Math.floor(v / 11) * 3.1, 3) > 0.36 ? INK : tint;
}

/** What stands at a place of a side, mm from its left lower corner. */
function side(of: number, x: number, y: number): Colour {
  const [w, h, d] = NOTICE_BOX;
  if (of === 0) {
    const top = h - y;
    const panel = x > 46 && x < w - 46 && top > 52 && top < h - 44;
    if (!panel) return boards(PAINT, top, x, 60, 11);
    const pinned =
      sheet(x, top, [76, 84, 168, 236], 'band') ??
      sheet(x, top, [278, 74, 150, 196], 'star') ??
      sheet(x, top, [452, 108, 122, 170], 'wave') ??
      sheet(x, top, [300, 306, 210, 96], 'band');
    return pinned ?? boards(BOARD, x, top, 47, 23);
  }
  if (of === 4) return boards(GREY, y, x, d / 4, 41);
  if (of === 5) return mix(INK, BOARD, 0.3);
  // The side walls: boards, and a stripe of another colour on each so that they can be told apart.
  const stripe = y > 90 && y < 130;
  const tone = boards(stripe ? (of === 2 ? RED : BLUE) : PAINT, x, y, of < 2 ? 64 : 55, 60 + of);
  return of < 4 && Math.hypot(x - (of < 2 ? w : d) / 2, y - 0.72 * h) < 34 ? mix(PAPER, tone, 0.25) : tone;
}

/** Columns and rows of the picture: front, back, right over left, top, bottom. */
const GRID = [3, 2] as const;

/** The box, each side on its own place of the picture. */
export function noticeBoxMesh(): PolyMesh {
  const [w, h, d] = NOTICE_BOX;
  const [x, z] = [w / 2, d / 2];
  const corners: (readonly (readonly [number, number, number])[])[] = [
    [
      [-x, 0, z],
      [x, 0, z],
      [x, h, z],
      [-x, h, z],
    ],
    [
      [x, 0, -z],
      [-x, 0, -z],
      [-x, h, -z],
      [x, h, -z],
    ],
    [
      [x, 0, z],
      [x, 0, -z],
      [x, h, -z],
      [x, h, z],
    ],
    [
      [-x, 0, -z],
      [-x, 0, z],
      [-x, h, z],
      [-x, h, -z],
    ],
    [
      [-x, h, z],
      [x, h, z],
      [x, h, -z],
      [-x, h, -z],
    ],
    [
      [-x, 0, -z],
      [x, 0, -z],
      [x, 0, z],
      [-x, 0, z],
    ],
  ];
  const uv = corners.flatMap((_, f) =>
    (
      [
        [0, 0],
        [1, 0],
        [1, 1],
        [0, 1],
      ] as const
    ).flatMap(([u, v]) => [((f % GRID[0]) + u) / GRID[0], (Math.floor(f / GRID[0]) + v) / GRID[1]]),
  );
  const mesh = makeMesh({
    positions: corners.flat(2),
    faceStart: corners.map((_, i) => 4 * i).concat(24),
    faceVert: Array.from({ length: 24 }, (_, i) => i),
  });
  return { ...mesh, attributes: [...mesh.attributes, { name: 'uv', domain: 'corner', size: 2, data: Float32Array.from(uv) }] };
}

/** The picture of its sides, so many texels wide each. */
export function noticeBoxPicture(cell = 1024): SceneTexture {
  const [width, height] = [GRID[0] * cell, GRID[1] * cell];
  const [w, h, d] = NOTICE_BOX;
  const sizes = [
    [w, h],
    [w, h],
    [d, h],
    [d, h],
    [w, d],
    [w, d],
  ];
  const data = new Uint8Array(3 * width * height);
  for (let py = 0; py < height; py++)
    for (let px = 0; px < width; px++) {
      const f = Math.floor(px / cell) + GRID[0] * (GRID[1] - 1 - Math.floor(py / cell));
      const [sw, sh] = sizes[f];
      const colour = side(f, (((px % cell) + 0.5) / cell) * sw, (1 - ((py % cell) + 0.5) / cell) * sh);
      for (let k = 0; k < 3; k++) data[3 * (py * width + px) + k] = Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, colour[k]))));
    }
  return { width, height, channels: 3, data, wrap: ['clamp', 'clamp'] };
}

/** Flagstones, 2 m of them, repeated. */
export function flagstones(size = 1024): SceneTexture {
  const data = new Uint8Array(3 * size * size);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const [u, v] = [(4 * x) / size, (4 * y) / size];
      const row = Math.floor(v);
      const shifted = (u + 0.5 * (row % 2)) % 4;
      const joint = Math.min(shifted % 1, 1 - (shifted % 1), v % 1, 1 - (v % 1)) < 0.018;
      const stone = hash32(Math.floor(shifted) * 7 + row * 31) / 4294967296;
      const tone = joint ? 0.16 : 0.34 + 0.1 * stone + 0.12 * (noise(u * 14, v * 14, 3) - 0.5) + 0.06 * (noise(u * 60, v * 60, 4) - 0.5);
      data.set(
        [tone, tone * 0.97, tone * 0.9].map((c) => Math.round(255 * linearToSrgb(c))),
        3 * (y * size + x),
      );
    }
  return { width: size, height: size, channels: 3, data };
}
