import { eachTextureInfo } from '../surface/texturing';
import { figure } from '../units/lengths';
import type { GltfJson } from './glb-check';

type Plain = Record<string, unknown>;
const record = (x: unknown): Plain => (typeof x === 'object' && x !== null ? (x as Plain) : {});

/** Extensions of materials whose looks are not carried, in words. */
const LOOKS: Record<string, string> = {
  KHR_materials_specular: 'specular tint',
  KHR_materials_sheen: 'sheen',
  KHR_materials_iridescence: 'iridescence',
  KHR_materials_anisotropy: 'anisotropy',
  KHR_materials_volume: 'absorption inside',
  KHR_materials_dispersion: 'dispersion',
  KHR_materials_diffuse_transmission: 'light through thin walls',
  KHR_materials_unlit: 'being unlit',
  KHR_materials_pbrSpecularGlossiness: 'specular and glossiness',
};
const count = (n: number, one: string, many = `${one}s`): string => (n === 1 ? `a ${one}` : `${n} ${many}`);
const list = (words: readonly string[]): string =>
  words.length < 2 ? words.join('') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1]}`;

/**
 * What a glTF has that is not carried on, each kind in one sentence, so that nothing is lost in silence. Textures are told by whoever
 * takes the model over: some keep them.
 */
export function leftOut(json: GltfJson): string[] {
  const gltf = json as GltfJson & { skins?: unknown[]; animations?: unknown[]; cameras?: unknown[] };
  const out: string[] = [];
  const primitives = (gltf.meshes ?? []).flatMap((m) => m.primitives);
  if (gltf.skins?.length)
    out.push(`${capital(count(gltf.skins.length, 'skeleton'))} with its joints was left out: what it moves stands as it was bound.`);
  if (gltf.animations?.length) out.push(`${capital(count(gltf.animations.length, 'animation'))} ${is(gltf.animations.length)} left out.`);
  if (primitives.some((p) => (p as { targets?: unknown[] }).targets?.length))
    out.push('Morphs were left out: the shape is the one without them.');
  const groups = (gltf.nodes ?? []).filter((n) => n.children?.length && n.mesh === undefined).length;
  if (groups > 0)
    out.push(
      `${capital(count(groups, 'group'))} ${is(groups)} dissolved; parts stand where they stood in ${groups === 1 ? 'it' : 'them'}.`,
    );
  const coloured = primitives.filter((p) => Object.keys(p.attributes).some((a) => a.startsWith('COLOR_'))).length;
  if (coloured > 0) out.push('Colours of vertices are kept and written again; traced pictures are drawn without them.');
  if (primitives.some((p) => p.attributes.TEXCOORD_1 !== undefined))
    out.push('Layouts beside the first are kept and written again; baking uses the first.');
  const all = gltf.materials ?? [];
  // What has textures is handed on word for word.
  const materials = all.filter((m) => !isTextured(m));
  const both = materials.filter((m) => m.doubleSided === true).length;
  if (both > 0)
    out.push(
      `${capital(count(both, 'material'))} ${both === 1 ? 'is' : 'are'} seen from both sides in the file; here the front is what counts.`,
    );
  const looks = Object.entries(LOOKS).filter(([e]) => materials.some((m) => record(m.extensions)[e] !== undefined));
  if (looks.length > 0)
    out.push(`Of its materials ${list(looks.map(([, words]) => words))} ${looks.length === 1 ? 'was' : 'were'} left out.`);
  if (all.some((m) => m.emissiveTexture !== undefined))
    out.push('Where a picture says what glows, it is shown and handed on; in a traced picture it gives no light.');
  if ((gltf.extensionsUsed ?? []).includes('KHR_materials_variants')) out.push('Of the looks it can be given, the first is taken.');
  const formats = new Set(
    (gltf.images ?? []).map((i) =>
      /ktx2/.test(i.mimeType ?? i.uri ?? '') ? 'KTX2' : /webp/.test(i.mimeType ?? i.uri ?? '') ? 'WebP' : '',
    ),
  );
  formats.delete('');
  if (formats.size > 0) out.push(`Pictures in ${list([...formats])} are kept and handed on; they can’t be measured or drawn anew here.`);
  return out;
}

/** Whether a material names any texture. */
function isTextured(material: Record<string, unknown>): boolean {
  let found = false;
  eachTextureInfo(material, () => {
    found = true;
  });
  return found;
}

/** That triangles without any extent were left out, of how many. */
export function droppedWords(dropped: number, of: number): string {
  const [n, all] = [dropped, of].map((x) => figure(x, 0));
  return `${n} of its ${all} triangles ${dropped === 1 ? 'has' : 'have'} corners in one place and ${is(dropped)} left out.`;
}

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const is = (n: number): string => (n === 1 ? 'was' : 'were');
