import { briefFor } from '@wellmorph/core/brief/brief';
import { type AssetDocument, newDocument, type Part } from '@wellmorph/core/pipeline/document';
import { stepOf } from '../../core/test/recipes';

const part = (id: string, move: [number, number, number]): Part => ({
  id,
  name: id,
  role: 'body',
  material: null,
  move,
  turnDegrees: [0, 0, 0],
  shape: { kind: 'recipe', steps: [stepOf('turned', { id: `${id}-turned` })] },
  weight: 1,
  declaredOpen: false,
});

/** A piece that forms, unwraps, bakes and draws in a moment. `seed` makes it one of its own: equal pieces share their results. */
export function smallPiece(name: string, seed: number, change: Partial<AssetDocument> = {}): AssetDocument {
  const document = newDocument(name, briefFor('game'));
  return {
    ...document,
    brief: { ...document.brief, limits: { ...document.brief.limits, textureSize: 128 } },
    parts: [part('cup', [0, 0, 0]), part('lid', [120, seed / 100, 0])],
    form: { ...document.form, counts: { 'cup-turned.sides': 12, 'lid-turned.sides': 12 }, highToleranceMm: 0.3 },
    bake: { ...document.bake, samples: 1, occlusionRays: 1 },
    shot: { ...document.shot, widthPx: 32, heightPx: 24 },
    render: { ...document.render, samples: 2 },
    ...change,
  };
}
