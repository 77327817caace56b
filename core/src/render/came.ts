import type { CamePicture, CamePictures } from '../io/glb-came';
import { decodeTexture, sceneTexture, withFactors } from '../io/textures';
import { attribute, type PolyMesh, withAttribute } from '../mesh/polymesh';
import type { Material } from '../surface/material';
import { isPlainlyLaid, picturesIn, placed, type TextureUse, type Texturing, textureIn } from '../surface/texturing';
import { plainSceneMaterial, type SceneMaterial, type SceneTexture } from './scene';

/** Whether all that a material is textured with is at hand. */
export const isAtHand = (m: Material, pictures: CamePictures): m is Material & { texturing: Texturing } =>
  m.texturing !== undefined && picturesIn(m.texturing).every((p) => pictures.has(p));

/** Materials as they came, as the tracer reads them; their textures are added to a list. */
export class CameLooks {
  private readonly known = new Map<string, number>();

  constructor(
    private readonly pictures: CamePictures,
    private readonly textures: SceneTexture[],
  ) {}

  /** @throws InputError where a picture can’t be read */
  of(m: Material & { texturing: Texturing }): SceneMaterial {
    const t = m.texturing;
    const plain = plainSceneMaterial(m);
    const [rough, metal] = [textureIn(t, 'roughness'), textureIn(t, 'metallic')];
    return {
      ...plain,
      roughness: t.roughness,
      metallic: t.metallic,
      colourMap: this.map(textureIn(t, 'baseColour'), 'base colour', t.baseColour.slice(0, 3)),
      ormMap: this.orm(rough, metal, t),
      normalMap: this.map(textureIn(t, 'normal'), 'normal', [1, 1, 1]),
    };
  }

  private keep(key: string, make: () => SceneTexture): number {
    const seen = this.known.get(key);
    if (seen !== undefined) return seen;
    const made = this.textures.push(make()) - 1;
    this.known.set(key, made);
    return made;
  }

  private map(use: TextureUse | undefined, what: 'base colour' | 'normal', factors: readonly number[]): number {
    if (!use) return -1;
    const { name, bytes } = this.pictures.get(use.picture) as CamePicture;
    return this.keep(`${what} ${use.picture} ${factors} ${use.wrap}`, () => ({
      ...withFactors(sceneTexture(name, bytes, what), factors, what),
      ...(use.wrap && { wrap: use.wrap }),
    }));
  }

  /** Roughness and metallic in one picture, whichever they came in. */
  private orm(rough: TextureUse | undefined, metal: TextureUse | undefined, t: Texturing): number {
    const some = rough ?? metal;
    if (!some) return -1;
    const key = `orm ${[rough, metal].map((u) => `${u?.picture} ${u?.channel}`)} ${t.roughness} ${t.metallic} ${some.wrap}`;
    return this.keep(key, () => {
      const read = [rough, metal].map((u) => {
        if (!u) return null;
        const { name, bytes } = this.pictures.get(u.picture) as CamePicture;
        return { channel: u.channel ?? 0, pixels: decodeTexture(name, bytes) };
      });
      const [width, height] = (['width', 'height'] as const).map((k) => Math.max(...read.map((r) => r?.pixels[k] ?? 0)));
      const data = new Uint8Array(3 * width * height).fill(255);
      for (const [k, r] of read.entries()) {
        const factor = k === 0 ? t.roughness : t.metallic;
        for (let y = 0; y < height; y++)
          for (let x = 0; x < width; x++)
            data[3 * (y * width + x) + k + 1] = Math.round(factor * (r ? valueAt(r, x / width, y / height) : 255));
      }
      return { width, height, channels: 3, data, ...(some.wrap && { wrap: some.wrap }) };
    });
  }
}

function valueAt({ channel, pixels }: { channel: number; pixels: ReturnType<typeof decodeTexture> }, x: number, y: number): number {
  const { width, height, channels, data } = pixels;
  // A grey picture says one thing in all its channels.
  const own = channels < 3 ? 0 : Math.min(channel, channels - 1);
  return data[channels * (Math.floor(y * height) * width + Math.floor(x * width)) + own];
}

/** Slots that a picture of the piece is drawn with. */
const DRAWN = ['baseColour', 'normal', 'roughness', 'metallic'] as const;

/** Which layout a material’s pictures lie on, and how: one for all, as nearly every file has it; others are named in `otherwise`. */
export function layoutFor(t: Texturing): { use: TextureUse | null; otherwise: TextureUse[] } {
  const uses = DRAWN.flatMap((slot) => textureIn(t, slot) ?? []);
  const use = uses[0] ?? null;
  const how = (u: TextureUse) => JSON.stringify([u.layout, u.offset, u.turn, u.scale]);
  return { use, otherwise: use ? uses.filter((u) => how(u) !== how(use)) : [] };
}

/** A mesh whose first layout is the one a material’s pictures lie on, moved as they are; null where it has no such layout. */
export function laidFor(mesh: PolyMesh, t: Texturing): PolyMesh | null {
  const { use } = layoutFor(t);
  if (!use) return mesh;
  const own = attribute(mesh, use.layout === 0 ? 'uv' : `uv${use.layout + 1}`, 'corner');
  if (!own) return null;
  if (use.layout === 0 && isPlainlyLaid(use)) return mesh;
  const data = new Float64Array(own.data.length);
  for (let i = 0; i < data.length; i += 2) [data[i], data[i + 1]] = placed(use, own.data[i], own.data[i + 1]);
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data });
}
