import { textureBytes } from '../brief/advice';
import { InputError } from '../errors';
import type { Finding } from '../inspect/finding';
import { pictureSize } from '../io/head';
import { areaOf } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { figure } from '../units/lengths';

/** What a model has to keep to, as a limits file says it. */
export interface Limits {
  triangles?: number;
  /** Vertices as the card counts them. */
  gpuVertices?: number;
  drawCalls?: number;
  /** Of the textures the file brings, with all their levels, 4 bytes a texel. */
  memoryMB?: number;
  /** At least, on every part that is laid out, at `textureSize`. */
  densityPxPerCm?: number;
  textureSize?: number;
  /** Findings that may be there: a kind (`open-rim`) or one of them (`open-rim:Body`). */
  allow?: string[];
  /** The least severity that fails; errors when absent. */
  failOn?: 'error' | 'warning';
}

const NUMBERS = ['triangles', 'gpuVertices', 'drawCalls', 'memoryMB', 'densityPxPerCm', 'textureSize'] as const;

/** A limits file, checked. @throws InputError in one sentence */
export function checkLimits(plain: unknown): Limits {
  if (typeof plain !== 'object' || plain === null || Array.isArray(plain))
    throw new InputError('limits/file', 'A limits file is one JSON object: { "triangles": 5000, "allow": ["open-rim"] }.');
  const known = new Set<string>([...NUMBERS, 'allow', 'failOn']);
  const given = plain as Record<string, unknown>;
  const odd = Object.keys(given).find((k) => !known.has(k));
  if (odd) throw new InputError('limits/key', `“${odd}” is no limit; there are ${[...known].join(', ')}.`);
  for (const k of NUMBERS) {
    const x = given[k];
    if (x !== undefined && !(typeof x === 'number' && Number.isFinite(x) && x > 0))
      throw new InputError('limits/number', `The limit ${k} has to be a number above 0.`);
  }
  const { allow, failOn } = given;
  if (allow !== undefined && !(Array.isArray(allow) && allow.every((a) => typeof a === 'string' && a.length > 0)))
    throw new InputError('limits/allow', 'What is allowed has to be a list of kinds of findings, or of findings.');
  if (failOn !== undefined && failOn !== 'error' && failOn !== 'warning')
    throw new InputError('limits/fail', 'failOn is "error" or "warning".');
  if (given.densityPxPerCm !== undefined && given.textureSize === undefined)
    throw new InputError('limits/size', 'A density is one at a texture size: say textureSize too.');
  return given as Limits;
}

/** What is measured of a model. */
export interface Measured {
  triangles: number;
  gpuVertices: number;
  drawCalls: number;
  memoryMB: number;
  /** The least of all parts that are laid out, px/cm; null when none is. */
  densityPxPerCm: number | null;
}

/** A limit, and what stands against it. */
export interface LimitKept {
  what: string;
  value: number;
  limit: number;
  unit: string;
  kept: boolean;
}

/** Video memory of pictures with all their levels, MB. A picture that can't be read counts nothing; what is wrong with it is said elsewhere. */
export function picturesMB(pictures: readonly { bytes: Uint8Array }[]): number {
  return pictures.reduce((n, p) => {
    const size = pictureSize(p.bytes);
    return n + (size ? textureBytes(size[0], size[1], 4) / 1e6 : 0);
  }, 0);
}

/** Density of a mesh by its own `uv`: 10·√(size²·A_uv/A_mm²), px/cm; null without a layout. */
export function densityOf(mesh: PolyMesh, size: number): number | null {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const area = areaOf(mesh);
  if (!uv || area === 0) return null;
  let sum = 0;
  for (let t = 0; t < triangleCount(mesh); t++) {
    const [a, b, c] = [0, 1, 2].map((k) => 2 * mesh.triangles[3 * t + k]);
    sum += Math.abs((uv[b] - uv[a]) * (uv[c + 1] - uv[a + 1]) - (uv[b + 1] - uv[a + 1]) * (uv[c] - uv[a])) / 2;
  }
  return 10 * Math.sqrt((size * size * sum) / area);
}

/** Each limit beside what was measured, and the findings that are not allowed. */
export function judge(limits: Limits, measured: Measured, findings: readonly Finding[]): { limits: LimitKept[]; open: Finding[] } {
  const most = (what: string, value: number, limit: number | undefined, unit: string): LimitKept[] =>
    limit === undefined ? [] : [{ what, value, limit, unit, kept: value <= limit }];
  const kept = [
    ...most('triangles', measured.triangles, limits.triangles, 'triangles'),
    ...most('vertices on the card', measured.gpuVertices, limits.gpuVertices, 'vertices'),
    ...most('draws', measured.drawCalls, limits.drawCalls, 'draws'),
    ...most('texture memory', measured.memoryMB, limits.memoryMB, 'MB'),
  ];
  if (limits.densityPxPerCm !== undefined) {
    const value = measured.densityPxPerCm ?? 0;
    // Half a percent: what rounding a layout to texels makes of it.
    kept.push({ what: 'density', value, limit: limits.densityPxPerCm, unit: 'px/cm', kept: value >= limits.densityPxPerCm * 0.995 });
  }
  const allowed = (f: Finding) => (limits.allow ?? []).some((a) => a === f.kind || a === f.id || a === `${f.kind}:${f.partName}`);
  const fails = (f: Finding) => f.severity === 'error' || (limits.failOn === 'warning' && f.severity === 'warning');
  return { limits: kept, open: findings.filter((f) => fails(f) && !f.waived && !allowed(f)) };
}

/** A limit in words: `5 200 triangles, over the limit of 5 000`. */
export function limitWords(l: LimitKept): string {
  const least = l.what === 'density';
  const how = l.kept ? (least ? 'at least' : 'within') : least ? 'under the least of' : 'over the limit of';
  return `${figure(l.value, 1)} ${l.unit}, ${how} ${figure(l.limit, 1)}`;
}
