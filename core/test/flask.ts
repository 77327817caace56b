import { Document, WebIO } from '@gltf-transform/core';
import { cornerNormals } from '../src/mesh/normals';
import { planeOffsets } from '../src/mesh/offset';
import { makeMesh, type PolyMesh } from '../src/mesh/polymesh';

/** Radius and height of a turned outline, mm, from the middle of its foot to the middle of its top. */
type Outline = readonly (readonly [number, number])[];

const arc = (n: number, centre: readonly [number, number], r: number, from: number, to: number): [number, number][] =>
  Array.from({ length: n + 1 }, (_, i) => {
    const a = ((from + ((to - from) * i) / n) * Math.PI) / 180;
    return [centre[0] + r * Math.cos(a), centre[1] + r * Math.sin(a)];
  });
/** From the wall into the neck: half a wave. */
const shoulder = (n: number): [number, number][] =>
  Array.from({ length: n + 1 }, (_, i) => [27 + 13 * Math.cos((Math.PI * i) / n), 70 + (30 * i) / n]);
/** A flask with a bore for its stopper. */
const flask = (corner: number, blend: number, lip: number): Outline => [
  [0, 0],
  ...arc(corner, [34, 6], 6, -90, 0),
  [40, 20],
  [40, 33],
  [40, 46],
  [40, 60],
  ...shoulder(blend),
  ...arc(lip, [12.5, 122.5], 1.5, 0, 90),
  [10, 124],
  [9, 123],
  [9, 104],
  [0, 104],
];
const stopper = (edge: number): Outline => [
  [0, 104.5],
  [8.4, 104.5],
  [8.4, 124.2],
  [12, 124.2],
  ...arc(edge, [11.5, 129.5], 1.5, 0, 90),
  [0, 131],
];

/** An outline turned into `n` sides; ends on the axis are one vertex. */
function turned(outline: Outline, n: number): PolyMesh {
  const inner = outline.slice(1, -1);
  const positions = [
    0,
    outline[0][1],
    0,
    ...inner.flatMap(([r, y]) =>
      Array.from({ length: n }, (_, i) => {
        const a = (2 * Math.PI * i) / n;
        return [r * Math.cos(a), y, -r * Math.sin(a)];
      }).flat(),
    ),
    0,
    outline[outline.length - 1][1],
    0,
  ];
  const at = (row: number, i: number) => 1 + row * n + (i % n);
  const last = positions.length / 3 - 1;
  const faces: number[][] = [];
  for (let i = 0; i < n; i++) faces.push([0, at(0, i + 1), at(0, i)]);
  for (let row = 0; row < inner.length - 1; row++)
    for (let i = 0; i < n; i++) faces.push([at(row, i), at(row, i + 1), at(row + 1, i + 1), at(row + 1, i)]);
  for (let i = 0; i < n; i++) faces.push([at(inner.length - 1, i), at(inner.length - 1, i + 1), last]);
  let end = 0;
  return makeMesh({ positions, faceStart: [0, ...faces.map((f) => (end += f.length))], faceVert: faces.flat() });
}

/** Painted: the label, a third round between 20 and 60 mm. One face of it was missed, one behind taken by mistake. */
function labelled(mesh: PolyMesh, sides: number): Uint8Array {
  const out = new Uint8Array(mesh.faceStart.length - 1);
  for (let f = 0; f < out.length; f++) {
    const centre = [0, 0, 0];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
      for (let k = 0; k < 3; k++) centre[k] += mesh.positions[3 * mesh.faceVert[c] + k] / (mesh.faceStart[f + 1] - mesh.faceStart[f]);
    const [x, y, z] = centre;
    if (Math.hypot(x, z) < 36 || y < 20 || y > 60) continue;
    const side = Math.floor((Math.atan2(-z, x) / (2 * Math.PI) + 1) * sides) % sides;
    const row = y < 33 ? 0 : y < 46 ? 1 : 2;
    const front = side >= sides / 2 + 1 && side < (5 * sides) / 6;
    out[f] = Number(front ? !(side === Math.round(0.66 * sides) && row === 1) : side === Math.round(0.25 * sides) && row === 2);
  }
  return out;
}
/** What was painted with, as light: an orange and a blue. */
const PAINT = [
  [0.05, 0.2, 0.6, 1],
  [0.8, 0.3, 0.02, 1],
];

/**
 * A flask and its stopper as somebody else’s program would write them, in metres, without a layout.
 *
 * @param which the light mesh, or the dense one it is baked from
 * @param short how far the light flask lies inside the dense one, mm
 */
export async function flaskGlb(which: 'low' | 'high', short = 1.2): Promise<Uint8Array<ArrayBuffer>> {
  const low = which === 'low';
  const sides = low ? 24 : 160;
  const body = low ? turned(flask(2, 4, 1), sides) : turned(flask(12, 40, 10), sides);
  if (low) {
    const out = planeOffsets(body);
    for (let i = 0; i < out.length; i++) body.positions[i] -= short * out[i];
  }
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene('Flask');
  const material = document.createMaterial('Enamel').setBaseColorFactor([0.3, 0.4, 0.35, 1]).setRoughnessFactor(0.4).setMetallicFactor(0);
  const put = (name: string, mesh: PolyMesh, paint: Uint8Array | null) => {
    const normals = cornerNormals(mesh, { hardAngle: 50 });
    const corners = Array.from(mesh.triangles);
    const accessor = (type: 'VEC3' | 'VEC4', values: number[]) =>
      document.createAccessor().setType(type).setBuffer(buffer).setArray(Float32Array.from(values));
    const of = (from: ArrayLike<number>, i: number, scale = 1) => [0, 1, 2].map((k) => scale * from[3 * i + k]);
    const primitive = document
      .createPrimitive()
      .setMaterial(material)
      .setAttribute(
        'POSITION',
        accessor(
          'VEC3',
          corners.flatMap((c) => of(mesh.positions, mesh.faceVert[c], 0.001)),
        ),
      )
      .setAttribute(
        'NORMAL',
        accessor(
          'VEC3',
          corners.flatMap((c) => of(normals, c)),
        ),
      );
    if (paint)
      primitive.setAttribute(
        'COLOR_0',
        accessor(
          'VEC4',
          corners.flatMap((_, i) => PAINT[paint[mesh.triangleFace[Math.floor(i / 3)]]]),
        ),
      );
    scene.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
  };
  put('Flask', body, low ? null : labelled(body, sides));
  const plug = low ? turned(stopper(1), 16) : turned(stopper(10), 128);
  put('Stopper', plug, low ? null : new Uint8Array(plug.faceStart.length - 1));
  return new Uint8Array(await new WebIO().writeBinary(document)) as Uint8Array<ArrayBuffer>;
}
