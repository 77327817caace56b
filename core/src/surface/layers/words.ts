import { figure } from '../../units/lengths';
import { FIELDS, type Field, TOWARDS } from './fields';
import type { Layer } from './layer';
import { ALONG } from './place';

const percent = (x: number): string => `${figure(100 * x, x < 0.1 ? 1 : 0)} %`;
const mm = (x: number): string => `${figure(x, x < 1 ? 2 : 1)} mm`;

/** What is most worth knowing of a field, in a few words. */
export function fieldWords(f: Field): string {
  switch (f.kind) {
    case 'edges':
      return `${mm(f.width)} line on edges`;
    case 'worn':
      return `${percent(f.share)}, where rubbed`;
    case 'enclosed':
      return `${percent(f.share)}, in corners`;
    case 'facing':
      return `what faces ${TOWARDS[f.towards]}`;
    case 'span':
      return `to ${mm(Math.max(f.from, f.to))} of ${f.axis}`;
    case 'between':
      return 'from one point to another';
    case 'runs':
      return `runs of up to ${mm(f.length)}`;
    case 'clouds':
      return `clouds of ${mm(f.size)}`;
    case 'spots':
      return `spots of ${mm(f.size)}`;
    case 'strands':
      return `strands of ${mm(f.width)} along ${ALONG[f.along]}`;
    case 'scratches':
      return `${figure(f.count, 0)} a dm² of ${mm(f.length)}`;
    case 'rings':
      return `${figure(f.count, 1)} rings a cm`;
    case 'weave':
      return `threads of ${mm(f.thread)}`;
    case 'dents':
      return `bowls of ${mm(f.size)}`;
    case 'boards':
      return `${percent(f.share)}, each board its own`;
    case 'strokes':
      return f.strokes.length === 0 ? 'nothing painted yet' : f.strokes.length === 1 ? 'one stroke' : `${f.strokes.length} strokes`;
    case 'layer':
      return 'where another lies';
  }
}

/** Where a layer lies and how far it stands out, in a few words. */
export const layerWords = (l: Pick<Layer, 'mask' | 'look'>): string => `${lies(l)}${stands(l.look.relief ?? 0)}`;

const stands = (um: number): string =>
  um === 0 ? '' : ` · ${figure(Math.abs(um), um % 1 === 0 ? 0 : 1)} µm ${um > 0 ? 'raised' : 'deep'}`;
const lies = (l: Pick<Layer, 'mask'>): string =>
  l.mask.length === 0
    ? 'everywhere'
    : `${l.mask[0].inverted ? 'not ' : ''}${fieldWords(l.mask[0].field)}${l.mask.length > 1 ? ` and ${l.mask.length - 1} more` : ''}`;

/** What a layer needs of the bake that isn’t there, as a sentence; null where nothing is missing. */
export function lacking(l: Layer, has: { curvature: boolean; occlusion: boolean }): string | null {
  for (const { field } of l.mask) {
    const kind = FIELDS[field.kind];
    const needs = 'needs' in kind ? kind.needs : undefined;
    if (needs && !has[needs]) return `${l.name} follows the baked ${needs}, and none was baked.`;
  }
  return null;
}
