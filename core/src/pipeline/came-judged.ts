import { layoutName } from '../gather/prepare';
import type { Pixels } from '../image/png';
import type { CamePictures } from '../io/glb-came';
import { pictureSize } from '../io/head';
import { decodeTexture } from '../io/textures';
import { triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { isColour, isPlainlyLaid, placed, SLOTS, type Slot, type TextureUse, type Texturing } from '../surface/texturing';
import { checkpoint, QUIET, type Task } from '../task';
import { figure } from '../units/lengths';
import type { AssetDocument, Material } from './document';
import type { PartMesh } from './form';

/** A picture that came with a file, measured on the piece. */
export interface CameMeasured {
  blob: string;
  name: string;
  /** px; null where it can’t be read. */
  size: [number, number] | null;
  /** Whether it holds colours, which are stored as sRGB, or data. */
  space: 'sRGB' | 'linear';
  /** What it says, and of which materials. */
  says: string[];
  materials: string[];
  /** px/cm where it is laid on most sparsely and on the whole; null where nothing has it. */
  least: number | null;
  mean: number | null;
  /** Share of its texels that no face shows. */
  unusedShare: number;
  /** Video memory with all its levels, MB. */
  memoryMB: number;
  /** What is wrong with it, worst first. */
  faults: { level: 'near' | 'over' | 'ok'; sentence: string }[];
}

/** So many times what the closest view wants is wasted: common practice, no source. */
const WASTED = 2;
/** A picture of which less than this share is seen is worth saying: ours to choose. */
const SEEN_LEAST = 0.5;
/** Side of the raster that is filled with what faces show. */
const RASTER = 256;

interface Used {
  use: TextureUse;
  material: Material & { texturing: Texturing };
  meshes: PolyMesh[];
}

/**
 * Measures every picture that materials came with where it lies, and looks for what is usually wrong: too fine or too coarse for the closest
 * view, colour and data taken for each other, alpha that nobody reads or that is missing, texels on no face.
 *
 * @param formed the parts with the layouts that files brought @param wanted px/cm that the closest view asks for
 */
export function judgeCame(
  document: AssetDocument,
  formed: readonly PartMesh[],
  pictures: CamePictures,
  wanted: number,
  task: Task = QUIET,
): CameMeasured[] {
  const of = new Map<string, Used[]>();
  for (const material of document.materials) {
    const { texturing } = material;
    if (!texturing) continue;
    const meshes = formed.filter((p) => document.parts.find((d) => d.id === p.id)?.material === material.id).map((p) => p.mesh);
    if (meshes.length === 0) continue;
    for (const use of texturing.uses)
      of.set(use.picture, [...(of.get(use.picture) ?? []), { use, material: { ...material, texturing }, meshes }]);
  }
  return [...of].map(([blob, uses], i) => {
    checkpoint(task);
    task.progress(i / of.size, 'measuring pictures');
    return measured(blob, uses, pictures, wanted);
  });
}

function measured(blob: string, uses: readonly Used[], pictures: CamePictures, wanted: number): CameMeasured {
  const found = pictures.get(blob);
  const size = found ? pictureSize(found.bytes) : null;
  const faults: CameMeasured['faults'] = [];
  let pixels: Pixels | null = null;
  if (found)
    try {
      pixels = decodeTexture(found.name, found.bytes);
    } catch (error) {
      faults.push({ level: 'near', sentence: (error as Error).message });
    }
  const slots = [...new Set(uses.map((u) => u.use.slot))];
  const space = slots.some(isColour) ? 'sRGB' : 'linear';
  const dense = size ? densities(uses, size) : null;
  const unusedShare = unused(uses);
  const memoryMB = size ? (size[0] * size[1] * 4 * 4) / 3 / 1e6 : 0;
  if (!dense && size) faults.push({ level: 'near', sentence: 'No part that has it has a layout for it: it shows one of its colours.' });
  if (dense && size) {
    if (dense.least < 0.98 * wanted)
      faults.push({
        level: 'near',
        sentence: `${figure(dense.least, 1)} px/cm where it is laid on most sparsely; the closest view wants ${figure(wanted, 1)}.`,
      });
    else if (dense.least > WASTED * wanted) {
      const down = 2 ** Math.floor(Math.log2(dense.least / wanted));
      faults.push({
        level: 'ok',
        sentence: `${figure(dense.least, 1)} px/cm are ${figure(dense.least / wanted, 1)} times what shows: ${figure(Math.max(1, size[0] / down), 0)} × ${figure(Math.max(1, size[1] / down), 0)} px would do, and free ${figure(memoryMB * (1 - 1 / down ** 2), 1)} MB.`,
      });
    }
  }
  if (slots.some(isColour) && slots.some((s) => !isColour(s) && s !== 'alpha' && s !== 'other'))
    faults.push({
      level: 'over',
      sentence: `It is read as colour (${words(slots.filter(isColour))}) and as data (${words(slots.filter((s) => !isColour(s)))}); one of the two is wrong.`,
    });
  if (pixels) faults.push(...contents(pixels, slots, uses, found?.bytes ?? new Uint8Array()));
  if (dense && unusedShare > 1 - SEEN_LEAST)
    faults.push({ level: 'ok', sentence: `${figure(100 * unusedShare, 0)} % of its texels are on no face.` });
  const rank = { over: 0, near: 1, ok: 2 };
  return {
    blob,
    name: found?.name ?? 'missing',
    size: size && [size[0], size[1]],
    space,
    says: slots.map((s) => SLOTS[s]),
    materials: [...new Set(uses.map((u) => u.material.name))],
    least: dense?.least ?? null,
    mean: dense?.mean ?? null,
    unusedShare,
    memoryMB,
    faults: faults.sort((a, b) => rank[a.level] - rank[b.level]),
  };
}

const words = (slots: readonly Slot[]): string => slots.map((s) => SLOTS[s]).join(', ');

/** The layout of a mesh that a use lies on, in its picture; null where the mesh has none. */
function laidOn(mesh: PolyMesh, use: TextureUse): ((corner: number) => [number, number]) | null {
  const uv = attribute(mesh, layoutName(use.layout), 'corner')?.data;
  if (!uv) return null;
  return isPlainlyLaid(use) ? (c) => [uv[2 * c], uv[2 * c + 1]] : (c) => placed(use, uv[2 * c], uv[2 * c + 1]);
}

/** px/cm by area: on the whole, and below which a twentieth of the surface lies. */
function densities(uses: readonly Used[], [w, h]: readonly [number, number]): { least: number; mean: number } | null {
  const list: { density: number; area: number }[] = [];
  for (const { use, meshes } of uses)
    for (const mesh of meshes) {
      const at = laidOn(mesh, use);
      if (!at) continue;
      for (let t = 0; t < triangleCount(mesh); t++) {
        const [a, b, c] = [0, 1, 2].map((k) => at(mesh.triangles[3 * t + k]));
        const flat = (Math.abs((b[0] - a[0]) * (c[1] - a[1]) - (c[0] - a[0]) * (b[1] - a[1])) / 2) * w * h;
        const area = triangleArea(mesh, t);
        if (area > 0) list.push({ density: 10 * Math.sqrt(flat / area), area });
      }
    }
  if (list.length === 0) return null;
  list.sort((a, b) => a.density - b.density);
  const whole = list.reduce((n, x) => n + x.area, 0);
  let [seen, least] = [0, list[0].density];
  for (const x of list) {
    least = x.density;
    seen += x.area;
    if (seen >= 0.05 * whole) break;
  }
  return { least, mean: list.reduce((n, x) => n + x.density * x.area, 0) / whole };
}

/** Share of a picture on no face. */
function unused(uses: readonly Used[]): number {
  const seen = new Uint8Array(RASTER * RASTER);
  for (const { use, meshes } of uses)
    for (const mesh of meshes) {
      const at = laidOn(mesh, use);
      if (!at) continue;
      for (let t = 0; t < triangleCount(mesh); t++)
        fill(
          seen,
          [0, 1, 2].map((k) => at(mesh.triangles[3 * t + k])),
        );
    }
  return 1 - seen.reduce((n, s) => n + s, 0) / seen.length;
}

function fill(seen: Uint8Array, p: readonly (readonly [number, number])[]): void {
  const [[ax, ay], [bx, by], [cx, cy]] = p.map(([x, y]) => [x * RASTER, y * RASTER]);
  const d = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay);
  const [x0, x1] = [Math.floor(Math.min(ax, bx, cx)), Math.floor(Math.max(ax, bx, cx))];
  const [y0, y1] = [Math.floor(Math.min(ay, by, cy)), Math.floor(Math.max(ay, by, cy))];
  // What goes round more than once shows all of it.
  if (x1 - x0 > 4 * RASTER || y1 - y0 > 4 * RASTER) {
    seen.fill(1);
    return;
  }
  const wrapped = (i: number) => ((i % RASTER) + RASTER) % RASTER;
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const [px, py] = [x + 0.5, y + 0.5];
      const u = ((px - ax) * (cy - ay) - (cx - ax) * (py - ay)) / d;
      const v = ((bx - ax) * (py - ay) - (px - ax) * (by - ay)) / d;
      if (u >= 0 && v >= 0 && u + v <= 1) seen[wrapped(y) * RASTER + wrapped(x)] = 1;
    }
}

/** What its texels say of it. */
function contents(p: Pixels, slots: readonly Slot[], uses: readonly Used[], bytes: Uint8Array): CameMeasured['faults'] {
  const out: CameMeasured['faults'] = [];
  const n = p.width * p.height;
  const step = Math.max(1, Math.floor(n / 40_000));
  let [count, strange, clear] = [0, 0, 0];
  const sum = [0, 0, 0];
  for (let i = 0; i < n; i += step) {
    count++;
    const o = p.channels * i;
    if (p.channels >= 3) {
      const v = [0, 1, 2].map((k) => p.data[o + k]);
      for (let k = 0; k < 3; k++) sum[k] += v[k];
      const l = Math.hypot(...v.map((x) => x / 127.5 - 1));
      if (l < 0.8 || l > 1.2 || v[2] < 120) strange++;
    }
    if (p.channels === 4 && p.data[o + 3] < 250) clear++;
  }
  const normal = slots.includes('normal') || slots.includes('coatNormal');
  const [red, green] = sum.map((s) => s / Math.max(1, count));
  if (normal && p.channels < 3)
    out.push({ level: 'over', sentence: `It has ${p.channels} channel${p.channels > 1 ? 's' : ''}; directions need three.` });
  else if (normal && red > 175 && green > 175 && strange > 0.5 * count)
    out.push({
      level: 'over',
      sentence: `It was stored with a gamma: straight out is ${figure(red, 0)}, ${figure(green, 0)} in it and should be 128, 128. Save it again as data.`,
    });
  else if (normal && strange > 0.1 * count)
    out.push({ level: 'over', sentence: `${figure((100 * strange) / count, 0)} % of its texels are no directions: it is no normal map.` });
  if (!slots.some(isColour) && saysColour(bytes))
    out.push({ level: 'ok', sentence: 'It says of itself that it is colour; here it is read as the data it is, as glTF has it.' });
  const asColour = uses.filter((u) => u.use.slot === 'baseColour');
  if (asColour.length > 0 && clear > 0.001 * count && asColour.every((u) => u.material.texturing.alpha === 'opaque'))
    out.push({
      level: 'near',
      sentence: `${figure((100 * clear) / count, 0)} % of its texels are clear, and its material is opaque: its alpha is lost.`,
    });
  if (uses.some((u) => u.use.slot === 'alpha' && u.use.channel === 3) && p.channels !== 4 && p.channels !== 2)
    out.push({ level: 'near', sentence: 'Its material is cut out or clear by its alpha, and it has none.' });
  return out;
}

/** Whether a PNG carries a note that it is colour (PNG specification, §11.3.2: gAMA, iCCP, sRGB). */
function saysColour(b: Uint8Array): boolean {
  if (b[0] !== 0x89 || b[1] !== 0x50) return false;
  const view = new DataView(b.buffer, b.byteOffset, b.byteLength);
  for (let at = 8; at + 12 <= b.length; ) {
    const name = String.fromCharCode(b[at + 4], b[at + 5], b[at + 6], b[at + 7]);
    if (name === 'IDAT') return false;
    if (name === 'iCCP' || name === 'sRGB') return true;
    if (name === 'gAMA') return view.getUint32(at + 8) !== 100_000;
    at += 12 + view.getUint32(at);
  }
  return false;
}
