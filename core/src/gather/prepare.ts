import { InputError } from '../errors';
import type { Pixels } from '../image/png';
import { cornerNormals } from '../mesh/normals';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { mikkTangents } from '../mesh/tangents';
import { type Allocate, PRIVATE } from '../rays/tree';
import type { Texturing } from '../surface/texturing';
import { acrossFrom } from './across';
import { binned, MOST_SAMPLES } from './bands';
import type { GatherJob, PreparedPart } from './gather';
import { type GatherLook, lookOf, type Tap } from './look';
import { halved, type SourcePicture } from './picture';

/** A part to be gathered. */
export interface GatherPart {
  id: string;
  name: string;
  /** Its `uv` is the layout that is drawn to. */
  target: PolyMesh;
  /** Its layouts are those that its pictures lie on; the same mesh, or another one of the same surface. */
  source: PolyMesh;
  texturing: Texturing;
}

/** What is gathered, and to what size. */
export interface GatherInput {
  parts: readonly GatherPart[];
  size: number;
  /** The picture of a blob, 8 bits a channel. @throws InputError where it can’t be read */
  picture(blob: string): Pixels;
}

/** Unpacked pictures may come to so many bytes. */
export const MOST_UNPACKED = 1.6e9;

/** Everything that drawing needs. @throws InputError in one sentence */
export function prepareGather({ parts, size, picture }: GatherInput, allocate: Allocate = PRIVATE): GatherJob {
  const shelf = new Shelf(picture, allocate);
  const floats = (values: ArrayLike<number>): Float32Array => {
    const out = new Float32Array(allocate(4 * values.length));
    out.set(values as Float32Array);
    return out;
  };
  const looks: GatherLook[] = [];
  let glow = 1;
  const prepared = parts.map((p): PreparedPart => {
    const layouts: number[] = [];
    const layoutAt = (layout: number): number => {
      if (!attribute(p.source, layoutName(layout), 'corner')) return -1;
      const known = layouts.indexOf(layout);
      return known >= 0 ? known : layouts.push(layout) - 1;
    };
    const names: string[] = [];
    const numbered = {
      ...p.texturing,
      uses: p.texturing.uses.map((u) => ({ ...u, picture: names.push(u.picture) - 1 })),
    } as Texturing<number>;
    const look = lookOf(numbered, layoutAt);
    const sizes = look.taps.map((tap) => shelf.sizeOf(names[tap.picture]));
    const dense = look.taps.map(({ matrix: m }, i) => Math.sqrt(Math.abs(m[0] * m[4] - m[1] * m[3]) * sizes[i][0] * sizes[i][1]));
    const finest = Math.max(...dense, 1e-9);
    glow = Math.max(glow, ...p.texturing.emission);
    const target = sideOf(p.target, uvOf(p.target, 'uv'));
    const own = layouts.map((l) => uvOf(p.source, layoutName(l)));
    const across = acrossFrom(p.source, p.target, allocate);
    const normalTap = look.taps[look.normal] as Tap | undefined;
    const source = sideOf(p.source, normalTap && laid(own[normalTap.layout], normalTap));
    const finer = across.kind === 'same' ? finerOf(target.uv, own, look.taps, sizes, size) : finerByArea(p, own, look.taps, sizes, size);
    const level = Math.max(0, Math.ceil(Math.log2(Math.max(...finer, 1) / MOST_SAMPLES) - 0.05));
    look.taps = look.taps.map((tap, i) => {
      const coarser = Math.max(0, Math.floor(Math.log2(finest / Math.max(dense[i], 1e-9))));
      return { ...tap, coarser, ...shelf.take(names[tap.picture], tap.colour, Math.max(0, level - coarser)) };
    });
    const colours = look.vertexColours ? attribute(p.source, 'colour', 'corner') : undefined;
    return {
      id: p.id,
      look: looks.push(look) - 1,
      uv: floats(target.uv),
      normal: floats(target.normal),
      tangent: floats(target.tangent),
      source: {
        layouts: own.map(floats),
        normal: across.kind === 'same' ? floats(target.normal) : floats(source.normal),
        tangent: floats(normalTap ? source.tangent : []),
        colour: floats(colours ? byCorner(p.source, colours.data, 4) : []),
      },
      across,
      finer: floats(finer),
    };
  });
  return { size, parts: prepared, looks, pictures: shelf.pictures, glow, ...binned(prepared, size) };
}

export const layoutName = (layout: number): string => (layout === 0 ? 'uv' : `uv${layout + 1}`);

function byCorner(mesh: PolyMesh, data: ArrayLike<number>, each: number): Float32Array {
  const out = new Float32Array(each * mesh.triangles.length);
  for (let i = 0; i < mesh.triangles.length; i++) for (let k = 0; k < each; k++) out[each * i + k] = data[each * mesh.triangles[i] + k];
  return out;
}
const uvOf = (mesh: PolyMesh, name: string): Float32Array => byCorner(mesh, attribute(mesh, name, 'corner')?.data ?? [], 2);

/** A layout as it lies in a tap’s picture: the frame of a normal map follows it there. */
function laid(uv: Float32Array, { matrix: m }: Tap): Float32Array {
  const out = new Float32Array(uv.length);
  for (let i = 0; i < uv.length; i += 2) {
    out[i] = m[0] * uv[i] + m[1] * uv[i + 1] + m[2];
    out[i + 1] = m[3] * uv[i] + m[4] * uv[i + 1] + m[5];
  }
  return out;
}

/** Frames along a layout, by triangle corner, rounded as the exported mesh has them. */
function sideOf(mesh: PolyMesh, uv: Float32Array | undefined): { uv: Float32Array; normal: Float32Array; tangent: Float32Array } {
  const normals = cornerNormals(mesh);
  const n = mesh.triangles.length;
  const position = new Float32Array(3 * n);
  const normal = new Float32Array(3 * n);
  for (let i = 0; i < n; i++) {
    const c = mesh.triangles[i];
    for (let k = 0; k < 3; k++) {
      position[3 * i + k] = mesh.positions[3 * mesh.faceVert[c] + k];
      normal[3 * i + k] = Math.round(normals[3 * c + k] * 1e6) / 1e6;
    }
  }
  const empty = new Float32Array(0);
  return { uv: uv ?? empty, normal, tangent: uv ? mikkTangents(position, normal, uv) : empty };
}

/** How many texels of its finest picture lie along one of the target’s, by triangle: the greatest stretch of the one onto the other; 0 where it has none. */
function finerOf(
  target: Float32Array,
  layouts: readonly Float32Array[],
  taps: readonly Tap[],
  sizes: readonly (readonly [number, number])[],
  size: number,
): Float32Array {
  const out = new Float32Array(target.length / 6);
  for (let t = 0; t < out.length; t++) {
    const o = 6 * t;
    const side = (uv: Float32Array, k: number) => [uv[o + 2 * k] - uv[o], uv[o + 2 * k + 1] - uv[o + 1]];
    const [[ex, ey], [fx, fy]] = [side(target, 1), side(target, 2)];
    const d = (ex * fy - fx * ey) * size;
    if (Math.abs(d) < 1e-15) continue;
    for (const [i, { layout, matrix: m }] of taps.entries()) {
      const [[a, b], [c, e]] = [side(layouts[layout], 1), side(layouts[layout], 2)];
      // Of the layout per texel of the target, then of the picture.
      const [ux, uy] = [(a * fy - c * ey) / d, (c * ex - a * fx) / d];
      const [vx, vy] = [(b * fy - e * ey) / d, (e * ex - b * fx) / d];
      const [w, h] = sizes[i];
      const [sx, sy] = [(m[0] * ux + m[1] * vx) * w, (m[0] * uy + m[1] * vy) * w];
      const [tx, ty] = [(m[3] * ux + m[4] * vx) * h, (m[3] * uy + m[4] * vy) * h];
      const half = (sx * sx + sy * sy + tx * tx + ty * ty) / 2;
      const det = sx * ty - sy * tx;
      out[t] = Math.max(out[t], Math.sqrt(half + Math.sqrt(Math.max(0, half * half - det * det))));
    }
  }
  return out;
}

/** The same from areas, where the two are different meshes of one surface: on average over each. */
function finerByArea(
  p: GatherPart,
  layouts: readonly Float32Array[],
  taps: readonly Tap[],
  sizes: readonly (readonly [number, number])[],
  size: number,
): Float32Array {
  const dense = (mesh: PolyMesh, uv: Float32Array): number => {
    let [flat, real] = [0, 0];
    for (let t = 0; t < triangleCount(mesh); t++) {
      const o = 6 * t;
      flat += Math.abs((uv[o + 2] - uv[o]) * (uv[o + 5] - uv[o + 1]) - (uv[o + 4] - uv[o]) * (uv[o + 3] - uv[o + 1]));
      const at = (k: number) => {
        const v = 3 * mesh.faceVert[mesh.triangles[3 * t + k]];
        return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]];
      };
      const [a, b, c] = [at(0), at(1), at(2)];
      const [e, f] = [b.map((x, k) => x - a[k]), c.map((x, k) => x - a[k])];
      real += Math.hypot(e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]);
    }
    return Math.sqrt(flat / Math.max(real, 1e-12));
  };
  const target = dense(p.target, uvOf(p.target, 'uv')) * size;
  const finest = taps.map(({ layout, matrix: m }, i) => {
    const own = Math.sqrt(Math.abs(m[0] * m[4] - m[1] * m[3]) * sizes[i][0] * sizes[i][1]);
    return (dense(p.source, layouts[layout]) * own) / Math.max(target, 1e-12);
  });
  return new Float32Array(triangleCount(p.target)).fill(Math.max(0, ...finest));
}

/** Pictures as they are sampled, each unpacked once, its levels right after it. */
class Shelf {
  readonly pictures: SourcePicture[] = [];
  private readonly read = new Map<string, Pixels>();
  private readonly at = new Map<string, { picture: number; levels: number }>();
  private bytes = 0;

  constructor(
    private readonly picture: (blob: string) => Pixels,
    private readonly allocate: Allocate,
  ) {}

  sizeOf(blob: string): readonly [number, number] {
    const p = this.pixels(blob);
    return [p.width, p.height];
  }

  /** Number of a picture that has so many smaller levels, and how many it has. */
  take(blob: string, colour: boolean, levels: number): { picture: number; levels: number } {
    const key = `${blob} ${colour}`;
    const known = this.at.get(key);
    if (known && known.levels >= levels) return known;
    const { width, height, channels, data } = this.pixels(blob);
    const own = this.shared({ width, height, channels, data: data as Uint8Array });
    const made = { picture: this.pictures.push(own) - 1, levels: 0 };
    for (let last = own; made.levels < levels && Math.max(last.width, last.height) > 1; made.levels++) {
      last = this.shared(halved(last, colour));
      this.pictures.push(last);
    }
    this.at.set(key, made);
    return made;
  }

  private pixels(blob: string): Pixels {
    const known = this.read.get(blob);
    if (known) return known;
    const made = this.picture(blob);
    this.bytes += made.data.length;
    if (this.bytes > MOST_UNPACKED)
      throw new InputError(
        'gather/memory',
        `The pictures come to more than ${(MOST_UNPACKED / 1e9).toFixed(1)} GB unpacked, which is more than can be held at once; gather fewer parts, or make the pictures smaller first.`,
      );
    this.read.set(blob, made);
    return made;
  }

  private shared(p: SourcePicture): SourcePicture {
    const data = new Uint8Array(this.allocate(p.data.length));
    data.set(p.data);
    return { ...p, data };
  }
}
