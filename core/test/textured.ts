import { Document, type Material, type Texture, type TextureInfo, WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, EXTTextureWebP, KHRTextureBasisu, KHRTextureTransform } from '@gltf-transform/extensions';
import { encodePng } from '../src/image/png';
import { cornerNormals } from '../src/mesh/normals';
import { attribute, makeMesh, type PolyMesh, withAttribute } from '../src/mesh/polymesh';
import { cube } from './shapes';

type Rgba = readonly [number, number, number, number?];

/** A square picture from a colour for every texel, x right and y down, 0 … 1. */
export function painted(side: number, channels: 3 | 4, colour: (x: number, y: number) => Rgba): Uint8Array {
  const data = new Uint8Array(channels * side * side);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++)
      data.set(
        colour((x + 0.5) / side, (y + 0.5) / side)
          .slice(0, channels)
          .map((c) => Math.round(255 * (c ?? 1))),
        channels * (y * side + x),
      );
  return encodePng({ width: side, height: side, channels, depth: 8, data });
}

/** Something that reads differently whichever way it is turned, mirrored or repeated. */
export const patchwork = (side: number, alpha?: number): Uint8Array =>
  painted(side, alpha === undefined ? 3 : 4, (x, y) => [
    0.25 + 0.5 * x,
    0.25 + 0.5 * y,
    0.5 + 0.25 * Math.sin(9 * x) * Math.cos(7 * y),
    alpha,
  ]);
/** Roughness in green, metallic in blue, as glTF packs them. */
export const finish = (side: number): Uint8Array => painted(side, 3, (x, y) => [1, 0.3 + 0.5 * y, 0.2 + 0.6 * x]);
/** Bumps that lean up to `most` from straight out, unit, Y up. */
export const bumps = (side: number, most = 0.4): Uint8Array =>
  painted(side, 3, (x, y) => {
    const [u, v] = [most * Math.sin(6.28318 * 2 * x), most * 0.7 * Math.cos(6.28318 * y)];
    const l = Math.hypot(u, v, 1);
    return [0.5 + (0.5 * u) / l, 0.5 + (0.5 * v) / l, 0.5 + 0.5 / l];
  });

/** A crate whose six faces lie side by side on the tile, hard edged; mm. */
export function crate(size: number): PolyMesh {
  const mesh = cube(size);
  const uv = new Float64Array(2 * mesh.faceVert.length);
  for (let f = 0; f < 6; f++)
    for (let k = 0; k < 4; k++) {
      const [x, y] = [(f % 3) + 0.05 + 0.9 * (k === 1 || k === 2 ? 1 : 0), Math.floor(f / 3) + 0.05 + 0.9 * (k > 1 ? 1 : 0)];
      uv.set([x / 3, y / 2], 8 * f + 2 * k);
    }
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });
}

/** The side of a drum, smooth, its picture laid round it `times` times; mm. */
export function drum(radius: number, height: number, sides: number, times: number, inward = 0): PolyMesh {
  const positions: number[] = [];
  const faceVert: number[] = [];
  const uv: number[] = [];
  for (let i = 0; i < sides; i++) {
    const a = (2 * Math.PI * i) / sides;
    positions.push(radius * Math.sin(a), inward, radius * Math.cos(a), radius * Math.sin(a), height - inward, radius * Math.cos(a));
    const j = (i + 1) % sides;
    faceVert.push(2 * i, 2 * j, 2 * j + 1, 2 * i + 1);
    uv.push((times * i) / sides, 0, (times * (i + 1)) / sides, 0, (times * (i + 1)) / sides, 1, (times * i) / sides, 1);
  }
  const faceStart = Array.from({ length: sides + 1 }, (_, f) => 4 * f);
  return makeMesh({ positions, faceStart, faceVert, attributes: [{ name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(uv) }] });
}

/** A flat pane standing up, its picture over all of it; mm. */
export const pane = (width: number, height: number): PolyMesh =>
  makeMesh({
    positions: [-width / 2, 0, 0, width / 2, 0, 0, width / 2, height, 0, -width / 2, height, 0],
    faceStart: [0, 4],
    faceVert: [0, 1, 2, 3],
    attributes: [{ name: 'uv', domain: 'corner', size: 2, data: Float64Array.from([0, 0, 1, 0, 1, 1, 0, 1]) }],
  });

/** What a textured file is made of. */
export interface TexturedOptions {
  name: string;
  mesh: PolyMesh;
  hardAngle?: number;
  /** A second layout as another first. */
  second?: PolyMesh;
  at?: readonly [number, number, number];
  mirror?: boolean;
  material(document: Document, picture: (name: string, bytes: Uint8Array, mime?: string) => Texture): Material;
}

/** A file as another program might write it: metres, triangles, a vertex for every corner, its pictures inside. */
export async function texturedGlb(options: TexturedOptions): Promise<Uint8Array<ArrayBuffer>> {
  const document = new Document();
  const buffer = document.createBuffer();
  const { mesh, second } = options;
  const accessor = (type: 'VEC2' | 'VEC3', values: number[]) =>
    document.createAccessor().setType(type).setArray(Float32Array.from(values)).setBuffer(buffer);
  const normals = cornerNormals(mesh, { hardAngle: options.hardAngle ?? 30 });
  const corners = [...mesh.triangles];
  const layout = (m: PolyMesh) => {
    const uv = attribute(m, 'uv', 'corner')?.data ?? [];
    return accessor(
      'VEC2',
      corners.flatMap((c) => [uv[2 * c], 1 - uv[2 * c + 1]]),
    );
  };
  const primitive = document
    .createPrimitive()
    .setMaterial(
      options.material(document, (name, bytes, mime = 'image/png') => {
        // glTF itself has PNG and JPEG; others are named by an extension.
        if (mime === 'image/webp') document.createExtension(EXTTextureWebP).setRequired(true);
        if (mime === 'image/ktx2') document.createExtension(KHRTextureBasisu).setRequired(true);
        return document
          .createTexture(name)
          .setMimeType(mime)
          .setImage(bytes as Uint8Array<ArrayBuffer>);
      }),
    )
    .setAttribute(
      'POSITION',
      accessor(
        'VEC3',
        corners.flatMap((c) => [0, 1, 2].map((k) => mesh.positions[3 * mesh.faceVert[c] + k] / 1000)),
      ),
    )
    .setAttribute(
      'NORMAL',
      accessor(
        'VEC3',
        corners.flatMap((c) => [0, 1, 2].map((k) => normals[3 * c + k])),
      ),
    )
    .setAttribute('TEXCOORD_0', layout(mesh));
  if (second) primitive.setAttribute('TEXCOORD_1', layout(second));
  const node = document
    .createNode(options.name)
    .setMesh(document.createMesh(options.name).addPrimitive(primitive))
    .setTranslation((options.at ?? [0, 0, 0]).map((x) => x / 1000) as [number, number, number])
    .setScale([options.mirror ? -1 : 1, 1, 1]);
  document.getRoot().setDefaultScene(document.createScene().addChild(node));
  return new WebIO().registerExtensions(ALL_EXTENSIONS).writeBinary(document) as Promise<Uint8Array<ArrayBuffer>>;
}

/** Moves, turns and scales a use as KHR_texture_transform does. */
export function move(
  document: Document,
  info: TextureInfo | null,
  how: { offset?: [number, number]; rotation?: number; scale?: [number, number]; layout?: number },
): void {
  const transform = document.createExtension(KHRTextureTransform).createTransform();
  if (how.offset) transform.setOffset(how.offset);
  if (how.rotation !== undefined) transform.setRotation(how.rotation);
  if (how.scale) transform.setScale(how.scale);
  if (how.layout !== undefined) info?.setTexCoord(how.layout);
  info?.setExtension('KHR_texture_transform', transform);
}

/** A crate, mirrored by its node; a drum whose picture goes round it three times; and a clear pane: each with its pictures. */
export const threeTextured = (): Promise<Uint8Array<ArrayBuffer>>[] => [
  texturedGlb({
    name: 'Crate',
    mesh: crate(120),
    mirror: true,
    material: (d, picture) =>
      d
        .createMaterial('Crate paint')
        .setBaseColorTexture(picture('crate_colour', patchwork(256)))
        .setMetallicRoughnessTexture(picture('crate_finish', finish(128)))
        .setNormalTexture(picture('crate_normal', bumps(256))),
  }),
  texturedGlb({
    name: 'Drum',
    mesh: drum(60, 150, 32, 3),
    hardAngle: 60,
    at: [200, 0, 0],
    material: (d, picture) =>
      d
        .createMaterial('Drum paint')
        .setBaseColorTexture(picture('drum_colour', patchwork(256)))
        .setBaseColorFactor([0.8, 0.6, 0.4, 1])
        .setMetallicFactor(0)
        .setRoughnessFactor(0.7)
        .setNormalTexture(picture('drum_normal', bumps(256, 0.25))),
  }),
  texturedGlb({
    name: 'Pane',
    mesh: pane(150, 100),
    at: [0, 0, 150],
    material: (d, picture) =>
      d
        .createMaterial('Tinted glass')
        .setAlphaMode('BLEND')
        .setBaseColorTexture(picture('pane_colour', patchwork(128, 0.4)))
        .setMetallicFactor(0)
        .setRoughnessFactor(0.1),
  }),
];
