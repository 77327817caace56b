import { determinant3, type Mat4, normalMatrix, transformPoint } from '../maths/mat4';
import { cornerNormals } from '../mesh/normals';
import { attribute, faceCount, type PolyMesh, triangleCount } from '../mesh/polymesh';
import type { Material } from '../surface/material';
import type { Slot, Texturing } from '../surface/texturing';
import { type LengthUnit, MM_PER } from '../units/lengths';

/** A part as an OBJ holds it. */
export interface ObjPart {
  name: string;
  mesh: PolyMesh;
  placements: readonly Mat4[];
  /** Material id, null for none. */
  material: string | null;
}

/** How an OBJ is written. */
export interface ObjOptions {
  unit: LengthUnit;
  /** Name of the MTL beside it, without a path. */
  library: string;
  materials: readonly Material[];
  /** File names of textures beside it, for the MTL. */
  textures?: { baseColour?: string; roughness?: string; metallic?: string; normal?: string; emissive?: string };
  /** Where pictures that came with files lie beside it, by blob: a material that has its own there names them in place of the set. */
  came?: (blob: string) => string | undefined;
  /** Faces leave as the triangles they were baked on; another triangulation would turn the normals of the map. */
  triangles?: boolean;
}

/** One word for names that end at a space. */
const word = (name: string): string => name.trim().replace(/\s+/g, '_') || 'unnamed';
const short = (x: number): string => String(Math.round(x * 1e6) / 1e6);

/**
 * A Wavefront OBJ and its MTL: n-gons as they are unless triangles are asked for, one object per copy (mirrored ones wound the other
 * way, so that they stay right side out), v up, normals per corner. The unit is written as a comment, for the format has none. The MTL carries the widely read physically based additions (Pr, Pm, Ke, norm, Ni).
 */
export function writeObj(title: string, parts: readonly ObjPart[], options: ObjOptions): { obj: string; mtl: string } {
  const k = 1 / MM_PER[options.unit];
  const ids = materialWords(options.materials);
  const lines = [`# ${title}, lengths in ${options.unit}`, `mtllib ${options.library}`];
  let [v0, t0, n0] = [1, 1, 1];
  for (const p of parts) {
    const { mesh } = p;
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const normals = cornerNormals(mesh);
    for (const [copy, m] of p.placements.entries()) {
      lines.push(`o ${word(p.placements.length > 1 ? `${p.name} ${copy + 1}` : p.name)}`);
      for (let v = 0; v < mesh.positions.length; v += 3) {
        const q = transformPoint(m, [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]]);
        lines.push(`v ${short(q[0] * k)} ${short(q[1] * k)} ${short(q[2] * k)}`);
      }
      const texture = uv ? shared(lines, 'vt', mesh.faceVert.length, (c) => [uv[2 * c], uv[2 * c + 1]]) : null;
      const turn = normalMatrix(m);
      const normal = shared(lines, 'vn', mesh.faceVert.length, (c) => {
        const [x, y, z] = [normals[3 * c], normals[3 * c + 1], normals[3 * c + 2]];
        const n = [0, 1, 2].map((r) => turn[r] * x + turn[4 + r] * y + turn[8 + r] * z);
        const l = Math.hypot(...n) || 1;
        return n.map((a) => a / l);
      });
      lines.push(p.material ? `usemtl ${ids.get(p.material) ?? 'none'}` : 'usemtl none');
      const mirrored = determinant3(m) < 0;
      const face = (corners: number[]) => {
        const words = corners.map((c) => `${v0 + mesh.faceVert[c]}/${texture ? t0 + texture.at[c] : ''}/${n0 + normal.at[c]}`);
        lines.push(`f ${(mirrored ? words.reverse() : words).join(' ')}`);
      };
      if (options.triangles) for (let t = 0; t < triangleCount(mesh); t++) face([...mesh.triangles.subarray(3 * t, 3 * t + 3)]);
      else
        for (let f = 0; f < faceCount(mesh); f++)
          face(Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => mesh.faceStart[f] + i));
      v0 += mesh.positions.length / 3;
      t0 += texture?.count ?? 0;
      n0 += normal.count;
    }
  }
  return { obj: `${lines.join('\n')}\n`, mtl: writeMtl(title, options) };
}

/** A word of its own for each material: two of one name are two all the same. */
function materialWords(materials: readonly Material[]): Map<string, string> {
  const taken = new Set<string>();
  return new Map(
    materials.map((m) => {
      const bare = word(m.name);
      let own = bare;
      for (let n = 2; taken.has(own); n++) own = `${bare}_${n}`;
      taken.add(own);
      return [m.id, own];
    }),
  );
}

/** Writes each different value once; says which each corner uses. */
function shared(lines: string[], kind: string, corners: number, value: (corner: number) => number[]): { at: Uint32Array; count: number } {
  const known = new Map<string, number>();
  const at = new Uint32Array(corners);
  for (let c = 0; c < corners; c++) {
    const text = value(c).map(short).join(' ');
    let i = known.get(text);
    if (i === undefined) {
      i = known.size;
      known.set(text, i);
      lines.push(`${kind} ${text}`);
    }
    at[c] = i;
  }
  return { at, count: known.size };
}

function writeMtl(title: string, { materials, textures = {}, came }: ObjOptions): string {
  const lines = [`# ${title}`];
  const rgb = (c: readonly number[]) => c.map(short).join(' ');
  const ids = materialWords(materials);
  for (const m of materials) {
    lines.push(
      '',
      `newmtl ${ids.get(m.id)}`,
      `Kd ${rgb(m.colour)}`,
      `Pr ${short(m.roughness)}`,
      `Pm ${short(m.metallic)}`,
      `Ni ${short(m.ior)}`,
    );
    if (m.transmission > 0) lines.push(`d ${short(1 - m.transmission)}`);
    if (m.coat > 0) lines.push(`Pc ${short(m.coat)}`, `Pcr ${short(m.coatRoughness)}`);
    if (m.emission > 0) lines.push(`Ke ${rgb(m.colour)}`);
    const own = came && m.texturing && cameLines(m.texturing, came);
    if (own) {
      lines.push(...own);
      continue;
    }
    if (textures.baseColour) lines.push(`map_Kd ${textures.baseColour}`);
    if (textures.roughness) lines.push(`map_Pr ${textures.roughness}`);
    if (textures.metallic) lines.push(`map_Pm ${textures.metallic}`);
    if (textures.normal) lines.push(`norm ${textures.normal}`);
    if (textures.emissive && m.emission > 0) lines.push(`map_Ke ${textures.emissive}`);
  }
  return `${lines.join('\n')}\n`;
}

/** What MTL calls the slots it has. */
const STATEMENT: Partial<Record<Slot, string>> = {
  baseColour: 'map_Kd',
  alpha: 'map_d',
  roughness: 'map_Pr',
  metallic: 'map_Pm',
  emission: 'map_Ke',
  normal: 'norm',
  height: 'map_Bump',
};
/** Channels as `-imfchan` names them. */
const CHANNELS = ['r', 'g', 'b', 'm'] as const;

/** Statements for pictures that came with a file, moved and scaled as they were (MTL’s v runs up); undefined where one is missing. */
function cameLines(t: Texturing, came: (blob: string) => string | undefined): string[] | undefined {
  const lines: string[] = [];
  for (const { picture, slot, channel, offset = [0, 0], scale = [1, 1], wrap } of t.uses) {
    const name = came(picture);
    const statement = STATEMENT[slot];
    if (!name) return undefined;
    if (!statement) continue;
    const up = [offset[0], 1 - scale[1] - offset[1]];
    const options = [
      ...(up[0] !== 0 || up[1] !== 0 ? [`-o ${short(up[0])} ${short(up[1])}`] : []),
      ...(scale[0] !== 1 || scale[1] !== 1 ? [`-s ${short(scale[0])} ${short(scale[1])}`] : []),
      ...(wrap?.includes('clamp') ? ['-clamp on'] : []),
      ...(channel !== undefined ? [`-imfchan ${CHANNELS[channel]}`] : []),
    ];
    lines.push([statement, ...options, name].join(' '));
  }
  return lines;
}
