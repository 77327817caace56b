import { encodePng } from '../image/png';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { type Mat4, normalMatrix, transformPoint } from '../maths/mat4';
import { cross, normalise, type Vec3, vec3 } from '../maths/vec3';
import { cornerNormals } from '../mesh/normals';
import type { PolyMesh } from '../mesh/polymesh';
import { RayQuery } from '../rays/query';
import { buildTree } from '../rays/tree';

/** A part as a small picture shows it. */
export interface ThumbnailPart {
  mesh: PolyMesh;
  placements: readonly Mat4[];
  /** sRGB, 0…1. */
  colour: readonly number[];
  metallic: number;
  opacity: number;
  emissive: number;
  /** What it looks like at a place of it, where that is not the same everywhere: linear colour written to `out`, and how much of it is metal. */
  look?: SurfaceLook;
}
/** @param triangle of the part’s mesh @param position mm, in the part’s own space @param texel side of what is seen of it, mm */
export type SurfaceLook = (
  triangle: number,
  position: readonly [number, number, number],
  normal: readonly [number, number, number],
  texel: number,
  out: Float64Array,
) => number;

/**
 * A small picture of the piece, three-quarter view, on a transparent ground: rays, one soft sky, one key light, no shadows.
 * For cards and trials; the path tracer makes the real pictures.
 *
 * @param width px @param height px; a square when left out
 * @returns PNG with alpha
 */
export function thumbnail(parts: readonly ThumbnailPart[], width: number, height = width): Uint8Array {
  const soup: number[] = [];
  const normals: number[] = [];
  const owner: number[] = [];
  const cards: Card[] = parts.map((part) => ({ part, normals: cornerNormals(part.mesh, { hardAngle: 40 }) }));
  const source: number[] = [];
  for (const [i, { part: p, normals: own }] of cards.entries()) {
    for (const m of p.placements) {
      const q = normalMatrix(m);
      for (let k = 0; k < p.mesh.triangles.length; k++) {
        const c = p.mesh.triangles[k];
        const v = 3 * p.mesh.faceVert[c];
        soup.push(...transformPoint(m, [p.mesh.positions[v], p.mesh.positions[v + 1], p.mesh.positions[v + 2]]));
        const n: Vec3 = [own[3 * c], own[3 * c + 1], own[3 * c + 2]];
        normals.push(...normalise(vec3((r) => q[r] * n[0] + q[4 + r] * n[1] + q[8 + r] * n[2])));
        if (k % 3 === 0) {
          owner.push(i);
          source.push(k / 3);
        }
      }
    }
  }
  const rgba = new Uint8Array(4 * width * height);
  if (soup.length > 0) shade(soup, normals, owner, source, cards, width, height, rgba);
  return encodePng({ width, height, channels: 4, depth: 8, data: rgba });
}

const VIEW: Vec3 = normalise([0.62, 0.42, 0.78]);
const KEY: Vec3 = normalise([-0.35, 0.85, 0.6]);
const RIM: Vec3 = normalise([0.7, 0.3, -0.6]);

function shade(
  soup: number[],
  normals: number[],
  owner: number[],
  source: number[],
  cards: readonly Card[],
  width: number,
  height: number,
  rgba: Uint8Array,
): void {
  const right = normalise(cross([0, 1, 0], VIEW));
  const up = cross(VIEW, right);
  let [x0, x1, y0, y1, z1] = [Infinity, -Infinity, Infinity, -Infinity, -Infinity];
  for (let i = 0; i < soup.length; i += 3) {
    const on = (a: Vec3) => soup[i] * a[0] + soup[i + 1] * a[1] + soup[i + 2] * a[2];
    x0 = Math.min(x0, on(right));
    x1 = Math.max(x1, on(right));
    y0 = Math.min(y0, on(up));
    y1 = Math.max(y1, on(up));
    z1 = Math.max(z1, on(VIEW));
  }
  const scale = Math.max((x1 - x0) / width, (y1 - y0) / height) / 0.92;
  const [cx, cy] = [(x0 + x1) / 2, (y0 + y1) / 2];
  const query = new RayQuery(buildTree(Float64Array.from(soup)));
  const AA = 2;
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const sum = [0, 0, 0, 0];
      // What a part looks like is asked for once a pixel, how it is lit for every ray.
      let [looked, metallic] = [-1, 0];
      for (let s = 0; s < AA * AA; s++) {
        const u = cx + (x + ((s % AA) + 0.5) / AA - width / 2) * scale;
        const v = cy - (y + (Math.floor(s / AA) + 0.5) / AA - height / 2) * scale;
        const o = [0, 1, 2].map((k) => u * right[k] + v * up[k] + (z1 + 1) * VIEW[k]);
        let light = 1;
        let from = 0;
        for (let depth = 0; depth < 8 && light > 0.02; depth++) {
          if (!query.closest(o[0], o[1], o[2], -VIEW[0], -VIEW[1], -VIEW[2], from, Infinity)) break;
          // On past it: float32 tells distances apart no better than this.
          from = query.t * 1.000002 + 1e-4;
          const card = cards[owner[query.triangle]];
          const p = card.part;
          if (looked !== owner[query.triangle]) {
            looked = owner[query.triangle];
            metallic = lookAt(card, source[query.triangle], query, scale);
          }
          const colour = lit(p.emissive > 0, metallic, query, normals);
          for (let k = 0; k < 3; k++) sum[k] += light * p.opacity * colour[k];
          sum[3] += light * p.opacity;
          light *= 1 - p.opacity;
        }
      }
      const i = 4 * (y * width + x);
      const alpha = sum[3] / (AA * AA);
      for (let k = 0; k < 3; k++) rgba[i + k] = alpha > 0 ? Math.round(255 * Math.min(1, linearToSrgb(sum[k] / sum[3]))) : 0;
      rgba[i + 3] = Math.round(255 * Math.min(1, alpha));
    }
}

/** A part with the normals of its corners. */
interface Card {
  part: ThumbnailPart;
  normals: Float64Array;
}

const seen = new Float64Array(3);

/** What a part looks like where it was hit. @returns how much of it is metal; linear colour in `seen` */
function lookAt({ part: p, normals }: Card, triangle: number, q: RayQuery, texel: number): number {
  for (let k = 0; k < 3; k++) seen[k] = srgbToLinear(p.colour[k]);
  if (!p.look) return p.metallic;
  const { mesh } = p;
  const weights = [1 - q.u - q.v, q.u, q.v];
  const mixed = (of: ArrayLike<number>, at: (corner: number) => number): Vec3 =>
    vec3((k) => weights.reduce((s, w, c) => s + w * of[3 * at(mesh.triangles[3 * triangle + c]) + k], 0));
  return p.look(
    triangle,
    mixed(mesh.positions, (c) => mesh.faceVert[c]),
    normalise(mixed(normals, (c) => c)),
    texel,
    seen,
  );
}

function lit(glows: boolean, metallic: number, q: RayQuery, normals: number[]): number[] {
  const o = 9 * q.triangle;
  const w = 1 - q.u - q.v;
  let n = normalise(vec3((k) => w * normals[o + k] + q.u * normals[o + 3 + k] + q.v * normals[o + 6 + k]));
  const facing = n[0] * VIEW[0] + n[1] * VIEW[1] + n[2] * VIEW[2];
  if (facing < 0) n = [-n[0], -n[1], -n[2]];
  const along = (a: Vec3) => n[0] * a[0] + n[1] * a[1] + n[2] * a[2];
  const d = Math.abs(facing);
  const diffuse = 0.38 + 0.22 * n[1] + 0.5 * Math.max(0, along(KEY)) + 0.12 * Math.max(0, along(RIM));
  const half = normalise([KEY[0] + VIEW[0], KEY[1] + VIEW[1], KEY[2] + VIEW[2]]);
  const gloss = (metallic > 0.5 ? 0.55 : 0.12) * Math.max(0, along(half)) ** 24;
  const edge = 0.18 * (1 - d) ** 3;
  return [0, 1, 2].map((k) => {
    const base = seen[k];
    return glows ? base : base * diffuse + gloss * (metallic > 0.5 ? base ** 0.5 : 1) + edge;
  });
}
