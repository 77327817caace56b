import { textureBytes } from '../brief/advice';
import { hasClearMap, hasCoatMap, hasRelief } from '../surface/material';
import { picturesIn, type Slot, textureIn } from '../surface/texturing';
import { cameMaterials, isAllCame } from './came';
import { type AssetDocument, canBake, composedMaterials, deliveredParts, gatherOf, projectOf, usedMaterials } from './document';
import { overBy } from './prints';

/** A map that goes out with each set, and its bytes a texel on the card, uncompressed. */
export interface DeliveredMap {
  name: 'base colour' | 'occlusion, roughness, metallic' | 'normal' | 'emission' | 'clear coat' | 'light let through';
  bytes: number;
}

/**
 * The maps a set carries when it is handed over: base colour and occlusion-roughness-metallic always (a part without a material is
 * not let out), the normals where anything can be baked or stands out, emission where something glows, coat and the light let through where a
 * layer or a print changes them. Cards keep three channels in four.
 */
export function deliveredMaps(document: AssetDocument): DeliveredMap[] {
  const maps: DeliveredMap[] = [
    { name: 'base colour', bytes: 4 },
    { name: 'occlusion, roughness, metallic', bytes: 4 },
  ];
  if (document.bake.normal && (document.parts.length === 0 || canBake(document)))
    maps.push({ name: 'normal', bytes: document.bake.bits === 16 ? 8 : 4 });
  const materials = composedMaterials(document);
  const over = overBy(document);
  if (maps.length === 2 && (over.relief || hasRelief(materials))) maps.push({ name: 'normal', bytes: 4 });
  if (usedMaterials(document).some((m) => m.emission > 0)) maps.push({ name: 'emission', bytes: 4 });
  if (over.coat || hasCoatMap(materials)) maps.push({ name: 'clear coat', bytes: 4 });
  if (over.clear || hasClearMap(materials)) maps.push({ name: 'light let through', bytes: 1 });
  return maps;
}

/** Video memory of all sets of an asset with all their levels, and of pictures that came with files and go out with it as they are, MB (10⁶ bytes). */
export function textureMemoryMB(document: AssetDocument): number {
  const { textureSize, textureSets } = document.brief.limits;
  const project = projectOf(document);
  const photographed = project.on ? textureBytes(project.size, project.size, 4) : 0;
  if (project.on && deliveredParts(document).every((p) => !project.left.includes(p.id))) return photographed / 1e6;
  const gather = gatherOf(document);
  if (gather.on) {
    const used = usedMaterials(document);
    const has = (slot: Slot) => used.some((m) => m.texturing && textureIn(m.texturing, slot));
    const maps = 2 + Number(has('normal')) + Number(has('emission') || used.some((m) => m.emission > 0));
    return (maps * textureBytes(gather.size, gather.size, 4)) / 1e6;
  }
  const own = isAllCame(document) ? [] : deliveredMaps(document);
  const bytes = own.reduce((n, m) => n + textureBytes(textureSize, textureSize, m.bytes), 0);
  const known = new Map(document.sources.flatMap((s) => s.textures ?? []).map((t) => [t.blob, t]));
  const came = new Set(cameMaterials(document).flatMap((m) => picturesIn(m.texturing)));
  const brought = [...came].reduce((n, blob) => {
    const { width = 0, height = 0 } = known.get(blob) ?? {};
    return n + textureBytes(width, height, 4);
  }, 0);
  return (photographed + textureSets * bytes + brought) / 1e6;
}
